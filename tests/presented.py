"""What an answer shows, taken apart for tests: its sentences, its labels and figures, and the geometry of its drawings."""

import re
from collections.abc import Iterator

from calm_heron.questions.presentation import (
    Button,
    Cell,
    Folded,
    Heading,
    Lead,
    Pairs,
    Presentation,
    Risk,
    Says,
    Steps,
    Table,
)

# Coordinates in the attributes of a drawing that say where something lies.
PLACES = re.compile(r'\b(?:x|y|x1|x2|y1|y2|cx|cy)="([^"]*)"')
PATHS = re.compile(r'\b(?:d|points)="([^"]*)"')
NUMBERS = re.compile(r"-?\d+(?:\.\d+)?(?:e-?\d+)?")
VIEW = re.compile(r'<svg[^>]*?viewBox="([^"]*)"(.*?)</svg>', re.DOTALL)
MOVED = re.compile(r"<g transform=.*?</g>", re.DOTALL)
MOVES = re.compile(r"[mlhvcqaz]")


def sentences(told: Presentation) -> Iterator[str]:
    """All that is written as sentences."""
    if told.reason:
        yield told.reason
    for part in told.parts:
        if isinstance(part, Says):
            yield part.text
        elif isinstance(part, Steps):
            yield from part.items
        elif isinstance(part, Risk):
            yield part.cause
            yield part.advice
        elif isinstance(part, Folded):
            yield from part.paragraphs


def labels(told: Presentation) -> Iterator[str]:
    """All that is written as a word, a name or a figure."""
    if isinstance(told.lead, Lead):
        yield told.lead.text
        yield told.lead.beside
    for part in told.parts:
        if isinstance(part, Heading):
            yield part.text
        elif isinstance(part, Button):
            yield part.words
        elif isinstance(part, Table):
            yield from _of_table(part)
        elif isinstance(part, Folded):
            yield part.summary
            for pair in part.lines:
                yield from pair
            if part.table is not None:
                yield from _of_table(part.table)
        elif isinstance(part, Pairs):
            yield part.heading
            for pair in part.pairs:
                yield from pair
        elif isinstance(part, Risk):
            yield part.name
            yield part.likely


def _of_table(table: Table) -> Iterator[str]:
    yield table.caption
    yield from table.heads
    for row in table.rows:
        for cell in row.all_cells:
            assert isinstance(cell, Cell)
            yield cell.text
            yield cell.small


def strays(markup: str, share: float = 0.5) -> list[str]:
    """What of the drawings of a page lies farther outside its frame than a share of the frame, or is no place at all."""
    wrong = []
    for box, whole in VIEW.findall(markup):
        # What is moved as a group lies elsewhere than it says.
        inside = MOVED.sub("", whole)
        x, y, width, height = map(float, box.split())
        reach = share * max(width, height)
        for text in PLACES.findall(inside):
            wrong += _wrong_number(text, min(x, y) - reach, max(x + width, y + height) + reach)
        for text in PATHS.findall(inside):
            if "nan" in text.lower() or "inf" in text.lower():
                wrong.append(text[:60])
            elif not MOVES.search(text):
                for number in NUMBERS.findall(text):
                    wrong += _wrong_number(number, min(x, y) - reach, max(x + width, y + height) + reach)
    return wrong


def _wrong_number(text: str, low: float, high: float) -> list[str]:
    try:
        value = float(text)
    except ValueError:
        return [] if text.endswith("%") else [text]
    return [] if low <= value <= high else [text]
