"""When can a build be begun, and how is it hurried safely?

The acclimation question asked of all its wood at once, in every way of hurrying.
"""

from collections import defaultdict
from dataclasses import dataclass
from datetime import date

import numpy as np

from calm_heron.builds.readiness import BuildState, BuildWood
from calm_heron.builds.words import FLOORS
from calm_heron.drying import forecasts, queries
from calm_heron.drying.speed_up import WORTH_SAYING, bought_words
from calm_heron.drying.words import on, span
from calm_heron.measuring.models import PieceMoisture
from calm_heron.site.numbers import counted, percent
from calm_heron.workshops.models import Membership
from wood.builds import dates
from wood.builds.dates import Latest, Ready
from wood.drying import speeding_up
from wood.drying.speeding_up import MOST_SKIMMED, SPED_UP_FROM, Step

# Boards that are asked in every way on one page, the latest first; more would be the same again.
MOST_ASKED = 4
# Kept on the part's thickness for the last pass, both faces together.
LAST_PASS_M = 0.0016
# The least worth skimming off a face.
LEAST_SKIM_M = 0.0004
STEPS = (Step.FLAT, Step.STICKERED, Step.CUT, Step.SKIMMED, Step.CORNER, Step.ALL)
WORDS = {
    Step.FLAT: "Left lying flat, board on board",
    Step.STICKERED: "On stickers, air all round",
    Step.CUT: "cut to rough length, past the sealed ends",
    Step.SKIMMED: "both faces skimmed",
    Step.CORNER: "first in a warmer corner",
    Step.ALL: "All of it together",
}


@dataclass(frozen=True)
class BoardWay:
    """One board that waits: what may be skimmed off each face and leaves how much for its part, the rough length it is cut to (metres), and
    its days in each way, those of its own acclimation question."""

    wood: BuildWood
    skim_m: float
    left_m: float
    part_m: float
    rough_m: float | None
    days: dict[Step, float]


@dataclass(frozen=True)
class WayWords:
    """A way for the whole build: when all can be begun, what it buys alone, and whether that is in time."""

    step: Step
    words: str
    latest: Latest
    when: str
    bought: str
    in_time: bool | None


@dataclass(frozen=True)
class Begun:
    """The answer: the large word, beside it, the reason, the next step; the ways, and the boards they are asked of. ``wet`` are too wet to
    be hurried,
    ``rest`` how many more wait that come sooner than those asked."""

    word: str
    beside: str
    reason: str
    next_step: str
    ways: list[WayWords]
    boards: list[BoardWay]
    wet: list[BuildWood]
    rest: int


def begun(state: BuildState, membership: Membership, skim_m: float, ends_m: float) -> Begun | None:
    """What hurrying buys; None where nothing waits, or nothing tells when.

    Args:
        skim_m: asked for, off each face; less is taken where the part needs the thickness. ends_m: left on each end.
    """
    waiting = [lot for lot in state.waiting if lot.known is not None]
    if not waiting:
        return None
    floor = state.build.use_key in FLOORS
    moistures = {row.piece_id: row for row in PieceMoisture.objects.filter(piece__in=[lot.piece for lot in waiting])}
    questions: list[BoardWay] = []
    answers: dict[Step, dict[int, Ready]] = defaultdict(dict)
    wet: list[BuildWood] = []
    usual = {wood.piece.pk: ready for wood in state.woods if (ready := wood.ready(state.today)) is not None}
    for wood in waiting:
        if len(questions) >= MOST_ASKED:
            break
        question = forecasts.usual_question(wood.piece, moistures.get(wood.piece.pk), state.about, membership)
        if question is None:
            continue
        if question.start > SPED_UP_FROM:
            wet.append(wood)
            continue
        skim, left, part, rough = _possible(state, wood, skim_m, ends_m)
        if floor:
            skim, rough = 0.0, None
        tried = speeding_up.tried(question.question, skim, rough)
        days: dict[Step, float] = {}
        for step in STEPS:
            if step not in tried or (step is Step.SKIMMED and skim < LEAST_SKIM_M):
                continue
            answer = queries.answered(tried[step])
            days[step] = answer.days
            answers[step][wood.piece.pk] = Ready(np.array(answer.member_days), answer.days, answer.low, answer.high)
        questions.append(BoardWay(wood, skim, left, part, rough, days))
    if not questions:
        return Begun(
            "Not yet",
            "",
            "All that waits is too wet to rush: wood that dries fast checks.",
            "Let it come down on stickers under cover; its pages say when.",
            [],
            [],
            wet,
            0,
        )
    ways = [_way(step, usual, answers, state) for step in STEPS if step in answers]
    rest = len([lot for lot in waiting if lot.piece.pk not in {board.wood.piece.pk for board in questions}]) - len(wet)
    return _told(state, ways, questions, wet, max(rest, 0), floor)


def _possible(state: BuildState, wood: BuildWood, skim_m: float, ends_m: float) -> tuple[float, float, float, float | None]:
    """What may be skimmed off each face, what that leaves, what the thickest part of it needs, and the rough length it is cut to."""
    parts = [part.part for part in state.parts if any(own.piece.pk == wood.piece.pk for own in part.woods)]
    needs = max(part.thickness_m for part in parts)
    spare = max(wood.piece.thickness_m - needs - LAST_PASS_M, 0.0) / 2
    skim = min(skim_m, spare, 0.999 * MOST_SKIMMED * wood.piece.thickness_m / 2)
    longest = max(part.length_m + part.extra_length_m for part in parts) + 2 * ends_m
    rough = longest if longest < 0.95 * wood.piece.length_m else None
    return skim, wood.piece.thickness_m - 2 * skim, needs, rough


def _way(step: Step, usual: dict[int, Ready], answers: dict[Step, dict[int, Ready]], state: BuildState) -> WayWords:
    """A way for all boards: those that were not asked, or cannot be done so, lie on stickers as usual."""

    def all_in(step: Step) -> list[Ready]:
        base = usual | {pk: ready for pk, ready in answers[Step.STICKERED].items() if pk not in usual}
        return list((base if step is Step.STICKERED else base | answers[step]).values())

    latest, before = dates.latest(all_in(step)), dates.latest(all_in(Step.STICKERED))
    when = on(state.today, latest.days) if np.isfinite(latest.days) else "not in this air"
    bought = ""
    if step is not Step.STICKERED:
        saved = before.days - latest.days
        bought = (
            bought_words(saved)
            if np.isfinite(saved)
            else "the only way there"
            if np.isfinite(latest.days) and not np.isfinite(before.days)
            else ""
        )
    due = state.build.days_to_due(state.today)
    in_time = None if due is None else bool(latest.days <= due)
    words = WORDS[step]
    return WayWords(step, words if step in (Step.FLAT, Step.STICKERED, Step.ALL) else f"… and {words}", latest, when, bought, in_time)


def _told(state: BuildState, ways: list[WayWords], question: list[BoardWay], wet: list[BuildWood], rest: int, floor: bool) -> Begun:
    usual = next(way for way in ways if way.step is Step.STICKERED)
    best = min((way for way in ways if way.step is not Step.FLAT), key=lambda way: way.latest.days)
    due = state.build.due
    if not np.isfinite(best.latest.days):
        return Begun(
            "Not in this air",
            "",
            "Nothing brings all of it to its target there.",
            "Choose other wood, or dry it elsewhere first.",
            ways,
            question,
            wet,
            rest,
        )
    if floor:
        reason = (
            f"A floor is laid when it matches the house’s yearly average, {_level(state)}, and is close to its subfloor; days on a "
            "calendar don’t tell."
        )
        return Begun(
            f"About {usual.when}" if np.isfinite(usual.latest.days) else "Not in this air",
            "",
            reason,
            "Stack it on stickers in the house, the heating as it will be, and read it every week.",
            ways,
            question,
            wet,
            rest,
        )
    saved = usual.latest.days - best.latest.days
    worth = not np.isfinite(saved) or saved > WORTH_SAYING * usual.latest.days
    if not worth:
        reason = f"On stickers it’s all ready about {usual.when}; nothing saves more than a tenth of that." + _against(due, usual)
        return Begun(f"About {usual.when}", "", reason, "Leave it on stickers.", ways, question, wet, rest)
    reason = (
        f"{_all_words(best)} all of it can start about {best.when} instead of {usual.when}."
        if np.isfinite(saved)
        else f"{_all_words(best)} it gets there."
    )
    beside = f"{span(saved)} sooner" if np.isfinite(saved) else ""
    return Begun(f"About {best.when}", beside, reason + _against(due, best), _next(best), ways, question, wet, rest)


def _all_words(best: WayWords) -> str:
    return "Cut, skimmed and first in a warmer corner," if best.step is Step.ALL else f"On stickers{best.words.replace('…', '')},"


def _against(due: date | None, way: WayWords) -> str:
    if due is None or way.in_time is None:
        return ""
    return (
        f" That is in time for {on(due, 0)}."
        if way.in_time
        else f" It is due on {on(due, 0)}, so it is late even then: move the date or find other wood."
    )


def _next(best: WayWords) -> str:
    if best.step is Step.CORNER:
        return "Turn it now and then, keep it off the stove itself, and bring it back before its shell is drier than the target."
    return "Cut off the sealed ends first, skim both faces alike the same day and sticker at once; read it again before the first real cut."


def _level(state: BuildState) -> str:
    return percent(state.year.mean) if state.year else "which is not known yet"


def order_of(start: Begun) -> list[str]:
    """What is done in which order, for the boards that are hurried."""
    steps = ["Bring it into the place where you will work it, and off the floor: stickers under and between all of it, today."]
    if any(board.rough_m for board in start.boards):
        steps.append(
            "Cut off the sealed ends and cut to rough length, leaving on each end what may check: an end dries ten times as fast as a face."
        )
    if any(board.skim_m >= LEAST_SKIM_M for board in start.boards):
        steps.append("Skim both faces alike, the same day: skimmed on one side only, it cups. Keep what the part needs.")
    steps += [
        "A warmer corner until the average is there, then back: not on the stove, and not so long that the shell goes below the target.",
        (
            f"Read {counted(len(start.boards), 'board')} again, cores too, before anything is cut to size; then let it rest a night after"
            " each step of milling."
        ),
    ]
    return steps
