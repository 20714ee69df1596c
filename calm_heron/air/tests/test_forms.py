"""Forms about places and air: what is typed in either system, what cannot be together, and the year that comes of it."""

from datetime import timedelta

from django.core.files.uploadedfile import SimpleUploadedFile
from django.http import QueryDict
from django.test import TestCase
from django.utils import timezone

from calm_heron.air.forms import GAINS, AirForm, HygrometerForm, PlaceForm, SaltForm, YearForm
from calm_heron.air.kinds import PlaceKind
from calm_heron.air.models import YearSource
from tests.factories import make_owner, make_place
from tests.sentences import Sentences
from wood.air.climate import MONTHS


class FormCase(Sentences, TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.owner = make_owner()
        cls.room = make_place(cls.owner, name="Bench room", kind=PlaceKind.ROOM)
        cls.yard = make_place(cls.owner, name="Yard", kind=PlaceKind.YARD)

    def data(self, typed: dict) -> QueryDict:
        data = QueryDict(mutable=True)
        data.update({name: str(value) for name, value in typed.items()})
        return data

    def said(self, form) -> str:
        """All that is wrong, which is in sentences."""
        text = " ".join(message for errors in form.errors.values() for message in errors)
        if text:
            self.assert_readable(text)
        return text


class Places(FormCase):
    def form(self, **typed) -> PlaceForm:
        return PlaceForm(self.data({"name": "Loft", "kind": PlaceKind.ROOM, "rh_tolerance": "3"} | typed), membership=self.owner)

    def test_a_place_has_a_name_a_kind_and_how_good_its_hygrometer_is(self):
        form = self.form()
        self.assertTrue(form.is_valid())
        self.assertAlmostEqual(form.cleaned_data["rh_tolerance"], 0.03)

    def test_what_cannot_be_is_told(self):
        for typed in ({"name": ""}, {"name": "x" * 61}, {"kind": "cellar"}, {"rh_tolerance": "0"}, {"rh_tolerance": "40"}):
            form = self.form(**typed)
            with self.subTest(typed):
                self.assertFalse(form.is_valid())
                self.assertEqual(list(form.errors), list(typed))

    def test_what_is_known_from_memory_may_stay_empty(self):
        self.assertTrue(self.form(usual_humidity="").is_valid())
        form = self.form(usual_humidity="45")
        self.assertTrue(form.is_valid())
        self.assertAlmostEqual(form.cleaned_data["usual_humidity"], 0.45)

    def test_a_hygrometer_is_good_to_something(self):
        for typed, good in (("2", True), ("0.2", False), ("20", False), ("good", False)):
            form = HygrometerForm(self.data({"name": "Dial", "rh_tolerance": typed}), membership=self.owner)
            self.assertEqual(form.is_valid(), good, typed)


class Air(FormCase):
    def form(self, place=None, **typed) -> AirForm:
        return AirForm(self.data({"temperature": "20", "humidity": "50"} | typed), membership=self.owner, place=place or self.room)

    def test_air_as_it_is_shown(self):
        form = self.form()
        self.assertTrue(form.is_valid(), form.errors)
        self.assertAlmostEqual(form.cleaned_data["temperature"], 20.0)
        self.assertAlmostEqual(form.cleaned_data["humidity"], 0.5)
        self.assertIsNone(form.cleaned_data["at"])

    def test_the_other_unit_is_asked_back(self):
        form = self.form(temperature="68")
        self.assertFalse(form.is_valid())
        self.assertIn("68 F", self.said(form))
        self.assertTrue(self.form(temperature="68 F").is_valid())

    def test_a_yard_may_be_colder_than_a_room(self):
        self.assertTrue(self.form(self.yard, temperature="-12").is_valid())

    def test_an_end_stop_is_no_reading(self):
        for humidity in ("0", "100"):
            form = self.form(humidity=humidity)
            self.assertFalse(form.is_valid())
            self.assertIn("end stop", self.said(form))

    def test_days_to_come_are_not_read_yet(self):
        form = self.form(at=(timezone.localdate() + timedelta(days=2)).isoformat())
        self.assertFalse(form.is_valid())
        self.assertIn("in the future", self.said(form))


class Salts(FormCase):
    def form(self, **typed) -> SaltForm:
        typed = {"temperature": "20", "waited_hours": "12", "shown": "78"} | typed
        return SaltForm(self.data(typed), membership=self.owner)

    def test_kitchen_salt_is_what_nobody_has_to_name(self):
        form = self.form()
        self.assertTrue(form.is_valid(), form.errors)
        self.assertEqual(form.cleaned_data["salt"], "NaCl")
        self.assertAlmostEqual(form.cleaned_data["expected"], 0.755, delta=0.005)

    def test_too_short_a_wait_tells_nothing(self):
        form = self.form(waited_hours="1")
        self.assertFalse(form.is_valid())
        self.assertIn("still moving", self.said(form))

    def test_what_is_typed_wrong_is_told_beside_its_field(self):
        for name, text in (("temperature", "90"), ("shown", "140"), ("waited_hours", "-1"), ("waited_hours", "a night")):
            form = self.form(**{name: text})
            with self.subTest(f"{name} {text}"):
                self.assertFalse(form.is_valid())
                self.assertIn(name, form.errors)


class Years(FormCase):
    TYPED = {f"t{k}": 15 + k % 5 for k in range(1, 13)} | {f"h{k}": 60 + k for k in range(1, 13)}

    def form(self, place=None, files=None, **typed) -> YearForm:
        form = YearForm(self.data(typed), files or {}, membership=self.owner, place=place or self.yard, given=None)
        form.is_valid()
        return form

    def test_twelve_typed_months_are_a_climate(self):
        form = self.form(**self.TYPED)
        self.assertEqual(form.missing(), [])
        year = form.climate()
        self.assertAlmostEqual(year.temperature_c[0], 16.0)
        self.assertAlmostEqual(year.relative_humidity[11], 0.72)

    def test_months_that_are_missing_are_named(self):
        form = self.form(**{name: value for name, value in self.TYPED.items() if name not in ("t3", "h9")})
        self.assertEqual(form.missing(), [MONTHS[2], MONTHS[8]])
        self.assertIsNone(form.climate())

    def test_an_empty_form_is_twelve_missing_months(self):
        form = self.form()
        self.assertEqual(form.cleaned_data["kind"], YearSource.TYPED)
        self.assertEqual(len(form.missing()), 12)

    def test_a_pattern_is_taken_by_its_name(self):
        form = self.form(kind=YearSource.PATTERN, pattern="mild_coast")
        self.assertIsNotNone(form.climate())
        self.assertIsNone(self.form(kind=YearSource.PUBLISHED, published="").climate())

    def test_rows_are_pasted_with_or_without_names(self):
        rows = "\n".join(f"{month}, {10 + k}, {60 + k}" for k, month in enumerate(MONTHS))
        form = self.form(kind=YearSource.FILE, pasted=rows)
        self.assertEqual(self.said(form), "")
        self.assertAlmostEqual(form.climate().temperature_c[3], 13.0)
        self.assertEqual(form.cleaned_data["words"], "pasted rows")

    def test_rows_that_are_none_are_told_where_they_were_pasted(self):
        for rows in ("January", "a, b, c\n" * 12, "January, 10, 60"):
            form = self.form(kind=YearSource.FILE, pasted=rows)
            with self.subTest(rows[:20]):
                self.assertIn("pasted", form.errors)
                self.said(form)

    def test_a_file_that_is_none_is_told_beside_it(self):
        file = SimpleUploadedFile("year.epw", b"LOCATION,nowhere\nnothing")
        form = self.form(kind=YearSource.FILE, files={"file": file})
        self.assertIn("file", form.errors)
        self.said(form)

    def test_moistures_can_be_typed_instead_of_air(self):
        typed = {f"e{k}": 8 + k % 3 for k in range(1, 13)}
        form = self.form(self.room, kind=YearSource.EMC, **typed)
        self.assertEqual(self.said(form), "")
        self.assertIsNotNone(form.climate())
        partly = self.form(self.room, kind=YearSource.EMC, e1="8")
        self.assertEqual(len(partly.missing()), 11)

    def test_moistures_that_no_air_gives_are_told(self):
        form = self.form(self.room, kind=YearSource.EMC, **{f"e{k}": 30 for k in range(1, 13)})
        self.assertTrue(form.errors)
        self.said(form)

    def test_limits_of_a_room_that_contradict_each_other(self):
        form = self.form(self.room, kind=YearSource.PATTERN, pattern="mild_coast", at_least="60", at_most="40")
        self.assertIn("at_most", form.errors)
        self.assertIn("contradict", self.said(form))

    def test_a_room_is_not_cooled_to_less_than_it_is_heated_to(self):
        form = self.form(self.room, kind=YearSource.PATTERN, pattern="mild_coast", heated_to="22", cooled_to="18")
        self.assertTrue(form.errors)
        self.assertIn("cooled", self.said(form))

    def test_outdoor_air_in_a_room_becomes_the_rooms(self):
        outdoors = self.form(kind=YearSource.PATTERN, pattern="cold_winter").shown()
        heated = self.form(self.room, kind=YearSource.PATTERN, pattern="cold_winter", heated_to="20", gain=GAINS[1][0]).shown()
        self.assertGreater(min(heated.temperature_c), min(outdoors.temperature_c))
        self.assertLess(min(heated.relative_humidity), min(outdoors.relative_humidity))

    def test_every_month_has_its_fields(self):
        form = self.form()
        self.assertEqual((len(form.grid), len(form.moistures)), (12, 12))
        self.assertEqual([name for name, _ in form.moistures], list(MONTHS))
