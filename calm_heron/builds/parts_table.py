"""Parts typed or pasted as a table, or read from CSV: each row as it was understood, with an error beside what cannot be taken."""

import csv
import io
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

from calm_heron.builds.kinds import FigureKind, FitKind, GrainWanted
from calm_heron.builds.models import EXTRA_M, MOST_PARTS, MOST_PIECES, MOST_STAVES, PART_M, USUAL_EXTRA_M, Build
from calm_heron.stock import woods
from calm_heron.stock.models import Piece
from calm_heron.stock.table import NotATable, refuse_formulas
from wood import units
from wood.errors import CannotRead, WoodError

# The columns in the order in which rows without a first line of names are read.
COLUMNS = (
    "part",
    "count",
    "length",
    "width",
    "thickness",
    "species",
    "grain",
    "glued from",
    "fit",
    "figure",
    "from",
    "extra length",
    "extra width",
    "extra thickness",
)
NEEDED = ("part", "length", "width", "thickness", "species")
OTHER_NAMES = {
    "name": "part", "qty": "count", "quantity": "count", "number": "count", "pieces": "count", "no": "count", "long": "length", "l": "length", "wide": "width",
    "w": "width", "thick": "thickness", "t": "thickness", "wood": "species", "timber": "species", "staves": "glued from", "boards": "glued from",
    "stock": "from", "board": "from", "tag": "from",
}  # fmt: skip
SHOWN = ("part", "count", "length", "width", "thickness", "species", "grain", "glued from", "from")
SEPARATORS = "\t;,"


@dataclass
class Row:
    """One row: its line, its cells by column, what they mean, and what is wrong with them."""

    number: int
    cells: dict[str, str]
    values: dict[str, Any] = field(default_factory=dict)
    errors: dict[str, str] = field(default_factory=dict)

    @property
    def shown(self) -> list[tuple[str, str]]:
        return [(self.cells.get(name, ""), self.errors.get(name, "")) for name in SHOWN]

    @property
    def other_errors(self) -> list[tuple[str, str]]:
        return [(name, error) for name, error in self.errors.items() if name not in SHOWN]


@dataclass
class Table:
    """A text as it was understood."""

    rows: list[Row]
    ignored: list[str]

    @property
    def wrong(self) -> list[Row]:
        return [row for row in self.rows if row.errors]


def read(text: str, build: Build) -> Table:
    """Understand a table of parts; nothing is kept.

    Raises:
        NotATable: there are no rows, too many, or no column that says what is needed.
    """
    if "\0" in text:
        raise NotATable("There are null characters in this text; save the sheet as CSV in UTF-8 and send that.")
    first = next((line for line in text.splitlines() if line.strip()), "")
    separator = max(SEPARATORS, key=first.count)
    try:
        lines = [
            (n, cells)
            for n, cells in enumerate(csv.reader(io.StringIO(text, newline=""), delimiter=separator), 1)
            if any(cell.strip() for cell in cells)
        ]
    except csv.Error as error:
        raise NotATable(f"This is no table: {error}. A quotation mark may be missing.") from None
    if not lines:
        raise NotATable("There are no rows in it.")
    header = [_column(cell) for cell in lines[0][1]]
    named = sum(name in COLUMNS for name in header) >= 2
    if named:
        lines = lines[1:]
        if missing := next((name for name in NEEDED if name not in header), None):
            raise NotATable(f"The first line names columns, and “{missing}” is not among them. Known names: {', '.join(COLUMNS)}.")
        if twice := next((name for name in header if name and header.count(name) > 1), None):
            raise NotATable(f"Two columns are called “{twice}”.")
    else:
        header = list(COLUMNS)
    if len(lines) > MOST_PARTS:
        raise NotATable(
            f"These are {len(lines)} rows, and a build takes {MOST_PARTS} kinds of part. Count alike parts together, or make two builds of it."
        )
    judge = _Reader(build)
    rows = []
    for number, cells in lines:
        row = Row(number, {name: cell.strip()[:200] for name, cell in zip(header, cells, strict=False) if name in COLUMNS})
        if any(cell.strip() for cell in cells[len(header) :]):
            row.errors["row"] = f"It has {len(cells)} cells, and there are {len(header)} columns."
        judge.read(row)
        rows.append(row)
    return Table(rows, [name for name in header if name and name not in COLUMNS])


def _column(cell: str) -> str:
    name = " ".join(cell.casefold().replace("_", " ").replace(".", " ").split())
    return OTHER_NAMES.get(name, name)


class _Reader:
    """Turns cells into what a part is made of; remembers species and pieces between rows."""

    def __init__(self, build: Build) -> None:
        self.build, self.workshop, self.system = build, build.workshop, build.workshop.system
        self.species: dict[str, str | CannotRead] = {}
        self.pieces = {piece.tag.casefold(): piece for piece in Piece.objects.of(self.workshop).in_stock()}
        self.acts: dict[str, Callable[[str], dict[str, Any]]] = {
            "part": self._name, "count": self._count, "species": self._species, "grain": self._choice("grain", GrainWanted),
            "glued from": self._staves, "fit": self._choice("fit", FitKind), "figure": self._choice("figure", FigureKind), "from": self._stock,
        }  # fmt: skip

    def read(self, row: Row) -> None:
        refuse_formulas(row.cells, row.errors)
        for name, act in self.acts.items():
            if name not in row.errors:
                self._take(row, name, lambda cell, act=act: act(cell))  # type: ignore[misc]
        for name in ("length", "width", "thickness"):
            if name not in row.errors:
                self._take(row, name, lambda cell, name=name: {f"{name}_m": self._size(name, cell, PART_M[f"{name}_m"])})  # type: ignore[misc]
            extra = f"extra {name}"
            if row.cells.get(extra) and extra not in row.errors:
                self._take(row, extra, lambda cell, name=name: {f"extra_{name}_m": self._size(name, cell, EXTRA_M[f"extra_{name}_m"])})  # type: ignore[misc]
        for key, value in USUAL_EXTRA_M.items():
            row.values.setdefault(key, value)

    def _take(self, row: Row, name: str, act: Callable[[str], dict[str, Any]]) -> None:
        try:
            row.values |= act(row.cells.get(name, ""))
        except CannotRead as error:
            row.errors[name] = error.why
        except WoodError as error:
            row.errors[name] = str(error)

    def _name(self, cell: str) -> dict[str, Any]:
        if not cell:
            raise CannotRead("part", cell, "what is it called?")
        if len(cell) > 60:
            raise CannotRead("part", cell, "at most 60 letters")
        return {"name": cell}

    def _whole(self, name: str, cell: str, most: int) -> int:
        if cell and not (cell.isascii() and cell.isdigit() and 1 <= int(cell[:9]) <= most):
            raise CannotRead(name, cell, f"a whole number from 1 to {most}")
        return int(cell or 1)

    def _count(self, cell: str) -> dict[str, Any]:
        return {"count": self._whole("count", cell, MOST_PIECES)}

    def _staves(self, cell: str) -> dict[str, Any]:
        return {"staves": self._whole("glued from", cell, MOST_STAVES)}

    def _species(self, cell: str) -> dict[str, Any]:
        if not cell:
            raise CannotRead("species", cell, "which wood?")
        known = self.species.get(cell)
        if known is None:
            try:
                known = woods.named(self.workshop, cell)
            except CannotRead as error:
                known = error
            self.species[cell] = known
        if isinstance(known, CannotRead):
            raise known
        return {"species_key": known}

    def _choice(self, name: str, choices: Any) -> Callable[[str], dict[str, Any]]:
        names = {
            word.casefold(): one.value
            for one in choices
            for word in (one.value, one.label, str(one.label).split(":")[0], str(one.label).split(",")[0])
        }
        usual = choices.values[0]

        def act(cell: str) -> dict[str, Any]:
            if cell and cell.casefold() not in names:
                raise CannotRead(name, cell, f"“{units.shortened(cell)}” is none of {', '.join(one for one in choices.values if one)}")
            return {name: names[cell.casefold()] if cell else usual}

        return act

    def _stock(self, cell: str) -> dict[str, Any]:
        if not cell:
            return {"stock": None}
        if cell.casefold() not in self.pieces:
            raise CannotRead("from", cell, f"no piece in stock is called “{units.shortened(cell)}”")
        return {"stock": self.pieces[cell.casefold()]}

    def _size(self, name: str, cell: str, limits: tuple[float, float]) -> float:
        size = units.length_m(cell, self.system, name)
        if not limits[0] <= size <= limits[1]:
            low, high = (units.write_length(one, self.system) for one in limits)
            raise CannotRead(name, cell, f"{low} to {high}")
        return size
