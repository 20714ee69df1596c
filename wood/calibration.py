"""One diffusivity factor per species, fitted to the published air-drying days: ``python -m wood.calibration`` writes the table anew.

Published (Air Drying of Lumber, FPL-GTR-117): a range of days in which 1-in stock dries in the yard from green to about 20 %, the
low figure in a good season, the high one when stacked before winter. For each species the moisture field runs a board through
a breezy stack begun in spring or early summer, and through a sheltered one begun on 1 December, in the climate pattern of the
region where the species is sawn; f is the one number that comes nearest to both ends (least squares of their logarithms).
Nothing else is fitted per species. Kiln days (:mod:`wood.kiln.schedules`) follow without refitting.

Species without published days get an estimate from specific gravity and kind, with the scatter of that estimate as their
spread; a few without specific gravity stand on a near relative. The rest are not known, and the application says so.
"""

import csv
import sys
from dataclasses import dataclass
from functools import lru_cache
from importlib.resources import files

import numpy as np
from scipy.optimize import minimize_scalar

from wood import climate, field
from wood.species import Species, all_species
from wood.stacks import Stack

# Rough-sawn green 1-in stock is cut over-thick.
ONE_INCH_STOCK_M = 0.0286
AIR_DRY = 0.20
GOOD_SEASON_STARTS = (100, 130, 160)
WINTER_START = 334
BREEZY = Stack(0.20, width_m=1.5)
SHELTERED = Stack(0.085, width_m=1.6)
LONGEST_DAYS = 1500.0
# A range counts as reproduced when both its ends come out within a third: the predicted days 3/4 to 4/3 of the published.
REPRODUCED = float(np.log(4 / 3))
FACTORS = (0.02, 20.0)
# Boards of one species differ among themselves; one standard deviation of ln f (our judgement, from the published variation of
# specific gravity and of drying between trees).
BOARD_SPREAD = 0.20

# How much faster free water moves than bound water at saturation: tyloses close ring-porous heartwood, pits open pine sapwood.
PERMEABILITY = {"ring": 1.0, "semi-ring": 1.5, "diffuse": 4.0, "softwood": 5.0}
PINE_PERMEABILITY = 8.0
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

    >>> from wood.species import species
    >>> climate_key(species("loblolly_pine"))
    'warm_humid'
    """
    return next((key for word, key in REGIONS if word in species.region), USUAL_REGION)


def permeability(species: Species) -> float:
    """Free water against bound water, by kind of wood."""
    if species.group == "softwood":
        return PINE_PERMEABILITY if "pine" in species.key else PERMEABILITY["softwood"]
    return PERMEABILITY.get(species.porosity or "diffuse", PERMEABILITY["diffuse"])


def green_moisture(species: Species) -> tuple[float, bool]:
    """Moisture of green stock and whether it is tabulated; the mean of heart and sap, or an estimate from the room for water."""
    heart, sap = species.green_moisture_heartwood, species.green_moisture_sapwood
    if species.key in STATED_OF_HEARTWOOD and heart:
        return heart, True
    known = [value for value in (heart, sap) if value]
    if known:
        return float(np.mean(known)), True
    return min(GREEN_FILLING * species.greatest_moisture, GREATEST_ESTIMATED_GREEN), False


@lru_cache(maxsize=128)
def _drive(pattern: str, start_day: int, stack: Stack) -> field.Drive:
    return field.driven(climate.pattern(pattern).year.starting(start_day), stack)


def yard_days(species: Species, factor: float, start_day: int, stack: Stack, thickness_m: float = ONE_INCH_STOCK_M) -> float:
    """Days from green to 20 % in the climate of the species' region; ``LONGEST_DAYS`` where it is not reached."""
    wood = field.Wood(species.specific_gravity_green, factor, permeability(species), species.fibre_saturation)
    drive = _drive(climate_key(species), start_day, stack)
    start = green_moisture(species)[0]
    ran = field.dry_many(
        wood,
        thickness_m,
        start,
        drive,
        LONGEST_DAYS,
        target=AIR_DRY,
        branch=climate.MOVING_HYSTERESIS,
        enough_days=0.0,
        longest_step_days=1.0,
    )
    return float(min(ran.crossed_days[0], LONGEST_DAYS))


@dataclass(frozen=True)
class Fit:
    """A fitted species: its factor and the days it predicts for the good season and for winter."""

    factor: float
    days_low: float
    days_high: float

    def residuals(self, published: tuple[float, float]) -> tuple[float, float]:
        """ln(predicted/published) at both ends."""
        return float(np.log(self.days_low / published[0])), float(np.log(self.days_high / published[1]))


def predicted_range(species: Species, factor: float, thickness_m: float = ONE_INCH_STOCK_M) -> Fit:
    """What a factor predicts: the best of the good-season starts in a breezy stack, and the winter start in a sheltered one."""
    low = min(yard_days(species, factor, day, BREEZY, thickness_m) for day in GOOD_SEASON_STARTS)
    return Fit(factor, low, yard_days(species, factor, WINTER_START, SHELTERED, thickness_m))


def fit(species: Species) -> Fit:
    """The factor that comes nearest to a species' published range."""
    published = species.air_dry_days

    def distance(log_factor: float) -> float:
        return float(np.sum(np.square(predicted_range(species, float(np.exp(log_factor))).residuals(published))))

    # The misfit has one valley; a coarse walk finds it and a bracketed search its floor.
    walk = np.linspace(np.log(FACTORS[0] * 4), np.log(FACTORS[1] / 3), 8)
    middle = walk[int(np.argmin([distance(one) for one in walk]))]
    step = walk[1] - walk[0]
    found = minimize_scalar(distance, bounds=(middle - step, middle + step), method="bounded", options={"xatol": 0.01})
    return predicted_range(species, float(np.exp(found.x)))


def _kind(species: Species) -> int:
    return 0 if species.group == "softwood" else 1 if species.porosity == "ring" else 2


def estimate_factors(fits: dict[str, Fit]) -> tuple[np.ndarray, float]:
    """Coefficients of ln f over (kind of wood, ln specific gravity), and the scatter of that estimate in ln f."""
    table = all_species()
    rows = np.zeros((len(fits), 4))
    for row, key in zip(rows, fits, strict=True):
        row[_kind(table[key])] = 1
        row[3] = np.log(table[key].specific_gravity_green / 0.5)
    logs = np.log([one.factor for one in fits.values()])
    coefficients, *_ = np.linalg.lstsq(rows, logs, rcond=None)
    return coefficients, float(np.std(logs - rows @ coefficients, ddof=4))


HEADER = (
    ("key", "text"), ("factor", "ratio"), ("spread", "of ln factor"), ("permeability", "ratio"), ("green_moisture", "fraction"),
    ("basis", "text"), ("stands_on", "text"), ("climate", "text"), ("days_low", "day"), ("days_high", "day"),
    ("residual_low", "ln"), ("residual_high", "ln"),
)  # fmt: skip


def table(fits: dict[str, Fit]) -> list[list[str]]:
    """The rows of ``diffusivity.csv`` for every species that can be said anything about."""
    coefficients, scatter = estimate_factors(fits)
    rows = []
    for key, one in all_species().items():
        source = all_species()[RELATIVES[key]] if one.specific_gravity_green is None and key in RELATIVES else one
        if source.specific_gravity_green is None:
            continue
        own = [key, "", "", f"{permeability(source):.1f}", f"{green_moisture(one)[0] if source is one else green_moisture(source)[0]:.3f}"]
        fitted = fits.get(source.key)
        if fitted:
            low, high = fitted.residuals(source.air_dry_days)
            spread = np.hypot(BOARD_SPREAD, np.sqrt((low**2 + high**2) / 2))
            own[1:3] = f"{fitted.factor:.4f}", f"{spread if source is one else np.hypot(spread, scatter):.3f}"
            tail = [f"{fitted.days_low:.0f}", f"{fitted.days_high:.0f}", f"{low:.3f}", f"{high:.3f}"] if source is one else [""] * 4
            basis = "fitted" if source is one else "relative"
        else:
            shape = np.zeros(4)
            shape[_kind(source)], shape[3] = 1, np.log(source.specific_gravity_green / 0.5)
            own[1:3] = f"{np.exp(shape @ coefficients):.4f}", f"{np.hypot(BOARD_SPREAD, scatter):.3f}"
            basis, tail = "estimated", [""] * 4
        rows.append([*own, basis, "" if source is one else source.key, climate_key(one), *tail])
    return rows


def main() -> None:
    """Fit every species, write ``wood/data/diffusivity.csv``, and say how well the published ranges come out."""
    fits = {key: fit(one) for key, one in all_species().items() if one.air_dry_days and one.specific_gravity_green}
    path = files("wood") / "data" / "diffusivity.csv"
    with open(str(path), "w", encoding="utf-8", newline="") as file:
        writer = csv.writer(file, lineterminator="\n")
        writer.writerows([[name for name, _ in HEADER], [unit for _, unit in HEADER], *table(fits)])
    within = 0
    for key, one in fits.items():
        published = all_species()[key].air_dry_days
        inside = max(map(abs, one.residuals(published))) <= REPRODUCED
        within += inside
        sys.stdout.write(
            f"{key:28} f {one.factor:6.3f}  published {published[0]:.0f}-{published[1]:.0f}"
            f"  predicted {one.days_low:.0f}-{one.days_high:.0f}{'' if inside else '  beyond a third'}\n"
        )
    sys.stdout.write(f"{within} of {len(fits)} species within a third at both ends\n")


if __name__ == "__main__":
    main()
