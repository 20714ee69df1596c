"""Hygrometers disagree: the check over saturated salt, and which of several to believe.

Sources: humidity over saturated salts, Greenspan 1977 (:func:`wood.air.psychrometrics.salt_relative_humidity`). How far a check makes an
instrument surer, and for how long, is our own judgement.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass

from wood.air import sorption
from wood.air.psychrometrics import salt_relative_humidity
from wood.errors import OutOfRange, check_range

# Salts that are easily had and safe to handle, with what they are for people.
HOUSEHOLD_SALTS = {"NaCl": "table salt", "MgCl2": "magnesium chloride (bath or de-icing salt)", "K2CO3": "potash", "KCl": "potassium salt"}
# A closed box over wet salt is even after this long; sooner, the air in it still creeps.
WAITING_HOURS = 8.0
# What a checked instrument is good to (95%): the salt's own doubt, the temperature, its last digit. It drifts; after a year the check is
# old.
CHECKED_TOLERANCE = 0.015
CHECK_GOOD_DAYS = 365.0
# An offset beyond this is no offset any more: the instrument, or the salt, is at fault.
BELIEVABLE_OFFSET = 0.12


@dataclass(frozen=True)
class SaltCheck:
    """A check: what the salt gives, what to add to the instrument's reading from now on, and whether that can be believed."""

    expected: float
    offset: float
    believable: bool


def salt_check(salt: str, temperature_c: float, shown: float, waited_hours: float = WAITING_HOURS) -> SaltCheck:
    """Compare an instrument with the air over a saturated salt.

    Args:
        salt: as in the table, ``"NaCl"`` …; temperature_c: in the box, within the salt's column.
        shown: what the instrument shows, a fraction 0…1; waited_hours: how long it lay in the closed box, at least 8.
    Raises:
        NotKnown: another salt. OutOfRange: too early, or values that cannot be.

    >>> check = salt_check("NaCl", 20.0, 0.79)
    >>> round(check.expected, 3), round(check.offset, 3)
    (0.755, -0.035)
    """
    check_range("shown", shown, 0.0, 1.0)
    check_range("waited_hours", waited_hours, WAITING_HOURS, 24.0 * 30, " h")
    expected = salt_relative_humidity(salt, temperature_c)
    offset = expected - shown
    return SaltCheck(expected, offset, abs(offset) <= BELIEVABLE_OFFSET)


def tolerance_now(stated: float, days_since_check: float | None) -> float:
    """What an instrument is good to: by its leaflet, or better where it was checked within a year; drifting back through that year.

    Raises:
        OutOfRange: stated 0.001…0.3, days_since_check −10⁶…10⁶ days.

    >>> tolerance_now(0.05, None), tolerance_now(0.05, 0.0), round(tolerance_now(0.05, 182.5), 4)
    (0.05, 0.015, 0.0325)
    """
    check_range("stated", stated, 0.001, 0.3)
    if days_since_check is None or stated <= CHECKED_TOLERANCE:
        return stated
    check_range("days_since_check", days_since_check, -1e6, 1e6, " days")
    share = min(max(days_since_check, 0.0) / CHECK_GOOD_DAYS, 1.0)
    return CHECKED_TOLERANCE + (stated - CHECKED_TOLERANCE) * share


@dataclass(frozen=True)
class Shown:
    """One instrument's humidity, already corrected by its offset, and what it is good to (fractions)."""

    name: str
    relative_humidity: float
    tolerance: float
    checked: bool = False


@dataclass(frozen=True)
class Comparison:
    """What several instruments in one air say together.

    ``difference`` is the largest between two of them, ``worth_emc`` what that is worth in moisture, ``agree`` whether their tolerances
    explain it. ``believed`` is the name of the one to believe, ``""`` where none is better than the others. ``best`` is the humidity
    weighted by tolerance, ``best_tolerance`` its own. ``by_memory`` says that what the place usually is decided.
    """

    difference: float
    worth_emc: float
    agree: bool
    believed: str
    best: float
    best_tolerance: float
    by_memory: bool = False


# What people remember a room to be about is good to so much: it weighs little against an instrument, and decides between two that are
# alike (our judgement).
MEMORY_TOLERANCE = 0.07


def compare(temperature_c: float, instruments: Sequence[Shown], remembered: float | None = None) -> Comparison:
    """Set two or more instruments in one air side by side.

    Args:
        remembered: what the place is known to be about from of old (fraction), where somebody knows it; it weighs in, and where
            instruments disagree of which none is better it tells which to believe, if it is near to just one.
    Raises:
        OutOfRange: fewer than two, a humidity outside 0…1, a tolerance outside 0.0001…0.5, remembered outside 0…1.

    >>> pair = compare(20.0, [Shown("brass dial", 0.62, 0.05), Shown("grey", 0.50, 0.015, checked=True)])
    >>> pair.agree, pair.believed, round(pair.worth_emc, 3)
    (False, 'grey', 0.021)
    """
    if len(instruments) < 2:
        raise OutOfRange("instruments", len(instruments), 2, 100)
    for instrument in instruments:
        check_range("relative_humidity", instrument.relative_humidity, 0.0, 1.0)
        check_range("tolerance", instrument.tolerance, 1e-4, 0.5)
    by_humidity = sorted(instruments, key=lambda instrument: instrument.relative_humidity)
    low, high = by_humidity[0], by_humidity[-1]
    difference = high.relative_humidity - low.relative_humidity
    worth = float(sorption.emc(temperature_c, high.relative_humidity)) - float(sorption.emc(temperature_c, low.relative_humidity))
    heard = [*instruments]
    if remembered is not None:
        check_range("remembered", remembered, 0.0, 1.0)
        heard.append(Shown("", remembered, MEMORY_TOLERANCE))
    weights = [reading.tolerance**-2 for reading in heard]
    best = sum(weight * reading.relative_humidity for weight, reading in zip(weights, heard, strict=True)) / sum(weights)
    surest, second = sorted(instruments, key=lambda instrument: instrument.tolerance)[:2]
    agree = difference <= math.hypot(low.tolerance, high.tolerance)
    believed = surest.name if surest.tolerance < 0.75 * second.tolerance else ""
    near = [
        instrument.name
        for instrument in instruments
        if remembered is not None and abs(instrument.relative_humidity - remembered) <= MEMORY_TOLERANCE
    ]
    by_memory = not agree and not believed and len(near) == 1
    return Comparison(
        difference=difference,
        worth_emc=worth,
        agree=agree,
        believed=near[0] if by_memory else believed,
        best=best,
        best_tolerance=sum(weights) ** -0.5,
        by_memory=by_memory,
    )
