"""A workshop with a chamber and a lot of green maple, for the tests of loads."""

from datetime import timedelta

from django.test import TestCase
from django.urls import reverse
from django.utils import timezone

from calm_heron.kiln import actions
from calm_heron.kiln.models import Load
from tests.factories import make_lot, make_owner

LIMITS = {
    "name": "Lean-to",
    "kind": "dehumidifier",
    "place": None,
    "load_m3": 1.0,
    "hottest_c": 50.0,
    "heat_kw": 2.0,
    "litres_a_day": 24.0,
    "sprays": False,
}
MAPLE = "sugar_maple"


class KilnBench(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.owner = make_owner()
        cls.lot = make_lot(cls.owner, 60, MAPLE)
        cls.chamber = actions.keep_chamber(cls.owner, None, 0, **LIMITS)

    def setUp(self):
        self.client.force_login(self.owner.person)

    def at(self, name, *args):
        return reverse(name, args=[self.owner.workshop.slug, *args])

    def begin(self, days: float = 9, start: float = 0.64, **more) -> Load:
        began = timezone.now() - timedelta(days=days)
        return actions.begin_load(self.owner, [(self.lot, start)], self.chamber, began, wanted=0.08, **more)
