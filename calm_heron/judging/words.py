"""The verdict in words: the answer, its reason in one sentence, and the next step."""

from dataclasses import dataclass
from datetime import datetime

from django.utils import timezone

from calm_heron.air.models import Place
from calm_heron.air.queries import Level
from wood.readiness import Estimate, State, Use, Verdict, judge

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
    level: Level | None
    read_at: datetime | None = None


def points(fraction: float) -> str:
    return f"{abs(fraction) * 100:.1f}"


def answer(
    estimate: Estimate | None, read_at: datetime | None, level: Level | None, place: Place | None, use: Use, in_vain: bool = False
) -> Answer:
    """Judge a board for a place and a use, and say it in words; ``in_vain`` says that it was read, but no reading counts."""
    missing = _missing(estimate, read_at, level, place, in_vain)
    if missing:
        return Answer(State.CANNOT_TELL, *missing, None, estimate, level, read_at)
    verdict = judge(estimate, level.emc, level.tolerance, use)
    reason, next_step = _sentences(verdict, estimate, level, place, use)
    if (timezone.now() - read_at).days > READ_AGAIN_DAYS:
        next_step = (
            f"It was last read {(timezone.now() - read_at).days} days ago: read it again first. Then: {next_step[0].lower()}{next_step[1:]}"
        )
    if level.days < 3:
        next_step += f" The air in {place.name} was read on {'one day' if level.days == 1 else f'{level.days} days'} only; a few more days make the level surer."
    return Answer(verdict.state, reason, next_step, verdict, estimate, level, read_at)


def _missing(
    estimate: Estimate | None, read_at: datetime | None, level: Level | None, place: Place | None, in_vain: bool
) -> tuple[str, str] | None:
    if place is None:
        return (
            "No place is known yet that the wood should settle to.",
            "Add the room it will live in under Air, and read its temperature and humidity.",
        )
    if level is None:
        return (
            f"The air in {place.name} was not read in the last months, so its level is not known.",
            f"Read temperature and humidity in {place.name}.",
        )
    if level.stale:
        days = (timezone.now() - level.last_at).days
        return (
            f"The air in {place.name} was last read {days} days ago; its level may be another by now.",
            f"Read temperature and humidity in {place.name} again.",
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
            f"It was last read {age} days ago, at {points(estimate.mean)} %; it has moved on since.",
            "Read it again in three places, away from the ends.",
        )
    return None


def _sentences(verdict: Verdict, board: Estimate, level: Level, place: Place, use: Use) -> tuple[str, str]:
    side = "above" if verdict.difference >= 0 else "below"
    allowed = f"{use.name.lower()} allows {use.tolerance * 100:.0f}"
    where = f"{points(verdict.difference)} points {side} the {level.emc * 100:.1f} % of {place.name}"
    more = _more(verdict)
    match verdict.state:
        case State.READY:
            return (
                f"At {points(board.mean)} % it lies {where}; {allowed}, and with a doubt of ± {points(verdict.uncertainty)} "
                "it is inside in eight chances of ten or better.",
                "Mill it. After the first cut let it stand a night with air all round: if it bends, it was uneven inside.",
            )
        case State.CLOSE:
            reason = f"At {points(board.mean)} % it lies {where}; {allowed}, and with a doubt of ± {points(verdict.uncertainty)} that may be in or out."
            return reason, more or f"Leave it on stickers in {place.name} and read it again in a week."
        case State.WAIT:
            if verdict.cause == "beyond_range":
                return (
                    f"It is wetter than the meter can measure, over {points(board.mean)} %, and {place.name} is at {points(level.emc)} %.",
                    "Let it dry on stickers under cover; weigh it from time to time, a scale tells more than a meter while it is wet.",
                )
            reason = f"At {points(board.mean)} % it lies {where}; {allowed}."
            if board.mean > INDOORS_FROM and level.emc < INDOORS_FROM - 0.06:
                return (
                    reason,
                    f"Too wet to bring into {place.name} at once: it would check. Sticker it under cover, out of sun, "
                    f"with the ends sealed, until it is near {INDOORS_FROM * 100:.0f} %; then bring it in.",
                )
            return (
                reason,
                f"Sticker it in {place.name} with air all round and read it again in two weeks. "
                "Skimming both faces hurries it if there is thickness to spare.",
            )
        case State.TOO_DRY:
            return (
                f"At {points(board.mean)} % it lies {where}; {allowed}. It will swell there.",
                f"Let it take up moisture on stickers in {place.name}; read it again in two weeks.",
            )
        case State.TOO_UNEVEN:
            if verdict.cause == "gradient":
                wetter = "core" if board.gradient > 0 else "shell"
                return (
                    f"Its mean of {points(board.mean)} % would do, but the {wetter} is {points(board.gradient)} points wetter than the "
                    f"{'shell' if wetter == 'core' else 'core'}; a cut would set that free and it would bend.",
                    f"Sticker it in {place.name} until core and shell are within {use.tolerance * 100:.0f} point{'s' if use.tolerance > 0.01 else ''}; read both again in a week.",
                )
            return (
                f"Its mean of {points(board.mean)} % would do, but places on it differ by {points(board.reach)} points.",
                "Read the far-off places again beside their first holes. If they stand, cut the board there or let it even out on stickers.",
            )
    return _cannot_tell(verdict, board, level, place, use, more)


def _cannot_tell(verdict: Verdict, board: Estimate, level: Level, place: Place, use: Use, more: str) -> tuple[str, str]:
    if verdict.cause == "beyond_range":
        return (
            f"The reading lies beyond what the meter can measure; it only says {'over' if board.bound == 'above' else 'under'} {points(board.mean)} %.",
            "Weigh it, or make an oven test on a section.",
        )
    if verdict.cause == "instruments":
        worse = "hygrometer" if level.tolerance > board.instrument else "meter"
        return (
            f"Settle your instruments first: meter and hygrometer together leave ± {points(verdict.uncertainty)} open, "
            f"and {use.name.lower()} allows {use.tolerance * 100:.0f}. No board could pass.",
            f"The {worse} is the weaker one (± {points(max(level.tolerance, board.instrument))} points). "
            + (
                "Check it over saturated salt."
                if worse == "hygrometer"
                else "Weigh the board against an oven test, or use a meter with a figure for this species."
            ),
        )
    count = "One reading leaves" if board.count == 1 else f"{board.count} readings leave"
    return (
        f"{count} ± {points(board.sampling)} points open, and {use.name.lower()} allows {use.tolerance * 100:.0f}.",
        more or "Read it in more places, away from the ends.",
    )


def _more(verdict: Verdict) -> str:
    if not verdict.more_readings:
        return ""
    if verdict.more_readings == 1:
        return "One more reading, if like these, would settle it."
    return f"{verdict.more_readings} more readings, if like these, would settle it."
