"""Stacks that stand: what lies in them, how they are doing by place, and which are ready to move."""

from dataclasses import dataclass, replace
from datetime import date, datetime, time, timedelta
from typing import Any

import numpy as np
from django.db.models import Max
from django.utils import timezone

from calm_heron.drying import methods
from calm_heron.drying import queries as drying
from calm_heron.measuring import queries as measuring
from calm_heron.measuring.models import PieceMoisture
from calm_heron.site.memory import Memory, digest_of
from calm_heron.stacks.actions import CameOut
from calm_heron.stacks.kinds import Cover, StackHappened, StickersOf
from calm_heron.stacks.models import Stack
from calm_heron.stacks.planning import AIR_DRY, IN_THE_RAIN, LETS_THROUGH, USUAL_STICKERS_MOISTURE, figures_of, first_weeks, in_the_rain
from calm_heron.stock.models import LotPart, Piece
from calm_heron.workshops.models import Workshop
from wood.air.climate import AirSeries, dampened
from wood.drying.diffusivity import Figures
from wood.drying.learning import Learned
from wood.drying.methods import WINDS, Setting
from wood.measuring.readings import Bound
from wood.stacks import air as airflow
from wood.stacks import breaches, pile, stickers
from wood.stacks.breaches import FoundBreach
from wood.stacks.by_place import ByPlace, dry_by_place
from wood.stacks.pile import Load, Pile

AHEAD_DAYS, STEPS, LONGEST_DAYS = 400, 60, 1500
LEAST = 0.02
# By how much of what air lacks to be saturated it is damper while that lasts.
WETS = {StackHappened.RAIN: 1.0, StackHappened.UNCOVERED: IN_THE_RAIN}
# Readings across a stack speak for it so long, where they lie so far apart (a fraction; our judgement).
READ_GOOD_FOR, APART = timedelta(days=14), 0.03
PARTS = ((LotPart.OUTER, "outside"), (LotPart.MIDDLE, "half way in"), (LotPart.DEEP, "deep inside"))


@dataclass(frozen=True)
class Progress:
    """A stack from the day it was built on: its moisture now at the edge and in the heart, and the days from now until the heart is at 20%
    (infinite: never).

    ``pace`` is how much faster than usual its own readings have it dry, None where too few were taken to say.
    """

    by_place: ByPlace
    days: float
    edge: float
    middle: float
    middle_in_days: float
    pace: float | None = None

    @property
    def is_ready(self) -> bool:
        """Whether its heart is air-dry."""
        return self.middle <= AIR_DRY

    def mean_on(self, days: float) -> float:
        """The mean of its boards so many days after it was built."""
        return float(np.interp(days, self.by_place.days, self.by_place.whole))


@dataclass(frozen=True)
class Read:
    """What was read of its boards, by where they lie in it, and when the newest of them was."""

    part: LotPart
    where: str
    moisture: float
    count: int
    at: datetime

    @property
    def is_fresh(self) -> bool:
        return timezone.now() - self.at <= READ_GOOD_FOR


@dataclass(frozen=True)
class LotInStack:
    """A lot of a stack: how it is doing by the model, None where that is not known, and its moisture today: read and carried on by the
    model, else as the model has it, else as it was when it was stacked."""

    piece: Piece
    progress: Progress | None
    moisture: float
    was_read: bool

    @property
    def came_out(self) -> CameOut:
        """What it is at, were it taken out now: by as much drier at the edges and wetter in the middle as the model has it."""
        if self.progress is None:
            return CameOut(self.moisture)
        mean = self.progress.mean_on(self.progress.days)
        edge, middle = (max(self.moisture + place - mean, LEAST) for place in (self.progress.edge, self.progress.middle))
        return CameOut(self.moisture, min(edge, middle), max(edge, middle))


@dataclass(frozen=True)
class StackNow:
    """A stack as it is shown: its pile, each lot by itself, and what was read of sample boards.

    The slowest lot governs: ``progress`` is that of the lot whose heart is air-dry last, None where that of any lot is not known.
    """

    stack: Stack
    lots: list[LotInStack]
    pile: Pile | None
    read: list[Read]
    breaches: list[FoundBreach]

    @property
    def pieces(self) -> list[Piece]:
        return [lot.piece for lot in self.lots]

    @property
    def slowest(self) -> LotInStack | None:
        """The lot that is air-dry last."""
        known = [(lot.progress.middle_in_days, lot.progress.middle, number) for number, lot in enumerate(self.lots) if lot.progress]
        return self.lots[max(known)[2]] if known and len(known) == len(self.lots) else None

    @property
    def progress(self) -> Progress | None:
        return self.slowest.progress if self.slowest else None

    @property
    def differ(self) -> bool:
        """Whether its lots dry so differently that each is told by itself."""
        hearts = [lot.progress.middle for lot in self.lots if lot.progress]
        return len(hearts) > 1 and max(hearts) - min(hearts) >= 0.005

    @property
    def read_across(self) -> tuple[float, float] | None:
        """What sample boards read at the edge and deep inside lately, where these differ: measured goes before modelled."""
        by_part = {reading.part: reading for reading in self.read if reading.is_fresh}
        outer, deep = by_part.get(LotPart.OUTER), by_part.get(LotPart.DEEP)
        return (outer.moisture, deep.moisture) if outer and deep and abs(outer.moisture - deep.moisture) >= APART else None

    @property
    def is_ready(self) -> bool:
        """Whether every lot's heart is air-dry, by the model and, where boards were read deep inside lately, by these."""
        deep = [reading.moisture for reading in self.read if reading.part == LotPart.DEEP and reading.is_fresh]
        return self.progress is not None and self.progress.is_ready and all(moisture <= AIR_DRY for moisture in deep)

    @property
    def days(self) -> int:
        """How many days it has stood."""
        return (timezone.localdate() - self.stack.built_on).days

    @property
    def foretold_days(self) -> float | None:
        """In how many days after it was built the middle of its slowest lot is air-dry; None: not known, or never."""
        if self.progress is None or not np.isfinite(self.progress.middle_in_days):
            return None
        return self.progress.middle_in_days + self.days


def stacks_of(workshop: Workshop) -> list[Stack]:
    """The stacks that stand, oldest first."""
    return list(Stack.objects.of(workshop).filter(standing=True).select_related("place").order_by("built_on", "tag"))


def down_of(workshop: Workshop) -> list[tuple[Stack, datetime]]:
    """The stacks that were taken down and when, the latest first."""
    rows = Stack.objects.of(workshop).filter(standing=False).annotate(down_at=Max("lots__out_at")).filter(down_at__isnull=False)
    return [(stack, stack.down_at) for stack in rows.order_by("-down_at", "tag")]


def now(stack: Stack) -> StackNow:
    """A stack as it is today."""
    pieces = [lot.piece for lot in stack.lots.filter(standing=stack.standing).select_related("piece").order_by("piece__tag")]
    known = PieceMoisture.objects.filter(bound=Bound.NONE).in_bulk([piece.pk for piece in pieces], field_name="piece_id")
    loads = [
        Load(
            piece.tag,
            piece.species,
            piece.thickness_m,
            piece.width_m,
            piece.length_m,
            piece.count,
            known[piece.pk].mean if piece.pk in known else stack.start_moisture,
        )
        for piece in pieces
    ]
    lots = [_lot(stack, piece, progress(stack, load, pieces), known.get(piece.pk)) for piece, load in zip(pieces, loads, strict=True)]
    built = _pile(stack, loads)
    return StackNow(stack, lots, built, _read(pieces), _broken(stack, built) if built and stack.standing else [])


def _broken(stack: Stack, built: Pile) -> list[FoundBreach]:
    """The rules that it breaks, as far as somebody said how it is built: where nobody did, a bearer stands under each line of stickers."""
    outdoors = stack.place.traits.is_outdoors
    bearers = stickers.lines(built.length_m, pile.BEARER_WIDTH_M, stack.bearers_m) if stack.bearers_m else built.lines_m
    return breaches.breaches(
        built,
        bearers,
        USUAL_STICKERS_MOISTURE,
        overhang_m=stack.overhang_m or 0.0,
        next_m=stack.next_m,
        dark_stickers=stack.stickers_of == StickersOf.DARK,
        roofed=not outdoors or stack.cover != Cover.NONE,
        shaded=stack.cover in (Cover.SHADE, Cover.TARP),
        outdoors_c=_warmth(stack) if outdoors else None,
    )


def _warmth(stack: Stack) -> float | None:
    """How warm the days about today are where it stands; None where nobody knows."""
    around = drying.surroundings([stack.place], f"place-{stack.place_id}", methods.named(methods.USUAL), timezone.localdate())
    return float(first_weeks(around.setting.series).temperature_c.mean()) if isinstance(around, drying.Surroundings) else None


def _lot(stack: Stack, piece: Piece, progress: Progress | None, known: PieceMoisture | None) -> LotInStack:
    """A lot with its moisture today. What was read since it was stacked is carried on by as much as the model loses from then on."""
    modelled = progress.mean_on(progress.days) if progress else stack.start_moisture
    read_on = timezone.localdate(known.at) if known else None
    if known is None or read_on is None or read_on < stack.followed_from:
        return LotInStack(piece, progress, modelled, was_read=False)
    then = progress.mean_on(float((read_on - stack.followed_from).days)) if progress else modelled
    return LotInStack(piece, progress, max(known.mean + modelled - then, LEAST), was_read=True)


def _pile(stack: Stack, loads: list[Load]) -> Pile | None:
    if not loads:
        return None
    main = max(loads, key=lambda load: load.volume_m3)
    usual = stickers.usual(main.species, main.thickness_m, stack.start_moisture)
    taken = stickers.Stickers(stack.sticker_m, usual.width_m, stack.spacing_m, usual.closest_m, usual.farthest_m, usual.rule)
    return pile.pile(loads, max(stack.width_m, *(load.width_m for load in loads)), taken, clear_m=stack.clear_m)


_progress: Memory[ByPlace] = Memory(128)


def progress(stack: Stack, main: Load, pieces: list[Piece]) -> Progress | None:
    """A lot of a stack by the model: from the day it was built on, in its place's year, at the pace that its own wood's readings have
    taught; None where the place's air or the wood's pace is not known. The whole stack is taken to be of such boards (our judgement: what
    quick boards give off in the first weeks is gone while the slow ones dry)."""
    figures = figures_of(main.species)
    around = drying.surroundings([stack.place], f"place-{stack.place_id}", methods.named(methods.USUAL), stack.followed_from)
    if figures is None or not isinstance(around, drying.Surroundings):
        return None
    spent = float((timezone.localdate() - stack.followed_from).days)
    if not 0 <= spent <= LONGEST_DAYS - AHEAD_DAYS:
        return None
    series: AirSeries = around.setting.series
    if stack.cover == "none":
        series = in_the_rain(series)
    share = WINDS["usual"] * LETS_THROUGH.get(stack.cover, 1.0) if around.outdoors else 0.4
    there = airflow.Stack(share, min(stack.width_m, 6.0), stack.sticker_m, turned=stack.turned)
    days = spent + AHEAD_DAYS
    series = dampened(series, days, _wetted(stack))
    usual = figures.wood.factor
    figures = drying.with_own_pace(figures, _learnt(stack, pieces, figures, main, replace(around, setting=Setting(series, there))))
    pace = figures.wood.factor / usual if figures.wood.factor != usual else None
    start = min(stack.start_moisture, figures.wood.greatest_moisture)
    key = (digest_of((figures.wood, there)), digest_of(series), round(main.thickness_m, 5), start, days)
    ran = _progress.get(
        key, lambda: dry_by_place(figures.wood, main.thickness_m, start, series, there, days, step_days=min(days / STEPS, 10.0))
    )
    middle = ran.places.size // 2
    edge_now, middle_now = (float(np.interp(spent, ran.days, ran.means[:, place])) for place in (0, middle))
    return Progress(ran, spent, edge_now, middle_now, float(ran.arrival(AIR_DRY)[middle]) - spent, pace)


def _wetted(stack: Stack) -> list[tuple[float, float, float]]:
    """What wetted it, in days since it was built, and by how much of what the air lacks: rain all of it."""
    begins = timezone.make_aware(datetime.combine(stack.followed_from, time.min))
    return [
        ((event.at - begins).total_seconds() / 86_400, (event.ended - begins).total_seconds() / 86_400, WETS[StackHappened(event.kind)])
        for event in stack.events.standing().filter(kind__in=list(WETS)).order_by("at", "pk")
    ]


def _learnt(stack: Stack, pieces: list[Piece], figures: Figures, main: Load, around: drying.Surroundings) -> Learned | None:
    """What the readings of its lots and of their sample boards, since it was built, say of its pace: those of a day count as one."""
    lots = [piece for piece in pieces if piece.species.key == main.species.key and abs(piece.thickness_m - main.thickness_m) < 1e-4]
    boards = [*lots, *Piece.objects.filter(lot__in=lots)]
    since = timezone.make_aware(datetime.combine(stack.followed_from, time.min))
    by_day: dict[date, list[float]] = {}
    for rows in measuring.daily_means(boards, since).values():
        for day, moisture in rows:
            by_day.setdefault(day, []).append(moisture)
    days = tuple(sorted(by_day))
    means = tuple(sum(by_day[day]) / len(by_day[day]) for day in days)
    return drying.learnt(days, means, figures, main.thickness_m, around) if days else None


def _read(pieces: list[Piece]) -> list[Read]:
    """The newest readings of its lots' sample boards, by where these lie."""
    rows = PieceMoisture.objects.filter(piece__lot__in=pieces, bound=Bound.NONE).select_related("piece")
    by_part: dict[str, list[PieceMoisture]] = {}
    for row in rows:
        by_part.setdefault(row.piece.part, []).append(row)
    read = []
    for part, words in PARTS:
        of_part = by_part.get(part)
        if of_part:
            mean = sum(row.mean for row in of_part) / len(of_part)
            read.append(Read(part, words, mean, len(of_part), max(row.at for row in of_part)))
    return read


def ready_on(stack: StackNow) -> Any:
    """The day its heart is air-dry, None where it never is or is already."""
    if stack.progress is None or not np.isfinite(stack.progress.middle_in_days) or stack.progress.is_ready:
        return None
    return timezone.localdate() + timedelta(days=int(np.ceil(max(stack.progress.middle_in_days, 0))))
