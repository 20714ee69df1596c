"""A bowl's weighings as they are kept, and what a weight that cannot be may come from. Source: our own judgement of slips."""

import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

from wood.errors import check_range
from wood.turning.bowls import Bowl
from wood.turning.drying import Way
from wood.turning.own_pace import PaceLearnt

MASS_KG = (0.002, 500.0)
MOST = 2000
# A weighing that lies so far (ln) off its neighbours, or off what is expected, is no weighing of this bowl as it is.
SLIP = 0.22


class Slip(StrEnum):
    """What a weight that cannot be may come from."""

    DECIMAL = "decimal"
    UNIT = "unit"
    TARE = "tare"
    OTHER = "other"


# Ounces for grams and back, pounds for kilograms and back: as ln of the ratio.
UNITS_LN = (math.log(28.3495), math.log(2.20462), math.log(16.0), math.log(1000.0))


def slip(mass_kg: float, expected_kg: float) -> Slip | None:
    """What is wrong with a weight beside the one that is expected; ``None`` where nothing is.

    Raises:
        OutOfRange: a mass that is not above zero.

    >>> slip(8.12, 0.815), slip(0.80, 0.815), slip(1.15, 0.815)
    (<Slip.DECIMAL: 'decimal'>, None, <Slip.TARE: 'tare'>)
    """
    check_range("mass_kg", mass_kg, 1e-6, 1e5, " kg")
    check_range("expected_kg", expected_kg, 1e-6, 1e5, " kg")
    off = math.log(mass_kg / expected_kg)
    if abs(off) < SLIP:
        return None
    if abs(abs(off) - math.log(10)) < 0.25 or abs(abs(off) - math.log(100)) < 0.25:
        return Slip.DECIMAL
    if any(abs(abs(off) - item) < 0.15 for item in UNITS_LN):
        return Slip.UNIT
    return Slip.TARE if 0 < off < math.log(2.0) else Slip.OTHER


# A bowl that dries takes up so much again by a damp week at the most, as a share of its weight (our judgement); and so near to what is
# expected a number with two digits turned about must come, by how much nearer than as it was typed.
RISE, DIGITS_NEAR, DIGITS_NEARER = 0.02, 0.025, 3.0


def rises(mass_kg: float, last_kg: float) -> bool:
    """Whether a weight lies above the one before it by more than the air does to a bowl that dries.

    Args:
        mass_kg, last_kg: 10⁻⁶…10⁵ kg.
    Raises:
        OutOfRange.

    >>> rises(0.690, 0.623), rises(0.627, 0.623)
    (True, False)
    """
    check_range("mass_kg", mass_kg, 1e-6, 1e5, " kg")
    check_range("last_kg", last_kg, 1e-6, 1e5, " kg")
    return mass_kg > last_kg * (1 + RISE)


def turned_about(shown: float, expected: float) -> float | None:
    """The number that was meant where two neighbouring digits of a scale's were turned about; None where none such comes near what is
    expected.

    Args:
        shown: as the scale shows it, to a tenth; expected: in the same unit; both 10⁻⁶…10⁹.
    Raises:
        OutOfRange.

    >>> turned_about(690, 611), turned_about(611, 612)
    (609.0, None)
    """
    check_range("shown", shown, 1e-6, 1e9)
    check_range("expected", expected, 1e-6, 1e9)
    text = f"{shown:.1f}".removesuffix(".0")
    digits = [place for place, letter in enumerate(text) if letter.isdigit()]
    meant = []
    for first, second in itertools.pairwise(digits):
        letters = list(text)
        letters[first], letters[second] = letters[second], letters[first]
        meant.append(float("".join(letters)))
    best = min(meant, key=lambda number: abs(number - expected), default=shown)
    near = abs(best - expected)
    return best if near <= DIGITS_NEAR * expected and near * DIGITS_NEARER < abs(shown - expected) else None


@dataclass(frozen=True)
class Weights:
    """A bowl's weighings and what is known of it besides.

    ``days`` since any moment, in any order, ``masses_kg`` beside them; ``step_kg`` is the smallest step of the scale. ``bowl`` where its
    size is known, ``volume_m3`` of its wood where that is; ``green`` whether it was turned green; ``dry_mass_kg`` where it was ever found
    in an oven. ``pace`` is what the workshop's own bowls say of how fast such a one dries (:func:`wood.turning.own_pace.learnt_pace`).

    Raises:
        OutOfRange: no weighing or more than 2000, a mass beyond :data:`MASS_KG`.
    """

    days: Sequence[float]
    masses_kg: Sequence[float]
    step_kg: float = 0.001
    bowl: Bowl | None = None
    volume_m3: float | None = None
    green: bool = True
    dry_mass_kg: float | None = None
    way: Way = Way.SHELF
    pace: PaceLearnt | None = None

    def __post_init__(self) -> None:
        check_range("weighings", len(self.days), 1, MOST)
        check_range("masses", len(self.masses_kg), len(self.days), len(self.days))
        check_range("days", self.days, -1e5, 1e5, " days")
        check_range("masses_kg", self.masses_kg, *MASS_KG, " kg")
        check_range("step_kg", self.step_kg, 0.0, 5.0, " kg")
        if self.volume_m3 is not None:
            check_range("volume_m3", self.volume_m3, 1e-6, 2.0, " m³")
        if self.dry_mass_kg is not None:
            check_range("dry_mass_kg", self.dry_mass_kg, 1e-3, 500.0, " kg")
