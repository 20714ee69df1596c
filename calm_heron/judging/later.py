"""What the seasons do with wood once it is in its place: for the page of its verdict."""

from dataclasses import dataclass

from calm_heron.judging.verdicts import Judged
from calm_heron.site.numbers import percent, points
from wood.air.climate import month_of
from wood.judging.readiness import WORKABLE, State
from wood.movement import shrinkage
from wood.units import System
from wood.written import handled_length


@dataclass(frozen=True)
class Later:
    """What the seasons do with wood once it is in its place: between which moistures a board there goes and when it is at either, and how
    much its width (m) will then have swollen and shrunk from what it is now (m; nothing where that is not known)."""

    low: float
    high: float
    driest_month: str
    dampest_month: str
    width_m: float | None
    shrinks_m: float
    swells_m: float


def later(judgement: Judged) -> Later | None:
    """What the seasons do with wood that may be worked, None where its place has none."""
    question, home = judgement.question, judgement.target.home
    if home is None or judgement.state not in (*WORKABLE, State.CLOSE):
        return None
    board = home.board(question.sized)
    if board.highest - board.lowest < STILL:
        return None
    level = (board.wet + board.dry) / 2
    now = judgement.estimate.mean
    shrinks = swells = 0.0
    if question.movement is not None and question.width_m is not None:
        shrinks, swells = (
            question.width_m * abs(1 - shrinkage.size_ratio(question.movement, now, to)) if beyond else 0.0
            for to, beyond in ((board.lowest, board.lowest < now), (board.highest, board.highest > now))
        )
    driest, dampest = (month_of(float(day)) for day in (level.argmin(), level.argmax()))
    width = question.width_m if question.movement is not None else None
    return Later(board.lowest, board.highest, driest, dampest, width, shrinks, swells)


def in_words(later: Later, system: System) -> str:
    """What the seasons do with it, and the room that they take on its width."""
    text = (
        f"Through the year it then goes between {points(later.low)}% in {later.driest_month} and {percent(later.high, 1)} in"
        f" {later.dampest_month}"
    )
    room = [
        f"{handled_length(size, system)} to {what}"
        for size, what in ((later.shrinks_m, "shrink"), (later.swells_m, "swell"))
        if size >= LEAST_TOLD_M
    ]
    if later.width_m is None or not room:
        return f"{text}."
    return f"{text}: on its width of {handled_length(later.width_m, system)} leave {' and '.join(room)}."


# Less room than this is not worth leaving.
LEAST_TOLD_M = 0.0003
# Years that move wood by less than this leave it as it is.
STILL = 0.004
