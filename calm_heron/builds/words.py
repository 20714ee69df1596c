"""How a build stands, in words."""

from dataclasses import dataclass
from datetime import date

import numpy as np

from calm_heron.builds.kinds import FigureKind
from calm_heron.builds.readiness import BuildState, PartState
from calm_heron.drying.words import on, span
from calm_heron.site.numbers import counted
from wood.builds import choosing, dates
from wood.builds.choosing import Durability, Exposure, Suits
from wood.judging.readiness import State
from wood.uses import OUTDOORS, PLANK_FLOOR, STRIP_FLOOR

STATES = {
    State.READY: "Ready",
    State.WORKS_NOW: "Works now",
    State.CLOSE: "Close",
    State.DRY: "Dry, ready to work",
    State.WAIT: "Wait",
    State.TOO_DRY: "Too dry",
    State.TOO_UNEVEN: "Uneven",
    State.CANNOT_TELL: "Cannot tell",
    State.CRACKED: "Cracked",
}
FLOORS = (STRIP_FLOOR.key, PLANK_FLOOR.key)


@dataclass(frozen=True)
class BuildWords:
    """The large answer, what stands beside it, the reason in a sentence, and what to do next."""

    word: str
    beside: str
    reason: str
    next_step: str


def listed(names: list[str], most: int = 4) -> str:
    """Names in a sentence, the last ones counted.

    >>> listed(["a", "b", "c"]), listed(list("abcdef"), 3)
    ('a, b and c', 'a, b, c and 3 more')
    """
    if len(names) > most:
        return f"{', '.join(names[:most])} and {len(names) - most} more"
    return names[0] if len(names) == 1 else f"{', '.join(names[:-1])} and {names[-1]}" if names else ""


def between(today: date, low: float, high: float) -> str:
    """From when to when, the year only once where it is the same.

    >>> between(date(2026, 11, 27), 41, 111), between(date(2026, 3, 1), 10, 20)
    ('7 January to 18 March 2027', '11 March to 21 March')
    """
    if not np.isfinite(high):
        return f"from {on(today, low)}, with no end in sight"
    first, last = on(today, low), on(today, high)
    year = last[-5:] if last[-4:].isdigit() else ""
    return f"{first.removesuffix(year) if year else first} to {last}"


def build_words(state: BuildState) -> BuildWords:
    """When all of a build's wood may be worked."""
    build = state.build
    if build.done_on:
        return BuildWords(
            "Done", on(state.today, (build.done_on - state.today).days), "It is made, and its boards are used.", "Follow its first year."
        )
    if not state.parts:
        return BuildWords("No parts yet", "", "A build begins with its parts: how many, how large, of what wood.", "Add the parts.")
    bare = state.without_wood
    if bare:
        names = listed([item.part.name for item in bare])
        ready = f"{len(state.ready)} of {len(state.parts)} parts have wood that is ready. " if state.ready else ""
        return BuildWords(
            "Wood is missing", "", f"{ready}No board was chosen for {names}.", "Place the parts on boards, or choose the wood part by part."
        )
    if state.sold_or_used:
        names = listed([item.tag for item in state.sold_or_used])
        return BuildWords("Wood is missing", "", f"No longer in stock: {names}.", "Remove its parts there, and place them on other boards.")
    if state.is_ready:
        reason = f"All of its wood is ready to work for {build.place.name} today."
        step = "Place the rest on boards." if state.saw.unlaid else "Take the bench sheet to the saw; rough-mill first, and let it rest."
        return BuildWords("Start", "all is ready", reason, step)
    if state.may_be_begun:
        moving = [wood.piece.tag for wood in state.moving]
        reason = (
            f"All of its wood is ready to work for {build.place.name} today. {listed(moving)} {'is' if len(moving) == 1 else 'are'} not "
            "at the"
            " average of that place: leave the room that the seasons take."
        )
        return BuildWords("Start", "its wood is ready to work", reason, "Look at what its movement will be, and place the rest on boards.")
    if state.pending:
        return BuildWords(
            "Being worked out",
            "",
            f"The forecast of {listed([item.tag for item in state.pending])} is on its way.",
            "Look again in a moment.",
        )
    if state.latest is None:
        names = listed([item.tag for item in state.unknown])
        return BuildWords("Cannot tell", "", f"No telling yet when {names} will be ready.", f"Read {names}: then the day follows.")
    latest, today = state.latest, state.today
    share = f"{len(state.ready)} of {counted(len(state.parts), 'part')} {'has' if len(state.ready) == 1 else 'have'} wood that is ready"
    last = state.waiting[0].piece.tag if state.waiting else ""
    if not np.isfinite(latest.days):
        return BuildWords(
            "Not in this air",
            "",
            f"{share}; {last} won’t reach what {build.place.name} asks.",
            "Choose other wood, or another place to dry it in.",
        )
    if latest.days < 0.5:
        return BuildWords("Nearly", "within a day or two", f"{share}; the others are close.", "Read those once more before the first cut.")
    beside = between(today, latest.low, latest.high)
    return BuildWords(
        f"About {on(today, latest.days)}", beside, f"{share}{f'; it waits for {last}' if last else ''}.{_against_due(state)}", _next(state)
    )


def _against_due(state: BuildState) -> str:
    late = state.late_days
    if late is None or state.build.due is None:
        return ""
    due = f" It is due on {on(state.today, (state.build.due - state.today).days)}: "
    if late > 0:
        return f"{due}{span(late)} before its wood is ready."
    return f"{due}{span(-late)} left to make it."


def _next(state: BuildState) -> str:
    if state.build.use_key in FLOORS:
        return "Leave it in the house; what counts is the house’s year, not a number of days."
    if state.late_days is not None and state.late_days > 0:
        return "See how to speed it up, or move the date."
    return "Leave it on stickers; its pages say what to read next."


def due_words(state: BuildState) -> str:
    """The day a build is due, in a list; empty where it has none."""
    if state.build.due is None:
        return ""
    left = state.build.days_to_due(state.today) or 0
    return on(state.today, left) + (" (past)" if left < 0 else "")


def state_of(part_state: PartState) -> str:
    """A part's state in a table."""
    return "No wood yet" if part_state.state is None else STATES[part_state.state]


def when_of(part_state: PartState, today: date) -> str:
    """When the wood of a part that waits may be worked; empty where it does not wait, or nobody knows."""
    days = [ready for wood in part_state.woods if (ready := wood.ready(today)) is not None]
    if not part_state.waits or len(days) < len(part_state.woods):
        return ""
    latest = dates.latest(days)
    return f"about {on(today, latest.days)}" if np.isfinite(latest.days) else "not in this air"


def in_list(state: BuildState) -> str:
    """How a build stands, in a few words."""
    if state.may_be_begun:
        return "can start"
    if state.late_days is not None and state.late_days > 0:
        return f"due {span(state.late_days)} before its wood is ready"
    return f"due {due_words(state)}"


DECAY = {
    Durability.VERY_RESISTANT: "very resistant to decay",
    Durability.RESISTANT: "resistant to decay",
    Durability.MODERATE: "moderately resistant to decay",
    Durability.SLIGHT: "hardly resistant to decay, or not at all",
    Durability.NOT_KNOWN: "of a resistance to decay that is not known",
}


def is_outdoors(state: BuildState) -> bool:
    """Whether a build will stand in the weather."""
    return state.build.use_key == OUTDOORS.key or state.build.place.traits.is_outdoors


def outdoor_notes(state: BuildState) -> list[str]:
    """What counts for a build that stands outdoors, wood by wood; nothing where it does not."""
    if not is_outdoors(state):
        return []
    notes = []
    for species in {part.part.species_key: part.part.species for part in state.parts}.values():
        known = choosing.durability_of(species)
        fit = choosing.suits(known, Exposure.RAIN)
        step = {
            Suits.YES: "",
            Suits.WITH_CARE: " Keep it off the ground and let it dry off.",
            Suits.NO: " It won’t last in the rain: choose another wood, or put a roof over it.",
        }
        notes.append(
            f"The heartwood of {species.spoken_name} is"
            f" {DECAY[known]}.{step.get(fit, ' Ask for its record outdoors before you rely on it.')}"
        )
    if not state.build.sapwood_out:
        notes.append("Sapwood isn’t kept out of its parts, and no species’ sapwood lasts outdoors.")
    feet = [part.part.name for part in state.parts if part.part.figure == FigureKind.LEG]
    if feet:
        notes.append(
            f"{listed(feet)}: soak the end grain of the feet with a sealer until it takes no more, and stand them on a glide or a stone;"
            " water that rises there rots them first."
        )
    return [*notes, "Seal all end grain before it goes out, keep its feet off the wet ground, and leave no joint that holds water."]
