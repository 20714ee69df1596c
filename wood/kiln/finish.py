"""Whether a load is done by its moisture: shell, core and mean against what was wanted.

Sources: Dry Kiln Operator's Manual (AH-188) ch. 6 and 9 and Drying Hardwood Lumber (GTR-118): final tests of shell, core and mean, and
evening out before conditioning (high). How near is near enough, two points from what was wanted and one between core and shell, is their
wood for furniture (medium).
"""

from dataclasses import dataclass
from enum import StrEnum

from wood.errors import check_range
from wood.kiln.programs import TARGETS
from wood.measuring.profile import SHELL_DEPTH, profile_from

NEAR_WANTED, NEAR_CORE = 0.02, 0.01
MOISTURES = (0.02, 0.60)
# A mean that was read may lie this far outside what shell and core leave it: meters are not better.
READ_WITHIN = 0.01


class Ending(StrEnum):
    """What the moistures of a load say: wetter or drier than was wanted, its core or its shell wetter than the other, or done."""

    WET = "wet"
    DRY = "dry"
    CORE_WET = "core_wet"
    SHELL_WET = "shell_wet"
    DONE = "done"


@dataclass(frozen=True)
class Ended:
    """Its mean (fraction), how far that lies above what was wanted, how much wetter the core is than the shell, and what follows."""

    mean: float
    over: float
    gap: float
    ending: Ending


def ended(shell: float, core: float, wanted: float, mean: float | None = None) -> Ended:
    """What shell and core say of a load; where no mean was read, that of the parabola through both.

    Args:
        shell, core, mean: true moistures, fractions 0.02…0.60; wanted: fraction, 0.04…0.20.
    Raises:
        OutOfRange: also a mean that does not lie between shell and core, within a point.

    >>> ended(0.075, 0.082, 0.08).ending.value, ended(0.06, 0.10, 0.08).ending.value
    ('done', 'core_wet')
    """
    for name, moisture in (("shell", shell), ("core", core)):
        check_range(name, moisture, *MOISTURES)
    check_range("wanted", wanted, *TARGETS)
    if mean is None:
        mean = profile_from(shell, core, SHELL_DEPTH).mean
    else:
        check_range("mean", mean, min(shell, core) - READ_WITHIN, max(shell, core) + READ_WITHIN)
    # Rounded, so that what a meter shows as two points is not three because of the binary point.
    over, gap = round(mean - wanted, 6), round(core - shell, 6)
    if over > NEAR_WANTED:
        ending = Ending.WET
    elif over < -NEAR_WANTED:
        ending = Ending.DRY
    elif gap > NEAR_CORE:
        ending = Ending.CORE_WET
    elif gap < -NEAR_CORE:
        ending = Ending.SHELL_WET
    else:
        ending = Ending.DONE
    return Ended(mean, over, gap, ending)
