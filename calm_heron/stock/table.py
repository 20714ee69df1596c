"""Stock as a table: written as CSV that opens anywhere, and read back with an error beside every row that cannot be taken."""

import csv
from collections.abc import Iterable, Iterator
from datetime import date
from functools import partial
from typing import Any

from calm_heron.air import queries as air
from calm_heron.logbook import actions as log
from calm_heron.stock import actions, checks, tables, woods
from calm_heron.stock.kinds import TRAITS, PieceKind, Seasoning
from calm_heron.stock.listing import TABLE_COLUMNS
from calm_heron.stock.models import LENGTH_M, MOST_IN_A_LOT, RING_ANGLE_DEG, THICKNESS_M, WIDTH_M, Grain, Piece, Status
from calm_heron.stock.tables import Cells, Layout, TypedRow, TypedTable, harmless
from calm_heron.workshops.models import Membership, Role, Workshop
from calm_heron.workshops.refusals import Refused, require
from wood import units, written
from wood.errors import CannotRead
from wood.units import System

COLUMNS = (
    "tag",
    "kind",
    "species",
    "count",
    "thickness",
    "width",
    "length",
    "dressed",
    "ring angle",
    "seasoning",
    "ends sealed",
    "pith",
    "sapwood",
    "felled",
    "sawn",
    "place",
    "source",
    "defects",
    "note",
    "status",
)
MOST_ROWS = 10_000
# Words that stand where a tag would in an address.
NO_TAGS = ("new", "grain", "species", "several", "labels", "table")
YES, NO = ("yes", "y", "1", "true", "x"), ("no", "n", "0", "false", "")
LAYOUT = Layout(
    COLUMNS,
    needed=("species", "width"),
    shown=("tag", "kind", "species", "count", "thickness", "width", "length", "place"),
    most_rows=MOST_ROWS,
    too_many=f"These are more than {MOST_ROWS} rows; send them in parts.",
)


# -- writing


def _told() -> list[str]:
    """Names of columns written for reading elsewhere and not read back: readings, say, are kept with their instrument."""
    return [name for column in TABLE_COLUMNS for name in column.names]


def write(pieces: Iterable[Piece], system: System) -> Iterator[str]:
    """The lines of a CSV file: names first, then a row a piece; sizes with their unit, dates as 2026-11-25."""
    line = _Line()
    out = csv.writer(line)
    out.writerow((*COLUMNS, *_told()))
    yield line.taken()
    for piece in pieces:
        extra_cells = [cell for column in TABLE_COLUMNS for cell in column.cells(piece)]
        cells = (
            piece.tag,
            piece.get_kind_display(),
            piece.species.common_name,
            piece.count,
            piece.nominal or written.typed_length(piece.thickness_m, system),
            written.typed_length(piece.width_m, system),
            written.typed_length(piece.length_m, system),
            "yes" if piece.dressed else "",
            f"{piece.ring_angle_deg:g}",
            piece.get_seasoning_display(),
            *("yes" if item else "" for item in (piece.ends_sealed, piece.has_pith, piece.has_sapwood)),
            piece.felled_on or "",
            piece.sawn_on or "",
            piece.place or "",
            piece.source,
            piece.defects,
            piece.note,
            piece.get_status_display(),
            *extra_cells,
        )
        out.writerow([harmless(str(cell)) for cell in cells])
        yield line.taken()


class _Line:
    """Somewhere for csv to write one line into."""

    def __init__(self) -> None:
        self.text = ""

    def write(self, text: str) -> None:
        self.text += text

    def taken(self) -> str:
        text, self.text = self.text, ""
        return text


# -- reading


def read(text: str, workshop: Workshop) -> TypedTable:
    """Understand a table of pieces; nothing is kept.

    Raises:
        NotATable: it has no header that names the columns, or too many rows.
    """
    return tables.read(text, LAYOUT, _Reader(workshop).read, tuple(_told()))


class _Reader(Cells):
    """Turns the cells of rows into what a piece is made of; remembers species and places between rows."""

    def __init__(self, workshop: Workshop) -> None:
        super().__init__(workshop)
        self.places = {place.name.casefold(): place for place in air.places(workshop)}
        self.tags = {tag.casefold() for tag in Piece.objects.of(workshop).values_list("tag", flat=True)}
        self.kinds, self.grains, self.seasonings, self.statuses = (self._names(item) for item in (PieceKind, Grain, Seasoning, Status))

    @staticmethod
    def _names(choices: Any) -> dict[str, str]:
        return {name.casefold(): choice.value for choice in choices for name in (choice.value, choice.label)}

    def read(self, row: TypedRow) -> None:
        for name, act in (
            ("tag", self._tag),
            ("kind", lambda cell: {"kind": self.choice("kind", cell, self.kinds, PieceKind.BOARD)}),
            ("species", lambda cell: {"species_key": self.species_key(cell)}),
            ("count", lambda cell: {"count": self.whole("count", cell, MOST_IN_A_LOT)}),
            ("ring angle", self._ring_angle),
            ("seasoning", lambda cell: {"seasoning": self.choice("seasoning", cell, self.seasonings, Seasoning.AIR)}),
            ("place", self._place),
            ("status", lambda cell: {"status": self.choice("status", cell, self.statuses, Status.IN_STOCK)}),
        ):
            row.take(name, act)
        self._flags(row)
        self._dates(row)
        self._sizes(row)
        for name, most in (("source", 80), ("defects", 120), ("note", 200)):
            cell = row.cells.get(name, "")
            if len(cell) > most:
                row.errors[name] = f"At most {most} letters."
            elif name not in row.errors:
                row.values[name] = cell

    def _tag(self, cell: str) -> dict[str, Any]:
        if not cell:
            return {"tag": ""}
        if len(cell) > 32 or any(sign in cell for sign in "/?#\\") or len(cell.split()) > 1 or not cell.strip("."):
            raise CannotRead("tag", cell, "a tag is one word of at most 32 letters, without / ? #")
        if cell.casefold() in NO_TAGS:
            raise CannotRead("tag", cell, f"“{cell}” is a word of this application; choose another tag")
        if cell.casefold() in self.tags:
            raise CannotRead("tag", cell, f"{cell} is there already, in stock or above in this table")
        self.tags.add(cell.casefold())
        return {"tag": cell}

    def _ring_angle(self, cell: str) -> dict[str, Any]:
        if cell.casefold() in self.grains:
            return {"ring_angle_deg": RING_ANGLE_DEG[Grain(self.grains[cell.casefold()])]}
        angle = units.number(cell, "ring angle") if cell else RING_ANGLE_DEG[Grain.FLAT]
        if not 0 <= angle <= 90:
            raise CannotRead("ring angle", cell, "a ring angle is 0 to 90 degrees, or flat, rift, quarter")
        return {"ring_angle_deg": angle}

    def _place(self, cell: str) -> dict[str, Any]:
        if cell and cell.casefold() not in self.places:
            raise CannotRead("place", cell, f"no place is called “{units.shortened(cell)}”; add it under Air first")
        return {"place": self.places[cell.casefold()] if cell else None}

    def _flags(self, row: TypedRow) -> None:
        for name, saved in (("dressed", "dressed"), ("ends sealed", "ends_sealed"), ("pith", "has_pith"), ("sapwood", "has_sapwood")):
            cell = row.cells.get(name, "").casefold()
            if cell not in YES and cell not in NO and name not in row.errors:
                row.errors[name] = "yes or no"
            row.values[saved] = cell in YES

    def _dates(self, row: TypedRow) -> None:
        for name in ("felled", "sawn"):
            cell = row.cells.get(name, "")
            try:
                day = date.fromisoformat(cell) if cell else None
            except ValueError:
                row.errors.setdefault(name, "a day is written as 2026-03-31")
                continue
            row.values[f"{name}_on"] = day

    def _size(self, name: str, low: float, high: float, cell: str) -> dict[str, float]:
        return {f"{name}_m": self.size_m(name, cell, low, high)}

    def _sizes(self, row: TypedRow) -> None:
        kind, values = row.values.get("kind", PieceKind.BOARD), row.values
        limits = {"thickness": (THICKNESS_M[0], 0.5), "width": WIDTH_M, "length": LENGTH_M}
        for (name, (low, high)), question in zip(limits.items(), TRAITS[kind].size_names, strict=True):
            if question is not None:
                row.take(name, partial(self._size, name, low, high))
        for name, why in checks.complete(PieceKind(kind), values, row.cells.get("thickness", "")).items():
            row.errors.setdefault(COLUMN_OF.get(name, name), why)


# The columns whose names are not those of the values.
COLUMN_OF = {"width_m": "width", "felled_on": "felled", "sawn_on": "sawn"}


def keep(by: Membership, rows: list[TypedRow]) -> list[Piece]:
    """Add the pieces of rows without errors; called inside one transaction, so that all are kept or none.

    Raises:
        Refused: a tag was taken, or a species dropped, meanwhile.
    """
    require(by, Role.MAKER)
    actions.lock_tags(by.workshop)
    taken = {tag.casefold() for tag in Piece.objects.of(by.workshop).values_list("tag", flat=True)}
    # Read anew now that nobody can drop one of the workshop's own.
    woods.forget()
    book, made = woods.of_workshop(by.workshop.pk), []
    numbers: dict[str, int] = {}
    for row in rows:
        values = dict(row.values)
        tag = values.pop("tag")
        if tag and tag.casefold() in taken:
            raise Refused(f"The tag {tag} was taken meanwhile; look at the table again.", "text")
        if values["species_key"] not in book:
            raise Refused(f"The species of line {row.number} was dropped meanwhile; look at the table again.", "text")
        if not tag:
            word = actions.tag_word(book[values["species_key"]].common_name, values["kind"], values["count"])
            first = numbers.get(word) or int(actions.next_tag(by.workshop, word).rsplit("-", 1)[1])
            while f"{word}-{first:02d}" in taken:
                first += 1
            tag, numbers[word] = f"{word}-{first:02d}", first + 1
        taken.add(tag.casefold())
        made.append(Piece(workshop=by.workshop, tag=tag, added_by=by.person, **values))
    Piece.objects.bulk_create(made, batch_size=1000)
    log.write(by, "stock", "table_added", count=len(made), first=made[0].tag, last=made[-1].tag)
    return made
