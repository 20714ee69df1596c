"""Insects in drying wood: which wood, while it is how moist and warm, and what heat ends it.

Sources: Wood Handbook (FPL-GTR-282) ch. 14 and USDA leaflets for what attacks which wood (high) and between which moistures (medium); heat
that kills, AH-188 and the treatment manual (medium). Days until it shows are our own judgement.
"""

from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from wood.air.climate import AirSeries
from wood.drying.field import History
from wood.species import Species

# Powderpost beetles: sapwood of open-pored hardwoods with starch; moistures they work in, and air warm enough to fly and lay.
POROUS = frozenset(
    [
        "Quercus",
        "Fraxinus",
        "Carya",
        "Juglans",
        "Castanea",
        "Ulmus",
        "Robinia",
        "Celtis",
        "Swietenia",
        "Khaya",
        "Triplochiton",
        "Terminalia",
    ]
)
DRY_ENOUGH, TOO_WET, FLY_FROM_C = 0.08, 0.32, 18.0
SHOWS_DAYS, SURE_DAYS = 45.0, 150.0
# Bark and ambrosia beetles: wood in its bark, from this moisture on, in air from this warmth on; when it is drier they leave it or die.
UNDER_BARK_FROM, BARK_FLY_FROM_C = 0.25, 12.0
UNDER_BARK_DAYS = 14.0
# The core at 56°C for half an hour, and what air brings it there within a day or two in dry wood.
KILLS_C, KILLS_DAYS = 56.0, 1.0


class Level(StrEnum):
    """How likely insects are: hardly, possible, likely."""

    LOW = "low"
    WATCH = "watch"
    HIGH = "high"


class Origin(StrEnum):
    """Where wood comes from: fresh from the saw, fresh with bark or wane left on it, or out of an old building."""

    FRESH = "fresh"
    BARK = "bark"
    RECLAIMED = "reclaimed"


@dataclass(frozen=True)
class Attack:
    """What insects could do on a route: for how many days wood is fit for powderpost beetles in air they fly in, for how many for those of
    the bark, and whether heat clears it. ``inside`` says that some may be in it already, as in old wood: only heat ends those."""

    level: Level
    days: float
    cleared: bool
    open_pored: bool
    bark_days: float = 0.0
    inside: bool = False

    @property
    def under_bark(self) -> bool:
        """Whether beetles of the bark have the time."""
        return self.bark_days > UNDER_BARK_DAYS


def attack(species: Species, history: History, series: AirSeries, *, sapwood: bool = True, origin: Origin = Origin.FRESH) -> Attack:
    """Days on which a wood is fit for insects.

    Args:
        history: of the piece, in the air of ``series`` from the same moment on; sapwood: whether there is any: powderpost beetles eat
        nothing else;
            origin: old wood may hold them already, be it hardwood or softwood; bark draws its own.
    """
    open_pored = species.botanical_name.partition(" ")[0] in POROUS
    daily = series.by_day(series.temperature_c)
    at = np.minimum(history.days.astype(int), daily.size - 1)
    fit = (history.mean > DRY_ENOUGH) & (history.mean < TOO_WET) & (daily[at] > FLY_FROM_C) & (daily[at] < KILLS_C - 10)
    spent = np.diff(history.days, prepend=0.0)
    days = float((spent * fit).sum()) if open_pored and sapwood else 0.0
    hot = float((spent * (daily[at] >= KILLS_C)).sum())
    barked = float((spent * ((history.mean > UNDER_BARK_FROM) & (daily[at] > BARK_FLY_FROM_C) & (daily[at] < KILLS_C - 10))).sum())
    level = Level.HIGH if days > SURE_DAYS else Level.WATCH if days > SHOWS_DAYS else Level.LOW
    inside = origin is Origin.RECLAIMED
    if inside and level is Level.LOW:
        level = Level.WATCH
    return Attack(level, days, hot >= KILLS_DAYS, open_pored and sapwood, barked if origin is Origin.BARK else 0.0, inside)
