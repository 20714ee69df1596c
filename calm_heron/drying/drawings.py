"""The drying drawn: moisture through the thickness over time, the course of mean, shell and core towards the waterline, and the
twelve months it might begin in. All share one axis of time."""

from dataclasses import dataclass, fields, replace
from datetime import date, timedelta
from typing import Any

import numpy as np

from calm_heron.drying.words import RiskDescription
from calm_heron.site import dates
from calm_heron.site.drawing import BREAK, MoistureScale, Scale, Tick, band, moisture_ticks, path, spread_labels, tenth
from calm_heron.site.numbers import points
from calm_heron.site.ramp import colour
from wood.drying.answers import WATCHED_AFTER_DAYS, Answer
from wood.drying.field import History
from wood.drying.questions import Question

TOP = 22
INSIDE_HEIGHT, GAP, COURSE_HEIGHT, BELOW = 110, 58, 250, 40
DEPTHS = 12
TOP_MOISTURE = 1.6


@dataclass(frozen=True)
class Frame:
    """The size of a drawing: its name (for ids and the class that shows it), width, margins, how many columns of time the inside view
    has, and the width of the strip of months."""

    name: str
    width: int
    left: int
    right: int
    columns: int
    strip: int


WIDE, NARROW = Frame("wide-only", 760, 46, 676, 96, 720), Frame("narrow-only", 380, 34, 318, 60, 360)
FRAMES = {"wide": (WIDE,), "narrow": (NARROW,)}
BOTH = (WIDE, NARROW)


@dataclass(frozen=True)
class CourseLabel:
    """Words at a height beside a curve."""

    y: str
    text: str


@dataclass(frozen=True)
class Course:
    """Both views in drawing units. ``cells`` are (colour, path) of the inside's upper half, mirrored about ``middle``."""

    name: str
    width: int
    height: int
    left: float
    right: float
    inside_top: float
    inside_bottom: float
    middle: float
    cells: list[tuple[str, str]]
    saturation: str
    top: float
    bottom: float
    water: str
    water_line: str
    wash: str
    mean: str
    shell: str
    core: str
    past: list[tuple[str, str, str, str]]
    labels: list[CourseLabel]
    wanted: list[str]
    wanted_y: float
    start_x: float
    arrival: tuple[str, str] | None
    risks: list[tuple[str, str]]
    moistures: list[Tick]
    times: list[Tick]
    inside_times: list[Tick]
    break_y: float
    now_word: str

    @property
    def mirror(self) -> str:
        return f"{2 * self.middle:.1f}"


def course(
    answer: Answer,
    question: Question,
    start: date,
    past: list[tuple[date, float]],
    risks: list[RiskDescription],
    today: date,
    frame: Frame = WIDE,
) -> Course:
    """Geometry of the inside view above the course.

    Args:
        question: that was answered; past: the piece's own log, shown before the start; risks: those worth a mark.
    """
    answer = _near(answer, question)
    history = answer.history
    last = float(history.days[-1])
    before = [((day - start).days, moisture) for day, moisture in past if -max(60.0, last) <= (day - start).days <= last]
    first = min([0.0, *(day for day, _ in before)])
    x = Scale(first, last, frame.left, frame.right)
    # The inside is known from the start on, and has the whole width for that, with marks of time of its own.
    inside_x = Scale(0.0, last, frame.left, frame.right)
    top = TOP + INSIDE_HEIGHT + GAP
    bottom = top + COURSE_HEIGHT
    daily = _smooth_emc(question, first, last)
    edges = _edges(question, last)
    everything = np.concatenate(
        [history.core, history.shell, answer.means_high, answer.means_low, daily[1], [m for _, m in before], *(edge[1] for edge in edges)]
    )
    lowest = max(0.0, float(everything.min()) - 0.015)
    highest = min(TOP_MOISTURE, float(everything.max()) + 0.01)
    y = MoistureScale(lowest, highest, top, bottom)

    def curve(days: Any, values: Any) -> list[tuple[float, float]]:
        return [(x(float(day)), y(float(value))) for day, value in zip(days, values, strict=True)]

    surface = curve(*daily)
    ends = [("core", y(float(history.core[-1]))), ("mean", y(float(history.mean[-1]))), ("shell", y(float(history.shell[-1])))]
    heights = spread_labels([height for _, height in ends] + [surface[-1][1]], 14.5, top, bottom)
    return Course(
        name=frame.name,
        width=frame.width,
        height=int(bottom + BELOW),
        left=frame.left,
        right=frame.right,
        inside_top=TOP,
        inside_bottom=TOP + INSIDE_HEIGHT,
        middle=TOP + INSIDE_HEIGHT / 2,
        cells=_inside(history, inside_x, frame),
        saturation=_saturation_line(history, inside_x),
        top=top,
        bottom=bottom,
        water=band(surface, [(surface[0][0], bottom), (surface[-1][0], bottom)]),
        water_line=path(surface),
        wash=band(curve(history.days, answer.means_high), curve(history.days, answer.means_low)),
        mean=path(curve(history.days, history.mean)),
        shell=path(curve(history.days, history.shell)),
        core=path(curve(history.days, history.core)),
        past=[
            (tenth(x(day)), tenth(y(min(m, highest))), colour(m), f"{dates.short_day(start + timedelta(days=day))}: {points(m)}%")
            for day, m in before
        ],
        labels=[CourseLabel(tenth(height), name) for (name, _), height in zip([*ends, ("EMC", 0)], heights, strict=True)],
        wanted=[path(curve(*edge)) for edge in edges],
        wanted_y=y(float(edges[-1][1][0])),
        start_x=x(0.0),
        arrival=(
            (tenth(x(answer.days)), tenth(y(float(np.interp(answer.days, history.days, history.mean)))))
            if 0 < answer.days <= last
            else None
        ),
        risks=[(tenth(x(min(risk.day, last))), risk.name) for risk in risks],
        moistures=moisture_ticks(lowest, highest, y),
        times=_times(start, first, last, x),
        inside_times=_times(start, 0.0, last, inside_x),
        break_y=y(BREAK) if highest > BREAK else 0.0,
        now_word="now" if start == today else "start",
    )


def _near(answer: Answer, question: Question) -> Answer:
    """The answer as far as it is drawn: wood that is to stay, until some weeks after it has arrived."""
    if question.wanted is None or not np.isfinite(answer.days) or answer.already:
        return answer
    days = answer.history.days
    count = max(int(np.searchsorted(days, answer.days * 1.15 + WATCHED_AFTER_DAYS)) + 1, 8)
    if count >= days.size:
        return answer
    cut = {field.name: getattr(answer.history, field.name) for field in fields(answer.history)}
    cut = {name: value[:count] for name, value in cut.items() if isinstance(value, np.ndarray) and value.shape[0] == days.size}
    return replace(answer, history=replace(answer.history, **cut), means_low=answer.means_low[:count], means_high=answer.means_high[:count])


def _smooth_emc(question: Question, first: float, last: float) -> tuple[np.ndarray, np.ndarray]:
    """Days and the week's mean EMC about each, over the time shown; before the start the year goes round backwards."""
    days = np.linspace(first, last, 80)
    series, behind = question.setting.series, int(np.ceil(-first)) + 7
    past = series.settling[np.arange(-behind, 0) % series.settling.size]
    daily = np.concatenate([past, question.setting.settling(last + 7)])
    week = 7 if series.settling.size > 1 or question.setting.then else 1
    smooth = np.convolve(daily, np.ones(week) / week, mode="same")
    return days, smooth[np.floor(days).astype(int) + behind]


def _edges(question: Question, last: float) -> list[tuple[np.ndarray, np.ndarray]]:
    """What is wanted through the time shown: a moisture to reach, or the edges to stay within, low before high."""
    wanted = question.wanted
    days = np.linspace(0.0, last, 80) if wanted is not None and wanted.moves else np.array([0.0, last])
    if wanted is None:
        return [(days, np.full(days.size, question.target))]
    return [(days, edge) for edge in (*wanted.now_at(days), *wanted.at(days)) if edge.min() > 0 and np.isfinite(edge).all()]


def _inside(history: History, x: Scale, frame: Frame) -> list[tuple[str, str]]:
    """The upper half of the thickness as runs of equal colour, one path a colour."""
    left, right = x(0.0), x.end
    times = np.linspace(0, float(history.days[-1]), frame.columns * 2 + 1)[1::2]
    depths = (np.arange(DEPTHS) + 0.5) / DEPTHS * (history.depths_m[-1] + history.depths_m[-1] - history.depths_m[-2]) * 0.98
    rows = np.array([np.interp(times, history.days, column) for column in history.profiles.T])
    grid = np.array([np.interp(depths, history.depths_m, row) for row in rows.T]).T
    # A hair wider and higher than its share, so that no seam shows between runs.
    # Steps of a point where wood moves, coarser where it only loses free water.
    steps = np.where(grid < 0.32, np.round(grid, 2), np.round(grid / 0.04) * 0.04)
    wide, high = (right - left) / frame.columns, INSIDE_HEIGHT / 2 / DEPTHS
    result: dict[str, list[str]] = {}
    for row in range(DEPTHS):
        edges = np.flatnonzero(np.diff(steps[row])) + 1
        for begin, end in zip([0, *edges], [*edges, frame.columns], strict=True):
            run = (
                f"M{left + begin * wide:.1f}"
                f" {TOP + row * high:.1f}h{(end - begin) * wide + 0.6:.1f}v{high + 0.6:.1f}h{-(end - begin) * wide - 0.6:.1f}z"
            )
            result.setdefault(colour(float(steps[row, begin])), []).append(run)
    return [(shade, "".join(runs)) for shade, runs in result.items()]


def _saturation_line(history: History, x: Scale) -> str:
    """Where in the upper half the wood is at fibre saturation, while there is such a depth."""
    half = float(history.depths_m[-1])
    points = []
    for day, row in zip(history.days, history.profiles, strict=True):
        if row[0] < BREAK < row[-1]:
            depth = float(np.interp(BREAK, row, history.depths_m))
            points.append((x(float(day)), TOP + depth / half * INSIDE_HEIGHT / 2))
    return path(points)


# What "12 Dec" takes up along the axis of the smallest phone.
DAY_WIDE = 56.0


def _times(start: date, first: float, last: float, x: Scale) -> list[Tick]:
    """Marks of time: days for short spans, months, or years."""
    length = last - first
    if length < 75:
        # As many days as have room for their words.
        room = abs(x(last) - x(first)) / DAY_WIDE
        step = next((step for step in (1, 2, 5, 7, 14) if length / step <= room), 28)
        days = range(0, int(last) + 1, step)
        return [Tick(x(day), f"{dates.short_day(start + timedelta(days=day))}") for day in days]
    months = next((step for step in (1, 2, 3, 6, 12, 24) if length / 30.44 / step < 8), 24)
    ticks = []
    day = (start + timedelta(days=int(first))).replace(day=1)
    while (day - start).days <= last:
        position = (day - start).days
        if position >= first and (day.month - 1) % min(months, 12) == 0 and (months < 24 or day.year % 2 == 0):
            ticks.append(Tick(x(position), f"{day:%b}" if day.month > 1 and months < 12 else f"{day:%Y}"))
        day = (day + timedelta(days=32)).replace(day=1)
    return ticks


@dataclass(frozen=True)
class MonthColumn:
    """One start month: its column and what it says. ``start`` is the next first of it, to begin there."""

    x: str
    y: str
    height: str
    name: str
    days: str
    words: str
    start: date
    chosen: bool
    never: bool


@dataclass(frozen=True)
class MonthStrip:
    """The twelve start months, from January on; ``name`` is the class that shows it."""

    name: str
    width: int
    height: int
    base: float
    column: str
    bar: str
    months: list[MonthColumn]
    summary: str


STRIP_HEIGHT, STRIP_TOP, STRIP_BASE = 118, 22, 88


def month_strips(answer: Answer, start: date, today: date, frames: tuple[Frame, ...]) -> list[MonthStrip]:
    """The strip for each of the frames; none where no month makes a difference."""
    if answer.already or not np.isfinite(answer.month_days).any():
        return []
    return [month_strip(answer, start, today, frame) for frame in frames]


def month_strip(answer: Answer, start: date, today: date, frame: Frame) -> MonthStrip:
    """Columns as high as the drying is long."""
    width = frame.strip
    days = np.array(answer.month_days)
    finite = days[np.isfinite(days)]
    longest = max(float(finite.max()), 1.0) if finite.size else 1.0
    column = width / 12
    months = []
    for k in range(12):
        begin = date(today.year + (1 if k + 1 < today.month else 0), k + 1, 1)
        never = not np.isfinite(days[k])
        height = (STRIP_BASE - STRIP_TOP) * (1.0 if never else max(float(days[k]) / longest, 0.02))
        months.append(
            MonthColumn(
                x=tenth(k * column),
                y=tenth(STRIP_BASE - height),
                height=tenth(height),
                name=f"{begin:%b}",
                days="–" if never else f"{days[k]:.0f}",
                words=f"Begin in {begin:%B}: " + ("not reached" if never else f"{days[k]:.0f} days"),
                start=begin,
                chosen=begin.month == start.month,
                never=never,
            )
        )
    described = ", ".join(f"{month.name} {month.days}" for month in months)
    return MonthStrip(
        frame.name,
        width,
        STRIP_HEIGHT,
        STRIP_BASE,
        tenth(column),
        tenth(column * 0.84),
        months,
        f"Days from each start month: {described}.",
    )


def table(history: History, start: date, rows: int = 12) -> list[tuple[str, float, float, float]]:
    """The course in numbers: date, mean, shell, core at about equal steps."""
    picked = np.unique(np.linspace(0, history.days.size - 1, rows).astype(int))
    return [
        (
            dates.short_full_day(start + timedelta(days=float(history.days[k]))),
            float(history.mean[k]),
            float(history.shell[k]),
            float(history.core[k]),
        )
        for k in picked
    ]
