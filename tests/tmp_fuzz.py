import random
from unittest import mock
from tests.test_doors import Hostile as Base
class Fuzz(Base):
    def test_no_field_brings_an_answer_down(self):
        with mock.patch.object(random.Random, "sample", lambda self, population, k: list(population)):
            super().test_no_field_brings_an_answer_down()
    test_no_encoding_brings_an_answer_down = None
del Base
