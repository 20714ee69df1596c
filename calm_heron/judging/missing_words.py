"""Why nothing can be judged, and what to do about it."""

from calm_heron.judging.models import NAMED
from calm_heron.judging.verdicts import Missing, NotJudged, VerdictQuestion
from calm_heron.site.numbers import points

Sentences = tuple[str, str]
MISSING: dict[Missing, Sentences] = {
    Missing.NO_PLACE: (
        "No place is set yet for the wood to settle in.",
        "Add the room it will live in under Air, and read its temperature and humidity.",
    ),
    Missing.RETIRED: (
        "It was meant for {place}, now retired.",
        "Choose above where it will live now, and save it.",
    ),
    Missing.NO_SUBFLOOR: (
        "A floor is judged against its subfloor, and none in {place} has a usable reading.",
        (
            "Add the subfloor as a piece of that kind under Stock, say that it is in {place}, and read it in several places. "
            "A slab of concrete has a test of its own: enter it as a subfloor of concrete."
        ),
    ),
    Missing.SLAB_NOT_TESTED: (
        "The floor lies on concrete in {place}, and the slab was not tested in the last month.",
        "Have it tested by the flooring’s own rules, and enter that under the slab in Stock.",
    ),
    Missing.SLAB_TOO_WET: (
        "The slab in {place} is wetter than its flooring allows.",
        "Leave the boards wrapped, and do not lay them. Let the slab dry and test it again.",
    ),
    Missing.NO_AIR: (
        "The air in {place} hasn’t been read in recent months, so its four-week EMC isn’t known.",
        "Read temperature and humidity in {place}.",
    ),
    Missing.NOT_NAMED: (
        "No target moisture is set.",
        "Set one between {low} and {high}%, such as 9 or 9.5.",
    ),
    Missing.OLD_SUBFLOOR: ("{Of} was last read {days} days ago; it may have changed since.", "Read it again."),
    Missing.OLD_AIR: (
        "The air in {place} was last read {days} days ago; its four-week EMC may have moved since.",
        "Read temperature and humidity in {place} again.",
    ),
    Missing.NO_BOARD_READ: (
        "None of its boards has a usable reading yet.",
        "Pick a sample board in each part of the stack and read it: outside, half way in, deep.",
    ),
    Missing.READ_IN_VAIN: (
        "It has been read, but none of the readings counts; the reasons are below.",
        "Use a meter that suits it, with pins for thin wood, or weigh it.",
    ),
    Missing.NOT_READ: ("It has no usable reading yet.", "Read it in three places, away from the ends."),
    Missing.NOT_LIVED_IN: (
        "Nobody lives in {place} yet, so its air today says little about the wood’s later life.",
        "Describe the year in {place} as it will be heated, under Air.",
    ),
    Missing.MOVED: (
        "It was moved {days} days ago and has not been read since; it has been changing in its new air.",
        "Read it again in three places, away from the ends.",
    ),
    Missing.TOO_THIN: (
        "Wood this thin follows the air within hours, and no meter can tell what it holds.{last_days}",
        "Spread it out in {place} for a day before you use it.",
    ),
    Missing.OLD_READINGS: (
        "It was last read {days} days ago, at {moisture}%; it has moved on since.",
        "Read it again in three places, away from the ends.",
    ),
}


def sentences(judgement: NotJudged) -> Sentences:
    reason, step = MISSING[judgement.missing]
    figures = {
        "place": judgement.question.where,
        "days": judgement.days,
        "Of": _first_large(judgement.target.name) if judgement.target else "",
        "low": points(NAMED[0], 0),
        "high": points(NAMED[1], 0),
        "last_days": _last_days(judgement.question),
        "moisture": points(judgement.estimate.mean if judgement.estimate else None),
    }
    return reason.format(**figures), step.format(**figures)


def _last_days(question: VerdictQuestion) -> str:
    if question.last_days is None:
        return ""
    low, high = question.last_days
    return f" The air in {question.where} of the last days keeps wood like this between {points(low)} and {points(high)}%."


def _first_large(text: str) -> str:
    return text[0].upper() + text[1:]
