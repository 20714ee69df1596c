"""What is said to those who only ask."""

from dataclasses import dataclass

import numpy as np

from calm_heron.ask.queries import Rack
from calm_heron.drying.words import span as long_span
from calm_heron.site.numbers import bounded, distance, figure, percent, points
from wood.judging.rack import Advice, Why
from wood.uses import FRAMING

# Below this nobody counts days.
FEW_DAYS = 4.0
ORDINALS = {1: "first", 2: "second", 3: "third"}


@dataclass(frozen=True)
class Told:
    """The answer in words: ``word`` large, ``besides`` what stands beside it, each a sentence."""

    word: str
    reason: str
    next_step: str
    besides: tuple[str, ...] = ()


# From here on people count in weeks, and from there in months.
WEEKS_FROM, WEEKS_UNTIL = 12.0, 183.0


def span(days: float) -> str:
    """Days as a buyer counts them: 9 days, 5 weeks, 8 months."""
    return f"{days / 7:.0f} weeks" if WEEKS_FROM <= days < WEEKS_UNTIL else long_span(days)


def ordinal(position: int) -> str:
    """A position among readings, in words: the first, the 4th."""
    number = position + 1
    if number in ORDINALS:
        return ORDINALS[number]
    ending = "th" if 10 < number % 100 < 14 else {1: "st", 2: "nd", 3: "rd"}.get(number % 10, "th")
    return f"{number}{ending}"


def at_the_rack(found: Rack) -> Told:
    """Take it, wait, or walk away; why, and what to do."""
    advised = found.advised
    word = advised.advice.capitalize()
    if advised.advice is Advice.TAKE and advised.why is Why.IN_TIME and advised.days is not None:
        usual = advised.days[1]
        word = f"Take it: {span(usual) if usual >= FEW_DAYS else 'a few days'} at home"
    return Told(word, _reason(found), _next(found), tuple(_besides(found)))


def _reads(found: Rack) -> str:
    wood = found.advised.estimate
    if wood.bound:
        return f"It reads {bounded(wood.mean, wood.bound)} %"
    return f"It is at {points(wood.mean)} ± {percent(wood.uncertainty, 1)}"


def _reason(found: Rack) -> str:
    advised, there = found.advised, found.home.named
    wood, days = advised.estimate, advised.days
    reads, within = _reads(found), f"within {figure(found.use.tolerance)} of {there}"
    if advised.why is Why.WET:
        return f"Some of it is wetter than a meter can tell, over {percent(wood.mean)}: it was never dried, or it got wet again."
    if advised.why is Why.MIXED:
        return f"{reads} in the mean, and its readings lie {distance(wood.reach)} points apart: this pile did not dry together."
    if advised.why is Why.THERE:
        return f"{reads}, and is to be {within}: it is."
    if advised.why is Why.SWINGS:
        return f"{reads}. The year at home swings by more than is allowed and carries the wood along; it is soon near {there}."
    if days is None:
        return f"{reads}, and is to come {within}. How long that takes is not known for this wood."
    if advised.why is Why.DRIER:
        return f"{reads}, drier than {there}: it will take up moisture there for {_band(days)}, and swell."
    if advised.why is Why.NOT_AIR_DRY:
        return f"{reads}: that is not air dry yet. To come {within} it needs {_band(days)} in all."
    if advised.why is Why.NEVER:
        return f"{reads}. To come {within} it would need {span(days[1])}."
    tail = f", and you can wait {span(found.patience_days)}" if advised.why is Why.TOO_LONG else ""
    return f"{reads}. On stickers at home it needs {_band(days)} to come {within}{tail}."


def _band(days: tuple[float, float, float]) -> str:
    low, usual, high = days
    if not np.isfinite(usual):
        return f"at least {span(low)}" if np.isfinite(low) else "longer than anybody waits"
    if usual < FEW_DAYS:
        return f"a few days, {span(high)} at most" if FEW_DAYS < high < np.inf else "a few days"
    if not np.isfinite(high):
        return f"about {span(usual)} ({span(low)} or more)"
    least, most = span(low), span(high)
    if least.split()[-1] == most.split()[-1]:
        least = least.split()[0]
    return f"about {span(usual)} ({least} to {most})" if least != most else f"about {most}"


NEXT = {
    Why.THERE: "Let it lie at home on stickers for a few days before you cut.",
    Why.DRIER: "Build so that it may swell, or let it lie at home on stickers first. Dry wood in a damp shop gains slowly.",
    Why.IN_TIME: "Stack it at home on stickers, with air all round, and read it again before you cut.",
    Why.WET: "Leave it, unless you mean to dry it yourself: months on stickers in the open, then weeks indoors.",
    Why.MIXED: "If you want some of it, read every board and take only those that agree.",
    Why.NOT_AIR_DRY: "Ask for drier wood. Or stack it under cover on stickers until it reads under 20 %: in a heated room it may check now.",
    Why.TOO_LONG: "Ask for drier or thinner wood, or buy it now for a later job.",
    Why.NEVER: "Ask for kiln-dried or thinner wood.",
    Why.SWINGS: "Buy it if it looks right; build so that it may move.",
}
# So many readings, and none of them odd, are enough to pay on.
ENOUGH = 3


def _next(found: Rack) -> str:
    if found.advised.advice is Advice.TAKE and len(found.read) - len(found.odd) < ENOUGH:
        return f"Read more boards before you pay, away from their ends. {NEXT[found.advised.why]}"
    return NEXT[found.advised.why]


def _besides(found: Rack) -> list[str]:
    advised, said = found.advised, []
    for position in found.odd:
        _, corrected = found.read[position]
        shown = bounded(corrected.moisture, corrected.bound)
        said.append(
            f"The {ordinal(position)} reading, {shown} %, does not belong to the others and is left out: leave that board where it is."
        )
    if advised.inside_unknown:
        said.append("It is thick, and was read near its faces only. Have an end cut off and read the fresh cut before you believe this.")
    counted = len(found.read) - len(found.odd)
    if counted > 1 and not advised.estimate.bound:
        which = "other " if found.odd else ""
        said.append(f"The {which}{counted} readings lie {distance(advised.estimate.reach)} points apart.")
    if found.species is None and advised.days is not None and advised.why is not Why.THERE:
        said.append("Not knowing the species, the time is a slow wood’s (white oak), and the band begins with a quick one (white pine).")
    limit = percent(FRAMING.limit)
    said.append(f"For framing it is {f'dry enough, under {limit}' if advised.framing else f'not surely under the {limit} of dry lumber'}.")
    return said
