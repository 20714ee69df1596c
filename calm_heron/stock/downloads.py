"""Tables to take away: CSV that any spreadsheet opens and carries nothing out of."""

import csv
import io
from collections.abc import Iterable, Iterator, Sequence

from django.http import StreamingHttpResponse

from calm_heron.stock.tables import harmless


def lines(head: Sequence[str], rows: Iterable[Sequence[object]]) -> Iterator[str]:
    """A table, a line at a time; empty cells where nothing is known."""
    for row in (head, *rows):
        out = io.StringIO(newline="")
        csv.writer(out).writerow([_cell(cell) for cell in row])
        yield out.getvalue()


def _cell(cell: object) -> object:
    """A number as it is, nothing where nothing is known, and no text that is carried out."""
    return "" if cell is None else cell if isinstance(cell, int | float) else harmless(str(cell))


def download(name: str, written: Iterable[str]) -> StreamingHttpResponse:
    """Lines of CSV as a file. A mark at the head, without which spreadsheets take the accents for something else."""
    return StreamingHttpResponse(
        ("\ufeff" + line if number == 0 else line for number, line in enumerate(written)),
        content_type="text/csv; charset=utf-8",
        headers={"Content-Disposition": f'attachment; filename="{name}"'},
    )
