"""The damage rule and daily losses against published schedules and safe rates."""

from dataclasses import dataclass

import numpy as np

from wood.air import rooms
from wood.air.climate import AirSeries, pattern
from wood.checks.tables import FITTED, HELD_OUT, Check, Table
from wood.drying import defects, field, methods
from wood.drying.diffusivity import of_species
from wood.errors import WoodError
from wood.kiln import schedules
from wood.sizes import EIGHT_QUARTER_GREEN_M, FOUR_QUARTER_GREEN_M
from wood.species import species_named
from wood.stacks.air import OpenBoard, Stack
from wood.tables import rows


@dataclass(frozen=True)
class Charge:
    """Green wood through a schedule: its history, and the air's temperature at each of its moments."""

    history: field.History
    temperature_c: np.ndarray


def load(key: str, thickness_m: float, code: str) -> Charge:
    """Run green wood through a kiln schedule, hour by hour.

    Raises:
        WoodError: a schedule or a figure that is not known, or air that would not dry it.
    """
    figures = of_species(species_named(key))
    steps = schedules.steps(code)
    ran = schedules.run(figures.wood, thickness_m, figures.green_moisture, steps)
    hours = np.maximum(np.round(np.array(ran.step_days) * 24).astype(int), 0)
    temperature, humidity = (np.repeat([getattr(step, name) for step in steps], hours) for name in ("dry_bulb_c", "relative_humidity"))
    last = np.full(24, 1.0)
    air = AirSeries(
        np.concatenate([temperature, last * temperature[-1]]),
        np.concatenate([humidity, last * humidity[-1]]),
        np.full(temperature.size + 24, schedules.AIR_SPEED_M_S),
    )
    exposure = Stack(1.0, schedules.LOAD_WIDTH_M, schedules.STICKER_M, forced=True)
    days = temperature.size / 24
    looks = np.linspace(0, 1, 240) ** 1.7 * days
    history = field.dry(
        figures.wood,
        thickness_m,
        figures.green_moisture,
        field.driven(air, exposure, resolution_hours=1.0),
        days,
        out_days=looks,
        tolerance=1e-4,
    )
    return Charge(history, air.temperature_c[air.at(looks)])


def harsher(code: str, depression: int = 2, temperature: int = 1) -> str:
    """A schedule code with its depression and temperature classes raised.

    >>> harsher("T4-D2")
    'T5-D4'
    """
    dry, wet = code.split("-")
    return f"T{min(int(dry[1:]) + temperature, 14)}-{wet[0]}{min(int(wet[1]) + depression, 8)}"


def damage(every: int = 1) -> Table:
    """Surface checks: green wood on its own schedule, on a harsher one, and white oak carried to four places."""
    results, rises = [], []
    keys = [row["key"] for row in rows("kiln_schedules")]
    for key in keys[::every]:
        for name, thickness in (("4/4", FOUR_QUARTER_GREEN_M), ("8/4", EIGHT_QUARTER_GREEN_M)):
            try:
                code = schedules.code_for(key, thickness)
                own, hard = (load(key, thickness, item) for item in (code, harsher(code)))
                at_home, abroad = (
                    defects.surface_check(item.history, species_named(key), thickness, item.temperature_c) for item in (own, hard)
                )
            except WoodError:
                continue
            results.append(Check(f"{species_named(key).common_name}, {name}, {code}", at_home.worst, 0.0, 1.0, "", FITTED))
            rises.append(abroad.worst > 1)
    results.append(
        Check(
            "Share of them above 1 two depression classes and one temperature class harsher", float(np.mean(rises)), 0.45, 1.0, "", FITTED
        )
    )
    for name, place, low, high in (
        ("a heated winter room", methods.Setting(rooms.room(pattern("four_seasons").year, rooms.WORKSHOP), OpenBoard(1.0)), 2.0, 9.0),
        ("a breezy spring yard", _yard("breezy"), 0.5, 2.0),
        ("a usual spring yard", _yard("usual"), 0.4, 1.0),
        ("a sheltered spring stack", _yard("sheltered"), 0.0, 0.5),
    ):
        results.append(Check(f"White oak, green, 4/4, in {name}", _oak(place), low, high, "", HELD_OUT))
    return Table(
        "Checks in the faces",
        "AH-188 schedules as the limit of what is safe",
        tuple(results),
        may_fail=2,
        note="Woods whose skin stays wet for days do not reach 1 on a harsher schedule: what limits those is not checking.",
    )


def _yard(wind: str) -> methods.Setting:
    return methods.setting(methods.YARD, pattern("four_seasons").year.starting(110), wind=wind)


def _oak(place: methods.Setting) -> float:
    oak, figures = species_named("white_oak"), of_species(species_named("white_oak"))
    looks = np.linspace(0, 1, 160) ** 1.7 * 60
    ran = field.dry(figures.wood, FOUR_QUARTER_GREEN_M, figures.green_moisture, place.drive(), 60, out_days=looks)
    return defects.surface_check(ran, oak, FOUR_QUARTER_GREEN_M, place.series.temperature_c[place.series.at(looks)]).worst


def losses() -> Table:
    """The mean loss until a third of the water is gone, on the species' own schedule, beside the published safe rate."""
    result = []
    for row in rows("safe_rates"):
        first = load(row["key"], FOUR_QUARTER_GREEN_M, schedules.code_for(row["key"], FOUR_QUARTER_GREEN_M))
        risk = defects.surface_check(first.history, species_named(row["key"]), FOUR_QUARTER_GREEN_M, first.temperature_c)
        ratio = risk.cause["loss"] / risk.cause["safe"]
        result.append(Check(species_named(row["key"]).common_name, ratio, 0.6, 1.25, "of the safe rate", HELD_OUT))
    return Table("Daily loss on the own schedule", "AH-188 safe rates (fitted to neither)", tuple(result), may_fail=2)
