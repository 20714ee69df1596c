"""How a load is run, whether heat clears it, what prongs say, what goes with it: as members and strangers ask."""

from urllib.parse import urlencode

from django.test import TestCase
from django.urls import reverse

from calm_heron.questions.presentation import Table
from calm_heron.stock import actions as stock
from calm_heron.stock.models import LotPart
from calm_heron.workshops import limits
from tests.factories import make_lot, make_owner, read_board
from tests.pages import text_of

OAK = {
    "species_key": "white oak",
    "thickness_m": "28.6",
    "volume_m3": "2.5",
    "wanted": "8",
    "chamber": "dehumidifier",
    "where": "four_seasons",
    "start_date": "2027-04-15",
}


class Planning(TestCase):
    def page(self, name: str = "anybody_kiln", **typed):
        limits.forget()
        return self.client.get(f"{reverse(name)}?{urlencode({'units': 'metric', **typed})}")

    def test_it_answers_before_anything_is_typed(self):
        for name in ("anybody_kiln", "anybody_heat", "anybody_prongs", "anybody_dried_by"):
            for units in ("inch", "metric"):
                page = self.page(name, units=units)
                self.assertEqual(page.status_code, 200)
                if "form" in page.context:
                    self.assertEqual(page.context["form"].errors, {})

    def test_answer_steps_drawing_and_costs_are_of_one_run(self):
        page = self.page(**OAK)
        planned = page.context["worked"].planned
        words = text_of(page)
        self.assertIn(f"{planned.ran.days:.0f} days", words)
        self.assertTrue(35 <= planned.ran.days <= 45)
        self.assertTrue(planned.low_days < planned.ran.days < planned.high_days)
        rows = next(part.rows for part in page.context["presentation"].parts if isinstance(part, Table) and part.caption == "Set it so")
        self.assertAlmostEqual(sum(float(row.cells[-1]) for row in rows), planned.ran.days, delta=0.5)
        self.assertEqual(len(rows), sum(days > 0 for days in planned.ran.step_days()))
        drawing = next(shown["drawings"][0][1] for shown in page.context["presented_parts"] if "drawings" in shown)
        self.assertEqual([panel.name for panel in drawing.panels], ["The chamber", "Its samples", "Stress"])
        self.assertIn("nothing is conditioned", words)
        self.assertIn(f"{planned.ran.kwh_a_kg:.1f} for a litre", words)
        self.assertIn("Checks in the faces", words)

    def test_overdried_wood_is_moistened_where_the_chamber_can_and_else_told_what_can_be_done(self):
        dry = OAK | {"start": "4", "wanted": "8"}
        words = text_of(self.page(**(dry | {"chamber": "vented"})))
        for said in ("of damp air", "it is moistened", "moistened for", "taken up"):
            self.assertIn(said, words)
        # Power stands beside no water that left.
        self.assertNotRegex(words, r"kWh, [\d.]+ for a litre")
        self.assertIn("this kiln only takes water out", text_of(self.page(**(dry | {"chamber": "dehumidifier"}))))

    def test_two_woods_are_told_whether_they_go_together(self):
        good = self.page(**(OAK | {"species_key": "black cherry", "chamber": "vented"}), with_species="sugar maple")
        self.assertContains(good, "They go together")
        bad = self.page(**(OAK | {"chamber": "vented"}), with_species="black cherry")
        self.assertContains(bad, "Apart")
        self.assertContains(bad, "run for the white oak in it")

    def test_the_sun_and_ones_own_steps_are_other_ways(self):
        sun = self.page(**(OAK | {"chamber": "solar"}))
        self.assertNotContains(sun, "Set it so")
        self.assertContains(sun, "The sun follows no schedule")
        own = self.page(**(OAK | {"chamber": "vented"}), own="40 43 41\n25 50 40\n8 65 45")
        self.assertContains(own, "by your own steps")
        for text, why in (
            ("40 43", "three numbers"),
            ("40 43 50", "no kiln is set so"),
            ("20 43 41\n30 45 40", "lower moisture"),
            ("x y z", "is not a number"),
        ):
            page = self.page(**OAK, own=text)
            self.assertIn(why, str(page.context["form"].errors["own"]))
            self.assertContains(page, text.splitlines()[0])

    def test_limits_of_the_chamber_are_felt(self):
        weak = self.page(**OAK, litres_a_day="8").context["worked"].planned.ran.days
        usual = self.page(**OAK).context["worked"].planned.ran.days
        self.assertGreater(weak, usual + 2)
        cool = self.page(**(OAK | {"chamber": "vented"}), hottest_c="45")
        self.assertContains(cool, "reaches 45°C at most")

    def test_what_cannot_be_is_told_beside_its_field(self):
        for field, typed in (
            ("thickness_m", "900"),
            ("start", "900"),
            ("wanted", "40"),
            ("hottest_c", "300"),
            ("volume_m3", "0"),
            ("litres_a_day", "-3"),
            ("price", "1e9"),
            ("start_date", "9999-01-01"),
            ("start", "150"),
        ):
            with self.subTest(field, typed=typed):
                self.assertIn(field, self.page(**(OAK | {field: typed})).context["form"].errors)
        # Two hundred Fahrenheit is a warmth that some kilns hold.
        self.assertEqual(self.page(**(OAK | {"hottest_c": "200 F"})).context["form"].errors, {})
        self.assertContains(self.page(volume_m3="1"), "Say which wood")
        self.assertContains(self.page(**(OAK | {"species_key": "wenge"})), "Not known")
        self.assertContains(self.page(**(OAK | {"species_key": "european beech"})), "its nearest relative")

    def test_hostile_values_are_answered(self):
        for nasty in ("9" * 400, "<script>alert(1)</script>", "nan", "-1e308", "5/0"):
            for name in ("anybody_kiln", "anybody_heat", "anybody_prongs", "anybody_dried_by"):
                fields = self.page(name).context["form"].fields
                page = self.page(name, **dict.fromkeys(fields, nasty))
                self.assertEqual(page.status_code, 200)
                self.assertNotContains(page, "<script>alert(1)")
            self.assertEqual(self.page("anybody_prongs", now=nasty, later=nasty).status_code, 200)

    def test_a_lot_of_the_stock_brings_its_wood(self):
        owner = make_owner()
        self.client.force_login(owner.person)
        lot = make_lot(owner, 40, "black_cherry")
        page = self.client.get(f"{reverse('ask_kiln', args=[owner.workshop.slug])}?piece={lot.tag}")
        planned = page.context["worked"].planned
        self.assertEqual(planned.lots[0].name, lot.tag)
        self.assertAlmostEqual(planned.volume_m3, lot.volume_m3)


class Others(TestCase):
    page = Planning.page

    def test_heat_reaches_the_core_or_never_does(self):
        hot = {"thickness_m": "50", "width_m": "200", "moisture": "10", "start_c": "15", "dry_bulb_c": "71", "wet_bulb_c": "60"}
        self.assertTrue(self.page("anybody_heat", **hot).context["worked"].treated.is_reached)
        cool = self.page("anybody_heat", **(hot | {"dry_bulb_c": "50", "wet_bulb_c": "45"}))
        self.assertContains(cool, "Never")
        self.assertContains(cool, "certified by licensed facilities")
        wrong = self.page("anybody_heat", **(hot | {"wet_bulb_c": "75"}))
        self.assertContains(wrong, "never warmer than the dry one")

    def test_prongs_are_read_at_once_and_after_a_day(self):
        self.assertContains(self.page("anybody_prongs"), "Cut a section")
        self.assertContains(self.page("anybody_prongs", now="in"), "Look again after a day")
        self.assertContains(self.page("anybody_prongs", now="straight", later="in"), "still wetter than the shell")
        self.assertContains(self.page("anybody_prongs", later="out"), "can’t be undone")

    def test_shell_core_and_prongs_say_together_whether_it_is_done(self):
        right = {"shell": "7.8", "core": "8.4", "wanted": "8"}
        self.assertContains(self.page("anybody_prongs", **right), "now the prongs")
        self.assertContains(self.page("anybody_prongs", **right, later="straight"), "It is done")
        self.assertContains(self.page("anybody_prongs", **right, later="in"), "pinches the saw")
        wet = self.page("anybody_prongs", **(right | {"core": "11", "shell": "6.5"}), later="straight")
        self.assertContains(wet, "its core is wet")
        self.assertContains(wet, "4.5 points wetter")
        self.assertNotContains(wet, "It is done")
        self.assertContains(self.page("anybody_prongs", shell="5", core="5.2"), "too dry")

    def test_what_cannot_be_of_one_board_is_asked_again(self):
        self.assertContains(self.page("anybody_prongs", shell="8", core=""), "Read both")
        self.assertContains(self.page("anybody_prongs", shell="8", core="9", wanted=""), "Say which moisture was the target")
        page = self.page("anybody_prongs", shell="8", core="9", mean="14", later="straight")
        self.assertContains(page, "A mean lies between")
        self.assertNotContains(page, "It is done")

    def test_the_slip_says_what_goes_with_the_load(self):
        page = self.page(
            "anybody_dried_by",
            species_key="sugar maple",
            thickness_m="27",
            count="60",
            wanted="8",
            insects="on",
            whose="the co-operative",
            samples="62 58 70",
        )
        words = text_of(page)
        for said in ("sugar maple, 27 mm", "60 boards", "none of oak or walnut", "56°C for 30 minutes", "62 58 70%", "the co-operative"):
            self.assertIn(said, words)
        sheet = self.page("anybody_dried_by", species_key="sugar maple", count="60", whose="the co-operative", note="x " * 140, pdf="1")
        self.assertTrue(sheet.content.startswith(b"%PDF"))
        self.assertEqual(sheet.content.count(b"/Type /Page\n"), 1)
        self.assertNotIn("none of oak or walnut", text_of(self.page("anybody_dried_by", species_key="white oak")))


class HeatedThrough(TestCase):
    """A load of reclaimed softwoods of several kinds, air-dry, 1 in thick, brought to 65°C at its core and left to cool."""

    @classmethod
    def setUpTestData(cls):
        cls.owner = make_owner()
        cls.lots = [make_lot(cls.owner, 30, key, thickness_m=0.0254) for key in ("eastern_white_pine", "red_spruce", "douglas_fir_coast")]
        for lot, moisture in zip(cls.lots, (12.5, 13.5, 13.0), strict=True):
            read_board(cls.owner, lot, moisture)
        cls.damp = stock.add_sample(cls.owner, cls.lots[1], LotPart.DEEP)
        read_board(cls.owner, cls.damp, 23.0)

    def test_the_page_gives_hours_power_pitch_checks_and_the_damp_boards(self):
        self.client.force_login(self.owner.person)
        tags = " ".join(lot.tag for lot in self.lots)
        asked = {"of": "lots", "lots": tags, "core_c": "65", "chamber": "vented", "where": "four_seasons", "price": "0.3"}
        answer = self.client.get(reverse("ask_heat_load", args=[self.owner.workshop.slug]), asked)
        worked, words = answer.context["worked"], text_of(answer)
        self.assertIn(f"{worked.hours:.0f} hours", words)
        self.assertIn(f"{worked.energy_kwh:,.0f} kWh", words)
        self.assertIn("set for wood that stays cooler than 65°C", words)
        self.assertIn("Hardly any", words)
        self.assertIn(f"{self.damp.tag} (", words)
        self.assertNotIn(f"{self.lots[0].tag} (", words)
        self.assertIn("old-house borers", words)

    def test_what_is_wet_is_told_what_such_heat_does_to_it(self):
        asked = {"species_key": "sugar maple", "thickness_m": "27", "moisture": "60", "core_c": "65", "chamber": "vented"}
        words = text_of(self.client.get(reverse("anybody_heat_load"), asked | {"where": "four_seasons", "units": "metric"}))
        self.assertIn("it is not air-dry", words)
        self.assertIn("darkens or stains brown", words)
        self.assertIn("These woods have none", words)
