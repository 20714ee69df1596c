"""Boards as they come from the saw: widths and lengths as ranges, lists or a tally, and what is counted of each grade.

Source: our own judgement: a range is taken as three sizes, each as often as the others.
"""

import re
from collections.abc import Sequence
from dataclasses import dataclass

from wood.errors import CannotRead, check_range
from wood.sizes import BOARD_FOOT_M3
from wood.units import System, length_m

# A range is three sizes, at a sixth, a half and five sixths of it.
THIRDS = (1 / 6, 1 / 2, 5 / 6)
MOST_SIZES, MOST_COUNT = 24, 20_000
GRADE_MOST = 24
RANGE = re.compile(r"\s*([\d.,/ ½¼¾⅛⅜⅝⅞]+?)\s*(?:-|–|to)\s*([\d.,/ ½¼¾⅛⅜⅝⅞]+?)\s*([a-z'\"’”]*)\s*", re.IGNORECASE)
COUNTED = re.compile(r"\s*(\d{1,5})\s*(?:at|of|à|@)\s+(.+)", re.IGNORECASE)
LINE = re.compile(r"\s*(\d{1,5})\s*(?:at|of|@|x|×)?\s+(.+?)\s*(?:x|×|by)\s*(.+?)(?:\s*[,;]\s*(.*))?\s*", re.IGNORECASE)


@dataclass(frozen=True)
class Size:
    """A size (m), and how many boards have it; None where nobody counted."""

    metres: float
    count: int | None = None


def sizes(text: str, system: System, field: str = "size") -> tuple[Size, ...]:
    """Sizes as they are written: one (``8``), a range (``6-10``, ``7 to 10 ft``), a list (``6, 7, 8``), or counted (``12 at 8 in, 20 at 6
    in``).

    Raises:
        CannotRead: none of these; some counted and others not.

    >>> from wood.units import INCH
    >>> [round(size.metres / 0.0254, 1) for size in sizes("6-10", INCH)], sizes("12 at 8 in, 20 at 6 in", INCH)[0].count
    ([6.7, 8.0, 9.3], 12)
    """
    try:
        return (Size(length_m(text, system, field)),)
    except CannotRead:
        if not re.search(r"[-–,;]|\bto\b|\bat\b|\bof\b|@", text):
            raise
    both = RANGE.fullmatch(text)
    if both:
        unit = both[3]
        low, high = (length_m(f"{number} {unit}".strip(), system, field) for number in (both[1], both[2]))
        if not low < high:
            raise CannotRead(field, text, "a range goes from the smaller size to the larger one, like 6-10")
        return tuple(Size(low + share * (high - low)) for share in THIRDS)
    parts = [part for part in re.split(r"[,;]", text) if part.strip()]
    if not 1 <= len(parts) <= MOST_SIZES:
        raise CannotRead(field, text, f"at most {MOST_SIZES} sizes, parted by commas")
    found = [_one(part, system, field) for part in parts]
    if any(size.count is None for size in found) != all(size.count is None for size in found):
        raise CannotRead(field, text, "count all of the sizes, or none: 12 at 8 in, 20 at 6 in")
    return tuple(found)


def _one(text: str, system: System, field: str) -> Size:
    counted = COUNTED.fullmatch(text)
    if counted:
        return Size(length_m(counted[2], system, field), int(counted[1]))
    return Size(length_m(text.strip(), system, field))


@dataclass(frozen=True)
class Boards:
    """Boards of one size (m): how many, and of which grade, where that was said."""

    width_m: float
    length_m: float
    count: int
    grade: str = ""

    def board_feet(self, thickness_m: float) -> float:
        """What they come to; thickness 3 mm…0.3 m.

        Raises:
            OutOfRange.
        """
        check_range("thickness_m", thickness_m, 0.003, 0.3, " m")
        return self.width_m * self.length_m * thickness_m * self.count / BOARD_FOOT_M3


def boards(widths: Sequence[Size], lengths: Sequence[Size], count: int) -> list[Boards]:
    """So many boards of these widths and lengths, each width as often with each length; where widths or lengths were counted, by these.

    Args:
        count: 1…20 000, of no account where sizes were counted.
    Raises:
        OutOfRange: no sizes. CannotRead: both were counted, and to different sums.

    >>> [(round(board.width_m, 2), board.count) for board in boards([Size(0.15), Size(0.20)], [Size(2.4)], 9)]
    [(0.15, 5), (0.2, 4)]
    """
    check_range("widths", len(widths), 1, MOST_SIZES)
    check_range("lengths", len(lengths), 1, MOST_SIZES)
    sums = {sum(size.count or 0 for size in these) for these in (widths, lengths) if these[0].count is not None}
    if len(sums) > 1:
        raise CannotRead("count", str(sorted(sums)), f"widths and lengths were counted, and come to {' and '.join(map(str, sorted(sums)))}")
    whole = sums.pop() if sums else int(check_range("count", count, 1, MOST_COUNT))

    def weights(these: Sequence[Size]) -> list[float]:
        return [1 / len(these) if size.count is None else size.count / whole for size in these]

    pairs = [(w, n, a * b) for w, a in zip(widths, weights(widths), strict=True) for n, b in zip(lengths, weights(lengths), strict=True)]
    counts = _whole([share * whole for _, _, share in pairs], whole)
    return [Boards(w.metres, n.metres, each) for (w, n, _), each in zip(pairs, counts, strict=True) if each]


def _whole(parts: list[float], whole: int) -> list[int]:
    """Whole numbers near to parts, with their sum: what is missing goes to those that lost most."""
    floors = [int(part + 1e-9) for part in parts]
    order = sorted(range(len(parts)), key=lambda number: -(parts[number] - floors[number]))
    for number in order[: whole - sum(floors)]:
        floors[number] += 1
    return floors


def tally(text: str, system: System, field: str = "tally") -> list[Boards]:
    """A tally, a line for each size: ``12 at 8 in x 10 ft, select``; the grade may be left out.

    Raises:
        CannotRead: a line that is none; no line, or too many.

    >>> from wood.units import INCH
    >>> [(row.count, row.grade) for row in tally("12 at 8 in x 10 ft, select\\n7 at 6 x 8 ft", INCH)]
    [(12, 'select'), (7, '')]
    """
    lines = [line for line in text.splitlines() if line.strip()]
    if not 1 <= len(lines) <= MOST_SIZES:
        raise CannotRead(field, text[:40], f"a tally has one line to {MOST_SIZES}")
    found = []
    for number, line in enumerate(lines, 1):
        read = LINE.fullmatch(line)
        if read is None:
            raise CannotRead(field, line, f"line {number}: write how many, how wide and how long, like 12 at 8 in x 10 ft, select")
        count = int(read[1])
        if not 1 <= count <= MOST_COUNT:
            raise CannotRead(field, line, f"line {number}: one board to {MOST_COUNT:,}")
        try:
            wide, long = length_m(read[2], system, field), length_m(read[3], system, field)
        except CannotRead as unread:
            raise CannotRead(field, line, f"line {number}: {unread.why}") from None
        found.append(Boards(wide, long, count, (read[4] or "").strip()[:GRADE_MOST]))
    return found


def by_grade(rows: Sequence[Boards], thickness_m: float) -> dict[str, tuple[int, float]]:
    """Boards and board feet of each grade, in the order they were named; of thickness 3 mm…0.3 m.

    Raises:
        OutOfRange.
    """
    result: dict[str, tuple[int, float]] = {}
    for row in rows:
        count, feet = result.get(row.grade, (0, 0.0))
        result[row.grade] = (count + row.count, feet + row.board_feet(thickness_m))
    return result
