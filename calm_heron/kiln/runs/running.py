"""Loads that run: what their samples say, which step holds, what to set now, how it goes on, and what is wrong."""

from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from typing import Any

import numpy as np
from django.db.models import Avg, Prefetch, Sum
from django.utils import timezone

from calm_heron.kiln.models import Load, Sample, SampleWeight
from calm_heron.kiln.planning import LoadToRun, filled, outdoors_of
from calm_heron.site.memory import Memory, digest_of
from calm_heron.stacks.planning import figures_of
from calm_heron.workshops.models import Workshop
from wood.air.psychrometrics import wet_bulbs_c
from wood.drying import defects
from wood.errors import NotKnown
from wood.kiln import following, programs, samples
from wood.kiln.following import Forecast, Weighed
from wood.kiln.loads import Followed
from wood.kiln.plans import Planned
from wood.kiln.programs import Care, Program, Setting
from wood.kiln.samples import Doubt
from wood.kiln.schedules import Step
from wood.kiln.sharing import Lot, boards_of, lead_first, program_of

# Nobody weighed for so long: that is missed.
WEIGHED_WITHIN = timedelta(hours=36)
# A chamber this far off what is set, °C and humidity, in its newest hours.
OFF_C, OFF_HUMIDITY, NEWEST = 5.0, 0.08, timedelta(hours=3)
# A sample this far off what the model expects of it, once that has been fitted to all of them.
OFF_MODEL = 0.06
# Air that drops this many times as much as it would between the boards goes round the load for a good part.
ROUND_FROM, LEAST_DROP_K = 1.5, 0.8
# What is drawn of a chamber is a point an hour, and no more than so many.
MOST_POINTS = 400
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

    @property
    def program(self) -> Program:
        return self.planned.program

    @property
    def setting(self) -> Setting | None:
        """What is to be set now; None once the program is over."""
        return self.program.settings[self.position] if self.position < len(self.program.settings) else None

    @property
    def day(self) -> float:
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
    begun = timezone.localtime(load.began_at).date()
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


def _lot(piece: Any, start: float) -> Lot:
    return Lot(piece.tag, piece.species, piece.thickness_m, start, piece.volume_m3)


def _samples(load: Load) -> list[tuple[Sample, samples.Sample]]:
    """Samples with what they weighed and still counts."""
    results = []
    standing = Prefetch("weights", SampleWeight.objects.standing().order_by("at", "pk"), to_attr="standing_weights")
    for sample in load.samples.select_related("piece").prefetch_related(standing).order_by("tag"):
        weights = [(days_since(load.began_at, row.at), row.mass_kg) for row in sample.standing_weights]
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
    said = samples.load([reading for _, reading in taken]) if taken else None
    doubts = dict(said.doubts) if said else {}
    weighed = [
        Weighed(numbers[sample.pk], day, moisture)
        for sample, reading in taken
        for day, moisture in reading.moistures[1:]
        if doubts.get(reading.tag) in (None, Doubt.MISSING) and -0.5 <= moisture <= 4.0
    ]
    weighed.sort(key=lambda item: item.day)
    key = digest_of(
        (
            tuple(boards),
            program.settings,
            question.chamber,
            question.outdoors,
            tuple((weighing.board, round(weighing.day, 3), round(weighing.moisture, 5)) for weighing in weighed),
        )
    )
    forecast = _forecasts.get(key, lambda: following.follow(boards, program, question.chamber, question.outdoors, weighed))
    planned = Planned(ordered, forecast.ran, forecast.ran.days, forecast.ran.days)
    day = days_since(load.began_at, load.ended_at or timezone.now())
    position = programs.position(program, _looks(taken, doubts), min(max(day, -1.0), 4000.0))
    shown = [_shown(sample, reading, doubts.get(reading.tag), numbers, forecast) for sample, reading in taken]
    air = _newest_air(load)
    result = LoadNow(load, question, planned, forecast, position, shown, said.wettest_half if said else None, air, [])
    return replace(result, alarms=_alarms(result))


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


def _newest_air(load: Load) -> tuple[datetime, float, float] | None:
    last = load.air.order_by("-at").first()
    if last is None:
        return None
    mean = load.air.filter(at__gt=last.at - timedelta(hours=1)).aggregate(dry=Avg("dry_bulb_c"), humidity=Avg("humidity"))
    return last.at, mean["dry"], mean["humidity"]


def _alarms(load: LoadNow) -> list[tuple[str, dict[str, Any]]]:
    """What wants somebody, the gravest first."""
    if not load.load.runs:
        return []
    said: list[tuple[str, dict[str, Any]]] = []
    fault = load.load.air.filter(at__gt=timezone.now() - NEWEST).exclude(fault="").order_by("-at").first()
    if fault is not None:
        said.append(("fault", {"words": fault.fault, "at": fault.at}))
    if load.air is not None and load.setting is not None and load.air[0] > timezone.now() - NEWEST and load.day > 1.0:
        at, dry, humidity = load.air
        if abs(dry - load.setting.dry_bulb_c) > OFF_C or humidity - load.setting.humidity > OFF_HUMIDITY:
            said.append(("off", {"at": at, "dry_c": dry, "humidity": humidity, "setting": load.setting}))
    round_it = goes_round(load)
    if round_it is not None:
        said.append(("round", {"share": round_it}))
    said += [("too_fast", {"sample": sample}) for sample in load.samples if sample.too_fast]
    said += [("doubt", {"sample": sample}) for sample in load.samples if sample.doubt]

    newest = max((row.at for sample in load.samples for row in sample.sample.weights_in_order), default=None)
    if load.samples and newest is not None and timezone.now() - newest > WEIGHED_WITHIN:
        said.append(("missed", {"at": newest}))
    if not load.samples:
        said.append(("no_samples", {}))
    if load.setting is None:
        said.append(("done", {}))
    return said


def air_by_hour(load: Load) -> list[tuple[float, float, float]]:
    """The chamber as it was read: day, dry and wet bulb in °C, in means of hours, thinned to what a drawing shows."""
    rows = list(load.hours.filter(count__gt=0).order_by("hour").values_list("hour", "count", "dry_bulb_sum", "humidity_sum"))
    rows = rows[:: max(1, -(-len(rows) // MOST_POINTS))]
    if not rows:
        return []
    dry = np.clip([dry_sum / count for _, count, dry_sum, _ in rows], -40.0, 95.0)
    wet = wet_bulbs_c(dry, np.clip([humidity_sum / count for _, count, _, humidity_sum in rows], 0.01, 1.0))
    half = timedelta(minutes=30)
    return [(days_since(load.began_at, row[0] + half), float(t), float(w)) for row, t, w in zip(rows, dry, wet, strict=True)]


def counted(load: Load) -> tuple[float | None, float | None]:
    """Power (kWh) and water (kg) as they were counted; None where nothing was."""
    sums = load.hours.aggregate(power=Sum("power_kwh"), water=Sum("water_kg"))
    return sums["power"], sums["water"]


def goes_round(load: LoadNow) -> float | None:
    """What share of the air goes round the load instead of through it, by how much cooler it leaves than the water explains; None where
    nothing says, or little does.
    """
    last = load.load.air.filter(at__gt=timezone.now() - NEWEST).exclude(leaving_c=None).order_by("-at").first()
    if last is None or last.leaving_c is None:
        return None
    hour = min(max(int(days_since(load.load.began_at, last.at) * 24), 0), load.forecast.ran.hours - 1)
    expected, measured = load.forecast.ran.drop_k(hour), last.dry_bulb_c - last.leaving_c
    if measured < LEAST_DROP_K or measured < ROUND_FROM * max(expected, 0.1):
        return None
    return 1 - max(expected, 0.1) / measured
