"""A load over its days on one axis: what the chamber is set to and holds, the wood's moisture, and the stress in it."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from calm_heron.kiln.planning import LoadPlan, LoadToRun
from calm_heron.questions.tools import Put, Reader
from calm_heron.site.dates import short_day
from calm_heron.site.drawing import MoistureScale, Scale, Tick, band, moisture_ticks, path, spread_labels
from wood.air.psychrometrics import wet_bulbs_c
from wood.kiln.plans import Planned
from wood.kiln.stress import Prongs
from wood.units import System, from_fahrenheit, to_fahrenheit
from wood.written import written_temperature

WIDE, NARROW = 620, 380
LEFT, RIGHT, GAP, ABOVE = 46, 74, 26, 18
AIR_HIGH, WOOD_HIGH, STRESS_HIGH, BELOW = 100, 170, 80, 28
POINTS = 160


@dataclass(frozen=True)
class NamedLine:
    """A line with its name at its end."""

    css: str
    d: str
    label: str = ""
    x: float = 0.0
    y: float = 0.0


@dataclass(frozen=True)
class LoadPanel:
    """One of the drawings over the days: its edges, its lines, and what stands along its side."""

    top: float
    bottom: float
    name: str
    lines: list[NamedLine]
    areas: list[str]
    up: list[Tick]
    level: float | None = None


@dataclass(frozen=True)
class Dot:
    """A weight that was taken, or a reading: a place in the drawing."""

    x: float
    y: float
    css: str = "taken"


@dataclass(frozen=True)
class LoadDrawing:
    width: int
    height: int
    left: float
    right: float
    panels: list[LoadPanel]
    steps: list[float]
    across: list[Tick]
    dots: list[Dot]
    happened: list[Tick]
    today: float | None
    summary: str


def load_drawing(put: Put[LoadToRun], plan: LoadPlan, reader: Reader, narrow: bool) -> LoadDrawing:
    """A planned load."""
    return drawing(put.question, plan.planned, reader.system, NARROW if narrow else WIDE)


def drawing(
    load: LoadToRun,
    planned: Planned,
    system: System,
    width: int = WIDE,
    *,
    dots: Sequence[tuple[float, float]] = (),
    air: Sequence[tuple[float, float, float]] = (),
    today: float | None = None,
    happened: Sequence[tuple[float, str]] = (),
) -> LoadDrawing:
    """The load as it would run.

    Args:
        dots: samples as they were weighed, day and moisture; air: the chamber as it was read, day, dry and wet bulb in °C; today: the day
        it is, counted from the first; happened: what was noted, by
            its day.
    """
    ran = planned.ran
    days = max(ran.hours / 24, today or 0.0, 1.0)
    right = width - RIGHT
    x = Scale(0.0, days, LEFT, right)
    at = np.unique(np.linspace(0, ran.hours - 1, POINTS).astype(int))
    along = [x(float(hour + 1) / 24) for hour in at]
    tops = (ABOVE, ABOVE + AIR_HIGH + GAP, ABOVE + AIR_HIGH + WOOD_HIGH + 2 * GAP)
    panels = [
        _air(planned, at, along, tops[0], system, air, x),
        _wood(load, planned, at, along, tops[1], x),
        *([] if _has_no_stress(planned) else [_stress(planned, x, tops[2])]),
    ]
    height = round(panels[-1].bottom + BELOW)
    begins = [0.0, *np.cumsum(ran.step_days())]
    step = next((size for size in (1, 2, 5, 7, 14, 30, 61, 91) if days / size <= (7 if width == WIDE else 4)), 120)
    across = [Tick(x(day), short_day(load.day(day))) for day in range(0, int(days) + 1, step)]
    scale = _wood_scale(load, planned, tops[1])
    taken = [Dot(x(day), scale(max(moisture, 0.0))) for day, moisture in dots]
    return LoadDrawing(
        width,
        height,
        LEFT,
        right,
        panels,
        sorted({round(x(float(item)), 1) for item in begins[1:-1]}),
        across,
        taken,
        [Tick(x(day), said) for day, said in happened if 0 <= day <= days],
        x(today) if today is not None else None,
        f"Over {days:.0f} days: the chamber’s air, the wood’s moisture and the stress in it.",
    )


def _air(planned: Planned, at: Any, along: Any, top: float, system: System, read: Any, x: Scale) -> LoadPanel:
    ran = planned.ran
    dry = ran.temperature_c[at]
    wet = wet_bulbs_c(np.clip(dry, -40.0, 95.0), np.clip(ran.humidity[at], 0.01, 1.0))
    high = max(float(dry.max()), 40.0) * 1.06
    y = Scale(0.0, high, top + AIR_HIGH, top)
    lines = [
        NamedLine(
            "thread main", path([(a, y(float(v))) for a, v in zip(along, dry, strict=True)]), "dry bulb", along[-1], y(float(dry[-1]))
        ),
        NamedLine(
            "thread", path([(a, y(float(v))) for a, v in zip(along, wet, strict=True)]), "wet bulb", along[-1], y(float(wet[-1])) + 10
        ),
    ]
    if read:
        lines.append(NamedLine("thread thin", path([(x(day), y(max(dry_c, 0.0))) for day, dry_c, _ in read])))
        lines.append(NamedLine("thread thin", path([(x(day), y(max(wet_c, 0.0))) for day, _, wet_c in read])))
    ticks = [Tick(y(value), written_temperature(value, system)) for value in round_degrees(high, system)]
    return LoadPanel(top, top + AIR_HIGH, "The chamber", lines, [], ticks)


def round_degrees(highest_c: float, system: System) -> list[float]:
    """Where an axis of temperatures from 0°C on has its ticks (°C): at round degrees of the reader's own scale."""
    if system.temperature != "F":
        return [float(value) for value in range(0, int(highest_c) + 1, 20 if highest_c < 90 else 25)]
    return [from_fahrenheit(float(value)) for value in range(50, int(to_fahrenheit(highest_c)) + 1, 50 if highest_c > 50 else 25)]


def _wood_scale(load: LoadToRun, planned: Planned, top: float) -> MoistureScale:
    highest = max(max(board.start for board in planned.ran.boards), float(planned.ran.means.max()))
    return MoistureScale(max(0.0, load.wanted - 0.04), highest, top, top + WOOD_HIGH)


def _wood(load: LoadToRun, planned: Planned, at: Any, along: Any, top: float, x: Scale) -> LoadPanel:
    ran = planned.ran
    y = _wood_scale(load, planned, top)
    means = ran.means[:, at]
    wettest, driest, half = means.max(axis=0), means.min(axis=0), ran.wettest_half[at]

    def points(values: Any) -> list[tuple[float, float]]:
        return [(a, y(float(v))) for a, v in zip(along, values, strict=True)]

    ends = spread_labels([y(float(values[-1])) for values in (wettest, half, driest)], 15.0, top, top + WOOD_HIGH + 15)
    lines = [
        NamedLine("thread", path(points(wettest)), "wettest", along[-1], ends[0]),
        NamedLine("thread main", path(points(half)), "wettest half", along[-1], ends[1]),
        NamedLine("thread", path(points(driest)), "driest", along[-1], ends[2]),
    ]
    lowest = max(0.0, load.wanted - 0.04)
    return LoadPanel(
        top,
        top + WOOD_HIGH,
        "Its samples",
        lines,
        [band(points(wettest), points(driest))],
        moisture_ticks(lowest, y.highest, y),
        y(load.wanted),
    )


def _has_no_stress(planned: Planned) -> bool:
    return planned.lots[0].species.shrinkage_tangential is None or planned.lots[0].species.specific_gravity is None


def _stress(planned: Planned, x: Scale, top: float) -> LoadPanel:
    ran, board = planned.ran, planned.middle_of(planned.lots[0].name)
    shell, core = ran.shell_and_core(board)
    at = np.unique(np.linspace(0, shell.size - 1, POINTS).astype(int))
    most = max(1.0, float(np.abs(shell).max()), float(np.abs(core).max()))
    y = Scale(-most, most, top + STRESS_HIGH, top)
    along = [x(float(ran.kept_hours[k] + 1) / 24) for k in at]
    lines = [
        NamedLine(
            "thread main", path([(a, y(float(shell[k]))) for a, k in zip(along, at, strict=True)]), "skin", along[-1], y(float(shell[-1]))
        ),
        NamedLine(
            "thread", path([(a, y(float(core[k]))) for a, k in zip(along, at, strict=True)]), "core", along[-1], y(float(core[-1])) - 8
        ),
    ]
    ticks = [Tick(y(0.8 * most), "pulled"), Tick(y(0.0), "0"), Tick(y(-0.8 * most), "pressed")]
    return LoadPanel(top, top + STRESS_HIGH, "Stress", lines, [], ticks, y(0.0))


def prongs(reading: Prongs) -> str:
    """A section with two prongs as they stand, in a box of 100 by 70: its outline."""
    lean = {Prongs.STRAIGHT: 0.0, Prongs.IN: 7.0, Prongs.TOUCH: 15.0, Prongs.OUT: -7.0}[reading]
    upper = f"M90 9H70C50 9 30 {9 + lean / 3:.1f} 10 {9 + lean:.1f}V{20 + lean:.1f}C30 {20 + lean / 3:.1f} 50 20 70 20"
    lower = f"V50C50 50 30 {50 - lean / 3:.1f} 10 {50 - lean:.1f}V{61 - lean:.1f}C30 {61 - lean / 3:.1f} 50 61 70 61H90Z"
    return upper + lower
