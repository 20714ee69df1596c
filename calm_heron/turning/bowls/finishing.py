"""Whether a bowl may go back on the lathe: its weights, its shape, its cracks, and what its tracings say of its species."""

import math
from dataclasses import dataclass, replace
from typing import Any

from calm_heron.stock.models import Piece
from calm_heron.turning.models import CrackFound, Tracing, Turned
from calm_heron.turning.shelf.weighing import WeighedBowl
from calm_heron.workshops.models import Workshop
from wood.errors import NotKnown, OutOfRange
from wood.movement.shrinkage import of_species as shrinkage_of
from wood.turning import lathe, oval, tracing
from wood.turning.lathe import Crack, Verdict, Where
from wood.turning.oval import Fits, Oval
from wood.turning.tracing import Learnt, Traced
from wood.turning.weights import State

# What rough bowls are turned at where no weights tell.
USUAL_REST = 0.09


@dataclass(frozen=True)
class Finish:
    """A bowl before it is finished: its predicted oval and the round bowl in it, its newest tracing, what is learnt of its species here,
    and the verdict.

    Shapes are ``None`` where the species' shrinkage or the bowl's sizes are not known.
    """

    piece: Piece
    known: Turned
    weighed: WeighedBowl | None
    shape: Oval | None
    fits: Fits | None
    verdict: Verdict | None
    tracings: list[Tracing]
    cracks: list[CrackFound]
    learnt: Learnt
    predicted_m: float | None


def _shape(piece: Piece, known: Turned, moisture: float, share: float = 1.0) -> tuple[Oval, Fits] | None:
    """The oval at a moisture; ``share`` is how much more than predicted the species moves here."""
    try:
        shrinkage = shrinkage_of(piece.species)
        bowl = known.bowl()
    except (NotKnown, OutOfRange):
        return None
    k = oval.ratios(shrinkage, max(shrinkage.fibre_saturation, moisture), min(moisture, shrinkage.fibre_saturation))
    k = replace(k, radial=1 - (1 - k.radial) * share, tangential=1 - (1 - k.tangential) * share)
    return oval.dried(bowl, k), oval.fits(bowl, k)


def predicted_m(piece: Piece, known: Turned, weighed: WeighedBowl | None = None) -> float | None:
    """How far out of round it is predicted to be now, by its weights where it was weighed, else at rest."""
    moisture = weighed.moisture[0] if weighed is not None else USUAL_REST
    shape = _shape(piece, known, moisture)
    return None if shape is None else shape[0].out_of_round_m


def learnt_of(workshop: Workshop, species_key: str) -> Learnt:
    """What the tracings of a species in this workshop say beside their predictions: the newest of each bowl."""
    rows = (
        Tracing.objects.of(workshop)
        .filter(piece__species_key=species_key, predicted_m__gt=0.0005)
        .order_by("piece", "-at")
        .distinct("piece")
        .values_list("along_m", "across_m", "predicted_m")
    )
    shares = [(max(along - across, 0.0), predicted) for along, across, predicted in rows]
    return tracing.learnt([item for item, _ in shares], [other for _, other in shares])


def finish(piece: Piece, known: Turned, weighed: WeighedBowl | None) -> Finish:
    """Whether a bowl may be finish-turned, with everything that rests on."""
    tracings = list(piece.tracings.order_by("-at", "-pk"))
    cracks = list(piece.cracks.order_by("at", "pk").prefetch_related("mends"))
    learnt = learnt_of(piece.workshop, piece.species_key)
    moisture = USUAL_REST if weighed is None else min(weighed.moisture[0], 0.3)
    shape = _shape(piece, known, moisture, learnt.share)
    at_rest = _shape(piece, known, weighed.level if weighed is not None else USUAL_REST, learnt.share)
    verdict = None
    # A blank is still to be roughed: nothing of it is judged as a wall.
    if shape is not None and at_rest is not None and not piece.traits.becomes:
        out = tracings[0].along_m - tracings[0].across_m if tracings else shape[0].out_of_round_m
        # A rim that was traced farther out of round than predicted leaves so much less.
        thinnest = at_rest[1].thinnest_m - max(out - at_rest[0].out_of_round_m, 0.0) / 2
        verdict = lathe.verdict(
            _rests(weighed),
            piece.width_m,
            thinnest,
            known.end_wall_m,
            max(out, 0.0),
            tuple(
                Crack(Where(crack.where), crack.depth_m, crack.length_m, crack.through, crack.at_pith, crack.mend is not None)
                for crack in cracks
            ),
        )
    return Finish(
        piece,
        known,
        weighed,
        None if shape is None else shape[0],
        None if at_rest is None else at_rest[1],
        verdict,
        tracings,
        cracks,
        learnt,
        None if shape is None else shape[0].out_of_round_m,
    )


def _rests(weighed: WeighedBowl | None) -> bool | None:
    """Whether it is at rest by its weights, as every page has it; ``None`` where it was never weighed."""
    return None if weighed is None else weighed.state is State.FLAT


def traced(typed: dict[str, Any]) -> Traced:
    """A tracing as it was measured or tapped; of points the first two are the ends of the known length.

    Raises:
        CannotRead: points that make no oval. OutOfRange: no rim has such a size.
    """
    points = typed["points"]
    if not points:
        longer, shorter = max(typed["along_m"], typed["across_m"]), min(typed["along_m"], typed["across_m"])
        return tracing.from_diameters(longer, shorter)
    (x1, y1), (x2, y2), *rim = points + [(0.0, 0.0)] * max(0, 2 - len(points))
    length = math.hypot(x2 - x1, y2 - y1)
    if length < 1e-6:
        raise OutOfRange("known_m", length, 1e-6, 10.0, " m")
    scale = typed["known_m"] / length
    return tracing.from_points([(x * scale, y * scale) for x, y in rim])
