"""How an answer is told: the word or number on top, what stands beside it, and the parts below in their order.

Words make these from an answer and write figures in the reader's units; nothing here knows rows, geometry or markup. How each part looks is
``templates/questions/parts/``, a template for each class.
"""

import uuid
from collections.abc import Sequence
from dataclasses import dataclass, field
from enum import StrEnum


class Manner(StrEnum):
    """How a sentence is meant: why, what to do next, by the way, what a hand can do on a screen (not told on paper), a rule that is
    broken, or plainly.
    """

    REASON = "reason"
    NEXT = "next"
    HINT = "hint"
    HANDLING = "hint screen-only"
    BREACH = "breach"
    PLAIN = ""


@dataclass(frozen=True)
class Lead:
    """The answer itself, large: a figure, or a word (``is_word``), with what stands small beside it."""

    text: str
    beside: str = ""
    is_word: bool = False


@dataclass(frozen=True)
class Says:
    """A sentence or two; ``first`` are words that stand out before it, ``link`` an address its ``link_words`` lead to, behind it."""

    text: str
    manner: Manner = Manner.PLAIN
    first: str = ""
    link: str = ""
    link_words: str = ""
    part: str = "says"


@dataclass(frozen=True)
class Heading:
    """What the next parts are about."""

    text: str
    part: str = "heading"


@dataclass(frozen=True)
class Steps:
    """Things to do; in this order, where it matters."""

    items: Sequence[str]
    ordered: bool = False
    part: str = "steps"


@dataclass(frozen=True)
class Cell:
    """A cell of a table: its text, a figure or words that stand small behind it (``below``: under it), and the field and value that
    pressing it chooses.
    """

    text: str
    small: str = ""
    below: bool = False
    is_number: bool = False
    chooses: tuple[str, str] | None = None


@dataclass(frozen=True)
class Row:
    """A row: its name and its cells; the one that is chosen stands out."""

    name: str | Cell
    cells: Sequence[str | Cell]
    chosen: bool = False

    @property
    def all_cells(self) -> list[Cell]:
        return [cell if isinstance(cell, Cell) else Cell(cell) for cell in (self.name, *self.cells)]


@dataclass(frozen=True)
class Table:
    """A table: its heads (none: rows name themselves), its rows, and how wide it may run. On narrow screens each row folds into lines."""

    rows: Sequence[Row]
    heads: Sequence[str] = ()
    caption: str = ""
    narrow: bool = False
    part: str = "table"

    @property
    def columns(self) -> list[tuple[str, bool]]:
        """Each head, and whether figures stand under it."""
        firsts = self.rows[0].all_cells if self.rows else []
        return [(head, number < len(firsts) and firsts[number].is_number) for number, head in enumerate(self.heads)]

    @property
    def folded(self) -> list[tuple[Row, list[tuple[str, Cell]]]]:
        """Each row with its cells, and beside each the head that it is folded under."""
        heads = self.heads or [""] * (1 + max((len(row.cells) for row in self.rows), default=0))
        return [(row, list(zip(heads, row.all_cells, strict=True))) for row in self.rows]


@dataclass(frozen=True)
class Drawn:
    """A drawing of the tool, by its name; it is made for wide and for narrow screens."""

    name: str
    part: str = "drawn"


@dataclass(frozen=True)
class Risk:
    """What may go wrong: how likely in a word, by which figure, from what it comes and what to do about it."""

    name: str
    likely: str
    cause: str
    advice: str
    part: str = "risk"


@dataclass(frozen=True)
class Caution:
    """What must be said where work can hurt somebody, by its key."""

    key: str
    part: str = "caution"


@dataclass(frozen=True)
class Folded:
    """What is one click away: the working, or a question behind the question."""

    summary: str
    paragraphs: Sequence[str] = ()
    lines: Sequence[tuple[str, str]] = ()
    table: Table | None = None
    part: str = "folded"


@dataclass(frozen=True)
class Pairs:
    """Names and what is said of each. On paper a slip (``is_sheet``) is the sheet, and nothing else is printed."""

    pairs: Sequence[tuple[str, str]]
    heading: str = ""
    is_sheet: bool = False
    screen_only: bool = False
    part: str = "pairs"


@dataclass(frozen=True)
class Button:
    """A way on from the answer: to another page. Words make it only for those who may go there."""

    words: str
    address: str
    part: str = "button"


@dataclass(frozen=True)
class Keep:
    """A way to keep what was asked: ``words`` before its buttons, each a label and the address it posts to, and what they carry."""

    ways: Sequence[tuple[str, str]]
    carries: Sequence[tuple[str, str]]
    words: str = ""
    once: str = field(default_factory=lambda: uuid.uuid4().hex)
    part: str = "keep"


@dataclass(frozen=True)
class Ruled:
    """Lines to write on, on paper only; ``heads`` are the columns."""

    heads: str
    lines: int
    part: str = "ruled"


@dataclass(frozen=True)
class Columns:
    """Twelve months side by side: a letter, how high of a hundred, and what stands above it."""

    months: Sequence[tuple[str, float, str]]
    part: str = "columns"


Part = Says | Heading | Steps | Table | Drawn | Risk | Caution | Folded | Pairs | Button | Keep | Ruled | Columns


@dataclass(frozen=True)
class Presentation:
    """An answer in words: ``lead``, the reason for it, and its parts."""

    lead: Lead | None
    reason: str
    parts: Sequence[Part] = field(default_factory=tuple)

    @property
    def has_sheet(self) -> bool:
        """Whether one of its parts is the sheet that is printed."""
        return any(isinstance(part, Pairs) and part.is_sheet for part in self.parts)
