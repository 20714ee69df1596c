"""Labels to stick on wood: a tag that can be read across the shop, and a code that opens the piece on a phone."""

from collections.abc import Sequence
from dataclasses import dataclass

import segno
from django.template.loader import render_to_string

from calm_heron.stock.models import Piece
from wood.units import System

MOST_LABELS = 1000


@dataclass(frozen=True)
class Sheet:
    """A sheet of labels: paper and label in millimetres, and where the first one begins."""

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
        Sheet("a4-24", "A4, 24 of 70 × 37 mm", "A4", 3, 8, 70, 37, 0, 0.5),
        Sheet("a4-10", "A4, 10 of 105 × 57 mm", "A4", 2, 5, 105, 57, 0, 6),
        Sheet("letter-30", "Letter, 30 of 2 5/8 × 1 in", "letter", 3, 10, 66.7, 25.4, 4.8, 12.7, 3.05),
        Sheet("letter-10", "Letter, 10 of 4 × 2 in", "letter", 2, 5, 101.6, 50.8, 4.0, 12.7, 4.8),
    )
}


@dataclass(frozen=True)
class Label:
    """One label where it is printed, millimetres from the corner of its sheet; ``code`` is the path of a QR code of ``modules`` squared."""

    piece: Piece
    left: float
    top: float
    code: str
    modules: int


def code_of(address: str) -> tuple[str, int]:
    """The path and the size in modules of a QR code: one run of dark modules after the other."""
    rows = segno.make(address, error="m", micro=False).matrix
    parts = []
    for y, row in enumerate(rows):
        x = 0
        while x < len(row):
            start = x
            while x < len(row) and row[x]:
                x += 1
            if x > start:
                parts.append(f"M{start} {y}h{x - start}v1h-{x - start}z")
            x += 1
    return "".join(parts), len(rows)


def pages(pieces: Sequence[Piece], sheet: Sheet, address_of, skip: int = 0) -> list[list[Label]]:
    """Labels laid on sheets, leaving out the first ``skip`` of a sheet that was begun."""
    laid: list[list[Label]] = []
    for number, piece in enumerate(pieces, start=skip % sheet.each):
        if number % sheet.each == 0 or not laid:
            laid.append([])
        row, column = divmod(number % sheet.each, sheet.columns)
        code, modules = code_of(address_of(piece))
        laid[-1].append(Label(piece, sheet.left + column * (sheet.width + sheet.gap), sheet.top + row * sheet.height, code, modules))
    return laid


def drawn(pieces: Sequence[Piece], sheet: Sheet, system: System, address_of, skip: int = 0):
    """The sheets as a document of weasyprint, one page each.

    Raises:
        OSError: the drawing libraries that ``./heron start`` installs are missing.
    """
    from weasyprint import HTML

    page = {"pages": pages(pieces, sheet, address_of, skip), "sheet": sheet, "system": system}
    return HTML(string=render_to_string("stock/labels.html", page)).render()


def pdf(pieces: Sequence[Piece], sheet: Sheet, system: System, address_of, skip: int = 0) -> bytes:
    """The sheets as PDF; raises as :func:`drawn`."""
    return drawn(pieces, sheet, system, address_of, skip).write_pdf()
