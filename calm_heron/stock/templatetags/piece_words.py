"""How the sizes of pieces are written."""

from django import template
from django.utils.formats import date_format

from calm_heron.stock import woods
from calm_heron.stock.models import Piece
from wood.sizes import Shape
from wood.species import Species
from wood.units import System
from wood.written import cut_length, handled_length, said_volume

register = template.Library()


@register.filter
def thickness(piece: Piece, system: System) -> str:
    """The nominal size as it is spoken of, with what is left of it when it was planed; else the thickness."""
    if not piece.nominal:
        return cut_length(piece.thickness_m, system)
    return f"{piece.nominal} planed to {cut_length(piece.thickness_m, system)}" if piece.dressed else piece.nominal


@register.filter
def sizes(piece: Piece, system: System) -> str:
    """The sizes of a piece in the order in which its kind is measured."""
    width, length = cut_length(piece.width_m, system), handled_length(piece.length_m, system)
    match piece.traits.shape:
        case Shape.LOG:
            return f"⌀ {width} × {length}"
        case Shape.ROUND:
            return f"⌀ {width} × {cut_length(piece.thickness_m, system)}"
        case Shape.BOWL:
            return f"⌀ {width}, {length} high, wall {cut_length(piece.thickness_m, system)}"
    return f"{thickness(piece, system)} × {width} × {length}"


@register.filter
def wood_of(piece: Piece) -> str:
    """What wood it is: its species, with how many there are in a lot."""
    return f"{piece.count} × {piece.species.common_name}" if piece.is_lot else piece.species.common_name


@register.filter
def description(piece: Piece, system: System) -> str:
    """A piece in a line: wood and kind, sizes, grain, seasoning."""
    kind = "" if piece.traits.goes_without_saying else f" {piece.get_kind_display().lower()}"
    parts = (f"{wood_of(piece)}{kind}", sizes(piece, system), piece.grain.lower(), piece.get_seasoning_display().lower())
    return ", ".join(part for part in parts if part)


@register.filter
def what_is_known(piece: Piece) -> str:
    """Everything else that was said of it, a sentence each."""
    sentences = (
        (piece.felled_on, f"Felled {date_format(piece.felled_on, 'j M Y')}." if piece.felled_on else ""),
        (piece.sawn_on, f"Sawn {date_format(piece.sawn_on, 'j M Y')}." if piece.sawn_on else ""),
        (piece.source, f"From {piece.source}."),
        (piece.ends_sealed, "Ends sealed."),
        (piece.has_pith, "The pith is in it: expect it to split from there."),
        (piece.has_sapwood, "With sapwood."),
        (piece.defects, f"Defects: {piece.defects}."),
        (piece.note, piece.note),
    )
    return " ".join(sentence for known, sentence in sentences if known)


@register.filter
def amount(piece: Piece, system: System) -> str:
    """How much wood a piece or lot is: board feet of what is sawn in an inch workshop, else its volume."""
    if system.is_inch and piece.board_feet is not None:
        return f"{piece.board_feet:.1f} bd ft"
    return cubic(piece.volume_m3, system)


@register.filter
def cubic(volume_m3: float, system: System) -> str:
    """A volume in cubic metres or litres, cubic feet or cubic inches."""
    return said_volume(volume_m3, system)


@register.filter
def own_beside(species: Species) -> list[woods.Beside]:
    """The figures of a species that are the workshop's own, beside the published ones."""
    return woods.beside_published(species)
