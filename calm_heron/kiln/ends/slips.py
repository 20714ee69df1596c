"""The slip that goes with a load that somebody else dries, as a document of one page."""

from collections.abc import Sequence

from calm_heron.stock.labels import FONTS
from wood.units import System

MARGIN, NAME_WIDTH, LINE = 20.0, 52.0, 7.0
HAND = ("In on", "Moisture in", "Out on", "Moisture out", "Kiln")


def pdf(rows: Sequence[tuple[str, str]], system: System) -> bytes:
    """The slip as a file: rows of a name and what is said, and lines for the hand below; Letter where people measure in inches, else A4."""
    # Loaded where it is needed: it takes half a second, and no page waits for it (command/serving.py).
    from fpdf import FPDF

    document = FPDF(unit="mm", format="letter" if system.is_inch else "a4")
    document.set_auto_page_break(False)
    document.set_title("Please dry this load")
    document.add_font("slip", "", FONTS / "hyperlegible-regular.ttf")
    document.add_font("slip", "B", FONTS / "hyperlegible-bold.ttf")
    document.add_page()
    document.set_margins(MARGIN, MARGIN)
    document.set_xy(MARGIN, MARGIN)
    document.set_font("slip", "B", 22)
    document.cell(0, 12, "Please dry this load")
    document.set_y(MARGIN + 18)
    wide = document.w - 2 * MARGIN - NAME_WIDTH
    for name, said in rows:
        top = document.get_y()
        document.set_font("slip", "B", 11)
        document.set_xy(MARGIN, top)
        document.multi_cell(NAME_WIDTH - 4, LINE, name)
        low = document.get_y()
        document.set_font("slip", "", 12)
        document.set_xy(MARGIN + NAME_WIDTH, top)
        document.multi_cell(wide, LINE, said)
        document.set_y(max(low, document.get_y()) + 2)
    document.set_font("slip", "", 10)
    bottom = min(document.get_y() + 14, document.h - MARGIN - 12 * len(HAND))
    for number, name in enumerate(HAND):
        y = bottom + number * 12
        document.text(MARGIN, y, name)
        document.line(MARGIN + NAME_WIDTH, y + 1, document.w - MARGIN, y + 1)
    return bytes(document.output())
