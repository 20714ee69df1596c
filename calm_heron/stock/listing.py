"""The list of the stock: its columns and the words it can be asked with, which apps register, and the pieces that answer."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from django.db.models import F, QuerySet

from calm_heron.plugs import Question, Registry
from calm_heron.stock import queries
from calm_heron.stock.models import Piece
from calm_heron.stock.search import Search


@dataclass(frozen=True)
class Column:
    """A column of the list: its ``cell`` is a template that gets ``piece`` and ``value``.

    ``order_by`` names the field it is ordered by under its ``key``; ``joins`` what its cell reads beside the piece; ``values`` works out
    something for all pieces of a page at once, by their ids.
    """

    order: int
    key: str
    words: str
    cell: str
    classes: str = ""
    cell_classes: str = ""
    order_by: str = ""
    joins: tuple[str, ...] = ()
    values: Callable[[Sequence[Piece], Question], Mapping[int, Any]] | None = None


@dataclass(frozen=True)
class TableColumn:
    """Columns of the table that goes out (CSV) and are not read back; ``cells`` gives one text for each name."""

    order: int
    names: tuple[str, ...]
    cells: Callable[[Piece], Sequence[str]]
    joins: tuple[str, ...] = ()


COLUMNS: Registry[Column] = Registry()
TABLE_COLUMNS: Registry[TableColumn] = Registry()


def joined() -> set[str]:
    """What the columns read beside a piece."""
    return {join for column in (*COLUMNS, *TABLE_COLUMNS) for join in column.joins}


def listed(question: Question, search: Search, sort: str = "") -> QuerySet[Piece]:
    """Pieces that answer a search, every app's words included, in the order of a column (a minus before its key turns it round)."""
    result = queries.pieces(question.workshop, search)
    for word, meanings in search.meanings.items():
        result = word.narrow(result, meanings, question)
    column = next((column for column in COLUMNS if column.order_by and column.key == sort.removeprefix("-")), None)
    if column is not None:
        first = F(column.order_by)
        result = result.order_by(first.desc(nulls_last=True) if sort.startswith("-") else first.asc(nulls_last=True), "tag")
    return result.select_related(*joined())


def shown(ids: Sequence[int]) -> list[Piece]:
    """The pieces of a page of the list, in its order, with what its columns read beside them."""
    rows = Piece.objects.select_related(*joined()).in_bulk(list(ids))
    return [rows[pk] for pk in ids if pk in rows]


def rows(pieces: Sequence[Piece], question: Question) -> list[tuple[Piece, list[tuple[Column, Any]]]]:
    """The pieces of a page, each with its cells: the columns and what they worked out for it."""
    pieces = list(pieces)
    worked_out = [(column, column.values(pieces, question) if column.values else {}) for column in COLUMNS]
    return [(piece, [(column, values.get(piece.pk)) for column, values in worked_out]) for piece in pieces]
