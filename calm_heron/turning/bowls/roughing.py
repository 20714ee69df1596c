"""A bowl to be roughed: how thick, what it becomes, how long it dries and what asks too much of it, all from one set of runs."""

from dataclasses import dataclass, replace

import numpy as np

from calm_heron.air.models import Place
from calm_heron.drying import methods
from calm_heron.drying import queries as drying
from calm_heron.drying.queries import NoAir
from calm_heron.questions.tools import Bound, CannotPut, Gist, Put, Why
from calm_heron.site.memory import Memory, digest_of
from calm_heron.stock import woods
from calm_heron.stock.models import Piece
from calm_heron.turning.bowls import finishing, lathe_words
from calm_heron.turning.forms import RoughForm
from calm_heron.turning.kinds import WayKind
from calm_heron.turning.models import END_WALL_M, PITH_M
from calm_heron.turning.shelf import shelf_words, weighing
from calm_heron.workshops.askers import Asker
from wood.air.climate import AirSeries
from wood.drying.diffusivity import Figures
from wood.drying.diffusivity import of_species as figures_of
from wood.movement.shrinkage import Shrinkage
from wood.movement.shrinkage import of_species as shrinkage_of
from wood.species import Species
from wood.turning import drying as shell
from wood.turning import oval, walls
from wood.turning.bowls import Bowl, Form, Rim
from wood.turning.drying import Course, Way
from wood.turning.oval import Fits, Oval, Ratios
from wood.turning.walls import Walls

USUAL_DIAMETER_M, USUAL_HEIGHT_SHARE = 0.25, 0.4
LONGEST_DAYS = 700.0


@dataclass(frozen=True)
class BowlToRough:
    """A bowl as it is asked about: its wall is that of the answer where ``wall_m`` is not given."""

    species: Species
    figures: Figures
    shrinkage: Shrinkage
    bowl: Bowl
    end_wall_m: float
    wall_m: float | None
    start: float
    way: Way
    series: AirSeries


@dataclass(frozen=True)
class Roughed:
    """The answer: the wall with its limits, the bowl with it, its drying in every way, and the shape it comes to with the round bowl that
    is left in it.

    ``once`` is the bowl turned thin to its finished wall at once: its oval, and how hard that is asked in the chosen way.
    """

    question: BowlToRough
    walls: Walls
    bowl: Bowl
    courses: dict[Way, Course]
    final: float
    k: Ratios
    oval: Oval
    fits: Fits
    once: Oval
    once_course: Course

    @property
    def course(self) -> Course:
        return self.courses[self.question.way]

    @property
    def is_own_wall(self) -> bool:
        return self.question.wall_m is not None


def put(form: RoughForm, asker: Asker, piece: Piece | None) -> Put[BowlToRough] | CannotPut:
    """A valid form as a question.

    Raises:
        NotKnown: the species' shrinkage or specific gravity. OutOfRange: sizes that do not go together.
    """
    typed = form.cleaned_data
    species = woods.species_of(form.workshop.pk, typed["species_key"] or "sugar_maple")
    figures, shrinkage, learnt = _as_here(form, asker, species)
    where = form.chosen("where")
    at_home = where.startswith("place-")
    air = air_at(form.places, where if at_home else form.chosen("climate"), None if at_home else form.method)
    if isinstance(air, NoAir):
        return CannotPut(Why.NO_AIR, f"The air of {air.name} is not known yet: read it, or give it a year, or choose a room.")
    series, name = air
    if not at_home:
        name = f"{'an unheated shed' if where == 'shed' else 'a heated room'} of {name}"
    diameter = typed["diameter_m"] or USUAL_DIAMETER_M
    height = typed["height_m"] or USUAL_HEIGHT_SHARE * diameter
    bowl = Bowl(
        diameter,
        height,
        min(walls.TENTH * diameter, 0.6 * height),
        Form(form.chosen("form")),
        rim=Rim(form.chosen("rim")),
        pith_m=PITH_M if typed["pith_m"] is None else typed["pith_m"],
        aside_m=typed["aside_m"] or 0.0,
    )
    start = figures.green_moisture if typed["start"] is None else typed["start"]
    question = BowlToRough(
        species,
        figures,
        shrinkage,
        bowl,
        typed["end_wall_m"] or END_WALL_M,
        typed["wall_m"],
        min(start, 0.98 * figures.wood.greatest_moisture),
        Way(form.chosen("way")),
        series,
    )
    return Put(question, {"place": name, "learnt": learnt})


def _as_here(form: RoughForm, asker: Asker, species: Species) -> tuple[Figures, Shrinkage, str]:
    """A wood's figures as this workshop's own bowls have them: its pace by those that came to rest in this way, its oval by those that
    were traced; and what is said of that."""
    figures, shrinkage = figures_of(species), shrinkage_of(species)
    if not asker.is_member:
        return figures, shrinkage, ""
    way, name = form.chosen("way"), species.spoken_name
    pace = weighing.pace_here(asker.workshop, species.key, way, figures)
    moved = finishing.learnt_of(asker.workshop, species.key)
    if pace.count:
        figures = replace(figures, wood=replace(figures.wood, factor=float(np.clip(figures.wood.factor * pace.share, 0.01, 100.0))))
    if moved.count:
        shrinkage = replace(shrinkage, radial=shrinkage.radial * moved.share, tangential=shrinkage.tangential * moved.share)
    said = (shelf_words.pace_learnt(pace, name, WayKind(way).label), lathe_words.learnt_words(moved, name))
    return figures, shrinkage, " ".join(item for item in said if item)


def air_at(places: list[Place], where: str, method: methods.DryingMethod | None = None) -> tuple[AirSeries, str] | NoAir:
    """The air at a place of the workshop, or in a kind of room of a climate, from today on, and what it is called."""
    around = drying.surroundings(places, where, method or methods.named(methods.USUAL), drying.today())
    return around if isinstance(around, NoAir) else (around.setting.series, around.name)


def gist(rough: Roughed) -> Gist:
    """Whether a wall can be had, how thick it is between its limits, and the oval it comes to."""
    wall = rough.walls
    code = "too wide an oval" if not np.isfinite(wall.true_m) else "gently" if wall.crack_m is not None and not wall.between else "can be"
    return Gist(
        code,
        {
            "wall_m": Bound(rough.bowl.wall_m, wall.true_m, wall.crack_m),
            "rest_days": Bound(rough.course.rest_day),
            "moisture": Bound(rough.final),
        },
    )


# Every slide asks again; what was worked out is remembered for a while.
_answers: Memory[Roughed] = Memory(64)


def roughed(question: BowlToRough) -> Roughed:
    """How thick to rough a bowl, and all that follows.

    Raises:
        OutOfRange: an end wall that is thicker than the bowl could be, a wall that leaves no hollow.
    """
    return _answers.get(digest_of(question), lambda: _worked(question))


def _worked(question: BowlToRough) -> Roughed:
    def ran(bowl: Bowl, way: Way) -> Course:
        return shell.course(bowl, question.species, question.figures, question.start, question.series, way, LONGEST_DAYS)

    # What it comes to does not hang on its wall: the usual one tells.
    final = rest_moisture(ran(question.bowl, question.way))
    result = walls.walls(
        question.bowl,
        question.species,
        question.figures,
        question.shrinkage,
        question.start,
        final,
        question.end_wall_m,
        question.series,
        question.way,
    )
    bowl = question.bowl.with_wall(result.chosen_m if question.wall_m is None else question.wall_m)
    courses = {way: ran(bowl, way) for way in Way}
    k = oval.ratios(question.shrinkage, question.start, final)
    thin = replace(question.bowl, wall_m=question.end_wall_m, foot_m=None)
    return Roughed(
        question, result, bowl, courses, final, k, oval.dried(bowl, k), oval.fits(bowl, k), oval.dried(thin, k), ran(thin, question.way)
    )


def rest_moisture(course: Course) -> float:
    """What a bowl is at when it has come to rest; what its room brings it to where it never does."""
    if np.isfinite(course.rest_day):
        return float(np.interp(course.rest_day, course.days, course.mean))
    return float(course.level[-1])
