"""Reading a year of air from what people have: a typical-year weather file (the open EPW format), or twelve rows of a table.

Both give a :class:`wood.air.climate.Climate`. Whatever is wrong is said with its line.
"""

import re
from collections.abc import Iterable

import numpy as np

from wood.air.climate import MONTH_DAYS, MONTHS, Climate
from wood.air.psychrometrics import TEMPERATURE_C, saturation_concentration
from wood.air.sun import CLEARNESS, LATITUDE, MEAN_DAYS, outside_kwh_m2
from wood.errors import CannotRead

# EPW: eight lines of header, then a line an hour; columns counted from 0 (EnergyPlus documentation, weather file format).
HEADER_LINES = 8
MONTH, DAY, DRY_BULB, HUMIDITY, SUN, WIND = 1, 2, 6, 8, 13, 21
# In the header's first line.
LATITUDE_AT = 6
HOURS, LEAP_HOURS = 8760, 8784
LONGEST_LINE = 2000
# What stands in for a value that was not measured.
MISSING_DRY_BULB, MISSING_HUMIDITY, MISSING_WIND, MISSING_SUN = 99.9, 999.0, 999.0, 9999.0
POSSIBLE = {"dry bulb": (-70.0, 70.0), "humidity": (0.0, 110.0), "wind": (0.0, 60.0), "sun": (0.0, 1600.0)}
# So many hours of a month may be missing; beyond it the month is not known.
MISSING_SHARE = 0.1
FEWEST_OF_A_DAY = 12


def from_epw(lines: Iterable[str]) -> Climate:
    """The monthly normals of a typical-year weather file, read line by line.

    Args:
        lines: of the file, header and all; 8760 hours, or 8784 with the leap day.
    Raises:
        CannotRead: not such a file, cut short, a value that cannot be, or too many missing ones; the message names the line.
    """
    source = iter(lines)
    first = next(source, "")
    fields = [part.strip() for part in first.lstrip("\ufeff")[:LONGEST_LINE].split(",")]
    if fields[0].upper() != "LOCATION":
        raise CannotRead("weather_file", first[:80], "this is no typical-year weather file: its first line must begin with LOCATION")
    name = " ".join(part for part in fields[1:2] if part)[:60]
    for _ in range(HEADER_LINES - 1):
        if next(source, None) is None:
            raise CannotRead("weather_file", "", "the file ends within its header of eight lines")
    # One row an hour: month, day, dry bulb, humidity, wind, sun (Wh/m² on level ground); missing ones are NaN.
    hours = np.full((LEAP_HOURS + 1, 6), np.nan)
    count = 0
    for number, line in enumerate(source, start=HEADER_LINES + 1):
        if not line.strip():
            continue
        if count > LEAP_HOURS - 1:
            raise CannotRead("weather_file", "", f"line {number}: more than a year of hours")
        hours[count] = _hour(line, number)
        count += 1
    if count not in (HOURS, LEAP_HOURS):
        raise CannotRead("weather_file", "", f"the file holds {count} hours; a year has {HOURS}. It may have been cut short")
    return _normals(hours[:count], name, _latitude(fields))


def _latitude(fields: list[str]) -> float | None:
    """The latitude of the header, where it is one at which wood dries in the sun."""
    try:
        latitude = float(fields[LATITUDE_AT])
    except (IndexError, ValueError):
        return None
    return latitude if LATITUDE[0] <= latitude <= LATITUDE[1] else None


def _hour(line: str, number: int) -> tuple[float, ...]:
    cells = line[:LONGEST_LINE].split(",")
    if len(cells) <= WIND:
        raise CannotRead("weather_file", line[:80], f"line {number}: {len(cells)} columns where at least {WIND + 1} belong")
    try:
        month, day = float(cells[MONTH]), float(cells[DAY])
        values = [float(cells[column]) for column in (DRY_BULB, HUMIDITY, WIND, SUN)]
    except ValueError:
        raise CannotRead("weather_file", line[:80], f"line {number}: a value that is not a number") from None
    if not (1 <= month <= 12 and 1 <= day <= 31):
        raise CannotRead("weather_file", line[:80], f"line {number}: there is no such day")
    markers = (("dry bulb", MISSING_DRY_BULB), ("humidity", MISSING_HUMIDITY), ("wind", MISSING_WIND), ("sun", MISSING_SUN))
    for k, (what, missing) in enumerate(markers):
        low, high = POSSIBLE[what]
        if values[k] == missing:
            values[k] = np.nan
        elif not low <= values[k] <= high:
            raise CannotRead("weather_file", line[:80], f"line {number}: a {what} of {values[k]:g} cannot be")
    return month, day, *values


def _normals(hours: np.ndarray, name: str, latitude_deg: float | None) -> Climate:
    months = hours[:, 0].astype(int)
    columns: list[list[float]] = [[], [], [], []]
    for month in range(1, 13):
        rows = hours[months == month]
        wanted = 24 * MONTH_DAYS[month - 1]
        if rows.shape[0] < wanted:
            raise CannotRead("weather_file", "", f"month {month} has {rows.shape[0]} hours where {wanted} belong")
        if np.isnan(rows[:, 2:4]).mean(axis=0).max() > MISSING_SHARE:
            raise CannotRead("weather_file", "", f"too many hours of month {month} were not measured")
        by_day = rows[: rows.shape[0] // 24 * 24, 2].reshape(-1, 24)
        # A day that was hardly measured says nothing of its swing.
        by_day = by_day[np.isnan(by_day).sum(axis=1) <= 24 - FEWEST_OF_A_DAY]
        if not by_day.size:
            raise CannotRead("weather_file", "", f"no day of month {month} was measured through its hours")
        swing = np.nanmax(by_day, axis=1) - np.nanmin(by_day, axis=1)
        wind = np.nan_to_num(np.nanmean(rows[:, 4])) if not np.isnan(rows[:, 4]).all() else 0.0
        for column, value in zip(columns, (np.nanmean(rows[:, 2]), _felt_humidity(rows), wind, np.nanmean(swing)), strict=True):
            column.append(float(value))
    t, h, wind_m_s, swing_c = (tuple(column) for column in columns)
    return Climate(t, h, wind_m_s, swing_c, name=name, clearness=_clearness(hours, latitude_deg), latitude_deg=latitude_deg)


def _clearness(hours: np.ndarray, latitude_deg: float | None) -> tuple[float, ...]:
    """The share of the sun that reached the ground in each month; nothing where the file does not tell it of the whole year."""
    if latitude_deg is None:
        return ()
    results = []
    for month, day in enumerate(MEAN_DAYS, start=1):
        sun = hours[hours[:, 0] == month, 5]
        if np.isnan(sun).mean() > MISSING_SHARE or not np.nansum(sun):
            return ()
        results.append(float(np.clip(np.nanmean(sun) * 24 / 1000 / outside_kwh_m2(latitude_deg, day), *CLEARNESS)))
    return tuple(results)


def _felt_humidity(rows: np.ndarray) -> float:
    """A month's humidity as wood feels it: by what the air of each hour could hold (as :func:`wood.air.climate.normals`)."""
    known = rows[~np.isnan(rows[:, 2:4]).any(axis=1)]
    weights = np.asarray(saturation_concentration(np.clip(known[:, 2], *TEMPERATURE_C)))
    return float(min((known[:, 3] * weights).sum() / weights.sum() / 100, 1.0))


def text_of(data: bytes) -> str:
    """A file's text, whichever of the usual encodings it has.

    Raises:
        CannotRead: the file is of none of these kinds, or is not text.

    >>> text_of("Jan;5,5;80".encode("utf-16"))
    'Jan;5,5;80'
    """
    for encoding in ("utf-16",) if data[:2] in (b"\xff\xfe", b"\xfe\xff") else ("utf-8-sig", "cp1252"):
        try:
            text = data.decode(encoding)
        except UnicodeDecodeError:
            continue
        if "\x00" not in text:
            return text
    raise CannotRead("file", "", "this is not a text file in any usual encoding; save it as CSV (UTF-8)")


def from_table(text: str, degrees: str = "C") -> tuple[tuple[float, ...], tuple[float, ...]]:
    """Twelve rows of month, temperature and % RH (in any of commas, semicolons, tabs; with or without a header) as °C and fractions.

    Args:
        degrees: “C” or “F”, of temperatures that name no unit.

    Raises:
        CannotRead: not twelve months, a month twice, a value that is not a number or cannot be; the message names the row.

    >>> table = "month;t;rh\\n" + "\\n".join(f"{m};{m},5;80" for m in range(1, 13))
    >>> from_table(table)[0][:2]
    (1.5, 2.5)
    """
    result: dict[int, tuple[float, float]] = {}
    for number, line in enumerate((splitline for splitline in text.splitlines() if splitline.strip()), start=1):
        if number > 40:
            raise CannotRead("table", "", "a year has twelve rows; these are more than forty")
        cells = [cell.strip().strip('"') for cell in re.split(r"[;\t]|,(?=\s)" if re.search(r"[;\t]", line) else r"[,\s]+", line.strip())]
        if number == 1 and len(cells) >= 3 and not re.match(r"[-−+\d]", cells[1]):
            continue
        if len(cells) < 3:
            raise CannotRead("table", line[:80], f"row {number}: month, temperature and humidity belong there")
        month = _month(cells[0], number)
        if month in result:
            raise CannotRead("table", line[:80], f"row {number}: {MONTHS[month - 1]} appears twice")
        result[month] = _celsius(cells[1], number, degrees), _value(cells[2], number, "humidity", 1, 100) / 100
    if len(result) != 12:
        missing = ", ".join(name for k, name in enumerate(MONTHS, start=1) if k not in result)
        raise CannotRead("table", "", f"{len(result)} months where twelve belong; missing: {missing}")
    return tuple(result[month][0] for month in range(1, 13)), tuple(result[month][1] for month in range(1, 13))


def _month(cell: str, number: int) -> int:
    if re.fullmatch(r"\d{1,2}", cell) and 1 <= int(cell) <= 12:
        return int(cell)
    for k, name in enumerate(MONTHS, start=1):
        if cell[:3].capitalize() == name:
            return k
    raise CannotRead("table", cell[:40], f"row {number}: “{cell[:20]}” is no month")


def _celsius(cell: str, number: int, degrees: str) -> float:
    unit = cell.rstrip("° ")[-1:].upper()
    if (unit if unit in ("C", "F") else degrees) == "F":
        return (_value(cell, number, "temperature", -49, 140) - 32) / 1.8
    return _value(cell, number, "temperature", -45, 60)


def _value(cell: str, number: int, what: str, low: float, high: float) -> float:
    plain = cell.replace("−", "-").rstrip("%°CcfF ").replace(",", ".")
    if not re.fullmatch(r"[+-]?\d+(\.\d+)?", plain):
        raise CannotRead("table", cell[:40], f"row {number}: the {what} “{cell[:20]}” is not a number")
    if not low <= float(plain) <= high:
        raise CannotRead("table", cell[:40], f"row {number}: a {what} of {plain} cannot be")
    return float(plain)
