"""Weather files and tables read into a year of air, and everything that can be wrong with them."""

import unittest

import numpy as np

from wood.air import climate
from wood.air.climate import MONTH_DAYS, normals, pattern
from wood.air.rooms import Room, room
from wood.air.sun import MEAN_DAYS, outside_kwh_m2
from wood.air.typical_year import from_epw, from_table, text_of
from wood.errors import CannotRead, OutOfRange

HEADER = ["LOCATION,Nowhere in Particular,-,XX,made,000000,0,0,0,0"] + ["COMMENTS"] * 7


def weather_file(**changes) -> list[str]:
    """A whole made file: each month's temperature is its number, a swing of 10°C, 70% RH, 3 m/s; ``changes`` replace lines by number."""
    lines = list(HEADER)
    for month, days in enumerate(MONTH_DAYS, start=1):
        for day in range(1, days + 1):
            for hour in range(1, 25):
                cells = ["1999", month, day, hour, 0, "?", month + 5 * np.cos(2 * np.pi * (hour - 15) / 24), 0, 70, 101325, *[0] * 11, 3.0]
                lines.append(",".join(map(str, cells)))
    for name, line in changes.items():
        lines[int(name.removeprefix("line")) - 1] = line
    return lines


def sunny(lines: list[str], latitude: str, clearness: float) -> list[str]:
    """The same file at a latitude, under so clear a sky: the day's light falls evenly in its twelve bright hours."""
    result = [lines[0].replace("000000,0,0", f"000000,{latitude},0"), *lines[1:8]]
    for line in lines[8:]:
        cells = line.split(",")
        if 7 <= int(cells[3]) <= 18:
            cells[13] = f"{1000 / 12 * clearness * outside_kwh_m2(45.0, MEAN_DAYS[int(cells[1]) - 1]):.1f}"
        result.append(",".join(cells))
    return result


class WeatherFile(unittest.TestCase):
    def test_its_sun_becomes_how_clear_the_sky_is_where_it_says_where_that_was(self):
        year = from_epw(sunny(weather_file(), "45.0", 0.48))
        self.assertEqual(year.latitude_deg, 45.0)
        np.testing.assert_allclose(year.clearness, [0.48] * 12, atol=0.002)
        self.assertEqual(from_epw(weather_file()).clearness, ())
        self.assertEqual(from_epw(sunny(weather_file(), "unknown", 0.48)).clearness, ())

    def test_its_hours_become_monthly_means_with_swing_and_wind(self):
        year = from_epw(weather_file())
        np.testing.assert_allclose(year.temperature_c, range(1, 13), atol=1e-6)
        np.testing.assert_allclose(year.relative_humidity, 0.7)
        np.testing.assert_allclose(year.daily_swing_c, 10.0, atol=0.01)
        np.testing.assert_allclose(year.wind_m_s, 3.0)
        self.assertEqual(year.name, "Nowhere in Particular")

    def test_a_few_missing_hours_are_passed_over_and_many_are_not(self):
        cells = weather_file()[100].split(",")
        cells[6], cells[8], cells[21] = "99.9", "999", "999"
        missing = ",".join(cells)
        few = from_epw(weather_file(**{f"line{n}": missing for n in range(101, 111)}))
        self.assertAlmostEqual(few.temperature_c[0], 1.0, delta=0.1)
        with self.assertRaisesRegex(CannotRead, "month 1 were not measured"):
            from_epw(weather_file(**{f"line{n}": missing for n in range(9, 300)}))

    def test_a_day_without_any_values_leaves_the_month_and_its_swing_known(self):
        cells = weather_file()[100].split(",")
        cells[6], cells[8] = "99.9", "999"
        first = 9 + 24 * 4
        year = from_epw(weather_file(**{f"line{n}": ",".join(cells) for n in range(first, first + 24)}))
        self.assertTrue(np.isfinite([*year.temperature_c, *year.relative_humidity, *year.daily_swing_c]).all())
        self.assertAlmostEqual(year.daily_swing_c[0], 10.0, delta=0.01)

    def test_damp_cool_nights_count_for_less_than_dry_warm_days_as_wood_weighs_them(self):
        lines = weather_file()
        for n in range(8, len(lines)):
            cells = lines[n].split(",")
            cells[8] = "90" if float(cells[6]) < int(cells[1]) else "50"
            lines[n] = ",".join(cells)
        self.assertTrue(0.64 < from_epw(lines).relative_humidity[6] < 0.695)

    def test_what_is_wrong_is_said_with_its_line(self):
        good = weather_file()
        hot = good[500].split(",")
        hot[6] = "450"
        for lines, texts in (
            (["month,t,rh"], "must begin with LOCATION"),
            (HEADER[:4], "ends within its header"),
            (good[:4000], "may have been cut short"),
            (good + good[8:], "more than a year"),
            (weather_file(line501=",".join(hot)), "line 501: a dry bulb of 450 cannot be"),
            (weather_file(line501="1999,1,1"), "line 501: 3 columns"),
            (weather_file(line501=good[500].replace(",70,", ",damp,")), "line 501: a value that is not a number"),
            (weather_file(line501=good[500].replace("1999,1,", "1999,13,")), "line 501: there is no such day"),
        ):
            with self.subTest(texts), self.assertRaisesRegex(CannotRead, texts):
                from_epw(lines)


class Table(unittest.TestCase):
    rows = [f"{month};{month},5;80" for month in range(1, 13)]

    def test_degrees_are_those_of_the_workshop_unless_a_cell_names_its_own(self):
        rows = "\n".join(f"{month};{'10 C' if month == 3 else 50 + month};60" for month in range(1, 13))
        temperatures, _ = from_table(rows, "F")
        self.assertAlmostEqual(temperatures[0], (51 - 32) / 1.8)
        self.assertEqual(temperatures[2], 10)
        with self.assertRaises(CannotRead):
            from_table(rows.replace("51", "151"), "F")

    def test_commas_semicolons_tabs_names_and_headers_are_all_understood(self):
        for text in (
            "\n".join(self.rows),
            "Month, T, RH\n" + "\n".join(f"{month}, {month}.5, 80%" for month in range(1, 13)),
            "\n".join(
                f"{name}\t{month}.5\t80"
                for month, name in enumerate(["Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec"], 1)
            ),
            "\n".join(reversed(self.rows)),
        ):
            temperatures, humidities = from_table(text)
            self.assertEqual(temperatures, tuple(month + 0.5 for month in range(1, 13)))
            self.assertEqual(humidities, (0.8,) * 12)

    def test_eleven_months_a_month_twice_formulas_and_nonsense_are_said_by_row(self):
        for text, lines in (
            ("\n".join(self.rows[:11]), "11 months where twelve belong; missing: Dec"),
            ("\n".join([*self.rows[:11], self.rows[3]]), "row 12: Apr appears twice"),
            ("\n".join([*self.rows[:5], "6;=CMD()|'/c calc'!A0;80"]), "row 6: the temperature"),
            ("\n".join([*self.rows[:5], "6;12;400"]), "row 6: a humidity of 400 cannot be"),
            ("\n".join([*self.rows[:5], "Smarch;12;80"]), "row 6: “Smarch” is no month"),
            ("1;2", "row 1: month, temperature and humidity"),
            ("\n".join(self.rows * 9), "twice"),
            ("", "0 months"),
        ):
            with self.subTest(lines), self.assertRaisesRegex(CannotRead, lines):
                from_table(text)

    def test_every_usual_encoding_is_read_and_others_are_refused(self):
        text = "Jan;−1,5;80"
        for encoding in ("utf-8", "utf-8-sig", "utf-16"):
            self.assertEqual(text_of(text.encode(encoding)), text)
        self.assertEqual(text_of("März;5;80".encode("cp1252")), "März;5;80")
        with self.assertRaises(CannotRead):
            text_of(bytes(range(256)))


class RoomsWorkedOut(unittest.TestCase):
    outdoors = pattern("warm_humid").year

    def test_normals_of_a_year_are_its_months(self):
        back = normals(pattern("cold_winter").year)
        np.testing.assert_allclose(back.temperature_c, pattern("cold_winter").temperature_c, atol=0.5)
        np.testing.assert_allclose(back.monthly_emc, pattern("cold_winter").monthly_emc, atol=0.004)
        with self.assertRaises(OutOfRange):
            normals(climate.constant(20, 0.5))

    def test_cooling_takes_water_out_and_holds_the_temperature(self):
        warm, cooled = room(self.outdoors, Room(20.0, 0.002)), room(self.outdoors, Room(20.0, 0.002, cooled_to_c=24.0))
        self.assertLessEqual(cooled.temperature_c.max(), 24.0)
        summer = slice(24 * 190, 24 * 220)
        self.assertLess(cooled.emc[summer].mean(), warm.emc[summer].mean() - 0.03)
        with self.assertRaises(OutOfRange):
            Room(22.0, cooled_to_c=18.0)

    def test_boards_on_a_heated_floor_live_drier_while_it_is_on(self):
        outdoors = pattern("cold_winter").year
        plain, floor = room(outdoors, Room(20.0, 0.002)), room(outdoors, Room(20.0, 0.002, floor_warmer_c=6.0))
        self.assertLess(floor.emc[: 24 * 60].mean(), plain.emc[: 24 * 60].mean() - 0.008)
        hot = slice(24 * 195, 24 * 200)
        np.testing.assert_allclose(floor.emc[hot].max(), plain.emc[hot].max(), atol=0.002)
