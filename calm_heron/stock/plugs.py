"""What stock brings to the pages that are composed."""

from collections.abc import Mapping
from typing import Any

from calm_heron.air import queries as air
from calm_heron.plugs import DEMO_PARTS, LOG_KINDS, PAGES, PANELS, DemoPart, LogKind, Page, Panel, Slot
from calm_heron.stock import demo, words
from calm_heron.stock.faults import fault_of, faults
from calm_heron.stock.forms import BulkForm, PhotoForm
from calm_heron.stock.listing import COLUMNS, Column
from calm_heron.stock.models import OwnSpecies, Photo, Piece, Status


def out_of_stock(page: Mapping[str, Any]) -> dict[str, Any] | None:
    return None if page["piece"].status == Status.IN_STOCK else {}


def not_quite_sound(page: Mapping[str, Any]) -> dict[str, Any] | None:
    """What is cracked, checked or mended about a piece and no danger."""
    fault = fault_of(page["piece"])
    return None if fault is None else {"fault": fault}


def amount(page: Mapping[str, Any]) -> dict[str, Any]:
    """How much wood it is, its photographs, and where it may be moved."""
    membership = page["membership"]
    return {
        "photo_form": PhotoForm(membership=membership),
        "bulk": BulkForm(membership=membership),
        "photos": page["piece"].photos.defer("jpeg").order_by("at"),
        "places": air.places(membership.workshop),
    }


LOG_KINDS.add(LogKind(30, "stock", "Stock", words.LOG))
PANELS.add(
    Panel(5, Slot.PIECE, "stock/gone.html", out_of_stock),
    Panel(12, Slot.PIECE, "stock/fault.html", not_quite_sound),
    Panel(80, Slot.PIECE, "stock/amount.html", amount),
    Panel(90, Slot.PIECE, "stock/species_panel.html"),
    Panel(30, Slot.STOCK_LINKS, "stock/links.html"),
)
COLUMNS.add(
    Column(10, "tag", "Tag", "stock/cells/tag.html", order_by="tag", values=lambda pieces, question: faults(question.workshop)),
    Column(20, "species", "Species", "stock/cells/species.html", "wide-only", "wide-only", order_by="species_key"),
    Column(60, "size", "Size", "stock/cells/size.html", "wide-only", "wide-only whitespace-nowrap"),
    Column(70, "place", "Place", "stock/cells/place.html", "wide-only", "wide-only", order_by="place__name", joins=("place",)),
)
DEMO_PARTS.add(DemoPart(30, (Photo, Piece, OwnSpecies), demo.load))
PAGES.add(
    Page(31, "Add wood", "new_piece", words="new piece board lot log bowl", beside="Stock", may="may_make"),
    Page(32, "Print labels", "labels", words="label sheet tags codes", beside="Stock"),
    Page(33, "Export CSV", "table_out", words="table spreadsheet download out", beside="Stock"),
    Page(34, "Import CSV", "table_in", words="table spreadsheet notebook in", beside="Stock", may="may_make"),
    Page(35, "Species figures", "species_book", words="shrinkage density own woods", beside="Stock"),
)
