"""Yards, kilns, stacks, frost and settling against published days."""

from functools import lru_cache

import numpy as np

from wood.air import climate
from wood.air.climate import AirSeries, Climate, constant, pattern
from wood.air.sorption import relative_humidity_for
from wood.checks.tables import FITTED, HELD_OUT, Check, Table
from wood.drying import calibration, field, methods
from wood.drying.diffusivity import of_species
from wood.kiln import schedules
from wood.sizes import FOUR_QUARTER_GREEN_M
from wood.species import Species, all_species, species_named
from wood.stacks.air import OpenBoard, Stack
from wood.stacks.by_place import dry_by_place
from wood.tables import rows


def _yard_species(every: int) -> list[tuple[Species, float, float]]:
    """Species with published days to 20%, and those days."""
    return [
        (species, *species.air_dry_days) for species in all_species().values() if species.air_dry_days and species.specific_gravity_green
    ][::every]


def yards(every: int = 1) -> Table:
    """One-inch stock to 20%: both ends of the published range, each within a third."""
    result = []
    for species, low, high in _yard_species(every):
        wood = of_species(species).wood
        fit = calibration.predicted_range(species, wood.permeability, wood.factor)
        result.append(Check(f"{species.common_name}: good season", fit.days_low, low * 0.75, low * 4 / 3, "days", FITTED))
        result.append(Check(f"{species.common_name}: before winter", fit.days_high, high * 0.75, high * 4 / 3, "days", FITTED))
    return Table(
        "Yard days, the ends of the range", "Air Drying of Lumber, FPL-GTR-117: days to 20%", tuple(result), may_fail=len(result) // 4
    )


def seasons(every: int = 1) -> Table:
    """One-inch stock to 20% in a usual stack, begun in May and in September: inside the published range, or a tenth beside it."""
    results, usual = [], Stack(methods.WINDS["usual"], width_m=1.5)
    for species, low, high in _yard_species(every):
        wood = of_species(species).wood
        for name, day in (("May", 121), ("September", 244)):
            days = calibration.yard_days(species, wood.permeability, day, usual, wood.factor)
            results.append(Check(f"{species.common_name}: stacked in {name}", days, low * 0.9, high * 1.1, "days", HELD_OUT))
    return Table("Yard days, usual stacks", "Air Drying of Lumber, FPL-GTR-117: days to 20%", tuple(results), may_fail=len(results) // 6)


# Published kiln periods are of whole charges: warming up, equalising and conditioning take about this much (AH-188: conditioning alone
# 16-24 h for 4/4 hardwood).
WARM_UP_AND_CONDITIONING_DAYS = 1.5
KILN_DRY = 0.065


def kilns() -> Table:
    """Kiln periods of 1-in stock from green, a tenth beside the published range allowed; their common lean, and its lean with density."""
    results, ratios, gravities = [], [], []
    for row in rows("kiln_days"):
        species = species_named(row["key"])
        figures = of_species(species)
        code = schedules.code_for(species.key, FOUR_QUARTER_GREEN_M)
        ran = schedules.run(figures.wood, FOUR_QUARTER_GREEN_M, figures.green_moisture, schedules.steps(code, KILN_DRY))
        low, high = row.number("days_low"), row.number("days_high")
        days = ran.days + WARM_UP_AND_CONDITIONING_DAYS
        ratios.append(np.log(days / np.sqrt(low * high)))
        gravities.append(figures.wood.specific_gravity)
        results.append(Check(f"{species.common_name}, {code}", days, low * 0.9, high * 1.1, "days", HELD_OUT))
    lean, dense = np.array(ratios), np.array(gravities)
    for name, chosen in (("all", dense > 0), ("below 0.45", dense < 0.45), ("above 0.55", dense > 0.55)):
        results.append(Check(f"Common lean, specific gravity {name}", float(np.exp(lean[chosen].mean())), 0.88, 1.14, "times", FITTED))
    return Table(
        "Kiln periods",
        "Wood Handbook ch. 13, recorded from memory (medium); AH-188 schedules",
        tuple(results),
        may_fail=2,
        note="Sycamore is the outlier: at its green moisture its own schedule's first step alone takes ten days.",
    )


SETTLING_WOODS = (
    "northern_white_cedar",
    "eastern_white_pine",
    "red_alder",
    "redwood_old_growth",
    "yellow_poplar",
    "douglas_fir_coast",
    "black_cherry",
    "black_walnut",
    "sugar_maple",
    "white_oak",
    "shagbark_hickory",
)


def settling_weeks(key: str, thickness_m: float = 0.0254) -> float:
    """Weeks in which a board at 12% comes within a point of where a room of 7% at 21°C brings it, open all round."""
    room = constant(21.0, float(relative_humidity_for(21.0, 0.07)))
    level, gap = room.loop
    target = float(level[0] * (1 + gap[0])) + 0.01
    ran = field.dry_many(
        of_species(species_named(key)).wood, thickness_m, 0.12, field.driven(room, OpenBoard(1.0)), 3000, target=target, enough_days=0.0
    )
    return float(ran.crossed_days[0]) / 7


def settling() -> Table:
    """Settling from 12% into a room of 7%: two to nine weeks, in the order of specific gravity, between linear and square in
    thickness.
    """
    weeks = {key: settling_weeks(key) for key in SETTLING_WOODS}
    result = [Check(f"{species_named(key).common_name}, 1 in", week, 1.3, 9.5, "weeks", FITTED) for key, week in weeks.items()]
    order = np.argsort([of_species(species_named(key)).wood.specific_gravity for key in weeks])
    steps = np.diff(np.log(np.array(list(weeks.values()))[order]))
    result.append(Check("Least step in the order of gravity (ln)", float(steps.min()), -0.05, 1.0, "", HELD_OUT))
    for key in ("yellow_poplar", "white_oak"):
        result.append(
            Check(
                f"{species_named(key).common_name}: 8/4 against 4/4", settling_weeks(key, 0.0508) / weeks[key], 2.0, 4.0, "times", HELD_OUT
            )
        )
    return Table("Settling in a room", "practice; two to nine weeks", tuple(result))


CALENDAR = (5, 5, 10, 20, 25, 30, 30, 30, 25, 20, 10, 5)


@lru_cache(maxsize=1)
def _months_of_cold_winter() -> tuple[AirSeries, ...]:
    year = pattern("cold_winter")

    def all_year(column: tuple[float, ...], month: int) -> tuple[float, ...]:
        return (column[month],) * 12

    return tuple(
        Climate(
            all_year(year.temperature_c, month),
            all_year(year.relative_humidity, month),
            all_year(year.wind_m_s, month),
            all_year(year.daily_swing_c, month),
        ).year
        for month in range(12)
    )


def calendar() -> Table:
    """Effective drying days a month in an upper-midwestern climate, July and its neighbours counting thirty."""
    usual, speeds = Stack(methods.WINDS["usual"], width_m=1.5), []
    for key in ("northern_red_oak", "yellow_poplar", "sugar_maple"):
        wood = of_species(species_named(key)).wood
        days = np.array(
            [
                field.dry_many(wood, FOUR_QUARTER_GREEN_M, 0.6, field.driven(air, usual), 3000, target=0.25, enough_days=0.0).crossed_days[
                    0
                ]
                for air in _months_of_cold_winter()
            ]
        )
        speeds.append(30 * days[5:8].mean() / days)
    effective = np.mean(speeds, axis=0)
    result = [
        Check(name, float(got), wanted - 5, wanted + 5, "days", FITTED)
        for name, got, wanted in zip(climate.MONTHS, effective, CALENDAR, strict=True)
    ]
    return Table("Effective drying days", "Air Drying of Lumber, AH-402 (confidence low to medium)", tuple(result))


def stacking() -> Table:
    """What thinner stickers and a wider stack cost, and that warmth alone never slows a yard."""
    result = []
    for key in ("northern_red_oak", "sugar_maple", "yellow_poplar", "loblolly_pine"):
        species = species_named(key)
        wood = of_species(species).wood

        def days(width_m: float = 1.524, sticker_m: float = 0.019, species: Species = species, wood: field.Wood = wood) -> float:
            return calibration.yard_days(species, wood.permeability, 130, Stack(methods.WINDS["usual"], width_m, sticker_m), wood.factor)

        usual = days()
        result.append(
            Check(f"{species.common_name}: stickers 1/2 instead of 3/4 in", (days(sticker_m=0.0127) / usual - 1) * 100, 10, 50, "%", FITTED)
        )
        result.append(
            Check(f"{species.common_name}: 10 ft wide instead of 5", (days(width_m=3.048) / usual - 1) * 100, 20, 60, "%", FITTED)
        )
        warmer = [
            field.dry_many(
                wood,
                FOUR_QUARTER_GREEN_M,
                0.6,
                field.driven(constant(t, 0.7, 3.5), Stack(methods.WINDS["usual"])),
                3000,
                target=0.25,
                enough_days=0.0,
            ).crossed_days[0]
            for t in (-5, 0, 5, 10, 20, 30)
        ]
        result.append(
            Check(f"{species.common_name}: dearest step of warmth", float(np.max(np.diff(np.log(warmer)))), -9, 0, "ln", HELD_OUT)
        )
        by_place = dry_by_place(wood, FOUR_QUARTER_GREEN_M, 0.6, climate.pattern("four_seasons").year.starting(105), Stack(0.13, 1.8), 400)
        edge, heart = by_place.arrival(0.20)[[0, by_place.places.size // 2]]
        result.append(Check(f"{species.common_name}: heart after edge, 6 ft wide", float(heart / edge - 1) * 100, 1, 30, "%", HELD_OUT))
    return Table("Stacks", "practice: tens of percent, not multiples", tuple(result))


def frozen() -> Table:
    """What goes at −10°C against +20°C in air of one humidity from wet wood, and how much longer wood that holds bound water alone takes
    just below the freezing point than just above it."""
    result = []
    for key in ("white_oak", "yellow_poplar", "eastern_white_pine"):
        wood, name = of_species(species_named(key)).wood, species_named(key).common_name
        cold, warm = (
            0.60 - field.dry(wood, FOUR_QUARTER_GREEN_M, 0.60, field.driven(constant(t, 0.6, 3.0), Stack(0.13)), 10, out_days=[10]).mean[0]
            for t in (-10.0, 20.0)
        )
        result.append(Check(f"{name}, wet", float(cold / warm), 0.0, 0.10, "of the loss at +20", FITTED))
        below, above = (
            field.dry(wood, FOUR_QUARTER_GREEN_M, 0.08, field.driven(constant(t, 0.75), OpenBoard()), 2000, target=0.10).crossed_day
            for t in (-1.0, 1.0)
        )
        assert below is not None
        assert above is not None
        result.append(Check(f"{name}, 8 to 10% at −1 against +1°C", below / above, 1.0, 1.5, "times as long", FITTED))
    return Table("Frozen wood", "practice: frost all but stops it while it is wet; bound water does not freeze", tuple(result))
