"""What the log says of people and of a workshop's own settings."""

from django.test import SimpleTestCase

from calm_heron.people import words
from calm_heron.workshops.models import Role
from tests.sentences import Sentences
from wood.units import METRIC, SYSTEMS


class InTheLog(Sentences, SimpleTestCase):
    DATA = {
        "founded": {"name": "The bench room"},
        "invited": {"role": Role.HELPER},
        "withdrawn": {"role": Role.HELPER},
        "new_password": {},
        "joined": {"role": Role.MAKER},
        "left": {"before": Role.VIEWER},
        "role": {"role": Role.MAKER, "before": Role.HELPER},
        "renamed": {"before": "The shed", "name": "The bench room"},
        "clock": {"time_zone": "Europe/Oslo", "language": "en-GB"},
        "written": {"scale": "kg", "cut_to": 32},
        "units": {"units": "inch"},
    }

    def said(self, what: str, **data) -> str:
        sentence = words.LOG[what]
        data = {"subject": "Ada Ash", **self.DATA[what], **data}
        return sentence.format(**data) if isinstance(sentence, str) else sentence(data, METRIC)

    def test_every_deed_has_its_sentence(self):
        self.assertEqual(set(self.DATA), set(words.LOG))
        said = [self.said(what) for what in words.LOG]
        self.assert_clean(*said)
        self.assertEqual(len(set(said)), len(said))

    def test_every_role_is_named_in_words(self):
        for role in Role:
            self.assertIn(role.name.lower(), self.said("joined", role=role))
            self.assertIn(role.name.lower(), self.said("invited", role=int(role)))

    def test_a_new_role_says_what_it_was_before(self):
        self.assertEqual(self.said("role"), "Ada Ash is now maker, helper before")

    def test_units_are_named_as_on_their_page(self):
        for key in SYSTEMS:
            self.assertIn(SYSTEMS[key].name, self.said("units", units=key))
