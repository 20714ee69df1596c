"""The waterline chart: time left to right, moisture up; the place's level as water, each piece a thread that comes down to it."""

from dataclasses import dataclass, field
from datetime import date, datetime, timedelta, tzinfo
from functools import lru_cache
from typing import Any

import numpy as np
from django.utils import timezone
from django.utils.html import escape
from django.utils.safestring import SafeString, mark_safe

from calm_heron.air.queries import Level, Week
from calm_heron.drying.forecasts import Known
from calm_heron.drying.models import Forecast
from calm_heron.site import numbers
from calm_heron.site.dates import day as day_of
from calm_heron.site.dates import short_day
from calm_heron.site.drawing import BREAK, MoistureScale, Scale, Tick, band, moisture_ticks, path, shortened, spread_labels, tenth
from calm_heron.site.ramp import colour
from calm_heron.stock.models import Piece

TOP, BOTTOM = 18, 34
TOP_MOISTURE = 1.2
# Between the last mark and its label, and how wide a letter of a label is, in drawing units.
LABEL_GAP, LETTER = 10, 6.7
NOW_WORD = 26


@dataclass(frozen=True)
class TodayFrame:
    """The size of the drawing, where its axes lie, how many threads have room for a label, how many weeks ahead
    it shows, and how far labels stand apart."""

    width: int
    height: int
    left: int
    right_margin: int
    threads: int
    ahead: int
    label_gap: int
    # Whether its marks say what they are: once for both sizes is enough.
    titled: bool

    @property
    def right(self) -> int:
        return self.width - self.right_margin

    @property
    def bottom(self) -> int:
        return self.height - BOTTOM


# A finger has room on each label, on the narrowest phone, too.
WIDE = TodayFrame(680, 366, 40, 122, 11, 18, 27, True)
NARROW = TodayFrame(380, 372, 30, 118, 9, 12, 33, False)


@dataclass(frozen=True)
class TodayScene:
    """What the chart is of: the place's level week by week since a moment and as its year goes on (day, EMC), its level now, what is
    wanted and how near to it, and pieces with their daily mean moistures and newest forecasts, by piece id."""

    weeks: list[Week]
    level: Level | None
    tolerance: float
    means: dict[int, list[tuple[date, float]]]
    pieces: list[Piece]
    since: datetime
    wanted: float | None = None
    ahead: list[tuple[date, float]] = field(default_factory=list)
    forecasts: dict[int, Known] = field(default_factory=dict)


@dataclass(frozen=True)
class TodayThread:
    """A piece's logged moistures: its line, its marks, the leader to its label, and the label's height. What is
    forecast: its course, the widening wash about it, and where it may be worked from."""

    tag: str
    path: str
    marks: SafeString
    leader: str
    label: str
    label_y: str
    moisture: str
    course: str = ""
    wash: str = ""
    arrival: tuple[str, str, str] | None = None


@dataclass(frozen=True)
class Waterline:
    width: int
    height: int
    left: float
    right: float
    top: float
    bottom: float
    now_x: float
    water: str
    water_line: str
    water_ahead: str
    uncertainty: str
    tolerance: str
    level_y: float | None
    threads: list[TodayThread]
    margin: int
    label_gap: int
    months: list[Tick]
    moistures: list[Tick]
    break_y: float
    summary: str


def waterline(scene: TodayScene, frame: TodayFrame = WIDE) -> Waterline:
    """Geometry of the chart."""
    now = timezone.now()
    level, tolerance = scene.level, scene.tolerance
    pieces = scene.pieces[: frame.threads]
    means = {piece.pk: scene.means[piece.pk] for piece in pieces if piece.pk in scene.means}
    forecasts = {pk: scene.forecasts[pk].forecast for pk in means if pk in scene.forecasts}
    until = now + timedelta(weeks=frame.ahead) if forecasts or scene.ahead else now
    x = Scale(scene.since.timestamp(), until.timestamp(), frame.left, frame.right)
    now_x = x(now.timestamp())
    ahead = [(_x(x, day), emc) for day, emc in scene.ahead if now.date() < day <= until.date()]
    values = [moisture for days in means.values() for _, moisture in days] + [low for row in forecasts.values() for low in row.curve_low]
    levels = [week.emc for week in scene.weeks] + [emc for _, emc in ahead] + ([level.emc] if level else [])
    levels += [scene.wanted] if scene.wanted else []
    lowest = max(0.0, min([*values, *levels, 0.08]) - 0.03)
    highest = min(max([*values, *levels, 0.16]) + 0.02, TOP_MOISTURE)
    y = MoistureScale(lowest, highest, TOP, frame.bottom)
    # The last week's mean is carried on to now at the level as it is, so that the line ends where it stands.
    line = [(_x(x, week.monday, 3), week.emc, week.tolerance) for week in scene.weeks]
    line = [(max(px, frame.left), emc, uncertainty) for px, emc, uncertainty in line if px < now_x]
    if level:
        line.append((now_x, level.emc, level.tolerance))
        line = [(frame.left, *line[0][1:]), *line]
    surface = [(px, y(emc)) for px, emc, _ in line]
    later = [surface[-1], *((px, y(emc)) for px, emc in ahead)] if surface and ahead else []
    end = (later or surface or [(now_x, 0.0)])[-1][0]
    edges = [(frame.left, scene.wanted), (end, scene.wanted)] if scene.wanted else [(px, emc) for px, emc, _ in line]
    threads = _threads(means, pieces, forecasts, x, y, frame)
    return Waterline(
        width=frame.width,
        height=frame.height,
        left=frame.left,
        right=frame.right,
        top=TOP,
        bottom=frame.bottom,
        now_x=now_x,
        water=band([*surface, *later[1:]], [(frame.left, frame.bottom), (end, frame.bottom)]) if surface else "",
        water_line=path(surface),
        water_ahead=path(later),
        uncertainty=band(
            [(px, y(emc + uncertainty)) for px, emc, uncertainty in line],
            [(px, y(max(lowest, emc - uncertainty))) for px, emc, uncertainty in line],
        ),
        tolerance=band([(px, y(emc + tolerance)) for px, emc in edges], [(px, y(max(lowest, emc - tolerance))) for px, emc in edges]),
        level_y=y(level.emc) if level else None,
        threads=threads,
        margin=frame.right_margin,
        label_gap=frame.label_gap,
        # The word “now” stands among them.
        months=[tick for tick in _months(scene.since, until, x) if abs(tick.at - now_x) > NOW_WORD],
        moistures=moisture_ticks(lowest, highest, y),
        break_y=y(BREAK) if highest > BREAK else 0.0,
        summary=_summary(level, threads),
    )


def _x(x: Scale, day: date, plus_days: float = 0.5) -> float:
    return min(max(x(_midnight(day, timezone.get_current_timezone()) + plus_days * 86_400), x.start), x.end)


@lru_cache(4096)
def _midnight(day: date, zone: tzinfo) -> float:
    return datetime(day.year, day.month, day.day, tzinfo=zone).timestamp()


def _threads(
    means: dict[int, list[tuple[date, float]]],
    pieces: list[Piece],
    forecasts: dict[int, Forecast],
    x: Scale,
    y: MoistureScale,
    frame: TodayFrame,
) -> list[TodayThread]:
    made = []
    for piece in pieces:
        days = means.get(piece.pk)
        if not days:
            continue
        points = [(_x(x, day), y(moisture)) for day, moisture in days]
        marks = mark_safe("".join(_mark(piece.tag, at, day, moisture, frame) for at, (day, moisture) in zip(points, days, strict=True)))
        course, drawn = points[-1:], dict[str, Any]()
        if piece.pk in forecasts:
            drawn, course = _forecast(forecasts[piece.pk], points[-1], x, y, frame)
        made.append((piece.tag, path(points), marks, course[-1], numbers.points(days[-1][1]), drawn))
    # From the top down as the threads end, so that no leader crosses another.
    made.sort(key=lambda one: one[3][1])
    heights = spread_labels([end[1] for _, _, _, end, _, _ in made], frame.label_gap, TOP + 6, frame.bottom)
    return [
        TodayThread(
            tag,
            line,
            marks,
            path([end, (frame.right, height), (frame.right + 6, height)]),
            _label(tag, moisture, frame),
            tenth(height),
            moisture,
            **drawn,
        )
        for (tag, line, marks, end, moisture, drawn), height in zip(made, heights, strict=True)
    ]


def _mark(tag: str, at: tuple[float, float], day: date, moisture: float, frame: TodayFrame) -> str:
    """A mark as it is drawn: there are hundreds, and a template would take most of the page's time for them."""
    title = f"<title>{escape(tag)}, {short_day(day)}: {numbers.points(moisture)}%</title>" if frame.titled else ""
    return f'<circle class="mark" cx="{tenth(at[0])}" cy="{tenth(at[1])}" r="4" fill="{colour(moisture)}">{title}</circle>'


def _forecast(
    row: Forecast, last: tuple[float, float], x: Scale, y: MoistureScale, frame: TodayFrame
) -> tuple[dict[str, Any], list[tuple[float, float]]]:
    """The course that is forecast from the last mark on, its wash and its arrival; and the points of the course."""
    begun = row.at.timestamp()
    reaches = (x.high - begun) / 86_400
    days = np.array(row.curve_days)
    inside = np.append(days[days < min(reaches, days[-1])], min(reaches, days[-1]))
    if inside.size < 2:
        return {}, [last]

    def curve(column: list[float]) -> list[tuple[float, float]]:
        values = np.interp(inside, days, column)
        return [(x(begun + day * 86_400), y(value)) for day, value in zip(inside.tolist(), values.tolist(), strict=True)]

    course = [last, *(point for point in curve(row.curve_mean) if point[0] > last[0])]
    drawn: dict[str, Any] = {"course": path(course), "wash": band(curve(row.curve_high), curve(row.curve_low))}
    if row.days is not None and 0 < row.days < reaches:
        px, height = x(begun + row.days * 86_400), y(float(np.interp(row.days, days, row.curve_mean)))
        ready = row.day + timedelta(days=round(row.days))
        drawn["arrival"] = (tenth(px), tenth(height), f"ready to work about {day_of(ready)}")
    return drawn, course


def _label(tag: str, moisture: str, frame: TodayFrame) -> str:
    """Tag and moisture where there is room for both, else as much of the tag as there is."""
    room = int((frame.right_margin - LABEL_GAP) / LETTER)
    whole = f"{tag} {moisture}"
    return whole if len(whole) <= room else shortened(tag, room)


def _months(since: datetime, now: datetime, x: Scale) -> list[Tick]:
    ticks, first = [], (since.replace(day=1) + timedelta(days=32)).replace(day=1)
    while first < now:
        ticks.append(Tick(_x(x, first.date(), 0), f"{first:%b}"))
        first = (first + timedelta(days=32)).replace(day=1)
    return ticks


def _summary(level: Level | None, threads: list[TodayThread]) -> str:
    water = f"The air there settles wood at {numbers.points(level.emc)} percent. " if level else "Its air is not known. "
    return water + (", ".join(f"{thread.tag} {thread.moisture} percent" for thread in threads) or "No piece was read yet.")
