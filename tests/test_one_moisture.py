"""A lot has one moisture, whichever page is asked: in its stack, in its load, after it came out, and once it is read."""

import re
from datetime import timedelta

from django.test import TestCase
from django.urls import reverse
from django.utils import timezone

from calm_heron.kiln import actions as kiln
from calm_heron.kiln import planning as kiln_plans
from calm_heron.kiln.models import LoadLot
from calm_heron.measuring.wood_now import of_piece
from calm_heron.stacks import actions as stacks
from calm_heron.stacks import planning as stack_plans
from calm_heron.stacks.models import Stack, StackLot
from calm_heron.stock.models import Piece
from tests.factories import make_aired_place, make_lot, make_owner, read_board
from tests.pages import text_of

BUILT = {"width_m": 1.2, "sticker_m": 0.019, "spacing_m": 0.4, "clear_m": 0.3}
CHAMBER = {
    "name": "Lean-to",
    "kind": "dehumidifier",
    "load_m3": 1.0,
    "hottest_c": 50.0,
    "heat_kw": 2.0,
    "litres_a_day": 24.0,
    "sprays": False,
}


class OneMoisture(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.owner = make_owner()
        cls.yard = make_aired_place(cls.owner, name="Yard", kind="yard", relative_humidity=0.75)
        cls.lot = make_lot(cls.owner, 40, "sugar_maple")
        # The sawmill read it as it was sawn, long ago.
        read_board(cls.owner, cls.lot, 28.0, at=timezone.now() - timedelta(days=80))
        cls.chamber = kiln.keep_chamber(cls.owner, None, 0, place=cls.yard, **CHAMBER)

    def setUp(self):
        self.client.force_login(self.owner.person)

    def page(self, name: str, *args: object, question: str = "") -> str:
        answer = self.client.get(reverse(name, args=[self.owner.workshop.slug, *args]) + question)
        self.assertEqual(answer.status_code, 200, name)
        return answer.content.decode()

    def words(self, name: str, *args: object) -> str:
        """A page's words, its spaces plain and none before a comma."""
        shown = text_of(self.client.get(reverse(name, args=[self.owner.workshop.slug, *args])))
        return re.sub(r" (?=[,.])", "", re.sub(r"\s+", " ", shown))

    def build(self, days: int = 60) -> Stack:
        day = timezone.localdate() - timedelta(days=days)
        return stacks.build_stack(self.owner, [self.lot], self.yard, day, 0.64, **BUILT)

    def begin(self, days: float = 9.0, start: float = 0.64):
        self.lot.refresh_from_db()
        return kiln.begin_load(self.owner, [(self.lot, start)], self.chamber, timezone.now() - timedelta(days=days), wanted=0.08)

    def assert_all_pages_have(self, moisture: float, how: str) -> None:
        whole = f"{moisture * 100:.0f}"
        self.assertIn(f"About {whole}%, {how}", self.words("piece", self.lot.tag))
        self.assertRegex(self.page("stock"), rf"≈ {whole}</a>")
        for name, field in (("ask_roads", "start"), ("piece_drying", "start")):
            args = (self.lot.tag,) if name == "piece_drying" else ()
            shown = self.page(name, *args, question="" if args else f"?piece={self.lot.tag}")
            typed = re.search(rf'name="{field}"[^>]*value="([\d.]+)"|value="([\d.]+)"[^>]*name="{field}"', shown)
            with self.subTest(name):
                self.assertIsNotNone(typed)
                self.assertAlmostEqual(float(typed[1] or typed[2]), moisture * 100, delta=0.06)

        self.lot.refresh_from_db()
        self.assertAlmostEqual(kiln_plans.lot_of(self.lot, None).start, moisture, delta=0.0006)
        self.assertAlmostEqual(stack_plans.lot_of(self.lot, None).moisture, moisture, delta=0.0006)

    def test_in_its_stack(self):
        stack = self.build()
        now = of_piece(self.lot)
        self.assertTrue(0.15 < now.moisture < 0.60)
        self.assertIn(
            f"about {now.moisture * 100:.0f}% today",
            self.words("stack", stack.tag),
        )
        self.assert_all_pages_have(now.moisture, f"in {stack.tag}, worked out")
        if now.moisture > 0.12:
            self.assertRegex(self.page("kiln_season"), rf"{self.lot.tag}.{{0,80}}{now.moisture * 100:.0f}")

    def test_in_a_load_by_its_samples_and_out_of_its_stack(self):
        stack = self.build()
        load = self.begin()
        self.assertFalse(StackLot.objects.get(piece=self.lot).standing)
        stack.refresh_from_db()
        # It was left empty.
        self.assertFalse(stack.standing)
        for tag, moisture in (("A", 0.34), ("B", 0.32)):
            sample = kiln.add_sample(self.owner, load, tag, self.lot, 2.0 * 1.64, 0.64, load.began_at)
            kiln.weigh(self.owner, load, [(sample, 2.0 * (1 + moisture))])
        now = of_piece(self.lot)
        self.assertAlmostEqual(now.moisture, 0.33, delta=0.006)
        self.assert_all_pages_have(now.moisture, f"in {load.tag}, by its samples")
        self.assertIn(f"about {now.moisture * 100:.0f}% today", self.words("load", load.tag))
        # What runs is not planned anew.
        self.assertNotIn(f">{self.lot.tag}<", self.page("kiln_season").split("<tbody", 1)[-1].split("</tbody", 1)[0])

    def test_once_out_it_is_what_it_came_out_at_until_it_is_read(self):
        load = self.begin(days=12)
        sent = {"version": str(load.version), "once": "a", "place": str(self.yard.pk)}
        inside = of_piece(self.lot).moisture
        self.client.post(reverse("end_load", args=[self.owner.workshop.slug, load.tag]), sent)
        out = of_piece(self.lot)
        self.assertAlmostEqual(out.moisture, inside, places=3)
        self.assertAlmostEqual(LoadLot.objects.get().came, inside, places=3)
        self.assert_all_pages_have(out.moisture, f"as it came out of {load.tag}")
        piece = self.words("piece", self.lot.tag)
        self.assertIn(f"Was in {load.tag}", piece)
        self.assertIn(f"came out at {out.moisture * 100:.1f}%", self.words("load", load.tag))
        read_board(self.owner, self.lot, 9.0)
        self.assertIsNone(of_piece(self.lot))

    def test_taken_down_by_mistake_it_stands_again_with_all_it_held(self):
        stack = self.build()
        before = of_piece(self.lot)
        address = reverse("take_down", args=[self.owner.workshop.slug, stack.tag])
        page = self.page("stack", stack.tag)
        self.assertIn("is at about", page)
        self.client.post(address, {"version": str(stack.version), "once": "b"})
        self.assertIn("as it came out of", of_piece(self.lot).how)
        self.client.post(address, {"do": "stand", "version": str(stack.version), "once": "c"})
        stack.refresh_from_db()
        self.assertTrue(stack.standing)
        self.assertEqual(of_piece(self.lot), before)
        # Twice changes nothing.
        self.client.post(address, {"do": "stand", "version": str(stack.version), "once": "d"})
        self.assertEqual(StackLot.objects.filter(standing=True).count(), 1)

    def test_taken_out_by_mistake_a_load_runs_again_unless_its_chamber_is_full(self):
        load = self.begin()
        before = of_piece(self.lot)
        end = reverse("end_load", args=[self.owner.workshop.slug, load.tag])
        self.assertIn("target", self.page("load", load.tag))
        self.client.post(end, {"version": str(load.version), "once": "e"})
        again = reverse("run_again", args=[self.owner.workshop.slug, load.tag])
        self.client.post(again, {"do": "again"})
        load.refresh_from_db()
        self.assertTrue(load.runs)
        self.assertAlmostEqual(of_piece(self.lot).moisture, before.moisture, places=3)
        self.client.post(end, {"version": str(load.version), "once": "f"})
        kiln.begin_load(self.owner, [(make_lot(self.owner, 10, "sugar_maple"), 0.6)], self.chamber, timezone.now(), wanted=0.08)
        self.assertContains(self.client.post(again, {"do": "again"}, follow=True), "stays out")
        self.assertFalse(type(load).objects.get(pk=load.pk).runs)
        self.assertEqual(Piece.objects.get(pk=self.lot.pk).status, "stock")
