"""The field against analytic solutions, and days against hours."""

from typing import Any

from wood.air import rooms
from wood.air.climate import constant, pattern
from wood.air.rooms import DWELLING
from wood.checks.tables import HELD_OUT, Check, Table
from wood.drying import field
from wood.drying.diffusivity import of_species
from wood.sizes import FOUR_QUARTER_GREEN_M
from wood.species import species_named
from wood.stacks.air import OpenBoard, Stack


def numerics() -> Table:
    """Days to a target at the default steps against a converged run, over wood, thickness, air and target."""
    woods = {"oak": field.Wood(0.56, 1.0, 0.15), "pine": field.Wood(0.35, 1.0, 0.8), "dense": field.Wood(0.70, 1.0, 0.2)}
    kiln = Stack(1.0, 2.4, forced=True)
    house = rooms.room(pattern("cold_winter").year.starting(330), DWELLING)
    airs = (
        ("yard to 20", field.driven(pattern("four_seasons").year.starting(110), Stack(0.13)), 0.80, 0.20),
        ("yard to 18", field.driven(pattern("cold_winter").year.starting(120), Stack(0.13)), 0.50, 0.18),
        ("kiln 15 to 7", field.driven(constant(71.0, 0.25, 1.8), kiln), 0.15, 0.07),
        ("60°C, 30 to 8", field.driven(constant(60.0, 0.35, 1.8), kiln), 0.30, 0.08),
        ("house 12 to 8.5", field.driven(house, OpenBoard()), 0.12, 0.085),
        ("room 9 to 7.5", field.driven(constant(21.0, 0.33), OpenBoard()), 0.09, 0.075),
        ("gain 7 to 10", field.driven(constant(12.0, 0.75), OpenBoard()), 0.07, 0.10),
    )
    result = []
    usually: dict[str, Any] = {}
    for name, wood in woods.items():
        for thickness in (0.0127, 0.0286, 0.054):
            for air, drive, start, target in airs:
                usual, fine = (
                    field.dry_many(wood, thickness, start, drive, 1500, target=target, enough_days=0.0, **how).crossed_days[0]
                    for how in (usually, {"cells": 90, "tolerance": 4e-6 * abs(start - target), "longest_step_days": 0.1})
                )
                result.append(Check(f"{name}, {thickness * 1000:.0f} mm, {air}", float(usual / fine - 1) * 100, -1.0, 1.0, "%", HELD_OUT))
    return Table("Error of the numerics", "a converged run of the same equations", tuple(result))


def resolution() -> Table:
    """Days against hours: what looking at a stack's air in means of days costs."""
    result = []
    for key in ("northern_red_oak", "yellow_poplar", "eastern_white_pine"):
        figures = of_species(species_named(key))
        series = pattern("four_seasons").year.starting(110)
        by_day, by_hour = (
            field.dry_many(
                figures.wood,
                FOUR_QUARTER_GREEN_M,
                figures.green_moisture,
                field.driven(series, Stack(0.13), 0.0, hours),
                700,
                target=0.20,
                enough_days=0.0,
                tolerance=2e-5,
                longest_step_days=0.1,
            ).crossed_days[0]
            for hours in (24.0, 1.0)
        )
        result.append(Check(species_named(key).common_name, float(by_day / by_hour - 1) * 100, -1.0, 1.0, "%", HELD_OUT))
    return Table("Days against hours", "the same field in hourly air", tuple(result))
