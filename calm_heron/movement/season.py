"""What a width of every species does through a season: the question, its answer, and how it is told."""

from dataclasses import dataclass
from typing import Any

from calm_heron.movement import season_drawings
from calm_heron.movement.things import queries
from calm_heron.movement.things.forms import LIVES_IN, HomeFields, depends_on_home
from calm_heron.movement.things.homes import Home
from calm_heron.movement.things.queries import USUAL_THICKNESS_M
from calm_heron.movement.things.thing import choice_field, length_field
from calm_heron.questions.forms import Group, QuestionForm
from calm_heron.questions.presentation import Drawn, Manner, Part, Presentation, Says
from calm_heron.questions.tools import Bound, Gist, Put, Reader, StillToSay
from calm_heron.site.numbers import percent, points
from calm_heron.stock import queries as stock
from calm_heron.stock import woods
from calm_heron.stock.species_forms import SpeciesField
from calm_heron.workshops.askers import Asker
from wood.air.climate import YEAR_DAYS
from wood.builds import choosing
from wood.movement import course as courses
from wood.movement import seasons, shrinkage
from wood.movement.course import Course
from wood.movement.seasons import Season
from wood.movement.shrinkage import size_ratio
from wood.species import Species
from wood.written import cut_length

USUAL_WIDTH_M = 0.3
STOCK, USUAL, ALL = "stock", "usual", "all"
WHICH = {STOCK: "those in stock", USUAL: "the usual ones for furniture", ALL: "all"}
# So many rows of the table at once; the others one click away.
ROWS_SHOWN = 30
ORDERS = (("flat", "movement, flat"), ("quarter", "movement, quarter"), ("ratio", "flat over quarter"), ("name", "name"))
SORTS = {
    "flat": lambda item: item.flat_m,
    "quarter": lambda item: item.quarter_m,
    "ratio": lambda item: item.ratio,
    "name": lambda item: item.species.common_name.casefold(),
}


class SeasonForm(QuestionForm):
    """A width, and a season."""

    groups = (Group(("width_m", *LIVES_IN, "species_key", "which", "sort")),)
    depends = depends_on_home()
    always = ("width_m",)

    @classmethod
    def begins_with(cls, asker: Asker, subject: None) -> dict[str, str]:
        return {"width_m": "12" if asker.system.is_inch else "300"}

    def build(self) -> None:
        length_field(self, "width_m", "Width", 0.01, 6.0)
        self.home_fields = HomeFields(self, label="In the air of")
        self.fields["species_key"] = SpeciesField(self.workshop, required=False, label="One of them, through its year")
        self.in_stock = stock.species_in_stock(self.workshop) if self.asker.is_member else frozenset()
        which = (STOCK, USUAL, ALL) if self.in_stock else (USUAL, ALL)
        choice_field(self, "which", "Woods", [(key, WHICH[key]) for key in which])
        choice_field(self, "sort", "In the order of", ORDERS)


@dataclass(frozen=True)
class SeasonOfWoods:
    """A width (metres) of each of some woods through a season between two moistures; ``looked_at`` is the key of one, through its real
    year; ``shown`` are the keys of those that stand on the dial.
    """

    width_m: float
    home: Home
    low: float
    high: float
    woods: tuple[Species, ...]
    looked_at: str
    shown: frozenset[str] = frozenset()


@dataclass(frozen=True)
class RealYear:
    """One wood an inch thick, bare, as it really goes through its year, flat- and quarter-sawn (metres)."""

    season: Season
    course: Course
    flat_m: float
    quarter_m: float


@dataclass(frozen=True)
class Seasons:
    """Every wood whose movement is known, those of which it is not, and the real year of the one that is looked at."""

    known: tuple[Season, ...]
    unknown: tuple[Species, ...]
    real: RealYear | None


@dataclass(frozen=True)
class SeasonLine:
    """A row of the dial: a point's movement as a share of the width, and both bars as shares of the longest."""

    season: Season
    flat_point: float
    quarter_point: float
    flat_bar: float
    quarter_bar: float
    chosen: bool


def put(form: SeasonForm, asker: Asker, subject: None) -> Put[SeasonOfWoods]:
    """A valid form as a question; the order only tells.

    Raises:
        StillToSay: moistures that are not named.
    """
    typed, home = form.cleaned_data, form.home_fields.read()
    if home is None:
        raise StillToSay("Give the moistures of the dry and the damp season.")
    if home.series is None:
        low, high = home.low, home.high
    else:
        level = courses.level_of(home.series)[-YEAR_DAYS:]
        low, high = float(level.min()), float(level.max())
    book = woods.of_workshop(asker.workshop.pk)
    question = SeasonOfWoods(
        typed["width_m"] or USUAL_WIDTH_M,
        home,
        low,
        high,
        tuple(wood for wood in book.values() if wood.is_wood),
        typed["species_key"] or "",
        _shown(form, book),
    )
    chosen = book.get(question.looked_at)
    return Put(question, {"sort": form.chosen("sort"), "spoken": chosen.spoken_name if chosen else ""})


def _shown(form: SeasonForm, book: dict[str, Species]) -> frozenset[str]:
    """The keys of the woods that were asked for."""
    which = form.chosen("which")
    return frozenset(book) if which == ALL else form.in_stock if which == STOCK else frozenset(choosing.looks())


def work(question: SeasonOfWoods) -> Seasons:
    """Every wood by its air alone, and one as it really goes.

    Raises:
        OutOfRange.
    """
    known, unknown = seasons.dial(list(question.woods), question.width_m, question.low, question.high)
    chosen = next((season for season in known if season.species.key == question.looked_at), None)
    return Seasons(tuple(known), tuple(unknown), _real(chosen, question) if chosen else None)


def _real(chosen: Season, season: SeasonOfWoods) -> RealYear:
    course = queries.course_of(queries.figures_of(chosen.species), USUAL_THICKNESS_M, None, season.home, None, 0.0)
    year = course.mean[-YEAR_DAYS - 1 :]
    figures = shrinkage.of_species(chosen.species)

    def moves(across: float) -> float:
        return season.width_m * (
            size_ratio(across, course.built, float(year.max()), figures.fibre_saturation)
            - size_ratio(across, course.built, float(year.min()), figures.fibre_saturation)
        )

    return RealYear(chosen, course, moves(figures.tangential), moves(figures.radial))


def gist(seasons: Seasons) -> Gist:
    """How much the quietest wood moves, flat-sawn, and the one that is looked at."""
    quietest = min(seasons.known, key=lambda season: season.flat_m)
    figures = {"flat_m": Bound(quietest.flat_m)}
    if seasons.real:
        figures |= {"real_flat_m": Bound(seasons.real.flat_m), "real_quarter_m": Bound(seasons.real.quarter_m)}
    return Gist(quietest.species.key, figures)


def present(put: Put[SeasonOfWoods], seasons: Seasons, reader: Reader) -> Presentation:
    """Every wood side by side."""
    question = put.question
    reason = (
        f"What {cut_length(question.width_m, reader.system)} does between the dry and the damp season of {question.home.name},"
        f" {points(question.low)} to {percent(question.high)} by its air alone."
    )
    if question.home.instead:
        reason += f" No year of {question.home.instead} is known, so that is taken for it."
    parts: list[Part] = [Drawn("dial")] if seasons.real else []
    if question.looked_at and not seasons.real:
        parts.append(Says(f"How much {put.tells['spoken']} shrinks is not known.", Manner.REASON))
    parts.append(Drawn("woods"))
    unknown = [wood.common_name for wood in seasons.unknown if wood.key in question.shown]
    if unknown:
        parts.append(Says(f"Not known: {', '.join(unknown)}.", Manner.HINT))
    return Presentation(None, reason, parts)


def dial(put: Put[SeasonOfWoods], seasons: Seasons, reader: Reader, narrow: bool) -> dict[str, Any]:
    """The year of the wood that is looked at, going round, and what it comes to."""
    assert seasons.real is not None
    return {"dial": season_drawings.dial(seasons.real.course), "real": seasons.real}


@dataclass(frozen=True)
class SeasonWoods:
    """The woods that were asked for, in their order: the first of them, the others, and as many as stand on the dial."""

    first: list[SeasonLine]
    others: list[SeasonLine]
    wheel: season_drawings.Wheel

    @property
    def lines(self) -> list[SeasonLine]:
        return [*self.first, *self.others]


def lines(put: Put[SeasonOfWoods], seasons: Seasons, reader: Reader, narrow: bool) -> SeasonWoods:
    """The woods that were asked for, and the one that is looked at, in the order that was asked for, with their bars."""
    shown = put.question.shown | {put.question.looked_at}
    known = [season for season in seasons.known if season.species.key in shown]
    width, most = put.question.width_m, max((season.flat_m for season in known), default=1.0)
    rows = [
        SeasonLine(
            entry,
            entry.flat_point_m / width,
            entry.quarter_point_m / width,
            100 * entry.flat_m / most,
            100 * entry.quarter_m / most,
            entry.species.key == put.question.looked_at,
        )
        for entry in sorted(known, key=SORTS[put.tells["sort"]])
    ]
    on_dial = [(row.season, row.chosen) for row in rows[: season_drawings.MOST_ON_WHEEL]]
    return SeasonWoods(rows[:ROWS_SHOWN], rows[ROWS_SHOWN:], season_drawings.wheel(on_dial, reader.system))
