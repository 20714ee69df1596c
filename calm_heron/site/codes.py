"""Codes that lead from paper back to a page."""

from dataclasses import dataclass
from functools import lru_cache

import segno
from django.http import HttpRequest

# A page that is asked in more words than this is printed without a code: its squares would be too fine to be read.
LONGEST_ADDRESS = 700


@dataclass(frozen=True)
class CodeDrawing:
    """A code as one path of unit squares, in a square of ``size``."""

    size: int
    path: str

    @property
    def width_mm(self) -> int:
        """How wide it is on paper: its squares half a millimetre and more, so that a phone reads them at arm's length."""
        return max(19, round(self.size / 2))


@lru_cache(maxsize=1000)
def code_drawing(address: str, error: str = "m") -> CodeDrawing:
    """The code of an address, to be drawn on a page; ``error`` is how much of it may be smeared: l, m, q or h."""
    rows = segno.make(address, error=error, micro=False).matrix
    squares = [f"M{x} {y}h1v1h-1z" for y, row in enumerate(rows) for x, dark in enumerate(row) if dark]
    return CodeDrawing(len(rows), "".join(squares))


def address_on_paper(request: HttpRequest) -> str:
    """Where a printed page is found again: its address with what was asked, without what was left empty."""
    asked = request.GET.copy()
    for name in [name for name, values in asked.lists() if not any(values)]:
        del asked[name]
    query = asked.urlencode()
    return request.build_absolute_uri(request.path + (f"?{query}" if query else ""))
