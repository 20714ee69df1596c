"""A season of every species side by side, and a finished piece that moves from one place to another."""

from dataclasses import dataclass

from calm_heron.movement import season_drawings
from calm_heron.movement.things import queries
from calm_heron.movement.things.forms import DialForm
from calm_heron.movement.things.homes import Home
from calm_heron.movement.things.queries import USUAL_THICKNESS_M
from calm_heron.stock import woods
from wood.air.climate import YEAR_DAYS
from wood.movement import course as courses
from wood.movement import seasons, shrinkage
from wood.movement.seasons import Season
from wood.movement.shrinkage import size_ratio

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
