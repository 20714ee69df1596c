"""How fast a species lets water go, fitted to the published air-drying days: ``python -m wood.drying.calibration`` writes the table anew.

Published (Air Drying of Lumber, FPL-GTR-117): a range of days in which 1-in stock dries in the yard from green to about 20%, the
low figure in a good season, the high one when stacked before winter. For each species the moisture field runs a board through
a breezy stack begun in spring or early summer, and through a sheltered one begun on 1 December, in the climate pattern of the
region where the species is sawn. Two figures come nearest to both ends: the permeability to free water, of which each kind of wood
has a usual one and a wide spread, and the factor of bound water, which is held near one, for below fibre saturation species
differ by their gravity. Kiln days (:mod:`wood.kiln.schedules`) follow without refitting, and so do rooms.

Species without published days have the factor one and the permeability of their kind, with its scatter as their spread; a few
without specific gravity stand on a near relative. The rest are not known, and the application says so.
"""

import csv
import sys
from dataclasses import dataclass
from functools import lru_cache
from importlib.resources import files

import numpy as np
from scipy.optimize import minimize

from wood.air import climate
from wood.drying import field
from wood.drying.methods import WINDS
from wood.errors import NotKnown
from wood.sizes import FOUR_QUARTER_GREEN_M
from wood.species import Species, all_species
from wood.stacks.air import Stack

AIR_DRY = 0.20
GOOD_SEASON_STARTS = (100, 130, 160)
WINTER_START = 334
BREEZY = Stack(WINDS["breezy"], width_m=1.5)
SHELTERED = Stack(WINDS["sheltered"], width_m=1.6)
LONGEST_DAYS = 1500.0
# A range counts as reproduced when both its ends come out within a third: the predicted days 3/4 to 4/3 of the published.
REPRODUCED = float(np.log(4 / 3))
# What weighs in a fit, one standard deviation in ln: an end of the published range, the factor of bound water, the permeability.
END_SPREAD, FACTOR_SPREAD, PERMEABILITY_SPREAD = 0.30, 0.15, 1.2
PERMEABILITIES, FACTORS = (0.02, 40.0), (0.55, 1.8)
# Boards of one species differ among themselves; one standard deviation of ln f (our judgement, from the published variation of
# specific gravity and of drying between trees), and of ln permeability, which differs more (heart and sap, pits open or shut).
BOARD_SPREAD, BOARD_PERMEABILITY_SPREAD = 0.20, 0.35

# How fast free water usually moves against bound water at saturation and 20°C, by kind of wood: the middle of what is fitted.
PERMEABILITY = {"ring": 0.17, "semi-ring": 0.15, "diffuse": 0.25, "softwood": 0.7}
# The published days of these are said of heartwood or of light stock, not of the mean of heart and sap.
STATED_OF_HEARTWOOD = ("sugar_pine", "redwood_old_growth", "sweetgum")
# Without specific gravity at hand: the relative whose drying stands for it.
RELATIVES = {
    "european_ash": "white_ash",
    "european_sycamore_maple": "bigleaf_maple",
    "european_lime": "american_basswood",
    "european_walnut": "black_walnut",
    "boxelder": "silver_maple",
    "cedar_elm": "rock_elm",
    "winged_elm": "rock_elm",
    "river_birch": "paper_birch",
    "sweetbay": "southern_magnolia",
    "california_black_oak": "northern_red_oak",
}
# Climate pattern by words of the species' region; the first that fits.
REGIONS = (
    ("California", "dry_summer"),
    ("Interior west", "high_desert"),
    ("Southwest", "high_desert"),
    ("Pacific", "rainy_coast"),
    ("Rocky", "mountain_basin"),
    ("Inland", "mountain_basin"),
    ("Western", "mountain_basin"),
    ("Southern", "warm_humid"),
    ("Southeast", "warm_humid"),
    ("Lake States", "cold_winter"),
    ("Northeast", "cold_winter"),
    ("Northern", "cold_winter"),
)
USUAL_REGION = "four_seasons"
# Share of all the room for water that green wood fills, where its moisture is not tabulated; mean of the tabulated species.
GREEN_FILLING = 0.55
GREATEST_ESTIMATED_GREEN = 1.1


def climate_key(species: Species) -> str:
    """The climate pattern a species' published days are compared in.

    >>> from wood.species import species_named
    >>> climate_key(species_named("loblolly_pine"))
    'warm_humid'
    """
    return next((key for word, key in REGIONS if word in species.region), USUAL_REGION)


def kind_of(species: Species) -> str:
    """The kind of wood that permeability goes by: ``ring``, ``semi-ring``, ``diffuse`` or ``softwood``."""
    return "softwood" if species.group == "softwood" else species.porosity if species.porosity in PERMEABILITY else "diffuse"


def green_moisture(species: Species) -> tuple[float, bool]:
    """Moisture of green stock and whether it is tabulated; the mean of heart and sap, or an estimate from the room for water."""
    middle, sap = species.green_moisture_heartwood, species.green_moisture_sapwood
    if species.key in STATED_OF_HEARTWOOD and middle:
        return middle, True
    known = [value for value in (middle, sap) if value]
    if known:
        return float(np.mean(known)), True
    return min(GREEN_FILLING * species.greatest_moisture, GREATEST_ESTIMATED_GREEN), False


@lru_cache(maxsize=128)
def _drive(pattern: str, start_day: int, stack: Stack) -> field.Drive:
    return field.driven(climate.pattern(pattern).year.starting(start_day), stack)


def yard_days(
    species: Species, permeability: float, start_day: int, stack: Stack, factor: float = 1.0, thickness_m: float = FOUR_QUARTER_GREEN_M
) -> float:
    """Days from green to 20% in the climate of the species' region; ``LONGEST_DAYS`` where it is not reached.

    Raises:
        NotKnown.
    """
    if species.specific_gravity_green is None:
        raise NotKnown("specific_gravity_green", species.common_name)
    wood = field.Wood(species.specific_gravity_green, factor, permeability, species.fibre_saturation)
    drive, start = _drive(climate_key(species), start_day, stack), green_moisture(species)[0]
    ran = field.dry_many(wood, thickness_m, start, drive, LONGEST_DAYS, target=AIR_DRY, enough_days=0.0)
    return float(min(ran.crossed_days[0], LONGEST_DAYS))


@dataclass(frozen=True)
class Fit:
    """A fitted species: its permeability, its factor, and the days they predict for the good season and for winter."""

    permeability: float
    factor: float
    days_low: float
    days_high: float

    def residuals(self, published: tuple[float, float]) -> tuple[float, float]:
        """ln(predicted/published) at both ends."""
        return float(np.log(self.days_low / published[0])), float(np.log(self.days_high / published[1]))


def predicted_range(species: Species, permeability: float, factor: float = 1.0, thickness_m: float = FOUR_QUARTER_GREEN_M) -> Fit:
    """What two figures predict, in days: the best of the good-season starts in a breezy stack, and the winter start in a sheltered one."""
    low = min(yard_days(species, permeability, day, BREEZY, factor, thickness_m) for day in GOOD_SEASON_STARTS)
    return Fit(permeability, factor, low, yard_days(species, permeability, WINTER_START, SHELTERED, factor, thickness_m))


def _published(species: Species) -> tuple[float, float]:
    if species.air_dry_days is None:
        raise NotKnown("air_dry_days", species.common_name)
    return species.air_dry_days


def fit(species: Species) -> Fit:
    """The permeability and the factor that come nearest to a species' published range and stay nearest to what is usual."""
    usual = np.log(PERMEABILITY[kind_of(species)])
    limits, published = (np.log(PERMEABILITIES), np.log(FACTORS)), _published(species)

    def distance(x: np.ndarray) -> float:
        p, f = (float(np.clip(value, *limit)) for value, limit in zip(x, limits, strict=True))
        outside = abs(x[0] - p) + abs(x[1] - f)
        ends = np.array(predicted_range(species, float(np.exp(p)), float(np.exp(f))).residuals(published))
        return float(np.sum((ends / END_SPREAD) ** 2) + (f / FACTOR_SPREAD) ** 2 + ((p - usual) / PERMEABILITY_SPREAD) ** 2 + 10 * outside)

    # A coarse walk over the permeability finds the valley, a simplex its floor.
    walk = np.linspace(limits[0][0], limits[0][1], 9)
    begin = walk[int(np.argmin([distance(np.array([p, 0.0])) for p in walk]))]
    simplex = np.array([[begin, 0.0], [begin + 0.5, 0.0], [begin, 0.1]])
    result = minimize(distance, simplex[0], method="Nelder-Mead", options={"initial_simplex": simplex, "xatol": 0.01, "fatol": 0.01})
    p, f = (float(np.exp(np.clip(value, *limit))) for value, limit in zip(result.x, limits, strict=True))
    return predicted_range(species, p, f)


def usual_permeability(fits: dict[str, Fit]) -> tuple[dict[str, float], float]:
    """The middle of the fitted permeabilities of each kind of wood, and the scatter about them in ln."""
    table = all_species()
    kinds = {key: kind_of(table[key]) for key in fits}
    middles = {
        kind: float(np.exp(np.median([np.log(item.permeability) for key, item in fits.items() if kinds[key] == kind])))
        for kind in PERMEABILITY
    }
    off = [np.log(fit.permeability / middles[kinds[key]]) for key, fit in fits.items()]
    return middles, float(np.std(off))


HEADER = (
    ("key", "text"),
    ("factor", "ratio"),
    ("spread", "of ln factor"),
    ("permeability", "ratio"),
    ("permeability_spread", "of ln permeability"),
    ("green_moisture", "fraction"),
    ("basis", "text"),
    ("stands_on", "text"),
    ("climate", "text"),
    ("days_low", "day"),
    ("days_high", "day"),
    ("residual_low", "ln"),
    ("residual_high", "ln"),
)


def table(fits: dict[str, Fit]) -> list[list[str]]:
    """The rows of ``diffusivity.csv`` for every species that can be said anything about."""
    middles, scatter = usual_permeability(fits)
    rows = []
    for key, species in all_species().items():
        source = all_species()[RELATIVES[key]] if species.specific_gravity_green is None and key in RELATIVES else species
        if source.specific_gravity_green is None:
            continue
        own, fitted = source is species, fits.get(source.key)
        factor, permeability = (fitted.factor, fitted.permeability) if fitted else (1.0, middles[kind_of(source)])
        spread, loose = BOARD_SPREAD, BOARD_PERMEABILITY_SPREAD
        tail = [""] * 4
        if fitted and own:
            low, high = fitted.residuals(_published(source))
            # What the fit leaves open is an uncertainty of the same two figures.
            spread = np.hypot(spread, np.sqrt((low**2 + high**2) / 2))
            tail = [f"{fitted.days_low:.0f}", f"{fitted.days_high:.0f}", f"{low:.3f}", f"{high:.3f}"]
        else:
            spread, loose = np.hypot(spread, FACTOR_SPREAD), np.hypot(loose, scatter)
        basis = ("fitted" if own else "relative") if fitted else "estimated"
        rows.append(
            [
                key,
                f"{factor:.4f}",
                f"{spread:.3f}",
                f"{permeability:.4f}",
                f"{loose:.3f}",
                f"{green_moisture(source)[0]:.3f}",
                basis,
                "" if own else source.key,
                climate_key(species),
                *tail,
            ]
        )
    return rows


def fit_all() -> dict[str, Fit]:
    """Every species with published days and a specific gravity, fitted."""
    return {key: fit(species) for key, species in all_species().items() if species.air_dry_days and species.specific_gravity_green}


def main() -> None:
    """Fit every species, write ``wood/data/diffusivity.csv``, and say how well the published ranges come out."""
    fits = fit_all()
    path = files("wood") / "data" / "diffusivity.csv"
    with open(str(path), "w", encoding="utf-8", newline="") as file:
        writer = csv.writer(file, lineterminator="\n")
        writer.writerows([[name for name, _ in HEADER], [unit for _, unit in HEADER], *table(fits)])
    within = 0
    for key, fit in fits.items():
        published = _published(all_species()[key])
        inside = max(map(abs, fit.residuals(published))) <= REPRODUCED
        within += inside
        sys.stdout.write(
            f"{key:28} free water {fit.permeability:6.3f}  bound {fit.factor:5.2f}  published {published[0]:.0f}-{published[1]:.0f}"
            f"  predicted {fit.days_low:.0f}-{fit.days_high:.0f}{'' if inside else '  beyond a third'}\n"
        )
    middles, scatter = usual_permeability(fits)
    sys.stdout.write(
        f"{within} of {len(fits)} species within a third at both ends; usual permeability "
        f"{', '.join(f'{kind} {middle:.2f}' for kind, middle in middles.items())}, scatter {scatter:.2f}\n"
    )


if __name__ == "__main__":
    main()
