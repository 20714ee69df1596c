"""What things will do once they are built, as members and strangers ask it."""

import re
from urllib.parse import urlencode

from django.test import TestCase, override_settings
from django.urls import reverse

from calm_heron.movement.things import homes, queries
from calm_heron.movement.things.forms import STOPS, ThingForm
from calm_heron.movement.things.plates import _band_told
from calm_heron.movement.things.registry import THINGS
from calm_heron.movement.things.scene import draw
from calm_heron.movement.things.thing import fate_of, slowed, too_wet
from calm_heron.questions.tools import tool
from calm_heron.workshops import limits
from calm_heron.workshops.askers import Asker, NoWorkshop, Stranger
from tests.factories import make_aired_place, make_board, make_lot, make_owner, make_place, read_board
from tests.pages import text_of
from wood.movement import course as courses
from wood.movement import shrinkage
from wood.movement.shrinkage import size_ratio
from wood.movement.soundboards import SafeBand
from wood.species import species_named
from wood.units import INCH, METRIC, length_m

COLD = {"home": homes.HEATED, "climate": "cold_winter"}


def form_of(key: str, system=METRIC, **typed) -> ThingForm:
    """A stranger's form with the thing's example in it, and what is typed over that."""
    return tool(f"made_{key}").form(THINGS[key].defaults(system) | typed, asker=Asker(Stranger(NoWorkshop(system))))


def worked(key: str, **typed):
    """The question and the figures of a thing."""
    form = form_of(key, **typed)
    form.is_valid()
    question = queries.question_from(form)
    return question, THINGS[key].work(question)


class Asking(TestCase):
    def setUp(self):
        limits.forget()

    def page(self, key: str, **typed):
        limits.forget()
        return self.client.get(f"{reverse(f'anybody_made_{key}')}?{urlencode(typed)}")


class AnyThing(Asking):
    def test_every_thing_answers_by_its_example_in_both_systems(self):
        for key, thing in THINGS.items():
            for units in ("inch", "metric"):
                with self.subTest(key, units=units):
                    page = self.page(key, units=units)
                    self.assertContains(page, thing.asks)
                    self.assertEqual(page.context["form"].errors, {})
                    self.assertIn("presentation", page.context)
                    self.assertContains(page, "If it kept up with the air")
                    words = text_of(page)
                    self.assertNotIn(" nan", words)
                    self.assertNotRegex(words, r"\b\d+ mm\b" if units == "inch" else r"\d in\b(?! in)(?= [a-z]*$)")

    def test_every_thing_is_drawn_in_every_month_and_never_jumps(self):
        for key, thing in THINGS.items():
            question, result = worked(key, **COLD)
            built, low, high = (
                thing.scene(question, result, at) for at in (question.course.built, question.course.low, question.course.high)
            )
            sizes = set()
            for stop in range(0, STOPS + 1, 3):
                moisture = question.course.at(stop * courses.COURSE_DAYS / STOPS)
                drawn = draw(thing.scene(question, result, moisture), built, (low, high), moisture, None)
                sizes.add((drawn.width, drawn.height, drawn.times))
                self.assertNotIn("nan", "".join(shape.d for shape in drawn.shapes))
            with self.subTest(key):
                self.assertLessEqual(len(sizes), 2)

    def test_answer_table_and_drawing_are_of_one_course(self):
        question, result = worked("top", **COLD)
        strip = question.strip(0.9)
        self.assertAlmostEqual(result.swing.least_m, float(strip.width_at(question.course.built, question.course.low)))
        at_the_driest = THINGS["top"].scene(question, result, question.course.low)
        self.assertEqual(at_the_driest.dimensions[0].text, question.size(result.swing.least_m))
        page = self.page("top", **COLD, species_key="white oak", width_m=900, boards=6, thickness_m=22)
        self.assertContains(page, question.size(result.swing.range_m))

    def test_a_finish_slows_and_does_not_stop(self):
        bare, oiled, varnished = (
            worked("board", **COLD, finish=finish, coats=coats)[1].swing.range_m
            for finish, coats in (("", ""), ("linseed_oil", "3"), ("urethane_varnish", "3"))
        )
        self.assertTrue(0 < varnished < oiled <= bare)
        question, _ = worked("board", **COLD, finish="urethane_varnish", coats="3")
        self.assertIn("bare it would make", slowed(question))
        self.assertLess(question.course.share, question.bare.share)

    def test_boards_on_a_heated_floor_live_in_drier_air(self):
        room, floor = (worked("floor", home=home, climate="cold_winter")[0].course.low for home in (homes.HEATED, homes.FLOOR))
        self.assertLess(floor, room - 0.005)

    def test_a_year_of_a_panel_of_alike_boards_is_run_once(self):
        before = len(queries._courses._known)
        worked("top", **COLD, thickness_m="23.5")
        self.assertEqual(len(queries._courses._known), before + 1)
        worked("breadboard", **COLD, species_key="white oak", thickness_m="23.5")
        self.assertEqual(len(queries._courses._known), before + 1)

    def test_the_slider_asks_for_a_month_and_the_answer_stays(self):
        first, later = (self.page("top", fragment="answer", species_key="white oak", **COLD, stop=stop) for stop in (0, 4))
        figure = re.compile(r'class="figure">([^<]*)')
        self.assertEqual(figure.search(first.content.decode())[1], figure.search(later.content.decode())[1])
        self.assertContains(first, "On the day")
        self.assertNotContains(later, "On the day:")


class WhatTheyTell(TestCase):
    def test_a_top_built_damp_and_glued_down_in_a_cold_country_will_split_and_one_built_dry_is_safer(self):
        damp, dry = (worked("top", **COLD, built=built)[1].held[0][1] for built in ("12", "6"))
        self.assertEqual(damp.fate.value, "splits")
        self.assertLess(dry.chance, damp.chance)
        question, _ = worked("top", **COLD, built="12")
        self.assertIn("it will split", fate_of(question, damp, "Glued"))

    def test_the_panel_of_a_frame_fits_at_the_dampest_and_holds_at_the_driest(self):
        question, result = worked("panel", **COLD)
        panel = result.result.panel
        across = question.shrinkage.at_ring_angle(question.ring_angle_deg)
        widest = panel.panel_m * size_ratio(across, question.course.built, question.course.high, question.shrinkage.fibre_saturation)
        self.assertLess(widest, 0.35 + 2 * 0.010)
        self.assertTrue(panel.holds)
        shallow = THINGS["panel"].present(*worked("panel", **COLD, groove_m="3"))
        self.assertIn("too shallow", shallow.reason)

    def test_a_tray_pushes_inside_its_sides_and_not_outside(self):
        (_, inside), (_, outside) = worked("tray", where="inside"), worked("tray", where="outside")
        self.assertGreater(inside.result.pressed.newtons_per_m, 1000)
        self.assertIsNone(outside.result.pressed)
        self.assertEqual(outside.held, ())
        roomy = worked("tray", gap_m="3")[1]
        self.assertEqual(roomy.result.between.overfull_m, 0.0)

    def test_decking_laid_wet_is_laid_tight_pith_side_up_and_dry_decking_apart(self):
        wet, dry = (THINGS["deck"].present(*worked("deck", built=built)) for built in ("30", "12"))
        self.assertEqual(wet.figure, "No gap")
        self.assertIn("pith side up", wet.todo[0])
        self.assertIn("mm", dry.figure)
        self.assertIn("bark side up", dry.todo[0])

    def test_rain_is_counted_outdoors_and_a_named_wet_season_anywhere(self):
        self.assertAlmostEqual(worked("deck")[0].course.second_year[1], 0.20, places=4)
        self.assertAlmostEqual(worked("deck", wet="25")[0].course.second_year[1], 0.25, places=4)
        self.assertLess(worked("deck", home=homes.HEATED)[0].course.second_year[1], 0.15)

    def test_fret_ends_stand_out_in_a_dry_winter_and_hardly_in_a_damp_one(self):
        dry, mild = (
            worked("neck", built="9", home=homes.HEATED, climate=climate)[1].result.proud_m for climate in ("deep_cold", "mild_coast")
        )
        self.assertGreater(dry, 0.00005)
        self.assertLess(mild, dry)

    def test_a_soundboard_bears_less_the_damper_it_was_built(self):
        dry, damp = (worked("plate", built=built)[1].result.band for built in ("7", "10"))
        self.assertLess(dry.low, damp.low)

    def test_a_band_that_is_empty_is_said_to_be_none_and_wet_wood_is_sent_to_dry(self):
        question, _ = worked("plate", built="25")
        self.assertIn("let it dry before you build", too_wet(question))
        self.assertEqual(_band_told(SafeBand(0.4, 0.4, 0.08, 0.08), question)[0], "No such band")
        self.assertEqual(too_wet(worked("plate")[0]), "")

    def test_a_deck_is_laid_of_boards_fresh_from_their_treatment(self):
        answer = self.client.get("/movement/of/deck/", {"species_key": "SYP", "built": "75", "width_m": "140", "thickness_m": "28"})
        self.assertContains(answer, "lay them tight")
        self.assertEqual(answer.context["form"].errors, {})

    def test_a_narrow_joint_holds_and_an_edging_is_not_judged(self):
        narrow = THINGS["joint"].present(*worked("joint", **COLD, width_m="40", built="9"))
        self.assertEqual(narrow.figure, "It will hold")
        self.assertEqual(worked("joint", kind="edging")[1].held, ())
        self.assertIn("mm", THINGS["joint"].present(*worked("joint", kind="sheet")).rows[1][1])

    def test_a_floor_begun_damp_tells_its_gaps(self):
        question, result = worked("floor", **COLD, built="10")
        boards = result.result.floor.boards
        self.assertAlmostEqual(result.result.floor.per_board_m * boards, result.swing.shrink_m)
        self.assertAlmostEqual(sum(question.strips(4.2, boards)[0].width_m for _ in range(boards)), 4.2)

    def test_boards_one_by_one_move_each_by_its_own(self):
        question, result = worked("top", each="150; 100 quarter; 150 black walnut")
        walnut = shrinkage.of_species(species_named("black_walnut"))
        self.assertEqual(
            [(strip.ring_angle_deg, round(strip.width_m, 3)) for strip in result.result.strips], [(0, 0.15), (90, 0.1), (0, 0.15)]
        )
        self.assertEqual(result.result.strips[2].shrinkage.tangential, walnut.tangential)
        self.assertAlmostEqual(result.swing.built_m, 0.4)
        self.assertEqual(question.species.key, "white_oak")


class BadInput(Asking):
    # What is typed, the field it is complained of beside, and a word of the complaint.
    WRONG = (
        ("top", {"width_m": "0"}, "width_m", "out of range"),
        ("top", {"width_m": "-3"}, "width_m", "out of range"),
        ("top", {"width_m": "wide"}, "width_m", "not a size"),
        ("top", {"boards": "0"}, "boards", "1 to 60"),
        ("top", {"boards": "many"}, "boards", "whole number"),
        ("top", {"drawn": "0"}, "drawn", "1 to 50"),
        ("top", {"drawn": "big"}, "drawn", "1 to 50"),
        ("top", {"each": "oak 5"}, "each", "Board 1"),
        ("top", {"each": "150; 150 no such wood"}, "each", "Board 2"),
        ("top", {"each": "0.1 flat"}, "each", "between"),
        ("top", {"finish": "shellac", "coats": "9"}, "coats", "1 to 6"),
        ("top", {"finish": "linseed_oil", "coats": "5"}, "coats", "1 to 3 coats"),
        ("top", {"home": "typed", "low": "10", "high": "8"}, "high", "above the driest"),
        ("top", {"home": "nowhere"}, "home", "valid"),
        ("top", {"built": "90"}, "built", "out of range"),
        ("top", {"thickness_m": "900 kg"}, "thickness_m", "not a size"),
        ("panel", {"groove_m": "50", "rail_m": "56"}, "groove_m", "between"),
        ("drawer", {"gap_m": "20", "opening_m": "40"}, "gap_m", "between"),
        ("tray", {"gap_m": "30", "boards": "20", "width_m": "300"}, "gap_m", "between"),
        ("plate", {"room_c": "90 C"}, "room_c", "out of range"),
    )

    def test_each_mistake_is_told_beside_its_field_and_nothing_typed_is_lost(self):
        for key, typed, field, word in self.WRONG:
            with self.subTest(key, **typed):
                all_typed = THINGS[key].defaults(METRIC) | {"length_m": "777"} | typed
                page = self.page(key, units="metric", **all_typed)
                self.assertEqual(page.status_code, 200)
                self.assertIn(word, " ".join(page.context["form"].errors.get(field, ["no error"])))
                self.assertContains(page, f'value="{typed[field]}"' if field not in ("home", "each") else typed[field])
                alone = self.page(key, units="metric", fragment="answer", **all_typed)
                self.assertContains(alone, f'data-for="f-{field}"')

    def test_what_is_missing_is_asked_for(self):
        self.assertContains(self.page("top", width_m="900"), "Say which wood")
        self.assertContains(self.page("top", species_key="white oak", home="typed", low="6"), "Give the moistures")
        self.assertContains(self.page("top", species_key="wenge"), "Not known")
        self.assertEqual(self.client.get("/movement/of/sledge/").status_code, 404)

    def test_hostile_and_huge_values_are_answered(self):
        for nasty in ("9" * 400, "<script>alert(1)</script>", "-1e308", "nan", "5/0", "'" * 200, "∞"):
            for key in THINGS:
                form = form_of(key)
                page = self.page(key, **dict.fromkeys(form.fields, nasty))
                self.assertEqual(page.status_code, 200, (key, nasty))
                self.assertNotContains(page, "<script>alert(1)")


class InAWorkshop(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.owner = make_owner()

    def setUp(self):
        self.client.force_login(self.owner.person)

    def at(self, name, *args):
        return reverse(name, args=[self.owner.workshop.slug, *args])

    def test_a_piece_and_a_lot_bring_their_own_sizes_grain_and_moisture(self):
        make_aired_place(self.owner)
        board = make_board(self.owner, width_m=0.21, thickness_m=0.027, ring_angle_deg=33.0)
        read_board(self.owner, board, 9.1, 9.3, 9.2)
        self.assertContains(self.client.get(self.at("piece", board.tag)), f"?piece={board.tag}")
        chooser = self.client.get(f"{self.at('ask_made')}?piece={board.tag}")
        self.assertContains(chooser, f"{self.at('ask_made_board')}?piece={board.tag}")
        page = self.client.get(f"{self.at('ask_made_board')}?piece={board.tag}")
        question = page.context["put"].question
        self.assertEqual((question.ring_angle_deg, round(question.thickness_m, 4)), (33.0, 0.027))
        self.assertAlmostEqual(page.context["worked"].swing.built_m, 0.21)
        self.assertAlmostEqual(question.course.built, board.moisture.mean, delta=6e-4)
        lot = make_lot(self.owner, 40, width_m=0.12)
        top = self.client.get(f"{self.at('ask_made_top')}?piece={lot.tag}").context["worked"]
        self.assertAlmostEqual(top.swing.built_m, 8 * 0.12)

    def test_a_strangers_piece_is_none(self):
        other = make_board(make_owner(name="Elsewhere"))
        page = self.client.get(f"{self.at('ask_made_board')}?piece={other.tag}")
        self.assertIsNone(page.context["subject"])

    def test_a_place_without_a_year_takes_the_pattern_and_says_so(self):
        place = make_place(self.owner, name="The old loft")
        page = self.client.get(f"{self.at('ask_made_top')}?species_key=white+oak&home=place-{place.pk}")
        self.assertContains(page, "No year of The old loft is known")
        self.assertEqual(page.context["put"].question.home.instead, "The old loft")

    def test_every_page_stands_in_the_workshop_and_knows_its_places(self):
        make_aired_place(self.owner, name="The dry loft")
        for name, args in (("ask_made", ()), ("ask_season", ()), ("ask_elsewhere", ()), *((f"ask_made_{key}", ()) for key in THINGS)):
            page = self.client.get(self.at(name, *args))
            self.assertContains(page, 'aria-current="page"')
            if name != "ask_made":
                self.assertContains(page, "The dry loft")

    @override_settings(DEBUG=False)
    def test_pages_ask_the_database_little_however_much_there_is(self):
        for _ in range(3):
            make_board(self.owner)
        self.client.get(self.at("ask_made_top"))
        with self.assertNumQueries(FuzzyAtMost(16)):
            self.client.get(self.at("ask_made_top"))


class FuzzyAtMost(int):
    """A number that anything up to it equals."""

    def __eq__(self, other) -> bool:
        return other <= int(self)

    __hash__ = int.__hash__


def woods_of(page) -> list:
    """The lines of the season dial."""
    shown = (part for part in page.context["presented_parts"] if part.get("drawing_template", "").endswith("woods.html"))
    return next(shown)["drawings"][0][1].lines


class SeasonAndElsewhere(Asking):
    def test_the_dial_lists_every_wood_and_shows_one_through_its_year(self):
        page = self.client.get(reverse("anybody_season"), {"units": "inch", "species_key": "white oak", "which": "all", **COLD})
        self.assertContains(page, "European beech")
        self.assertContains(page, "Not known:")
        lines = woods_of(page)
        self.assertEqual([line.season.flat_m for line in lines], sorted(line.season.flat_m for line in lines))
        real = page.context["worked"].real
        self.assertLess(real.flat_m, real.season.flat_m)
        by_name = woods_of(self.client.get(reverse("anybody_season"), {"sort": "name"}))
        names = [line.season.species.common_name.casefold() for line in by_name]
        self.assertEqual(names, sorted(names))

    def test_a_season_between_named_moistures_is_what_arithmetic_says(self):
        page = self.client.get(reverse("anybody_season"), {"units": "inch", "width_m": "12", "home": "typed", "low": "6", "high": "10"})
        cherry = next(line.season for line in woods_of(page) if line.season.species.key == "black_cherry")
        figures, foot = shrinkage.of_species(species_named("black_cherry")), length_m("12", INCH)
        by_hand = foot * (size_ratio(figures.tangential, 0.08, 0.10) - size_ratio(figures.tangential, 0.08, 0.06))
        self.assertAlmostEqual(cherry.flat_m, by_hand)
        wrong = self.client.get(reverse("anybody_season"), {"home": "typed", "low": "12", "high": "10"})
        self.assertContains(wrong, "above the driest")

    def test_a_piece_that_moves_to_a_dry_country_shrinks_and_back_grows(self):
        def moved(here: str, there: str):
            limits.forget()
            return self.client.get(
                reverse("anybody_elsewhere"),
                {
                    "species_key": "white oak",
                    "width_m": "900 mm",
                    "home": "heated",
                    "climate": here,
                    "to_home": "heated",
                    "to_climate": there,
                },
            )

        out, back = moved("mild_coast", "hot_desert"), moved("hot_desert", "mild_coast")
        there, again = (page.context["worked"] for page in (out, back))
        self.assertGreater(there.swing.shrink_m, 0.004)
        self.assertLess(there.swing.growth_m, there.swing.shrink_m)
        self.assertGreater(again.swing.growth_m, 0.004)
        # It arrives as it left: the course there begins where the one here ended.
        self.assertEqual(there.course.built, float(there.before.mean[-1]))
        self.assertContains(out, "may split" if there.held.fate.value == "may_split" else "will")

    def test_what_is_missing_and_wrong_is_told(self):
        address = reverse("anybody_elsewhere")
        self.assertContains(self.client.get(address, {"width_m": "900"}), "Say which wood")
        self.assertContains(self.client.get(address, {"species_key": "wenge"}), "Not known")
        self.assertContains(
            self.client.get(address, {"species_key": "white oak", "to_home": "typed", "to_low": "9", "to_high": "7"}), "above the driest"
        )
        self.assertContains(self.client.get(address, {"species_key": "white oak", "to_home": "typed"}), "the moistures")
