"""The waterline chart: time left to right, moisture up; the place's level as water, each piece a thread that comes down to it."""

from dataclasses import dataclass
from datetime import date, datetime, timedelta

from django.utils import timezone

from calm_heron.air.queries import Level, Week
from calm_heron.site import numbers
from calm_heron.site.drawing import BREAK, MoistureScale, Scale, Tick, band, moisture_ticks, path, spread_labels, tenth
from calm_heron.site.ramp import colour
from calm_heron.stock.models import Piece

TOP, BOTTOM = 18, 34
TOP_MOISTURE = 1.2
# Between the last mark and its label, and how wide a letter of a label is, in drawing units.
LABEL_GAP, LETTER = 10, 6.7


@dataclass(frozen=True)
class Frame:
    """The size of the drawing, where its axes lie, and how many threads have room for a label."""

    width: int
    height: int
    left: int
    right_margin: int
    threads: int

    @property
    def right(self) -> int:
        return self.width - self.right_margin

    @property
    def bottom(self) -> int:
        return self.height - BOTTOM


WIDE = Frame(900, 420, 44, 118, 18)
NARROW = Frame(380, 420, 30, 104, 10)


@dataclass(frozen=True)
class Thread:
    """A piece's logged moistures: its line, its marks (x, y, colour, title), the leader to its label, and the label's height."""

    tag: str
    path: str
    marks: list[tuple[str, str, str, str]]
    leader: str
    label: str
    label_y: str
    moisture: str


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
    doubt: str
    tolerance: str
    level_y: float | None
    threads: list[Thread]
    months: list[Tick]
    moistures: list[Tick]
    break_y: float
    summary: str


def waterline(
    weeks: list[Week],
    level: Level | None,
    tolerance: float,
    means: dict[int, list[tuple[date, float]]],
    pieces: list[Piece],
    since: datetime,
    frame: Frame = WIDE,
) -> Waterline:
    """Geometry of the chart.

    Args:
        weeks: the place's level through the time shown; level: its level now, or None.
        tolerance: what the use allows, drawn as the band's edges.
        means: daily mean moistures by piece id; pieces: those to draw; since: where the time begins; frame: the size.
    """
    now = timezone.now()
    means = {piece.pk: means[piece.pk] for piece in pieces[: frame.threads] if piece.pk in means}
    x = Scale(since.timestamp(), now.timestamp(), frame.left, frame.right)
    values = [moisture for days in means.values() for _, moisture in days]
    levels = [week.emc for week in weeks] + ([level.emc] if level else [])
    lowest = max(0.0, min([*values, *levels, 0.08]) - 0.03)
    highest = min(max([*values, *levels, 0.16]) + 0.02, TOP_MOISTURE)
    y = MoistureScale(lowest, highest, TOP, frame.bottom)
    # The last week's mean is carried on to now at the level that verdicts use, so that the line ends where they stand.
    line = [(_x(x, week.monday, 3), week.emc, week.tolerance) for week in weeks]
    line = [(max(px, frame.left), emc, doubt) for px, emc, doubt in line if px < frame.right]
    if level:
        line.append((frame.right, level.emc, level.tolerance))
        line = [(frame.left, *line[0][1:]), *line]
    surface = [(px, y(emc)) for px, emc, _ in line]
    threads = _threads(means, pieces[: frame.threads], x, y, frame)
    return Waterline(
        width=frame.width,
        height=frame.height,
        left=frame.left,
        right=frame.right,
        top=TOP,
        bottom=frame.bottom,
        now_x=frame.right,
        water=band(surface, [(frame.left, frame.bottom), (frame.right, frame.bottom)]) if surface else "",
        water_line=path(surface),
        doubt=band([(px, y(emc + doubt)) for px, emc, doubt in line], [(px, y(max(lowest, emc - doubt))) for px, emc, doubt in line]),
        tolerance=band([(px, y(emc + tolerance)) for px, emc, _ in line], [(px, y(max(lowest, emc - tolerance))) for px, emc, _ in line]),
        level_y=y(level.emc) if level else None,
        threads=threads,
        months=_months(since, now, x),
        moistures=moisture_ticks(lowest, highest, y),
        break_y=y(BREAK) if highest > BREAK else 0.0,
        summary=_summary(level, threads),
    )


def _x(x: Scale, day: date, plus_days: float = 0.5) -> float:
    midnight = datetime(day.year, day.month, day.day, tzinfo=timezone.get_current_timezone())
    return min(max((x(midnight.timestamp() + plus_days * 86_400)), x.start), x.end)


def _threads(means: dict[int, list[tuple[date, float]]], pieces: list[Piece], x: Scale, y: MoistureScale, frame: Frame) -> list[Thread]:
    made = []
    for piece in pieces:
        days = means.get(piece.pk)
        if not days:
            continue
        points = [(_x(x, day), y(moisture)) for day, moisture in days]
        marks = [
            (tenth(px), tenth(py), colour(moisture), f"{piece.tag}, {day:%-d %b}: {numbers.points(moisture)} %")
            for (px, py), (day, moisture) in zip(points, days, strict=True)
        ]
        made.append((piece.tag, path(points), marks, points[-1], numbers.points(days[-1][1])))
    heights = spread_labels([end[1] for *_, end, _ in made], 14.5, TOP + 6, frame.bottom)
    return [
        Thread(
            tag,
            line,
            marks,
            path([end, (frame.right, height), (frame.right + 6, height)]),
            _label(tag, moisture, frame),
            tenth(height),
            moisture,
        )
        for (tag, line, marks, end, moisture), height in zip(made, heights, strict=True)
    ]


def _label(tag: str, moisture: str, frame: Frame) -> str:
    """Tag and moisture where there is room for both, else as much of the tag as there is."""
    room = int((frame.right_margin - LABEL_GAP) / LETTER)
    whole = f"{tag} {moisture}"
    return whole if len(whole) <= room else tag if len(tag) <= room else f"{tag[: room - 1]}…"


def _months(since: datetime, now: datetime, x: Scale) -> list[Tick]:
    ticks, first = [], (since.replace(day=1) + timedelta(days=32)).replace(day=1)
    while first < now:
        ticks.append(Tick(_x(x, first.date(), 0), f"{first:%b}"))
        first = (first + timedelta(days=32)).replace(day=1)
    return ticks


def _summary(level: Level | None, threads: list[Thread]) -> str:
    water = f"The level is {numbers.points(level.emc)} percent. " if level else "No level is known. "
    return water + (", ".join(f"{thread.tag} {thread.moisture} percent" for thread in threads) or "No piece was read yet.")
