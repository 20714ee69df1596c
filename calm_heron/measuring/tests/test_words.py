"""Readings in words: every warning, every step from what was shown to what it means, where it was taken, and what the log says."""

from types import SimpleNamespace

from django.test import SimpleTestCase, TestCase

from calm_heron.measuring import words
from calm_heron.measuring.kinds import Method, SlabTestKind
from calm_heron.measuring.models import Reading
from calm_heron.measuring.templatetags import meter_words
from tests.factories import make_shop, read_board
from tests.sentences import Sentences
from wood.measuring.readings import StepKind, Warn
from wood.units import INCH, METRIC


class Warnings(Sentences, SimpleTestCase):
    def test_every_code_has_a_sentence_of_its_own(self):
        self.assertEqual(set(words.WARNINGS), set(Warn))
        self.assertEqual(len(set(words.WARNINGS.values())), len(Warn))
        self.assert_readable(*words.WARNINGS.values())

    def test_each_is_said_once_in_the_order_they_came(self):
        said = words.warning_sentences([Warn.FROST.value, Warn.METAL.value, Warn.FROST.value])
        self.assertEqual(said, [words.WARNINGS[Warn.FROST], words.WARNINGS[Warn.METAL]])

    def test_a_code_of_another_version_is_passed_over(self):
        self.assertEqual(words.warning_sentences(["moonlight", ""]), [])

    def test_what_does_not_count_says_so(self):
        for code in (Warn.THINNER_THAN_DEPTH, Warn.WET_SURFACE, Warn.HAND_BEHIND, Warn.METAL):
            self.assertIn("Not counted", words.WARNINGS[code])


class Steps(Sentences, SimpleTestCase):
    FIGURES = {
        StepKind.CHECK_ADDS: {"adds": -0.004},
        StepKind.WOOD_TEMPERATURE: {"temperature_c": 5.0},
        StepKind.SPECIES_SCALE: {"species": "white oak"},
        StepKind.DENSITY: {"species": "white oak", "setting": 0.5, "specific_gravity": 0.6},
    }

    def test_every_step_is_told(self):
        for kind in words.STEPS:
            for system in (INCH, METRIC):
                (step,) = words.describe_steps([{"kind": kind.value, "moisture": 0.11, "figures": self.FIGURES.get(kind, {})}], system)
                self.assert_clean(step.what, step.source)
                self.assertEqual(step.moisture, 0.11)

    def test_temperatures_are_the_readers(self):
        step = {"kind": StepKind.WOOD_TEMPERATURE.value, "moisture": 0.11, "figures": {"temperature_c": 5.0}}
        self.assertIn("5°C", words.describe_steps([step], METRIC)[0].what)
        self.assertIn("41°F", words.describe_steps([step], INCH)[0].what)

    def test_what_a_check_takes_off_has_a_true_minus(self):
        step = {"kind": StepKind.CHECK_ADDS.value, "moisture": 0.11, "figures": {"adds": -0.004}}
        self.assertIn("−0.4", words.describe_steps([step], METRIC)[0].what)

    def test_steps_from_before_there_were_codes_stay_as_they_were_written(self):
        step = {"kind": StepKind.AS_WRITTEN.value, "moisture": 0.1, "figures": {"name": "scale for oak", "source": "FPL-GTR-6"}}
        (said,) = words.describe_steps([step], METRIC)
        self.assertEqual((said.what, said.source), ("scale for oak", "FPL-GTR-6"))


class InTheLog(Sentences, SimpleTestCase):
    def said(self, what: str, system=METRIC, **data) -> str:
        text = {**words.LOG_OF_READINGS, **words.LOG_OF_METERS}[what]
        said = text.format(subject="oak-01", **data) if isinstance(text, str) else text({"subject": "oak-01", **data}, system)
        self.assert_clean(said)
        return said

    def test_readings_by_meter_say_what_was_shown_and_what_it_means(self):
        said = self.said(
            "read", meter="Blue pin meter", method="", shown=[["", 0.12], ["core", 0.135]], moistures=[[0.112, ""], [0.28, "above"]]
        )
        self.assertIn("with Blue pin meter", said)
        self.assertIn("12 core 13.5 read", said)

    def test_readings_by_weight_say_how(self):
        for method in (Method.WEIGHT, Method.OVEN):
            said = self.said("read", meter="", method=method.value, shown=[], moistures=[[0.112, ""]])
            self.assertIn(words.HOW[method], said)
            self.assertIn("11.2% corrected", said)

    def test_a_slab_that_passed_and_one_that_did_not(self):
        for how in SlabTestKind:
            passed = self.said("slab_tested", how=how.value, shown=70.0, allowed=75.0)
            failed = self.said("slab_tested", how=how.value, shown=80.0, allowed=75.0)
            self.assertIn("dry enough", passed)
            self.assertIn("too wet", failed)


class Instruments(Sentences, TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.owner, cls.place, cls.meter, cls.board = make_shop()

    def test_what_a_meter_is_set_to(self):
        self.meter.set_to, self.meter.species_set_on_meter = "", True
        self.assertEqual(meter_words.setting_of(self.meter, METRIC), "the species itself")
        self.meter.species_set_on_meter = False
        self.assertIn("softwood scale", meter_words.setting_of(self.meter, METRIC))
        self.meter.set_to = "white_oak"
        self.assertEqual(meter_words.setting_of(self.meter, METRIC), "White oak")

    def test_a_species_that_is_gone_is_told_so(self):
        self.meter.set_to = "moonwood"
        self.assertIn("not known any more", meter_words.setting_of(self.meter, METRIC))

    def test_where_and_how_it_was_read(self):
        read_board(self.owner, self.board, 11.0, meter=self.meter, core=12.5)
        for reading in Reading.objects.filter(piece=self.board):
            self.assert_clean(words.where_and_how(reading))
            for step in meter_words.describe_steps(reading, INCH):
                self.assert_clean(step.what)

    def test_what_was_spoken_is_said_again(self):
        spoken = SimpleNamespace(layer="core", at_end=True, part="outer", raw=0.125)
        self.assertEqual(words.spoken(spoken), "core end outer 12.5")
        self.assertEqual(words.spoken(SimpleNamespace(layer="", at_end=False, part="", raw=0.11)), "11.0")
