"""Files of loggers: the same air written down in every usual way is read as the same air."""

import unittest
from datetime import UTC, datetime, timedelta
from zoneinfo import ZoneInfo

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from wood.air import logger_files
from wood.air.logger_files import DateOrder, FaultKind, LoggerClock, faults, in_utc, read
from wood.errors import CannotRead

BEGINS = datetime(2026, 1, 28, 22, 0)
COUNT = 600


def air(count=COUNT, minutes=10):
    """Moments, temperatures and humidities of a room, to a tenth, as a sensor shows them: a swing through the day and some noise."""
    chance = np.random.default_rng(7)
    hours = np.arange(count) * minutes / 60
    warm = np.round(19 + 2 * np.sin(hours / 24 * 2 * np.pi) + chance.normal(0, 0.15, count), 1)
    damp = np.round(48 - 4 * np.sin(hours / 24 * 2 * np.pi) + chance.normal(0, 0.5, count), 1)
    return [BEGINS + timedelta(minutes=minutes * k) for k in range(count)], warm, damp


def comma(value):
    return f"{value:.1f}".replace(".", ",")


# The same air as instruments of many makes would write it: the lines above, and what is written for a moment.
WAYS = {
    "iso, commas": ("Time,Temperature(°C),Humidity(%RH)", lambda k, at, t, h: f"{at:%Y-%m-%d %H:%M:%S},{t:.1f},{h:.1f}"),
    "iso with a T": ("datetime;temp;rh", lambda k, at, t, h: f"{at:%Y-%m-%dT%H:%M:%S};{t:.1f};{h:.1f}"),
    "german": (
        "Seriennummer: 0815\nStandort;Werkstatt\n\nNr.;Datum;Uhrzeit;Temperatur [°C];rel. Feuchte [%];Taupunkt [°C]",
        lambda k, at, t, h: f"{k + 1};{at:%d.%m.%Y};{at:%H:%M:%S};{comma(t)};{comma(h)};{comma(8.1)}",
    ),
    "american": (
        '"Plot Title: Shop"\n"#","Date Time","Temp, °F","RH, %"',
        lambda k, at, t, h: f'"{k + 1}","{at:%m/%d/%y %I:%M:%S %p}","{t * 1.8 + 32:.2f}","{h:.1f}"',
    ),
    "units in cells, humidity first": ("", lambda k, at, t, h: f"{at:%d/%m/%Y %H:%M}\t{h:.1f} %\t{t:.1f} °C"),
    "seconds since 1970": (
        "timestamp,humidity,temperature",
        lambda k, at, t, h: f"{int(at.replace(tzinfo=UTC).timestamp())},{h:.1f},{t:.1f}",
    ),
    "month in letters": ("Date;Time;T (C);RH (%)", lambda k, at, t, h: f"{at:%d-%b-%Y};{at:%H:%M};{t:.1f};{h:.1f}"),
    "fractions, with a battery and a dew point": (
        "When|Dew point|Battery|Humidity|Temperature C",
        lambda k, at, t, h: f"{at:%Y/%m/%d %H:%M}|8.0|3.02|{h / 100:.3f}|{t:.1f}",
    ),
    "no names at all": ("", lambda k, at, t, h: f"{at:%Y-%m-%d %H:%M};{comma(t)};{comma(h)}"),
    "newest first": ("time,temp_c,rh", lambda k, at, t, h: f"{at:%Y-%m-%d %H:%M},{t:.1f},{h:.1f}"),
}


class Ways(unittest.TestCase):
    def test_the_same_air_is_read_from_every_way_of_writing_it(self):
        moments, warm, damp = air()
        for name, (above, line) in WAYS.items():
            lines = [line(k, at, t, h) for k, (at, t, h) in enumerate(zip(moments, warm, damp, strict=True))]
            if name == "newest first":
                lines.reverse()
            for end in ("\n", "\r\n"):
                with self.subTest(name, end=end):
                    result = read(end.join([*above.split("\n"), *lines, ""]) if above else end.join(lines))
                    self.assertEqual(result.at.size, COUNT)
                    self.assertEqual(result.at.astype(datetime).tolist(), moments)
                    np.testing.assert_allclose(result.temperature_c, warm, atol=0.006)
                    np.testing.assert_allclose(result.relative_humidity, damp / 100, atol=0.0006)
                    self.assertEqual((result.wrong_count, result.twice), (0, 0))
                    self.assertEqual("columns" in result.layout.guessed, name == "no names at all")

    def test_what_the_file_leaves_open_is_told_and_can_be_said(self):
        text = "time;T;RH\n" + "\n".join(f"03.04.2026 {hour:02}:00;48,0;45,0" for hour in range(8))
        result = read(text)
        self.assertEqual(result.layout.guessed, {"order", "degrees"})
        self.assertEqual((result.layout.order, result.layout.fahrenheit), (DateOrder.DAY_FIRST, True))
        self.assertAlmostEqual(float(result.temperature_c[0]), 8.89, places=2)
        told = read(text, order=DateOrder.MONTH_FIRST, fahrenheit=False)
        self.assertEqual(told.layout.guessed, frozenset())
        self.assertEqual((str(told.at[0]), float(told.temperature_c[0])), ("2026-03-04T00:00:00", 48.0))
        self.assertEqual(read(text, month_first=True).layout.order, DateOrder.MONTH_FIRST)

    def test_a_day_that_can_be_told_from_the_file_is_not_guessed(self):
        days = "\n".join(f"{day:02}/03/2026 12:00;20,0;45,0" for day in range(1, 9))
        self.assertEqual(read("t;T °C;RH\n" + days, month_first=True).layout.order, DateOrder.DAY_FIRST)
        self.assertEqual(read("t;T °C;RH\n" + days, month_first=True).layout.guessed, frozenset())


class Lines(unittest.TestCase):
    def test_a_line_that_is_no_reading_is_named_and_the_others_are_read(self):
        right = "2026-05-01 10:0{},20.0,50.0"
        text = "\n".join(
            [
                "time,temp °C,rh %",
                right.format(0),
                "2026-05-01 10:01,---,50.0",
                "2026-05-01 10:02,20.0,",
                "2026-02-30 10:03,20.0,50.0",
                "2026-05-01 10:04,200.0,50.0",
                "2026-05-01 10:05,20.0,101.0",
                "2026-05-01 10:06",
                "",
                right.format(7),
                right.format(7),
                "End of log",
            ]
        )
        result = read(text)
        self.assertEqual([wrong.line for wrong in result.wrong], [3, 4, 5, 6, 7, 8, 12])
        self.assertEqual(
            [wrong.why for wrong in result.wrong],
            [
                "its temperature is no number",
                "its humidity is no number",
                "its day or time cannot be read",
                "its temperature is out of range",
                "its humidity is out of range",
                "its temperature is no number",
                "its day or time cannot be read",
            ],
        )
        self.assertEqual((result.at.size, result.twice, result.wrong_count), (2, 1, 7))

    def test_what_is_no_such_file_is_refused_in_words(self):
        for text in ("", "\n\n", "hello", "a,b,c\n1,2,3", "2026-01-01 10:00,20", "2026-01-01 10:00,x,y", "\x00" * 40):
            with self.subTest(text), self.assertRaises(CannotRead):
                read(text)

    def test_a_file_that_is_too_long_is_refused(self):
        row = "2026-01-01 10:00,20,50\n"
        with self.assertRaisesRegex(CannotRead, "at most 200,000"):
            read(row * (logger_files.MOST_ROWS + 500))

    @given(st.text(max_size=400), st.text(alphabet='0123456789.,;:-/ \n"%CFTRH', max_size=400))
    def test_no_text_brings_it_down(self, anything, likely):
        for text in (anything, likely, "time,temp,rh\n2026-01-01 10:00,20,50\n" + likely):
            try:
                result = read(text)
            except CannotRead:
                continue
            self.assertTrue(np.all(np.diff(result.at).astype(int) > 0))
            self.assertTrue(np.all((result.relative_humidity >= 0) & (result.relative_humidity <= 1)))


class Clocks(unittest.TestCase):
    def test_each_clock_puts_a_reading_where_it_was(self):
        berlin = ZoneInfo("Europe/Berlin")
        result = read("time,t °C,rh\n2026-01-15 12:00,20,50\n2026-07-15 12:00,20,50\n")
        hours = {clock: [str(moment)[11:16] for moment in in_utc(result, clock, berlin)] for clock in LoggerClock}
        self.assertEqual(
            hours, {LoggerClock.LOCAL: ["11:00", "10:00"], LoggerClock.WINTER: ["11:00", "11:00"], LoggerClock.UTC: ["12:00", "12:00"]}
        )

    def test_a_zone_in_the_file_counts_before_the_clock(self):
        for zone, hour in (("+02:00", "10"), ("Z", "12"), ("-0530", "17"), (" UTC", "12")):
            result = read(f"time,t °C,rh\n2026-07-15T12:00:00{zone},20,50\n2026-07-15T12:10:00{zone},20,50\n")
            with self.subTest(zone):
                self.assertTrue(result.has_zone)
                self.assertEqual(str(in_utc(result, LoggerClock.LOCAL, ZoneInfo("Asia/Tokyo"))[0])[11:13], hour)

    def test_south_of_the_equator_winter_time_is_julys(self):
        result = read("time,t °C,rh\n2026-01-15 12:00,20,50\n2026-07-15 12:00,20,50\n")
        self.assertEqual([str(moment)[11:13] for moment in in_utc(result, LoggerClock.WINTER, ZoneInfo("Pacific/Auckland"))], ["00", "00"])


class Faults(unittest.TestCase):
    def test_a_sound_logger_has_none(self):
        moments, warm, damp = air(6 * 24 * 60)
        self.assertEqual(faults(np.array(moments, dtype="datetime64[s]"), warm, damp / 100), [])

    def test_a_gap_a_stuck_sensor_and_a_jump_are_found_where_they_are(self):
        moments, warm, damp = air(6 * 24 * 20)
        at = np.array(moments, dtype="datetime64[s]")
        warm[300:500], damp[300:500] = warm[300], damp[300]
        damp[1000] += 45.0
        kept = np.r_[0:1500, 1900 : at.size]
        found = faults(at[kept], warm[kept], damp[kept] / 100)
        self.assertEqual([fault.kind for fault in found], [FaultKind.GAP, FaultKind.STUCK, FaultKind.JUMP, FaultKind.JUMP])
        gap, stuck, *jumps = found
        self.assertEqual((gap.begins, gap.ends), (at[1499], at[1900]))
        self.assertEqual((stuck.begins, round(stuck.hours)), (at[300], 33))
        self.assertEqual({jump.begins for jump in jumps}, {at[999], at[1000]})
