"""How is it stacked, and how thick is it sawn, as members and strangers ask it."""

from urllib.parse import urlencode

from django.test import TestCase
from django.urls import reverse

from calm_heron.measuring.models import PieceMoisture
from calm_heron.workshops import limits
from tests.factories import make_lot, make_owner, read_board
from tests.pages import text_of
from wood.drying.diffusivity import of_species
from wood.species import species_named

OAK = {
    "species_key": "white oak",
    "thickness_m": "27",
    "board_m": "200",
    "length_m": "2400",
    "count": "60",
    "width_m": "1200",
    "where": "mild_inland",
}


def drawn(page) -> list:
    """The wide drawings of a planned stack: its end, its side and from above."""
    return next(shown["drawings"][0][1] for shown in page.context["presented_parts"] if "drawings" in shown)


class Planning(TestCase):
    def page(self, name: str = "anybody_stack", **typed):
        limits.forget()
        return self.client.get(f"{reverse(name)}?{urlencode({'units': 'metric', **typed})}")

    def test_it_answers_before_anything_is_typed(self):
        for units in ("inch", "metric"):
            page = self.page(units=units)
            self.assertEqual(page.context["form"].errors, {})
            self.assertContains(page, "courses")
        self.assertContains(self.page("anybody_saw"), "off the saw")

    def test_counts_drawing_and_sentence_are_of_one_pile(self):
        page = self.page(**OAK)
        pile = page.context["worked"].pile
        self.assertEqual((len(pile.courses), pile.boards), (12, 60))
        words = text_of(page)
        self.assertIn("12 courses of 5 boards", words)
        self.assertIn(f"{pile.sticker_count} stickers", words)
        (end, side, above) = drawn(page)
        self.assertEqual(sum(box.css == "end" for box in end.boxes), 60)
        self.assertEqual(sum(box.css == "end" for box in side.boxes), 12)
        self.assertEqual(sum(box.css == "sticker" for box in side.boxes), 11 * len(pile.lines_m))
        self.assertEqual(sum(box.css == "wood" for box in side.boxes), len(page.context["worked"].bearers_m))
        self.assertEqual(sum(box.css == "end" for box in above.boxes), 5)

    def test_every_broken_rule_is_marked_with_what_comes_of_it(self):
        page = self.page(**OAK, bearers_m="1200", overhang_m="100", stickers_moisture="40", clear_m="100", cover="none")
        for said in ("stand over no bearer", "Ends hang over", "wet stripes", "of air beneath", "Nothing keeps rain"):
            self.assertContains(page, said)
        self.assertTrue(drawn(page)[1].marks)
        self.assertContains(self.page(**(OAK | {"species_key": "sugar maple"}), stickers_moisture="40"), "grey mark")
        self.assertNotContains(self.page(**OAK), 'class="breach"')

    def test_a_wider_stack_and_a_tarpaulin_cost_time(self):
        days = {
            name: self.page(**(OAK | more)).context["worked"].times.mean
            for name, more in {
                "usual": {},
                "wide": {"width_m": "2400"},
                "tarp": {"cover": "tarp"},
                "breezy": {"wind": "breezy"},
                "bare": {"cover": "none"},
            }.items()
        }
        self.assertLess(days["usual"], days["bare"])
        self.assertTrue(days["breezy"] < days["usual"] < days["wide"] < days["tarp"], days)
        times = self.page(**OAK).context["worked"].times
        self.assertTrue(times.edge <= times.mean <= times.middle)

    def test_a_big_stack_is_drawn_thinned(self):
        page = self.page(**(OAK | {"count": "2000"}))
        self.assertTrue(drawn(page)[0].thinned)
        self.assertContains(page, "not every board is drawn")
        self.assertLess(len(page.content), 700_000)

    def test_what_cannot_be_is_told_beside_its_field(self):
        for typed, field in (
            ({"count": "0"}, "count"),
            ({"count": "1000000"}, "count"),
            ({"count": "many"}, "count"),
            ({"board_m": "1400"}, "width_m"),
            ({"thickness_m": "-3"}, "thickness_m"),
            ({"spacing_m": "5 m"}, "spacing_m"),
            ({"sticker_m": "300"}, "sticker_m"),
            ({"moisture": "900"}, "moisture"),
        ):
            with self.subTest(**typed):
                page = self.page(**(OAK | typed))
                self.assertIn(field, page.context["form"].errors)
                self.assertContains(page, f'value="{next(iter(typed.values()))}"')
        self.assertContains(self.page(count="10"), "Say which wood")
        self.assertContains(self.page(**(OAK | {"species_key": "wenge"})), "courses")
        self.assertContains(self.page("anybody_saw", species_key="wenge", wanted_m="20"), "Not known")
        self.assertContains(self.page("anybody_saw", species_key="white oak"), "Say which wood")

    def test_hostile_values_are_answered(self):
        for nasty in ("9" * 400, "<script>alert(1)</script>", "nan", "-1e308", "5/0"):
            for name in ("anybody_stack", "anybody_saw"):
                fields = self.page(name).context["form"].fields
                page = self.page(name, **dict.fromkeys(fields, nasty))
                self.assertEqual(page.status_code, 200)
                self.assertNotContains(page, "<script>alert(1)")

    def test_shade_takes_some_wind_and_a_wall_too_near_is_marked(self):
        usual, shaded = (self.page(**OAK, cover=cover).context["worked"].times.mean for cover in ("roof", "shade"))
        self.assertTrue(usual < shaded < 1.5 * usual, (usual, shaded))
        self.assertContains(self.page(**OAK, next_m="300"), "to the next stack or wall")


class OfALot(TestCase):
    def test_several_lots_make_one_stack_and_a_tag_that_is_none_is_told(self):
        owner = make_owner()
        self.client.force_login(owner.person)
        lots = [make_lot(owner, count, "white_oak") for count in (20, 30)]
        address = reverse("ask_stack", args=[owner.workshop.slug])
        tags = ", ".join(lot.tag for lot in lots)
        page = self.client.get(address, {"lots": tags})
        self.assertEqual([load.count for load in page.context["worked"].pile.loads], [20, 30])
        self.assertContains(page, "Save as built")
        page = self.client.get(address, {"lots": f"{tags} nothing-01"})
        self.assertIn("has the tag nothing-01", str(page.context["form"].errors["lots"]))
        self.assertContains(page, "nothing-01")
        other = make_lot(make_owner(), 10)
        self.assertIn("lots", self.client.get(address, {"lots": other.tag + "x"}).context["form"].errors)

    def test_a_lot_brings_its_sizes_and_its_count(self):
        owner = make_owner()
        self.client.force_login(owner.person)
        lot = make_lot(owner, 44, thickness_m=0.054, width_m=0.18, length_m=3.0)
        address = reverse("ask_stack", args=[owner.workshop.slug])
        self.assertContains(self.client.get(reverse("piece", args=[owner.workshop.slug, lot.tag])), f"{address}?piece={lot.tag}")
        pile = self.client.get(f"{address}?piece={lot.tag}").context["worked"].pile
        self.assertEqual(pile.boards, 44)
        self.assertAlmostEqual(pile.loads[0].thickness_m, 0.054)
        self.assertAlmostEqual(pile.length_m, 3.0)

    def test_a_lot_that_reads_beyond_its_meter_begins_as_sawn_and_not_at_the_meters_end(self):
        owner = make_owner()
        self.client.force_login(owner.person)
        read, beyond = make_lot(owner), make_lot(owner)
        read_board(owner, read, 21.0, 21.5, 20.5)
        read_board(owner, beyond, 80.0, 85.0)
        address = reverse("ask_stack", args=[owner.workshop.slug])
        begun = [self.client.get(f"{address}?piece={lot.tag}").context["worked"].pile.loads[0].moisture for lot in (read, beyond)]
        self.assertEqual(PieceMoisture.objects.get(piece=beyond).bound, "above")
        self.assertLess(begun[0], 0.25)
        self.assertEqual(begun[1], of_species(species_named("white_oak")).green_moisture)
