"""What a stack is planned from and what it costs: the pile, the air through it, and how long its edges and its heart take."""

from dataclasses import dataclass, replace

import numpy as np
from django.utils import timezone

from calm_heron.drying import methods
from calm_heron.drying import queries as drying
from calm_heron.measuring import queries as measuring
from calm_heron.questions.tools import Bound, Gist, Put, StillToSay
from calm_heron.site.memory import Memory, digest_of
from calm_heron.stacks.forms import StackForm
from calm_heron.stacks.kinds import StickersOf
from calm_heron.stock import woods
from calm_heron.stock.models import Piece
from calm_heron.workshops.askers import Asker
from wood.air.climate import AirSeries
from wood.drying import field
from wood.drying.diffusivity import Figures, of_species
from wood.drying.methods import WINDS
from wood.errors import NotKnown
from wood.species import Species
from wood.stacks import air as airflow
from wood.stacks import breaches, pile, stickers
from wood.stacks.air import Stack, Through
from wood.stacks.breaches import FoundBreach
from wood.stacks.by_place import dry_by_place
from wood.stacks.pile import Load, Pile
from wood.stacks.stickers import Stickers
from wood.stacks.tally import by_grade
from wood.units import FOOT_M, INCH_M

USUAL_STICKERS_MOISTURE = 0.10
AIR_DRY = 0.20
LONGEST_DAYS = 3650.0
# A tarpaulin that reaches the ground keeps the wind out but for what lifts it; cloth that shades lets more than half of it through (our
# judgement).
LETS_THROUGH = {"tarp": 0.15, "shade": 0.6}
# Rain wets an uncovered stack again and again: for so much of the time the air at its boards is as good as saturated (our judgement).
IN_THE_RAIN = 0.25
# The weeks of air that are drawn through the stack.
WEEKS_DAYS = 28
# Steps in which places are followed: enough to tell edge and heart apart within a redraw.
STEPS, BEYOND = 24, 1.3


@dataclass(frozen=True)
class Times:
    """Days until boards are at 20% (infinite: never): the mean of the stack, those at the edges, those in the middle."""

    mean: float
    edge: float
    middle: float


@dataclass(frozen=True)
class StackToBuild:
    """A stack as it is asked about. ``usual`` are the stickers that practice would take; ``series`` is None where its air is not known."""

    loads: tuple[Load, ...]
    usual: Stickers
    stickers: Stickers
    width_m: float
    clear_m: float
    bearers_m: float | None
    overhang_m: float
    next_m: float | None
    stickers_moisture: float
    cover: str
    turned: str
    wind: float
    series: AirSeries | None
    outdoors: bool
    dark_stickers: bool = False

    @property
    def main(self) -> Load:
        """The load that there is most of."""
        return max(self.loads, key=lambda load: load.volume_m3)


@dataclass(frozen=True)
class StackPlan:
    """What it comes to; ``others`` what the time would be, built otherwise, each with a code for how."""

    question: StackToBuild
    pile: Pile
    bearers_m: tuple[float, ...]
    breaches: list[FoundBreach]
    through: Through | None
    times: Times | None
    others: tuple[tuple[str, float], ...]


def loads_of(form: StackForm) -> list[Load]:
    """The loads that a valid form names: its lots, or the one that is imagined.

    Raises:
        StillToSay. OutOfRange.
    """
    typed = form.cleaned_data
    if form.is_of_lots:
        if not typed["lots"]:
            raise StillToSay("List the lots of the stack by their tags.")
        return [lot_of(piece, typed["moisture"]) for piece in typed["lots"]]
    if not typed["species_key"]:
        raise StillToSay("Say which wood is to be stacked.")
    species = woods.species_of(form.workshop.pk, typed["species_key"])
    moisture = green(species) if typed["moisture"] is None else typed["moisture"]
    thickness = typed["thickness_m"] or 0.027
    return [Load(species.common_name, species, thickness, row.width_m, row.length_m, row.count, moisture) for row in typed["boards"]]


def lot_of(piece: Piece, moisture: float | None) -> Load:
    """A lot as a load: at the moisture that is given, else as it was read, else green."""
    if moisture is None:
        moisture = measuring.moisture_to_begin_from(piece)
    if moisture is None:
        moisture = green(piece.species)
    return Load(piece.tag, piece.species, piece.thickness_m, piece.width_m, piece.length_m, piece.count, moisture)


def green(species: Species) -> float:
    """What a wood is sawn at; 80% where no source at hand tells."""
    figures = figures_of(species)
    return figures.green_moisture if figures else 0.8


def figures_of(species: Species) -> Figures | None:
    try:
        return of_species(species)
    except NotKnown:
        return None


def put(form: StackForm, asker: Asker, subject: Piece | None) -> Put[StackToBuild]:
    """A valid form as a question; the tags of its lots and the name of its place only tell.

    Raises:
        StillToSay: no wood is named. OutOfRange.
    """
    typed = form.cleaned_data
    loads = tuple(loads_of(form))
    main = max(loads, key=lambda load: load.volume_m3)
    usual = stickers.usual(main.species, main.thickness_m, main.moisture)
    taken = replace(usual, thickness_m=typed["sticker_m"] or usual.thickness_m, spacing_m=typed["spacing_m"] or usual.spacing_m)
    cover = form.chosen("cover")
    around = drying.surroundings(form.places, form.chosen("where"), methods.named(methods.USUAL), timezone.localdate())
    known = around if isinstance(around, drying.Surroundings) else None
    stack = StackToBuild(
        loads,
        usual,
        taken,
        typed["width_m"] or (4 * FOOT_M if form.system.is_inch else 1.2),
        pile.CLEAR_PACK_M if typed["clear_m"] is None else typed["clear_m"],
        typed["bearers_m"],
        typed["overhang_m"] or 0.0,
        typed["next_m"],
        USUAL_STICKERS_MOISTURE if typed["stickers_moisture"] is None else typed["stickers_moisture"],
        cover,
        form.chosen("turned"),
        WINDS[form.chosen("wind")] * LETS_THROUGH.get(cover, 1.0),
        known and known.setting.series,  # type: ignore[arg-type]
        bool(known and known.outdoors),
        form.chosen("stickers_of") == StickersOf.DARK,
    )
    tags = [piece.tag for piece in typed["lots"]] if form.is_of_lots else []
    counted = typed["boards"] if typed["boards"] and any(row.grade for row in typed["boards"]) else []
    return Put(stack, {"place": around.name, "tags": tags, "grades": by_grade(counted, loads[0].thickness_m)})


def work(question: StackToBuild) -> StackPlan:
    """The stack, the rules it breaks, the air through it and its times.

    Raises:
        OutOfRange: sizes that do not go together.
    """
    built = pile.pile(list(question.loads), question.width_m, question.stickers, clear_m=question.clear_m)
    bearers = tuple(stickers.lines(built.length_m, pile.BEARER_WIDTH_M, question.bearers_m)) if question.bearers_m else built.lines_m
    series, main = question.series, question.main
    broken = breaches.breaches(
        built,
        bearers,
        question.stickers_moisture,
        overhang_m=question.overhang_m,
        roofed=question.cover != "none",
        shaded=question.cover in ("shade", "tarp"),
        next_m=question.next_m,
        dark_stickers=question.dark_stickers,
        outdoors_c=float(first_weeks(series).temperature_c.mean()) if series is not None and question.outdoors else None,
    )
    if series is None:
        return StackPlan(question, built, bearers, broken, None, None, ())
    if question.cover == "none":
        series = in_the_rain(series)
    stack = Stack(question.wind, min(question.width_m, 6.0), question.stickers.thickness_m, turned=question.turned)
    flow = airflow.through(stack, first_weeks(series), min(main.moisture, 3.0))
    figures = figures_of(main.species)
    if figures is None or main.moisture <= AIR_DRY:
        return StackPlan(question, built, bearers, broken, flow, None, ())
    times = times_of(figures, main, series, stack)
    return StackPlan(question, built, bearers, broken, flow, times, _otherwise(figures, main, series, stack, times.mean))


def gist(plan: StackPlan) -> Gist:
    """Whether it breaks a rule, how many courses and stickers it has, and its days."""
    days = Bound(plan.times.mean, plan.times.edge, plan.times.middle) if plan.times else Bound(None)
    return Gist(
        "breaks a rule" if plan.breaches else "as it should be",
        {"courses": Bound(float(len(plan.pile.courses))), "stickers": Bound(float(plan.pile.sticker_count)), "days": days},
    )


def in_the_rain(series: AirSeries) -> AirSeries:
    """The air of a stack that nothing covers."""
    return replace(series, relative_humidity=series.relative_humidity + IN_THE_RAIN * (1 - series.relative_humidity))


def first_weeks(series: AirSeries) -> AirSeries:
    count = min(series.temperature_c.size, WEEKS_DAYS * series.per_day)
    return replace(
        series,
        temperature_c=series.temperature_c[:count],
        relative_humidity=series.relative_humidity[:count],
        wind_m_s=series.wind_m_s[:count],
    )


_days: Memory[float] = Memory(512)


def days_in(figures: Figures, load: Load, series: AirSeries, exposure: Stack) -> float:
    """Days until a board of a load is at 20% there; infinite where it never is. Remembered."""
    key = (digest_of((figures.wood, exposure)), round(load.thickness_m, 5), round(load.moisture, 4), digest_of(series))

    def make() -> float:
        start = min(load.moisture, figures.wood.greatest_moisture)
        ran = field.dry_many(
            figures.wood, load.thickness_m, np.array([start]), field.driven(series, exposure), LONGEST_DAYS, target=AIR_DRY
        )
        return float(ran.crossed_days[0])

    return _days.get(key, make)


_places: Memory[tuple[float, float]] = Memory(256)


def times_of(figures: Figures, load: Load, series: AirSeries, stack: Stack) -> Times:
    """How long the stack takes in the mean, at the edges and in the middle."""
    mean = days_in(figures, load, series, stack)
    if not np.isfinite(mean) or mean > LONGEST_DAYS / 2:
        return Times(mean, np.inf, np.inf)

    def make() -> tuple[float, float]:
        days = max(mean * BEYOND, 2.0)
        start = min(load.moisture, figures.wood.greatest_moisture)
        ran = dry_by_place(figures.wood, load.thickness_m, start, series, stack, days, step_days=min(max(days / STEPS, 0.25), 10.0))
        there = ran.arrival(AIR_DRY)
        # Steps are coarse and the mean is not: what is said of places is how they lie about it.
        middle = float(np.mean(there)) if np.isfinite(there).all() else np.inf
        return (float(there[0]) * mean / middle, float(there[there.size // 2]) * mean / middle) if np.isfinite(middle) else (np.inf, np.inf)

    key = (digest_of((figures.wood, stack)), round(load.thickness_m, 5), round(load.moisture, 4), digest_of(series))
    return Times(mean, *_places.get(key, make))


def _otherwise(figures: Figures, load: Load, series: AirSeries, stack: Stack, now: float) -> tuple[tuple[str, float], ...]:
    """What it would take, built otherwise, where that is another number."""
    ways = {
        "twice_as_wide": replace(stack, width_m=min(2 * stack.width_m, 6.0)),
        "thicker_stickers": replace(stack, sticker_m=min(stack.sticker_m + 0.25 * INCH_M, 0.1)),
        "thinner_stickers": replace(stack, sticker_m=max(stack.sticker_m - 0.25 * INCH_M, 0.003)),
        "turned_across": replace(stack, turned="across"),
    }
    result = ((way, days_in(figures, load, series, other)) for way, other in ways.items() if other != stack)
    return tuple((way, days) for way, days in result if np.isfinite(days) and np.isfinite(now) and abs(days / now - 1) > 0.02)
