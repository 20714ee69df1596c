"""Fields that understand what people type: in either system, with or without a unit, and what is said where it cannot be."""

from datetime import timedelta
from types import SimpleNamespace

from django import forms
from django.http import QueryDict
from django.test import SimpleTestCase
from django.utils import timezone

from calm_heron.workshops.fields import (
    CalmForm,
    DayField,
    LengthField,
    MassField,
    PercentField,
    TemperatureField,
    sentence,
    with_section,
)
from calm_heron.workshops.refusals import Refused
from tests.sentences import Sentences
from wood.errors import OutOfRange
from wood.units import INCH, METRIC, SCALES


def refused(field: forms.Field, text: str) -> str:
    """What a field says of a text it does not take."""
    try:
        value = field.clean(text)
    except forms.ValidationError as error:
        return " ".join(error.messages)
    raise AssertionError(f"{text!r} was taken as {value!r}")


class Percents(Sentences, SimpleTestCase):
    def setUp(self):
        self.field = PercentField(METRIC, 0.04, 0.30, required=False)

    def test_a_percentage_is_kept_as_a_fraction(self):
        for typed in ("12", "12%", "12%", " 12.0 ", "12,0"):
            self.assertAlmostEqual(self.field.clean(typed), 0.12)

    def test_nothing_is_nothing(self):
        for typed in ("", "  "):
            self.assertIsNone(self.field.clean(typed))

    def test_the_limits_themselves_are_allowed(self):
        self.assertAlmostEqual(self.field.clean("4"), 0.04)
        self.assertAlmostEqual(self.field.clean("30"), 0.30)

    def test_what_is_outside_is_named_with_the_limits(self):
        for typed in ("3.9", "31", "-5", "4000"):
            said = refused(self.field, typed)
            self.assert_readable(said)
            self.assertIn("4% to 30%", said)

    def test_what_goes_too_far_may_have_a_word_of_its_own(self):
        field = PercentField(METRIC, 0.04, 0.30, too_far="Weigh it instead.")
        self.assertTrue(refused(field, "60").endswith("Weigh it instead."))

    def test_nonsense_is_refused_in_a_sentence(self):
        for typed in ("abc", "12 mm", "1 2 3 4", "∞", "12;13", "%"):
            self.assert_readable(refused(self.field, typed))

    def test_what_is_written_into_a_field_reads_back(self):
        for value in (0.04, 0.0835, 0.123456, 0.3):
            self.assertAlmostEqual(self.field.clean(self.field.prepare_value(value)), value, delta=5e-5)


class Lengths(Sentences, SimpleTestCase):
    MEANT = {
        "1 1/2": 0.0381,
        "1 1/2 in": 0.0381,
        '1 1/2"': 0.0381,
        "38.1 mm": 0.0381,
        "3.81 cm": 0.0381,
        "6 ft": 1.8288,
        "6' 2\"": 1.8796,
        "0.5 m": 0.5,
    }

    def test_inches_by_those_who_measure_in_inches(self):
        field = LengthField(INCH, 0.001, 5.0)
        for typed, metres in self.MEANT.items():
            with self.subTest(typed):
                self.assertAlmostEqual(field.clean(typed), metres, places=5)

    def test_a_bare_number_is_the_readers_unit(self):
        self.assertAlmostEqual(LengthField(INCH, 0.001, 5.0).clean("2"), 0.0508)
        self.assertAlmostEqual(LengthField(METRIC, 0.001, 5.0).clean("27"), 0.027)

    def test_limits_are_round_in_the_readers_unit(self):
        for system in (INCH, METRIC):
            said = refused(LengthField(system, 0.0254, 0.3048), "9 m")
            self.assert_readable(said)
            self.assertIn("in" if system is INCH else "mm", said)

    def test_it_reads_back_what_it_writes(self):
        for system in (INCH, METRIC):
            field = LengthField(system, 0.0005, 6.0)
            for metres in (0.00079375, 0.0254, 0.027, 0.1, 1.8383, 5.999):
                with self.subTest(f"{system.key} {metres}"):
                    self.assertAlmostEqual(field.clean(field.prepare_value(metres)), metres, delta=2e-4)

    def test_what_was_typed_in_the_other_system_keeps_its_meaning(self):
        metric = LengthField(METRIC, 0.001, 5.0)
        for typed in ("2", "1 1/2", "27 mm", "6 ft"):
            before = LengthField(INCH, 0.001, 5.0).clean(typed)
            with self.subTest(typed):
                self.assertAlmostEqual(metric.clean(metric.in_units(typed, INCH)), before, places=6)


class Masses(Sentences, SimpleTestCase):
    def test_each_scale_reads_its_own_bare_numbers(self):
        for key, kilograms in (("g", 0.5), ("kg", 500.0), ("oz", 14.17), ("lb", 226.8)):
            field = MassField(METRIC.as_set(key, 64), 0.001, 1000.0)
            with self.subTest(key):
                self.assertAlmostEqual(field.clean("500"), kilograms, delta=0.01 * kilograms)

    def test_pounds_and_ounces_are_read_together(self):
        for typed in ("2 lb 3 oz", "2lb3oz", "2 lb. 3 oz."):
            for key in SCALES:
                with self.subTest(f"{typed} {key}"):
                    self.assertAlmostEqual(MassField(INCH.as_set(key, 64), 0.001, 100.0).clean(typed), 0.9922, places=3)

    def test_what_is_outside_is_told_in_the_scales_unit(self):
        for key in SCALES:
            said = refused(MassField(INCH.as_set(key, 64), 0.01, 2.0), "9 kg")
            self.assert_readable(said)


class Temperatures(Sentences, SimpleTestCase):
    def test_either_unit_by_its_letter(self):
        for system in (INCH, METRIC):
            field = TemperatureField(system, -40, 120)
            for typed in ("20 C", "20°C", "68 F", "68°F", "68 f"):
                with self.subTest(f"{system.key} {typed}"):
                    self.assertAlmostEqual(field.clean(typed), 20.0, places=4)

    def test_what_would_be_unusual_is_asked_back_with_both_readings(self):
        field = TemperatureField(METRIC, -40, 120, usual_low=-10, usual_high=45)
        said = refused(field, "68")
        self.assert_readable(said)
        self.assertIn("68 F", said)
        self.assertIn("68 C", said)

    def test_what_is_meant_is_taken_once_the_unit_is_written(self):
        field = TemperatureField(METRIC, -40, 120, usual_low=-10, usual_high=45)
        self.assertAlmostEqual(field.clean("68 C"), 68.0)
        self.assertAlmostEqual(field.clean("68 F"), 20.0)

    def test_what_is_unusual_in_both_is_only_refused_by_its_limits(self):
        field = TemperatureField(METRIC, -40, 400, usual_low=-10, usual_high=45)
        self.assertAlmostEqual(field.clean("300"), 300.0)

    def test_a_cold_day_in_fahrenheit(self):
        self.assertAlmostEqual(TemperatureField(INCH, -40, 120).clean("-4"), -20.0)


class Days(Sentences, SimpleTestCase):
    def test_nothing_and_today_are_now(self):
        field = DayField()
        self.assertIsNone(field.clean(""))
        self.assertIsNone(field.clean(timezone.localdate().isoformat()))

    def test_a_day_gone_by_is_kept_as_of_its_noon(self):
        day = timezone.localdate() - timedelta(days=3)
        moment = timezone.localtime(DayField().clean(day.isoformat()))
        self.assertEqual((moment.date(), moment.hour), (day, 12))

    def test_days_that_cannot_be_are_refused(self):
        tomorrow = timezone.localdate() + timedelta(days=1)
        for typed, words in (
            (tomorrow.isoformat(), "in the future"),
            ("1949-12-31", "mistyped"),
            ("2026-02-30", "That isn’t a date"),
            ("yesterday", "That isn’t a date"),
            ("0000-00-00", "That isn’t a date"),
        ):
            said = refused(DayField(), typed)
            self.assertIn(words, said)
            self.assert_readable(said)


class Asked(CalmForm):
    takes_section = True
    way = forms.ChoiceField(choices=[("a", "A"), ("b", "B")], required=False)
    group = forms.ChoiceField(choices=[("Of wood", [("x", "X"), ("y", "Y")])], required=False)

    def build(self) -> None:
        self.fields["thickness_m"] = LengthField(self.system, 0.001, 0.5, required=False)
        self.fields["width_m"] = LengthField(self.system, 0.001, 2.0, required=False)


def membership(system=INCH) -> SimpleNamespace:
    return SimpleNamespace(workshop=SimpleNamespace(system=system))


class Forms(Sentences, SimpleTestCase):
    def form(self, system=INCH, **typed) -> Asked:
        data = QueryDict(mutable=True)
        data.update(typed)
        form = Asked(data, membership=membership(system))
        form.is_valid()
        return form

    def test_a_form_carries_a_token_of_its_own(self):
        first, second = (Asked(membership=membership()) for _ in range(2))
        self.assertNotEqual(first["once"].value(), second["once"].value())

    def test_what_was_not_chosen_is_the_first_there_is(self):
        form = self.form()
        self.assertEqual((form.chosen("way"), form.chosen("group")), ("a", "x"))
        form = self.form(way="b", group="y")
        self.assertEqual((form.chosen("way"), form.chosen("group")), ("b", "y"))

    def test_a_whole_section_fills_thickness_and_width(self):
        form = self.form(thickness_m="2x4")
        self.assertAlmostEqual(form.cleaned_data["thickness_m"], 0.0381)
        self.assertAlmostEqual(form.cleaned_data["width_m"], 0.0889)

    def test_a_width_that_was_typed_stays(self):
        form = self.form(thickness_m="2x4", width_m="6")
        self.assertAlmostEqual(form.cleaned_data["width_m"], 0.1524)

    def test_what_is_no_section_is_left_for_the_field(self):
        self.assertEqual(with_section({"thickness_m": "27"}, METRIC), {"thickness_m": "27"})
        self.assertIsNone(with_section(None, METRIC))

    def test_sizes_that_do_not_go_together_are_told_beside_the_field(self):
        form = self.form(thickness_m="1")
        form.complain(OutOfRange("thickness_m", 0.3, 0.01, 0.05, " m"))
        (said,) = form.errors["thickness_m"]
        self.assert_readable(said)
        self.assertIn("in", said)

    def test_a_field_that_the_core_calls_otherwise_is_found(self):
        form = self.form()
        form.complain(OutOfRange("depth", 0.3, 1.0, 5.0), called={"depth": "width_m"})
        self.assertIn("width_m", form.errors)

    def test_a_field_that_is_not_there_is_told_above_the_form(self):
        form = self.form()
        form.complain(OutOfRange("pressure", 3.0, 1.0, 2.0))
        self.assertTrue(form.non_field_errors())

    def test_a_refusal_goes_beside_what_it_is_about(self):
        form = self.form()
        form.refuse(Refused("That is taken.", field="way"))
        self.assertEqual(form.errors["way"], ["That is taken."])
        form.refuse(Refused("Nobody may."))
        self.assertEqual(form.non_field_errors(), ["Nobody may."])

    def test_a_reason_becomes_a_sentence(self):
        self.assertEqual(sentence("write it as 12"), "Write it as 12.")
        self.assertEqual(sentence("Is it?"), "Is it?")
