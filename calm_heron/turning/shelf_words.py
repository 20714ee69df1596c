"""A bowl's weights in words."""

from datetime import date

from django.utils import timezone

from calm_heron.drying.words import span
from calm_heron.site import dates
from calm_heron.site.numbers import percent
from calm_heron.turning.weighing import NEVER, WeighedBowl
from wood.turning.weights import State
from wood.units import System
from wood.written import weighed_mass

WORDS = {State.FLAT: "At rest", State.FALLING: "Still falling", State.RISING: "Rising", State.STALLED: "Stalled"}
SHAPES = {State.FLAT: "ready", State.FALLING: "wait", State.RISING: "close", State.STALLED: "uneven"}


def days_left(told: WeighedBowl) -> float:
    """Days from today until it is at rest."""
    return told.rest[0] - (timezone.now() - told.first_at).total_seconds() / 86_400


def when(told: WeighedBowl) -> str:
    """When it comes to rest, with its band: “about 12 March, 1 to 28 March”.

    The band is of days from now on: what is over already is not foretold.
    """
    if told.rest[0] >= NEVER:
        return "not within four years"
    today = timezone.localdate()
    middle, low, high = (max(told.day(min(day, 3650.0)), today) for day in told.rest)
    late = "later than anybody can say" if told.rest[2] >= NEVER else _date(high)
    return f"about {_date(middle)}" if low == high else f"about {_date(middle)} ({_date(low)} to {late})"


def _date(day: date) -> str:
    near = abs((day - timezone.localdate()).days) < 330
    return dates.day(day) if near else dates.full_day(day)


def answer(told: WeighedBowl, place: str, system: System) -> tuple[str, str, str]:
    """The word, what it weighs at rest, and why."""
    rest = f"{weighed_mass(told.rest_kg[0], system)} at rest"
    left = days_left(told)
    room = place or "its room"
    if told.state is State.FLAT:
        reason = f"Its last weighings agree, and it is within a hundredth of its weight of what {room} brings it to: done for that place."
    elif told.state is State.RISING:
        reason = f"It gains: it had gone below what {room} brings it to, as after a warm box. Let it come up and stand still."
    elif told.state is State.STALLED:
        reason = (
            f"It stands still at about {percent(told.moisture[0])}, well above the {percent(told.level)} that {room} should bring it to. "
            "The air about it may be damper than is known, the bag too tight, or the scale stuck."
        )
    elif told.count < 3:
        verb = "tells" if told.count == 1 else "tell"
        reason = f"{_count(told)} {verb} little yet: at rest {when(told)}. Each further one narrows it."
    elif left < 1:
        reason = f"It should be at rest by now, at {_between(told.rest_kg, system)}: weigh it, and see whether it stands still."
    else:
        reason = f"It comes to rest in {span(left)}, {when(told)}, and then weighs {_between(told.rest_kg, system)}."
    return WORDS[told.state], rest, reason


def _count(told: WeighedBowl) -> str:
    return "One weighing" if told.count == 1 else f"{told.count} weighings"


def _between(band: tuple[float, float, float], system: System) -> str:
    low, high = weighed_mass(band[1], system), weighed_mass(band[2], system)
    return f"about {low}" if low == high else f"{low} to {high}"


def water(told: WeighedBowl, system: System) -> str:
    """How wet it was and is, as bands: a green bowl is never told to a point."""
    start, now = (f"{percent(band[1], 0)} to {percent(band[2], 0)}" for band in (told.start, told.moisture))
    return f"It began at {start} and is at {now}; without any water it would weigh {_between(told.dry_kg, system)}."


def pace(told: WeighedBowl) -> str:
    """How fast it dries beside its species."""
    share = told.pace[0]
    beside = "as fast as" if 0.87 <= share <= 1.15 else f"{share:.1f} times as fast as" if share > 1 else f"at {share:.1f} of the pace of"
    return f"It dries {beside} its species usually does in such a wall ({told.pace[1]:.1f} to {told.pace[2]:.1f})."


def next_weighing(told: WeighedBowl) -> str:
    """When to weigh it again."""
    if told.state is State.FLAT:
        return "Weigh it once more before it goes on the lathe."
    return "Weigh it today." if told.next_on <= timezone.localdate() else f"Weigh it again on {dates.day(told.next_on)}."


def in_list(told: WeighedBowl | None, system: System) -> str:
    """One line of the shelf."""
    if told is None:
        return "not weighed yet"
    if told.state is State.FLAT:
        return f"at rest at {weighed_mass(told.last_kg, system)}"
    if told.state is State.FALLING:
        return "at rest " + (
            "not within four years" if told.rest[0] >= NEVER else f"about {_date(max(told.day(told.rest[0]), timezone.localdate()))}"
        )
    return {State.RISING: "gains again", State.STALLED: "stands still while wet"}[told.state]


def due(told: WeighedBowl | None) -> str:
    """When a bowl of the shelf is to be weighed next."""
    if told is None:
        return "now"
    if told.state is State.FLAT:
        return "–"
    return "now" if told.is_due else dates.day(told.next_on)


# As many of them are named where a word may mean several.
NAMED = 4


def which(word: str, tags: list[str]) -> str:
    """Why a word names no bowl: nothing on the shelf, or several."""
    if not tags:
        return f"No bowl on the shelf is called “{word}”."
    others = f" and {len(tags) - NAMED} more" if len(tags) > NAMED else ""
    return f"“{word}” may mean {', '.join(tags[:NAMED])}{others}. Write the whole tag."
