"""A place's usual year: typed, from a pattern, from a file, worked out for a room; drawn as it is typed; and everything wrong with it."""

from datetime import timedelta

import numpy as np
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TestCase
from django.utils import timezone

from calm_heron.air import queries
from calm_heron.air.actions import keep_year, record_air
from calm_heron.air.kinds import PlaceKind
from calm_heron.air.models import Normals, YearSource
from calm_heron.workshops.models import Role
from calm_heron.workshops.refusals import Refused
from tests.factories import make_member, make_owner, make_place
from wood.air.climate import approximate_places, pattern, published_places

GRID = {f"t{k}": str(k + 3) for k in range(1, 13)} | {f"h{k}": "70" for k in range(1, 13)}


class YearCase(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.owner = make_owner()
        cls.yard = make_place(cls.owner, name="Yard", kind=PlaceKind.YARD)
        cls.room = make_place(cls.owner, name="Far flat", kind=PlaceKind.ROOM)

    def setUp(self):
        self.client.force_login(self.owner.person)

    def address(self, place):
        return f"/w/{self.owner.workshop.slug}/air/{place.pk}/year/"

    def send(self, place, **fields):
        return self.client.post(self.address(place), {"version": "0", **fields})


class Typed(YearCase):
    def test_twelve_months_are_kept_and_shown_with_low_high_and_mean(self):
        self.assertEqual(self.send(self.yard, kind="typed", **GRID).status_code, 302)
        known = queries.known_year(self.yard)
        self.assertEqual(known.climate.temperature_c, tuple(float(k + 3) for k in range(1, 13)))
        page = self.client.get(self.address(self.yard).removesuffix("year/"))
        self.assertContains(page, "twelve months as they were typed")
        self.assertContains(page, "Equilibrium moisture content by month")

    def test_eleven_months_are_refused_by_name_and_nothing_typed_is_lost(self):
        page = self.send(self.yard, kind="typed", **{**GRID, "h4": ""})
        self.assertContains(page, "11 months where twelve belong. Missing: Apr.", status_code=422)
        self.assertContains(page, 'value="15"', status_code=422)
        self.assertFalse(Normals.objects.exists())

    def test_values_that_cannot_be_are_refused_beside_their_month(self):
        for field, text, lines in (("h3", "140", "is out of range"), ("t3", "warm", "is not"), ("t3", "300", "out of range")):
            self.assertContains(self.send(self.yard, kind="typed", **{**GRID, field: text}), lines, status_code=422)

    def test_it_is_drawn_while_it_is_typed(self):
        few = {name: GRID[name] for name in ("t1", "h1", "t2", "h2", "t3", "h3")}
        page = self.client.get(self.address(self.yard), {"fragment": "year", "kind": "typed", **few})
        self.assertContains(page, "Jan 13.")
        self.assertNotContains(page, "through the year")
        whole = self.client.get(self.address(self.yard), {"fragment": "year", "kind": "typed", **GRID})
        self.assertContains(whole, "% through the year")
        self.assertContains(whole, "year-loop")


class Given(YearCase):
    def test_a_pattern_is_marked_as_a_pattern(self):
        self.send(self.yard, kind="pattern", pattern="high_desert")
        known = queries.known_year(self.yard)
        self.assertEqual(known.climate.temperature_c, pattern("high_desert").temperature_c)
        self.assertIn("the pattern “High cold desert”", known.basis)

    def test_a_table_and_a_broken_table_as_a_file(self):
        good = "\n".join(f"{k};{k},5;70" for k in range(1, 13)).encode("utf-16")
        self.assertEqual(self.send(self.yard, kind="file", file=SimpleUploadedFile("mine.csv", good)).status_code, 302)
        self.assertEqual(queries.known_year(self.yard).basis, "the file mine.csv")
        for content, lines in (
            (b"1;2;3\n2;=A1;4", "Row 2: the temperature"),
            (bytes(range(256)), "not a text file"),
            (b"LOCATION,x\n", "header"),
        ):
            page = self.send(self.yard, kind="file", file=SimpleUploadedFile("bad.csv", content))
            self.assertContains(page, lines, status_code=422)

    def test_pasted_rows_and_nothing_at_all(self):
        rows = "\n".join(f"{k}, {k}.5, 70" for k in range(1, 13))
        self.assertEqual(self.send(self.yard, kind="file", pasted=rows).status_code, 302)
        self.assertContains(self.send(self.yard, kind="file"), "Choose a file, or paste twelve rows.", status_code=422)

    def test_a_room_is_worked_out_from_the_air_outside_and_shows_the_winter_low(self):
        keep_year(self.owner, self.yard, 0, YearSource.PATTERN, "Long cold winter", pattern("cold_winter"))
        self.assertEqual(self.send(self.room, kind="room", outdoors=self.yard.pk, heated_to="21", gain="0.002").status_code, 302)
        known = queries.known_year(self.room)
        self.assertIn("the air of Yard, as a room makes it", known.basis)
        emc = known.climate.monthly_emc
        self.assertLess(emc.min(), 0.06)
        self.assertIn(int(emc.argmin()), (0, 1, 11))
        # The room follows when the outdoor place is given another year.
        keep_year(self.owner, self.yard, 1, YearSource.PATTERN, "Mild damp coast", pattern("mild_coast"))
        self.assertGreater(queries.known_year(self.room).climate.monthly_emc.min(), emc.min() + 0.02)

    def test_a_place_elsewhere_is_called_approximate_and_leaves_more_open(self):
        self.assertGreater(len(approximate_places()), 60)
        for place in approximate_places().values():
            with self.subTest(place.name):
                self.assertTrue(place.climate.monthly_emc.min() > 0.05 and place.climate.monthly_emc.max() < 0.25)
                self.assertTrue(place.name.endswith("(approximate)"))
        self.assertEqual(self.send(self.yard, kind="published", published="edinburgh_united_kingdom").status_code, 302)
        outside = queries.known_year(self.yard)
        self.assertIn("the months of Edinburgh, United Kingdom, approximate and compared with no source", outside.basis)
        self.assertEqual(outside.tolerance, queries.IMAGINED)
        page = self.client.get(f"/w/{self.owner.workshop.slug}/air/{self.yard.pk}/year/")
        self.assertContains(page, 'value="edinburgh_united_kingdom" selected')

    def test_a_published_place_stands_outdoors_and_comes_into_a_room_through_its_walls(self):
        self.assertEqual(self.send(self.yard, kind="published", published="madison_wi").status_code, 302)
        outside = queries.known_year(self.yard)
        np.testing.assert_allclose(outside.climate.monthly_emc, published_places()["madison_wi"].monthly_emc, atol=1e-6)
        self.assertIn("the published months of Madison, WI", outside.basis)
        answer = self.send(self.room, kind="published", published="madison_wi", heated_to="20 C", gain="0.002", changes="0.5")
        self.assertEqual(answer.status_code, 302)
        inside = queries.known_year(self.room)
        self.assertIn("the air outdoors, as a room makes it", inside.basis)
        self.assertTrue(7 < inside.climate.monthly_emc.mean() * 100 < 9)
        self.assertLess(inside.climate.monthly_emc.max(), 0.13)
        self.assertContains(self.send(self.yard, kind="published", published=""), "Choose one of the published places.", status_code=422)

    def test_a_pattern_given_to_a_room_is_the_air_outside_and_the_form_offers_a_heated_one(self):
        page = self.client.get(self.address(self.room))
        self.assertContains(page, 'name="heated_to" value="20 C"')
        self.send(self.room, kind="pattern", pattern="cold_winter", heated_to="20 C", gain="0.002")
        self.assertLess(queries.known_year(self.room).climate.monthly_emc.max(), 0.13)
        again = self.client.get(self.address(self.room))
        self.assertContains(again, '<option value="cold_winter" selected>')

    def test_moistures_that_are_typed_stand_as_the_places_own(self):
        typed = {f"e{k}": "7.5" for k in range(1, 13)}
        self.assertEqual(self.send(self.room, kind="emc", like="room", **typed).status_code, 302)
        known = queries.known_year(self.room)
        np.testing.assert_allclose(known.climate.monthly_emc, 0.075, atol=1e-6)
        self.assertEqual(known.climate.temperature_c, (20.0,) * 12)
        self.assertContains(self.client.get(self.address(self.room)), 'name="e7" value="7.5"')
        self.assertContains(self.send(self.yard, kind="emc", like="cold_winter", e1="9"), "Missing: Feb", status_code=422)
        damp = {f"e{k}": "29" for k in range(1, 13)}
        page = self.send(self.yard, kind="emc", like="cold_winter", **damp)
        self.assertContains(page, "more than any air at that temperature gives wood", status_code=422)
        self.assertContains(page, 'name="e1" value="29"', status_code=422)

    def test_settings_of_a_room_that_contradict_each_other_are_said_beside_their_field(self):
        common = {"kind": "pattern", "pattern": "cold_winter"}
        page = self.send(self.room, **common, heated_to="24 C", cooled_to="20 C")
        self.assertContains(page, "It cannot be cooled to less than it is heated to.", status_code=422)
        page = self.send(self.room, **common, heated_to="20 C", at_least="120")
        self.assertContains(page, 'value="120"', status_code=422)

    def test_a_room_without_a_known_outdoor_year_and_contradicting_limits_are_refused(self):
        self.assertContains(self.send(self.room, kind="room", outdoors=self.yard.pk, heated_to="21"), "give it one first", status_code=422)
        keep_year(self.owner, self.yard, 0, YearSource.PATTERN, "x", pattern("cold_winter"))
        page = self.send(self.room, kind="room", outdoors=self.yard.pk, heated_to="21", at_least="60", at_most="40")
        self.assertContains(page, "contradict each other", status_code=422)

    def test_the_second_of_two_people_is_told_and_may_mean_it(self):
        keep_year(self.owner, self.yard, 0, YearSource.PATTERN, "x", pattern("cold_winter"))
        with self.assertRaises(Refused):
            keep_year(self.owner, self.yard, 0, YearSource.PATTERN, "x", pattern("mild_coast"))
        page = self.send(self.yard, kind="pattern", pattern="tropical")
        self.assertContains(page, "given this place a year meanwhile", status_code=422)
        self.assertContains(page, 'name="version" value="1"', status_code=422)
        self.assertEqual(
            self.client.post(self.address(self.yard), {"kind": "pattern", "pattern": "tropical", "version": "1"}).status_code, 302
        )

    def test_a_helper_is_not_shown_a_form_that_would_be_refused(self):
        self.client.force_login(make_member(self.owner, Role.HELPER).person)
        self.assertEqual(self.client.get(self.address(self.yard)).status_code, 403)
        self.assertEqual(self.send(self.yard, kind="pattern", pattern="tropical").status_code, 403)

    def test_a_year_known_from_the_log_is_shown_before_anything_is_given(self):
        for month in range(12):
            record_air(self.owner, self.yard, 15.0, 0.7, at=timezone.now() - timedelta(days=30 * month + 1))
        page = self.client.get(self.address(self.yard))
        self.assertContains(page, "Its year is known from its own readings")
        self.assertContains(page, "through the year</small>")
        self.assertEqual(page.context["year"]["mean"], float(queries.known_year(self.yard).climate.monthly_emc.mean()))

    def test_a_place_that_was_only_given_a_year_can_be_dried_in(self):
        keep_year(self.owner, self.yard, 0, YearSource.PATTERN, "Long cold winter", pattern("cold_winter"))
        page = self.client.get(f"/w/{self.owner.workshop.slug}/drying/", {"where": f"place-{self.yard.pk}"})
        self.assertContains(page, "eight boards in ten")
        self.assertContains(page, "a climate of our own")
