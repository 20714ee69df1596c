"""When wood may be worked, in the words a maker would use: by when, how sure, how it gets there and how it goes on."""

from datetime import date, timedelta

import numpy as np

from calm_heron.drying import words
from calm_heron.drying.questions import DryingQuestion
from calm_heron.drying.words import Description, RiskDescription
from calm_heron.site.numbers import distance, figure, percent, points
from wood.arrays import Array
from wood.drying.answers import Answer
from wood.drying.arrival import APART_DAYS
from wood.drying.defects import RiskLevel
from wood.drying.settled import SettledBoard
from wood.judging.readiness import State
from wood.uses import Against, Use

# Wood that comes no further than this in so many days, and is not there, is held up by a season.
STANDS, STANDS_DAYS = 0.002, 75.0
WORTH_TELLING_DAYS = 14.0
# Rooms that move wood by less than this from season to season leave it as it is.
STILL = 0.004
IN_TEN = ("hardly any", "one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "all")


def about(start: date, days: float) -> str:
    """A day as people speak of it from far off: mid-March, early December 2027."""
    day = start + timedelta(days=round(days))
    part = "early" if day.day <= 10 else "mid" if day.day <= 20 else "late"
    name = f"{day:%B}" if day.year == start.year or (day - start).days < 200 else f"{day:%B %Y}"
    return f"mid-{name}" if part == "mid" else f"{part} {name}"


def describe(question: DryingQuestion, answer: Answer, risks: list[RiskDescription]) -> Description:
    """The answer to when it is ready to work."""
    if question.state in THERE:
        word, what = THERE[question.state]
        return Description(word, "", f"{where(question)} {what} {stays(question, answer)}".strip(), WORK)
    if answer.already and question.state in OPEN:
        reason = f"{where(question)} it is, by its readings, within {allowed(question)} already; they can’t settle it yet."
        return Description("There, or nearly", "", reason, "Read it in more places: its page says how many would settle it.")
    if answer.already and question.state is State.TOO_UNEVEN:
        reason = f"{where(question)} its mean is within {allowed(question)} already, but it isn’t even throughout."
        return Description("Its mean is there", "", reason, "Deal with the wet places first: its page says which they are.")
    if answer.already:
        reason = f"{where(question)} it is ready to work. {stays(question, answer)}".strip()
        return Description("It is there", "", reason, "All it needs is a last reading, in several places and deep.")
    if not np.isfinite(answer.days):
        return _some(question, answer) if answer.chances else _never(question, answer)
    reason = f"{where(question)} {by_when(question, answer)}."
    return Description(
        words.span(answer.days).capitalize(),
        _beside(answer),
        " ".join(part for part in (reason, average(question, answer), chances(question, answer), course(question, answer)) if part),
        _next(question, risks),
    )


# Verdicts that readings alone would settle.
OPEN = (State.CLOSE, State.CANNOT_TELL)


WORK = "Work it. The piece’s page has the verdict and why."
THERE = {
    State.READY: ("Ready now", "it is ready."),
    State.WORKS_NOW: ("Works now", "it has settled in its place as it is today."),
    State.DRY: ("Dry, ready to work", "it is drier than its place, which does no harm where it has room to swell."),
}


def stays(question: DryingQuestion, answer: Answer) -> str:
    """What the seasons do with wood that may be worked, where it lies; empty where they do nothing."""
    if answer.settles is None or answer.settles[1] - answer.settles[0] <= STILL:
        return ""
    driest, dampest = answer.settles
    return f"From year to year it follows {question.last.name} between {points(driest)} and {percent(dampest, 1)}."


def _beside(answer: Answer) -> str:
    """What stands beside the days: their band, or the other season's days where there are two chances."""
    if len(answer.chances) < 2:
        return words.band_of(answer.days, answer.low, answer.high)
    other = max(answer.chances, key=lambda chance: (abs(chance.day - answer.days) > APART_DAYS / 2, chance.share))
    return f"or {words.span(other.day)}, for {IN_TEN[min(max(round(other.share * 10), 1), 9)]} in ten"


def by_when(question: DryingQuestion, answer: Answer) -> str:
    """The day from which it may be worked, and between which days for most boards."""
    start = question.start_date
    text = f"it’s ready to work about {words.on(start, answer.days)}{until(question, answer)}"
    if answer.high - answer.low >= 1.5:
        if np.isfinite(answer.high):
            text += f"; eight boards in ten between {words.on(start, answer.low)} and {words.on(start, answer.high)}"
        else:
            text += f"; the quickest of ten boards from {words.on(start, answer.low)}, the slowest not within {words.LONGEST_YEARS} years"
    return text


def until(question: DryingQuestion, answer: Answer) -> str:
    """To which day, where it is held against something else than the settled board: the season then takes it out again; else empty."""
    wanted, history = question.question.wanted, answer.history
    if wanted is None or wanted.has_now:
        return ""
    low, high = wanted.at(history.days)
    left = (history.days > answer.days + 1.0) & ((history.mean < low - 1e-9) | (history.mean > high + 1e-9))
    return f" until about {words.on(question.start_date, float(history.days[np.argmax(left)]))}" if left.any() else ""


def average(question: DryingQuestion, answer: Answer) -> str:
    """The day on which it is at the average of its place, where it works with the season before that; else empty."""
    if not answer.works_first:
        return ""
    text = f"It has then settled with the season in {question.last.name}"
    if not np.isfinite(answer.ready_days):
        return f"{text}."
    return f"{text}, and is at the average of the year by about {words.on(question.start_date, answer.ready_days)}."


def chances(question: DryingQuestion, answer: Answer) -> str:
    """Two seasons told as two chances, empty where there is one."""
    if len(answer.chances) < 2:
        return ""
    first, *rest = answer.chances
    later = " or ".join(about(question.start_date, chance.day) for chance in rest)
    share = IN_TEN[min(max(round(first.share * 10), 1), 9)]
    return f"By {about(question.start_date, first.day)} {share} in ten will be there; the others wait for {later}."


def course(question: DryingQuestion, answer: Answer) -> str:
    """How it gets there where a season holds it up, and how it follows its place afterwards."""
    parts = []
    history = answer.history
    ahead = history.days <= (answer.days if np.isfinite(answer.days) else history.days[-1])
    stands = _stands(history.days[ahead], history.mean[ahead], question.question.rises)
    if stands is not None and len(answer.chances) < 2:
        day, moisture = stands
        parts.append(f"It comes to {percent(moisture, 1)} by {about(question.start_date, day)}; then it stalls until the season turns.")
    if answer.settles is not None and answer.settles[1] - answer.settles[0] > STILL:
        low, high = answer.settles
        place = question.last.name if question.last.of_place else "the air there"
        lead = "After that" if np.isfinite(answer.days) else "From year to year"
        parts.append(f"{lead} it follows {place} between {points(low)} and {percent(high, 1)}.")
    return " ".join(parts)


def _stands(days: Array, mean: Array, rises: bool) -> tuple[float, float] | None:
    """The day from which wood on its way stands still for a season, and at which moisture; None where it does not."""
    way = mean if rises else -mean
    for day, here in zip(days, way, strict=True):
        if day + STANDS_DAYS > days[-1]:
            return None
        ahead = way[(days > day) & (days <= day + STANDS_DAYS)]
        if day > WORTH_TELLING_DAYS and ahead.size and ahead.max() - here < STANDS:
            return float(day), float(abs(here))
    return None


def allowed(question: DryingQuestion) -> str:
    """What it must come to."""
    assert question.purpose is not None
    assert question.place_target is not None
    use = question.purpose.use
    if use.against is Against.LIMIT:
        return f"the {points(use.limit, 0)}% that {use.name.lower()} allows"
    board = question.place_target.settled(question.sized, 0.0)
    at = (
        question.place_target.at
        if board is None
        else f"the {points(middle_of(board, use))}% that wood like this averages in {question.last.name}"
    )
    text = f"{figure(use.tolerance)} of {at}"
    if question.place_target.also is not None:
        text += f" and of {question.place_target.also.at}"
    return text


def middle_of(board: SettledBoard, use: Use) -> float:
    """The middle of what a use calls ready in a place."""
    return board.least if use.by_driest_weeks else board.mean


def where(question: DryingQuestion) -> str:
    """Where it lies, one place after another."""
    if question.then is None or question.carried_on is None:
        return words.where(question.around)
    days = (question.carried_on - question.start_date).days
    first = words.where(question.around).rstrip(",")
    return f"{first} until about {words.on(question.start_date, days)}, at {percent(question.carried_at)}, then in {question.then.name},"


def _some(question: DryingQuestion, answer: Answer) -> Description:
    """Some of the runs arrive, and most do not."""
    first = answer.chances[0]
    share = IN_TEN[min(max(round(first.share * 10), 1), 9)]
    reason = f"{where(question)} {share} boards in ten are ready to work by {about(question.start_date, first.day)}; the others stop short."
    return Description(
        words.span(first.day).capitalize(), f"for {share} in ten", f"{reason} {course(question, answer)}".strip(), "Read it again then."
    )


def _never(question: DryingQuestion, answer: Answer) -> Description:
    there = where(question)
    if answer.settles is None:
        reason = f"{there} it is on its way, but won’t be there within {words.LONGEST_YEARS} years."
        return Description(f"Over {words.LONGEST_YEARS} years", "", reason, "Saw it thinner, or dry it in a warmer place.")
    low, high = answer.settles
    between = f"between {points(low)} and {percent(high, 1)}" if high - low > STILL else f"at about {percent((low + high) / 2, 1)}"
    elsewhere = f"Bring it to a {'damper' if question.question.rises else 'drier'} place, or accept what this one can give."
    if answer.settles_off <= 1e-9:
        nearest = "It passes the target each year, but is never as even as that."
        step = f"Work it about {about(question.start_date, answer.settles_day)}, when it comes nearest, or allow it to be less even."
    elif high - low > STILL:
        nearest = f"It comes nearest in {about(question.start_date, answer.settles_day)}, {distance(answer.settles_off)} points off."
        step = elsewhere
    else:
        nearest, step = f"It stays {distance(answer.settles_off)} points off.", elsewhere
    reason = f"{there} it keeps moving {between} from year to year and never comes within {allowed(question)}. {nearest}"
    return Description("Not in this air", "", reason, step)


def _next(question: DryingQuestion, risks: list[RiskDescription]) -> str:
    if risks and risks[0].level is RiskLevel.HIGH:
        return words.likely(risks[0])
    if question.carried_on is not None and question.then is not None:
        return f"Move it to {question.then.name} once a core reading says {percent(question.carried_at)}, and keep it there on stickers."
    if question.at_least:
        return "Some of it is wetter than the meter can measure, so it may take longer: weigh it, a scale tells more while it is wet."
    return "Read it again in a few weeks: its own readings will firm up this date."
