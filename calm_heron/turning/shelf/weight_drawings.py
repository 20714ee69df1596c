"""Weights drawn: one bowl's curve with its weighings and band, and a shelf of bowls as curves over the waterline."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import timedelta

from django.utils import timezone

from calm_heron.site.dates import short_day
from calm_heron.site.drawing import Scale, Tick, band, path, shortened
from calm_heron.site.numbers import percent
from calm_heron.turning.shelf.weighing import DAY_S, NEVER, OnShelf, WeighedBowl
from wood.turning.weights import State
from wood.units import OUNCE_KG, System
from wood.written import weighed_mass

WIDE, NARROW, SHELF_WIDE = 700, 380, 1000
LEFT, RIGHT, ABOVE, BELOW = 56, 66, 16, 26
HIGH, SHELF_HIGH = 260, 300
SHELF_ABOVE, MOST_NAMES = 46, 26
LETTER, LINE, MOST_LETTERS = 6.2, 13.0, 18


@dataclass(frozen=True)
class WeightMark:
    """A weighing in the drawing; ``is_out`` where it does not count."""

    x: float
    y: float
    is_out: bool = False


@dataclass(frozen=True)
class Curve:
    """One bowl's weights over the days."""

    width: int
    height: int
    left: float
    right: float
    base: float
    past: str
    ahead: str
    wash: str
    water: str
    surface: float
    today: float | None
    rest: float | None
    marks: list[WeightMark]
    across: list[Tick]
    up: list[Tick]
    summary: str


def curve(weighed: WeighedBowl, system: System, width: int = WIDE, out: Sequence[tuple[float, float]] = ()) -> Curve:
    """A bowl's weighings and forecast over its waterline, the weight it comes to rest at.

    Args:
        out: weighings that do not count, as (day, kg).
    """
    now = (timezone.now() - weighed.first_at).total_seconds() / DAY_S
    ends = weighed.rest[0] * 1.15 if weighed.rest[0] < NEVER else now + 120
    last = max(min(ends, weighed.curve[-1][0]), now + 14.0, weighed.last_day + 7.0)
    points = [point for point in weighed.curve if point[0] <= last] or weighed.curve[:2]
    rest = weighed.rest_kg[0]
    left_out = set(out)
    counted = [kg for day, kg in weighed.dots if (day, kg) not in left_out]
    high = max([point[3] for point in points] + counted) * 1.02
    low = min([point[2] for point in points] + counted + [rest * 0.97])
    low -= 0.06 * (high - low)
    right = width - RIGHT
    x, y = Scale(0.0, last, LEFT, right), Scale(low, high, ABOVE + HIGH, ABOVE)
    base = ABOVE + HIGH
    past = [(x(day), y(best)) for day, best, _, _ in points if day <= weighed.last_day]
    ahead = [(x(day), y(best)) for day, best, _, _ in points if day >= weighed.last_day - 1e-6]
    if past and ahead:
        ahead = [past[-1], *ahead]
    wash = [point for point in points if point[0] >= weighed.last_day - 1e-6]
    upper, lower = [(x(day), y(hi)) for day, _, _, hi in wash], [(x(day), y(lo)) for day, _, lo, _ in wash]
    # A weighing that is off the drawing stands at its edge.
    dots = [WeightMark(x(day), y(min(max(kg, low), high)), (day, kg) in left_out) for day, kg in weighed.dots if day <= last]
    return Curve(
        width,
        round(base + BELOW),
        LEFT,
        right,
        base,
        path(past),
        path(ahead),
        band(upper, lower) if len(upper) > 1 else "",
        f"M{LEFT} {y(rest):.1f}H{right}V{base}H{LEFT}Z",
        y(rest),
        x(now) if now <= last else None,
        x(weighed.rest[0]) if weighed.rest[0] <= last else None,
        dots,
        _days(weighed, last, x, width),
        _masses(low, high, y, system),
        f"Its weight over {last:.0f} days, coming down to {weighed_mass(rest, system)}.",
    )


def _days(weighed: WeighedBowl, last: float, x: Scale, width: int) -> list[Tick]:
    step = next((size for size in (2, 7, 14, 30, 61, 91, 182) if last / size <= (8 if width == WIDE else 4)), 365)
    return [Tick(x(float(day)), short_day(weighed.day(day))) for day in range(0, int(last) + 1, step)]


# What an axis of weights goes up by, in the unit of the scale in use (an ounce for pounds and ounces): whole ounces, pounds in tenths,
# grams by ones, twos and fives.
DECIMAL = tuple(size * 10**power for power in range(-3, 6) for size in (1, 2, 5))
OUNCES = (1, 2, 4, 8, 16, 32, 80, 160, 320, 800, 1600, 3200)
MOST_TICKS = 6


def mass_step_kg(span_kg: float, system: System) -> float:
    """The step of an axis of weights over so much (kg): a round one on the workshop's own scale, of at most :data:`MOST_TICKS`."""
    key, unit = system.scale.key, system.scale.unit_kg
    if key in ("oz", "lb_oz"):
        sizes, unit = OUNCES, OUNCE_KG
    else:
        # No finer than the scale shows: a gram, a gram written as a thousandth of a kilogram, a hundredth of a pound.
        finest = {"g": 1.0, "kg": 0.001, "lb": 0.01}[key]
        sizes = tuple(size for size in DECIMAL if size >= finest * 0.999)
    return next((size * unit for size in sizes if span_kg / (size * unit) <= MOST_TICKS), sizes[-1] * unit)


def _masses(low: float, high: float, y: Scale, system: System) -> list[Tick]:
    """Weights up the side, as the workshop's scale shows them."""
    step = mass_step_kg(high - low, system)
    first = int(low / step) + 1
    return [
        Tick(y(k * step), weighed_mass(k * step, system).replace(".00 lb", " lb").replace(".0 oz", " oz"))
        for k in range(first, int(high / step) + 1)
    ]


@dataclass(frozen=True)
class WeightThread:
    """One bowl of the shelf: what it weighed and what is foretold, its name and where that stands."""

    tag: str
    past: str
    ahead: str
    x: float
    y: float
    # Where its name stands, beside the beginning of its curve.
    name: tuple[float, float] | None
    state: str

    @property
    def short(self) -> str:
        """Its tag as it is written there."""
        return shortened(self.tag, MOST_LETTERS)


def _names(begins: Sequence[tuple[str, tuple[float, float]]]) -> dict[str, tuple[float, float]]:
    """Names beside where curves begin, each moved up until it is clear of those that stand there."""
    placed: list[tuple[float, float, float]] = []
    result = {}
    for tag, (x, y) in sorted(begins, key=lambda item: item[1]):
        wide, at = LETTER * min(len(tag), MOST_LETTERS) + 6, y
        while any(left < x + wide and x < left + length and abs(at - other) < LINE for left, length, other in placed):
            at -= LINE
        placed.append((x, wide, at))
        result[tag] = (x, at)
    return result


# Up to so many bowls each curve of the shelf is drawn as finely as by itself.
MOST_FINE = 40


@dataclass(frozen=True)
class ShelfDrawing:
    """All bowls of a shelf, each by how much water it holds over its rest, over the same days."""

    width: int
    height: int
    left: float
    right: float
    base: float
    surface: float
    today: float
    threads: list[WeightThread]
    across: list[Tick]
    up: list[Tick]
    summary: str


def shelf(bowls: Sequence[OnShelf], width: int = SHELF_WIDE) -> ShelfDrawing | None:
    """The shelf over the waterline: how far each bowl's weight stands above what it comes to rest at; ``None`` where none was weighed."""
    known = [(bowl.piece.tag, bowl.weighed) for bowl in bowls if bowl.weighed is not None]
    if not known:
        return None
    now = timezone.now()
    first = min(max((now - answer.first_at).total_seconds() / DAY_S for _, answer in known), 300.0)
    ends = [(answer.first_at - now).total_seconds() / DAY_S + answer.rest[0] for _, answer in known if answer.rest[0] < NEVER]
    last = min(max([*ends, 30.0]) * 1.1, 240.0)
    right, base = width - RIGHT, SHELF_ABOVE + SHELF_HIGH
    x = Scale(-first, last, LEFT, right)
    most = max(0.1, *(point[1] / answer.rest_kg[0] - 1 for _, answer in known for point in answer.curve))
    y = Scale(-0.06 * most, most, base, SHELF_ABOVE)
    # Among so many the eye sees no more of each.
    every = 1 if len(known) <= MOST_FINE else 3
    made = []
    for tag, answer in known:
        shift = (answer.first_at - now).total_seconds() / DAY_S

        def place(day: float, kg: float, shift: float = shift, weighed: WeighedBowl = answer) -> tuple[float, float]:
            return x(day + shift), y(kg / weighed.rest_kg[0] - 1)

        past = [place(day, best) for day, best, _, _ in answer.curve[::every] if day <= answer.last_day and day + shift >= -first]
        ahead = [place(day, best) for day, best, _, _ in answer.curve[::every] if day >= answer.last_day - 1e-6 and day + shift <= last]
        at = place(answer.last_day, answer.last_kg)
        begin = past[0] if past else at
        shown = at if answer.last_day + shift >= -first else (x(-first), at[1])
        made.append((tag, begin, path(past), path([at, *ahead]), *shown, answer.state.value))
    names = _names([(tag, begin) for tag, begin, *_ in made][:MOST_NAMES])
    threads = [WeightThread(tag, past, ahead, at_x, at_y, names.get(tag), state) for tag, _, past, ahead, at_x, at_y, state in made]
    step = next((size for size in (14, 30, 61, 91) if (first + last) / size <= (4 if width == NARROW else 9)), 182)
    across = [
        Tick(x(float(day)), short_day(timezone.localdate() + timedelta(days=day)))
        for day in range(-int(first // step) * step, int(last) + 1, step)
    ]
    rise = next(size for size in (0.02, 0.05, 0.1, 0.2, 0.5, 1.0) if most / size <= 6)
    up = [Tick(y(k * rise), f"+{percent(k * rise, 0)}" if k else "settled") for k in range(int(most / rise) + 1)]
    flat = sum(answer.state is State.FLAT for _, answer in known)
    return ShelfDrawing(
        width,
        round(base + BELOW),
        LEFT,
        right,
        base,
        y(0.0),
        x(0.0),
        threads,
        across,
        up,
        f"{len(known)} bowls by how much heavier they are than when settled; {flat} settled.",
    )
