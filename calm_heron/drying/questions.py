"""The question of a drying in full, and everything its answer rests on: what is usual fills every gap, one set of runs gives all."""

from dataclasses import dataclass
from datetime import date

from calm_heron.air.models import Place
from calm_heron.drying import methods, queries
from calm_heron.drying.methods import DryingMethod
from calm_heron.drying.queries import NoAir, OwnLog, Surroundings
from calm_heron.judging.queries import Chosen
from calm_heron.measuring.models import PieceMoisture
from calm_heron.site import numbers
from calm_heron.stock import woods
from calm_heron.stock.kinds import Seasoning
from calm_heron.stock.models import Piece
from calm_heron.workshops.models import Workshop
from wood.drying import answers
from wood.drying.answers import GREEN_SPREAD, Question
from wood.drying.defects import Risk, assess
from wood.drying.diffusivity import Figures, of_species
from wood.errors import NotKnown
from wood.measuring.estimates import Estimate
from wood.measuring.readings import Bound
from wood.species import Species
from wood.units import INCH, exact_length
from wood.uses import Against

USUAL_SPECIES = "white_oak"
AIR_DRY, INDOORS = 0.20, 0.09
# Seasoning of a piece that nobody has read yet.
BY_SEASONING = {Seasoning.AIR: 0.16, Seasoning.KILN: 0.08}
CHAMBER_C, CHAMBER_HUMIDITY = 40.0, 0.60
USUAL_THICKNESS_M = 0.027
# What a typed start may be off by, as a share of it (one standard deviation).
TYPED_UNCERTAINTY = 0.04
LEAST_WANTED = 0.01
# A moisture counts as the one that was read when it shows the same three figures.
AS_READ = 6e-4


def usual(workshop: Workshop, piece: Piece | None, known: PieceMoisture | None, about: Chosen) -> dict[str, str]:
    """What is usual for a piece, as it would be typed, by the names of the form's fields."""
    system = workshop.system
    fields = {
        "start_date": queries.today().isoformat(), "wind": "usual", "ends": "open", "by": methods.USUAL,
        "temperature_c": f"{CHAMBER_C:g} C", "humidity": numbers.typed(CHAMBER_HUMIDITY),
    }  # fmt: skip
    if piece is None:
        yard = next((place for place in about.places if place.traits.is_outdoors), None)
        return fields | {
            "species_key": woods.species_of(workshop.pk, USUAL_SPECIES).common_name,
            "thickness_m": "4/4" if system is INCH else "27",
            "target": numbers.typed(AIR_DRY),
            "where": f"place-{yard.pk}" if yard else queries.USUAL_PATTERN,
        }
    start = _start_of(piece, known)
    fields |= {
        "species_key": piece.species.common_name,
        "thickness_m": piece.thickness_as_typed(system),
        "width_m": exact_length(piece.width_m, system),
        "length_m": exact_length(piece.length_m, system),
        "ends": "sealed" if piece.ends_sealed else "open",
        "where": f"place-{piece.place_id}" if piece.place_id else queries.USUAL_PATTERN,
    }
    if not piece.traits.is_sawn:
        fields["by"] = methods.of_a_log().key
    if start is not None:
        fields["start"] = numbers.typed(start, 3)
    return fields | {"target": numbers.typed(_wanted(piece, start, about), 3)}


def _start_of(piece: Piece, known: PieceMoisture | None) -> float | None:
    """What the piece is at, None where it is green: what is only known to be wetter than a meter can measure is taken to be that."""
    if known is None:
        return BY_SEASONING.get(Seasoning(piece.seasoning))
    return None if known.bound == Bound.ABOVE else known.mean


def _wanted(piece: Piece, start: float | None, about: Chosen) -> float:
    """What the piece must come to: the nearer edge of what its use allows, or what it is at where it lies within that already."""
    outdoors = piece.place is not None and piece.place.traits.is_outdoors
    if outdoors or about.target is None:
        return AIR_DRY
    level = about.target.moisture
    if about.use.against is Against.LIMIT:
        return level if start is None else min(start, level)
    low, high = level - about.use.tolerance, level + about.use.tolerance
    return max(high if start is None else min(max(start, low), high), LEAST_WANTED)


@dataclass(frozen=True)
class Asked:
    """A question with every gap filled: what is usual where nothing was typed.

    ``figures`` are the species', ``question.figures`` the piece's own where its log tells of them; ``as_read`` says that it starts at
    what was read.
    """

    species: Species
    figures: Figures
    around: Surroundings
    question: Question
    log: OwnLog
    thickness_m: float
    start_date: date
    ends_sealed: bool
    as_read: bool

    @property
    def start(self) -> float:
        return self.question.start

    @property
    def target(self) -> float:
        return self.question.target

    @property
    def has_own_pace(self) -> bool:
        return self.question.figures != self.figures


@dataclass(frozen=True)
class NotAsked:
    """A question that cannot be put: the place's air is not known, or no figure of the species is."""

    species: Species
    around: Surroundings | NoAir
    start_date: date

    @property
    def no_air(self) -> NoAir | None:
        return self.around if isinstance(self.around, NoAir) else None


def asked(workshop: Workshop, typed: dict, piece: Piece | None, known: PieceMoisture | None, places: list[Place]) -> Asked | NotAsked:
    """The question that valid fields of the form put.

    Raises:
        OutOfRange: each value is possible by itself, and not all of them together.
    """
    species = woods.species_of(workshop.pk, typed["species_key"] or USUAL_SPECIES)
    start_date = typed["start_date"] or queries.today()
    method = methods.named(typed["by"])
    around = queries.surroundings(places, typed["where"], method, start_date, _conditions(method, typed))
    if isinstance(around, NoAir):
        return NotAsked(species, around, start_date)
    try:
        figures = of_species(species)
    except NotKnown:
        return NotAsked(species, around, start_date)
    same_wood = piece if piece is not None and piece.species_key == species.key else None
    log = queries.own_log(same_wood, figures, places) if same_wood else OwnLog([], [], None)
    start = figures.green_moisture if typed["start"] is None else typed["start"]
    thickness = typed["thickness_m"] or (piece.thickness_m if piece else USUAL_THICKNESS_M)
    of_a_log, as_read = around.method.core.of_a_log, known is not None and abs(known.mean - start) < AS_READ
    question = Question(
        queries.with_own_pace(figures, log.learned), answers.as_slab_of_log_m(thickness) if of_a_log else thickness, start,
        typed["target"] or (AIR_DRY if around.outdoors else INDOORS), around.setting,
        width_m=None if of_a_log else typed["width_m"], length_m=typed["length_m"], ends_open=typed["ends"] != "sealed",
        start_uncertainty=_start_uncertainty(start, known if as_read else None, figures),
    )  # fmt: skip
    return Asked(species, figures, around, question, log, thickness, start_date, typed["ends"] == "sealed", as_read)


def _conditions(method: DryingMethod, typed: dict) -> dict:
    """The conditions that the method asks for, as typed or as usual."""
    known = {
        "wind": typed["wind"] or "usual",
        "temperature_c": CHAMBER_C if typed["temperature_c"] is None else typed["temperature_c"],
        "humidity": CHAMBER_HUMIDITY if typed["humidity"] is None else typed["humidity"],
    }
    return {CONDITION_OF.get(name, name): value for name, value in known.items() if name in method.asks}


# Fields of the form that the core calls otherwise.
CONDITION_OF = {"humidity": "relative_humidity"}


def uncertainty_of_reading(read: Estimate) -> float:
    """What a start that was read may be off by, as a share of it (one standard deviation)."""
    return min(read.uncertainty / 2 / max(read.mean, 0.05), 0.5)


def _start_uncertainty(start: float, known: PieceMoisture | None, figures: Figures) -> float:
    """What the start may be off by, as a share of it (one standard deviation)."""
    if known is not None:
        return uncertainty_of_reading(known.estimate())
    return GREEN_SPREAD if abs(start - figures.green_moisture) < 5e-4 else TYPED_UNCERTAINTY


def risks_of(asked: Asked, answer: answers.Answer) -> list[Risk]:
    """What may go wrong on the way, the gravest first; empty where the species' figures do not tell."""
    question = asked.question
    try:
        return assess(
            answer.history, asked.species, question.figures, question.as_slab_m, asked.start, asked.around.setting.series,
            ends_sealed=asked.ends_sealed,
        )  # fmt: skip
    except NotKnown:
        return []
