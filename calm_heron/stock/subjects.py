"""The piece that a question is asked about."""

from calm_heron.stock import queries
from calm_heron.stock.models import Piece
from calm_heron.workshops.askers import Asker


def piece_or_lot(asker: Asker, tag: str) -> Piece | None:
    """The piece that the address of a question names; strangers have none."""
    return queries.by_tag(asker.workshop, tag[:60]) if tag and asker.is_member else None


def sawn(asker: Asker, tag: str) -> Piece | None:
    """The same, where it is sawn wood."""
    piece = piece_or_lot(asker, tag)
    return piece if piece is not None and piece.traits.is_sawn else None
