"""A build's first year in words."""

from dataclasses import dataclass
from datetime import date, timedelta

from calm_heron.builds.kinds import FitKind
from calm_heron.builds.made.following import BuildYear, FollowedPart
from calm_heron.builds.models import MeasuredLater
from calm_heron.builds.words import BuildWords, listed
from calm_heron.site.dates import day as said_day
from calm_heron.site.numbers import percent, points
from wood.air.climate import MONTH_NAMES
from wood.air.sorption import relative_humidity_for
from wood.arrays import Array
from wood.builds.first_year import SAME_DAY, Against, FirstYear, Measured, Standing
from wood.units import System
from wood.written import cut_length, uncertain_length

# At which a home's humidity is told.
ROOM_C = 20.0
# Movement below this (metres) is none that anybody sees.
LEAST_SEEN_M = 0.0004


def month_of(since: date, day: int) -> str:
    """The month of a day after it was made."""
    return MONTH_NAMES[(since + timedelta(days=day)).month - 1]


def speaks_of(year: BuildYear) -> FollowedPart | None:
    """The part that the answer is about: one that was measured off its forecast last, else one that sticks, else the one that was measured
    last, else the one that moves most; None where nothing is known."""
    known = year.known
    newest = [part for part in known if part.newest is not None]
    off = [part for part in newest if part.newest and part.newest[1].standing is not Standing.AS_FORECAST]
    sticks = [part for part in known if part.year and part.year.sticks_from is not None]
    for parts in (off, [] if sticks else newest):
        if parts:
            return max(parts, key=lambda part: part.newest[0].on if part.newest else year.since)
    return sticks[0] if sticks else max(known, key=lambda part: abs(part.year.most_moved_m) if part.year else 0.0, default=None)


def year_words(year: BuildYear, system: System) -> BuildWords:
    """What a build does in its first year, or how what was measured stands to that."""
    known = year.known
    if not known:
        why = year.parts[0].unknown if year.parts else "It has no parts."
        return BuildWords("Can’t tell", "", why, "Read its wood, and say what it was when it was made." if year.is_made else "")
    part = speaks_of(year)
    assert part is not None
    own, newest = part.year, part.newest
    assert own is not None
    off = newest is not None and newest[1].standing is not Standing.AS_FORECAST
    if own.sticks_from is not None and not off:
        return BuildWords(
            f"Sticks in {month_of(year.since, own.sticks_from)}",
            part.part.name,
            f"It fills its opening by then: it is {cut_length(own.made.width_m, system)} wide at {percent(own.made.moisture)}, and the"
            f" opening is {cut_length(part.part.width_m, system)}.",
            f"Plane {uncertain_length(-float(_gaps(own).min()) + LEAST_SEEN_M, system)} off it, or more.",
        )
    if newest is not None:
        row, against = newest
        step = _what_to_do(against, year) if off else ""
        return BuildWords(STANDINGS[against.standing], said_day(row.on), measured_words(part, row, against, system), step)
    moved, day = own.most_moved_m, own.most_moved_day
    if abs(moved) < LEAST_SEEN_M:
        return BuildWords("Hardly moves", "", f"No part of it changes by more than {uncertain_length(LEAST_SEEN_M, system)}.", "")
    return BuildWords(
        uncertain_length(abs(moved), system),
        f"{'narrower' if moved < 0 else 'wider'}, by {month_of(year.since, day)}",
        f"That is the {part.part.name.lower()}, which moves most. It goes from {percent(own.made.moisture)} to"
        f" {percent(float(own.moisture[day]))} by then" + ("." if year.is_made else ", were it made today."),
        "Measure a gap or a reading in a few months: it will be compared with this." if year.is_made else "",
    )


STANDINGS = {Standing.AS_FORECAST: "As forecast", Standing.DRIER: "Drier than forecast", Standing.WETTER: "Wetter than forecast"}


def _gaps(year: FirstYear) -> Array:
    gap = year.gap_m
    assert gap is not None
    return gap


def measured_words(part: FollowedPart, row: MeasuredLater, against: Against, system: System) -> str:
    """What was measured, and what was forecast for that day."""
    name = part.part.name
    if against.what is Measured.MOISTURE:
        return (
            f"{name} reads {percent(against.measured)}; {percent(against.forecast)} was forecast for that day, give or take"
            f" {points(against.uncertainty)}."
        )
    what = "The gap beside" if against.what is Measured.GAP else "The width of"
    return (
        f"{what} {name} was {cut_length(against.measured, system)}; {cut_length(max(against.forecast, 0.0), system)} was forecast, give or"
        f" take {uncertain_length(against.uncertainty, system)}. Its wood is at about {percent(against.moisture)}."
    )


def _what_to_do(against: Against, year: BuildYear) -> str:
    place = year.build.place.name
    drier = against.standing is Standing.DRIER
    return f"The air there is {'drier' if drier else 'damper'} than the year of {place} says: hang a hygrometer beside it for a week. " + (
        "Keep it away from heaters." if drier else "Keep it off cold walls and wet floors."
    )


@dataclass(frozen=True)
class YearRow:
    """A part in the table: what it was, when it is narrowest and widest, and what that does where it meets the next."""

    followed: FollowedPart
    made: str
    narrowest: str
    widest: str
    meets: str


def rows(year: BuildYear, system: System) -> list[YearRow]:
    """Each part with its year."""
    return [_row(part, year, system) for part in year.parts]


def _row(part: FollowedPart, year: BuildYear, system: System) -> YearRow:
    own = part.year
    if own is None:
        return YearRow(part, part.unknown, "", "", "")

    def at(day: int) -> str:
        moved = float(own.width_m[day] - own.width_m[0])
        if abs(moved) < LEAST_SEEN_M:
            return "as made" if day <= SAME_DAY else month_of(year.since, day)
        return f"{month_of(year.since, day)}, {'−' if moved < 0 else '+'}{uncertain_length(abs(moved), system)}"

    made = f"{percent(own.made.moisture)}, {cut_length(own.made.width_m, system)} wide"
    return YearRow(part, made, at(own.narrowest_day), at(own.widest_day), meets(part, year, system))


def meets(part: FollowedPart, year: BuildYear, system: System) -> str:
    """What its movement does where it meets the next part; empty where it is on its own."""
    own = part.year
    if own is None:
        return ""
    shrinks = float(own.width_m[0] - own.width_m[own.narrowest_day])
    if part.part.fit == FitKind.INSET:
        gap = _gaps(own)
        low, high = float(gap[own.widest_day]), float(gap[own.narrowest_day])
        if low <= 0.0:
            return f"sticks from {month_of(year.since, own.sticks_from or 0)}"
        return f"gap {cut_length(low, system)} to {cut_length(high, system)}"
    if part.part.fit == FitKind.GROOVE:
        return f"a stripe of {uncertain_length(shrinks / 2, system)} shows each side" if shrinks > 2 * LEAST_SEEN_M else "no stripe shows"
    if part.part.fit == FitKind.FIXED:
        travel = max(shrinks, float(own.width_m[own.widest_day] - own.width_m[0])) / 2
        return f"each edge travels {uncertain_length(travel, system)}"
    return ""


def likes(year: BuildYear) -> tuple[float, float] | None:
    """The air that a build likes: the humidities (fractions) at room temperature between which its wood stays within its year; None where
    nothing is known of it."""
    known = [part.year for part in year.parts if part.year is not None]
    if not known:
        return None
    settled = [own.course.second_year for own in known]
    low, high = min(year[0] for year in settled), max(year[1] for year in settled)
    dry, damp = (float(relative_humidity_for(ROOM_C, min(moisture, 0.25))) for moisture in (low, high))
    return round(dry * 20) / 20, round(damp * 20) / 20


def no_faults(year: BuildYear, system: System) -> list[str]:
    """What its owner will see through the year, and need not mind: part by part."""
    lines = []
    for part in year.parts:
        own = part.year
        if own is None:
            continue
        dry, damp = own.settled_extremes
        narrower = float(own.width_m[damp] - own.width_m[dry])
        if narrower < LEAST_SEEN_M:
            continue
        narrow, wide = month_of(year.since, dry), month_of(year.since, damp)
        line = f"{part.part.name}: in {narrow} it is {uncertain_length(narrower, system)} narrower than in {wide}"
        if part.part.fit == FitKind.INSET:
            gap = _gaps(own)
            opens, closes = (cut_length(max(float(gap[day]), 0.0), system) for day in (dry, damp))
            line = f"{part.part.name}: in {narrow} its gap opens to {opens}; in {wide} it closes to {closes}."
        elif part.part.fit == FitKind.GROOVE:
            line += "; a thin stripe may show at the edges. It is loose on purpose."
        elif part.part.fit == FitKind.FIXED:
            line += ". Its screws sit in slots so that it can move."
        else:
            line += "."
        lines.append(line)
    return lines


def woods_of(year: BuildYear) -> str:
    """The woods it is made of."""
    return listed(list(dict.fromkeys(part.part.species.spoken_name for part in year.parts)), 6)


def found_words(part: FollowedPart, row: MeasuredLater, against: Against | None, system: System) -> str:
    """A measurement in a list: how it stands to its forecast."""
    if against is None:
        what = percent(row.value) if row.what == Measured.MOISTURE else cut_length(row.value, system)
        return f"{part.part.name}: {what}; there is no forecast to compare it with."
    return f"{STANDINGS[against.standing]}. {measured_words(part, row, against, system)}"


@dataclass(frozen=True)
class MonthWords:
    """A month of a part's first year: its wood, and its gap or how much it has moved."""

    name: str
    moisture: str
    moved: str


def months(part: FollowedPart, year: BuildYear, system: System) -> list[MonthWords]:
    """A part month by month, from the month after it was made on."""
    own = part.year
    assert own is not None
    result = []
    for month in own.months():
        if month.gap_m is not None:
            moved = f"{cut_length(month.gap_m, system)} gap" if month.gap_m > 0 else "sticks"
        else:
            by = month.width_m - own.made.width_m
            moved = f"{uncertain_length(abs(by), system)} {'narrower' if by < 0 else 'wider'}" if abs(by) >= LEAST_SEEN_M / 2 else "as made"
        result.append(MonthWords(month.name, percent(month.moisture), moved))
    return result
