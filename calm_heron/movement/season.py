"""A season of every species side by side, and a finished piece that moves from one place to another."""

from dataclasses import dataclass

from django.core.exceptions import ValidationError

from calm_heron.movement import season_drawings
from calm_heron.movement.things import queries
from calm_heron.movement.things.forms import DialForm, ElsewhereForm
from calm_heron.movement.things.homes import Home
from calm_heron.movement.things.queries import USUAL_THICKNESS_M, StillToSay
from calm_heron.movement.things.thing import FATES, LEAST_TOLD_M, month_of, strength_of
from calm_heron.site.numbers import percent
from calm_heron.stock import woods
from wood.air.climate import YEAR_DAYS
from wood.movement import course as courses
from wood.movement import restraint, seasons, shrinkage
from wood.movement.course import Course
from wood.movement.restraint import FASTENINGS, Held
from wood.movement.seasons import Season
from wood.movement.shrinkage import size_ratio
from wood.movement.widths import SPREAD, Strip, swing, swing_of_air
from wood.written import cut_length

USUAL_WIDTH_M = 0.3
SORTS = {
    "flat": lambda one: one.flat_m, "quarter": lambda one: one.quarter_m, "ratio": lambda one: one.ratio,
    "name": lambda one: one.species.common_name.casefold(),
}  # fmt: skip


@dataclass(frozen=True)
class Line:
    """One species of the dial: a point's movement as a share of the width, and both bars as shares of the longest."""

    season: Season
    flat_point: float
    quarter_point: float
    flat_bar: float
    quarter_bar: float


def shown(form: DialForm, home: Home, workshop) -> dict:
    """Every species through the season of a home, by its air alone; the one that was chosen through its real year as well."""
    width = form.cleaned_data["width_m"] or USUAL_WIDTH_M
    if home.series is None:
        low, high = home.low, home.high
    else:
        level = courses.level_of(home.series)[-YEAR_DAYS:]
        low, high = float(level.min()), float(level.max())
    book = [one for one in woods.of_workshop(workshop.pk).values() if one.is_wood]
    known, unknown = seasons.dial(book, width, low, high)
    known.sort(key=SORTS[form.cleaned_data["sort"] or "flat"])
    most = max((one.flat_m for one in known), default=1.0)
    page = {"home": home, "low": low, "high": high, "width": width, "seasons": known, "unknown": unknown, "most": most}
    page["lines"] = [
        Line(one, one.flat_point_m / width, one.quarter_point_m / width, 100 * one.flat_m / most, 100 * one.quarter_m / most)
        for one in known
    ]
    if form.cleaned_data["species_key"]:
        page |= _chosen(form.cleaned_data["species_key"], known, home, workshop, width)
    return page


def _chosen(key: str, known: list[Season], home: Home, workshop, width: float) -> dict:
    """One species' own year, bare and an inch thick: its real swing beside that of its air."""
    found = next((one for one in known if one.species.key == key), None)
    if found is None:
        return {"chosen_unknown": woods.species_of(workshop.pk, key)}
    course = queries.course_of(queries.figures_of(found.species), USUAL_THICKNESS_M, None, home, None, 0.0)
    year = course.mean[-YEAR_DAYS - 1 :]
    figures = shrinkage.of_species(found.species)

    def moves(across: float) -> float:
        return width * (
            size_ratio(across, course.built, float(year.max()), figures.fibre_saturation)
            - size_ratio(across, course.built, float(year.min()), figures.fibre_saturation)
        )

    return {
        "chosen": found, "course": course, "real_flat": moves(figures.tangential), "real_quarter": moves(figures.radial),
        "dial": season_drawings.dial(course), "paced": course.paced,
    }  # fmt: skip


def moved_elsewhere(form: ElsewhereForm) -> dict:
    """Two years of a piece in another place, having lived in one until it had settled.

    Raises:
        StillToSay, NoShrinkage, ValidationError: see :func:`calm_heron.movement.things.queries.asked`.
    """
    cleaned = form.cleaned_data
    species, figures = queries.wood_of(form)
    here, there, finish = form.home_fields.read(), form.there.read(), queries.finish_of(form)
    if form.errors:
        raise ValidationError("errors")
    if here is None or there is None:
        raise StillToSay("Name the moistures of each place, at its driest and at its dampest.")
    thickness, width = cleaned["thickness_m"] or USUAL_THICKNESS_M, cleaned["width_m"] or USUAL_WIDTH_M
    day, pace = queries.first_day(form), queries.figures_of(species)
    before = queries.course_of(pace, thickness, cleaned["built"], here, finish, day)
    # It leaves as its last day there left it.
    leaves = float(before.mean[-1])
    course = queries.course_of(pace, thickness, leaves, there, finish, day, before.doubt)
    strip = Strip(figures, float(cleaned["grain"] or 0), width)
    moved, air = swing([strip], course), swing_of_air([strip], course)
    strength = strength_of(species)
    held = strength and restraint.held(
        strength, strip.ring_angle_deg, width, moved.shrink_m, width * thickness, FASTENINGS["glue_and_screws"],
        doubt=max(SPREAD, min(1.5, moved.shrink_doubt_m / 2 / max(moved.shrink_m, 1e-6))),
    )  # fmt: skip
    return {
        "species": species, "leaves_from": here, "goes_to": there, "before": before, "course": course, "leaves": leaves, "swing": moved, "air": air,
        "held": held, "width": width, "thickness": thickness, "finish": finish, "half_day": _half_way(course),
        "charts": [("wide-only", season_drawings.chart(course, day, 620)), ("narrow-only", season_drawings.chart(course, day, 380))],
        "homes": (here, there), "risk": _risk(form, held),
        "low_when": month_of(day + course.low_day), "high_when": month_of(day + course.high_day),
    }  # fmt: skip


def _risk(form: ElsewhereForm, held: Held | None) -> str:
    """What the worst way to fasten it would mean there."""
    if held is None:
        return "What this wood bears across its grain is not known, so nothing is said of parts that are held."
    if held.would_shrink_m < LEAST_TOLD_M:
        return "It never shrinks below what it left with, so nothing that is held is pulled apart; look for what it may push."
    size = cut_length(held.would_shrink_m, form.system)
    return f"Held fast on both sides, glued and screwed, {FATES[held.fate].lower()} (a chance of about {percent(held.chance, 0)}): it wants to shrink {size}."


def _half_way(course: Course) -> int:
    """Days until half of the farthest way from where it came is gone."""
    away = abs(course.mean - course.built)
    return int((away >= away.max() / 2).argmax())
