"""What is said of loads: what to set, what alarms and doubts mean, the end, the price, and the slip that goes along."""

import io
from dataclasses import replace
from datetime import UTC, datetime
from types import SimpleNamespace

import numpy as np
from django.test import SimpleTestCase
from pypdf import PdfReader

from calm_heron.kiln import log_words, words
from calm_heron.kiln.ends import end_words, slips
from calm_heron.kiln.kinds import ChargedBy, Defect, Happened
from calm_heron.kiln.models import LoadEvent
from calm_heron.kiln.runs import run_words
from calm_heron.kiln.runs.running import FROM_THE_FIELD, SampleNow
from tests.sentences import Sentences
from wood.kiln.finish import Ending, ended
from wood.kiln.programs import Phase, Setting
from wood.kiln.samples import Doubt
from wood.kiln.stress import Prongs
from wood.units import INCH, METRIC

BOTH = (INCH, METRIC)


def sample(tag: str = "A", rows=((0.0, 0.8), (6.0, 0.55)), loss=0.02, safe=0.03, doubt="") -> SampleNow:
    return SampleNow(SimpleNamespace(tag=tag), tuple(rows), loss, safe, doubt)


def load(**changed) -> SimpleNamespace:
    """A load at work on its twelfth day."""
    row = SimpleNamespace(runs=True, price=None, whose="", charged_by=ChargedBy.VOLUME, weighed_in_kg=None, weighed_out_kg=None)
    now = {
        "load": row,
        "setting": Setting(Phase.DRYING, 0.40, 43.3, 0.80),
        "half": 0.46,
        "day": 12.2,
        "days_run": 12.2,
        "ends_in_days": 20.4,
        "program": SimpleNamespace(wettest_at_end=0.08),
        "planned": SimpleNamespace(volume_m3=2.36),
        "forecast": SimpleNamespace(pace=1.2, ran=SimpleNamespace(water_kg=500.0)),
        "samples": [sample()],
    }
    row.__dict__.update({name: changed.pop(name) for name in list(changed) if hasattr(row, name)})
    return SimpleNamespace(**(now | changed))


class WhatToSet(Sentences, SimpleTestCase):
    def test_every_phase_says_until_when(self):
        said = {}
        for phase in Phase:
            for system in BOTH:
                large, beside, reason = run_words.setting(load(setting=Setting(phase, 0.40, 43.3, 0.80, 18.0)), system)
                self.assert_readable(reason)
                self.assert_clean(large, beside)
                self.assertIn("wet bulb", beside)
                self.assertIn("80% RH", beside)
            said[phase] = reason
        self.assertEqual(len(set(said.values())), len(Phase))
        self.assertIn("18 hours", said[Phase.WARMING])
        self.assertIn("8%", said[Phase.EQUALISING])

    def test_temperatures_are_the_readers(self):
        self.assertEqual(run_words.setting(load(), METRIC)[0], "43.3°C")
        self.assertEqual(run_words.setting(load(), INCH)[0], "110°F")

    def test_the_wettest_half_is_told_where_it_is_known(self):
        self.assertIn("Its wettest half is at 46%. Hold this until that is at", run_words.setting(load(), METRIC)[2])
        self.assertIn("Hold this until its wettest half is at", run_words.setting(load(half=None), METRIC)[2])

    def test_an_end_that_nobody_sees_is_not_told(self):
        self.assertIn("done in about 20 days", run_words.setting(load(), METRIC)[2])
        self.assertNotIn("done", run_words.setting(load(ends_in_days=np.inf), METRIC)[2])

    def test_one_that_is_over_and_one_that_is_out(self):
        over = run_words.setting(load(setting=None), METRIC)
        self.assertEqual(over[0], "It is done")
        self.assertIn("cool in the closed chamber", over[2])
        out = run_words.setting(load(runs=False), METRIC)
        self.assertEqual(out[0], "Load is out")
        self.assert_readable(over[2], out[2])

    def test_the_pace_is_told_once_weighings_say_something(self):
        self.assertIn("120% of the usual pace", run_words.pace(load()))
        usual = load(forecast=SimpleNamespace(pace=1.0))
        self.assertIn("two weighings will sharpen it", run_words.pace(usual))
        self.assertIn("two weighings will sharpen it", run_words.pace(load(samples=[])))


class WhatIsWrong(Sentences, SimpleTestCase):
    SET = Setting(Phase.DRYING, 0.40, 43.3, 0.80)
    DATA = {
        "fault": {"words": "heater tripped"},
        "off": {"dry_c": 49.0, "humidity": 0.6, "setting": SET, "since": None},
        "too_dry": {"dry_c": 43.0, "humidity": 0.35, "setting": SET, "since": datetime(2026, 11, 3, 7, 30, tzinfo=UTC), "kind": "vented"},
        "silent": {"at": datetime(2026, 11, 3, 7, 30, tzinfo=UTC)},
        "stuck": {"since": datetime(2026, 11, 3, 7, 30, tzinfo=UTC)},
        "jump": {"from_c": 43.0, "to_c": 71.0, "at": datetime(2026, 11, 3, 7, 30, tzinfo=UTC)},
        "fans": {"times": 12.0},
        "round": {"share": 0.4},
        "told": {"event": LoadEvent(kind="fans", goes_on=True, at=datetime(2026, 11, 3, 7, 30, tzinfo=UTC))},
        "too_fast": {"sample": sample(loss=0.05)},
        "doubt": {"sample": sample(doubt=Doubt.GAINED.value)},
        "missed": {"at": datetime(2026, 11, 3, 7, 30, tzinfo=UTC)},
        "no_samples": {},
        "over": {},
    }

    def test_every_alarm_is_a_sentence_of_its_own_in_both_systems(self):
        said = set()
        for code, data in self.DATA.items():
            for system in BOTH:
                self.assert_readable(run_words.alarm(code, data, system))
            said.add(run_words.alarm(code, data, METRIC))
        self.assertEqual(len(said), len(self.DATA))

    def test_air_that_is_off_is_told_beside_what_is_to_be_set(self):
        said = run_words.alarm("off", self.DATA["off"], METRIC)
        for figure in ("49°C", "60%", "43.3°C", "80%"):
            self.assertIn(figure, said)

    def test_every_doubt_of_a_sample_has_its_words(self):
        said = set()
        for code in [*(doubt.value for doubt in Doubt), FROM_THE_FIELD]:
            text = run_words.doubt(sample(doubt=code))
            self.assert_clean(text)
            said.add(text)
        self.assertEqual(len(said), len(Doubt) + 1)

    def test_a_sample_that_loses_too_fast_while_wet_is_told_with_what_is_safe(self):
        self.assertEqual(run_words.doubt(sample(loss=0.02)), "")
        said = run_words.doubt(sample(loss=0.05))
        self.assertIn("5.0 points a day", said)
        self.assertIn("3.0 is safe", said)

    def test_once_it_is_dry_enough_it_may_lose_what_it_likes(self):
        self.assertEqual(run_words.doubt(sample(rows=((0.0, 0.5), (9.0, 0.2)), loss=0.05)), "")
        self.assertEqual(run_words.doubt(sample(loss=0.05, safe=None)), "")

    def test_a_sample_that_was_never_weighed_has_no_moisture(self):
        self.assertIsNone(sample(rows=()).now)
        self.assertFalse(sample(rows=(), loss=0.5).too_fast)

    def test_what_happened_is_told_with_its_words(self):
        for kind in Happened:
            for goes_on in (False, True):
                event = LoadEvent(kind=kind.value, goes_on=goes_on, at=datetime(2026, 11, 3, 7, 30, tzinfo=UTC))
                self.assert_clean(event.said)
                self.assert_clean(event.lasted)
            self.assertTrue(LoadEvent(kind=kind.value, words="an hour").said.endswith(": an hour"))


class WhatItCosts(Sentences, SimpleTestCase):
    def cost(self, system=METRIC, counted=None, **changed) -> str:
        said = run_words.charge(load(**changed), counted, system)
        if said:
            self.assert_readable(said)
        return said

    def test_nothing_is_said_where_there_is_no_price(self):
        self.assertEqual(self.cost(), "")

    def test_by_its_wood_in_the_readers_measure(self):
        self.assertIn("236.00, by volume", self.cost(price=100.0))
        self.assertIn("100.01, by volume", self.cost(INCH, price=100.0))

    def test_by_its_water_as_well_as_that_is_known(self):
        by_water = {"price": 50.0, "charged_by": ChargedBy.WATER}
        self.assertIn("250.00 for its water, by the forecast", self.cost(**by_water))
        self.assertIn("100.00 for its water, by the condensate so far", self.cost(counted=200.0, **by_water))
        weighed = self.cost(counted=200.0, weighed_in_kg=1500.0, weighed_out_kg=1100.0, **by_water)
        self.assertIn("200.00 for its water, weighed in and out", weighed)

    def test_water_that_was_gained_costs_nothing(self):
        said = self.cost(price=50.0, charged_by=ChargedBy.WATER, weighed_in_kg=1000.0, weighed_out_kg=1100.0)
        self.assertIn("0.00", said)

    def test_its_owner_is_named_where_there_is_one(self):
        self.assertIn("Its owner pays", self.cost(price=10.0))
        self.assertIn("The boat yard pays", self.cost(price=10.0, whose="the boat yard"))


class TheEnd(Sentences, SimpleTestCase):
    # Shell and core for 8%.
    READ = {
        Ending.DONE: (0.078, 0.083),
        Ending.WET: (0.10, 0.115),
        Ending.DRY: (0.055, 0.06),
        Ending.CORE_WET: (0.065, 0.10),
        Ending.SHELL_WET: (0.095, 0.07),
    }

    def test_every_ending_is_told_with_what_to_do(self):
        for ending, (shell, core) in self.READ.items():
            known = ended(shell, core, 0.08)
            self.assertIs(known.ending, ending)
            answer, reasons = end_words.done(known, 0.08, None, None)
            self.assert_clean(answer)
            self.assert_readable(*reasons)
            self.assertEqual(answer.startswith("Not yet"), ending is not Ending.DONE)

    def test_prongs_of_both_days_and_moistures_make_one_answer(self):
        for ending, (shell, core) in self.READ.items():
            for now in (None, *Prongs):
                for later in (None, *Prongs):
                    answer, reasons = end_words.done(ended(shell, core, 0.08), 0.08, now, later)
                    self.assert_readable(*reasons)
                    done = ending is Ending.DONE and later is Prongs.STRAIGHT
                    with self.subTest(f"{ending} {now} {later}"):
                        self.assertEqual(answer == "It is done", done)

    def test_what_is_just_right_is_told_without_a_nought(self):
        known = replace(ended(0.08, 0.08, 0.08), over=0.0, gap=0.0)
        (said, *_) = end_words.done(known, 0.08, None, None)[1]
        self.assertIn("right on the 8% target", said)
        self.assertIn("its core and its shell alike", said)
        self.assertNotIn("0.0", said)

    def test_without_moistures_the_prongs_speak_alone(self):
        for later in Prongs:
            name, (what,) = end_words.done(None, 0.08, None, later)
            self.assertEqual((name, what), words.PRONGS[later])

    def test_straight_at_first_and_in_after_a_day_is_a_wet_core(self):
        _, what = words.prong_reading(Prongs.STRAIGHT, Prongs.IN)
        self.assertIn("the core was still wetter than the shell", what)

    def test_no_prongs_are_asked_for(self):
        name, what = words.prong_reading(None, None)
        self.assert_clean(name)
        self.assert_readable(what)

    def test_every_degrade_goes_into_the_log(self):
        for defect in Defect:
            said = log_words.LOG["found"]
            data = {"subject": "load-01", "how": defect.value, "boards": 3, "of_boards": 40}
            self.assert_clean(said(data, METRIC))


class TheSlip(SimpleTestCase):
    ROWS = [("Wood", "White oak, 4/4, 1.2 m³"), ("Target", "8%, core and shell within a point"), ("Please", "Condition it. " * 30)]

    def text(self, system) -> tuple[str, PdfReader]:
        reader = PdfReader(io.BytesIO(slips.pdf(self.ROWS, system)))
        return " ".join(" ".join(page.extract_text().split()) for page in reader.pages), reader

    def test_it_says_all_its_rows_and_leaves_lines_for_the_hand(self):
        for system in BOTH:
            text, reader = self.text(system)
            self.assertEqual(len(reader.pages), 1)
            for expected in ("Please dry this load", "White oak, 4/4, 1.2 m³", "core and shell within a point", *slips.HAND):
                self.assertIn(expected, text)
            self.assertEqual(text.count("Condition it."), 30)

    def test_the_paper_is_the_readers(self):
        sizes = {}
        for system in BOTH:
            _, reader = self.text(system)
            box = reader.pages[0].mediabox
            sizes[system.key] = (round(float(box.width)), round(float(box.height)))
        self.assertEqual(sizes, {"inch": (612, 792), "metric": (595, 842)})
