"""By which route? Asked by members and strangers, answered side by side."""

import re
from unittest import mock
from urllib.parse import urlencode

from django.test import TestCase
from django.urls import reverse

from calm_heron.drying import by_route
from calm_heron.drying.route_names import ROUTE_METHOD_NAMES, ROUTE_NAMES, RouteMethodName, RouteName
from calm_heron.questions.presentation import Columns, Table
from calm_heron.workshops import limits
from tests.factories import make_board, make_owner, make_place, read_board
from tests.pages import text_of
from wood.drying import routes as core
from wood.drying.routes import RouteKind
from wood.drying.stages import RouteStage

OAK = {"species_key": "white oak", "thickness_m": "27", "where": "four_seasons", "start_date": "2027-04-15", "units": "metric"}


class Routes(TestCase):
    def page(self, **typed):
        limits.forget()
        return self.client.get(f"{reverse('anybody_roads')}?{urlencode(typed)}")

    def test_it_answers_before_anything_is_typed(self):
        for units in ("inch", "metric"):
            page = self.page(units=units)
            self.assertEqual(page.context["form"].errors, {})
            self.assertContains(page, "Side by side")

    def test_sentence_table_and_drawing_are_of_the_same_runs(self):
        page = self.page(**OAK)
        result = page.context["worked"]
        self.assertEqual(len(result.routes), 7)
        self.assertContains(page, "Yard, then a kiln")
        rows = next(part.rows for part in page.context["presentation"].parts if isinstance(part, Table))
        self.assertEqual([row.cells[-1].chooses[1] for row in rows if row.chosen], [result.best.route.key])
        drawing = next(shown["drawings"][0][1] for shown in page.context["presented_parts"] if "drawings" in shown)
        self.assertEqual([thread.key for thread in drawing.threads], [route.route.key for route in result.routes])
        self.assertEqual([thread.key for thread in drawing.threads if thread.best], [result.best.route.key])
        words = text_of(page)
        self.assertIn("never: it stops at about", words)
        self.assertRegex(words, r"at 25% into the kiln, about \d+ \w+ 2027")
        self.assertIn("Published for an inch of white oak to 20%: 80 to 250 days", words)

    def test_a_short_thick_piece_dries_through_its_open_ends(self):
        split = {"species_key": "white oak", "thickness_m": "127 mm", "width_m": "127 mm", "length_m": "406 mm", "target": "20"}
        days = {
            ends: next(route for route in self.page(**split, ends=ends).context["worked"].routes if route.route.key == "yard").answer.days
            for ends in ("open", "sealed")
        }
        self.assertLess(days["open"], 0.75 * days["sealed"])

    def test_the_same_days_in_a_yard_are_as_dangerous_whatever_follows_them(self):
        worst = [
            next(route for route in self.page(**OAK, target=target).context["worked"].routes if route.route.key == "yard_room").worst.worst
            for target in ("15", "10")
        ]
        self.assertAlmostEqual(*worst, delta=0.01)

    def test_moving_one_stage_leaves_the_other_routes_as_they_were(self):
        first = self.page(**OAK).context["worked"]
        before = len(by_route._travelled._known)
        moved = self.page(**OAK, carry="16").context["worked"]
        self.assertEqual(len(by_route._travelled._known) - before, 2)
        self.assertIs(
            next(route for route in moved.routes if route.route.key == "kiln"),
            next(route for route in first.routes if route.route.key == "kiln"),
        )
        (move,) = next(route for route in moved.routes if route.route.key == "yard_room").moved
        self.assertAlmostEqual(move.moisture, 0.16)

    def test_a_day_of_moving_comes_after_the_beginning(self):
        result = self.page(**OAK, moved_on="2027-06-01").context["worked"]
        self.assertEqual([route.moved[0].day for route in result.routes if route.route.key in ("yard_room", "yard_kiln")], [47, 47])
        for day in ("2027-04-15", "2027-01-01"):
            page = self.page(**OAK, moved_on=day)
            self.assertIn("after the one it begins on", str(page.context["form"].errors["moved_on"]))
            self.assertContains(page, f'value="{day}"')

    def test_the_marks_say_which_field_they_set_and_where_they_stand(self):
        page = self.page(**OAK, carry="16", to_kiln="30")
        drawing = next(shown["drawings"][0][1] for shown in page.context["presented_parts"] if "drawings" in shown)
        self.assertEqual(
            {(move.sets, move.percent) for thread in drawing.threads for move in thread.moves}, {("carry", 16.0), ("to_kiln", 30.0)}
        )
        levels = [tuple(map(float, pair.split(","))) for pair in drawing.levels.split()]
        self.assertEqual(levels, sorted(levels))
        self.assertEqual([percent for _, percent in levels], sorted((percent for _, percent in levels), reverse=True))

    def test_a_route_that_somebody_adds_is_gone_named_and_drawn_with_the_others(self):
        loft = RouteKind(95, "loft_room", lambda wood: (RouteStage("loft", wood.shed, 0.18), RouteStage("room", wood.room, wood.target)))
        name, method = RouteName(95, "loft_room", "Loft, then a heated room", "loft, room"), RouteMethodName(95, "loft", "the loft")
        with (
            mock.patch.object(core, "ROUTES", [*core.ROUTES, loft]),
            mock.patch.dict(core.ROUTE_METHODS, {"loft": core.RouteMethod(1 / 7)}),
        ):
            ROUTE_NAMES.add(name)
            ROUTE_METHOD_NAMES.add(method)
            self.addCleanup(ROUTE_NAMES.remove, name)
            self.addCleanup(ROUTE_METHOD_NAMES.remove, method)
            page = self.page(**OAK, road="loft_room")
        self.assertContains(page, "Loft, then a heated room, started in each month")
        self.assertContains(page, 'data-strand="loft_room"')
        self.assertEqual(len(page.context["worked"].routes), 8)

    def test_old_wood_is_warned_of(self):
        self.assertIn("may be in it already", text_of(self.page(**OAK, origin="reclaimed")))
        self.assertNotIn("may be in it already", text_of(self.page(**OAK)))

    def test_the_months_of_the_chosen_route_are_shown(self):
        page = self.page(**OAK, road="yard_room")
        self.assertContains(page, "Yard, then a heated room, started in each month")
        self.assertEqual(len(next(part.months for part in page.context["presentation"].parts if isinstance(part, Columns))), 12)
        self.assertContains(self.page(**OAK, road="kiln"), "the same in every month")

    def test_energy_has_a_price_where_one_is_named(self):
        plain, priced = (text_of(self.page(**OAK, **more)) for more in ({}, {"price": "0.25"}))
        self.assertRegex(plain, r"\d+ to \d+ kWh")
        self.assertTrue(re.search(r"kWh, \d+ to \d+", priced))

    def test_what_is_wrong_is_told_beside_its_field(self):
        for typed, field in (
            ({"thickness_m": "oak"}, "thickness_m"),
            ({"thickness_m": "0"}, "thickness_m"),
            ({"start": "900"}, "start"),
            ({"target": "60"}, "target"),
            ({"price": "dear"}, "price"),
            ({"latitude": "95"}, "latitude"),
            ({"start_date": "tomorrow"}, "start_date"),
            ({"start_date": "9999-12-31"}, "start_date"),
            ({"carry": "1"}, "carry"),
            ({"where": "mars"}, "where"),
        ):
            with self.subTest(**typed):
                page = self.page(**(OAK | typed))
                self.assertEqual(page.status_code, 200)
                self.assertIn(field, page.context["form"].errors)
        self.assertContains(self.page(thickness_m="27"), "Say which wood")
        self.assertContains(self.page(**(OAK | {"target": "4", "thickness_m": "300"})), "No route gets it there")
        self.assertEqual(self.page(**(OAK | {"start": "8"})).status_code, 200)

    def test_hostile_values_are_answered(self):
        fields = self.page().context["form"].fields
        for nasty in ("9" * 400, "<script>alert(1)</script>", "nan", "-1e308"):
            page = self.page(**dict.fromkeys(fields, nasty))
            self.assertEqual(page.status_code, 200)
            self.assertNotContains(page, "<script>alert(1)")

    def test_a_piece_brings_its_moisture_and_a_place_without_air_says_so(self):
        owner = make_owner()
        self.client.force_login(owner.person)
        piece = make_board(owner, thickness_m=0.027)
        read_board(owner, piece, 24.0, 24.5, 23.8)
        address = reverse("ask_roads", args=[owner.workshop.slug])
        self.assertContains(self.client.get(reverse("piece", args=[owner.workshop.slug, piece.tag])), f"{address}?piece={piece.tag}")
        result = self.client.get(f"{address}?piece={piece.tag}").context["worked"]
        self.assertAlmostEqual(result.question.question.start, piece.moisture.mean, delta=6e-4)
        loft = make_place(owner, name="The loft")
        page = self.client.get(f"{address}?species_key=white+oak&home=place-{loft.pk}")
        self.assertContains(page, "The air of The loft is not known yet")


class Logs(TestCase):
    def page(self, **typed):
        limits.forget()
        return self.client.get(f"{reverse('anybody_log')}?{urlencode({'units': 'metric', **typed})}")

    def test_a_log_keeps_through_winter_and_not_through_summer_and_longer_with_sealed_ends(self):
        question = {"species_key": "sugar maple", "where": "four_seasons"}
        results = {
            name: self.page(**question, **more).context["worked"].keeps.saw_within
            for name, more in {
                "winter": {"felled": "2027-12-01"},
                "summer": {"felled": "2027-06-01"},
                "open": {"felled": "2027-12-01", "ends": "open"},
            }.items()
        }
        self.assertGreater(results["winter"], 2 * results["summer"])
        self.assertGreater(results["winter"], results["open"])

    def test_white_pine_stains_before_oak_does(self):
        pine, oak = (
            self.page(species_key=wood, felled="2027-05-01").context["worked"].keeps.stains for wood in ("eastern white pine", "white oak")
        )
        self.assertLess(pine, oak)

    def test_it_tells_what_a_round_splits_and_what_is_not_known(self):
        self.assertContains(self.page(species_key="white oak", diameter_m="400"), "wide at its rim")
        self.assertContains(self.page(species_key="wenge"), "nothing is said of its splits")
        self.assertContains(self.page(diameter_m="400"), "Say which wood")
        for typed, field in (
            ({"diameter_m": "0"}, "diameter_m"),
            ({"felled": "once"}, "felled"),
            ({"felled": "9999-12-31"}, "felled"),
            ({"where": "mars"}, "where"),
        ):
            self.assertIn(field, self.page(species_key="white oak", **typed).context["form"].errors)
