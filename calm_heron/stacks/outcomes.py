"""How stacks and loads went: what was foretold and what came, side by side, from what is kept of each."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import date
from typing import Any

import numpy as np
from django.urls import reverse
from django.utils import timezone

from calm_heron.site.numbers import percent, points
from calm_heron.stacks.models import Stack
from calm_heron.stacks.planning import AIR_DRY
from calm_heron.stock.models import Piece
from calm_heron.workshops.models import Workshop
from wood.sizes import BOARD_FOOT_M3
from wood.units import System

MOST = 200


@dataclass(frozen=True)
class Outcome:
    """A stack or a load from its beginning to its end: days forecast (with the band that eight in ten lie in) and taken, moisture wanted
    and come (fractions; mean, driest and wettest board), wood in and out (m³), and what it took. None: nobody knows."""

    tag: str
    address: str
    where: str
    woods: str
    began: date
    ended: date | None
    taken_days: float
    wanted: float
    in_m3: float
    foretold_days: float | None = None
    foretold_band: tuple[float, float] | None = None
    came: float | None = None
    driest: float | None = None
    wettest: float | None = None
    out_m3: float | None = None
    degrade: str = ""
    water_kg: float | None = None
    power_kwh: float | None = None
    cost: float | None = None
    learnt: str = ""

    @property
    def is_over(self) -> bool:
        return self.ended is not None

    @property
    def spread(self) -> str:
        """Between which moistures its boards came."""
        if self.driest is None or self.wettest is None:
            return ""
        return f"{points(self.driest)} to {percent(self.wettest)}"

    @property
    def times_as_long(self) -> float | None:
        """How many times as long as forecast it took; None where one of the two is not known."""
        return self.taken_days / self.foretold_days if self.is_over and self.foretold_days else None

    @property
    def lost_share(self) -> float | None:
        """The share of its wood that did not come out as good wood."""
        return None if self.out_m3 is None or not self.in_m3 else max(1 - self.out_m3 / self.in_m3, 0.0)


def came(rows: Sequence[tuple[float, float | None, float | None, float | None]]) -> tuple[float | None, float | None, float | None]:
    """Mean, driest and wettest of lots, each as (volume, mean, driest, wettest); None where that of any is not known."""
    means = [(volume, mean) for volume, mean, _, _ in rows if mean is not None]
    if len(means) < len(rows) or not rows:
        return None, None, None
    mean = float(np.average([value for _, value in means], weights=[volume for volume, _ in means]))
    driest, wettest = [low for _, _, low, _ in rows if low is not None], [high for _, _, _, high in rows if high is not None]
    whole = len(driest) == len(wettest) == len(rows)
    return mean, min(driest) if whole else None, max(wettest) if whole else None


def woods_of(pieces: Iterable[Piece]) -> str:
    """The woods of lots, each once."""
    return ", ".join(dict.fromkeys(piece.species.spoken_name for piece in pieces))


def of_stacks(workshop: Workshop) -> list[Outcome]:
    """The stacks of a workshop, those that stand first, then the newest."""
    rows = Stack.objects.of(workshop).select_related("place").prefetch_related("lots__piece").order_by("-standing", "-built_on")[:MOST]
    return [_of(stack, workshop) for stack in rows]


def of_stack(stack: Stack) -> Outcome:
    """One stack as it went."""
    return _of(stack, stack.workshop)


def _of(stack: Stack, workshop: Workshop) -> Outcome:
    lots: list[Any] = list(stack.lots.all())
    out = max((lot.out_at for lot in lots if lot.out_at is not None), default=None)
    ended = None if stack.standing or out is None else timezone.localdate(out)
    mean, driest, wettest = came([] if stack.standing else [(lot.piece.volume_m3, lot.came, lot.driest, lot.wettest) for lot in lots])
    return Outcome(
        stack.tag,
        reverse("stack", args=[workshop.slug, stack.tag]),
        stack.place.name,
        woods_of(lot.piece for lot in lots),
        stack.built_on,
        ended,
        float(((ended or timezone.localdate()) - stack.built_on).days),
        AIR_DRY,
        sum(lot.piece.volume_m3 for lot in lots),
        stack.foretold_days,
        None,
        mean,
        driest,
        wettest,
        stack.out_m3,
        learnt=stack.learnt,
    )


HEADS = (
    "tag",
    "where",
    "wood",
    "began",
    "ended",
    "days forecast",
    "days taken",
    "target %",
    "came %",
    "driest %",
    "wettest %",
    "in",
    "out",
    "degrade",
    "water",
    "power kWh",
    "cost",
    "learnt",
)


def as_rows(outcomes: Iterable[Outcome], system: System) -> list[list[object]]:
    """What a spreadsheet takes: plain numbers, volumes and water in the workshop's units (board feet and pounds, or m³ and kg)."""
    volume_of, mass_of = (BOARD_FOOT_M3, 0.45359237) if system.is_inch else (1.0, 1.0)

    def number(value: float | None, factor: float = 1.0, digits: int = 1) -> float | None:
        return None if value is None or not np.isfinite(value) else round(value * factor, digits)

    return [
        [
            row.tag,
            row.where,
            row.woods,
            row.began.isoformat(),
            row.ended.isoformat() if row.ended else None,
            number(row.foretold_days),
            number(row.taken_days),
            number(row.wanted, 100),
            number(row.came, 100),
            number(row.driest, 100),
            number(row.wettest, 100),
            number(row.in_m3, 1 / volume_of, 3),
            number(row.out_m3, 1 / volume_of, 3),
            row.degrade or None,
            number(row.water_kg, 1 / mass_of),
            number(row.power_kwh),
            number(row.cost, 1.0, 2),
            row.learnt or None,
        ]
        for row in outcomes
    ]


def heads(system: System) -> list[str]:
    """What stands over those columns."""
    volume, mass = ("bd ft", "lb") if system.is_inch else ("m3", "kg")
    return [{"in": f"in {volume}", "out": f"out {volume}", "water": f"water {mass}"}.get(head, head) for head in HEADS]
