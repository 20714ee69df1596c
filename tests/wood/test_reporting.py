"""An instrument that reports by itself: silent, stuck, jumped, with a gap; against what its readings are made to be."""

import json
import math
from datetime import UTC, datetime, timedelta
from unittest import TestCase

from wood.air.logger_files import FaultKind
from wood.errors import OutOfRange
from wood.measuring import reporting
from wood.measuring.reporting import Heard

BEGAN = datetime(2026, 5, 4, 6, tzinfo=UTC)


def heard(hours: float, every_minutes: float = 10, begins: datetime = BEGAN, before: Heard | None = None, **same: float) -> Heard:
    """Readings of living air every so many minutes; ``same`` where it shows always the same."""
    result = before or Heard()
    for step in range(int(hours * 60 / every_minutes) + 1):
        values = same or {"temperature_c": 20 + math.sin(step / 9), "humidity": round(0.5 + 0.02 * math.sin(step / 7), 4)}
        result = result.then(begins + timedelta(minutes=every_minutes * step), values)
    return result


def kinds(of: Heard, now: datetime) -> list[FaultKind]:
    return [trouble.kind for trouble in of.troubles(now, BEGAN)]


class WhatIsWrong(TestCase):
    def test_a_healthy_one_has_nothing_wrong(self):
        self.assertEqual(kinds(heard(72), BEGAN + timedelta(hours=72, minutes=20)), [])

    def test_it_is_missed_after_some_of_its_own_intervals_and_never_before_two_hours(self):
        ten_minutes, six_hours = heard(24), heard(72, 360)
        for of, last, silent_after in ((ten_minutes, 24, 2), (six_hours, 72, 21)):
            ends = BEGAN + timedelta(hours=last)
            self.assertEqual(kinds(of, ends + timedelta(hours=silent_after - 0.1)), [])
            self.assertEqual(kinds(of, ends + timedelta(hours=silent_after + 0.1)), [FaultKind.SILENT])

    def test_one_that_never_spoke_is_missed_after_a_day(self):
        self.assertEqual(kinds(Heard(), BEGAN + timedelta(hours=23)), [])
        (trouble,) = Heard().troubles(BEGAN + timedelta(hours=25), BEGAN)
        self.assertEqual((trouble.kind, trouble.since), (FaultKind.SILENT, BEGAN))

    def test_what_shows_the_very_same_for_a_day_sticks_and_no_longer_once_it_moves(self):
        stuck = heard(30, temperature_c=20.0, humidity=0.5)
        now = BEGAN + timedelta(hours=30)
        self.assertEqual(kinds(stuck, now), [FaultKind.STUCK])
        self.assertEqual(stuck.troubles(now, BEGAN)[0].since, BEGAN)
        self.assertEqual(kinds(stuck.then(now + timedelta(minutes=10), {"temperature_c": 20.1, "humidity": 0.5}), now), [])
        self.assertEqual(kinds(heard(23, temperature_c=20.0, humidity=0.5), BEGAN + timedelta(hours=23)), [])

    def test_a_jump_is_told_for_two_days_and_a_slow_change_is_none(self):
        day = heard(24)
        at = BEGAN + timedelta(hours=24, minutes=10)
        jumped = day.then(at, {"temperature_c": 36.0, "humidity": 0.5})
        self.assertEqual(kinds(jumped, at), [FaultKind.JUMP])
        later = heard(47, begins=at + timedelta(minutes=10), before=jumped)
        self.assertIn(FaultKind.JUMP, kinds(later, at + timedelta(hours=47)))
        self.assertNotIn(FaultKind.JUMP, kinds(later, at + timedelta(hours=49)))
        slow = day.then(at + timedelta(minutes=40), {"temperature_c": 36.0, "humidity": 0.5})
        self.assertEqual(kinds(slow, at + timedelta(minutes=40)), [])

    def test_a_probe_in_wood_jumps_by_points_within_hours(self):
        wood = heard(24, 60, shown=0.152)
        at = BEGAN + timedelta(hours=26)
        self.assertEqual(kinds(wood.then(at, {"shown": 0.21}), at), [FaultKind.JUMP])
        self.assertEqual(kinds(wood.then(at, {"shown": 0.156}), at), [])

    def test_a_gap_that_is_filled_later_is_none(self):
        day = heard(24)
        back = BEGAN + timedelta(hours=30)
        gap = day.then(back, {"temperature_c": 20.0, "humidity": 0.5})
        self.assertEqual(kinds(gap, back), [FaultKind.GAP])
        filled = gap.then(BEGAN + timedelta(hours=27), {"temperature_c": 20.0, "humidity": 0.5})
        self.assertEqual(kinds(filled, back), [])
        self.assertEqual(filled.at, back)

    def test_it_is_kept_and_read_back_the_same(self):
        for of in (Heard(), heard(3), heard(30, temperature_c=20.0), heard(24).then(BEGAN + timedelta(hours=40), {"humidity": 0.9})):
            again = reporting.as_kept(json.loads(json.dumps(of.kept())))
            self.assertEqual(again, of)
        self.assertEqual(reporting.as_kept({}), Heard())

    def test_a_value_that_is_no_number_is_refused(self):
        for wrong in (math.nan, math.inf, 1e9):
            with self.assertRaises(OutOfRange):
                Heard().then(BEGAN, {"humidity": wrong})
