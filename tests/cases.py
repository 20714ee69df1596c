"""What tests stand on that need more than Django's own: tests that commit, and tests that begin with the demo workshop."""

from django.test import TestCase, TransactionTestCase

from tests import databases


class Prepared:
    """A class of tests that runs in a copy of one of the prepared databases."""

    database = databases.EMPTY

    @classmethod
    def setUpClass(cls) -> None:
        databases.use(cls.database)
        cls.addClassCleanup(databases.use, databases.EMPTY)
        super().setUpClass()


class Committing(Prepared, TransactionTestCase):
    """Tests that really commit, as two people at once do: afterwards the database is as it was before."""

    def _fixture_teardown(self) -> None:
        databases.copy_anew(self.database)


class DemoCase(Prepared, TestCase):
    """Tests inside a transaction that begin with the demo workshop loaded."""

    database = databases.DEMO
