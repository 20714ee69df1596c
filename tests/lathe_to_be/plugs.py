"""What the lathe brings to the pages that are composed."""

from django.urls import reverse

from calm_heron.plugs import (
    DEMO_PARTS,
    KEYS,
    LOG_KINDS,
    PANELS,
    PARTS,
    PIECE_ACTIONS,
    DemoPart,
    Keys,
    LogKind,
    Panel,
    Part,
    PieceAction,
    Slot,
)
from calm_heron.stock.listing import COLUMNS, TABLE_COLUMNS, Column, TableColumn
from calm_heron.stock.search import SEARCH_WORDS, SearchWord

PARTS.add(Part(65, "Lathe", "lathe", key="v"))
KEYS.add(Keys(60, ((("w",), "wets the samples"),)))
LOG_KINDS.add(LogKind(60, "lathe", "Lathe", words={"went_in": "Charge {charge} went in"}))
PANELS.add(
    Panel(60, Slot.PLACE, "lathe_to_be/in_place.html", lambda page: {"told": " <now>"}),
    Panel(61, Slot.PLACE, "lathe_to_be/in_place.html", lambda page: None),
    Panel(60, Slot.PIECE, "lathe_to_be/of_piece.html", lambda page: {"charge": 4}, key="charge", alone="lathe_to_be/of_piece.html"),
)
PIECE_ACTIONS.add(PieceAction(60, "Into the lathe?", lambda piece: reverse("lathe", args=[piece.workshop.slug]), may="may_make"))
COLUMNS.add(
    Column(65, "charge", "Charge", "lathe_to_be/cell.html", values=lambda pieces, question: {piece.pk: "<four>" for piece in pieces})
)
TABLE_COLUMNS.add(TableColumn(65, ("charge",), lambda piece: [f"of {piece.tag}"]))
SEARCH_WORDS.add(
    SearchWord(
        65,
        ("charged",),
        "for what is in the lathe",
        lambda word: word if word == "charged" else None,
        lambda pieces, query, question: pieces.none(),
    )
)
DEMO_PARTS.add(DemoPart(65, (), lambda demo: demo.made.update(lathe="oiled")))
