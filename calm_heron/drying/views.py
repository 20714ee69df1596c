"""The page of a drying: how long will it take?"""

from dataclasses import dataclass
from datetime import date

from django.http import HttpRequest, HttpResponse, QueryDict
from django.shortcuts import render

from calm_heron.air.models import Kind, Place
from calm_heron.drying import drawings, queries, words
from calm_heron.drying.forms import DryingForm
from calm_heron.drying.queries import NoAir, OwnLog, Surroundings
from calm_heron.judging import queries as judging
from calm_heron.judging.queries import Chosen
from calm_heron.measuring.models import PieceMoisture
from calm_heron.stock import woods
from calm_heron.stock.models import Kind as PieceKind
from calm_heron.stock.models import Piece, Seasoning
from calm_heron.stock.views import piece_or_404
from calm_heron.workshops.doors import in_workshop
from wood import drying
from wood.defects import assess
from wood.diffusivity import Figures, of_species
from wood.drying import CHAMBER, GREEN_SPREAD, LOG, Question
from wood.errors import NotKnown, OutOfRange
from wood.readiness import LIMIT
from wood.species import Species
from wood.units import INCH, exact_length, write_length

USUAL_SPECIES = "white_oak"
AIR_DRY, INDOORS = 0.20, 0.09
# Seasoning of a piece that nobody has read yet.
USUAL_AIR_DRIED, USUAL_KILN_DRIED = 0.16, 0.08
CHAMBER_C, CHAMBER_HUMIDITY = 40.0, 0.60
TYPED_DOUBT = 0.04
LEAST_WANTED = 0.01
# A moisture counts as the one that was read when it shows the same three figures.
AS_READ = 6e-4
RISKS_MARKED = ("high", "watch")


@in_workshop()
def imagined(request: HttpRequest) -> HttpResponse:
    """A piece that need not be there. ``fragment=drying`` gives the answer and the drawings alone."""
    return _page(request, None)


@in_workshop()
def of_piece(request: HttpRequest, tag: str) -> HttpResponse:
    """A piece in stock, from what its readings say."""
    return _page(request, piece_or_404(request, tag))


def _page(request: HttpRequest, piece: Piece | None) -> HttpResponse:
    known = PieceMoisture.objects.filter(piece=piece).first() if piece else None
    # What is wanted belongs to the place that is asked about, where one is.
    lives_in = request.GET.get("where", "").removeprefix("place-")
    about = judging.chosen(request.workshop, {"place": lives_in, "use": request.GET.get("use", "")}, piece)
    places = about.places
    form = DryingForm(_asked(request, piece, known, about), membership=request.membership, places=places)
    fragment = request.GET.get("fragment") == "drying"
    page = {"form": form, "piece": piece, "known": known, "fragment": fragment}
    if form.is_valid():
        try:
            page |= _found(request, form.cleaned_data, piece, known, places)
        except OutOfRange as beyond:
            # Each value is possible by itself, and not all of them together.
            field = {"diameter_m": "thickness_m"}.get(beyond.field, beyond.field)
            low, high = (
                write_length(edge, request.workshop.system) if beyond.unit == " m" else f"{edge:g}" for edge in (beyond.low, beyond.high)
            )
            what = "A log’s diameter" if beyond.field == "diameter_m" else "This"
            form.add_error(field if field in form.fields else None, f"{what} must lie between {low} and {high} to be computed with.")
    return render(request, "drying/answer.html" if fragment else "drying/drying.html", page)


def _asked(request: HttpRequest, piece: Piece | None, known: PieceMoisture | None, about: Chosen) -> QueryDict:
    """What was asked, over what is usual for the piece: every field shows the value it is computed with."""
    asked = QueryDict(mutable=True)
    asked.update(_usual(request, piece, known, about))
    for name, value in request.GET.items():
        asked[name] = value[:60]
    return asked


def _usual(request: HttpRequest, piece: Piece | None, known: PieceMoisture | None, about: Chosen) -> dict[str, str]:
    system, today = request.workshop.system, queries.today()
    usual = {
        "start_date": today.isoformat(), "wind": "usual", "ends": "open", "road": "yard",
        "temperature_c": f"{CHAMBER_C:g} C", "humidity": f"{CHAMBER_HUMIDITY * 100:g}",
    }  # fmt: skip
    if piece is None:
        yard = next((place for place in about.places if place.kind == Kind.YARD), None)
        return usual | {
            "species_key": woods.species_of(request.workshop.pk, USUAL_SPECIES).common_name,
            "thickness_m": "4/4" if system is INCH else "27",
            "target": "20",
            "where": f"place-{yard.pk}" if yard else queries.USUAL_PATTERN,
        }
    # What is only known to be wetter than a meter can measure is taken to be green.
    start = None if known and known.bound == "above" else known.mean if known else _by_seasoning(piece)
    usual |= {
        "species_key": piece.species.common_name,
        "thickness_m": piece.thickness_as_typed(system),
        "width_m": exact_length(piece.width_m, system),
        "length_m": exact_length(piece.length_m, system),
        "ends": "sealed" if piece.ends_sealed else "open",
        "where": f"place-{piece.place_id}" if piece.place_id else queries.USUAL_PATTERN,
    } | ({"road": LOG.key} if piece.kind == PieceKind.LOG else {})
    if start is not None:
        usual["start"] = f"{start * 100:.3g}"
    return usual | {"target": f"{_wanted(piece, start, about) * 100:.3g}"}


def _wanted(piece: Piece, start: float | None, about: Chosen) -> float:
    """What the piece must come to: the nearer edge of what its use allows, or what it is at where it lies within that already."""
    outdoors = piece.place is not None and piece.place.kind == Kind.YARD
    if outdoors or about.target is None:
        return AIR_DRY
    level = about.target.moisture
    if about.use.against == LIMIT:
        return level if start is None else min(start, level)
    low, high = level - about.use.tolerance, level + about.use.tolerance
    return max(high if start is None else min(max(start, low), high), LEAST_WANTED)


def _by_seasoning(piece: Piece) -> float | None:
    return {Seasoning.AIR: USUAL_AIR_DRIED, Seasoning.KILN: USUAL_KILN_DRIED}.get(Seasoning(piece.seasoning))


@dataclass(frozen=True)
class Asked:
    """The question in full, every gap filled with what is usual."""

    one: Species
    figures: Figures
    thickness_m: float
    start: float
    target: float
    start_date: date
    sealed: bool
    as_read: bool


def _found(request: HttpRequest, typed: dict, piece: Piece | None, known: PieceMoisture | None, places: list[Place]) -> dict:
    """Everything the answer shows."""
    one = woods.species_of(request.workshop.pk, typed["species_key"] or USUAL_SPECIES)
    start_date = typed["start_date"] or queries.today()
    chamber = {
        "temperature_c": _or(typed["temperature_c"], CHAMBER_C), "relative_humidity": _or(typed["humidity"], CHAMBER_HUMIDITY)
    }  # fmt: skip
    road = queries.road_named(typed["road"])
    around = queries.surroundings(places, typed["where"], road, start_date, typed["wind"] or "usual", chamber)
    shown = {
        "one": one,
        "around": around,
        "in_chamber": isinstance(around, Surroundings) and around.road is CHAMBER,
        "start_date": start_date,
    }
    if isinstance(around, NoAir):
        return shown | {"no_air": around}
    try:
        figures = of_species(one)
    except NotKnown:
        return shown | {"no_figure": True}
    thickness = typed["thickness_m"] or (piece.thickness_m if piece else 0.027)
    slab = drying.as_slab_of_log_m(thickness) if around.road is LOG else thickness
    same_wood = piece is not None and piece.species_key == one.key
    log = queries.own_log(piece, figures, places) if same_wood else OwnLog([], [], None)
    paced = queries.with_own_pace(figures, log.learned)
    start = figures.green_moisture if typed["start"] is None else typed["start"]
    target = typed["target"] or (AIR_DRY if around.outdoors else INDOORS)
    measured = known is not None and abs(known.mean - start) < AS_READ
    doubt = (
        known.estimate().uncertainty / 2 / max(start, 0.05)
        if measured
        else GREEN_SPREAD if abs(start - figures.green_moisture) < 5e-4 else TYPED_DOUBT
    )  # fmt: skip
    asked = Asked(one, paced, thickness, start, target, start_date, typed["ends"] == "sealed", measured)
    question = Question(
        paced, slab, start, target, around.setting,
        width_m=None if around.road is LOG else typed["width_m"], length_m=typed["length_m"], ends_open=not asked.sealed,
        start_doubt=min(doubt, 0.5),
    )  # fmt: skip
    return shown | _answered(request, asked, question, around, log, figures)


def _answered(request: HttpRequest, asked: Asked, question: Question, around: Surroundings, log: OwnLog, figures: Figures) -> dict:
    answer = drying.answer(question)
    try:
        risks = assess(
            answer.history, asked.one, question.figures, question.as_slab_m, asked.start, around.setting.series, ends_sealed=asked.sealed
        )
    except NotKnown:
        risks = []
    told_risks = [words.risk_told(risk, request.workshop.system, around.road) for risk in risks if risk.level in RISKS_MARKED]
    today = queries.today()
    # A screen that says how wide it is gets its own drawing alone.
    frames = drawings.FRAMES.get(request.GET.get("frame", ""), drawings.BOTH) if "fragment" in request.GET else drawings.BOTH
    past = list(zip(log.days, log.moistures, strict=True)) if asked.start_date <= today else []
    return {
        "asked": asked,
        "wanted": words.percent(asked.target),
        "answer": answer,
        "told": words.told(answer, asked.start, asked.target, asked.start_date, around, told_risks),
        "risks": told_risks,
        "low_risks": [words.NAMES[risk.kind].lower() for risk in risks if risk.level == "low"],
        "risks_unknown": not risks,
        "courses": [
            drawings.course(answer, asked.target, around.setting.series, asked.start_date, past, told_risks, today, frame)
            for frame in frames
        ],
        "strips": drawings.strips(answer, asked.start_date, today, frames) if around.road is not CHAMBER else [],
        "table": drawings.table(answer.history, asked.start_date),
        "learned": log.learned,
        "flags": [words.FLAGS[flag] for flag in log.learned.flags] if log.learned else [],
        "absurd": [log.days[k] for k in log.learned.absurd] if log.learned else [],
        "species_basis": words.basis(figures, asked.one),
        "pace": question.figures,
        "own_pace": question.figures != figures,
        "rule_of_thumb": words.span(answer.rule_of_thumb_days),
        "thickness": write_length(asked.thickness_m, request.workshop.system),
        "is_log": around.road is LOG,
        "sorption_gap": _sorption_gap(around),
    }


def _sorption_gap(around: Surroundings) -> float:
    """How far above the tabulated moisture wood stays that dries in this air."""
    return float(around.setting.series.half_loop.mean())


def _or(value: float | None, usual: float) -> float:
    return usual if value is None else value
