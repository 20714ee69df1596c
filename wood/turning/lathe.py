"""Back on the lathe: whether a rough bowl may be finish-turned, what becomes of each crack in it, and how slowly to begin.

Sources: our own judgement after common practice. Speeds are a caution, not a permission: the lathe's own manual and the turner's ear come
first.
"""

import math
from dataclasses import dataclass
from enum import StrEnum

from wood.errors import check_range

DIAMETER_M = (0.01, 1.2)
# Speed of the rim, m/s: where a bowl out of round is begun, and what one that runs true is seldom turned above.
BEGIN_M_S, TRUE_M_S = 4.0, 8.0
MOST_RPM, LEAST_RPM = 2500.0, 100.0
# A crack longer than this share of the diameter runs through too much of a bowl to trust what is left.
LONG, DEEP = 0.30, 0.35


class Where(StrEnum):
    """Where a crack lies."""

    RIM = "rim"
    OUTSIDE = "outside"
    INSIDE = "inside"
    FOOT = "foot"


@dataclass(frozen=True)
class Crack:
    """A crack found in a rough bowl: where, how deep into the wall and how long (m); ``through`` where it shows on both faces; ``at_pith``
    where it runs to the pith; ``mended`` where it was filled or glued.
    """

    where: Where
    depth_m: float
    length_m: float
    through: bool = False
    at_pith: bool = False
    mended: bool = False


class Remedy(StrEnum):
    """What may become of a crack."""

    TURN_AWAY = "away"
    FILL = "fill"
    MENDED = "mended"
    NEVER = "never"


def remedy(crack: Crack, diameter_m: float, thinnest_m: float, end_wall_m: float) -> Remedy:
    """What may become of a crack: turned away where it is no deeper than what is taken off its side, filled where it is shallow and
    short, else never. One that may be filled and was is mended; glue does not make any other fit for the lathe.

    Args:
        thinnest_m: the wall that is left when the bowl is turned true (:func:`wood.turning.oval.fits`); end_wall_m: the wall wanted.
    Raises:
        OutOfRange: depth and length 0…1.2 m, diameter :data:`DIAMETER_M`, end wall above 0.

    >>> remedy(Crack(Where.RIM, 0.003, 0.01), 0.25, 0.016, 0.008).value, remedy(Crack(Where.FOOT, 0.01, 0.05), 0.25, 0.016, 0.008).value
    ('away', 'never')
    """
    check_range("depth_m", crack.depth_m, 0.0, 1.2, " m")
    check_range("length_m", crack.length_m, 0.0, 1.2, " m")
    check_range("diameter_m", diameter_m, *DIAMETER_M, " m")
    check_range("end_wall_m", end_wall_m, 0.001, 0.1, " m")
    check_range("thinnest_m", thinnest_m, -1.0, 1.0, " m")
    # The foot holds it: a crack there is held by nothing.
    if crack.at_pith or crack.length_m > LONG * diameter_m or (crack.where is Where.FOOT and crack.depth_m > 0.002):
        return Remedy.NEVER
    spare = max(thinnest_m - end_wall_m, 0.0) / 2
    if not crack.through and crack.depth_m <= (spare if crack.where is not Where.RIM else spare + 0.004):
        return Remedy.TURN_AWAY
    if crack.through:
        return Remedy.NEVER
    if crack.depth_m - spare > DEEP * end_wall_m or crack.length_m > LONG / 2 * diameter_m:
        return Remedy.NEVER
    return Remedy.MENDED if crack.mended else Remedy.FILL


class May(StrEnum):
    """Whether a bowl may be finish-turned."""

    YES = "yes"
    FILLED = "filled"
    WAIT = "wait"
    TOO_THIN = "thin"
    NEVER = "never"
    UNKNOWN = "unknown"


@dataclass(frozen=True)
class Verdict:
    """Whether a bowl may be finish-turned, each crack's remedy, the wall that is left, and the speeds (rev/min) to begin at and hardly to
    pass.
    """

    may: May
    remedies: tuple[Remedy, ...]
    thinnest_m: float
    begin_rpm: int
    true_rpm: int


def speeds(diameter_m: float, out_of_round_m: float = 0.0) -> tuple[int, int]:
    """Where to begin and what hardly to pass, in turns a minute; the farther out of round it is, the slower the beginning.

    Args:
        diameter_m: :data:`DIAMETER_M`, m; out_of_round_m: longer less shorter width, 0…1 m.
    Raises:
        OutOfRange.

    >>> speeds(0.3)
    (250, 500)
    """
    check_range("diameter_m", diameter_m, *DIAMETER_M, " m")
    check_range("out_of_round_m", out_of_round_m, 0.0, 1.0, " m")
    begin = BEGIN_M_S / (1 + 4 * out_of_round_m / diameter_m)
    results = [min(max(speed / (math.pi * diameter_m) * 60, LEAST_RPM), MOST_RPM) for speed in (begin, TRUE_M_S)]
    return int(results[0] // 10 * 10), int(results[1] // 10 * 10)


def verdict(
    at_rest: bool | None, diameter_m: float, thinnest_m: float, end_wall_m: float, out_of_round_m: float, cracks: tuple[Crack, ...] = ()
) -> Verdict:
    """Whether a bowl may be finish-turned, by its weights, its shape and its cracks; a crack that must not be turned outweighs all.

    Args:
        at_rest: whether its weights say that it is at rest in its place; ``None`` where it was never weighed.
        thinnest_m: the wall that is left when it is turned true, m; out_of_round_m: longer less shorter width of the rim, m.
    Raises:
        OutOfRange.

    >>> verdict(None, 0.25, 0.016, 0.008, 0.01).may.value, verdict(True, 0.25, 0.016, 0.008, 0.01).may.value
    ('unknown', 'yes')
    """
    check_range("thinnest_m", thinnest_m, -1.0, 1.0, " m")
    check_range("end_wall_m", end_wall_m, 0.001, 0.1, " m")
    remedies = tuple(remedy(crack, diameter_m, thinnest_m, end_wall_m) for crack in cracks)
    begin, true = speeds(diameter_m, out_of_round_m)
    return Verdict(_may(at_rest, thinnest_m, end_wall_m, remedies), remedies, thinnest_m, begin, true)


def _may(at_rest: bool | None, thinnest_m: float, end_wall_m: float, remedies: tuple[Remedy, ...]) -> May:
    if Remedy.NEVER in remedies:
        return May.NEVER
    if at_rest is None:
        return May.UNKNOWN
    if not at_rest:
        return May.WAIT
    if thinnest_m < end_wall_m:
        return May.TOO_THIN
    return May.FILLED if Remedy.FILL in remedies else May.YES
