"""What a workshop's own bowls teach of the next one: pace, oval, and what was foretold beside what came."""

from datetime import timedelta

from django.test import TestCase
from django.utils import timezone

from calm_heron.turning import actions
from calm_heron.turning.bowls import finishing
from calm_heron.turning.models import Tracing, Turned, WeightForecast
from calm_heron.turning.shelf import weighing
from tests.factories import make_aired_place, make_bowl, make_owner
from tests.pages import text_of
from wood.drying.diffusivity import of_species as figures_of
from wood.turning.own_pace import learnt_pace


class Learning(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.owner = make_owner()
        cls.shop = f"/w/{cls.owner.workshop.slug}/"
        cls.room = make_aired_place(cls.owner, name="Parlour")
        cls.bowl = make_bowl(cls.owner, tag="next-one", place=cls.room)
        for day, mass in ((9, 1.30), (6, 1.24), (3, 1.19), (0, 1.15)):
            actions.weigh(cls.owner, cls.bowl, mass, timezone.now() - timedelta(days=day), meant=True)

    def setUp(self):
        self.client.force_login(self.owner.person)

    def others(self, pace: float, count: int = 5, way: str = "shelf") -> None:
        """Bowls of the same wood that came to rest at a pace of their own."""
        for number in range(count):
            bowl = make_bowl(self.owner, tag=f"earlier-{way}-{number}")
            Turned.objects.create(workshop=self.owner.workshop, piece=bowl, way=way)
            said = {"state": "flat", "count": 9, "pace": [pace, 0.93 * pace, 1.07 * pace], "reckonings": {}}
            WeightForecast.objects.create(workshop=self.owner.workshop, piece=bowl, digest="x", said=said)

    def test_slow_bowls_make_the_next_forecast_later_and_their_own_way_alone_counts(self):
        before = weighing.renew(self.bowl)
        self.others(0.5, way="bag")
        self.assertEqual(weighing.renew(self.bowl).rest, before.rest)
        self.others(0.5)
        after = weighing.renew(self.bowl)
        figures = figures_of(self.bowl.species)
        self.assertEqual(weighing.pace_here(self.owner.workshop, self.bowl.species_key, "shelf", figures).count, 5)
        self.assertGreater(after.rest[0], before.rest[0])
        page = text_of(self.client.get(f"{self.shop}turning/of/{self.bowl.tag}/"))
        self.assertIn("5 bowls of", page)
        self.assertIn("slower than its figures say; the forecast counts on it", page)

    def test_a_bowl_of_which_nobody_said_how_it_dries_counts_as_on_its_shelf(self):
        self.others(0.5)
        Turned.objects.all().delete()
        counts = [
            weighing.pace_here(self.owner.workshop, self.bowl.species_key, way, figures_of(self.bowl.species)).count
            for way in ("shelf", "bag")
        ]
        self.assertEqual(counts, [5, 0])

    def test_a_bowl_that_is_still_to_be_roughed_is_told_by_them_too(self):
        address = f"{self.shop}turning/rough/?species_key={self.bowl.species.common_name}&way=shelf"
        before = text_of(self.client.get(address))
        self.assertNotIn("reckoned in", before)
        self.others(0.5)
        tracing = {"along_m": 0.26, "across_m": 0.244, "predicted_m": 0.010, "by": self.owner.person}
        Tracing.objects.create(workshop=self.owner.workshop, piece=self.bowl, **tracing)
        after = text_of(self.client.get(address))
        self.assertIn("slower than its figures say; the forecast counts on it", after)
        self.assertIn("more out of round here than its figures say", after)
        self.assertGreater(finishing.learnt_of(self.owner.workshop, self.bowl.species_key).share, 1.0)

    def test_what_was_foretold_stands_beside_what_came(self):
        bowl = make_bowl(self.owner, tag="done", place=self.room)
        for days, mass in (
            (90, 1.30),
            (84, 1.21),
            (77, 1.15),
            (70, 1.10),
            (60, 1.06),
            (45, 1.02),
            (30, 1.002),
            (20, 1.0),
            (9, 1.0),
            (0, 1.0),
        ):
            actions.weigh(self.owner, bowl, mass, timezone.now() - timedelta(days=days), meant=True)
        weighed = weighing.renew(bowl)
        self.assertEqual(weighed.state.value, "flat")
        self.assertEqual(weighed.foretold["count"], 3)
        self.assertIn("After its first 3 weighings about", text_of(self.client.get(f"{self.shop}turning/of/{bowl.tag}/")))

    def test_bowls_of_one_log_stand_side_by_side(self):
        log = make_bowl(self.owner, tag="the-log")
        for piece in (self.bowl, make_bowl(self.owner, tag="its-sister")):
            Turned.objects.create(workshop=self.owner.workshop, piece=piece, log=log)
        page = text_of(self.client.get(f"{self.shop}turning/of/{self.bowl.tag}/"))
        self.assertIn("Of the same log", page)
        self.assertIn("its-sister", page)

    def test_few_bowls_move_it_a_little_and_many_all_the_way(self):
        one, many = (learnt_pace([(0.6, 0.55, 0.65)] * count, 0.3) for count in (1, 40))
        self.assertTrue(0.65 < one.share < 0.95, one)
        self.assertAlmostEqual(many.share, 0.6, delta=0.02)
        self.assertLess(many.spread, one.spread)
