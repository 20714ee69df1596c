"""The demo's builds: one that can be begun, one that waits for a lot, one that is due before its wood is ready, and one that is made."""

from datetime import timedelta
from typing import Any

from django.utils import timezone

from calm_heron.air.demo import BENCH
from calm_heron.builds import actions, readiness
from calm_heron.builds.kinds import FigureKind, FitKind, MarkKind, MeasuredKind, PointsKind
from calm_heron.builds.layouts import allocation, laying
from calm_heron.builds.made import following
from calm_heron.builds.models import Build, Mark
from calm_heron.plugs import Demo
from calm_heron.stock.models import Piece
from wood.units import INCH_M

# Name, days until it is due, finish and coats, and its parts: name, count, length, width and thickness in inches, species, more.
BUILDS: tuple[tuple[str, int | None, str, int, tuple[tuple[Any, ...], ...]], ...] = (
    (
        "Hall bench",
        40,
        "linseed_oil",
        2,
        (
            ("Seat", 1, 40, 13, 1, "white_ash", {"staves": 3, "fit": FitKind.FIXED}),
            ("Leg", 4, 16.5, 1, 1, "white_ash", {"figure": FigureKind.LEG}),
            ("Long rail", 2, 35, 2.5, 0.875, "white_ash", {}),
            ("Short rail", 2, 10, 2.5, 0.875, "white_ash", {}),
        ),
    ),
    (
        "Net-loft dresser",
        200,
        "urethane_varnish",
        3,
        (
            ("Side", 2, 34, 15, 1, "white_ash", {"staves": 3, "stock": "ash-lot-01"}),
            ("Top", 1, 44, 16, 1, "white_ash", {"staves": 3, "stock": "ash-lot-01", "fit": FitKind.FIXED}),
            ("Door stile", 4, 26, 2.25, 0.8125, "white_ash", {"stock": "ash-lot-01"}),
            ("Door rail", 4, 12, 2.25, 0.8125, "white_ash", {"stock": "ash-lot-01"}),
            ("Door panel", 2, 22, 9, 0.5, "yellow_poplar", {"staves": 2, "fit": FitKind.GROOVE, "figure": FigureKind.UP}),
            ("Drawer front", 2, 19, 4, 0.75, "yellow_poplar", {"fit": FitKind.INSET, "figure": FigureKind.ALONG}),
        ),
    ),
    (
        "Ferry-house table",
        95,
        "tung_oil",
        3,
        (
            ("Top", 1, 66, 32, 0.875, "white_ash", {"staves": 6, "fit": FitKind.FIXED, "stock": "ash-lot-01"}),
            ("Leg", 4, 28, 1.75, 1.75, "european_beech", {"figure": FigureKind.LEG, "extra_thickness_m": 0.003}),
            ("Apron, long", 2, 52, 3.5, 0.875, "white_ash", {"stock": "ash-lot-01"}),
            ("Apron, short", 2, 22, 3.5, 0.875, "white_ash", {"stock": "ash-lot-01"}),
        ),
    ),
)
# One that was made: when, what its wood was at, and what was measured since: part, what, days after it was made, and how far from what was
# forecast for that day (inches; points of moisture as a fraction).
MADE_DAYS, MADE_AT = 150, 0.089
MADE: tuple[str, str, int, tuple[tuple[Any, ...], ...]] = (
    "Light-room chest",
    "urethane_varnish",
    2,
    (
        ("Lid", 1, 38, 18, 0.875, "white_ash", {"staves": 4, "fit": FitKind.FIXED}),
        ("Panel", 4, 15, 9, 0.5, "yellow_poplar", {"fit": FitKind.GROOVE, "figure": FigureKind.UP}),
        ("Drawer front", 2, 17, 6, 0.75, "yellow_poplar", {"fit": FitKind.INSET, "figure": FigureKind.ALONG}),
        ("Stile", 8, 17, 2.25, 0.875, "white_ash", {}),
    ),
)
MEASURED = (
    ("Lid", MeasuredKind.WIDTH, 1, 1 / 64 * INCH_M),
    ("Drawer front", MeasuredKind.GAP, 2, 0.0),
    ("Drawer front", MeasuredKind.GAP, 71, -0.008 * INCH_M),
    ("Lid", MeasuredKind.MOISTURE, 118, -0.006),
    ("Lid", MeasuredKind.WIDTH, 143, 0.012 * INCH_M),
)
MOST_FORECASTS = 50
# What was marked on boards: tag, what, from and to along and across in inches.
MARKS = (
    ("ash-01", MarkKind.KNOT, 51, 54, 4, 6.5),
    ("ash-02", MarkKind.CHECK, 89, 95, 3, 4),
    ("poplar-01", MarkKind.SAPWOOD, 0, 96, 0, 0.75),
    ("poplar-01", MarkKind.CATHEDRAL, 30, 95, 0.75, 8),
)


def load(demo: Demo) -> None:
    """Three builds, laid on boards, and one that is made."""
    wren = demo.people[0]
    pieces = {piece.tag: piece for piece in Piece.objects.of(demo.workshop)}
    for tag, kind, x0, x1, y0, y1 in MARKS:
        sizes = {name: value * INCH_M for name, value in (("x0_m", x0), ("x1_m", x1), ("y0_m", y0), ("y1_m", y1))}
        Mark.objects.create(
            workshop=demo.workshop,
            piece=pieces[tag],
            kind=kind,
            by=wren.person,
            at=demo.now - timedelta(days=4),
            points=PointsKind.RIGHT if kind == MarkKind.CATHEDRAL else "",
            **sizes,
        )
    for name, days, finish, coats, parts in BUILDS:
        due = None if days is None else timezone.localdate() + timedelta(days=days)
        build = actions.make_build(wren, name=name, place=demo.made[BENCH], due=due, finish=finish, coats=coats)
        actions.add_parts(wren, build, [_figures(part, pieces) for part in parts])
        laying.lay_out(wren, build, Build.objects.get(pk=build.pk).version)
        # Its wood's forecasts go along with every copy, so that nobody's first page waits for them.
        readiness.state_of(allocation.saw(Build.objects.select_related("place", "workshop").get(pk=build.pk)), wren, at_once=MOST_FORECASTS)

    _made(demo)


def _made(demo: Demo) -> None:
    """One that has been made, and was measured now and then."""
    wren, (name, finish, coats, parts) = demo.people[0], MADE
    build = actions.make_build(wren, name=name, place=demo.made[BENCH], finish=finish, coats=coats)
    rows = actions.add_parts(wren, build, [_figures(part, {}) for part in parts])
    build.refresh_from_db()
    build.change(done_on=timezone.localdate() - timedelta(days=MADE_DAYS))
    of_name = {part.name: part for part in rows}
    following.keep_as_made(readiness.state_of(allocation.saw(build), wren))
    for row in rows:
        build.refresh_from_db()
        following.correct(wren, build, build.version, row.pk, moisture=MADE_AT)
    for part, what, day, off in MEASURED:
        build_year = following.follow(readiness.state_of(allocation.saw(build), wren))
        own = next(item.year for item in build_year.parts if item.part.name == part)
        assert own is not None
        line = {MeasuredKind.WIDTH: own.width_m, MeasuredKind.MOISTURE: own.moisture, MeasuredKind.GAP: own.gap_m}[what]
        assert line is not None
        following.measure(wren, build, of_name[part].pk, what, float(line[day]) + off, build_year.since + timedelta(days=day))


def _figures(part: tuple[Any, ...], pieces: dict[str, Piece]) -> dict[str, Any]:
    name, count, length, width, thickness, species, more = part
    figures = {
        "name": name,
        "count": count,
        "length_m": length * INCH_M,
        "width_m": width * INCH_M,
        "thickness_m": thickness * INCH_M,
        "species_key": species,
    }
    return figures | more | ({"stock": pieces[more["stock"]]} if "stock" in more else {})
