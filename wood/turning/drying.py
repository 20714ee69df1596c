"""How a rough-turned bowl dries: its shell part by part through the moisture field, by the usual ways of slowing or hurrying it.

A way is what lies between the wood and the room's air: nothing, a paper bag, a bed of shavings, wax on the end grain or all over; or other
air for a while, as in a warm box. Resistances are our own judgement from the physics: still air a few centimetres deep, kraft paper of
usual permeance, the air in a closed carton, two coats of a wax emulsion (docs/science.md). How hard it is asked is told in
:mod:`wood.turning.cracking`, from the same runs.
"""

from dataclasses import dataclass, replace
from enum import StrEnum

import numpy as np

from wood.air.climate import AirSeries, constant
from wood.air.levels import level_through
from wood.air.psychrometrics import saturation_pressure_pa
from wood.arrays import Array
from wood.drying import field
from wood.drying.diffusivity import Figures
from wood.errors import NotKnown, check_range
from wood.species import Species
from wood.stacks.air import OpenBoard
from wood.turning import cracking
from wood.turning.bowls import Bowl, Part, parts
from wood.turning.oval import encloses_pith

# A shelf indoors: next to no wind.
SHELF = OpenBoard(wind_share=0.3, along_m=0.15)
# Resistance against vapour, s/m.
PAPER_BAG_S_M, CARTON_S_M, SHAVINGS_S_M, WAX_S_M = 2_500.0, 4_000.0, 5_500.0, 40_000.0
# From here on a part counts as end grain that is brushed with wax.
END_GRAIN_FROM = 4.0
# A bowl counts as at rest once its mean stays, for so many days at least, within this much of its weight of what the room brings it to.
AT_REST, STAYS_DAYS = 0.01, 14.0
HORIZON_DAYS = 1500.0
CELLS, TOLERANCE = 8, 1e-3
BOX_C, BOX_DAYS = 38.0, 7.0


class Way(StrEnum):
    """What a rough bowl is dried in."""

    SHELF = "shelf"
    ENDS_SEALED = "ends"
    PAPER_BAG = "bag"
    BAG_ENDS_SEALED = "bag_ends"
    CARTON = "carton"
    SHAVINGS = "shavings"
    ALL_SEALED = "sealed"
    WARM_BOX = "box"


COATINGS = {
    Way.PAPER_BAG: PAPER_BAG_S_M,
    Way.BAG_ENDS_SEALED: PAPER_BAG_S_M,
    Way.CARTON: CARTON_S_M,
    Way.SHAVINGS: SHAVINGS_S_M,
    Way.ALL_SEALED: WAX_S_M,
}
SEALS_ENDS = frozenset({Way.ENDS_SEALED, Way.BAG_ENDS_SEALED})


def box_air(series: AirSeries, box_c: float = BOX_C) -> AirSeries:
    """The air of a warm box that is fed from a room: the room's vapour, warmed.

    Args:
        box_c: 20…70°C.
    Raises:
        OutOfRange.

    >>> round(float(box_air(constant(20.0, 0.5), 40.0).relative_humidity[0]), 2)
    0.16
    """
    check_range("box_c", box_c, 20.0, 70.0, "°C")
    share = np.asarray(saturation_pressure_pa(series.temperature_c)) / float(saturation_pressure_pa(box_c))
    return constant(box_c, float(np.clip(np.mean(series.relative_humidity * share), 0.03, 0.95)))


@dataclass(frozen=True)
class Course:
    """A bowl through its drying: at ``days`` its mean moisture, that of its slowest and of its fastest part, and the level of its room.

    ``rest_day`` is when it first stays within :data:`AT_REST` of its weight of the level; infinite if never. ``crack`` is how hard it is
    asked at its worst: from 1 on the risk is high (``None`` where the species' shrinkage is not known), ``crack_day`` when. ``lost`` is the
    share of its green weight that is gone in the end.
    """

    days: Array
    mean: Array
    slowest: Array
    fastest: Array
    level: Array
    rest_day: float
    crack: float | None
    crack_day: float
    lost: float


def drive_of(way: Way, series: AirSeries) -> field.Drive:
    """What drives a shell in a way of drying."""
    if way is Way.WARM_BOX:
        box = field.driven(box_air(series), SHELF)
        return box.carried(BOX_DAYS, field.driven(series, SHELF))
    return field.driven(series, SHELF, COATINGS.get(way, 0.0))


def sealed_as(part: Part, way: Way) -> Part:
    """A part as its way lets it dry: end grain that is sealed outside dries inwards only, as a slab twice as thick does from both faces."""
    return replace(part, slab_m=2 * part.slab_m) if is_sealed(part, way) else part


def is_sealed(part: Part, way: Way) -> bool:
    """Whether a part is end grain that is waxed in this way of drying."""
    return way in SEALS_ENDS and part.faster >= END_GRAIN_FROM


def wood_of(part: Part, wood: field.Wood) -> field.Wood:
    """The wood as a part of a shell meets it: faster where the grain runs out of it."""
    factor = min(wood.factor * part.faster, 100.0)
    return field.Wood(wood.specific_gravity, factor, wood.permeability, wood.fibre_saturation, wood.along_grain)


def course(
    bowl: Bowl, species: Species, figures: Figures, start: float, series: AirSeries, way: Way = Way.SHELF, days: float = 400.0
) -> Course:
    """How a bowl dries in a room.

    Args:
        start: mean moisture when it was turned, 0…3; series: the room's air from that day on; days: how far to look, 1…1500.
    Raises:
        OutOfRange.
    """
    check_range("days", days, 1.0, HORIZON_DAYS, " days")
    times = _looks(days)
    bare = parts(bowl, figures.wood.along_grain)
    shell = [sealed_as(part, way) for part in bare]
    drive = drive_of(way, series)
    level = level_through(series, days, start)
    runs = [
        field.dry(wood_of(part, figures.wood), part.slab_m, start, drive, days, target=float(level.min()), out_days=times) for part in shell
    ]
    mean = np.average([ran.mean for ran in runs], axis=0, weights=[part.share for part in shell])
    # In the box it is as warm as the box.
    boxed = (times < BOX_DAYS) & (way is Way.WARM_BOX)
    temperature = np.where(boxed, BOX_C, series.temperature_c[series.at(times)])
    sealed = [is_sealed(part, way) for part in bare]
    crack, crack_day = _asked(cracking.Shell(shell, runs, sealed, bowl.wall_m, figures.wood.along_grain), species, temperature)
    if crack is not None and encloses_pith(bowl):
        crack = max(crack, cracking.PITH_SCORE)
    levels = level_through(series, days, np.interp(np.arange(level.size), times, mean))[np.minimum(times.astype(int), level.size - 1)]
    return Course(
        times,
        mean,
        runs[0].mean,
        runs[-1].mean,
        levels,
        rest_day(times, mean, levels),
        crack,
        crack_day,
        float((start - mean[-1]) / (1 + start)),
    )


def _asked(shell: cracking.Shell, species: Species, temperature_c: Array) -> tuple[float | None, float]:
    """How hard a shell is asked at its worst, and when."""
    try:
        asked = cracking.scores(shell, species, temperature_c)
    except NotKnown:
        return None, 0.0
    worst = int(np.argmax(asked))
    return float(asked[worst]), float(shell.runs[0].days[worst])


def _looks(days: float) -> Array:
    """Moments to look: dense at first, when cracks come, then by the day or coarser."""
    early = np.array([0.0, 0.125, 0.25, 0.5, 0.75])
    later = np.linspace(1.0, days, int(min(max(days, 2.0), 260.0)))
    return np.concatenate([early[early < later[0]], later]) if days > 1 else np.linspace(0, days, 9)


def rest_day(times: Array, mean: Array, level: Array) -> float:
    """The first day from which a mean stays, for :data:`STAYS_DAYS`, so near to its level that the rest is within :data:`AT_REST` of its
    weight.

    Raises:
        OutOfRange: nothing to look at, different lengths, moistures that cannot be.
    """
    times, mean, level = (np.asarray(item, float).reshape(-1) for item in (times, mean, level))
    check_range("times", times, 0.0, 1e5, " days")
    check_range("moments", times.size, 1, 1_000_000)
    check_range("means", mean.size, times.size, times.size)
    check_range("levels", level.size, times.size, times.size)
    check_range("mean", mean, -1.0, field.GREATEST_MOISTURE)
    check_range("level", level, 0.0, field.GREATEST_MOISTURE)
    off = np.abs(mean - level) - AT_REST * (1 + level)
    for k in np.flatnonzero(off <= 0):
        if np.all(off[(times >= times[k]) & (times <= times[k] + STAYS_DAYS)] <= 0):
            if k == 0 or off[k - 1] <= 0:
                return float(times[k])
            share = off[k - 1] / (off[k - 1] - off[k])
            return float(times[k - 1] + share * (times[k] - times[k - 1]))
    return float("inf")
