"""Labels to stick on wood: a tag that can be read across the shop, and a code that opens the piece on a phone."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING

from calm_heron.site.codes import dark_runs
from calm_heron.stock.models import Piece
from calm_heron.stock.templatetags.piece_words import sizes
from wood.units import System

if TYPE_CHECKING:
    from fpdf import FPDF


MOST_LABELS = 500
# Around what is printed on a label, millimetres.
MARGIN = 3
# A code is at most this share of a label's width.
MOST_CODE = 0.4


@dataclass(frozen=True)
class Sheet:
    """A sheet of labels: paper and label in millimetres, and where the first one begins; its ``name`` is in both systems."""

    key: str
    name: str
    paper: str
    columns: int
    rows: int
    width: float
    height: float
    left: float
    top: float
    gap: float = 0.0

    @property
    def each(self) -> int:
        return self.columns * self.rows


SHEETS = {
    sheet.key: sheet
    for sheet in (
        Sheet("a4-24", "A4, 24 of {70 × 37 mm|2 3/4 × 1 1/2 in}", "A4", 3, 8, 70, 37, 0, 0.5),
        Sheet("a4-10", "A4, 10 of {105 × 57 mm|4 1/8 × 2 1/4 in}", "A4", 2, 5, 105, 57, 0, 6),
        Sheet("letter-30", "Letter, 30 of {67 × 25 mm|2 5/8 × 1 in}", "letter", 3, 10, 66.7, 25.4, 4.8, 12.7, 3.05),
        Sheet("letter-10", "Letter, 10 of {102 × 51 mm|4 × 2 in}", "letter", 2, 5, 101.6, 50.8, 4.0, 12.7, 4.8),
    )
}


@dataclass(frozen=True)
class Label:
    """One label where it is printed: its corner in millimetres from that of its sheet."""

    piece: Piece
    left: float
    top: float


FONTS = Path(__file__).parent / "fonts"
POINT_MM = 25.4 / 72
TAG_POINTS, LEAST_TAG_POINTS, WORDS_POINTS = 20, 9, 8.5


def pages(pieces: Sequence[Piece], sheet: Sheet, skip: int = 0) -> list[list[Label]]:
    """Labels laid on sheets, leaving out the first ``skip`` of a sheet that was begun."""
    laid: list[list[Label]] = []
    for number, piece in enumerate(pieces, start=skip % sheet.each):
        if number % sheet.each == 0 or not laid:
            laid.append([])
        row, column = divmod(number % sheet.each, sheet.columns)
        laid[-1].append(Label(piece, sheet.left + column * (sheet.width + sheet.gap), sheet.top + row * sheet.height))
    return laid


def pdf(pieces: Sequence[Piece], sheet: Sheet, system: System, address_of: Callable[[Piece], str], skip: int = 0) -> "FPDF":
    """The sheets as a document; its ``output()`` is the file."""
    # Loaded where it is needed: it takes half a second, and no page waits for it (command/serving.py).
    from fpdf import FPDF

    document = FPDF(unit="mm", format=sheet.paper)
    document.set_auto_page_break(False)
    document.set_title("Labels")
    document.add_font("label", "", FONTS / "hyperlegible-regular.ttf")
    document.add_font("label", "B", FONTS / "hyperlegible-bold.ttf")
    for laid in pages(pieces, sheet, skip):
        document.add_page()
        for label in laid:
            _draw(document, label, sheet, system, address_of(label.piece))
    return document


def _draw(document: "FPDF", label: Label, sheet: Sheet, system: System, address: str) -> None:
    side = min(sheet.height - 2 * MARGIN, MOST_CODE * sheet.width)
    _draw_code(document, address, label.left + MARGIN, label.top + MARGIN, side)
    piece = label.piece
    left = label.left + side + 2 * MARGIN
    width = sheet.width - side - 3 * MARGIN
    # A long tag is set smaller until it fits beside its code.
    points = TAG_POINTS
    while points > LEAST_TAG_POINTS:
        document.set_font("label", "B", points)
        if document.get_string_width(piece.tag) <= width:
            break
        points -= 1
    y = label.top + MARGIN
    document.set_xy(left, y)
    document.cell(width, points * POINT_MM, piece.tag)
    y += points * POINT_MM * 1.15
    document.set_font("label", "", WORDS_POINTS)
    count = f"{piece.count} × " if piece.is_lot else ""
    # The font has no diameter sign; the letter beside it is the usual stand-in.
    lines = [f"{count}{piece.species.common_name}", sizes(piece, system).replace("⌀", "Ø"), str(piece.place or "")]
    for line in (part for whole in lines for part in _broken(document, whole, width)):
        if y + WORDS_POINTS * POINT_MM > label.top + sheet.height - 1:
            break
        document.set_xy(left, y)
        document.cell(width, WORDS_POINTS * POINT_MM, line)
        y += WORDS_POINTS * POINT_MM * 1.25


def _broken(document: "FPDF", line: str, width: float) -> list[str]:
    """A line in as many as fit the width, broken between words."""
    lines: list[str] = []
    for word in line.split():
        longer = f"{lines[-1]} {word}" if lines else word
        if lines and document.get_string_width(longer) <= width:
            lines[-1] = longer
        else:
            lines.append(word)
    return lines


def _draw_code(document: "FPDF", address: str, left: float, top: float, side: float) -> None:
    """A QR code, one run of dark modules after the other, with a quiet module around."""
    size, runs = dark_runs(address)
    module = side / (size + 2)
    document.set_fill_color(0)
    for x, y, length in runs:
        document.rect(left + (x + 1) * module, top + (y + 1) * module, length * module, module, style="F")
