"""A bowl's weights in words."""

from collections.abc import Sequence
from typing import Any

from django.utils import timezone

from calm_heron.drying.words import span
from calm_heron.site import dates
from calm_heron.site.numbers import counted, percent
from calm_heron.turning.shelf.weighing import NEVER, WeighedBowl
from wood.turning.own_pace import PaceLearnt
from wood.turning.weights import State
from wood.units import System
from wood.written import weighed_mass

WORDS = {State.FLAT: "Settled", State.FALLING: "Still falling", State.RISING: "Rising", State.STALLED: "Stalled"}
SHAPES = {State.FLAT: "ready", State.FALLING: "wait", State.RISING: "close", State.STALLED: "uneven"}


def days_left(weighed: WeighedBowl) -> float:
    """Days from today until it is at rest."""
    return weighed.rest[0] - (timezone.now() - weighed.first_at).total_seconds() / 86_400


def when(weighed: WeighedBowl) -> str:
    """When it comes to rest, with its band: “about 12 March, 1 to 28 March”.

    The band is of days from now on: what is over already is not foretold.
    """
    if weighed.rest[0] >= NEVER:
        return "not within four years"
    today = timezone.localdate()
    middle, low, high = (max(weighed.day(min(day, 3650.0)), today) for day in weighed.rest)
    late = "too far off to say" if weighed.rest[2] >= NEVER else dates.near_day(high)
    return f"about {dates.near_day(middle)}" if low == high else f"about {dates.near_day(middle)} ({dates.near_day(low)} to {late})"


def answer(weighed: WeighedBowl, place: str, system: System) -> tuple[str, str, str]:
    """The word, what it weighs at rest, and why."""
    rest = f"{weighed_mass(weighed.rest_kg[0], system)} once settled"
    left = days_left(weighed)
    room = place or "its room"
    if weighed.state is State.FLAT:
        reason = f"Its weight has stood still for two weeks, within 1% of its settled weight in {room}: dry for that place."
    elif weighed.state is State.RISING:
        reason = f"It gains: it had gone below what {room} brings it to, as after a warm box. Let it come up and stand still."
    elif weighed.state is State.STALLED:
        reason = (
            f"It stands still at about {percent(weighed.moisture[0])}, well above the {percent(weighed.level)} that {room} should bring it"
            " to. The air about it may be damper than is known, the bag too tight, or the scale stuck."
        )
    elif weighed.count < 3:
        verb = "tells" if weighed.count == 1 else "tell"
        reason = f"{_count(weighed)} {verb} little yet: settled {when(weighed)}. Each further one narrows it."
    elif left < 1:
        reason = f"It should have settled by now, at {_between(weighed.rest_kg, system)}: weigh it, and see whether it stands still."
    else:
        reason = f"It comes to rest in {span(left)}, {when(weighed)}, and then weighs {_between(weighed.rest_kg, system)}."
    return WORDS[weighed.state], rest, reason


def by_whose_air(place: str, whose: str | None) -> str:
    """By which air a bowl is told, where it is not that of its own place: ``place`` is where it lies, empty where nobody said."""
    if whose is None:
        return ""
    why = f"No reading of the air in {place} is kept" if place else "Nobody has said where it lies"
    return f"{why}, so this goes by {f'the air in {whose}' if whose else 'a usual heated room'}."


def _count(weighed: WeighedBowl) -> str:
    return "One weighing" if weighed.count == 1 else f"{weighed.count} weighings"


def _between(band: tuple[float, float, float], system: System) -> str:
    low, high = weighed_mass(band[1], system), weighed_mass(band[2], system)
    return f"about {low}" if low == high else f"{low} to {high}"


def water(weighed: WeighedBowl, system: System) -> str:
    """How wet it was and is, as bands: a green bowl is never told to a point."""
    start, now = (f"{percent(band[1], 0)} to {percent(band[2], 0)}" for band in (weighed.start, weighed.moisture))
    return f"It began at {start} and is at {now}; ovendry it would weigh {_between(weighed.dry_kg, system)}."


def pace(weighed: WeighedBowl) -> str:
    """How fast it dries beside its species."""
    share = weighed.pace[0]
    beside = "the usual pace" if 0.87 <= share <= 1.15 else f"{share:.0%} of the usual pace"
    return f"It’s drying at {beside} for its species and wall thickness ({weighed.pace[1]:.0%} to {weighed.pace[2]:.0%})."


def pace_learnt(learnt: PaceLearnt, wood: str, way: str) -> str:
    """What the workshop's own bowls say of how fast a wood dries in a way; empty where none came to rest."""
    if not learnt.count:
        return ""
    bowls = counted(learnt.count, "bowl")
    if 0.93 <= learnt.share <= 1.07:
        return f"{bowls} of {wood} that settled here {way} dried about as fast as its figures say; the forecast counts on it."
    way_off = "faster" if learnt.share > 1 else "slower"
    off = percent(abs(learnt.share - 1), 0)
    return f"{bowls} of {wood} that settled here {way} dried {off} {way_off} than its figures say; the forecast counts on it."


def foretold(weighed: WeighedBowl, system: System) -> str:
    """What was foretold of a bowl that came to rest, and what came."""
    if weighed.foretold is None:
        return ""
    (day, low, high), (mass, _low, _high) = weighed.foretold["rest"], weighed.foretold["rest_kg"]
    late = "too far off to say" if high >= NEVER else dates.near_day(weighed.day(min(high, 3650.0)))
    said = f"about {dates.near_day(weighed.day(min(day, 3650.0)))} ({dates.near_day(weighed.day(low))} to {late})"
    came = f"{dates.near_day(weighed.day(min(weighed.rest[0], 3650.0)))} and {weighed_mass(weighed.last_kg, system)}"
    return (
        f"After its first {weighed.foretold['count']} weighings {said} and {weighed_mass(mass, system)} were forecast; it came to {came}."
    )


RECKONED = {
    "field": "by the moisture field and the shell of this bowl",
    "single": "by one exponential",
    "double": "by two exponentials, a quick part and a slow one",
    "two phases": "at an even rate first, then falling",
    "slab": "as a slab through a skin of air",
    "stretched": "by an exponential that is stretched in time",
}
# A reckoning with less than this share is not told.
TOLD_FROM = 0.05


def reckoned(weighed: WeighedBowl) -> str:
    """By which reckonings the forecast is made, the weightiest first: “61% by the moisture field …; 30% by one exponential”."""
    shares = sorted(weighed.reckonings.items(), key=lambda item: -item[1])
    return "; ".join(f"{percent(share, 0)} {RECKONED[name]}" for name, share in shares if share >= TOLD_FROM and name in RECKONED)


def counted_bowls(at_rest: Sequence[Any]) -> str:
    """How many of a workshop's own bowls count in the forecast of the next one."""
    if not at_rest:
        return "No other bowl of this workshop has come to rest yet; those that do will count in the next ones."
    if len(at_rest) == 1:
        return "The log of one other bowl of this workshop that came to rest counts in this."
    return f"The logs of {len(at_rest)} other bowls of this workshop that came to rest count in this."


def next_weighing(weighed: WeighedBowl) -> str:
    """When to weigh it again."""
    if weighed.state is State.FLAT:
        return "Weigh it once more before it goes on the lathe."
    return "Weigh it today." if weighed.next_on <= timezone.localdate() else f"Weigh it again on {dates.near_day(weighed.next_on)}."


def in_list(weighed: WeighedBowl | None, system: System) -> str:
    """One line of the shelf."""
    if weighed is None:
        return "not weighed yet"
    if weighed.state is State.FLAT:
        return f"settled at {weighed_mass(weighed.last_kg, system)}"
    if weighed.state is State.FALLING:
        return "settled " + (
            "not within four years"
            if weighed.rest[0] >= NEVER
            else f"about {dates.near_day(max(weighed.day(weighed.rest[0]), timezone.localdate()))}"
        )
    return {State.RISING: "gains again", State.STALLED: "stands still while wet"}[weighed.state]


def due(weighed: WeighedBowl | None) -> str:
    """When a bowl of the shelf is to be weighed next."""
    if weighed is None:
        return "now"
    if weighed.state is State.FLAT:
        return "–"
    return "now" if weighed.is_due else dates.near_day(weighed.next_on)


# As many of them are named where a word may mean several.
NAMED = 4


def which(word: str, tags: list[str]) -> str:
    """Why a word names no bowl: nothing on the shelf, or several."""
    if not tags:
        return f"No bowl on the shelf is called “{word}”."
    others = f" and {len(tags) - NAMED} more" if len(tags) > NAMED else ""
    return f"“{word}” may mean {', '.join(tags[:NAMED])}{others}. Write the whole tag."
