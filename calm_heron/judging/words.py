"""The verdict in words: the answer, its reason in one sentence, and the next step."""

from dataclasses import dataclass
from datetime import datetime

from django.utils import timezone

from calm_heron.air.models import Place
from calm_heron.judging.targets import Target
from calm_heron.site.numbers import distance, figure, points
from calm_heron.stock.models import Piece
from wood.judging.readiness import Cause, State, Verdict, judge
from wood.measuring.estimates import Estimate, Wet
from wood.measuring.lots import LotMean, Stratum
from wood.measuring.readings import Bound
from wood.uses import FRAMING, PLANK_FLOOR, STRIP_FLOOR, TURNING, Against, Use

# A board moves on between readings; after this long the last ones describe another board.
READINGS_GOOD_DAYS = 90
READ_AGAIN_DAYS = 21
# Wood is air dried to about 20 % before it goes indoors (Air Drying of Lumber, FPL-GTR-117).
INDOORS_FROM = 0.20


@dataclass(frozen=True)
class Answer:
    """Everything the verdict shows. ``verdict`` is None where there is nothing to compute with."""

    state: State
    reason: str
    next_step: str
    verdict: Verdict | None
    estimate: Estimate | None
    target: Target | None
    read_at: datetime | None = None


def answer(
    estimate: Estimate | None, read_at: datetime | None, target: Target | None, place: Place | None, use: Use, in_vain: bool = False,
    lot: bool = False, turned: bool = False,
) -> Answer:  # fmt: skip
    """Judge a board, a ``lot``, or something ``turned`` or to be turned, for a place and a use, and say it in words; ``in_vain`` says that it was read, but no reading counts."""
    missing = _missing(estimate, read_at, target, place, use, in_vain, lot)
    if missing:
        return Answer(State.CANNOT_TELL, *missing, None, estimate, target, read_at)
    verdict = judge(estimate, target.moisture, target.tolerance, use)
    reason, next_step = _sentences(verdict, estimate, target, place, use, "boards" if lot else "readings", turned)
    if (timezone.now() - read_at).days > READ_AGAIN_DAYS:
        next_step = (
            f"It was last read {(timezone.now() - read_at).days} days ago: read it again first. Then: {next_step[0].lower()}{next_step[1:]}"
        )
    if 0 < target.days < 3:
        next_step += f" The air in {place.name} was read on {'one day' if target.days == 1 else f'{target.days} days'} only; a few more days make the level surer."
    return Answer(verdict.state, reason, next_step, verdict, estimate, target, read_at)


def _missing(
    estimate: Estimate | None, read_at: datetime | None, target: Target | None, place: Place | None, use: Use, in_vain: bool, lot: bool
) -> tuple[str, str] | None:
    if target is None and place is None:
        return (
            "No place is known yet that the wood should settle to.",
            "Add the room it will live in under Air, and read its temperature and humidity.",
        )
    if target is None and use.against is Against.SUBFLOOR:
        return (
            f"A floor is judged against its subfloor, and none in {place.name} was read that says anything.",
            f"Add the subfloor as a piece of that kind under Stock, say that it lies in {place.name}, and read it in several places. "
            "A slab of concrete needs a test of its own; ask for one by the flooring's rules.",
        )
    if target is None:
        return (
            f"The air in {place.name} was not read in the last months, so its level is not known.",
            f"Read temperature and humidity in {place.name}.",
        )
    if target.stale:
        days = (timezone.now() - target.last_at).days
        if use.against is Against.SUBFLOOR:
            return (f"{target.of.capitalize()} was last read {days} days ago; it may be another by now.", "Read it again.")
        return (
            f"The air in {place.name} was last read {days} days ago; its level may be another by now.",
            f"Read temperature and humidity in {place.name} again.",
        )
    if estimate is None and lot and not in_vain:
        return (
            "None of its boards has a reading that tells anything yet.",
            "Name a sample board in each part of the stack and read it: outside, half way in, deep.",
        )
    if estimate is None and in_vain:
        return (
            "It was read, but none of its readings counts; the reasons stand below.",
            "Use a meter that suits it, with pins for thin wood, or weigh it.",
        )
    if estimate is None:
        return "It has no reading that tells anything yet.", "Lay a meter on it in three places, away from the ends."
    age = (timezone.now() - read_at).days
    if age > READINGS_GOOD_DAYS:
        return (
            f"It was last read {age} days ago, at {distance(estimate.mean)} %; it has moved on since.",
            "Read it again in three places, away from the ends.",
        )
    return None


def _several(count: int, word: str) -> str:
    return f"{count} {word}{'' if count == 1 else 's'}"


def basis_of(board: Estimate, piece: Piece) -> str:
    """On what the moisture of a piece or lot stands."""
    readings = _several(board.count, "board" if piece.is_lot else "reading")
    if board.bound:
        told = f"{readings} beyond what the meter can measure"
    elif board.by_weight:
        told = "by weight"
    else:
        told = f"mean of {readings}"
        if board.gradient is not None:
            told += ", with the core reading as a parabola through the thickness"
    return f"{told}; {board.left_out} left out" if board.left_out else told


IN_STACK = {
    Stratum.DEEP: "one deep in the stack",
    Stratum.MIDDLE: "one half way in",
    Stratum.OUTER: "one on the outside of the stack",
}


@dataclass(frozen=True)
class LotTold:
    """How far the reading of a lot has come, and the boards that are far from the others."""

    next: str
    odd: str


def lot_told(mean: LotMean | None, next_part: str, odd: list[str], use: Use) -> LotTold:
    """What to read next in a lot, until it is sure enough for the use."""
    stray = f"Odd: {', '.join(odd)}, far from the others; read again, and part from the lot what stands." if odd else ""
    if mean is not None and mean.more == 0 and not mean.unread:
        return LotTold(f"Sure enough for {use.name.lower()}: more boards would change little.", stray)
    told = f"Read next {IN_STACK[Stratum(next_part)]}, on both its ends a foot in, and in its middle."
    if mean is not None and mean.more:
        sure = f"± {figure(use.tolerance / 2)}"
        told += f" About {_several(mean.more, 'more board')}, if they scatter like these, make it sure to {sure}."
    elif mean is not None and mean.unread:
        told += f" Not yet read: {', '.join(mean.unread)}."
    return LotTold(told, stray)


def _allowed(use: Use) -> str:
    if use.against is Against.LIMIT:
        return f"{use.name.lower()} allows at most {points(use.limit, 0)} %"
    return f"{use.name.lower()} allows {figure(use.tolerance)}"


def _sentences(
    verdict: Verdict, board: Estimate, target: Target, place: Place | None, use: Use, what: str, turned: bool
) -> tuple[str, str]:
    side = "above" if verdict.difference >= 0 else "below"
    allowed = _allowed(use)
    where = f"{distance(verdict.difference)} points {side} "
    where += "that" if use.against is Against.LIMIT else f"the {points(target.moisture)} % of {target.of}"
    more = _more(verdict, what)
    if use.against is not Against.LIMIT:
        room = place.name
    else:
        room = place.name if place and verdict.state != State.READY else "the stack"
    match verdict.state:
        case State.READY:
            return _inside(verdict, board, use, where, allowed)
        case State.CLOSE:
            reason = f"At {distance(board.mean)} % it lies {where}; {allowed}, and with a doubt of ± {distance(verdict.uncertainty)} that may be in or out."
            return reason, more or f"Leave it on stickers in {room} and read it again in a week."
        case State.WAIT:
            if verdict.cause is Cause.BEYOND_RANGE:
                return _beyond_range(board, target, turned)
            reason = f"At {distance(board.mean)} % it lies {where}; {allowed}."
            if use.against is Against.LIMIT:
                return (reason, "Let it dry on stickers under cover, weighted and out of the rain; read it again in two weeks.")
            if board.mean > INDOORS_FROM and target.moisture < INDOORS_FROM - 0.06:
                return (
                    reason,
                    f"Too wet to bring into {place.name} at once: it would check. Sticker it under cover, out of sun, "
                    f"with the ends sealed, until it is near {points(INDOORS_FROM, 0)} %; then bring it in.",
                )
            if turned:
                return (reason, f"Leave it on an open shelf in {room}, out of draught and sun; weigh or read it again in two weeks.")
            return (
                reason,
                f"Sticker it in {place.name} with air all round and read it again in two weeks. "
                "Skimming both faces hurries it if there is thickness to spare.",
            )
        case State.TOO_DRY:
            return (
                f"At {distance(board.mean)} % it lies {where}; {allowed}. It will swell there.",
                f"Let it take up moisture on stickers in {place.name}; read it again in two weeks.",
            )
        case State.TOO_UNEVEN:
            if verdict.cause is Cause.GRADIENT:
                wetter = "core" if board.gradient > 0 else "shell"
                return (
                    f"Its mean of {distance(board.mean)} % would do, but the {wetter} is {distance(board.gradient)} points wetter than the "
                    f"{'shell' if wetter == 'core' else 'core'}; a cut would set that free and it would bend.",
                    f"Sticker it in {room} until core and shell are within {figure(use.allowed_gradient)} of each other; read both again in a week.",
                )
            if what == "boards":
                return (
                    f"Its mean of {distance(board.mean)} % would do, but its boards differ by {distance(board.reach)} points.",
                    "Part the wet boards from the dry ones: split the lot, or restack it with air between all of them and read it again in two weeks.",
                )
            return (
                f"Its mean of {distance(board.mean)} % would do, but places on it differ by {distance(board.reach)} points.",
                "Read the far-off places again beside their first holes. If they stand, cut the board there or let it even out on stickers.",
            )
    return _cannot_tell(verdict, board, target, use, more, what)


BEYOND_RANGE = {
    Wet.CORE: (
        "The core is wetter than the meter can measure, over {over} %, however dry it reads outside. {Of} is at {target} %.",
        "Give the inside time: leave it on stickers under cover, read the core again in a month, and weigh it; a falling weight shows that it dries.",
    ),
    Wet.SKIN: (
        "It is wet outside: the skin reads over {over} %, the wood beneath it less. Rain or a wet neighbour does that.",
        "Put it under cover with air all round, let the skin dry for some days, and read it again.",
    ),
    Wet.PLACES: (
        "Some places on it are wetter than the meter can measure, over {over} %; the drier ones beside them do not make up for that. {Of} is at {target} %.",
        "Read the wet places again, deep. If they stand, leave it on stickers under cover until no place reads wet.",
    ),
    Wet.BOARDS: (
        "Some of its boards are wetter than the meter can measure, over {over} %; the dry ones do not make up for them. {Of} is at {target} %.",
        "Find the wet boards and stack them by themselves, or restack the lot with air between all of them and read it again in two weeks.",
    ),
}
BEYOND_RANGE[Wet.ALL] = (
    "It is wetter than the meter can measure, over {over} %, and {of} is at {target} %.",
    "Let it dry on stickers under cover; weigh it from time to time, a scale tells more than a meter while it is wet.",
)


def _beyond_range(board: Estimate, target: Target, turned: bool) -> tuple[str, str]:
    """Wet somewhere beyond the meter's range: where, and what to do."""
    reason, step = BEYOND_RANGE.get(board.wet, BEYOND_RANGE[Wet.ALL])
    if turned and board.wet != Wet.SKIN:
        step = "Leave it on an open shelf, out of draught and sun, and weigh it every week; when its weight stands still for three weeks it is dry."
    figures = {
        "over": distance(board.mean),
        "of": target.of,
        "Of": target.of[0].upper() + target.of[1:],
        "target": distance(target.moisture),
    }
    return reason.format(**figures), step


READY_STEP = {
    STRIP_FLOOR.key: "Lay it, with the room at the air it will have when it is lived in. Keep the records of both readings with the job.",
    PLANK_FLOOR.key: "Lay it, with the room at the air it will have when it is lived in. Keep the records of both readings with the job.",
    FRAMING.key: "It may be built in. Keep it dry until it is closed in, and read it again before it is covered.",
    TURNING.key: "Turn it. Take a light first cut: if it moves overnight, let it stand.",
}


def _inside(verdict: Verdict, board: Estimate, use: Use, where: str, allowed: str) -> tuple[str, str]:
    if use.against is not Against.LIMIT:
        reason = (
            f"At {distance(board.mean)} % it lies {where}; {allowed}, and with a doubt of ± {distance(verdict.uncertainty)} "
            "it is inside in eight chances of ten or better."
        )
    elif board.bound == Bound.BELOW:
        reason = f"It is drier than the meter can measure, under {distance(board.mean)} %; {allowed}."
    else:
        reason = (
            f"At {distance(board.mean)} % ± {distance(verdict.uncertainty)} it lies {distance(verdict.difference)} points below what "
            f"{use.name.lower()} allows, {points(use.limit, 0)} %."
        )
    return reason, READY_STEP.get(
        use.key, "Mill it. After the first cut let it stand a night with air all round: if it bends, it was uneven inside."
    )


def _cannot_tell(verdict: Verdict, board: Estimate, target: Target, use: Use, more: str, what: str) -> tuple[str, str]:
    if verdict.cause is Cause.BEYOND_RANGE:
        return (
            f"The reading lies beyond what the meter can measure; it only says {'over' if board.bound == Bound.ABOVE else 'under'} {distance(board.mean)} %.",
            "Weigh it, or make an oven test on a section.",
        )
    if verdict.cause is Cause.INSTRUMENTS:
        worse = target.weaker if target.tolerance > board.instrument else "meter"
        both = "meter and hygrometer together leave" if target.weaker == "hygrometer" else "the meter leaves"
        return (
            f"Settle your instruments first: {both} ± {distance(verdict.uncertainty)} open, and {_allowed(use)}. No board could pass.",
            f"The {worse} is the weaker one (± {distance(max(target.tolerance, board.instrument))} points). "
            + (
                "Check it over saturated salt."
                if worse == "hygrometer"
                else "Weigh the board against an oven test, or use a meter with a figure for this species."
            ),
        )
    count = f"One {what[:-1]} leaves" if board.count == 1 else f"{board.count} {what} leave"
    return (
        f"{count} ± {distance(board.sampling)} points open, and {_allowed(use)}.",
        more or ("Read more boards, in each part of the stack." if what == "boards" else "Read it in more places, away from the ends."),
    )


def _more(verdict: Verdict, what: str) -> str:
    if not verdict.more_readings:
        return ""
    if verdict.more_readings == 1:
        return f"One more {what[:-1]}, if like these, would settle it."
    return f"{verdict.more_readings} more {what}, if like these, would settle it."
