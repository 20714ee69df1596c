"""Stock as a table: written as CSV that opens anywhere, and read back with an error beside every row that cannot be taken."""

import csv
import io
import re
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field
from datetime import date

from calm_heron.air import queries as air
from calm_heron.logbook import actions as log
from calm_heron.stock import actions, checks, woods
from calm_heron.stock.kinds import TRAITS, PieceKind, Seasoning
from calm_heron.stock.listing import TABLE_COLUMNS
from calm_heron.stock.models import LENGTH_M, MOST_IN_A_LOT, RING_ANGLE_DEG, THICKNESS_M, WIDTH_M, Grain, Piece, Status
from calm_heron.workshops.models import Membership, Role, Workshop
from calm_heron.workshops.refusals import Refused, require
from wood import units
from wood.errors import CannotRead
from wood.units import System

COLUMNS = (
    "tag", "kind", "species", "count", "thickness", "width", "length", "dressed", "ring angle", "seasoning", "ends sealed", "pith", "sapwood",
    "felled", "sawn", "place", "source", "defects", "note", "status",
)  # fmt: skip
NEEDED = ("species", "width")
MOST_ROWS, MOST_BYTES = 10_000, 4 * 1024 * 1024
# Words that stand where a tag would in an address.
NO_TAGS = ("new", "grain", "species", "several", "labels", "table")
# What a spreadsheet would take for a formula and carry out: at the beginning of a cell, or where another reader begins one (after a
# semicolon, say, whatever stands in quotation marks). One apostrophe more makes it text; one fewer is what was meant.
FORMULA = re.compile(r"(^|[;\t\r\n] *)(?='*[=+\-@\t\r])")
MADE_HARMLESS = re.compile(r"(^|[;\t\r\n] *)'(?='*[=+\-@\t\r])")
# More species than there are in the book: the column holds something else, and each costs a search.
MOST_SPECIES = 500
YES, NO = ("yes", "y", "1", "true", "x"), ("no", "n", "0", "false", "")
# The columns that are shown of every row.
SHOWN = ("tag", "kind", "species", "count", "thickness", "width", "length", "place")
TOO_LONG = "This file is larger than 4 MB; send it in parts."


class NotATable(Exception):
    """A file that is no table of pieces; the sentence says why."""


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
            piece.tag, piece.get_kind_display(), piece.species.common_name, piece.count, piece.nominal or units.exact_length(piece.thickness_m, system),
            units.exact_length(piece.width_m, system), units.exact_length(piece.length_m, system), "yes" if piece.dressed else "",
            f"{piece.ring_angle_deg:g}", piece.get_seasoning_display(), *("yes" if one else "" for one in (piece.ends_sealed, piece.has_pith, piece.has_sapwood)),
            piece.felled_on or "", piece.sawn_on or "", piece.place or "", piece.source, piece.defects, piece.note, piece.get_status_display(), *extra_cells,
        )  # fmt: skip
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


def harmless(cell: str) -> str:
    """A cell that no spreadsheet carries out, whichever separator it reads by: what looks like a formula gets an apostrophe before it."""
    return FORMULA.sub(r"\1'", cell)


def meant(cell: str) -> str:
    """What was written as :func:`harmless`, as it was before."""
    return MADE_HARMLESS.sub(r"\1", cell)


# -- reading


def refuse_formulas(cells: dict[str, str], errors: dict[str, str]) -> None:
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


@dataclass
class Row:
    """One row as it was sent (``number`` counts from the first line of the file) and what becomes of it."""

    number: int
    cells: dict[str, str]
    values: dict = field(default_factory=dict)
    errors: dict[str, str] = field(default_factory=dict)

    @property
    def shown(self) -> list[tuple[str, str]]:
        """Each cell that matters with its error, in the order of the columns."""
        return [(self.cells.get(name, ""), self.errors.get(name, "")) for name in SHOWN]

    @property
    def other_errors(self) -> list[tuple[str, str]]:
        return [(name, error) for name, error in self.errors.items() if name not in SHOWN]


@dataclass
class Table:
    """A file as it was understood."""

    rows: list[Row]
    ignored: list[str]
    text: str = ""

    @property
    def wrong(self) -> list[Row]:
        return [row for row in self.rows if row.errors]

    @property
    def right(self) -> list[Row]:
        return [row for row in self.rows if not row.errors]

    def left(self) -> str:
        """The rows that could not be taken, as a table of their own to be mended."""
        line = _Line()
        out = csv.writer(line)
        names = [name for name in COLUMNS if any(name in row.cells for row in self.wrong)]
        out.writerow(names)
        for row in self.wrong:
            out.writerow([row.cells.get(name, "") for name in names])
        return line.taken()


def read(text: str, workshop: Workshop) -> Table:
    """Understand a table of pieces; nothing is kept.

    Raises:
        NotATable: it has no header that names the columns, or too many rows.
    """
    if "\0" in text:
        raise NotATable("There are null characters in this text; save the sheet as CSV in UTF-8 and send that.")
    lines = io.StringIO(text, newline="")
    first = text.split("\n", 1)[0]
    separator = max(",;\t", key=first.count)
    try:
        reader = csv.reader(lines, delimiter=separator, strict=True)
        header = [" ".join(name.casefold().replace("_", " ").split()) for name in next(reader, [])]
        missing = [name for name in NEEDED if name not in header]
        if missing:
            raise NotATable(f"The first line must name the columns; “{missing[0]}” is not among them. Known names: {', '.join(COLUMNS)}.")
        twice = next((name for name in header if name and header.count(name) > 1), None)
        if twice:
            raise NotATable(f"Two columns are called “{twice}”.")
        judge = _Reader(workshop)
        rows: list[Row] = []
        for cells in reader:
            if not any(cell.strip() for cell in cells):
                continue
            if len(rows) >= MOST_ROWS:
                raise NotATable(f"These are more than {MOST_ROWS} rows; send them in parts.")
            row = Row(reader.line_num, {name: cell.strip() for name, cell in zip(header, cells, strict=False) if name in COLUMNS})
            if len(cells) > len(header):
                row.errors["row"] = f"It has {len(cells)} cells, and the first line names {len(header)}."
            judge.read(row)
            rows.append(row)
    except csv.Error as error:
        raise NotATable(f"Line {reader.line_num} is no CSV: {error}. A quotation mark may be missing.") from None
    known = (*COLUMNS, *_told())
    return Table(rows, [name for name in header if name and name not in known], text)


class _Reader:
    """Turns the cells of rows into what a piece is made of; remembers species and places between rows."""

    def __init__(self, workshop: Workshop) -> None:
        self.system = workshop.system
        self.workshop = workshop
        self.species_known: dict[str, str | CannotRead] = {}
        self.places = {place.name.casefold(): place for place in air.places(workshop)}
        self.tags = {tag.casefold() for tag in Piece.objects.of(workshop).values_list("tag", flat=True)}
        self.kinds = self._names(PieceKind)
        self.grains = self._names(Grain)
        self.seasonings = self._names(Seasoning)
        self.statuses = self._names(Status)

    @staticmethod
    def _names(choices) -> dict[str, str]:
        return {name.casefold(): choice.value for choice in choices for name in (choice.value, choice.label)}

    def read(self, row: Row) -> None:
        cells, values = row.cells, row.values
        refuse_formulas(cells, row.errors)
        for name, act in (
            ("tag", self._tag), ("kind", self._kind), ("species", self._species), ("count", self._count), ("ring angle", self._ring_angle),
            ("seasoning", self._seasoning), ("place", self._place), ("status", self._status),
        ):  # fmt: skip
            if name in row.errors:
                continue
            try:
                values |= act(cells.get(name, ""))
            except CannotRead as error:
                row.errors[name] = error.why
        self._flags(row)
        self._dates(row)
        self._sizes(row)
        for name, most in (("source", 80), ("defects", 120), ("note", 200)):
            if len(cells.get(name, "")) > most:
                row.errors[name] = f"At most {most} letters."
            elif name not in row.errors:
                values[name] = cells.get(name, "")

    def _tag(self, cell: str) -> dict:
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

    def _choice(self, name: str, cell: str, names: dict[str, str], usual: str) -> dict:
        if cell and cell.casefold() not in names:
            raise CannotRead(name, cell, f"“{units.shortened(cell)}” is none of {', '.join(sorted(set(names)))}")
        return {name: names[cell.casefold()] if cell else usual}

    def _kind(self, cell: str) -> dict:
        return self._choice("kind", cell, self.kinds, PieceKind.BOARD)

    def _seasoning(self, cell: str) -> dict:
        return self._choice("seasoning", cell, self.seasonings, Seasoning.AIR)

    def _status(self, cell: str) -> dict:
        return self._choice("status", cell, self.statuses, Status.IN_STOCK)

    def _species(self, cell: str) -> dict:
        known = self.species_known.get(cell)
        if known is None:
            if len(self.species_known) >= MOST_SPECIES:
                raise NotATable(f"More than {MOST_SPECIES} different species are named here; does that column hold something else?")
            try:
                known = woods.named(self.workshop, cell)
            except CannotRead as error:
                known = error
            self.species_known[cell] = known
        if isinstance(known, CannotRead):
            raise known
        return {"species_key": known}

    def _count(self, cell: str) -> dict:
        if cell and not (cell.isascii() and cell.isdigit() and 1 <= int(cell[:9]) <= MOST_IN_A_LOT):
            raise CannotRead("count", cell, f"a whole number from 1 to {MOST_IN_A_LOT}")
        return {"count": int(cell or 1)}

    def _ring_angle(self, cell: str) -> dict:
        if cell.casefold() in self.grains:
            return {"ring_angle_deg": RING_ANGLE_DEG[Grain(self.grains[cell.casefold()])]}
        angle = units.number(cell, "ring angle") if cell else RING_ANGLE_DEG[Grain.FLAT]
        if not 0 <= angle <= 90:
            raise CannotRead("ring angle", cell, "a ring angle is 0 to 90 degrees, or flat, rift, quarter")
        return {"ring_angle_deg": angle}

    def _place(self, cell: str) -> dict:
        if cell and cell.casefold() not in self.places:
            raise CannotRead("place", cell, f"no place is called “{units.shortened(cell)}”; add it under Air first")
        return {"place": self.places[cell.casefold()] if cell else None}

    def _flags(self, row: Row) -> None:
        for name, kept in (("dressed", "dressed"), ("ends sealed", "ends_sealed"), ("pith", "has_pith"), ("sapwood", "has_sapwood")):
            cell = row.cells.get(name, "").casefold()
            if cell not in YES and cell not in NO and name not in row.errors:
                row.errors[name] = "yes or no"
            row.values[kept] = cell in YES

    def _dates(self, row: Row) -> None:
        for name in ("felled", "sawn"):
            cell = row.cells.get(name, "")
            try:
                day = date.fromisoformat(cell) if cell else None
            except ValueError:
                row.errors.setdefault(name, "a day is written as 2026-03-31")
                continue
            row.values[f"{name}_on"] = day

    def _sizes(self, row: Row) -> None:
        kind, values = row.values.get("kind", PieceKind.BOARD), row.values
        limits = {"thickness": (THICKNESS_M[0], 0.5), "width": WIDTH_M, "length": LENGTH_M}
        for (name, (low, high)), asked in zip(limits.items(), TRAITS[kind].size_names, strict=True):
            if asked is None or name in row.errors:
                continue
            cell = row.cells.get(name, "")
            try:
                size = units.length_m(cell, self.system, name)
                if not low <= size <= high:
                    written = tuple(units.write_length(one, self.system) for one in (size, low, high))
                    raise CannotRead(name, cell, "{} is outside what is possible: {} to {}".format(*written))
            except CannotRead as error:
                row.errors[name] = error.why
                continue
            values[f"{name}_m"] = size
        for name, why in checks.complete(PieceKind(kind), values, row.cells.get("thickness", "")).items():
            row.errors.setdefault(COLUMN_OF.get(name, name), why)


# The columns whose names are not those of the values.
COLUMN_OF = {"width_m": "width", "felled_on": "felled", "sawn_on": "sawn"}


def keep(by: Membership, rows: list[Row]) -> list[Piece]:
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
