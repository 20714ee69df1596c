"""What moves inside what does not: a panel in its frame, a drawer in its opening, a bottom between its sides.

A frame's rails and stiles, a drawer's sides and a tray's rim lie along the grain and keep their length; what they hold lies across it.
Sizes are those of the day it is built, in metres. Growth and shrinkage are allowed for to the far end of their band.
Source: closed forms on :class:`wood.movement.widths.Swing`; how much must stay in a groove is bench practice.
"""

from dataclasses import dataclass

from wood.errors import OutOfRange, check_range
from wood.movement.widths import Swing

# What must stay in a groove at the driest, on either side, and the air between a swollen panel and the groove's ground.
STAYS_IN_M, CLEAR_M = 0.003, 0.0005
GROOVE_M = (0.001, 0.2)
OPENING_M = (0.01, 6.0)


def _ratios(swing: Swing) -> tuple[float, float]:
    """The most it swells to and the least it shrinks to as shares of what it was on the day, to the far end of the band."""
    return 1 + swing.growth_at_most_m / swing.built_m, 1 - swing.shrink_at_most_m / swing.built_m


@dataclass(frozen=True)
class Panelled:
    """A panel in the grooves of its frame.

    ``panel_m`` is how wide to make it on the day, so that it fills its grooves at the dampest but for a little air; ``stays_m`` what is
    then left in each groove at the driest, the panel in the middle; ``shows_m`` how much of it comes out of each groove beyond what was
    visible on the day: the bare stripe; ``least_groove_m`` the shallowest groove that would do. ``holds`` says whether this one does.
    """

    panel_m: float
    stays_m: float
    shows_m: float
    gap_each_side_m: float
    least_groove_m: float
    holds: bool


def panel_in_frame(swing: Swing, opening_m: float, groove_m: float) -> Panelled:
    """The panel to make for an opening and a groove.

    Args:
        swing: of a panel of about this width; only its shares are used.
        opening_m: between the frame's edges, 10 mm…6 m; groove_m: the depth of each groove, 1…200 mm.
    Raises:
        OutOfRange.

    >>> swing = Swing(0.4, 0.396, 0.403, 0.0, 0.0, 0.0)
    >>> fits = panel_in_frame(swing, 0.38, 0.010)
    >>> fits.holds, round(fits.panel_m * 1.0075 + 2 * 0.0005, 6)
    (True, 0.4)
    """
    check_range("opening_m", opening_m, *OPENING_M, " m")
    check_range("groove_m", groove_m, *GROOVE_M, " m")
    most, least = _ratios(swing)
    bottoms = opening_m + 2 * groove_m
    panel = (bottoms - 2 * CLEAR_M) / most
    stays = (panel * least - opening_m) / 2
    enough = ((opening_m + 2 * STAYS_IN_M) * most / least + 2 * CLEAR_M - opening_m) / 2
    shows = panel * swing.shrink_m / swing.built_m / 2
    return Panelled(panel, stays, shows, (bottoms - panel) / 2, max(enough, STAYS_IN_M), stays >= STAYS_IN_M - 1e-9)


@dataclass(frozen=True)
class Fitted:
    """Something that moves in an opening that does not. ``size_m`` is what to make it on the day, ``gap_m`` the gap that leaves then,
    ``widest_gap_m`` at the driest; at the dampest the wished gap is left."""

    size_m: float
    gap_m: float
    widest_gap_m: float


def in_opening(swing: Swing, opening_m: float, least_gap_m: float) -> Fitted:
    """A drawer front, a lid, a door in its opening: how big to make it today so that at the dampest this gap is still there.

    Args:
        opening_m: 10 mm…6 m; least_gap_m: 0 up to half the opening.
    Raises:
        OutOfRange.

    >>> front = in_opening(Swing(0.2, 0.197, 0.202, 0.0, 0.0, 0.0), 0.2, 0.001)
    >>> round(front.gap_m * 1000, 2)
    2.97
    """
    check_range("opening_m", opening_m, *OPENING_M, " m")
    check_range("least_gap_m", least_gap_m, 0.0, opening_m / 2, " m")
    most, _ = _ratios(swing)
    size = (opening_m - least_gap_m) / most
    return Fitted(size, opening_m - size, opening_m - size * (1 - swing.shrink_m / swing.built_m))


@dataclass(frozen=True)
class Between:
    """Boards laid side by side between what does not give: a bed, a tray, a box bottom inside its sides.

    ``joints`` are the places where a gap can be: between boards, and along both sides. ``overfull_m`` is how much more than the room there
    is they want to be at the dampest (0 where they have room), ``gap_now_m`` what to leave at each joint today so that they never push,
    ``gap_driest_m`` what each is then at the driest, ``lap_m`` the overlap of a ship-lap or the length of a tongue that hides it.
    """

    joints: int
    overfull_m: float
    gap_now_m: float
    gap_driest_m: float
    lap_m: float


def between_sides(swing: Swing, boards: int, gap_m: float) -> Between:
    """What boards do that were laid with this gap at every joint between two sides.

    Args:
        boards: 1…500; gap_m: 0…100 mm, as it was laid.
    Raises:
        OutOfRange.

    >>> tight = between_sides(Swing(0.6, 0.59, 0.615, 0.0, 0.0, 0.0), 4, 0.0)
    >>> round(tight.overfull_m * 1000, 1), round(tight.gap_now_m * 1000, 1)
    (15.0, 3.0)
    """
    check_range("boards", boards, 1, 500)
    check_range("gap_m", gap_m, 0.0, 0.1, " m")
    joints = int(boards) + 1
    gap_now = swing.growth_at_most_m / joints
    driest = gap_now + swing.shrink_m / joints
    return Between(
        joints, max(0.0, swing.growth_m - joints * gap_m), gap_now, driest, driest + swing.shrink_uncertainty_m / joints + STAYS_IN_M
    )


@dataclass(frozen=True)
class Bottom:
    """A drawer's bottom whose grain runs from side to side: it moves from front to back and is fixed in the front's groove."""

    backward_m: float
    forward_m: float
    slot_m: float


def drawer_bottom(swing: Swing, shank_m: float = 0.004) -> Bottom:
    """How far a bottom's back edge travels, and the slot there for its screw.

    Args:
        shank_m: 1…20 mm.
    Raises:
        OutOfRange.
    """
    check_range("shank_m", shank_m, 0.001, 0.02, " m")
    return Bottom(swing.growth_at_most_m, swing.shrink_at_most_m, shank_m + swing.growth_at_most_m + swing.shrink_at_most_m)


def checked_groove(groove_m: float, rail_m: float) -> float:
    """A groove's depth, which must leave wood behind it.

    Args:
        rail_m: the width of the rail or stile it is cut in.
    Raises:
        OutOfRange: a groove deeper than two thirds of its rail.
    """
    check_range("rail_m", rail_m, 0.005, 1.0, " m")
    if not GROOVE_M[0] <= groove_m <= rail_m * 2 / 3:
        raise OutOfRange("groove_m", groove_m, GROOVE_M[0], rail_m * 2 / 3, " m")
    return groove_m
