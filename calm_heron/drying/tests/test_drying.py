"""The page of a drying: the answer for pieces in stock and imagined ones, the air it is asked about, and what is typed wrong."""

import re
from datetime import timedelta

import numpy as np
from django.test import TestCase
from django.utils import timezone

from calm_heron.air.actions import record_air
from calm_heron.air.kinds import PlaceKind
from calm_heron.drying import methods, queries, words
from calm_heron.drying.queries import NoAir
from tests.counting import query_count
from tests.factories import make_aired_place, make_board, make_place, make_shop, read_board
from tests.pages import text_of
from wood.drying.methods import CHAMBER, SHED, SHOP, YARD
from wood.drying.questions import as_slab_of_log_m
from wood.units import METRIC


class DryingCase(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.owner, cls.place, cls.meter, _ = make_shop()
        cls.shop = f"/w/{cls.owner.workshop.slug}/"

    def setUp(self):
        self.client.force_login(self.owner.person)

    def ask(self, page: str = "drying/", **question):
        return self.client.get(self.shop + page, question)


class Imagined(DryingCase):
    def test_an_imagined_board_has_an_answer_at_once_with_band_months_and_both_views(self):
        page = self.ask()
        self.assertContains(page, "How long will it take to dry?")
        self.assertContains(page, "by ")
        self.assertContains(page, "eight boards in ten between")
        self.assertContains(page, 'aria-label="Days from each start month')
        self.assertContains(page, "inside the board, ")

    def test_the_fragment_is_the_answer_alone_and_for_one_screen_only_its_own_drawing(self):
        whole, narrow = self.ask(fragment="drying"), self.ask(fragment="drying", frame="narrow")
        self.assertNotContains(whole, "<form")
        self.assertContains(whole, 'viewBox="0 0 760')
        self.assertNotContains(narrow, 'viewBox="0 0 760')
        self.assertContains(narrow, 'viewBox="0 0 380')

    def test_thicker_wood_takes_longer_and_a_warm_chamber_less_long(self):
        def days(**question) -> float:
            return (
                self.ask(species_key="northern red oak", where="four_seasons", start_date="2026-05-01", **question).context["answer"].days
            )

        self.assertGreater(days(thickness_m="54 mm"), 1.8 * days(thickness_m="27 mm"))
        self.assertLess(days(by="chamber", temperature_c="45 C", humidity="60"), 0.5 * days())

    def test_as_dry_as_its_air_gets_it_is_a_target(self):
        page = self.ask(species_key="eastern white pine", where="four_seasons", start_date="2026-04-01", until="driest", target="20")
        question, days = page.context["question"], page.context["answer"].days
        self.assertAlmostEqual(question.target, question.driest + 0.01)
        self.assertGreater(question.driest, 0.10)
        # Stacked in April, pine is as dry as summer gets it within five to fourteen weeks in practice, oak later.
        self.assertTrue(5 <= days / 7 <= 14, days / 7)
        self.assertAlmostEqual(float(page.context["answer"].history.mean[-1]), question.target, delta=0.01)
        # A slow board is as dry as the yard gets it in its own season, not at the moisture of summer.
        self.assertLess(page.context["answer"].high, 1.6 * days)
        self.assertContains(page, "as dry as it gets there")
        oak = self.ask(species_key="white oak", where="four_seasons", start_date="2026-04-01", until="driest")
        self.assertGreater(oak.context["answer"].days, days)
        self.assertIsNone(self.ask(where="four_seasons", target="20").context["question"].driest)

    def test_what_cannot_be_reached_is_said_with_its_reason_and_the_next_step(self):
        page = text_of(self.ask(where="mild_coast", target="9"))
        self.assertIn("Not reached", page)
        self.assertIn("its driest month has an EMC of about", page)
        self.assertIn("Dry it here to about 20%, then bring it into a heated room", page)
        air_dried = text_of(self.ask(where="mild_coast", target="9", start="17"))
        self.assertIn("It is dry enough for a heated room now", air_dried)
        self.assertNotIn("Dry it here to", air_dried)

    def test_wood_that_is_there_or_drier_already_is_said_so(self):
        self.assertIn("It is there", text_of(self.ask(start="20", target="20")))
        self.assertIn("It is drier already", text_of(self.ask(start="4", target="12", by="chamber", humidity="20", temperature_c="50 C")))

    def test_a_species_nobody_has_figures_for_is_said_not_to_be_known(self):
        page = text_of(self.ask(species_key="wenge"))
        self.assertIn("Not known", page)
        self.assertIn("nothing is computed for it", page)

    def test_species_without_published_days_say_that_theirs_is_an_estimate(self):
        self.assertIn("estimated from its specific gravity", text_of(self.ask(species_key="european oak")))
        self.assertIn("that of a near relative, white ash", text_of(self.ask(species_key="european ash")))

    def test_risks_stand_with_their_cause_and_the_gravest_is_the_next_step(self):
        page = text_of(self.ask(species_key="white oak", by="chamber", temperature_c="60 C", humidity="30", thickness_m="54 mm"))
        self.assertIn("Checks in the faces likely", page)
        self.assertRegex(page, r"The shell reaches \d+(\.\d)?% on day 1 while the core is at \d+%")
        self.assertRegex(page, r"until a third of its water is gone it loses \d+\.\d points a day, and 1\.0 is considered safe")
        self.assertIn("Next. Checks in the faces are likely. Begin cooler and damper", page)
        self.assertIn("this wood bears 43.3°C while it is wet inside", page)
        self.assertIn("Hot kilns burn", page)

    def test_the_rule_of_thumb_and_published_days_stand_beside_the_answer(self):
        page = text_of(self.ask(thickness_m="50.8 mm"))
        self.assertIn("A year for every 25 mm of thickness would say 2.0 years; for 25 mm boards of it 80 to 250 days", page)
        self.assertNotIn("A year for every", text_of(self.ask(start="14", target="12", where="hot_desert")))

    def test_frost_is_named_where_it_stops_the_drying(self):
        winter = text_of(self.ask(where="cold_winter", start_date="2026-11-20", thickness_m="40 mm"))
        self.assertRegex(winter, r"For about \d+ weeks of it the air is below freezing")
        self.assertNotIn("below freezing", text_of(self.ask(where="mild_coast", thickness_m="27 mm")))


class Typed(DryingCase):
    def test_wrong_input_is_told_beside_its_field_and_stays(self):
        for name, text, complaint in (
            ("thickness_m", "oak", "is not a size"),
            ("thickness_m", "0", "is out of range"),
            ("thickness_m", "900 mm", "is out of range"),
            ("start", "-4", "is out of range"),
            ("target", "200", "is out of range"),
            ("start_date", "1 Nonember", "That isn’t a date"),
            ("start_date", "1920-01-01", "years away"),
            ("species_key", "plastic", "No species is called"),
            ("where", "the moon", "Select a valid choice"),
            ("by", "teleport", "Select a valid choice"),
            ("temperature_c", "900 C", "is out of range"),
            ("humidity", "140", "is out of range"),
        ):
            with self.subTest(name=name, text=text):
                page, fragment = self.ask(**{name: text}), self.ask(fragment="drying", **{name: text})
                self.assertContains(page, complaint)
                self.assertContains(page, text)
                self.assertContains(fragment, complaint)
                self.assertNotIn("eight boards in ten", text_of(page))

    def test_values_that_are_possible_alone_and_not_together_are_told_beside_their_field(self):
        page = self.ask(by="log", where="four_seasons", thickness_m="3 mm")
        self.assertContains(page, "A log’s diameter must lie between 10 mm and 2.00 m")
        self.assertContains(self.ask(by="log", where="four_seasons", thickness_m="3 mm", fragment="drying"), "A log’s diameter")

    def test_emptied_fields_fall_back_to_what_is_usual(self):
        page = self.ask(species_key="", thickness_m="", start="", target="", where="", by="", start_date="", wind="")
        self.assertEqual(page.status_code, 200)
        self.assertIn("eight boards in ten", text_of(page))

    def test_humidity_of_nought_and_a_hundred_are_answers(self):
        for humidity in ("0", "100"):
            page = self.ask(by="chamber", humidity=humidity, temperature_c="30 C")
            self.assertEqual(page.status_code, 200)
            self.assertNotIn("nan", text_of(page).lower().split())


class Air(DryingCase):
    def air_through_a_year(self, kind: PlaceKind, temperature_c: float, humidity: float, months: int = 12):
        place = make_place(self.owner, kind=kind)
        for month in range(months):
            record_air(self.owner, place, temperature_c, humidity, at=timezone.now() - timedelta(days=30 * month + 1))
        return place

    def around(self, place, method=YARD):
        return queries.surroundings([place], f"place-{place.pk}", methods.named(method.key), queries.today())

    def test_a_place_with_a_year_of_readings_stands_on_its_own_log(self):
        around = self.around(self.air_through_a_year(PlaceKind.STORE, 12.0, 0.7))
        self.assertIs(around.method.core, SHED)
        self.assertIn("its own readings, in", around.basis)
        self.assertAlmostEqual(float(around.setting.series.temperature_c.mean()), 12.0, delta=0.2)

    def test_a_few_weeks_of_readings_are_held_and_that_is_said(self):
        around = self.around(make_aired_place(self.owner, kind=PlaceKind.ROOM))
        self.assertIs(around.method.core, SHOP)
        self.assertIn("a year of it was not read", around.basis)
        self.assertLess(float(np.ptp(around.setting.series.settling)), 1e-3)

    def test_a_place_never_read_cannot_tell(self):
        place = make_place(self.owner)
        self.assertIsInstance(self.around(place), NoAir)
        self.assertIn("been read in recent months", text_of(self.ask(where=f"place-{place.pk}")))

    def test_a_yards_own_air_may_be_asked_about_every_outdoor_method(self):
        yard = self.air_through_a_year(PlaceKind.YARD, 10.0, 0.8)
        self.assertIs(self.around(yard, SHOP).method.core, SHOP)
        self.assertIs(self.around(yard, CHAMBER).method.core, CHAMBER)

    def test_another_workshops_place_is_not_offered(self):
        other, place, _, _ = make_shop(name="Other")
        self.assertNotEqual(other.workshop, self.owner.workshop)
        self.assertContains(self.ask(where=f"place-{place.pk}"), "Select a valid choice")


class WithoutFigures(TestCase):
    def test_thickness_alone_tells_between_what_it_lies(self):
        plum = {"species_key": "plum", "thickness_m": "27 mm"}
        page = text_of(self.client.get("/ask/drying/", plum | {"start": "14", "target": "9", "by": "shop"}))
        self.assertRegex(page, r"eastern white pine takes about [\d.]+ \w+ to 9\.?0?%, and as thick, white oak takes about [\d.]+ \w+ to")
        never = text_of(self.client.get("/ask/drying/", plum | {"target": "3"}))
        self.assertIn("how fast it dries is not known.", never)
        self.assertNotIn("in all likelihood", never)


class InStock(DryingCase):
    def board(self, *percents: float, days_apart: int = 14, **sizes):
        piece = make_board(self.owner, "white_oak", thickness_m=0.054, place=self.place, **sizes)
        for turn, percent in enumerate(percents):
            at = timezone.now() - timedelta(days=days_apart * (len(percents) - 1 - turn), hours=1)
            read_board(self.owner, piece, percent, percent, percent, meter=self.meter, at=at)
        return piece

    def test_a_piece_is_asked_from_its_reading_its_sizes_and_the_place_it_lies_in(self):
        piece = self.board(16.0)
        page = self.ask(f"stock/{piece.tag}/drying/")
        self.assertContains(page, f"How long will {piece.tag} take?")
        self.assertContains(page, 'value="16"')
        self.assertContains(page, "(as read)")
        self.assertIn("16.0% until it is ready or works with its place", text_of(page))

    def test_a_piece_that_is_ready_is_there_and_a_wet_one_is_asked_down_to_what_its_use_allows(self):
        ready, wet, dry = make_board(self.owner), self.board(16.0), self.board(6.0)
        read_board(self.owner, ready, 9.2, 9.3, 9.2, 9.2, meter=self.meter)
        self.assertIn("Ready now", text_of(self.ask(f"stock/{ready.tag}/drying/")))
        self.assertIn("ready to work about", text_of(self.ask(f"stock/{wet.tag}/drying/")))
        edges = [round(self.ask(f"stock/{piece.tag}/drying/").context["question"].target, 3) for piece in (wet, dry)]
        # The drying curve of that air and a point, the regaining one and a point.
        self.assertEqual(edges, [0.109, 0.076])

    def test_what_is_wanted_belongs_to_the_place_and_the_use_asked_about(self):
        damp = make_aired_place(self.owner, name="Porch", relative_humidity=0.7)
        piece = self.board(20.0)
        here = self.ask(f"stock/{piece.tag}/drying/").context["question"].target
        there = self.ask(f"stock/{piece.tag}/drying/", where=f"place-{damp.pk}").context["question"].target
        general = self.ask(f"stock/{piece.tag}/drying/", where=f"place-{damp.pk}", use="general").context["question"].target
        self.assertGreater(there, here + 0.03)
        self.assertGreater(general, there)

    def test_its_own_log_is_drawn_and_teaches_its_pace(self):
        piece = self.board(27, 22, 18.5, 16.0, 14.2, 12.7)
        page = self.ask(f"stock/{piece.tag}/drying/")
        self.assertIn("its own readings:", text_of(page))
        self.assertGreaterEqual(len(page.context["courses"][0].past), 5)
        # Six readings that fall far faster than 2-in oak does.
        self.assertGreater(page.context["learned"].factor_share, 1.2)

    def test_its_pace_is_learnt_where_it_lies_whatever_air_is_asked_about(self):
        piece = self.board(27, 22, 18.5, 16.0, 14.2, 12.7)
        paces = [
            self.ask(f"stock/{piece.tag}/drying/", where=where, thickness_m=size).context["learned"].factor_share
            for where, size in ((f"place-{self.place.pk}", "54 mm"), ("hot_desert", "27 mm"))
        ]
        self.assertAlmostEqual(*paces, places=9)

    def test_one_absurd_reading_is_named_and_left_out(self):
        piece = self.board(27, 24.5, 22.2, 7.0, 19, 17.5, 16.2)
        self.assertIn("is far out of line with the others and has been left out", text_of(self.ask(f"stock/{piece.tag}/drying/")))

    def test_readings_that_are_all_equal_are_said_to_be_level(self):
        piece = self.board(9.6, 9.6, 9.6, 9.6)
        self.assertIn("Its last readings are level", text_of(self.ask(f"stock/{piece.tag}/drying/")))

    def test_sealed_ends_are_known_from_the_piece(self):
        ends = {}
        for sealed in (True, False):
            piece = make_board(self.owner, "white_oak", seasoning="green", place=self.place, ends_sealed=sealed)
            ends[sealed] = self.ask(f"stock/{piece.tag}/drying/").context["question"].ends_sealed
        self.assertEqual(ends, {True: True, False: False})

    def test_an_unread_piece_starts_from_how_it_was_seasoned(self):
        green = make_board(self.owner, "white_oak", seasoning="green", place=self.place)
        self.assertEqual(self.ask(f"stock/{green.tag}/drying/").context["question"].start, 0.71)
        self.assertEqual(self.ask(f"stock/{make_board(self.owner).tag}/drying/").context["question"].start, 0.16)

    def test_the_number_of_queries_does_not_grow_with_the_log(self):
        few, many = self.board(30, 24, 20), self.board(*range(40, 16, -1), days_apart=3)
        addresses = [f"{self.shop}stock/{piece.tag}/drying/" for piece in (few, many)]
        for address in addresses:
            self.client.get(address)
        self.assertEqual(*(query_count(self.client, address) for address in addresses))

    def test_an_unknown_tag_is_not_found(self):
        self.assertEqual(self.ask("stock/nothing-99/drying/").status_code, 404)


class Drawn(DryingCase):
    def context(self, **question):
        return self.ask(species_key="white oak", where="four_seasons", start_date="2026-04-01", **question).context

    def test_the_inside_view_goes_from_wet_to_dry_and_lies_between_its_faces(self):
        course = self.context()["courses"][0]
        heights = [float(y) for _, cells in course.cells for y in re.findall(r"M[\d.]+ ([\d.]+)h", cells)]
        self.assertGreaterEqual(min(heights), course.inside_top)
        self.assertLess(max(heights), course.middle)
        self.assertGreater(len(course.cells), 8)

    def test_arrival_lies_on_the_wanted_moisture_at_the_answers_day(self):
        result = self.context()
        course, days = result["courses"][0], result["answer"].days
        last = float(result["answer"].history.days[-1])
        expected = course.left + (course.right - course.left) * days / last
        self.assertAlmostEqual(float(course.arrival[0]), expected, delta=0.2)
        self.assertAlmostEqual(float(course.arrival[1]), course.wanted_y, delta=0.1)

    def test_every_month_begins_on_its_next_first_and_the_longest_column_is_highest(self):
        strip = self.context()["strips"][0]
        today = queries.today()
        self.assertEqual([month.start.day for month in strip.months], [1] * 12)
        self.assertTrue(all(month.start >= today.replace(day=1) for month in strip.months))
        highest = max(strip.months, key=lambda month: float(month.height))
        self.assertEqual(highest.days, max((month.days for month in strip.months), key=int))

    def test_time_is_marked_in_days_months_and_years_by_its_length(self):
        for thickness, few in (("6 mm", 3), ("27 mm", 3), ("150 mm", 2)):
            ticks = self.context(thickness_m=thickness)["courses"][0].times
            self.assertTrue(few <= len(ticks) <= 14, (thickness, [tick.label for tick in ticks]))

    def test_spans_are_said_as_people_say_them(self):
        self.assertEqual(
            [words.span(days) for days in (0.2, 1, 9, 98, 300, 900)], ["hours", "a day", "9 days", "14 weeks", "10 months", "2.5 years"]
        )
        self.assertEqual(words.band_of(98, 70, 140), "10 to 20 weeks")
        self.assertEqual(words.band_of(40, 30, float("inf")), "from 30 days; the slowest in ten take over 10 years")

    def test_every_kind_of_risk_has_its_sentence(self):
        from wood.drying.defects import assess
        from wood.species import species_named

        result = self.context(thickness_m="54 mm")
        around = result["around"]
        risks = assess(
            result["answer"].history, species_named("white_oak"), result["pace"], 0.054, 0.71, around.setting.series, ends_sealed=False
        )
        self.assertEqual({risk.kind for risk in risks}, set(words.NAMES))
        for risk in risks:
            spoken = words.describe_risk(risk, METRIC, around.method)
            self.assertTrue(spoken.cause.endswith("."), spoken.cause)
            self.assertTrue(spoken.advice.endswith("."), spoken.advice)

    def test_a_log_is_drawn_and_dried_as_a_log(self):
        page = self.ask(species_key="white oak", where="four_seasons", by="log", thickness_m="400 mm", length_m="2.4 m")
        self.assertContains(page, "inside the log")
        self.assertGreater(page.context["answer"].days, 730)
        self.assertAlmostEqual(page.context["answer"].history.depths_m[-1], as_slab_of_log_m(0.4) / 2, delta=0.02)
