"""Tables of wood as text: read by one reader, whatever their rows are of, with an error beside every cell that cannot be taken.

A table of pieces (``table.py``) and one of a build's parts say what their columns are and what a cell of each means.
"""

import csv
import io
import re
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

from calm_heron.stock import woods
from calm_heron.workshops.models import Workshop
from wood import units, written
from wood.errors import CannotRead, WoodError

MOST_BYTES = 4 * 1024 * 1024
TOO_LONG = "This file is larger than 4 MB; send it in parts."
# What a spreadsheet would take for a formula and carry out: at the beginning of a cell, or where another reader begins one (after a
# semicolon, say, whatever stands in quotation marks). One apostrophe more makes it text; one fewer is what was meant.
FORMULA = re.compile(r"(^|[;\t\r\n] *)(?='*[=+\-@\t\r])")
MADE_HARMLESS = re.compile(r"(^|[;\t\r\n] *)'(?='*[=+\-@\t\r])")
# More species than there are in the book: the column holds something else, and each costs a search.
MOST_SPECIES = 500
# A whole number with more digits than this is none that anything here is counted by.
MOST_DIGITS = 9
SEPARATORS = ",;\t"


class NotATable(Exception):
    """A text that is no table of what is asked for; the sentence says why."""


@dataclass(frozen=True)
class Layout:
    """What a table's columns are: their names in order, which must be there, which are shown of every row, and how many rows it may have
    (``too_many`` says so, and may name the ``{rows}`` that were sent).

    ``other_names`` are words that stand for a column. Without a first line of names (``may_be_bare``) the columns are in order.
    """

    columns: tuple[str, ...]
    needed: tuple[str, ...]
    shown: tuple[str, ...]
    most_rows: int
    too_many: str
    other_names: dict[str, str] = field(default_factory=dict)
    may_be_bare: bool = False
    most_letters: int = 1000

    def column(self, cell: str) -> str:
        """The column that a cell of the first line names, or the cell as it is."""
        name = " ".join(cell.casefold().replace("_", " ").replace(".", " ").split())
        return self.other_names.get(name, name)


@dataclass
class TypedRow:
    """One row as it was sent (``number`` counts from the first line of the file) and what becomes of it."""

    number: int
    cells: dict[str, str]
    layout: Layout
    values: dict[str, Any] = field(default_factory=dict)
    errors: dict[str, str] = field(default_factory=dict)

    @property
    def shown(self) -> list[tuple[str, str]]:
        """Each cell that matters with its error, in the order of the columns."""
        return [(self.cells.get(name, ""), self.errors.get(name, "")) for name in self.layout.shown]

    @property
    def other_errors(self) -> list[tuple[str, str]]:
        return [(name, error) for name, error in self.errors.items() if name not in self.layout.shown]

    def take(self, name: str, act: Callable[[str], dict[str, Any]]) -> None:
        """What a cell means, among the row's values; or what is wrong with it, beside it."""
        if name in self.errors:
            return
        try:
            self.values |= act(self.cells.get(name, ""))
        except CannotRead as error:
            self.errors[name] = error.why
        except WoodError as error:
            self.errors[name] = str(error)


@dataclass
class TypedTable:
    """A text as it was understood."""

    rows: list[TypedRow]
    ignored: list[str]
    text: str = ""

    @property
    def wrong(self) -> list[TypedRow]:
        return [row for row in self.rows if row.errors]

    @property
    def right(self) -> list[TypedRow]:
        return [row for row in self.rows if not row.errors]

    def left(self) -> str:
        """The rows that could not be taken, as a table of their own to be mended."""
        out = io.StringIO(newline="")
        writer = csv.writer(out)
        columns = self.rows[0].layout.columns if self.rows else ()
        names = [name for name in columns if any(name in row.cells for row in self.wrong)]
        writer.writerow(names)
        for row in self.wrong:
            writer.writerow([row.cells.get(name, "") for name in names])
        return out.getvalue()


def harmless(cell: str) -> str:
    """A cell that no spreadsheet carries out, whichever separator it reads by: what looks like a formula gets an apostrophe before it."""
    return FORMULA.sub(r"\1'", cell)


def meant(cell: str) -> str:
    """What was written as :func:`harmless`, as it was before."""
    return MADE_HARMLESS.sub(r"\1", cell)


def _refuse_formulas(cells: dict[str, str], errors: dict[str, str]) -> None:
    """Put harmless cells back as they were meant, and say beside bare formulas that they are not taken."""
    for name, cell in cells.items():
        # An apostrophe is how a harmless cell was written.
        if (before := meant(cell)) != cell:
            cells[name] = before
        elif cell[:1] in ("=", "@") or (cell[:1] in "+-" and cell[1:2].isalpha()):
            errors[name] = "It begins like a formula; write what it comes to."


def decoded(content: bytes) -> tuple[str, str]:
    """The text of a file, and a remark where its encoding had to be guessed.

    Raises:
        NotATable: it is no text, or too long.
    """
    if len(content) > MOST_BYTES:
        raise NotATable(TOO_LONG)
    if content[:2] in (b"\xff\xfe", b"\xfe\xff"):
        try:
            return content.decode("utf-16"), ""
        except UnicodeDecodeError:
            raise NotATable("This file begins like UTF-16 and is not; save it as CSV in UTF-8.") from None
    if b"\0" in content or content[:2] in (b"PK", b"\xd0\xcf"):
        raise NotATable("This is no CSV file but a workbook or another kind of file. Save the sheet as CSV in UTF-8 and send that.")
    try:
        return content.decode("utf-8-sig"), ""
    except UnicodeDecodeError:
        text = content.decode("cp1252", errors="replace")
        return text, "The file is not in UTF-8; it was read as Western European (Windows-1252). Look at the accents in the names below."


def read(text: str, layout: Layout, judge: Callable[[TypedRow], None], ignored: tuple[str, ...] = ()) -> TypedTable:
    """Understand a table row by row; nothing is kept. ``judge`` reads the cells of each; ``ignored`` are columns that are known and not
    read back.

    Raises:
        NotATable: it has no rows or too many, or no line that names what is needed.
    """
    if "\0" in text:
        raise NotATable("There are null characters in this text; save the sheet as CSV in UTF-8 and send that.")
    first = next((line for line in text.splitlines() if line.strip()), "")
    reader = csv.reader(io.StringIO(text, newline=""), delimiter=max(SEPARATORS, key=first.count), strict=not layout.may_be_bare)
    header: list[str] | None = None
    rows: list[TypedRow] = []
    try:
        for cells in reader:
            if not any(cell.strip() for cell in cells):
                continue
            if header is None:
                header, is_names = _header(cells, layout)
                if is_names:
                    continue
            if len(rows) >= layout.most_rows:
                more = sum(any(cell.strip() for cell in cells) for cells in reader)
                raise NotATable(layout.too_many.format(rows=len(rows) + 1 + more))
            row = TypedRow(
                reader.line_num,
                {name: cell.strip()[: layout.most_letters] for name, cell in zip(header, cells, strict=False) if name in layout.columns},
                layout,
            )
            if len(cells) > len(header) and (not layout.may_be_bare or any(cell.strip() for cell in cells[len(header) :])):
                row.errors["row"] = f"It has {len(cells)} cells, and there are {len(header)} columns."
            _refuse_formulas(row.cells, row.errors)
            judge(row)
            rows.append(row)
    except csv.Error as error:
        raise NotATable(f"Line {reader.line_num} is no CSV: {error}. A quotation mark may be missing.") from None
    if header is None:
        header, _ = _header([], layout)
    known = (*layout.columns, *ignored)
    return TypedTable(rows, [name for name in header if name and name not in known], text)


def _header(cells: list[str], layout: Layout) -> tuple[list[str], bool]:
    """The columns in the order of the file, and whether the line at hand names them."""
    header = [layout.column(cell) for cell in cells]
    if layout.may_be_bare and sum(name in layout.columns for name in header) < 2:
        return list(layout.columns), False
    if missing := next((name for name in layout.needed if name not in header), None):
        raise NotATable(f"The first line must name the columns; “{missing}” is not among them. Known names: {', '.join(layout.columns)}.")
    if twice := next((name for name in header if name and header.count(name) > 1), None):
        raise NotATable(f"Two columns are called “{twice}”.")
    return header, True


class Cells:
    """What cells mean, whatever table they stand in; remembers species between rows.

    Each raises ``CannotRead`` where a cell means nothing.
    """

    def __init__(self, workshop: Workshop) -> None:
        self.workshop, self.system = workshop, workshop.system
        self._species_known: dict[str, str | CannotRead] = {}

    def whole(self, name: str, cell: str, most: int) -> int:
        """A whole number from 1 to ``most``; 1 where nothing is said."""
        if not cell:
            return 1
        digits = cell.lstrip("0")
        if not (cell.isascii() and cell.isdigit() and len(digits) <= MOST_DIGITS and 1 <= int(digits or 0) <= most):
            raise CannotRead(name, cell, f"a whole number from 1 to {most}")
        return int(digits)

    def species_key(self, cell: str) -> str:
        """The key of a species by any of its names."""
        known = self._species_known.get(cell)
        if known is None:
            if len(self._species_known) >= MOST_SPECIES:
                raise NotATable(f"More than {MOST_SPECIES} different species are named here; does that column hold something else?")
            try:
                known = woods.named(self.workshop, cell)
            except CannotRead as error:
                known = error
            self._species_known[cell] = known
        if isinstance(known, CannotRead):
            raise known
        return known

    def size_m(self, name: str, cell: str, low_m: float, high_m: float) -> float:
        """A length between two others."""
        size = units.length_m(cell, self.system, name)
        if not low_m <= size <= high_m:
            raise CannotRead(
                name,
                cell,
                f"{written.said_length(size, self.system)} is outside what is possible:"
                f" {' to '.join(written.length_limits(low_m, high_m, self.system))}",
            )
        return size

    def choice(self, name: str, cell: str, names: dict[str, str], usual: str, offered: str = "") -> str:
        """One of several words, by the word in small letters; the usual where nothing is said."""
        if cell and cell.casefold() not in names:
            raise CannotRead(name, cell, f"“{units.shortened(cell)}” is none of {offered or ', '.join(sorted(set(names)))}")
        return names[cell.casefold()] if cell else usual
