"""What a thermo-hygrometer's logger wrote down: a file of any maker's, read without being told how it is laid out.

Columns stand in any order, parted by commas, semicolons, tabs or bars; decimals have points or commas; the days stand in any of the usual
orders, with the time of day beside them or in a column of its own; degrees are °C or °F; humidity is percent or a fraction; lines above
the data say what they like. What was taken for what is told (:class:`LoggerLayout`), and which of it was a guess.

Source: days and zones as ISO 8601 and its neighbours write them; the limits of gaps, stuck sensors and jumps are our judgement.
"""

import csv
import io
import itertools
import re
from collections import Counter
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import datetime, tzinfo
from enum import StrEnum

import numpy as np

from wood.arrays import Array
from wood.errors import CannotRead

MOST_ROWS = 200_000
# Lines looked at to find out how a file is laid out, and how soon after its first reading the next one stands.
LOOKED_AT, SOON = 400, 12
# What air in which wood lies can be: kilns and winters included. Other numbers are another column's.
TEMPERATURE_C, YEARS = (-40.0, 150.0), (1990, 2089)
# Without a word about its degrees, a column whose middle is above this is in °F: 45°C is a kiln, 45°F a cold shed.
FAHRENHEIT_FROM = 45.0
# A sensor that says the very same for so long, and so many times, is stuck: even a cellar's air moves by a tenth within a day.
STUCK_HOURS, STUCK_TIMES = 24.0, 24
# What air indoors and out does not do within half an hour.
JUMP_C, JUMP_RH, JUMP_HOURS = 12.0, 0.35, 0.5
# So many usual steps without a reading are a gap, and at least so many hours.
GAP_STEPS, GAP_HOURS = 3.5, 1.0


class DateOrder(StrEnum):
    """In which order the parts of a day stand."""

    YEAR_FIRST = "ymd"
    DAY_FIRST = "dmy"
    MONTH_FIRST = "mdy"


class LoggerClock(StrEnum):
    """What a logger's clock goes by, where its file does not say: the shop's own time, its winter time all year, or UTC."""

    LOCAL = "local"
    WINTER = "winter"
    UTC = "utc"


@dataclass(frozen=True)
class LoggerLayout:
    """What was taken for what. Columns count from 0; ``names`` are theirs, empty where no line names them. ``guessed`` names what the file
    leaves open: "order", "degrees", "columns".
    """

    names: tuple[str, ...]
    time_columns: tuple[int, ...]
    temperature_column: int
    humidity_column: int
    order: DateOrder
    fahrenheit: bool
    is_fraction: bool
    guessed: frozenset[str]


@dataclass(frozen=True)
class WrongLine:
    """A line that is no reading: which, and why."""

    line: int
    why: str


@dataclass(frozen=True)
class LoggerAir:
    """The readings of a file, oldest first, each moment once.

    ``at`` is their time (datetime64 in seconds): UTC where the file says its zone (``has_zone``), else by the logger's own clock;
    ``temperature_c`` °C, ``relative_humidity`` a fraction. ``wrong`` are the first lines that could not be read, ``wrong_count`` how many
    there are, ``twice`` how many stood there more than once.
    """

    layout: LoggerLayout
    at: np.ndarray
    has_zone: bool
    temperature_c: Array
    relative_humidity: Array
    wrong: tuple[WrongLine, ...]
    wrong_count: int
    twice: int


class FaultKind(StrEnum):
    """What an instrument's readings show to be wrong with it; ``SILENT`` is one that should have spoken by now."""

    SILENT = "silent"
    STUCK = "stuck"
    GAP = "gap"
    JUMP = "jump"


@dataclass(frozen=True)
class LoggerFault:
    """From when to when (datetime64) something is wrong, and of which kind."""

    kind: FaultKind
    begins: np.datetime64
    ends: np.datetime64

    @property
    def hours(self) -> float:
        """How long it lasts."""
        return float((self.ends - self.begins) / np.timedelta64(1, "s")) / 3600


MOST_WRONG = 20
_TEMPERATURE = re.compile(r"temp|celsius|fahrenheit|°\s?[cf]\b|\bdeg\b|\([cf]\)|^t$|^t[ _.\[(]", re.IGNORECASE)
_HUMIDITY = re.compile(r"hum|\brh\b|\brf\b|%|feucht|fukt|umid|hygro|vocht|wilg", re.IGNORECASE)
# Columns that look like one of the two and are not: the dew point, the outside sensor's battery, limits of alarms.
_OTHER = re.compile(r"dew|taupunkt|ros[ée]e|rocío|rugiada|batt|volt|alarm|limit|min\b|max\b|wet.?bulb|abs|vpd", re.IGNORECASE)
_FAHRENHEIT = re.compile(r"fahrenheit|°\s?f\b|\bdeg\s?f\b|[(\[ _]f[)\]]?\s*$", re.IGNORECASE)
_CELSIUS = re.compile(r"celsius|°\s?c\b|\bdeg\s?c\b|[(\[ _]c[)\]]?\s*$", re.IGNORECASE)
_NUMBER = re.compile(r"[-+−]?\d+(?:[.,]\d+)?(?=\s*(?:°?\s?[CF]|%(?:\s?RH)?|r\.?h\.?)?$)", re.IGNORECASE)
_DATE = re.compile(r"(?<!\d)(\d{1,4})[-/. ](\d{1,2})[-/., ]{1,2}(\d{1,4})(?!\d)")
_NAMED = re.compile(r"(?<![a-z])(jan|feb|mar|apr|may|jun|jul|aug|sep|oct|nov|dec)[a-z]{0,6}", re.IGNORECASE)
_MONTH = {name: str(k + 1) for k, name in enumerate(["jan", "feb", "mar", "apr", "may", "jun", "jul", "aug", "sep", "oct", "nov", "dec"])}
_TIME = re.compile(r"(?<!\d)(\d{1,2}):(\d{2})(?::(\d{2}))?(?:[.,]\d+)?\s*([ap])?\.?m?\.?", re.IGNORECASE)
_ZONE = re.compile(r"(Z|UTC|GMT|[+-]\d{2}:?\d{2})\s*$", re.IGNORECASE)
_EPOCH = re.compile(r"1\d{9}(?:\d{3}|\.\d+)?$")


def read(text: str, *, order: DateOrder | None = None, fahrenheit: bool | None = None, month_first: bool = False) -> LoggerAir:
    """The readings of a logger's file.

    Args:
        text: the file, at most ``MOST_ROWS`` lines of readings.
        order, fahrenheit: said by who knows, where the file leaves it open or was taken wrongly; None: found out.
        month_first: whether days that could be read either way have their month first, as in America.
    Raises:
        CannotRead: no line of it is a reading of temperature and humidity with its time, or it has too many.

    >>> air = read("time;T (°C);RH (%)\\n03.01.2026 10:00;20,5;45,1\\n03.01.2026 10:10;20,6;45,0\\n")
    >>> [str(moment) for moment in air.at], [round(float(value), 3) for value in air.relative_humidity]
    (['2026-01-03T10:00:00', '2026-01-03T10:10:00'], [0.451, 0.45])
    """
    lines = text.lstrip("\ufeff").replace("\r\n", "\n").replace("\r", "\n").split("\n")
    if len(lines) > MOST_ROWS + LOOKED_AT:
        raise CannotRead("file", "", f"it has {len(lines):,} lines; send at most {MOST_ROWS:,} at a time")
    table = _table(lines)
    first = _first_reading(table)
    if first is None:
        raise CannotRead("file", "", "no line of it has a time, a temperature and a humidity")
    body = table[first:]
    names = _names_above(table, first)
    sample = [row for row in body[:LOOKED_AT] if _is_reading(row)]
    width = Counter(len(row) for row in sample).most_common(1)[0][0]
    sample = [row for row in sample if len(row) >= width]
    times = _time_columns(sample, width)
    temperature, humidity, sure = _value_columns(sample, names, times, width)
    guessed = set() if sure else {"columns"}
    at, has_zone, order, order_sure = _moments([[row[k] if k < len(row) else "" for k in times] for row in body], order, month_first)
    if not order_sure:
        guessed.add("order")
    heads = (names[temperature] if names else "", sample[0][temperature])
    if fahrenheit is None:
        fahrenheit, degrees_sure = _is_fahrenheit(heads, sample, temperature)
        if not degrees_sure:
            guessed.add("degrees")
    warm, damp = _numbers(body, temperature), _numbers(body, humidity)
    warm = (warm - 32) / 1.8 if fahrenheit else warm
    known = damp[np.isfinite(damp)]
    is_fraction = bool(known.size) and float(known.max()) <= 1.0 and "%" not in (names[humidity] if names else "")
    damp = damp if is_fraction else damp / 100
    layout = LoggerLayout(tuple(names), times, temperature, humidity, order, fahrenheit, is_fraction, frozenset(guessed))
    return _readings(layout, body, first, (at, has_zone), warm, damp)


def _readings(
    layout: LoggerLayout, body: list[list[str]], first: int, moments: tuple[np.ndarray, bool], warm: Array, damp: Array
) -> LoggerAir:
    """What can be, in the order of time; of what stands there twice the first."""
    at, has_zone = moments
    empty = np.array([not any(cell.strip() for cell in row) for row in body])
    reasons = (
        (np.isnat(at), "its day or time cannot be read"),
        (~np.isfinite(warm), "its temperature is no number"),
        (~np.isfinite(damp), "its humidity is no number"),
        (~((warm >= TEMPERATURE_C[0]) & (warm <= TEMPERATURE_C[1])), "its temperature is out of range"),
        # A sensor at its end says 0 or 100; beyond that it is broken.
        (~((damp >= 0.0) & (damp <= 1.0)), "its humidity is out of range"),
    )
    why = np.full(len(body), "", dtype=object)
    for is_wrong, reason in reversed(reasons):
        why[is_wrong] = reason
    why[empty] = ""
    right = np.flatnonzero((why == "") & ~empty)
    wrong = np.flatnonzero(why != "")
    moments_right, kept = np.unique(at[right], return_index=True)
    chosen = right[kept]
    if not chosen.size:
        raise CannotRead("file", "", "no line of it is a reading that air can have")
    return LoggerAir(
        layout,
        moments_right,
        has_zone,
        warm[chosen],
        damp[chosen],
        tuple(WrongLine(first + int(k) + 1, why[k]) for k in wrong[:MOST_WRONG]),
        int(wrong.size),
        int(right.size - chosen.size),
    )


def _table(lines: list[str]) -> list[list[str]]:
    """Lines as rows, by the delimiter that makes most of them into a time and two numbers."""
    sample = [line for line in lines if line.strip()]
    middle = max(len(sample) // 2, 1)
    sample = sample[middle - 1 : middle - 1 + LOOKED_AT]

    def readings(delimiter: str) -> int:
        return sum(_is_reading(row) for row in _rows(sample, delimiter))

    return _rows(lines, max(("\t", ";", ",", "|"), key=readings))


def _rows(lines: Sequence[str], delimiter: str) -> list[list[str]]:
    """Lines as cells; a quotation mark that is never closed does not swallow the lines after it."""
    if any('"' in line for line in lines[:LOOKED_AT]):
        return [next(csv.reader(io.StringIO(line), delimiter=delimiter), []) for line in lines]
    return [line.split(delimiter) for line in lines]


def _number(cell: str) -> float | None:
    match = _NUMBER.match(cell.strip())
    return float(match[0].replace(",", ".").replace("−", "-")) if match else None


def _in_figures(text: str) -> str:
    """A day whose month is a word, with its number instead."""
    return _NAMED.sub(lambda found: _MONTH[found[1].lower()], text)


def _is_time(cell: str) -> bool:
    return bool(_DATE.search(_in_figures(cell)) or _EPOCH.match(cell.strip()))


def _is_reading(row: list[str]) -> bool:
    """Whether a row has a day and two numbers beside it."""
    return any(_is_time(cell) for cell in row) and sum(_number(cell) is not None and not _is_time(cell) for cell in row) >= 2


def _first_reading(table: list[list[str]]) -> int | None:
    """The first reading that another follows soon; of a file with a single one that."""
    following = itertools.pairwise(k for k, row in enumerate(table) if _is_reading(row))
    soon = next((k for k, other in following if other - k <= SOON), None)
    return soon if soon is not None else next((k for k, row in enumerate(table) if _is_reading(row)), None)


def _names_above(table: list[list[str]], first: int) -> list[str]:
    """The names of the columns: the nearest line above that has as many cells, with words in them."""
    width = len(table[first])
    for row in reversed(table[max(first - 5, 0) : first]):
        if len(row) >= min(width, 3) and any(_TEMPERATURE.search(cell) or _HUMIDITY.search(cell) for cell in row):
            return [*(cell.strip() for cell in row), *[""] * (width - len(row))]
    return []


def _time_columns(sample: list[list[str]], width: int) -> tuple[int, ...]:
    """The column of the days, and the one of the times of day where that is another."""
    share = [sum(_is_time(row[k]) for row in sample) for k in range(width)]
    day = int(np.argmax(share))
    if any(_TIME.search(row[day]) or _EPOCH.match(row[day].strip()) for row in sample):
        return (day,)
    clocks = [sum(bool(_TIME.match(row[k].strip())) for row in sample) if k != day else 0 for k in range(width)]
    return (day, int(np.argmax(clocks))) if max(clocks) else (day,)


def _value_columns(sample: list[list[str]], names: list[str], times: tuple[int, ...], width: int) -> tuple[int, int, bool]:
    """The columns of temperature and humidity, and whether anything but their order says so."""
    numeric = [k for k in range(width) if k not in times and sum(_number(row[k]) is not None for row in sample) > len(sample) / 2]

    def said(pattern: re.Pattern[str], cell: Callable[[int], str]) -> list[int]:
        return [k for k in numeric if pattern.search(cell(k)) and not _OTHER.search(names[k] if names else "")]

    def name(k: int) -> str:
        return names[k] if names else ""

    def written(k: int) -> str:
        return sample[0][k]

    # "RH (%)" and "humidity temperature" both name a humidity; a temperature is what is left.
    humid = said(_HUMIDITY, name) or said(re.compile("%|r\\.?h", re.IGNORECASE), written)
    warm = [k for k in said(_TEMPERATURE, name) if k not in humid] or said(re.compile("°|[CF]$"), written)
    if humid and warm:
        return warm[0], humid[0], True
    rest = [k for k in numeric if k not in humid and k not in warm and not _OTHER.search(name(k))]
    # A column of running numbers is none of the two.
    rest = [k for k in rest if not _counts_up([_number(row[k]) for row in sample])] or rest
    warm = warm or rest[:1]
    humid = humid or [k for k in rest if k not in warm][:1]
    if not warm or not humid:
        raise CannotRead("file", "", "it has one column of numbers where temperature and humidity are needed")
    return warm[0], humid[0], False


def _counts_up(values: list[float | None]) -> bool:
    steps = np.diff([value for value in values if value is not None])
    return bool(steps.size > 1) and bool(np.all(steps == steps[0])) and steps[0] != 0


def _is_fahrenheit(heads: tuple[str, ...], sample: list[list[str]], column: int) -> tuple[bool, bool]:
    """Whether a column's degrees are °F, and whether the file says so."""
    for head in heads:
        if _FAHRENHEIT.search(head):
            return True, True
        if _CELSIUS.search(head):
            return False, True
    values = [value for row in sample if (value := _number(row[column])) is not None]
    return float(np.median(values)) > FAHRENHEIT_FROM, False


def _numbers(body: list[list[str]], column: int) -> Array:
    """A column as numbers, NaN where there is none."""
    cells = [row[column] if column < len(row) else "" for row in body]
    try:
        return np.array([cell.replace(",", ".") for cell in cells]).astype(float)
    except ValueError:
        return np.array([np.nan if (value := _number(cell)) is None else value for cell in cells])


def _moments(cells: list[list[str]], order: DateOrder | None, month_first: bool) -> tuple[np.ndarray, bool, DateOrder, bool]:
    """Times as datetime64 in seconds (NaT where none can be read), whether they are UTC, in which order their days stand, and whether
    that is sure.
    """
    joined = [" ".join(row) for row in cells]
    if any(_EPOCH.match(text.strip()) for text in joined[:LOOKED_AT]):
        seconds = [float(text) if _EPOCH.match(text.strip()) else np.nan for text in joined]
        whole = np.array([value / 1000 if value > 1e11 else value for value in seconds])
        at = np.where(np.isfinite(whole), whole, 0).astype("int64").astype("datetime64[s]")
        at[~np.isfinite(whole)] = np.datetime64("NaT")
        return at, True, DateOrder.YEAR_FIRST, True
    word = next((found for text in joined[:LOOKED_AT] if (found := _NAMED.search(text))), None)
    if word:
        order = DateOrder.MONTH_FIRST if not re.search(r"\d", word.string[: word.start()]) else DateOrder.DAY_FIRST
        joined = [_in_figures(text) for text in joined]
    parts = np.array([_parts(text) for text in joined], dtype=np.int64)
    days, clock, zone = parts[:, :3], parts[:, 3:6], parts[:, 6]
    has_day = days[:, 0] >= 0
    found_order, sure = _order(days[has_day], order, month_first)
    year, month, day = (days[:, k] for k in {"ymd": (0, 1, 2), "dmy": (2, 1, 0), "mdy": (2, 0, 1)}[found_order])
    year = np.where(year < 100, year + 2000, year)
    can_be = has_day & (year >= YEARS[0]) & (year <= YEARS[1]) & (month >= 1) & (month <= 12) & (day >= 1) & (clock[:, 0] < 24)
    can_be &= (clock[:, 1] < 60) & (clock[:, 2] < 60)
    begins = (np.where(can_be, year, 2000) - 1970).astype("datetime64[Y]").astype("datetime64[M]") + (np.where(can_be, month, 1) - 1)
    length = ((begins + 1).astype("datetime64[D]") - begins.astype("datetime64[D]")).astype(int)
    can_be &= day <= length
    at = begins.astype("datetime64[D]").astype("datetime64[s]") + np.where(can_be, day - 1, 0) * np.timedelta64(86_400, "s")
    at = at + (clock[:, 0] * 3600 + clock[:, 1] * 60 + clock[:, 2]).astype("timedelta64[s]")
    has_zone = bool(has_day.any()) and bool((zone[has_day] != _NO_ZONE).all())
    if has_zone:
        at = at - zone.astype("timedelta64[s]")
    at[~can_be] = np.datetime64("NaT")
    return at, has_zone, found_order, sure


_NO_ZONE = 10**6


def _parts(text: str) -> tuple[int, ...]:
    """A time as its six numbers in the order in which they stand and its zone's seconds; −1 for the first where there is no day."""
    date = _DATE.search(text)
    if date is None:
        return (-1, 0, 0, 0, 0, 0, _NO_ZONE)
    rest = text[date.end() :]
    time = _TIME.search(rest) or _TIME.search(text[: date.start()])
    hour, minute, second = (int(time[1]), int(time[2]), int(time[3] or 0)) if time else (0, 0, 0)
    if time and time[4] and hour <= 12:
        hour = hour % 12 + (12 if time[4] in "pP" else 0)
    zone = _ZONE.search(rest) if time else None
    seconds = _NO_ZONE
    if zone:
        sign = zone[1]
        seconds = 0 if sign[0] not in "+-" else int(sign[0] + "1") * (int(sign[1:3]) * 3600 + int(sign[-2:]) * 60)
    return (int(date[1]), int(date[2]), int(date[3]), hour, minute, second, seconds)


def _order(days: np.ndarray, said: DateOrder | None, month_first: bool) -> tuple[DateOrder, bool]:
    """The order of a day's parts, and whether the file says so: a year in front, a part above 12, or one reading of the two in which the
    days follow each other."""
    if not len(days):
        return said or DateOrder.YEAR_FIRST, False
    if (days[:, 0] > 31).any():
        return DateOrder.YEAR_FIRST, True
    if said in (DateOrder.DAY_FIRST, DateOrder.MONTH_FIRST):
        return said, True
    if (days[:, 0] > 12).any():
        return DateOrder.DAY_FIRST, True
    if (days[:, 1] > 12).any():
        return DateOrder.MONTH_FIRST, True
    # A logger goes through the days of a month: the part that changes more often is the day.
    first, second = (int(np.count_nonzero(np.diff(days[:, k]))) for k in (0, 1))
    if first != second:
        return (DateOrder.DAY_FIRST if first > second else DateOrder.MONTH_FIRST), True
    return (DateOrder.MONTH_FIRST if month_first else DateOrder.DAY_FIRST), False


def in_utc(air: LoggerAir, clock: LoggerClock, zone: tzinfo) -> np.ndarray:
    """The moments of readings in UTC (datetime64 in seconds), by what the logger's clock goes by; those of a file that says its zone as
    they are.

    In the hour that a local clock goes through twice the first reading of each minute is the earlier one; as each moment of a file counts
    once, the second hour is lost to a clock that keeps no zone.

    >>> from zoneinfo import ZoneInfo
    >>> air = read("2026-07-01 12:00,20,50\\n2026-07-01 13:00,20,50\\n")
    >>> [str(in_utc(air, clock, ZoneInfo("Europe/Berlin"))[0])[11:16] for clock in LoggerClock]
    ['10:00', '11:00', '12:00']
    """
    if air.has_zone or clock == LoggerClock.UTC:
        return air.at
    hours, which = np.unique(air.at.astype("datetime64[h]"), return_inverse=True)
    offsets = [_offset(hour, clock, zone) for hour in hours.astype("datetime64[s]").astype(datetime)]
    return air.at - np.array(offsets, dtype="timedelta64[s]")[which]


def _offset(local: datetime, clock: LoggerClock, zone: tzinfo) -> int:
    """Seconds that a zone is ahead of UTC at a local time; in winter time as in the month of its year that is least ahead."""
    if clock == LoggerClock.WINTER:
        return min(_offset(datetime(local.year, month, 15, 12), LoggerClock.LOCAL, zone) for month in (1, 7))
    ahead = zone.utcoffset(local)
    return int(ahead.total_seconds()) if ahead is not None else 0


def faults(at: np.ndarray, temperature_c: Array, relative_humidity: Array) -> list[LoggerFault]:
    """Where a logger says nothing for a while, says the very same for too long, or jumps as no air does; the longest first.

    Args:
        at: moments of readings, datetime64 in seconds, rising; ``temperature_c`` and ``relative_humidity`` of the same length.
    """
    if at.size < 2:
        return []
    hours = np.diff(at) / np.timedelta64(1, "s") / 3600
    usual = float(np.median(hours))
    found = [LoggerFault(FaultKind.GAP, at[k], at[k + 1]) for k in np.flatnonzero(hours > max(GAP_STEPS * usual, GAP_HOURS))]
    same = (np.diff(temperature_c) == 0) & (np.diff(relative_humidity) == 0)
    edges = np.flatnonzero(np.diff(np.concatenate([[False], same, [False]]).astype(int)))
    for begins, ends in zip(edges[::2], edges[1::2], strict=True):
        fault = LoggerFault(FaultKind.STUCK, at[begins], at[ends])
        if fault.hours >= STUCK_HOURS and ends - begins >= STUCK_TIMES:
            found.append(fault)
    leaps = (np.abs(np.diff(temperature_c)) > JUMP_C) | (np.abs(np.diff(relative_humidity)) > JUMP_RH)
    found += [LoggerFault(FaultKind.JUMP, at[k], at[k + 1]) for k in np.flatnonzero(leaps & (hours <= JUMP_HOURS))]
    return sorted(found, key=lambda fault: -fault.hours)
