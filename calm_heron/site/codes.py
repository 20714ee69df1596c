"""Codes that lead from paper back to a page."""

import itertools
from dataclasses import dataclass
from functools import lru_cache

import segno
from django.http import HttpRequest

# A page that is asked in more words than this is printed without a code: its squares would be too fine to be read.
LONGEST_ADDRESS = 700


@dataclass(frozen=True)
class CodeDrawing:
    """A code as one path in a square of ``size`` modules."""

    size: int
    path: str

    @property
    def width_mm(self) -> int:
        """How wide it is on paper: its squares half a millimetre and more, so that a phone reads them at arm's length."""
        return max(19, round(self.size / 2))


# Any of the eight masks can be read; trying all of them for the prettiest takes most of the time.
MASK = 3


def dark_runs(address: str, error: str = "m") -> tuple[int, list[tuple[int, int, int]]]:
    """The code of an address: how many modules wide it is, and its runs of dark ones as column, row and length; ``error`` is how much of it
    may be smeared: l, m, q or h.
    """
    rows = segno.make(address, error=error, micro=False, mask=MASK).matrix
    runs = []
    for y, row in enumerate(rows):
        x = 0
        for dark, modules in itertools.groupby(row):
            length = len(list(modules))
            if dark:
                runs.append((x, y, length))
            x += length
    return len(rows), runs


@lru_cache(maxsize=1000)
def code_drawing(address: str, error: str = "m") -> CodeDrawing:
    """The code of an address, to be drawn on a page; ``error`` as in :func:`dark_runs`."""
    size, runs = dark_runs(address, error)
    return CodeDrawing(size, "".join(f"M{x} {y}h{length}v1h-{length}z" for x, y, length in runs))


def address_on_paper(request: HttpRequest) -> str:
    """Where a printed page is found again: its address with what was asked, without what was left empty."""
    asked = request.GET.copy()
    for name in [name for name, values in asked.lists() if not any(values)]:
        del asked[name]
    query = asked.urlencode()
    return request.build_absolute_uri(request.path + (f"?{query}" if query else ""))
