"""Loads that run: what their samples say, which step holds, what to set now, how it goes on, and what is wrong."""

import itertools
from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from typing import Any

import numpy as np
from django.db.models import Avg, Prefetch, Sum
from django.utils import timezone

from calm_heron.kiln.models import ChamberHour, ChamberReading, Load, Sample, SampleWeight
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
# A chamber this far off what is set, °C and humidity, in its newest hour.
OFF_C, OFF_HUMIDITY, OFF_DRY = 5.0, 0.08, 0.10
# A sample this far off what the model expects of it, once that has been fitted to all of them.
OFF_MODEL = 0.06
# Air that drops this many times as much as it would between the boards goes round the load for a good part.
ROUND_FROM, LEAST_DROP_K = 1.5, 0.8
# And so many times as much where no air goes through it at all (our judgement).
FANS_FROM, JUMP_C = 8.0, 15.0
# So many of the newest readings and hours are looked at; hours that read alike to the last figure tell of a dead sensor; nobody is called
# within so short a silence.
LOOKED_AT, MOST_HOURS, STUCK_HOURS, LEAST_SILENCE = 24, 48, 4, timedelta(minutes=10)
LEAST = 0.02
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
    """A lot as it is followed: from no more water than its wood can hold, and no less than it keeps."""
    figures = figures_of(piece.species)
    most = figures.wood.greatest_moisture if figures else 3.0
    return Lot(piece.tag, piece.species, piece.thickness_m, min(max(start, LEAST), most), piece.volume_m3)


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


def moistures(load: LoadNow) -> dict[str, float]:
    """What each lot is at, by its tag (fractions): as the forecast that its weighings fit has its boards, and where samples of it were
    weighed, by as much more or less as these were at their last weighing."""
    ran = load.forecast.ran
    known = {}
    for lot in load.question.lots:
        own = [number for number, board in enumerate(ran.boards) if board.lot == lot.name]
        shares = [ran.boards[number].share for number in own]

        def on(day: float, own: list[int] = own, shares: list[float] = shares) -> float:
            hour = min(max(round(day * 24) - 1, 0), ran.hours - 1)
            return float(np.average(ran.means[own, hour], weights=shares))

        weighed = [sample.rows[-1] for sample in load.samples if sample.sample.piece.tag == lot.name and sample.rows and not sample.doubt]
        off = float(np.mean([moisture - on(day) for day, moisture in weighed])) if weighed else 0.0
        known[lot.name] = max(on(load.day) + off, LEAST)
    return known


def _alarms(load: LoadNow) -> list[tuple[str, dict[str, Any]]]:
    """What wants somebody, the gravest first."""
    if not load.load.runs:
        return []
    said = _of_the_chamber(load) if load.air is not None else []
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


def _of_the_chamber(load: LoadNow) -> list[tuple[str, dict[str, Any]]]:
    """What is wrong with the chamber by what was read of it. What the newest readings show stands until newer ones show it gone, however
    old they grow."""
    assert load.air is not None
    at, dry, humidity = load.air
    newest = list(load.load.air.order_by("-at")[:LOOKED_AT])
    hours = list(load.load.hours.filter(count__gt=0).order_by("-hour")[:MOST_HOURS])
    said: list[tuple[str, dict[str, Any]]] = []
    fault = load.load.air.filter(at__gt=at - timedelta(hours=1)).exclude(fault="").order_by("-at").first()
    if fault is not None:
        said.append(("fault", {"words": fault.fault, "at": fault.at}))
    silent_after = _silent_after(newest)
    if silent_after is not None and timezone.now() - at > silent_after:
        said.append(("silent", {"at": at}))
    if load.setting is not None and load.day > 1.0:
        wrong = _off(dry, humidity, load.setting)
        if wrong:
            data = {"dry_c": dry, "humidity": humidity, "setting": load.setting, "since": _since(hours, wrong, load.setting)}
            data["kind"] = load.load.chamber.kind
            said.append((wrong, {"at": at} | data))
    before = newest[1] if len(newest) > 1 else None
    if before is not None and at - before.at < timedelta(minutes=15) and abs(newest[0].dry_bulb_c - before.dry_bulb_c) > JUMP_C:
        said.append(("jump", {"from_c": before.dry_bulb_c, "to_c": newest[0].dry_bulb_c, "at": at}))
    stuck = _same_since(hours)
    if stuck is not None:
        said.append(("stuck", {"since": stuck}))
    times = _drop(load, newest)
    if times is not None and times >= FANS_FROM:
        said.append(("fans", {"times": times}))
    elif times is not None:
        said.append(("round", {"share": 1 - 1 / times}))
    return said


def _off(dry: float, humidity: float, setting: Setting) -> str:
    """How the chamber is off what is set, as an alarm's code; empty: it is not."""
    if abs(dry - setting.dry_bulb_c) > OFF_C:
        return "off"
    if setting.humidity - humidity > OFF_DRY:
        return "too_dry"
    return "off" if humidity - setting.humidity > OFF_HUMIDITY else ""


def _since(hours: list[ChamberHour], wrong: str, setting: Setting) -> datetime | None:
    """Since when hours in a row were off in the same way; None where only the newest readings are. An hour within counts only where two
    are: what is off goes on through a short return."""
    since: datetime | None = None
    within = 0
    for hour in hours:
        if _off(hour.dry_bulb_c, hour.humidity, setting) == wrong:
            since, within = hour.hour, 0
        else:
            within += 1
            if within == 2:
                break
    return since


def _silent_after(newest: list[ChamberReading]) -> timedelta | None:
    """How long nothing may be heard: three of the usual intervals between readings; None where too few were taken to say."""
    gaps = sorted(later.at - earlier.at for later, earlier in itertools.pairwise(newest))
    return max(3 * gaps[len(gaps) // 2], LEAST_SILENCE) if len(gaps) >= 4 else None


def _same_since(hours: list[ChamberHour]) -> datetime | None:
    """Since when hours in a row have read exactly the same, where there are several with several readings each."""
    if not hours:
        return None
    first = hours[0]

    def is_alike(hour: ChamberHour) -> bool:
        return abs(hour.dry_bulb_c - first.dry_bulb_c) < 1e-6 and abs(hour.humidity - first.humidity) < 1e-6

    alike = list(itertools.takewhile(is_alike, hours))
    # An hour that has only begun, or was read once, tells nothing by itself.
    return alike[-1].hour if sum(hour.count >= 2 for hour in alike) >= STUCK_HOURS else None


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


def _drop(load: LoadNow, newest: list[ChamberReading]) -> float | None:
    """How many times as much cooler the air leaves the load than the water it gives off explains; None where nothing says, or little does.
    Some of it then goes round the load; where nearly all does, the fans have stopped."""
    last = next((row for row in newest if row.leaving_c is not None), None)
    if last is None or last.leaving_c is None:
        return None
    hour = min(max(int(days_since(load.load.began_at, last.at) * 24), 0), load.forecast.ran.hours - 1)
    expected, measured = max(load.forecast.ran.drop_k(hour), 0.1), last.dry_bulb_c - last.leaving_c
    return None if measured < LEAST_DROP_K or measured < ROUND_FROM * expected else measured / expected
