"""Back on the lathe, in words."""

from dataclasses import dataclass
from typing import Any

from calm_heron.site.numbers import counted, percent
from calm_heron.turning.bowls.finishing import Finish
from calm_heron.turning.kinds import HeldKind, MendKind, WhereKind
from wood.turning.lathe import May, Remedy
from wood.turning.tracing import Learnt
from wood.units import System
from wood.written import handled_length, said_length

WORDS = {
    May.YES: "Yes",
    May.FILLED: "Yes, once filled",
    May.WAIT: "Wait",
    May.TOO_THIN: "Too thin to true",
    May.NEVER: "No: dangerous",
    May.UNKNOWN: "Weigh it first",
}
REMEDIES = {
    Remedy.TURN_AWAY: "goes with the shavings: it is no deeper than what is turned off there",
    Remedy.FILL: "may be filled, with thin glue or epoxy drawn in, and turned once that is hard",
    Remedy.MENDED: "mended: go slowly, and stop at the first new line",
    Remedy.NEVER: "never turned: it may fly apart",
}


@dataclass(frozen=True)
class LatheWords:
    """The verdict as the page says it: a word, its reason, each crack with what becomes of it, its tracings, what is learnt, and the
    speeds.
    """

    word: str
    reason: str
    shape: str
    cracks: list[tuple[Any, ...]]
    tracings: list[Any]
    learnt: str
    speeds: str


def describe(finish: Finish, system: System) -> LatheWords:
    """Whether the bowl may be finish-turned."""
    verdict = finish.verdict
    if verdict is None:
        reason = "The shape it comes to is not known: no shrinkage of its wood is at hand, or its sizes make no bowl."
        cracks = [(crack, where(crack, system), "", False) for crack in finish.cracks]
        return LatheWords("Not known", reason, "", cracks, finish.tracings, _learnt(finish), "")
    speeds = (
        f"Begin at no more than {verdict.begin_rpm} turns a minute, and hardly pass {verdict.true_rpm} once it runs true; a bowl this wide"
        " has a fast rim. The lathe’s own limits come first."
    )
    cracks = [
        (item, where(item, system), mended(item) if remedy is Remedy.MENDED else REMEDIES[remedy], remedy is Remedy.FILL)
        for item, remedy in zip(finish.cracks, verdict.remedies, strict=True)
    ]
    word, reason = WORDS[verdict.may], _reason(finish, system)
    if finish.known.turned_once and verdict.may is not May.NEVER:
        word, reason = "Left as it goes", "It was turned once, thin: its oval is a feature, and nothing of it is turned true again."
    shape = " ".join(item for item in (_shape(finish, system), _held(finish, system)) if item)
    return LatheWords(word, reason, shape, cracks, finish.tracings, _learnt(finish), speeds)


def where(crack: Any, system: System) -> str:
    """A crack: where it is, how deep and how long."""
    return (
        f"A crack {WhereKind(crack.where).label}, {said_length(crack.depth_m, system)} deep and {said_length(crack.length_m, system)} long"
    )


def mended(crack: Any) -> str:
    """How a crack was mended, and with what."""
    mend = crack.mend
    return f"{MendKind(mend.how).label}{f' with {mend.what}' if mend.what else ''}"


def _reason(finish: Finish, system: System) -> str:
    verdict = finish.verdict
    assert verdict is not None
    wanted, left = said_length(finish.known.end_wall_m, system), said_length(max(verdict.thinnest_m, 0.0), system)
    if verdict.may is May.NEVER:
        return "It holds a crack that makes all that is left unsafe."
    if verdict.may is May.UNKNOWN:
        return "Only its weight tells whether it has settled."
    if verdict.may is May.WAIT:
        return "It hasn’t settled yet: turned now, it would go oval again."
    if verdict.may is May.TOO_THIN:
        return f"Turned true, {left} is left at its thinnest, and {wanted} is wanted. Leave it oval, or finish it thinner."
    return f"It has settled, and turned true {left} is left at its thinnest; {wanted} is wanted."


def _shape(finish: Finish, system: System) -> str:
    if finish.shape is None:
        return ""
    shown = finish.shape
    return (
        f"By its rings it should now be {handled_length(shown.along_m, system)} with the grain and {handled_length(shown.across_m, system)}"
        f" across it, {handled_length(shown.out_of_round_m, system)} out of round."
    )


def _held(finish: Finish, system: System) -> str:
    """By what it is held, and what that has become; empty where nobody said."""
    known, shown = finish.known, finish.shape
    if not known.held:
        return ""
    if known.held == HeldKind.CENTRES:
        return "It turns between centres."
    by = HeldKind(known.held).label
    if known.held_m is None or shown is None or known.held == HeldKind.PLATE:
        return f"It is held by {by}."
    green = finish.piece.width_m
    along, across = (known.held_m * size / green for size in (shown.along_m, shown.across_m))
    if abs(along - across) < 0.0004:
        return f"It is held by {by} of {handled_length(known.held_m, system)}."
    return (
        f"It is held by {by} of {handled_length(known.held_m, system)}, by now {handled_length(along, system)} by"
        f" {handled_length(across, system)}: turn that round first, between the chuck and the tailstock."
    )


def _learnt(finish: Finish) -> str:
    return learnt_words(finish.learnt, finish.piece.species.spoken_name)


def learnt_words(known: Learnt, name: str) -> str:
    """What the tracings of a wood in a workshop say beside their predictions; empty where there are none."""
    if not known.count:
        return ""
    if 0.93 <= known.share <= 1.07:
        return f"{counted(known.count, 'traced bowl')} of {name} went out of round about as predicted."
    more = "more" if known.share > 1 else "less"
    return (
        f"Traced bowls of {name} go {percent(abs(known.share - 1), 0)} {more} out of round here than its figures say ({known.count} so"
        " far); the forecast counts on it."
    )
