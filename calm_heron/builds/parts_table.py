"""Parts typed or pasted as a table, or read from CSV: each row as it was understood, with an error beside what cannot be taken."""

from collections.abc import Callable
from typing import Any

from calm_heron.builds.kinds import FigureKind, FitKind, GrainWanted
from calm_heron.builds.models import EXTRA_M, MOST_PARTS, MOST_PIECES, MOST_STAVES, PART_M, USUAL_EXTRA_M, Build
from calm_heron.stock import tables
from calm_heron.stock.models import Piece
from calm_heron.stock.tables import Cells, Layout, NotATable, TypedRow, TypedTable
from wood import units
from wood.errors import CannotRead

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
    "matched",
    "from",
    "extra length",
    "extra width",
    "extra thickness",
)
OTHER_NAMES = {
    "name": "part",
    "qty": "count",
    "quantity": "count",
    "number": "count",
    "pieces": "count",
    "no": "count",
    "long": "length",
    "l": "length",
    "wide": "width",
    "w": "width",
    "thick": "thickness",
    "t": "thickness",
    "wood": "species",
    "timber": "species",
    "staves": "glued from",
    "boards": "glued from",
    "stock": "from",
    "board": "from",
    "tag": "from",
}
LAYOUT = Layout(
    COLUMNS,
    needed=("part", "length", "width", "thickness", "species"),
    shown=("part", "count", "length", "width", "thickness", "species", "grain", "glued from", "from"),
    most_rows=MOST_PARTS,
    too_many=(
        f"These are {{rows}} rows, and a build takes {MOST_PARTS} kinds of part. Count alike parts together, or make two builds of it."
    ),
    other_names=OTHER_NAMES,
    may_be_bare=True,
    most_letters=200,
)


def read(text: str, build: Build) -> TypedTable:
    """Understand a table of parts; nothing is kept.

    Raises:
        NotATable: there are no rows, too many, or no column that says what is needed.
    """
    result = tables.read(text, LAYOUT, _Reader(build).read)
    if not result.rows:
        raise NotATable("There are no rows in it.")
    return result


class _Reader(Cells):
    """Turns cells into what a part is made of; remembers species and pieces between rows."""

    def __init__(self, build: Build) -> None:
        super().__init__(build.workshop)
        self.build = build
        self.pieces = {piece.tag.casefold(): piece for piece in Piece.objects.of(self.workshop).in_stock()}
        self.acts: dict[str, Callable[[str], dict[str, Any]]] = {
            "part": self._name,
            "count": lambda cell: {"count": self.whole("count", cell, MOST_PIECES)},
            "species": self._wood,
            "grain": self._one_of("grain", GrainWanted),
            "glued from": lambda cell: {"staves": self.whole("glued from", cell, MOST_STAVES)},
            "fit": self._one_of("fit", FitKind),
            "figure": self._one_of("figure", FigureKind),
            "matched": self._yes,
            "from": self._stock,
        }

    def read(self, row: TypedRow) -> None:
        for name, act in self.acts.items():
            row.take(name, act)
        for name in ("length", "width", "thickness"):
            row.take(name, self._size(name, f"{name}_m", PART_M[f"{name}_m"]))
            if row.cells.get(extra := f"extra {name}"):
                row.take(extra, self._size(extra, f"extra_{name}_m", EXTRA_M[f"extra_{name}_m"]))
        for key, value in USUAL_EXTRA_M.items():
            row.values.setdefault(key, value)

    def _size(self, name: str, key: str, limits: tuple[float, float]) -> Callable[[str], dict[str, Any]]:
        return lambda cell: {key: self.size_m(name, cell, *limits)}

    def _name(self, cell: str) -> dict[str, Any]:
        if not cell:
            raise CannotRead("part", cell, "what is it called?")
        if len(cell) > 60:
            raise CannotRead("part", cell, "at most 60 letters")
        return {"name": cell}

    def _wood(self, cell: str) -> dict[str, Any]:
        if not cell:
            raise CannotRead("species", cell, "which wood?")
        return {"species_key": self.species_key(cell)}

    def _one_of(self, name: str, choices: Any) -> Callable[[str], dict[str, Any]]:
        names = {
            word.casefold(): choice.value
            for choice in choices
            for word in (choice.value, choice.label, str(choice.label).split(":")[0], str(choice.label).split(",")[0])
        }
        offered = ", ".join(value for value in choices.values if value)
        return lambda cell: {name: self.choice(name, cell, names, choices.values[0], offered)}

    @staticmethod
    def _yes(cell: str) -> dict[str, Any]:
        if cell.casefold() in ("", "no", "n", "0"):
            return {"matched": False}
        if cell.casefold() in ("yes", "y", "1", "x"):
            return {"matched": True}
        raise CannotRead("matched", cell, "yes or no")

    def _stock(self, cell: str) -> dict[str, Any]:
        if not cell:
            return {"stock": None}
        if cell.casefold() not in self.pieces:
            raise CannotRead("from", cell, f"no piece in stock is called “{units.shortened(cell)}”")
        return {"stock": self.pieces[cell.casefold()]}
