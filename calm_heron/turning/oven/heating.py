"""A session in the oven as the core computes with it: what its bowl weighs ovendry and at rest, and how it would dry on its shelf."""

from datetime import timedelta

import numpy as np
from django.utils import timezone

from calm_heron.stock.models import Piece
from calm_heron.turning.models import OvenSession, turned
from calm_heron.turning.shelf import weighing
from calm_heron.turning.shelf.weighing import WeighedBowl
from wood.drying.diffusivity import of_species as figures_of
from wood.errors import WoodError
from wood.turning import drying, microwave
from wood.turning.drying import Way
from wood.turning.microwave import Session, Shelf

LOOKED_AHEAD_DAYS = 120.0
WALLS_M = (0.002, 0.06)


def asked(piece: Piece, weighed: WeighedBowl, watts: float, level: float, mass_kg: float) -> Session:
    """A session that is not begun yet, for a bowl that weighs so much now."""
    dry = min(weighed.dry_kg[0], 0.999 * mass_kg)
    rest = max(weighed.rest_kg[0], dry)
    return Session(watts, mass_kg, dry, rest, _wall(piece), _step(piece), level=level, shelf=_shelf(piece, mass_kg / dry - 1))


def session_of(row: OvenSession) -> Session:
    """A session with its heats in order, each with its clock."""
    heats = tuple(
        microwave.Heat(
            heat.seconds, heat.level, heat.mass_kg, microwave.Felt(heat.felt), max((heat.at - row.began_at) / timedelta(hours=1), 0.0)
        )
        for heat in row.heats.order_by("at", "pk")
    )
    shelf = _shelf(row.piece, row.first_kg / row.dry_kg - 1)
    return Session(row.watts, row.first_kg, row.dry_kg, row.rest_kg, _wall(row.piece), _step(row.piece), heats, row.level, shelf)


def _wall(piece: Piece) -> float:
    return float(np.clip(piece.thickness_m, *WALLS_M))


def _step(piece: Piece) -> float:
    return 0.0015 if piece.workshop.system.is_inch else 0.001


def _shelf(piece: Piece, start: float) -> Shelf:
    """How it would go on on its shelf; a usual room's air where that of its own is not known, and nothing where its wood is not."""
    series = weighing.air_of(piece, timezone.localdate())
    if series is None:
        return Shelf()
    try:
        figures, bowl = figures_of(piece.species), turned(piece).bowl()
        begin = min(max(start, 0.03), 0.98 * figures.wood.greatest_moisture)
        course = drying.course(bowl, piece.species, figures, begin, series, Way.SHELF, LOOKED_AHEAD_DAYS)
    except WoodError:
        return Shelf()
    return microwave.shelf_of(course, series)
