"""How a piece is hurried, and how long it may lie elsewhere: what the page shows."""

from dataclasses import dataclass

import numpy as np

from calm_heron.air.models import Place
from calm_heron.drying import methods, queries, words
from calm_heron.drying.queries import Surroundings
from calm_heron.drying.questions import DryingQuestion
from calm_heron.site.memory import Memory, digest_of
from calm_heron.site.numbers import percent
from wood.drying import speeding_up
from wood.drying.speeding_up import SPED_UP_FROM, Step, Way
from wood.judging.readiness import WORKABLE

WORDS = {
    Step.FLAT: "Lying flat, board on board",
    Step.STICKERED: "On stickers, air all round",
    Step.SKIMMED: "and both faces skimmed",
    Step.CUT: "On stickers, cut to rough length past the sealed ends",
    Step.CORNER: "On stickers in a warmer corner until its mean is there",
    Step.ALL: "Cut, skimmed, and first in a warmer corner",
}
# A way that saves less than this share of the days is not worth the wood.
WORTH_SAYING = 0.1

_ways: Memory[list[Way]] = Memory(64)


@dataclass(frozen=True)
class SpeedUpWords:
    """A way as the page shows it."""

    words: str
    when: str
    span: str
    bought: str
    thickness_m: float
    is_usual: bool


@dataclass(frozen=True)
class SpedUp:
    """The large answer, its reason, the next step, and the ways; ``ways`` is empty where nothing is to be hurried."""

    word: str
    band: str
    reason: str
    next_step: str
    ways: list[SpeedUpWords]


THERE = SpedUp("It is there", "", "No need to speed it up.", "Its page says whether that is sure.", [])


def sped_up(query: DryingQuestion, skimmed_m: float, rough_length_m: float | None) -> SpedUp:
    """What each way buys, and the best of them."""
    if query.start > SPED_UP_FROM:
        return SpedUp(
            "Not yet",
            "",
            f"At {percent(query.start)} it’s too wet to rush: wood that dries fast checks.",
            f"Let it come down to {percent(SPED_UP_FROM)} on stickers under cover; its page says when.",
            [],
        )
    if query.state in WORKABLE:
        return THERE
    question = query.question
    result = _ways.get(digest_of((question, skimmed_m, rough_length_m)), lambda: speeding_up.ways(question, skimmed_m, rough_length_m))
    usual = next(way for way in result if way.step is Step.STICKERED)
    if usual.days == 0:
        return THERE
    lines = [_told(way, query, usual) for way in result]
    best = min((way for way in result if way.step is not Step.FLAT), key=lambda way: way.days)
    if not np.isfinite(best.days):
        return SpedUp("Nothing helps", "", "Nothing brings it to its target in this air.", "Bring it to another place.", lines)
    if not np.isfinite(usual.days) or usual.days - best.days > WORTH_SAYING * usual.days:
        saved = words.span(usual.days - best.days) if np.isfinite(usual.days) else ""
        reason = f"{_words(best, query)}, ready to work about {words.on(query.start_date, best.days)}"
        reason += f" instead of {words.on(query.start_date, usual.days)}." if saved else "; on stickers alone it would not get there."
        return SpedUp(words.span(best.days).capitalize(), f"{saved} sooner" if saved else "", reason, _step(best), lines)
    return SpedUp("It takes its time", "", "Nothing saves more than a tenth of the days.", "Leave it on stickers.", lines)


def _told(way: Way, question: DryingQuestion, usual: Way) -> SpeedUpWords:
    if not np.isfinite(way.days):
        return SpeedUpWords(_words(way, question), "not in this air", "", "", way.thickness_m, way == usual)
    bought = "" if way == usual or not np.isfinite(way.saved_days) else bought_words(way.saved_days)
    when = "now" if way.days == 0 else words.on(question.start_date, way.days)
    return SpeedUpWords(_words(way, question), when, words.span(way.days), bought, way.thickness_m, way == usual)


def _words(way: Way, question: DryingQuestion) -> str:
    text = WORDS[way.step]
    return text.replace("warmer", "cooler") if question.question.rises else text


def bought_words(days: float) -> str:
    """The days that a way buys, or loses."""
    if abs(days) < 0.75:
        return "nothing"
    return words.span(days) if days > 0 else f"{words.span(-days)} lost"


def _step(best: Way) -> str:
    if best.step in (Step.SKIMMED, Step.ALL):
        return "Skim both faces alike, the same day, and sticker it at once: skimmed on one side only, it cups."
    if best.step is Step.CORNER:
        return "Turn it now and then, keep it off the stove itself, and bring it back before its shell is drier than the target."
    return "Cut off the sealed ends first, and leave more length than the ends may check."


@dataclass(frozen=True)
class Elsewhere:
    """A place where it might lie, and how long before it matters."""

    place: Place
    span: str


def elsewhere(question: DryingQuestion, places: list[Place]) -> list[Elsewhere]:
    """How long wood that is as wanted may lie in each of the other places before it no longer is."""
    wanted = question.question.wanted
    if wanted is None:
        return []
    low, high = wanted.outer_at(0.0)
    if not low <= question.start <= high:
        return []
    result = []
    for place in places:
        if place == question.last.place or place.traits.is_held:
            continue
        around = queries.surroundings([place], f"place-{place.pk}", methods.named(methods.USUAL), question.start_date)
        if isinstance(around, Surroundings):
            days = speeding_up.matters_after(question.question, around.setting)
            result.append(Elsewhere(place, words.span(days) if np.isfinite(days) else "as long as you like"))
    return result
