"""How a rough-turned bowl dries: its shell part by part through the moisture field, by the usual ways of slowing or hurrying it.

A way is what lies between the wood and the room's air: nothing, a paper bag, a bed of shavings, wax on the end grain or all over; or other
air for a while, as in a warm box. Resistances are our own judgement from the physics: still air a few centimetres deep, kraft paper of
usual permeance, two coats of a wax emulsion (docs/science.md). Cracking is judged as in boards (:func:`wood.drying.defects.surface_check`),
part by part, the gravest deciding; a bowl without its pith bends where a board is held flat, so the figure is on the careful side.
"""

from dataclasses import dataclass, replace
from enum import StrEnum

import numpy as np

from wood.air.climate import AirSeries, constant
from wood.air.levels import level_through
from wood.air.psychrometrics import saturation_pressure_pa
from wood.arrays import Array
from wood.drying import defects, field
from wood.drying.diffusivity import Figures
from wood.errors import NotKnown, check_range
from wood.species import Species
from wood.stacks.air import OpenBoard
from wood.turning.bowls import Bowl, Part, parts

# A shelf indoors: next to no wind.
SHELF = OpenBoard(wind_share=0.3, along_m=0.15)
# Resistance against vapour, s/m.
PAPER_BAG_S_M, SHAVINGS_S_M, WAX_S_M = 2_500.0, 5_500.0, 40_000.0
# From here on a part counts as end grain that is brushed with wax: outside, where it meets the room, and not within.
END_GRAIN_FROM = 6.0
# A bowl counts as at rest once its mean stays, for so many days at least, within this much of its weight of what the room brings it to.
AT_REST, STAYS_DAYS = 0.01, 14.0
HORIZON_DAYS = 1500.0
CELLS, TOLERANCE = 8, 1e-3
BOX_C, BOX_DAYS = 38.0, 7.0


class Way(StrEnum):
    """What a rough bowl is dried in."""

    SHELF = "shelf"
    ENDS_SEALED = "ends"
    ALL_SEALED = "sealed"
    PAPER_BAG = "bag"
    SHAVINGS = "shavings"
    WARM_BOX = "box"


COATINGS = {Way.PAPER_BAG: PAPER_BAG_S_M, Way.SHAVINGS: SHAVINGS_S_M, Way.ALL_SEALED: WAX_S_M}


def box_air(series: AirSeries, box_c: float = BOX_C) -> AirSeries:
    """The air of a warm box that is fed from a room: the room's vapour, warmed.

    Args:
        box_c: 20…70 °C.
    Raises:
        OutOfRange.

    >>> round(float(box_air(constant(20.0, 0.5), 40.0).relative_humidity[0]), 2)
    0.16
    """
    check_range("box_c", box_c, 20.0, 70.0, " °C")
    share = np.asarray(saturation_pressure_pa(series.temperature_c)) / float(saturation_pressure_pa(box_c))
    return constant(box_c, float(np.clip(np.mean(series.relative_humidity * share), 0.03, 0.95)))


@dataclass(frozen=True)
class Course:
    """A bowl through its drying: at ``days`` its mean moisture, that of its slowest and of its fastest part, and the level of its room.

    ``rest_day`` is when it first stays within :data:`AT_REST` of its weight of the level; infinite if never. ``crack`` is how hard it is
    asked: 1 is where cracks begin (``None`` where the species' shrinkage is not known), ``crack_day`` when. ``lost`` is the share of its
    green weight that is gone in the end.
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
    sealed = way is Way.ENDS_SEALED and part.faster >= END_GRAIN_FROM
    return replace(part, slab_m=2 * part.slab_m) if sealed else part


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
    shell = [sealed_as(part, way) for part in parts(bowl, figures.wood.along_grain)]
    drive = drive_of(way, series)
    means, risks = [], []
    level = level_through(series, days, start)
    for part in shell:
        ran = field.dry(wood_of(part, figures.wood), part.slab_m, start, drive, days, target=float(level.min()), out_days=times)
        means.append(ran.mean)
        # In the box it is as warm as the box.
        temperature = (
            np.where(times < BOX_DAYS, BOX_C, series.temperature_c[series.at(times)])
            if way is Way.WARM_BOX
            else series.temperature_c[series.at(times)]
        )
        try:
            risks.append(defects.surface_check(ran, species, part.slab_m, temperature))
        except NotKnown:
            continue
    mean = np.average(means, axis=0, weights=[part.share for part in shell])
    levels = level_through(series, days, np.interp(np.arange(level.size), times, mean))[np.minimum(times.astype(int), level.size - 1)]
    worst = max(risks, key=lambda risk: risk.worst, default=None)
    return Course(
        times,
        mean,
        means[0],
        means[-1],
        levels,
        rest_day(times, mean, levels),
        None if worst is None else worst.worst,
        0.0 if worst is None else worst.worst_day,
        float((start - mean[-1]) / (1 + start)),
    )


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
