"""What bowls weighed and what that says: read from their readings by weight, fitted, and kept so that a whole shelf is drawn at once."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from functools import cached_property
from typing import Any

import numpy as np
from django.db.models import F, JSONField, Q, Value
from django.db.models.expressions import CombinedExpression
from django.utils import timezone

from calm_heron.air import queries as air
from calm_heron.air.kinds import PlaceKind
from calm_heron.air.models import Place
from calm_heron.drying import methods
from calm_heron.drying import queries as drying
from calm_heron.drying.queries import NoAir
from calm_heron.measuring.kinds import Method
from calm_heron.measuring.models import Reading
from calm_heron.site.memory import Memory, digest_of
from calm_heron.stock.dangers import Danger, dangers
from calm_heron.stock.kinds import TRAITS, Seasoning
from calm_heron.stock.models import Piece, Status
from calm_heron.turning.kinds import WayKind
from calm_heron.turning.models import LayElsewhere, Turned, WeightForecast, turned
from calm_heron.workshops.models import Workshop
from wood.air.climate import AirSeries
from wood.drying.diffusivity import Figures
from wood.drying.diffusivity import of_species as figures_of
from wood.errors import NotKnown, WoodError
from wood.turning import drying as shell
from wood.turning import own_pace, weight_runs, weights
from wood.turning.drying import Way
from wood.turning.own_pace import PaceLearnt
from wood.turning.weight_logs import Weights
from wood.turning.weights import State, Weighed

BOWLS = tuple(kind for kind, traits in TRAITS.items() if traits.dries_by_weight)
DAY_S = 86_400.0
CURVE_POINTS, DOTS = 48, 60
# What is kept was worked out by this rule; another one works it out anew.
RULE = "4"
# Bowls of fewer weighings tell too little of their pace; what was foretold is told from so many on.
PACE_FROM, FORETOLD_FROM = 5, 3
# What is shown of a shelf is no older than this; so many are worked out anew at one look.
GOOD_FOR, ANEW = timedelta(days=2), 6


def step_kg(workshop: Workshop) -> float:
    """The usual step of a scale: a gram, or a twentieth of an ounce."""
    return 0.0015 if workshop.system.is_inch else 0.001


@dataclass(frozen=True)
class WeighedEntry:
    """A weighing: the reading it is kept as, its day since the first, and its mass."""

    id: int
    at: datetime
    mass_kg: float


def entries_of(piece: Piece) -> list[WeighedEntry]:
    """What a bowl weighed, oldest first; what was taken out left out."""
    rows = (
        Reading.objects.standing()
        .filter(piece=piece, method=Method.WEIGHT, wet_mass_kg__isnull=False)
        .order_by("at", "id")
        .values_list("id", "at", "wet_mass_kg")
    )
    return [WeighedEntry(*row) for row in rows]


def air_of(piece: Piece, first: date) -> AirSeries | None:
    """The air a bowl lay in since its first weighing: its place's, but for what it is known to have lain elsewhere; without a place that of
    a heated room, the workshop's or a usual one."""
    series = _air(piece, first)[0]
    for spell in [] if series is None else spells_of(piece):
        begin, end = (spell.begins - first).days, ((spell.ends or timezone.localdate()) - first).days + 1
        if 0 < end <= shell.HORIZON_DAYS and series is not None:
            series = series.with_spell(max(begin, 0), end, spell.temperature_c, spell.relative_humidity)
    return series


def spells_of(piece: Piece) -> list[LayElsewhere]:
    """Where a bowl is known to have lain instead of on its shelf, oldest first."""
    return list(piece.spells.filter(struck_at=None).order_by("begins", "pk"))


def whose_air(piece: Piece) -> str | None:
    """By which place's air a bowl is told, where that is not the place it lies in: the workshop's room by name, or empty for a usual heated
    room; None: by its own."""
    place = _air(piece, timezone.localdate())[1]
    if place is None:
        return ""
    return place.name if piece.place is None else None


def _air(piece: Piece, first: date) -> tuple[AirSeries | None, Place | None]:
    """The air that a bowl is told by, and whose that is; None: that of a usual heated room."""
    place = piece.place or next((place for place in air.places(piece.workshop) if place.kind == PlaceKind.ROOM), None)
    if place is not None:
        surroundings = drying.surroundings([place], f"place-{place.pk}", methods.named(methods.USUAL), first)
        if not isinstance(surroundings, NoAir):
            return surroundings.setting.series, place
    surroundings = drying.surroundings([], drying.USUAL_PATTERN, methods.of_place(PlaceKind.ROOM), first)
    return (None if isinstance(surroundings, NoAir) else surroundings.setting.series), None


def bowls_at_rest(besides: Piece) -> list[dict[str, float]]:
    """A workshop's other bowls that have come to rest: the shares that the log of each gave the ways of reckoning."""
    rows = WeightForecast.objects.of(besides.workshop).filter(said__state=State.FLAT.value).exclude(piece=besides)
    return [shares or {} for shares in rows.order_by("pk").values_list("said__reckonings", flat=True)]


def pace_here(workshop: Workshop, species_key: str, way: str, figures: Figures, besides: int | None = None) -> PaceLearnt:
    """How fast the workshop's own bowls of a wood that came to rest dried in a way, beside their species' figures."""
    # Of what nobody said lies on its shelf.
    dried = Q(piece__as_turned__way=way) | (Q(piece__as_turned=None) if way == WayKind.SHELF else Q(pk__in=[]))
    rows = WeightForecast.objects.of(workshop).filter(
        dried, said__state=State.FLAT.value, said__count__gte=PACE_FROM, piece__species_key=species_key
    )
    paces = rows.exclude(piece=besides).order_by("pk").values_list("said__pace", flat=True)
    return own_pace.learnt_pace([tuple(pace) for pace in paces if min(pace) > 0.01 and max(pace) < 100.0], figures.spread)


def _summed(bowls: Sequence[dict[str, float]]) -> dict[str, float]:
    sums: dict[str, float] = {}
    for shares in bowls:
        for name, share in shares.items():
            sums[name] = sums.get(name, 0.0) + float(share)
    return sums


# A weight is looked at before it is kept, and again by what then shows it.
_fits: Memory[Weighed] = Memory(128)


def fitted(piece: Piece, known: Turned, entries: Sequence[WeighedEntry], more: Sequence[tuple[datetime, float]] = ()) -> Weighed | None:
    """What weighings say; ``more`` are such as are not kept yet. ``None`` without any, or where no figure of the species is known."""
    # Weighings of one moment stay in the order in which they came: the positions that are named are those of the entries.
    rows = sorted([*((entry.at, entry.mass_kg) for entry in entries), *more], key=lambda row: row[0])
    if not rows:
        return None
    first = rows[0][0]
    series = air_of(piece, timezone.localdate(first))
    try:
        figures = figures_of(piece.species)
    except NotKnown:
        return None
    if series is None:
        return None
    try:
        bowl = known.bowl()
    except WoodError:
        bowl = None
    try:
        log = Weights(
            [(at - first).total_seconds() / DAY_S for at, _ in rows],
            [mass for _, mass in rows],
            step_kg(piece.workshop),
            bowl,
            green=piece.seasoning == Seasoning.GREEN,
            dry_mass_kg=piece.ovendry_mass_kg,
            way=known.core_way,
            pace=pace_here(piece.workshop, piece.species_key, known.way, figures, piece.pk),
        )
        earlier = _summed(bowls_at_rest(piece))
        return _fits.get(digest_of((log, figures, series, sorted(earlier.items()))), lambda: weights.weighed(log, figures, series, earlier))
    except WoodError:
        return None


@dataclass(frozen=True)
class WeighedBowl:
    """What is kept of a bowl's weights, as pages show it. Days count from ``first_at``; bands hold four times in five."""

    first_at: datetime
    state: State
    absurd: tuple[int, ...]
    curve: list[list[float]]
    dots: list[list[float]]
    rest: tuple[float, float, float]
    rest_kg: tuple[float, float, float]
    dry_kg: tuple[float, float, float]
    start: tuple[float, float, float]
    moisture: tuple[float, float, float]
    pace: tuple[float, float, float]
    next_day: float
    last_day: float
    last_kg: float
    count: int
    level: float
    reckonings: dict[str, float]
    # After how many weighings which day and weight were foretold, where it is at rest.
    foretold: dict[str, Any] | None = None

    def day(self, days: float) -> date:
        """The date so many days after the first weighing."""
        return timezone.localdate(self.first_at + timedelta(days=float(days)))

    @cached_property
    def next_on(self) -> date:
        """When it is worth weighing again."""
        return self.day(self.next_day)

    @property
    def last_on(self) -> date:
        return self.day(self.last_day)

    @cached_property
    def is_due(self) -> bool:
        return self.state is not State.FLAT and self.next_on <= timezone.localdate()

    def expected_kg(self, at: datetime) -> tuple[float, float, float]:
        """What it is to weigh at a moment, and between which weights four times in five."""
        days, *columns = zip(*self.curve, strict=True)
        day = (at - self.first_at).total_seconds() / DAY_S
        best, low, high = (float(np.interp(day, days, column)) for column in columns)
        return best, low, high


def _said(weighed: Weighed, entries: Sequence[WeighedEntry]) -> dict[str, Any]:
    """What is kept: plain numbers."""
    # The beginning is steep and wants more of them.
    keep = np.unique((np.linspace(0, 1, CURVE_POINTS) ** 1.7 * (weighed.curve_days.size - 1)).round().astype(int))
    first = entries[0].at

    def three(pair: weight_runs.Between) -> list[float]:
        return [_plain(pair.best), _plain(pair.low), _plain(pair.high)]

    return {
        "first_at": first.isoformat(),
        "state": weighed.state.value,
        "absurd": list(weighed.absurd),
        "curve": [[round(float(column[k]), 5) for column in (weighed.curve_days, weighed.curve, weighed.low, weighed.high)] for k in keep],
        "dots": [[round((entry.at - first).total_seconds() / DAY_S, 3), entry.mass_kg] for entry in entries[-DOTS:]],
        "rest": three(weighed.rest_day),
        "rest_kg": three(weighed.rest_kg),
        "dry_kg": three(weighed.dry_mass_kg),
        "start": three(weighed.start),
        "moisture": three(weighed.moisture),
        "pace": three(weighed.pace),
        "next_day": weighed.next_day,
        "last_day": weighed.last_day,
        "last_kg": weighed.last_kg,
        "count": weighed.count,
        "level": weighed.level,
        "reckonings": {name: round(share, 4) for name, share in weighed.reckonings.items()},
    }


def _foretold(piece: Piece, known: Turned, entries: Sequence[WeighedEntry], result: Weighed) -> dict[str, Any] | None:
    """What was foretold of a bowl that is at rest after the first third of its weighings; None where it is not, or had too few."""
    count = max(len(entries) // 3, FORETOLD_FROM)
    if result.state is not State.FLAT or len(entries) < count + FORETOLD_FROM:
        return None
    then = fitted(piece, known, entries[:count])
    if then is None or not math.isfinite(then.rest_day.best):
        return None
    pairs = {"rest": then.rest_day, "rest_kg": then.rest_kg}
    return {"count": count} | {name: [_plain(pair.best), _plain(pair.low), _plain(pair.high)] for name, pair in pairs.items()}


# A day that never comes, as a number that JSON has.
NEVER = 1e6


def _plain(value: float) -> float:
    return float(value) if math.isfinite(value) else NEVER


def read(said: dict[str, Any]) -> WeighedBowl:
    """What was kept."""
    bands = {name: tuple(said[name]) for name in ("rest", "rest_kg", "dry_kg", "start", "moisture", "pace")}
    return WeighedBowl(
        datetime.fromisoformat(said["first_at"]),
        State(said["state"]),
        tuple(said["absurd"]),
        said["curve"],
        said.get("dots", []),
        **bands,  # type: ignore[arg-type]
        **{name: said[name] for name in ("next_day", "last_day", "last_kg", "count", "level")},
        reckonings=said.get("reckonings", {}),
        foretold=said.get("foretold"),
    )


def _learnt_key(piece: Piece, known: Turned) -> tuple[float, int]:
    """What the workshop's own bowls say of its pace, as a forecast is made from it."""
    try:
        learnt = pace_here(piece.workshop, piece.species_key, known.way, figures_of(piece.species), piece.pk)
    except NotKnown:
        return 1.0, 0
    return round(learnt.share, 3), learnt.count


def digest(piece: Piece, known: Turned, entries: Sequence[WeighedEntry]) -> str:
    """What a forecast is made from: another one is made where this differs."""
    place = piece.place
    return digest_of(
        (
            RULE,
            [(entry.mass_kg, entry.at.isoformat()) for entry in entries],
            piece.species_key,
            piece.width_m,
            piece.length_m,
            piece.thickness_m,
            piece.seasoning,
            piece.ovendry_mass_kg,
            known.form,
            known.grain,
            known.rim,
            known.foot_m,
            known.way,
            place.name if place else "",
            [(spell.begins, spell.ends, spell.temperature_c, spell.relative_humidity) for spell in spells_of(piece)],
            _learnt_key(piece, known),
        )
    ).hex()


def renew(piece: Piece) -> WeighedBowl | None:
    """What a bowl's weights say now: what is kept where it still holds, else worked out and kept. ``None`` without a weighing."""
    entries, known = entries_of(piece), turned(piece)
    if not entries:
        WeightForecast.objects.filter(piece=piece).delete()
        return None
    made_of = digest(piece, known, entries)
    row = WeightForecast.objects.filter(piece=piece).first()
    if row is not None and row.digest == made_of and timezone.now() - row.made_at < GOOD_FOR:
        return read(row.said)
    result = fitted(piece, known, entries)
    if result is None:
        WeightForecast.objects.filter(piece=piece).delete()
        return None
    said = _said(result, entries) | {"foretold": _foretold(piece, known, entries, result)}
    saved, _ = WeightForecast.objects.update_or_create(
        piece=piece, defaults={"workshop": piece.workshop, "made_at": timezone.now(), "digest": made_of, "said": said}
    )
    return read(saved.said)


@dataclass(frozen=True)
class InABox:
    """What a week in a warm box from now on would do: the least a bowl would weigh (kg) and on which day after today, and when it would be
    at rest (days).
    """

    least_kg: float
    least_day: float
    rest_kg: float
    rest_day: float

    @property
    def dips(self) -> bool:
        """Whether it goes below what its room brings it to, and comes back."""
        return self.least_kg < 0.995 * self.rest_kg


def in_a_box(piece: Piece, known: Turned, weighed: WeighedBowl | None) -> InABox | None:
    """What a warm box would do to a bowl that is not at rest; ``None`` for one that is, or of which too little is known.

    Wet wood cracks in one.
    """
    if weighed is None or weighed.state is State.FLAT or weighed.moisture[0] > piece.species.fibre_saturation:
        return None
    series = air_of(piece, timezone.localdate())
    try:
        figures, bowl = figures_of(piece.species), known.bowl()
    except WoodError:
        return None
    if series is None:
        return None
    course = shell.course(bowl, piece.species, figures, max(weighed.moisture[0], 0.03), series, Way.WARM_BOX, 200.0)
    least = int(np.argmin(course.mean))
    rest = float(np.interp(min(course.rest_day, 200.0), course.days, course.mean))
    return InABox(
        weighed.dry_kg[0] * (1 + float(course.mean[least])), float(course.days[least]), weighed.dry_kg[0] * (1 + rest), course.rest_day
    )


@dataclass(frozen=True)
class OnShelf:
    """A bowl on the shelf and what its weights say, nothing yet where it was never weighed; and what is dangerous about it, which outweighs
    all of that."""

    piece: Piece
    weighed: WeighedBowl | None
    danger: Danger | None = None

    @property
    def is_flat(self) -> bool:
        """Whether it is sound and at rest."""
        return self.danger is None and self.weighed is not None and self.weighed.state is State.FLAT

    @property
    def is_due(self) -> bool:
        """Whether it is sound and to be weighed."""
        return self.danger is None and (self.weighed is None or self.weighed.is_due)


def shelf(workshop: Workshop) -> list[OnShelf]:
    """All rough bowls in stock, the ones to be looked at first; a fixed number of queries but for the few that are worked out anew."""
    # Without the single weighings, which the shelf does not draw.
    kept = WeightForecast.objects.of(workshop).filter(piece__status=Status.IN_STOCK).order_by("pk")
    said = {
        piece: (made_at, row)
        for piece, made_at, row in kept.values_list("piece_id", "made_at", CombinedExpression(F("said"), "-", Value("dots"), JSONField()))
    }
    now, anew, known = timezone.now(), 0, dangers(workshop)
    result = []
    for piece in bowls_in_stock(workshop):
        made_at, row = said.get(piece.pk, (None, None))
        answer = read(row) if row is not None else None
        if made_at is not None and now - made_at > GOOD_FOR and anew < ANEW:
            answer, anew = renew(piece), anew + 1
        result.append(OnShelf(piece, answer, known.get(piece.pk)))
    return sorted(result, key=_order)


# Whom to look at first.
ORDER = {State.STALLED: 0, State.RISING: 1, State.FLAT: 2, State.FALLING: 3}


def _order(bowl: OnShelf) -> tuple[Any, ...]:
    if bowl.weighed is None:
        return (4, 0.0, bowl.piece.tag)
    return (ORDER[bowl.weighed.state], (bowl.weighed.first_at + timedelta(days=bowl.weighed.rest[0])).timestamp(), bowl.piece.tag)


def bowls_in_stock(workshop: Workshop) -> list[Piece]:
    """The rough bowls that a word may mean, by tag."""
    bowls = Piece.objects.of(workshop).in_stock().filter(kind__in=BOWLS)
    return list(bowls.select_related("as_turned", "place", "workshop").order_by("tag"))


def bowls_named(bowls: Sequence[Piece], word: str) -> list[Piece]:
    """The bowls that a word may mean: the one whose tag it is, else those whose tag begins or ends with it."""
    exact = [piece for piece in bowls if piece.tag.lower() == word.lower()]
    return exact or [piece for piece in bowls if word and _means(word.lower(), piece.tag.lower())]


def _means(word: str, tag: str) -> bool:
    tail = tag.rsplit("-", 1)[-1]
    return tag.startswith(word) or tail == word or (word.isdigit() and tail.isdigit() and int(tail) == int(word))
