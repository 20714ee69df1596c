"""Loads that run: what their samples say, which step holds, what to set now, how it goes on, and what is wrong."""

import math
from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from typing import Any

import numpy as np
from django.db.models import Avg, F, Max, Min, Prefetch, Sum
from django.db.models.functions import Extract, Floor
from django.utils import timezone

from calm_heron.kiln.models import Load, LoadEvent, Sample, SampleWeight
from calm_heron.kiln.planning import LoadToRun, filled, outdoors_of, planned
from calm_heron.kiln.runs import alarms
from calm_heron.site.memory import Memory, digest_of
from calm_heron.stacks.planning import figures_of
from calm_heron.workshops.models import Workshop
from wood.air.psychrometrics import wet_bulbs_c
from wood.drying import defects
from wood.errors import NotKnown
from wood.kiln import following, programs, samples
from wood.kiln.disturbances import Disturbance
from wood.kiln.following import Forecast, Weighed
from wood.kiln.loads import Followed
from wood.kiln.plans import Planned
from wood.kiln.programs import Care, Program, Setting
from wood.kiln.samples import Doubt
from wood.kiln.schedules import Step
from wood.kiln.sharing import Lot, boards_of, lead_first, program_of

# A sample this far off what the model expects of it, once that has been fitted to all of them.
OFF_MODEL = 0.06
LEAST = 0.02
# What is drawn of a chamber is a point an hour, and no more stretches of hours than so many.
MOST_STRETCHES = 250
FROM_THE_FIELD = "field"


@dataclass(frozen=True)
class SampleNow:
    """A sample today: its moistures in order as (day, moisture), its daily loss against the safe one, and what is wrong with it (a code,
    empty: nothing).
    """

    sample: Sample
    rows: tuple[tuple[float, float], ...]
    loss: float | None
    safe: float | None
    doubt: str

    @property
    def now(self) -> float | None:
        return self.rows[-1][1] if self.rows else None

    @property
    def too_fast(self) -> bool:
        """Whether it loses more than is safe while it is wet."""
        return self.loss is not None and self.safe is not None and self.loss > self.safe and (self.now or 0) > 0.30


@dataclass(frozen=True)
class LoadNow:
    """A load as it is today: its program and which setting holds (a position), the forecast that its weighings fit, its samples, the
    chamber's newest hour, and alarms (codes with data)."""

    load: Load
    question: LoadToRun
    planned: Planned
    forecast: Forecast
    position: int
    samples: list[SampleNow]
    half: float | None
    air: tuple[datetime, float, float] | None
    alarms: list[tuple[str, dict[str, Any]]]
    events: tuple[LoadEvent, ...] = ()

    @property
    def program(self) -> Program:
        return self.planned.program

    @property
    def setting(self) -> Setting | None:
        """What is to be set now; None once the program is over."""
        return self.program.settings[self.position] if self.position < len(self.program.settings) else None

    @property
    def day(self) -> float:
        """How many days it has been followed."""
        return days_since(self.load.followed_from, self.load.ended_at or timezone.now())

    @property
    def days_run(self) -> float:
        """How many days it has run."""
        return days_since(self.load.began_at, self.load.ended_at or timezone.now())

    @property
    def ends_in_days(self) -> float:
        """Days until the forecast has it done; infinite: not within what is looked at."""
        return max(self.forecast.ran.days - self.day, 0.0)


def days_since(began: datetime, moment: datetime) -> float:
    return (moment - began).total_seconds() / 86_400


def loads_of(workshop: Workshop) -> list[Load]:
    """Loads that run, oldest first, then those that are over, newest first."""
    rows = Load.objects.of(workshop).select_related("chamber")
    return [*rows.filter(ended_at=None).order_by("began_at"), *rows.exclude(ended_at=None).order_by("-ended_at")[:30]]


_forecasts: Memory[Forecast] = Memory(64)
_programs: Memory[Program] = Memory(64)


def now(load: Load) -> LoadNow | None:
    """A load as it is; None where its chamber's outdoor air, its schedule or its wood's pace is not known."""
    lots = [_lot(row.piece, row.start) for row in load.lots.select_related("piece").order_by("piece__tag")]
    begun = timezone.localtime(load.followed_from).date()
    around = outdoors_of(load.workshop, begun)
    if not lots:
        return None
    volume = sum(lot.volume_m3 for lot in lots)
    own = tuple(Step(*step) for step in load.steps) or None
    question = LoadToRun(
        tuple(lots),
        load.wanted,
        filled(load.chamber.core, volume),
        around.setting.series,
        around.name,
        begun,
        Care(load.care),
        load.even,
        load.condition,
        own,
        None,
    )
    taken = _samples(load)
    try:
        return _followed(load, question, taken)
    except NotKnown:
        return None


def foretold(load: Load) -> tuple[float, float, float] | None:
    """In how many days after it began a load that begins is done, and between which eight in ten such loads are; None where that is not
    known or it never gets there."""
    current = now(load)
    if current is None:
        return None
    plan = planned(current.question, warmed=load.joined_at is not None)
    before = days_since(load.began_at, load.followed_from)
    days = (plan.ran.days + before, plan.low_days + before, plan.high_days + before)
    return days if all(np.isfinite(days)) else None


def _lot(piece: Any, start: float) -> Lot:
    """A lot as it is followed: from no more water than its wood can hold, and no less than it keeps."""
    figures = figures_of(piece.species)
    most = figures.wood.greatest_moisture if figures else 3.0
    return Lot(piece.tag, piece.species, piece.thickness_m, min(max(start, LEAST), most), piece.volume_m3)


def _samples(load: Load) -> list[tuple[Sample, samples.Sample]]:
    """Samples with what they weighed and still counts."""
    results = []
    standing = Prefetch("weights", SampleWeight.objects.standing().order_by("at", "pk"), to_attr="standing_weights")
    ovendried = load.samples.filter(dry_mass_kg__isnull=False)
    for sample in ovendried.select_related("piece").prefetch_related(standing).order_by("tag"):
        weights = [(days_since(load.followed_from, row.at), row.mass_kg) for row in sample.standing_weights]
        results.append(
            (sample, samples.Sample(sample.tag, sample.dry_mass_kg, tuple((min(max(day, -1.0), 4000.0), mass) for day, mass in weights)))
        )
    return results


def _followed(load: Load, question: LoadToRun, taken: list[tuple[Sample, samples.Sample]]) -> LoadNow:
    boards, numbers = _boards(question, taken)
    ordered = lead_first(question.lots, by_schedule=question.own is None)
    program = _programs.get(
        digest_of((ordered, question.wanted, question.chamber, question.care, question.equalise, question.condition, question.own)),
        lambda: program_of(
            ordered,
            question.wanted,
            question.chamber,
            care=question.care,
            equalise=question.equalise,
            condition=question.condition,
            own=question.own,
        ),
    )
    if load.joined_at is not None:
        program = programs.without_warming(program)
    said = samples.load([reading for _, reading in taken]) if taken else None
    doubts = dict(said.doubts) if said else {}
    weighed = [
        Weighed(numbers[sample.pk], day, moisture)
        for sample, reading in taken
        for day, moisture in reading.moistures[1:]
        if doubts.get(reading.tag) in (None, Doubt.MISSING) and -0.5 <= moisture <= 4.0
    ]
    weighed.sort(key=lambda item: item.day)
    events = tuple(load.events.standing().select_related("by").order_by("at", "pk"))
    disturbed = _disturbed(load, events)
    key = digest_of(
        (
            tuple(boards),
            disturbed,
            program.settings,
            question.chamber,
            question.outdoors,
            tuple((weighing.board, round(weighing.day, 3), round(weighing.moisture, 5)) for weighing in weighed),
        )
    )
    forecast = _forecasts.get(key, lambda: following.follow(boards, program, question.chamber, question.outdoors, weighed, disturbed))
    as_run = Planned(ordered, forecast.ran, forecast.ran.days, forecast.ran.days)
    day = days_since(load.followed_from, load.ended_at or timezone.now())
    position = programs.position(program, _looks(taken, doubts), min(max(day, -1.0), 4000.0))
    shown = [_shown(sample, reading, doubts.get(reading.tag), numbers, forecast) for sample, reading in taken]
    air = alarms.newest_air(load)
    result = LoadNow(load, question, as_run, forecast, position, shown, said.wettest_half if said else None, air, [], events)
    return replace(result, alarms=alarms.alarms(result))


def _boards(load: LoadToRun, taken: list[tuple[Sample, samples.Sample]]) -> tuple[list[Followed], dict[int, int]]:
    """The boards that stand for the load, lot by lot: the samples of a lot where it has some, else the usual ones; and which number each
    sample has. Every lot is stood for by its share of the load."""
    whole = sum(lot.volume_m3 for lot in load.lots)
    boards: list[Followed] = []
    numbers: dict[int, int] = {}
    for lot in load.lots:
        share = lot.volume_m3 / whole
        figures = figures_of(lot.species)
        own = [(sample, reading.moistures[0][1]) for sample, reading in taken if sample.piece.tag == lot.name and reading.moistures]
        if figures is None or not own:
            boards += [replace(board, share=board.share * share) for board in boards_of([lot])]
            continue
        most = min(figures.wood.greatest_moisture, 3.0)
        for sample, start in own:
            numbers[sample.pk] = len(boards)
            start = min(max(start, 0.02), most)
            boards.append(Followed(lot.name, lot.species, figures, lot.thickness_m, start, share / len(own)))
    return boards, numbers


def _disturbed(load: Load, events: tuple[LoadEvent, ...]) -> tuple[Disturbance, ...]:
    """What was noted that disturbs its chamber, as it lasted; what goes on lasts to the end of this hour, so that a forecast is good for
    so long."""
    results = []
    for event in events:
        if event.disturbs is None or not (event.goes_on or event.until):
            continue
        began, ended = days_since(load.followed_from, event.at), days_since(load.followed_from, event.ended)
        if event.goes_on:
            ended = math.ceil(ended * 24) / 24
        if ended > 0:
            results.append(Disturbance(event.disturbs, max(began, 0.0), ended))
    return tuple(results)


def _looks(taken: list[tuple[Sample, samples.Sample]], doubts: dict[str, Doubt]) -> list[tuple[float, float, float, float]]:
    """What the samples said at each time they were weighed: day, wettest half, driest, wettest."""
    days = sorted({round(day, 1) for _, reading in taken for day, _ in reading.weights})
    looks = []
    for day in days:
        values = [
            max([moisture for at, moisture in reading.moistures if at <= day + 0.06][-1:][0], 0.0)
            for _, reading in taken
            if doubts.get(reading.tag) in (None, Doubt.MISSING) and any(at <= day + 0.06 for at, _ in reading.moistures)
        ]
        if values:
            looks.append((day, samples.wettest_half(values), min(values), max(values)))
    return looks


def _shown(sample: Sample, item: samples.Sample, doubt: Doubt | None, numbers: dict[int, int], forecast: Forecast) -> SampleNow:
    try:
        safe = defects.safe_rate(sample.piece.species, sample.piece.thickness_m).per_day
    except NotKnown:
        safe = None
    said = doubt.value if doubt else ""
    if not said and sample.pk in numbers and len(item.weights) > 2:
        day, moisture = item.moistures[-1]
        if abs(forecast.expected(Weighed(numbers[sample.pk], day, moisture)) - moisture) > OFF_MODEL:
            said = FROM_THE_FIELD
    return SampleNow(sample, item.moistures, item.daily_loss, safe, said)


@dataclass(frozen=True)
class LotNow:
    """What a lot of a load is at (fractions): in the mean, and its driest and wettest board."""

    mean: float
    driest: float
    wettest: float


def lots_now(load: LoadNow) -> dict[str, LotNow]:
    """What each lot is at, by its tag: as the forecast that its weighings fit has its boards, and where samples of it were weighed, by as
    much more or less as these were at their last weighing."""
    ran = load.forecast.ran
    known = {}
    for lot in load.question.lots:
        own = [number for number, board in enumerate(ran.boards) if board.lot == lot.name]
        shares = [ran.boards[number].share for number in own]

        def on(day: float, own: list[int] = own) -> Any:
            hour = min(max(round(day * 24) - 1, 0), ran.hours - 1)
            return ran.means[own, hour]

        def mean(day: float, shares: list[float] = shares, on: Any = on) -> float:
            return float(np.average(on(day), weights=shares))

        weighed = [sample.rows[-1] for sample in load.samples if sample.sample.piece.tag == lot.name and sample.rows and not sample.doubt]
        off = float(np.mean([moisture - mean(day) for day, moisture in weighed])) if weighed else 0.0
        boards = on(load.day)
        known[lot.name] = LotNow(
            max(mean(load.day) + off, LEAST), max(float(boards.min()) + off, LEAST), max(float(boards.max()) + off, LEAST)
        )
    return known


def moistures(load: LoadNow) -> dict[str, float]:
    """What each lot is at in the mean, by its tag (fractions)."""
    return {tag: lot.mean for tag, lot in lots_now(load).items()}


def air_of(load: Load) -> list[tuple[float, float, float]]:
    """The chamber as it was read since the load is followed: day, dry and wet bulb in °C. A point an hour; where there are more hours than
    a drawing shows, equal stretches of them, each with its coolest and its hottest hour, so that no hour of heat is thinned away; their
    wet bulb is that of the stretch's mean air."""
    hours = load.hours.filter(count__gt=0, hour__gt=load.followed_from - timedelta(hours=1)).annotate(since=Extract("hour", "epoch"))
    within = hours.aggregate(first=Min("since"), last=Max("since"))
    if within["first"] is None:
        return []
    begun, stretch = float(within["first"]), 3600.0 * math.ceil((within["last"] - within["first"] + 3600) / 3600 / MOST_STRETCHES)
    dry = F("dry_bulb_sum") / F("count")
    rows = list(
        hours.annotate(stretch=Floor((F("since") - begun) / stretch))
        .values("stretch")
        .annotate(middle=Avg("since"), mean=Avg(dry), humid=Avg(F("humidity_sum") / F("count")), coolest=Min(dry), hottest=Max(dry))
        .order_by("middle")
        .values_list("middle", "mean", "humid", "coolest", "hottest")
    )
    middles, mean, humid, coolest, hottest = np.array(rows, dtype=float).T
    wet = wet_bulbs_c(np.clip(mean, -40.0, 95.0), np.clip(humid, 0.01, 1.0))
    days = (middles + 1800.0 - load.followed_from.timestamp()) / 86_400
    air = []
    for day, low, high, wet_c in zip(days.tolist(), coolest.tolist(), hottest.tolist(), wet.tolist(), strict=True):
        air.append((day, low, wet_c))
        if high > low:
            air.append((day, high, wet_c))
    return air


def counted(load: Load) -> tuple[float | None, float | None]:
    """Power (kWh) and water (kg) as they were counted; None where nothing was."""
    sums = load.hours.aggregate(power=Sum("power_kwh"), water=Sum("water_kg"))
    return sums["power"], sums["water"]
