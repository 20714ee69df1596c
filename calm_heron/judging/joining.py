"""Two pieces or lots to be joined: are they alike enough, and how differently will they move?"""

from dataclasses import dataclass
from typing import Any

from calm_heron.judging.queries import Chosen
from calm_heron.judging.targets import in_room
from calm_heron.measuring.models import PieceMoisture, Reading
from calm_heron.site.numbers import distance, figure, points
from calm_heron.stock.models import Piece
from wood.errors import NotKnown
from wood.judging.comparison import compare_boards
from wood.judging.readiness import State
from wood.movement import shrinkage
from wood.movement.shrinkage import Shrinkage
from wood.units import INCH, INCH_M, METRIC, System
from wood.written import cut_length, said_length

# Joined widths are spoken of by the panel: this is an ordinary one.
PANEL_M = {METRIC.key: 0.6, INCH.key: 24 * INCH_M}
# Less than this cannot be felt at a joint.
FELT_M = 0.0002
# Glued width that differs by more than this share pulls itself apart or bows through a year.
LARGE_DIFFERENCE = 0.005


@dataclass(frozen=True)
class Moves:
    """How much a panel's width (metres) of each changes: settling to the place, and through its year where that is known."""

    settling: tuple[float, float]
    year: tuple[float, float] | None

    @property
    def difference(self) -> float:
        worst = abs(self.settling[0] - self.settling[1])
        return max(worst, abs(self.year[0] - self.year[1])) if self.year else worst


@dataclass(frozen=True)
class Joined:
    """The answer about two pieces; ``compared`` says that both were read."""

    state: State
    reason: str
    next_step: str
    moves: Moves | None
    movement: str
    compared: bool = True

    @property
    def word(self) -> str:
        return WORDS[self.state]


WORDS = {State.READY: "Alike enough", State.CLOSE: "Nearly alike", State.WAIT: "Not alike", State.CANNOT_TELL: "Cannot tell"}


def joined(item: Piece, other: Piece, about: Chosen, system: System) -> Joined:
    """Compare two pieces for the use and the place of a page; the tolerance between them is the use's own."""
    rows = {row.piece_id: row for row in PieceMoisture.objects.filter(piece__in=[item, other])}
    moves, movement = _movement(item, other, rows, about, system)
    missing = [piece.tag for piece in (item, other) if piece.pk not in rows]
    if missing:
        reason = f"{' and '.join(missing)} has no usable reading yet."
        return Joined(State.CANNOT_TELL, reason, "Read both with one meter, on one day.", moves, movement, compared=False)
    first, second = rows[item.pk].estimate(), rows[other.pk].estimate()
    same_meter = item.species_key == other.species_key and read_with_one_meter(item, other)
    tolerance = about.use.tolerance
    result = compare_boards(first, second, tolerance, same_meter=same_meter)
    apart = (
        f"{item.tag} is at {points(first.mean)}%, {other.tag} at {points(second.mean)}%: {distance(result.difference)} points apart, "
        f"give or take {points(result.uncertainty)}; {about.use.name.lower()} allows {figure(tolerance)} between joined pieces."
    )
    if same_meter:
        apart += " Both were read with one meter, so its own error cancels out."
    steps = {
        State.READY: "Joint the edges and glue them within a day: freshly planed edges move first.",
        State.CLOSE: "Leave both on stickers in one room and read them again in a week.",
        State.WAIT: (
            f"Let {(item if result.difference > 0 else other).tag}, the wetter one, go on drying beside the other; joined now, the joint "
            "would open or step."
        ),
        State.CANNOT_TELL: "Read both in more places with one meter: only the difference between them counts.",
    }
    if result.state is State.CANNOT_TELL and item.species_key != other.species_key:
        steps[result.state] = (
            "The meter’s uncertainty differs from species to species. Make an oven test on a section of each, or weigh both."
        )
    return Joined(result.state, apart, steps[result.state], moves, movement)


def read_with_one_meter(item: Piece, other: Piece) -> bool:
    """Whether the newest readings of both come from one and the same meter."""
    meters: set[int | None] = set()
    for piece in (item, other):
        newest = Reading.objects.standing().filter(piece__in=[piece, *piece.samples.all()]).order_by("-at")
        meters.update(newest.values_list("meter", flat=True)[:3])
    return len(meters) == 1 and None not in meters


def _movement(item: Piece, other: Piece, rows: dict[str, Any], about: Chosen, system: System) -> tuple[Moves | None, str]:
    if about.place is None or item.is_round or other.is_round:
        return None, ""
    try:
        figures = [shrinkage.of_species(piece.species) for piece in (item, other)]
    except NotKnown as unknown:
        return None, f"How differently they move is not known: no shrinkage figure for {unknown.subject}."
    wanted = in_room(about.place, about.purpose.approach, about.purpose.moisture, about.purposes.air_of)
    year = about.purposes.air_of(about.place)[1]
    if wanted is None:
        return None, ""
    goal = wanted.moisture
    low, high = year.range if year else (goal, goal)

    starts = [min(rows[piece.pk].mean, 1.0) if piece.pk in rows else goal for piece in (item, other)]  # type: ignore[comparison-overlap, index]
    angles = (item.ring_angle_deg, other.ring_angle_deg)
    panel = PANEL_M[system.key]
    settles_one, settles_other = (panel * _change(f, angle, start, goal) for f, angle, start in zip(figures, angles, starts, strict=True))
    swings_one, swings_other = (panel * _change(f, angle, low, high) for f, angle in zip(figures, angles, strict=True))
    settling, swing = (settles_one, settles_other), (swings_one, swings_other) if year else None
    moves = Moves(settling, swing)
    first, second = (_signed(change, system) for change in settling)
    text = (
        f"As a panel {said_length(panel, system)} wide: settling to {points(goal)}%, {item.tag} changes by {first} "
        f"and {other.tag} by {second}."
    )
    if swing:
        through = " and ".join(cut_length(abs(change), system) for change in swing)
        text += f" Through the year of {about.place.name}, {points(low)} to {points(high)}%, by {through}."
    if moves.difference > LARGE_DIFFERENCE * panel:
        text += (
            " Edge to edge each moves on its own and nothing pulls at the joint; glued face to face the difference is more than a "
            "joint can take for long."
        )
    return moves, text


def _change(figures: Shrinkage, ring_angle_deg: float, start: float, end: float) -> float:
    """The change of a width as a share of it."""
    across = figures.at_ring_angle(ring_angle_deg)
    return shrinkage.size_ratio(across, start, end, figures.fibre_saturation) - 1


def _signed(metres: float, system: System) -> str:
    if abs(metres) < FELT_M:
        return "nothing to speak of"
    return f"{'+' if metres >= 0 else '−'}{cut_length(abs(metres), system)}"
