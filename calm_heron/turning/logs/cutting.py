"""A log to be cut: its end as it was drawn, what its ends have lost, and the plans that come of it."""

import math
from dataclasses import dataclass, replace
from datetime import timedelta
from typing import Any

from django.core.exceptions import ValidationError

from calm_heron.air import queries as air
from calm_heron.air.kinds import PlaceKind
from calm_heron.drying import methods
from calm_heron.drying import queries as drying
from calm_heron.drying.queries import NoAir
from calm_heron.questions.tools import Bound, Gist, Put
from calm_heron.site.memory import Memory, digest_of
from calm_heron.stock import woods
from calm_heron.stock.kinds import TRAITS
from calm_heron.stock.models import Piece
from calm_heron.turning.forms import CutForm, knots_of, strokes_of
from calm_heron.workshops.askers import Asker
from calm_heron.workshops.models import Workshop
from wood.drying.diffusivity import of_species as figures_of
from wood.errors import CannotRead, NotKnown, OutOfRange
from wood.species import Species
from wood.turning import cuts, squares
from wood.turning.blanks import LEAST_BOWL_M, Cuts, Kind, Plan, Shape, Square, Wanted
from wood.turning.bowls import Rim
from wood.turning.logs import FORKED, LogEnd, Stroke, Trunk, lost_at_end_m

USUAL_WIDTH_M, USUAL_LENGTH_M = 0.40, 0.50


@dataclass(frozen=True)
class LogToCut:
    """A log as it is asked about. ``lost_m`` is what each end is predicted to have lost, ``None`` where nothing tells of its wood; ``own``
    are lines that somebody drew, ``kind`` the plan that is looked at."""

    log: LogEnd
    species: Species
    wanted: Wanted
    lost_m: float | None
    days: int
    sealed: bool
    kind: Kind | None
    own: Cuts | None
    own_off_m: float | None
    side_m: float | None


@dataclass(frozen=True)
class LogCut:
    """The plans, the one that is looked at, and squares where they were asked for; ``best`` is what a line that was moved is held
    against.
    """

    question: LogToCut
    plans: tuple[Plan, ...]
    chosen: Plan | None
    best: Plan | None
    angle_deg: float = 0.0
    squares: tuple[Square, ...] = ()


def log_of(asker: Asker, tag: str) -> Piece | None:
    """The log of the workshop with a tag."""
    return log_named(asker.workshop, tag) if asker.is_member else None


def log_named(workshop: Workshop, tag: str) -> Piece | None:
    """The log with a tag."""
    logs = Piece.objects.of(workshop).filter(tag__iexact=tag[:60], kind__in=[kind for kind, traits in TRAITS.items() if traits.gives])
    return logs.select_related("place", "workshop").first() if tag else None


def put(form: CutForm, asker: Asker, piece: Piece | None) -> Put[LogToCut]:
    """A valid form as a question.

    Raises:
        ValidationError: what cannot be in this log, which then stands beside its field. OutOfRange.
    """
    try:
        return Put(question_from(form, piece))
    except OutOfRange as beyond:
        if beyond.field == "second_pith":
            form.add_error("second_x_m", "The second pith lies outside the log, or on the first one.")
        elif beyond.field == "pith":
            form.add_error("pith_x_m", "The pith lies outside the log: its shares of both half diameters together must stay below one.")
        elif beyond.field == "strokes":
            form.add_error("checks", "A check lies outside the log, or there are more than forty. Draw it again within the bark.")
        elif beyond.field == "depth_m":
            form.add_error("checks", "A check goes deeper than the log is long.")
        else:
            raise
    except CannotRead as unread:
        form.add_error("checks", unread.why)
    raise ValidationError("errors")


def gist(cut_log: LogCut) -> Gist:
    """The plan that is looked at: how many bowls, the largest, and whether a check runs through one."""
    plan = cut_log.chosen
    if plan is None or not plan.blanks:
        return Gist("squares" if cut_log.squares else "firewood")
    dangerous = any(blank.is_dangerous for blank in plan.blanks)
    return Gist("dangerous" if dangerous else plan.kind, {"bowls": Bound(float(plan.bowls)), "largest_m": Bound(plan.largest_m)})


def question_from(form: CutForm, piece: Piece | None) -> LogToCut:
    """A valid form as a question.

    Raises:
        OutOfRange, CannotRead: a pith or a check that cannot be in this log.
    """
    typed = form.cleaned_data
    species = woods.species_of(form.workshop.pk, typed["species_key"] or "black_cherry")
    width = typed["width_m"] or USUAL_WIDTH_M
    trunk, height = Trunk(form.chosen("trunk")), typed["height_m"] or width
    # Where nobody says, the second pith lies a third of the way to the bark from the first, across.
    first_x, first_y = typed["pith_x_m"] or 0.0, typed["pith_y_m"] or 0.0
    second_x, second_y = typed["second_x_m"], typed["second_y_m"]
    if trunk is Trunk.CROTCH and second_x is None and second_y is None:
        first_x = first_x if typed["pith_x_m"] is not None else -FORKED / 2 * width
        second_x, second_y = first_x + FORKED * width, first_y
    bare = LogEnd(
        width,
        height,
        typed["length_m"] or USUAL_LENGTH_M,
        first_x if trunk is not Trunk.BURL else 0.0,
        first_y if trunk is not Trunk.BURL else 0.0,
        typed["soft_m"] or 0.0,
        both_ends=form.chosen("checked") != "one",
        trunk=trunk,
        second_x_m=second_x or 0.0,
        second_y_m=second_y or 0.0,
    )
    log = replace(
        bare,
        strokes=(*strokes_of(typed["strokes"]), *(_by_numbers(bare, item) for item in typed["checks"])),
        knots=knots_of(typed["strokes"]),
    )
    days, sealed = typed["felled_days"] or 0, form.chosen("ends") == "sealed"
    own = None
    if typed["angle"] is not None and typed["upper"] is not None and typed["lower"] is not None:
        own = Cuts(typed["angle"] % 180.0, _near(typed["upper"]), _near(typed["lower"]))
    wanted = Wanted(
        typed["least_m"] or LEAST_BOWL_M,
        rim=Rim(form.chosen("rim")),
        shape=Shape(form.chosen("shape")),
        diameter_m=typed["diameter_m"],
        plank_m=typed["plank_m"] or 0.0,
    )
    lost = _lost(form, piece, species, days, sealed=sealed)
    lost = None if lost is None else min(lost, 0.45 * log.length_m)
    off = None if typed["off"] is None else min(max(typed["off"], 0.0), 0.45 * log.length_m)
    kind = Kind(typed["plan"]) if typed["plan"] else None
    return LogToCut(log, species, wanted, lost, days, sealed, kind, own, off, typed["side_m"])


def _near(metres: float) -> float:
    return min(max(metres, -0.9), 0.9)


def _by_numbers(log: LogEnd, item: dict[str, Any]) -> Stroke:
    """A check by the clock's hour and shares of the way from the pith to the bark."""
    angle = math.pi / 2 - item["hour"] * math.pi / 6
    dx, dy = math.cos(angle), math.sin(angle)
    a = (2 * dx / log.width_m) ** 2 + (2 * dy / log.height_m) ** 2
    b = (2 / log.width_m) ** 2 * log.pith_x_m * dx + (2 / log.height_m) ** 2 * log.pith_y_m * dy
    c = log.share_of(log.pith_x_m, log.pith_y_m) ** 2 - 1
    reach = (-b + math.sqrt(max(b * b - a * c, 0.0))) / a
    ends = tuple((log.pith_x_m + share * reach * dx, log.pith_y_m + share * reach * dy) for share in (item["begin"], item["end"]))
    return Stroke(ends, None if item["depth"] is None else min(item["depth"], log.length_m))


def _lost(form: CutForm, piece: Piece | None, species: Species, days: int, *, sealed: bool) -> float | None:
    """What each end has lost since it was cut: outdoors where the log lies, or in the usual climate."""
    try:
        figures = figures_of(species)
    except NotKnown:
        return None
    places = list(air.places(form.workshop)) if form.workshop.pk else []
    place = (
        piece.place
        if piece is not None and piece.place is not None
        else next((place for place in places if place.kind == PlaceKind.YARD), None)
    )
    begun = drying.today() - timedelta(days=days)
    around = drying.surroundings(places, f"place-{place.pk}" if place else drying.USUAL_PATTERN, methods.of_a_log(), begun)
    if isinstance(around, NoAir):
        around = drying.surroundings([], drying.USUAL_PATTERN, methods.of_a_log(), begun)
    if isinstance(around, NoAir):
        return None
    return lost_at_end_m(figures, max(figures.green_moisture, 0.1), float(days), around.setting.series, sealed=sealed)


# The same log is looked at again with every line that is moved.
_plans: Memory[tuple[Plan, ...]] = Memory(64)


def answered(question: LogToCut) -> LogCut:
    """What comes out of a log.

    Raises:
        OutOfRange.
    """
    off = question.lost_m or 0.0
    result = _plans.get(digest_of((question.log, question.wanted, round(off, 4))), lambda: cuts.plans(question.log, question.wanted, off))
    best = result[0] if result else None
    chosen = next((plan for plan in result if plan.kind is question.kind), best)
    if question.own is not None:
        # A line that is moved leaves the rest as it was: what is cut off the ends, too.
        cut_off_m = off if best is None else best.cut_off_m
        chosen = cuts.along_cuts(
            question.log, question.own, question.wanted, cut_off_m if question.own_off_m is None else question.own_off_m, off
        )
    elif question.wanted.diameter_m is not None and chosen is not None:
        chosen = cuts.along_cuts(question.log, chosen.cuts, question.wanted, chosen.cut_off_m, off)
    angle, found_squares = squares.squares(question.log, question.side_m, cut_off_m=off) if question.side_m else (0.0, ())
    return LogCut(question, result, chosen, best, angle, found_squares)
