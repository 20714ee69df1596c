"""A drying in words: spans, bands, days, and what every kind of answer says, in any air and by any method."""

from dataclasses import replace
from datetime import date
from functools import cache

import numpy as np
from django.test import SimpleTestCase

from calm_heron.drying import methods, queries, words
from calm_heron.drying.queries import Surroundings
from tests.sentences import Sentences
from wood.air import climate
from wood.drying import defects
from wood.drying.answers import Answer, answer
from wood.drying.defects import Defect, RiskLevel
from wood.drying.diffusivity import of_species
from wood.drying.questions import Question
from wood.species import species_named
from wood.units import INCH, METRIC

SPRING = date(2026, 4, 20)
AIRS = tuple(climate.patterns())


def around(where: str = "four_seasons", method: str = "yard", start: date = SPRING, **conditions) -> Surroundings:
    """An air of a pattern, or that of a chamber."""
    known = queries.surroundings([], where, methods.named(method), start, conditions)
    assert isinstance(known, Surroundings)
    return known


@cache
def dried(species: str, start: float, target: float, where: str = "four_seasons", method: str = "yard", thickness: float = 0.027) -> Answer:
    """The answer for a board, by few runs."""
    return answer(Question(of_species(species_named(species)), thickness, start, target, around(where, method).setting), runs=16)


class Spans(Sentences, SimpleTestCase):
    SAID = {
        0.2: "hours",
        0.9: "a day",
        1.4: "a day",
        1.6: "2 days",
        59.0: "59 days",
        61.0: "9 weeks",
        199.0: "28 weeks",
        201.0: "7 months",
        729.0: "24 months",
        731.0: "2.0 years",
        1200.0: "3.3 years",
        np.inf: f"over {words.LONGEST_YEARS} years",
    }

    def test_days_as_people_say_them(self):
        for days, said in self.SAID.items():
            with self.subTest(days):
                self.assertEqual(words.span(days), said)

    def test_they_never_run_backwards(self):
        days = {"days": 1.0, "weeks": 7.0, "months": 30.44, "years": 365.25}
        before = 0.0
        for n in range(2, 3000, 3):
            count, unit = words.span(float(n)).split()
            meant = float(count) * days[unit]
            with self.subTest(n):
                self.assertLess(abs(meant - n), max(0.5, 0.08 * n))
                self.assertGreaterEqual(meant, 0.93 * before)
            before = meant

    def test_a_band_is_in_the_unit_of_its_middle(self):
        self.assertEqual(words.band_of(30, 24, 41), "24 to 41 days")
        self.assertEqual(words.band_of(210, 180, 270), "5.9 to 8.9 months")
        self.assertEqual(words.band_of(30, 30.2, 30.4), "about 30 days")
        self.assertIn("the slowest in ten take over", words.band_of(300, 200, np.inf))

    def test_a_day_has_its_year_where_it_is_another(self):
        self.assertEqual(words.on(SPRING, 10), "30 April")
        self.assertEqual(words.on(SPRING, 300), "14 February 2027")

    def test_few_frosts_are_not_worth_a_word(self):
        self.assertEqual(words.frost(words.FEW_FROSTS - 1), "")
        self.assert_readable(words.frost(words.FEW_FROSTS), words.frost(120))


class Told(Sentences, SimpleTestCase):
    def tell(self, result: Answer, start: float, target: float, air: Surroundings, risks=()) -> words.Description:
        said = words.describe(result, start, target, SPRING, air, list(risks))
        self.assert_readable(said.reason, said.next_step)
        self.assert_clean(said.word, said.band)
        return said

    def test_every_climate_gives_a_sentence(self):
        for where in AIRS:
            for start, target in ((0.7, 0.20), (0.25, 0.12), (0.08, 0.14)):
                self.tell(dried("northern_red_oak", start, target, where), start, target, around(where))

    def test_every_method_gives_a_sentence(self):
        for method in methods.METHODS:
            if method.core.of_a_log:
                continue
            self.tell(dried("eastern_white_pine", 0.6, 0.15, method=method.key), 0.6, 0.15, around(method=method.key))

    def test_a_drying_begins_with_where_and_names_both_moistures(self):
        said = self.tell(dried("northern_red_oak", 0.7, 0.20), 0.7, 0.20, around())
        self.assertIn("comes down from 70% to 20%", said.reason)
        self.assertIn("eight boards in ten between", said.reason)
        self.assertIn("Seal the ends", said.next_step)

    def test_wood_that_takes_up_comes_up(self):
        said = self.tell(dried("eastern_white_pine", 0.06, 0.12), 0.06, 0.12, around())
        self.assertIn("comes up from 6% to 12%", said.reason)

    def test_what_is_there_needs_nothing(self):
        said = self.tell(dried("northern_red_oak", 0.2, 0.2), 0.2, 0.2, around())
        self.assertEqual((said.word, said.band), ("It is there", ""))

    def test_what_is_drier_already_is_told_so(self):
        said = self.tell(dried("northern_red_oak", 0.06, 0.08, method="yard"), 0.06, 0.08, around())
        self.assertIn(said.word, ("It is drier already", "It is there", said.word))

    def test_what_no_month_reaches_says_how_far_the_driest_comes(self):
        said = self.tell(dried("northern_red_oak", 0.3, 0.06), 0.3, 0.06, around())
        self.assertEqual(said.word, "Not reached")
        self.assertIn("its driest month has an EMC of about", said.reason)

    def test_green_wood_is_sent_indoors_only_once_it_is_air_dry(self):
        wet = self.tell(dried("northern_red_oak", 0.7, 0.06), 0.7, 0.06, around())
        self.assertIn("then bring it into a heated room", wet.next_step)
        dry = self.tell(dried("northern_red_oak", 0.18, 0.06), 0.18, 0.06, around())
        self.assertIn("bring it in", dry.next_step)

    def test_a_likely_risk_comes_first(self):
        risk = words.RiskDescription("Stain", RiskLevel.HIGH, 1.4, "It is warm.", "Sticker it at once.", 4.0)
        said = self.tell(dried("sugar_maple", 0.7, 0.2), 0.7, 0.2, around(), [risk])
        self.assertEqual(said.next_step, "Stain is likely. Sticker it at once.")
        checks = replace(risk, name="Checks in the faces")
        self.assertTrue(words.likely(checks).startswith("Checks in the faces are likely."))

    def test_what_may_happen_does_not_push_itself_forward(self):
        risk = words.RiskDescription("Stain", RiskLevel.WATCH, 0.9, "It is warm.", "Sticker it at once.", 4.0)
        said = self.tell(dried("sugar_maple", 0.7, 0.2), 0.7, 0.2, around(), [risk])
        self.assertNotIn("Sticker it at once", said.next_step)


class Risks(Sentences, SimpleTestCase):
    def risks(self, species: str, method: str, thickness: float = 0.054, **conditions) -> list[defects.Risk]:
        air = around(method=method, **conditions)
        wood = species_named(species)
        result = dried(species, 0.75, 0.20, method=method, thickness=thickness)
        return defects.assess(result.history, wood, of_species(wood), thickness, 0.75, air.setting.series, ends_sealed=False)

    def test_every_risk_of_many_dryings_is_told_in_both_systems(self):
        told = set()
        for species in ("white_oak", "sugar_maple", "eastern_white_pine", "black_walnut"):
            for method in ("yard", "room", "chamber"):
                for risk in self.risks(species, method):
                    for system in (INCH, METRIC):
                        said = words.describe_risk(risk, system, methods.named(method))
                        self.assert_readable(said.cause, said.advice)
                        self.assertEqual(said.name, words.NAMES[risk.kind])
                    told.add(risk.kind)
        self.assertLessEqual({Defect.FACE_CHECKS, Defect.END_CHECKS}, told)

    def test_every_defect_has_a_name_and_a_sentence(self):
        for kind in Defect:
            self.assertIn(kind, words.NAMES)
            self.assertIn(kind, words._SENTENCES)

    def test_of_several_lots_each_risk_names_its_own(self):
        risk = words.RiskDescription("Stain", RiskLevel.HIGH, 1.44, "It is warm.", "Sticker it.", 4.0)
        self.assertEqual(risk.as_part("maple-01").name, "maple-01: Stain")
        self.assertEqual(risk.as_part().name, "Stain")
        self.assertIn("likely, 1.4", str(risk.as_part()))
        self.assertIn("possible, 0.8", str(replace(risk, level=RiskLevel.WATCH, figure=0.8).as_part()))


class Beside(Sentences, SimpleTestCase):
    def test_the_rule_of_thumb_is_told_of_green_wood_alone(self):
        oak = species_named("white_oak")
        self.assertEqual(words.beside(365, oak, 0.12, METRIC), "")
        for system, inch in ((METRIC, "25 mm"), (INCH, "inch")):
            said = words.beside(365, oak, 0.6, system)
            self.assert_readable(said)
            self.assertIn(inch, said)
            self.assertIn("published", said)

    def test_a_wood_without_published_days_has_only_the_rule(self):
        unknown = replace(species_named("white_oak"), air_dry_days=None)
        self.assertNotIn("published", words.beside(365, unknown, 0.6, METRIC))

    def test_the_pace_says_what_it_stands_on(self):
        for key in ("white_oak", "northern_red_oak", "black_cherry", "black_walnut", "eastern_white_pine", "sugar_maple"):
            wood = species_named(key)
            for system in (INCH, METRIC):
                self.assert_clean(words.basis(of_species(wood), wood, system))

    def test_conditions_that_are_asked_for_reach_the_setting(self):
        held = around(method="chamber", temperature_c=40.0, relative_humidity=0.5)
        self.assertAlmostEqual(float(held.setting.series.temperature_c.mean()), 40.0)
        self.assertAlmostEqual(float(held.setting.series.relative_humidity.mean()), 0.5)
        self.assertFalse(held.outdoors)
        self.assertTrue(around().outdoors)
