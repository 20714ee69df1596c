"""Slips of the pen: what was meant by a number that cannot well be.

Source: our own judgement of how numbers are mistyped: one wrong figure, two neighbours changed about, a point in the wrong place.
"""

import itertools

from wood.errors import check_range

# How far from what is expected a number may lie that is taken for the one that was meant, and how much nearer than what was typed; figures
# that changed places are as likely at twice the distance as a wrong one.
WITHIN, NEARER, CHANGED_PLACES = 0.03, 3.0, 0.5


def meant(typed: str, expected: float, *, within: float = WITHIN) -> float | None:
    """The number that was probably meant by one that was typed, beside what is expected; None where no slip of one figure explains it.

    Args:
        typed: figures and at most one point; expected: above 0, in the same unit; within: share of what is expected that it may be off.
    Raises:
        OutOfRange.

    >>> meant("98.2", 90.3), meant("690", 612.0), meant("8.12", 0.815), meant("450", 612.0)
    (90.2, 609.0, 0.812, None)
    """
    check_range("expected", expected, 1e-9, 1e9)
    check_range("within", within, 0.0, 1.0)
    if not _is_plain(typed):
        return None
    found = [(abs(float(near) - expected) * weight, float(near)) for near, weight in _near(typed)]
    found = [(off, number) for off, number in found if abs(number / expected - 1) <= within]
    if not found:
        return None
    best = min(found)[1]
    return best if abs(float(typed) - expected) > NEARER * abs(best - expected) else None


def _is_plain(typed: str) -> bool:
    return typed.replace(".", "", 1).isdecimal() and typed.isascii() and len(typed) <= 12


def _near(typed: str) -> list[tuple[str, float]]:
    """What is one slip away, and by how much its distance counts."""
    near = []
    figures = [place for place, sign in enumerate(typed) if sign != "."]
    for place in figures:
        near += [(typed[:place] + figure + typed[place + 1 :], 1.0) for figure in "0123456789" if figure != typed[place]]
    for first, second in itertools.pairwise(figures):
        swapped = list(typed)
        swapped[first], swapped[second] = swapped[second], swapped[first]
        near.append(("".join(swapped), CHANGED_PLACES))
    bare = typed.replace(".", "")
    near += [(f"{bare[:place]}.{bare[place:]}", CHANGED_PLACES) for place in range(len(bare) + 1)]
    return [(number, weight) for number, weight in near if number.strip(".")]
