"""The verdict in words: the answer, its reason in one sentence, and the next step."""

from dataclasses import dataclass, replace

import numpy as np

from calm_heron.judging import missing_words
from calm_heron.judging.later import Later, later
from calm_heron.judging.missing_words import Sentences
from calm_heron.judging.sites import Standing
from calm_heron.judging.targets import Purpose, Target
from calm_heron.judging.verdicts import Judged, NotJudged
from calm_heron.site.numbers import counted, distance, figure, percent, points
from calm_heron.stock.dangers import Danger
from calm_heron.stock.models import Piece
from wood.judging.readiness import Cause, State, Verdict
from wood.measuring.estimates import Estimate, Wet
from wood.measuring.lots import LotMean, Stratum
from wood.measuring.readings import Bound
from wood.uses import FRAMING, PLANK_FLOOR, STRIP_FLOOR, TURNING, Against, Approach, Use

# Wood is air dried to about 20% before it goes indoors (Air Drying of Lumber, FPL-GTR-117).
INDOORS_FROM = 0.20


@dataclass(frozen=True)
class VerdictWords:
    """Everything the verdict shows. ``verdict`` is None where there is nothing to compute with, ``later`` where no year is known."""

    state: State
    reason: str
    next_step: str
    verdict: Verdict | None
    estimate: Estimate | None
    target: Target | None
    later: Later | None = None

    @property
    def word(self) -> str:
        """The answer in large."""
        word = STATE_WORDS[self.state]
        just_inside = self.verdict is not None and self.verdict.is_just_inside and self.state is not State.CRACKED
        return f"{word}, just inside" if just_inside else word


STATE_WORDS = {
    State.READY: "Ready",
    State.WORKS_NOW: "Works now",
    State.CLOSE: "Close",
    State.DRY: "Dry, ready to work",
    State.WAIT: "Wait",
    State.TOO_DRY: "Too dry",
    State.TOO_UNEVEN: "Too uneven",
    State.CANNOT_TELL: "Cannot tell",
    State.CRACKED: "Cracked: dangerous",
}


def endangered(given: "VerdictWords", danger: Danger) -> "VerdictWords":
    """A verdict of a piece that is dangerous: the danger first, what its moisture says after it."""
    said = STATE_WORDS[given.state]
    reason = f"{danger.reason} By moisture alone: {said[0].lower()}{said[1:]}."
    return replace(given, state=State.CRACKED, reason=reason, next_step=danger.next_step, later=None)


def answer(judgement: Judged | NotJudged) -> VerdictWords:
    """A decision in words; a danger before all that moisture says."""
    danger, given = judgement.question.danger, _by_moisture(judgement)
    return given if danger is None else endangered(given, danger)


def _by_moisture(judgement: Judged | NotJudged) -> VerdictWords:
    if isinstance(judgement, NotJudged):
        return VerdictWords(State.CANNOT_TELL, *missing_words.sentences(judgement), None, judgement.estimate, judgement.target)
    reason, step = _reason_and_step(judgement)
    if judgement.is_to_be_read_again:
        step = f"It was last read {judgement.days_since_read} days ago: read it again first. Then: {step[0].lower()}{step[1:]}"
    days = judgement.target.days
    if 0 < days < 3:
        read = "one day" if days == 1 else f"{days} days"
        step += f" The air in {judgement.question.where} was read on {read} only; a few more days will firm up its four-week EMC."
    step += _not_heated(judgement)
    return VerdictWords(judgement.verdict.state, reason, step, judgement.verdict, judgement.estimate, judgement.target, later(judgement))


# From so much on, the air of a room that is not heated yet brings wood elsewhere than its year will (fraction).
ELSEWHERE = 0.01


def _not_heated(judgement: Judged) -> str:
    """That a room is judged by the year that it will have, where it does not have that air yet."""
    place, target = judgement.question.place, judgement.target.also or judgement.target
    level = target.level
    if place is None or not place.not_lived_in or level is None or level.stale or abs(level.emc - target.moisture) < ELSEWHERE:
        return ""
    return (
        f" The heating in {place.name} isn’t on yet: the air of the last weeks has an EMC of {percent(level.emc, 1)}. Bring nothing in"
        " before it’s on."
    )


BY_APPROACH = {
    Approach.SETTLED: "by a board that has settled there",
    Approach.YEAR: "by the mean of its year alone",
    Approach.WEEKS: "by its last four weeks alone",
}


def purpose(purpose: Purpose) -> str:
    """What wood is for, in the middle of a sentence."""
    where = purpose.place.name if purpose.place else "no place yet"
    if purpose.approach is Approach.TYPED:
        by = "" if purpose.moisture is None else f", at {percent(purpose.moisture)}"
    else:
        by = f", {BY_APPROACH[purpose.approach]}"
    return f"{where} and {purpose.use.name.lower()}{by}"


def approaches(purpose: Purpose, target: Target | None) -> str:
    """What each approach makes of the place that is asked about, beside the one that counts."""
    level, year = (target.level, target.year) if target else (None, None)
    if target is not None and target.also is not None:
        level, year = target.also.level, target.also.year
    if purpose.place is None or (level is None and year is None):
        return ""
    parts = []
    if year is not None:
        low, high = year.range
        parts.append(f"wood settles at {percent(year.mean, 1)} over the year, {points(low)} to {points(high)} from month to month")
    if level is not None and not level.stale:
        parts.append(f"its four-week EMC is {percent(level.emc, 1)}")
    if year is None:
        parts.append("its year is not known yet")
    return f"{purpose.place.name}: {'; '.join(parts)}."


def basis_of(board: Estimate, piece: Piece) -> str:
    """On what the moisture of a piece or lot stands."""
    readings = counted(board.count, "board" if piece.is_lot else "reading")
    if board.bound:
        text = f"{readings} beyond what the meter can measure"
    elif board.by_weight:
        text = "by weight"
    else:
        text = f"mean of {readings}"
        if board.gradient is not None:
            text += ", with the core reading as a parabola through the thickness"
    return f"{text}; {board.left_out} left out" if board.left_out else text


IN_STACK = {
    Stratum.DEEP: "one deep in the stack",
    Stratum.MIDDLE: "one half way in",
    Stratum.OUTER: "one on the outside of the stack",
}


@dataclass(frozen=True)
class LotDescription:
    """How far the reading of a lot has come, and the boards that are far from the others."""

    next: str
    odd: str


def describe_lot(mean: LotMean | None, next_part: str, odd: list[str], use: Use) -> LotDescription:
    """What to read next in a lot, until it is sure enough for the use."""
    stray = f"Odd: {', '.join(odd)}, far from the others; read them again, and remove any that repeat." if odd else ""
    if mean is not None and mean.more == 0 and not mean.unread:
        return LotDescription(f"Sure enough for {use.name.lower()}: more boards would change little.", stray)
    text = f"Read next {IN_STACK[Stratum(next_part)]}, on both its ends a foot in, and in its middle."
    if mean is not None and mean.more:
        sure = f"±{figure(use.tolerance / 2)}"
        text += f" About {counted(mean.more, 'more board')}, if they scatter like these, would bring its average within {sure}."
    elif mean is not None and mean.unread:
        text += f" Not yet read: {', '.join(mean.unread)}."
    return LotDescription(text, stray)


def _allowed(use: Use) -> str:
    if use.against is Against.LIMIT:
        return f"{use.name.lower()} allows at most {points(use.limit, 0)}%"
    return f"{use.name.lower()} allows {figure(use.tolerance)}"


def _reason_and_step(judgement: Judged) -> Sentences:
    return {
        State.READY: _ready,
        State.WORKS_NOW: _works_now,
        State.CLOSE: _close,
        State.DRY: _dry,
        State.WAIT: _wait,
        State.TOO_DRY: _too_dry,
        State.TOO_UNEVEN: _too_uneven,
        State.CANNOT_TELL: _cannot_tell,
    }[judgement.verdict.state](judgement)


def _against(judgement: Judged) -> str:
    """The moisture it is held against, as in “the 8.7% that wood like this averages in Bench room over the year”."""
    target, place = judgement.target, judgement.question.place
    if target.home is None or place is None or judgement.question.use.is_held:
        return target.at
    if judgement.question.use.by_driest_weeks:
        return f"the {points(judgement.verdict.target)}% of the driest weeks in {place.name}"
    return f"the {points(judgement.verdict.target)}% that wood like this averages in {place.name} over the year"


def _lies(judgement: Judged) -> str:
    """At which moisture the wood lies, how far from what it is judged by, and what is allowed."""
    verdict, use = judgement.verdict, judgement.question.use
    if abs(verdict.difference) < THERE:
        at = f"where such wood settles in {judgement.question.where}" if judgement.target.home else f"right at {_against(judgement)}"
        return f"It’s at {points(judgement.estimate.mean)}%, {at}; {_allowed(use)}"
    side = "above" if verdict.difference >= 0 else "below"
    return (
        f"It’s at {points(judgement.estimate.mean)}%, {distance(verdict.difference)} points {side} {_against(judgement)}; {_allowed(use)}"
    )


def _room(judgement: Judged) -> str:
    """Where it had best wait."""
    return "the stack" if judgement.question.use.against is Against.LIMIT and judgement.state is State.READY else judgement.question.where


def _what(judgement: Judged) -> str:
    return "boards" if judgement.question.lot else "readings"


def chance(share: float) -> str:
    """A chance in tenths: “about 8 in 10”."""
    tenths = round(share * 10)
    return "nearly certain" if tenths >= 10 else "hardly likely" if tenths < 1 else f"about {tenths} in 10"


def _sure(judgement: Judged) -> str:
    """How likely it is that the wood truly is what its best figure says, and what would make that surer."""
    verdict = judgement.verdict
    text = f" The chance that it’s so is {chance(verdict.chance)}, with ±{points(verdict.uncertainty)} points for meter, spots and air."
    return text if not verdict.is_just_inside else f"{text} {_surer(judgement)}"


def _surer(judgement: Judged) -> str:
    """What would make a best figure surer."""
    board, target, more = judgement.estimate, judgement.target, judgement.verdict.more_readings
    if more:
        what = _what(judgement)
        return "One more " + what[:-1] + " would make it surer." if more == 1 else f"{more} more {what} would make it surer."
    if judgement.verdict.margin < NO_MARGIN:
        return "It’s right at the edge: more readings would not change that."
    worse = target.weaker if target.tolerance > board.instrument else "meter"
    return SETTLE[worse][1]


# Wood as near to its average as this is at it.
THERE = 0.0005
# Wood as near to an edge as this lies on it, whatever is read.
NO_MARGIN = 0.001


FLOOR_READY = "Lay it, with the room at the air it will have when it is lived in. Keep the records of both readings with the job."
READY_STEP = {
    STRIP_FLOOR.key: FLOOR_READY,
    PLANK_FLOOR.key: FLOOR_READY,
    FRAMING.key: "It can be used. Keep it dry until it is closed in, and read it again before it is covered.",
    TURNING.key: "Turn it. Take a light first cut: if it moves overnight, let it stand.",
}
MILL = "Mill it. After the first cut let it stand a night with air all round: if it moves, it was uneven inside."


def _ready(judgement: Judged) -> Sentences:
    verdict, board, use = judgement.verdict, judgement.estimate, judgement.question.use
    if use.against is not Against.LIMIT:
        reason = f"{_lies(judgement)}.{_sure(judgement)}"
        if judgement.target.also:
            reason += f" It suits the room too: {judgement.target.also.name} is {points(judgement.target.also.moisture)}%."
        elif use.against is Against.SUBFLOOR:
            reason += f" What the air in {judgement.question.where} will bring it to is not known; give the place a year under Air."
    elif board.bound == Bound.BELOW:
        reason = f"It is drier than the meter can measure, under {points(board.mean)}%; {_allowed(use)}."
    else:
        reason = (
            f"It’s at {points(board.mean)} ± {points(verdict.uncertainty)}%, {distance(verdict.difference)} points below the "
            f"{points(use.limit, 0)}% that {use.name.lower()} allows. The chance that it’s so is {chance(verdict.chance)}."
        )
    return reason, READY_STEP.get(use.key, MILL)


def _works_now(judgement: Judged) -> Sentences:
    verdict, edges = judgement.verdict, judgement.verdict.edges
    low, high = (points(float(np.asarray(edge))) for edge in (edges.now_low, edges.now_high))
    side = "above" if verdict.difference >= 0 else "below"
    reason = (
        f"At {points(judgement.estimate.mean)}% it has settled in {judgement.question.where} as it is today: wood that has been there"
        f" for years is between {low} and {high}% now. That is {distance(verdict.difference)} points {side} its average of the year,"
        f" {points(verdict.target)}%, so it will still move with the seasons.{_sure(judgement)}"
    )
    return reason, READY_STEP.get(judgement.question.use.key, f"{MILL} Leave it the room that the seasons take.")


def _dry(judgement: Judged) -> Sentences:
    return (
        f"{_lies(judgement)}. That is no drier than thin wood gets there, so it does no harm; it will swell.",
        "Work it, and leave it room to swell, or let it take up moisture on stickers first.",
    )


INSIDE_STEP = (
    "Read the middle with long insulated pins or at a fresh cut, or weigh it twice, two weeks apart: a weight that stands still says that "
    "it is dry inside too."
)


def _close(judgement: Judged) -> Sentences:
    if judgement.verdict.cause is Cause.INSIDE:
        return f"{_lies(judgement)}. That was read near its face, and it is thick: it can be dry outside, wet inside.", INSIDE_STEP
    reason = (
        f"{_lies(judgement)}. Give or take {points(judgement.verdict.uncertainty)} for meter, spots and air, the chance that it’s "
        f"inside is {chance(judgement.verdict.chance)}."
    )
    return reason, _more(judgement) or f"Leave it on stickers in {_room(judgement)} and read it again in a week."


def _wait(judgement: Judged) -> Sentences:
    if judgement.verdict.cause is Cause.BEYOND_RANGE:
        return _beyond_range(judgement)
    reason, room = f"{_lies(judgement)}.", _room(judgement)
    if judgement.question.use.against is Against.LIMIT:
        return reason, "Let it dry on stickers under cover, weighted and out of the rain; read it again in two weeks."
    if judgement.estimate.mean > INDOORS_FROM and judgement.target.moisture < INDOORS_FROM - 0.06:
        return (
            reason,
            (
                f"Too wet to bring into {room} at once: it would check. Sticker it under cover, out of sun, "
                f"with the ends sealed, until it is near {points(INDOORS_FROM, 0)}%; then bring it in."
            ),
        )
    if judgement.question.turned:
        return reason, f"Leave it on an open shelf in {room}, out of draught and sun; weigh or read it again in two weeks."
    return (
        reason,
        (f"Sticker it in {room} with air all round and read it again in two weeks."),
    )


def _too_dry(judgement: Judged) -> Sentences:
    return (
        f"{_lies(judgement)}. It will swell there.",
        f"Let it take up moisture on stickers in {_room(judgement)}; read it again in two weeks.",
    )


def _too_uneven(judgement: Judged) -> Sentences:
    board = judgement.estimate
    if judgement.verdict.cause is Cause.GRADIENT and board.gradient is not None:
        wetter, drier = ("core", "shell") if board.gradient > 0 else ("shell", "core")
        return (
            (
                f"Its mean of {points(board.mean)}% would do, but the {wetter} is {distance(board.gradient)} points wetter than the "
                f"{drier}; a cut would release that and it would bend."
            ),
            (
                f"Sticker it in {_room(judgement)} until core and shell are within"
                f" {figure(judgement.question.use.allowed_gradient)} of each"
                " other; read both again in a week."
            ),
        )
    if judgement.question.lot:
        return (
            f"Its mean of {points(board.mean)}% would do, but its boards differ by {points(board.reach)} points.",
            ("Separate wet boards from dry: split the lot, or restack it with air between all of them and read it again in two weeks."),
        )
    return (
        f"Its mean of {points(board.mean)}% would do, but places on it differ by {points(board.reach)} points.",
        "Read the far-off places again beside the first pin holes. If they repeat, cut the board there or let it even out on stickers.",
    )


BEYOND_RANGE: dict[str, Sentences] = {
    Wet.CORE: (
        "The core is wetter than the meter can measure, over {over}%, however dry it reads outside. The target is {target}%.",
        (
            "Give the core time: leave it on stickers under cover, read the core again in a month, and weigh it; a falling weight shows"
            " that it dries."
        ),
    ),
    Wet.SURFACE: (
        "It is wet outside: the surface reads over {over}%, the wood beneath it less. Rain or a wet neighbour does that.",
        "Put it under cover with air all round, let the surface dry for some days, and read it again.",
    ),
    Wet.PLACES: (
        (
            "Some places on it are wetter than the meter can measure, over {over}%; the drier ones beside them do not make up for that."
            " The target is {target}%."
        ),
        "Read the wet places again, deep. If they stand, leave it on stickers under cover until no place reads wet.",
    ),
    Wet.BOARDS: (
        (
            "Some of its boards are wetter than the meter can measure, over {over}%; the dry ones do not make up for them. The target is"
            " {target}%."
        ),
        "Find the wet boards and stack them by themselves, or restack the lot with air between all of them and read it again in two weeks.",
    ),
}
BEYOND_RANGE[Wet.ALL] = (
    "It is wetter than the meter can measure, over {over}%, and the target is {target}%.",
    "Let it dry on stickers under cover; weigh it from time to time, a scale tells more than a meter while it is wet.",
)


def _beyond_range(judgement: Judged) -> Sentences:
    """Wet somewhere beyond the meter's range: where, and what to do."""
    board, target = judgement.estimate, judgement.target
    reason, step = BEYOND_RANGE.get(board.wet, BEYOND_RANGE[Wet.ALL])
    if judgement.question.turned and board.wet != Wet.SURFACE:
        step = (
            "Leave it on an open shelf, out of draught and sun, and weigh it every week; when its weight stands still for three weeks "
            "it is dry."
        )
    return reason.format(over=points(board.mean), target=points(target.moisture)), step


SETTLE: dict[str, Sentences] = {
    "hygrometer": ("The hygrometer is", "Check it over saturated salt."),
    "meter": ("The meter is", "Weigh the board against an oven test, or check the meter and its setting for this species."),
    "year": ("What is known of the year is", "Read the air there through some months, or go by its last four weeks."),
}


def _cannot_tell(judgement: Judged) -> Sentences:
    board = judgement.estimate
    side = "over" if board.bound == Bound.ABOVE else "under"
    return (
        f"The reading lies beyond what the meter can measure; it only says {side} {points(board.mean)}%.",
        "Weigh it, or make an oven test on a section.",
    )


def _more(judgement: Judged) -> str:
    """How many further readings would settle it, where some would."""
    more, what = judgement.verdict.more_readings, _what(judgement)
    if not more:
        return ""
    return f"One more {what[:-1]}, if like these, would settle it." if more == 1 else f"{more} more {what}, if like these, would settle it."


# How a site stands before a floor is laid in it: the word, and why.
SITES = {
    Standing.FIT: ("Yes", "What’s underneath was tested recently and is dry enough, and the boards are near enough to it."),
    Standing.NOT_FIT: ("Not yet", "Something below is wetter than is allowed, or the boards are too far from it. Leave them wrapped."),
    Standing.UNKNOWN: ("Not known", "Something below, or the boards, was not tested in the last month."),
}
