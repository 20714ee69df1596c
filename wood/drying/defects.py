"""What can go wrong while wood dries: checks, collapse, stain, mould and decay, each as a figure over time with its cause.

A figure of 1 is where practice sees the defect begin; below a half it is seldom seen. Everything is read off a moisture field
(:class:`wood.drying.field.History`) and the air it was driven by; nothing here predicts a certain board, only how hard it is asked.

Checks in the faces have two measures, shown side by side, and the larger decides. *The pull* in the skin, before a third of the water is
gone, against what the wood bears: a rule of gravity, rays, group and thickness, set so that green wood on its own published kiln
schedule stays at or below 1, for that is what practice found safe. *The daily loss* from green until a third of the water is gone, against
the published safe one. Published schedules pass the published rates by up to a fifth (white oak at 2.5 points a day would need more
than its kiln period), so the loss counts in full only from there.

Sources: the greatest safe daily loss, Dry Kiln Operator's Manual (AH-188) and Drying Hardwood Lumber (FPL-GTR-118); schedules and the
temperature wet wood bears, the first dry bulb of its schedule (AH-188); temperatures and moistures of stain, mould and decay, AH-188 and
Wood Handbook ch. 14. Relaxation times, day limits and classes of susceptibility are our own judgement of those sources.
"""

from dataclasses import dataclass
from dataclasses import field as attribute
from enum import StrEnum
from functools import lru_cache
from typing import Any

import numpy as np

from wood.air.climate import AirSeries
from wood.arrays import Array, Values
from wood.drying import field
from wood.drying.diffusivity import Figures, of_species
from wood.errors import NotKnown, check_range
from wood.kiln.schedules import first_dry_bulb_c
from wood.sizes import EIGHT_QUARTER_GREEN_M, FOUR_QUARTER_GREEN_M
from wood.species import Species, species_named
from wood.stacks.air import OpenBoard
from wood.tables import rows
from wood.units import INCH_M

# The share of its whole tangential shrinkage that a skin bears as pull, at a gravity of 0.5 and 4/4; less in denser and thicker wood,
# less where broad rays are planes of weakness, more in softwoods. Set once for all by the published schedules (see above).
PULL_BORNE, BY_GRAVITY, BY_THICKNESS = 0.14, -0.5, -0.15
BROAD_RAYS, SOFTWOOD = 0.70, 1.35
BROAD_RAYED = frozenset(["Quercus", "Fagus", "Platanus", "Notholithocarpus", "Lithocarpus"])
MIDDLE_GRAVITY = 0.5
# The pull counts in full until a third of the water is gone and no more when half is; nor below fibre saturation, where the skin is set.
COUNTS_UNTIL, COUNTS_NO_MORE = 2 / 3, 1 / 2
SET_FROM, SET_AT = 1.0, 0.7
# How far published schedules pass the published rates.
LOSS_BORNE = 1.2
ONE_IN_TEN = 1.2816
# What the end of a board bears, as strain.
END_PULL_BORNE = 0.020
# How fast a stretched skin gives way by creep.
RELAXATION_DAYS = 1.5
RELAXATION_PER_C = 0.04
FACE_DEPTH_M = 0.0007
END_DEPTH_M = 0.100
SEALED_ENDS_SHARE = 0.1
# The temperature that wet wood of unknown schedule bears, °C: refractory hardwood, other hardwood, softwood.
DENSE_HARDWOOD_C, HARDWOOD_C, SOFTWOOD_C = 43.0, 54.0, 65.0
COLLAPSE_OVER_C = 10.0
STAIN_MOISTURE = 0.22
MOULD_MOISTURE = 0.18
FUNGI_C = (2.0, 38.0)
FUNGI_BEST_C = 27.0
# Days at the best temperature after which it shows, by susceptibility.
STAIN_DAYS = {"high": 10.0, "medium": 25.0, "low": 80.0}
MOULD_DAYS = 30.0
DECAY_DAYS = {"slight": 150.0, None: 150.0, "moderate": 350.0, "resistant": 900.0, "very_resistant": 2000.0}


@dataclass(frozen=True)
class SafeRate:
    """The greatest safe loss of moisture in a day (fraction), where it comes from, and its spread (ln)."""

    per_day: float
    published: bool
    spread: float = 0.0

    @property
    def borne(self) -> float:
        """What is surely too fast: the rate, what published schedules pass it by, and what is left open about the rate itself."""
        return self.per_day * LOSS_BORNE * float(np.exp(ONE_IN_TEN * self.spread))


# What a recorded rate leaves open, one standard deviation in ln, by the confidence it was recorded with.
RATE_SPREAD = {"high": 0.0, "medium": 0.25, "low": 0.4}


@lru_cache(maxsize=1)
def _published_rates() -> dict[str, tuple[float, float, float]]:
    return {
        row["key"]: (row.number("rate_4_4", 0.01), row.number("rate_8_4", 0.01), RATE_SPREAD[row["confidence"]])
        for row in rows("safe_rates")
    }


@lru_cache(maxsize=1)
def _rate_estimate() -> tuple[np.ndarray, float]:
    """ln(rate at 4/4) over 1, ln permeability and ln specific gravity, from the dozen published species; with its scatter."""
    keys = list(_published_rates())
    shape = np.array([_rate_shape(of_species(species_named(key))) for key in keys])
    logs = np.log([_published_rates()[key][0] for key in keys])
    result, *_ = np.linalg.lstsq(shape, logs, rcond=None)
    return result, float(np.std(logs - shape @ result, ddof=3))


def _rate_shape(figures: Figures) -> list[float]:
    return [1.0, float(np.log(figures.wood.permeability)), float(np.log(figures.wood.specific_gravity))]


def _as_rough_stock_m(thickness_m: float) -> float:
    """What is called 4/4 is sawn an eighth over and dries to an inch; published figures of 4/4 hold from one to the other."""
    if thickness_m >= FOUR_QUARTER_GREEN_M:
        return thickness_m
    return FOUR_QUARTER_GREEN_M * min(thickness_m / INCH_M, 1.0)


def safe_rate(species: Species, thickness_m: float) -> SafeRate:
    """The greatest safe daily loss while the wood is wet.

    Published for a dozen species at 4/4 and 8/4 (AH-188), between and beyond by the same power of the thickness; estimated for
    others from their permeability and specific gravity, and marked so.

    Raises:
        OutOfRange: thickness 0.5 mm…1.5 m. NotKnown: neither published nor to be estimated.

    >>> round(safe_rate(species_named("white_oak"), 0.0286).per_day, 3)
    0.025
    """
    check_range("thickness_m", thickness_m, *field.THICKNESS_M, " m")
    thickness_m = _as_rough_stock_m(thickness_m)
    rates = _published_rates().get(species.key)
    if rates:
        power = np.log(rates[1] / rates[0]) / np.log(EIGHT_QUARTER_GREEN_M / FOUR_QUARTER_GREEN_M)
        return SafeRate(float(rates[0] * (thickness_m / FOUR_QUARTER_GREEN_M) ** power), published=True, spread=rates[2])
    coefficients, scatter = _rate_estimate()
    at_quarter = float(np.exp(coefficients @ _rate_shape(of_species(species))))
    power = np.log(0.4) / np.log(EIGHT_QUARTER_GREEN_M / FOUR_QUARTER_GREEN_M)
    return SafeRate(min(at_quarter * (thickness_m / FOUR_QUARTER_GREEN_M) ** float(power), 0.5), published=False, spread=scatter)


class Defect(StrEnum):
    """What may go wrong in drying."""

    FACE_CHECKS = "face_checks"
    END_CHECKS = "end_checks"
    HONEYCOMB = "honeycomb"
    STAIN = "stain"
    MOULD = "mould"
    DECAY = "decay"


class RiskLevel(StrEnum):
    """How likely a defect is: its figure from 1 on, from a half on, below."""

    HIGH = "high"
    WATCH = "watch"
    LOW = "low"


@dataclass(frozen=True)
class Risk:
    """One defect: its figure over time (at the history's days), the greatest, when, and what the sentence about it needs.

    ``since_day`` is when the figure first passed 1, ``None`` if never. ``cause`` holds numbers by name, in SI and fractions.
    """

    kind: Defect
    figures: np.ndarray
    worst: float
    worst_day: float
    since_day: float | None
    cause: dict[str, Any] = attribute(default_factory=dict)

    @property
    def level(self) -> RiskLevel:
        return RiskLevel.HIGH if self.worst >= 1 else RiskLevel.WATCH if self.worst >= 0.5 else RiskLevel.LOW


def _risk(kind: Defect, days: np.ndarray, figures: np.ndarray, **cause: Any) -> Risk:
    worst = int(np.argmax(figures))
    over = np.flatnonzero(figures >= 1)
    return Risk(kind, figures, float(figures[worst]), float(days[worst]), float(days[over[0]]) if over.size else None, cause)


def _at_its_moments(history: field.History, temperature_c: Values) -> Array:
    """The air's temperature at each moment of a history."""
    t = check_range("temperature_c", temperature_c, -100.0, 300.0, "°C").reshape(-1)
    check_range("temperatures", t.size, history.days.size, history.days.size)
    return t


def shrunk(moisture: np.ndarray, species: Species) -> np.ndarray:
    """Free tangential shrinkage at moistures (fractions, 0…3), as a share of the green size.

    Raises:
        OutOfRange. NotKnown: the species' shrinkage.
    """
    moisture = check_range("moisture", moisture, 0.0, field.GREATEST_MOISTURE)
    if species.shrinkage_tangential is None:
        raise NotKnown("shrinkage_tangential", species.common_name)
    return species.shrinkage_tangential * np.clip(1 - moisture / species.fibre_saturation, 0.0, 1.0)


def skin_and_whole(history: field.History, species: Species, thickness_m: float) -> tuple[Array, Array]:
    """Free tangential shrinkage of the outermost :data:`FACE_DEPTH_M` and of the whole thickness, at each moment of a history.

    Args:
        thickness_m: what the history is of, 0.5 mm…1.5 m.
    Raises:
        OutOfRange. NotKnown: the species' shrinkage.
    """
    check_range("thickness_m", thickness_m, *field.THICKNESS_M, " m")
    free = shrunk(history.profiles, species)
    weights = np.diff(np.concatenate([[0.0], (history.depths_m[1:] + history.depths_m[:-1]) / 2, [thickness_m / 2]]))
    shell = history.depths_m <= max(FACE_DEPTH_M, history.depths_m[0])
    return free[:, shell] @ weights[shell] / weights[shell].sum(), free @ weights / weights.sum()


def pull_left(days: np.ndarray, stretch: np.ndarray, temperature_c: np.ndarray) -> np.ndarray:
    """The part of a hindered shrinkage that still pulls: it grows with the stretch and fades as the wood creeps (a Maxwell body).

    Args:
        days: rising moments, 0…1e5; stretch: strain at each, −1…1; temperature_c: of the wood, −100…300°C.
    Raises:
        OutOfRange: also where they differ in length.
    """
    days = check_range("days", days, 0.0, 1e5, " days").reshape(-1)
    stretch = check_range("stretch", stretch, -1.0, 1.0).reshape(-1)
    temperature_c = check_range("temperature_c", temperature_c, -100.0, 300.0, "°C").reshape(-1)
    check_range("stretches", stretch.size, days.size, days.size)
    check_range("temperatures", temperature_c.size, days.size, days.size)
    felt = np.zeros(days.size)
    fading = RELAXATION_DAYS * np.exp(-RELAXATION_PER_C * (temperature_c - 20.0))
    before = 0.0
    for k in range(days.size):
        step = days[k] - (days[k - 1] if k else 0.0)
        grown = stretch[k] - (stretch[k - 1] if k else 0.0)
        if step <= 0:
            before += grown
        else:
            left = np.exp(-step / fading[k])
            before = before * left + grown * (1 - left) * fading[k] / step
        felt[k] = before
    return np.maximum(felt, 0.0)


def pull_borne(species: Species, thickness_m: float) -> float:
    """The pull that a wood's skin bears before it parts, as strain: a share of its tangential shrinkage (see the head of this module).

    Raises:
        OutOfRange: thickness 0.5 mm…1.5 m. NotKnown: shrinkage or specific gravity.

    >>> pull_borne(species_named("white_oak"), 0.0286) < pull_borne(species_named("sugar_maple"), 0.0286)
    True
    """
    check_range("thickness_m", thickness_m, *field.THICKNESS_M, " m")
    if species.shrinkage_tangential is None:
        raise NotKnown("shrinkage_tangential", species.common_name)
    gravity = species.basic_specific_gravity or of_species(species).wood.specific_gravity
    group = SOFTWOOD if species.group == "softwood" else BROAD_RAYS if species.botanical_name.split(" ")[0] in BROAD_RAYED else 1.0
    share = PULL_BORNE * group * (gravity / MIDDLE_GRAVITY) ** BY_GRAVITY * (thickness_m / FOUR_QUARTER_GREEN_M) ** BY_THICKNESS
    return share * species.shrinkage_tangential


def surface_check(history: field.History, species: Species, thickness_m: float, temperature_c: np.ndarray) -> Risk:
    """Checks in the faces: the shell wants to shrink and the wet core does not let it.

    The figure is the larger of two, both in the cause: ``pull_figure``, the pull in the outermost 0.7 mm over what the wood bears, and
    ``loss_figure``, the daily loss until a third of the water is gone over what schedules show to be borne.
    """
    borne, temperature_c = pull_borne(species, thickness_m), _at_its_moments(history, temperature_c)
    face, whole = skin_and_whole(history, species, thickness_m)
    pull = pull_left(history.days, face - whole, temperature_c) * _counts(history, species) / borne
    rate = safe_rate(species, thickness_m)
    loss, by_loss = _loss_until_a_third(history, species)
    by_loss = by_loss * loss / rate.borne
    figures = np.maximum(pull, by_loss)
    worst = int(np.argmax(figures))
    return _risk(
        Defect.FACE_CHECKS,
        history.days,
        figures,
        shell=float(history.profiles[worst, 0]),
        core=float(history.core[worst]),
        loss=loss,
        safe=rate.per_day,
        published=rate.published,
        by_loss=bool(by_loss.max() > pull.max()),
        pull_figure=float(pull.max()),
        loss_figure=float(by_loss.max()),
    )


def _counts(history: field.History, species: Species) -> np.ndarray:
    """How much of the pull may still open checks: all while the wood is wet, none once its skin is set."""
    left, wet = history.mean / max(history.mean[0], 1e-9), history.mean / species.fibre_saturation
    return np.clip((left - COUNTS_NO_MORE) / (COUNTS_UNTIL - COUNTS_NO_MORE), 0, 1) * np.clip((wet - SET_AT) / (SET_FROM - SET_AT), 0, 1)


def _loss_until_a_third(history: field.History, species: Species) -> tuple[float, np.ndarray]:
    """The mean daily loss until a third of the water is gone, and how much of that third is gone at each moment (0 afterwards)."""
    start = float(history.mean[0])
    removed = (start - history.mean) / (start / 3)
    # The published rates are of green wood; in wood that begins below fibre saturation nothing is to be feared of them.
    if start <= species.fibre_saturation or history.days[-1] <= 0:
        return 0.0, np.zeros(history.days.size)
    passed = np.flatnonzero(removed >= 1)
    end = int(passed[0]) if passed.size else history.days.size - 1
    if end and passed.size:
        day = history.days[end - 1] + (1 - removed[end - 1]) / (removed[end] - removed[end - 1]) * (
            history.days[end] - history.days[end - 1]
        )
    else:
        day = history.days[end]
    lost = min(float(removed[end]), 1.0) * start / 3
    # Less than a day of it is no rate of a day.
    rate = max(lost, 0.0) / max(float(day), 1.0)
    return rate, np.where(np.arange(removed.size) <= end, np.clip(removed, 0, 1), 0.0)


def end_check(
    species: Species, figures: Figures, start: float, series: AirSeries, history: field.History, temperature_c: np.ndarray, *, sealed: bool
) -> Risk:
    """Checks in the ends, which dry a dozen times faster than the faces; a sealed end carries a tenth of the pull.

    The end is followed inwards along the grain, in the open air that it meets even where the faces lie in a stack; its face is held
    back by the mean of the first 100 mm.

    Raises:
        NotKnown.
    """
    if species.shrinkage_tangential is None:
        raise NotKnown("shrinkage_tangential", species.common_name)
    temperature_c = _at_its_moments(history, temperature_c)
    drive = field.driven(series, OpenBoard())
    along = field.Wood(
        figures.wood.specific_gravity,
        min(figures.wood.factor * figures.wood.along_grain, 100.0),
        figures.wood.permeability,
        figures.wood.fibre_saturation,
    )
    ran = field.dry(along, 0.6, start, drive, float(history.days[-1]), out_days=history.days, tolerance=1e-3)
    free = shrunk(ran.profiles, species)
    inner = ran.depths_m <= END_DEPTH_M
    stretch = free[:, 0] - free[:, inner].mean(axis=1)
    pull = pull_left(ran.days, stretch, temperature_c) * _counts(history, species) / END_PULL_BORNE * (SEALED_ENDS_SHARE if sealed else 1.0)
    worst = int(np.argmax(pull))
    return _risk(Defect.END_CHECKS, history.days, pull, end=float(ran.surface[worst]), core=float(history.core[worst]), sealed=sealed)


def temperature_borne_c(species: Species) -> tuple[float, bool]:
    """The temperature a wet core bears and whether it is published (the first dry bulb of the species' kiln schedule)."""
    try:
        return first_dry_bulb_c(species.key), True
    except NotKnown:
        if species.group == "softwood":
            return SOFTWOOD_C, False
        return (DENSE_HARDWOOD_C if (species.specific_gravity_green or 0.6) >= 0.6 else HARDWOOD_C), False


def honeycomb(history: field.History, species: Species, temperature_c: np.ndarray) -> Risk:
    """Honeycomb and collapse: hot while the core holds free water. 1 is ten degrees over what the species bears; at it, a half."""
    temperature_c = _at_its_moments(history, temperature_c)
    borne, published = temperature_borne_c(species)
    wet = history.core > species.fibre_saturation
    figures = np.where(wet, np.clip(0.5 + (temperature_c - borne) / (2 * COLLAPSE_OVER_C), 0.0, None), 0.0)
    figures = np.where(temperature_c < borne - COLLAPSE_OVER_C, 0.0, figures)
    worst = int(np.argmax(figures))
    return _risk(
        Defect.HONEYCOMB,
        history.days,
        figures,
        temperature_c=float(temperature_c[worst]),
        core=float(history.core[worst]),
        borne_c=borne,
        published=published,
    )


def fungal_share(temperature_c: Values) -> Array:
    """How fast stain and mould grow, against their best temperature: 1 at 27°C, 0 below 2 and above 38°C.

    Raises:
        OutOfRange: temperature_c −100…300°C.

    >>> [round(float(item), 2) for item in fungal_share([0, 10, 27, 40])]
    [0.0, 0.32, 1.0, 0.0]
    """
    t = check_range("temperature_c", temperature_c, -100.0, 300.0, "°C")
    rising = (t - FUNGI_C[0]) / (FUNGI_BEST_C - FUNGI_C[0])
    falling = (FUNGI_C[1] - t) / (FUNGI_C[1] - FUNGI_BEST_C)
    return np.clip(np.minimum(rising, falling), 0.0, 1.0)


@lru_cache(maxsize=1)
def _stain_classes() -> dict[str, tuple[str, str]]:
    return {row["key"]: (row["class"], row["words"]) for row in rows("susceptibility") if row["kind"] == "stain"}


def stain_class(species: Species) -> str:
    """How easily a wood's sapwood stains: high, medium or low (our judgement of AH-188 and Wood Handbook ch. 14)."""
    return _stain_classes().get(species.key, ("low", ""))[0]


def _warm_days(history: field.History, wet: np.ndarray, temperature_c: np.ndarray) -> np.ndarray:
    """Days so far at the best temperature, counted while ``wet``."""
    steps, temperature_c = np.diff(history.days, prepend=0.0), _at_its_moments(history, temperature_c)
    return np.cumsum(steps * wet * fungal_share(temperature_c))


def stain(history: field.History, species: Species, temperature_c: np.ndarray) -> Risk:
    """Sap and sticker stain: the outer wood above 22% in mild air for too long, by species."""
    susceptible, words = _stain_classes().get(species.key, ("low", "stain"))
    days = _warm_days(history, history.shell > STAIN_MOISTURE, temperature_c)
    return _risk(
        Defect.STAIN,
        history.days,
        days / STAIN_DAYS[susceptible],
        susceptible=susceptible,
        words=words,
        warm_days=float(days[-1]),
        limit=STAIN_DAYS[susceptible],
    )


def mould(history: field.History, temperature_c: np.ndarray) -> Risk:
    """Mould on the faces: the skin above 18%, which is air of about 80% RH."""
    days = _warm_days(history, history.profiles[:, 0] > MOULD_MOISTURE, temperature_c)
    return _risk(Defect.MOULD, history.days, days / MOULD_DAYS, warm_days=float(days[-1]), limit=MOULD_DAYS)


def decay(history: field.History, species: Species, temperature_c: np.ndarray) -> Risk:
    """Decay: above fibre saturation in warm air for months; heartwood resists by its class, sapwood of any species does not."""
    limit = DECAY_DAYS.get(species.decay_resistance, DECAY_DAYS[None])
    days = _warm_days(history, history.mean > species.fibre_saturation, temperature_c)
    return _risk(Defect.DECAY, history.days, days / limit, warm_days=float(days[-1]), limit=limit, resistance=species.decay_resistance)


def assess(
    history: field.History,
    species: Species,
    figures: Figures,
    thickness_m: float,
    start: float,
    series: AirSeries,
    *,
    ends_sealed: bool,
) -> list[Risk]:
    """Every risk of a drying, the gravest first.

    Args:
        history: of the piece, with profiles; ``series`` the air it dried in, from the same moment on.
        species, figures: the species and its drying figures; ``thickness_m`` in metres, ``start`` the moisture it began at (fraction).
    Raises:
        NotKnown: the species' shrinkage is not known.
    """
    if species.shrinkage_tangential is None:
        raise NotKnown("shrinkage_tangential", species.common_name)
    at = series.at(history.days)
    temperature_c = series.temperature_c[at]
    # Fungi live by the day's mean, wood's skin by the hour.
    by_day = series.by_day(series.temperature_c)
    calm = by_day[history.days.astype(int) % by_day.size]
    result = [
        surface_check(history, species, thickness_m, temperature_c),
        end_check(species, figures, start, series, history, temperature_c, sealed=ends_sealed),
        honeycomb(history, species, temperature_c),
        stain(history, species, calm),
        mould(history, calm),
        decay(history, species, calm),
    ]
    return sorted(result, key=lambda risk: -risk.worst)
