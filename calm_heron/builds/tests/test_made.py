"""A build after it was made: what its parts were stays, its year is told, what is measured later is held against it."""

import io
from datetime import timedelta

from django.urls import reverse
from django.utils import timezone
from pypdf import PdfReader

from calm_heron.builds import actions
from calm_heron.builds.kinds import FitKind
from calm_heron.builds.layouts import sawing
from calm_heron.builds.made import following, year_words
from calm_heron.builds.models import BuildPart, MeasuredLater, PartAsMade
from calm_heron.builds.tests.bench import part
from calm_heron.builds.tests.test_sawing import AtTheBench
from calm_heron.logbook.models import Entry
from calm_heron.workshops.models import Role
from calm_heron.workshops.refusals import Refused
from tests.factories import make_member, read_board
from tests.pages import text_of
from wood.units import INCH, METRIC


class Made(AtTheBench):
    """A build of a top and two fronts that was made so many days ago."""

    days = 100

    def setUp(self):
        super().setUp()
        self.stock = self.board(moisture=0.091, thickness_m=0.027, width_m=0.30, length_m=2.4)
        self.top, self.front = self.add(
            part("Top", count=1, width_m=0.25, fit=FitKind.FIXED), part("Front", count=2, width_m=0.15, length_m=0.4, fit=FitKind.INSET)
        )
        self.assertEqual(self.lay(), {})

    def make(self, days: int | None = None):
        self.build.refresh_from_db()
        sawing.finish(self.owner, self.build, self.build.version)
        self.build.refresh_from_db()
        self.build.change(done_on=timezone.localdate() - timedelta(days=self.days if days is None else days))

    def year(self) -> following.BuildYear:
        return following.follow(self.stands())

    def of(self, name: str):
        return next(item for item in self.year().parts if item.part.name == name)

    def forecast(self, day: int) -> float:
        return float(self.of("Top").year.width_m[day])

    def measure(self, what: str, value: float, day: int, of: BuildPart | None = None) -> MeasuredLater:
        on = self.build.done_on + timedelta(days=day)
        return following.measure(self.owner, self.build, (of or self.top).pk, what, value, on)


class Kept(Made):
    def test_moisture_and_sizes_of_the_day_stay_when_the_wood_is_read_again(self):
        cut = {item.part.name: item.sized.cut.width_m for item in self.stands().parts}
        self.make()
        rows = {row.part.name: row for row in PartAsMade.objects.select_related("part")}
        for name, width in cut.items():
            self.assertAlmostEqual(rows[name].width_m, width)
            self.assertAlmostEqual(rows[name].moisture, 0.091, delta=0.003)
        self.assertAlmostEqual(self.of("Top").year.made.width_m, cut["Top"])

    def test_made_again_it_forgets_what_it_was_and_made_anew_it_is_kept_anew(self):
        self.make()
        self.measure("width", 0.25, 10)
        sawing.reopen(self.owner, self.build, [])
        self.assertFalse(PartAsMade.objects.exists())
        self.assertFalse(self.year().is_made)
        self.assertEqual(self.of("Top").measured, ())
        self.make()
        self.assertEqual(PartAsMade.objects.count(), 2)
        self.assertEqual(len(self.of("Top").measured), 1)

    def test_before_it_is_made_its_year_is_that_from_today_and_its_cut_list(self):
        before = self.of("Top").year
        self.make(days=0)
        after = self.of("Top").year
        self.assertAlmostEqual(before.made.width_m, after.made.width_m)
        self.assertAlmostEqual(before.most_moved_m, after.most_moved_m)

    def test_the_page_agrees_with_the_cut_list_and_a_taken_out_build_takes_all_of_it(self):
        self.make()
        self.measure("width", 0.25, 10)
        self.build.refresh_from_db()
        actions.delete_build(self.owner, self.build, let_go=True)
        self.assertFalse(MeasuredLater.objects.exists() or PartAsMade.objects.exists())

    def test_what_nobody_read_is_not_forecast(self):
        self.make()
        PartAsMade.objects.update(moisture=None)
        self.assertEqual(self.of("Top").unknown, "Nobody knows what its wood was at.")
        page = text_of(self.client.get(self.at("build_year")))
        self.assertIn("Can’t tell", page)
        self.client.post(
            self.at("build_as_made"), {"part": self.top.pk, "moisture": "8.8", "version": self.build.version, "once": "x"}, follow=True
        )
        self.assertAlmostEqual(self.of("Top").year.made.moisture, 0.088)


class Later(Made):
    def setUp(self):
        super().setUp()
        self.make()

    def test_a_measurement_stands_against_its_day(self):
        row = self.measure("width", self.forecast(60), 60)
        ((kept, against),) = self.of("Top").measured
        self.assertEqual((kept, against.standing.value), (row, "as_forecast"))
        self.assertEqual(year_words.year_words(self.year(), INCH).word, "As forecast")
        self.measure("width", self.forecast(90) - 0.008, 90)
        words = year_words.year_words(self.year(), INCH)
        self.assertEqual(words.word, "Drier than forecast")
        self.assertIn("hygrometer", words.next_step)
        page = text_of(self.client.get(self.at("build_year")))
        self.assertIn("Drier than forecast", page)
        self.assertIn("Measured since", page)

    def test_it_is_kept_by_its_form_struck_out_and_back(self):
        typed = {"part": self.top.pk, "what": "width", "value": "248.5 mm", "note": "lid", "once": "a"}
        page = self.client.post(self.at("build_measured"), typed, follow=True)
        row = MeasuredLater.objects.get()
        self.assertAlmostEqual(row.value, 0.2485)
        self.assertContains(page, "Top: kept.")
        for do, struck in (("strike", True), ("back", False)):
            page = self.client.post(self.at("measured_changed", row.pk), {"do": do}, follow=True)
            row.refresh_from_db()
            self.assertEqual(row.struck, struck)
        with self.assertRaises(Refused):
            following.strike(self.owner, self.build, row.pk, back=True)
        self.assertIn("measured", set(Entry.objects.values_list("what", flat=True)))

    def test_what_is_absurd_is_told_beside_its_field_and_nothing_typed_is_lost(self):
        yesterday = (self.build.done_on - timedelta(days=1)).isoformat()
        tomorrow = (timezone.localdate() + timedelta(days=1)).isoformat()
        for more, field, words in (
            ({"value": "abc"}, "value", ""),
            ({"value": ""}, "value", "still empty"),
            ({"value": "50 m"}, "value", "is out of range"),
            ({"what": "moisture", "value": "140"}, "value", "is out of range"),
            ({"what": "gap", "value": "3 mm"}, "what", "fills no opening"),
            ({"on": yesterday}, "on", "was not made then"),
            ({"on": tomorrow}, "on", "in the future"),
            ({"part": "0"}, "part", ""),
        ):
            with self.subTest(**more):
                typed = {"part": self.top.pk, "what": "width", "value": "250 mm", "note": "by the stove", "once": "b"} | more
                page = self.client.post(self.at("build_measured"), typed)
                self.assertEqual(page.status_code, 422)
                self.assertIn(words, str(page.context["form_measured"].errors[field]))
                self.assertContains(page, "by the stove", status_code=422)
        self.assertFalse(MeasuredLater.objects.exists())

    def test_what_is_not_made_yet_takes_no_measurement(self):
        sawing.reopen(self.owner, self.build, [])
        with self.assertRaises(Refused):
            following.measure(self.owner, self.build, self.top.pk, "width", 0.25, None)
        with self.assertRaises(Refused):
            following.correct(self.owner, self.build, self.build.version + 1, self.top.pk, width_m=0.25)

    def test_a_viewer_sees_it_and_changes_nothing(self):
        viewer = make_member(self.owner, Role.VIEWER)
        self.client.force_login(viewer.person)
        page = self.client.get(self.at("build_year"))
        self.assertNotContains(page, "I have measured something")
        self.assertEqual(self.client.post(self.at("build_measured"), {}).status_code, 403)

    def test_a_front_that_sticks_is_the_answer(self):
        PartAsMade.objects.filter(part=self.front).update(moisture=0.05, width_m=self.front.width_m - 0.0002)
        words = year_words.year_words(self.year(), METRIC)
        self.assertTrue(words.word.startswith("Sticks in "), words.word)
        self.assertIn("sticks from", year_words.meets(self.of("Front"), self.year(), METRIC))


class Owners(Made):
    def test_the_sheet_says_what_it_likes_and_what_is_no_fault(self):
        self.make()
        answer = self.client.get(self.at("build_sheet"), {"kind": "owner"})
        pages = PdfReader(io.BytesIO(answer.content)).pages
        text = " ".join(" ".join(page.extract_text().split()) for page in pages)
        self.assertEqual(len(pages), 1)
        low, high = year_words.likes(self.year())
        self.assertLess(low, high)
        self.assertIn(f"Between {low * 100:.0f}", text.replace("\u00a0", " "))
        for words in ("Made on", "no fault", "Top: in", "its gap opens to", "What is a fault"):
            self.assertIn(words, text)

    def test_all_months_are_told_and_each_part_can_be_looked_at(self):
        self.make()
        page = self.client.get(self.at("build_year"), {"part": self.front.pk})
        self.assertContains(page, "Front, month by month")
        self.assertEqual(len(page.context["months"]), 12)
        self.assertContains(self.client.get(self.at("build_year"), {"part": "9e9"}), "month by month")

    def test_a_reading_of_a_board_later_changes_nothing_of_what_was(self):
        self.make()
        before = self.of("Top").year.made
        read_board(self.owner, self.stock, 12.5, 12.5, meter=self.meter)
        self.assertEqual(self.of("Top").year.made, before)

    def test_the_page_of_the_build_leads_there(self):
        self.make()
        page = self.client.get(reverse("build", args=[self.owner.workshop.slug, self.build.pk]))
        self.assertContains(page, self.at("build_year"))
