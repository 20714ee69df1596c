"""Wood at the rack in words."""

from collections.abc import Sequence
from urllib.parse import parse_qsl

import numpy as np
from django.urls import reverse

from calm_heron.ask.rack import Rack, WoodAtTheRack
from calm_heron.drying.words import span as long_span
from calm_heron.measuring.strip import Spoken
from calm_heron.measuring.words import spoken
from calm_heron.questions.presentation import Folded, Keep, Lead, Manner, Presentation, Says
from calm_heron.questions.tools import Put, Reader
from calm_heron.questions.worth_keeping import into_a_workshop
from calm_heron.site.numbers import bounded, distance, figure, percent, points
from wood.judging.rack import Advice, AtTheRack, Why
from wood.measuring.meters import Corrected
from wood.uses import FRAMING
from wood.written import handled_length

# Below this nobody counts days.
FEW_DAYS = 4.0
ORDINALS = {1: "first", 2: "second", 3: "third"}


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


def present(put: Put[WoodAtTheRack], rack: Rack, reader: Reader) -> Presentation:
    """Take it, wait, or walk away; why, what to do, and how the readings were read."""
    wood, advised = put.question, rack.advised
    if advised is None:
        return Presentation(
            Lead("Cannot tell", is_word=True),
            "None of these readings can be used: on a wet surface, at metal, or through thin wood a meter reads something else.",
        )
    word = advised.advice.capitalize()
    if advised.advice is Advice.TAKE and advised.why is Why.IN_TIME and advised.days is not None:
        usual = advised.days[1]
        word = f"Take it: {span(usual) if usual >= FEW_DAYS else 'a few days'} at home"
    read = put.tells["read"]
    besides = [Says(said, Manner.HINT) for said in _besides(wood, advised, rack.odd, read)]
    keep = _keep(wood, reader)
    return Presentation(
        Lead(word),
        _reason(wood, advised),
        (
            Says(_next(advised, len(read) - len(rack.odd)), Manner.NEXT, first="Next."),
            *besides,
            _working(wood, advised, read, reader),
            *keep,
        ),
    )


def _working(wood: WoodAtTheRack, advised: AtTheRack, read: Sequence[tuple[Spoken, Corrected]], reader: Reader) -> Folded:
    tolerance = wood.use.tolerance
    return Folded(
        "How?",
        (
            (
                f"Home is {wood.home.named} ± {points(wood.home.uncertainty)}: {wood.home.basis}. It counts as there within"
                f" {figure(tolerance)} point{'' if tolerance == 0.01 else 's'}. Under 20% wood counts as air dry; boards that dried "
                f"together are within 6 points of each other. Thickness {handled_length(wood.thickness_m, reader.system)}. The days are"
                f" those of the page on drying: eight boards in ten lie between the ends. Rule {advised.rule}, our own."
            ),
        ),
        tuple(
            (f"{spoken(reading)} →", f"{bounded(corrected.moisture, corrected.bound)}% ± {points(corrected.uncertainty)}")
            for reading, corrected in read
        ),
    )


def _keep(wood: WoodAtTheRack, reader: Reader) -> tuple[Keep | Says, ...]:
    asker = reader.asker
    if not asker.is_member:
        return into_a_workshop(reader, "wood")
    if not asker.membership.may_make:
        return ()
    if wood.species is None:
        return (Says("Say its species, and it can be kept as a piece.", Manner.HINT),)
    return (Keep((("Add to stock", reverse("ask_keep_wood", args=[asker.workshop.slug])),), tuple(parse_qsl(reader.typed))),)


def _reads(advised: AtTheRack) -> str:
    wood = advised.estimate
    if wood.bound:
        return f"It reads {bounded(wood.mean, wood.bound)}%"
    return f"It is at {points(wood.mean)} ± {percent(wood.uncertainty, 1)}"


def _reason(question: WoodAtTheRack, advised: AtTheRack) -> str:
    there, wood, days = question.home.named, advised.estimate, advised.days
    reads, within = _reads(advised), f"within {figure(question.use.tolerance)} of {there}"
    if advised.why is Why.WET:
        return f"Some of it is wetter than a meter can tell, over {percent(wood.mean)}: it was never dried, or it got wet again."
    if advised.why is Why.MIXED:
        return f"{reads} on average, and its readings are {distance(wood.reach)} points apart: this pile did not dry together."
    if advised.why is Why.THERE:
        return f"{reads}, and is to be {within}: it is."
    if advised.why is Why.SWINGS:
        return f"{reads}. The year at home swings by more than the tolerance and takes the wood with it; it is soon near {there}."
    if days is None:
        return f"{reads}, and is to come {within}. How long that takes is not known for this wood."
    if advised.why is Why.DRIER:
        return f"{reads}, drier than {there}: it will take up moisture there for {_band(days)}, and swell."
    if advised.why is Why.NOT_AIR_DRY:
        return f"{reads}: that is not air dry yet. To come {within} it needs {_band(days)} in all."
    if advised.why is Why.NEVER:
        return f"{reads}. To come {within} it would need {span(days[1])}."
    tail = f", and you can wait {span(question.patience_days)}" if advised.why is Why.TOO_LONG else ""
    return f"{reads}. On stickers at home it needs {_band(days)} to come {within}{tail}."


def _band(days: tuple[float, float, float]) -> str:
    low, usual, high = days
    if not np.isfinite(usual):
        return f"at least {span(low)}" if np.isfinite(low) else "longer than anyone would wait"
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
    Why.DRIER: "Build so that it can swell, or keep it at home on stickers first. Dry wood in a damp shop gains slowly.",
    Why.IN_TIME: "Stack it at home on stickers, with air all round, and read it again before you cut.",
    Why.WET: "Leave it, unless you mean to dry it yourself: months on stickers in the open, then weeks indoors.",
    Why.MIXED: "If you want some of it, read every board and take only those that agree.",
    Why.NOT_AIR_DRY: (
        "Ask for drier wood. Or stack it under cover on stickers until it reads under 20%: in a heated room it may check now."
    ),
    Why.TOO_LONG: "Ask for drier or thinner wood, or buy it now for a later job.",
    Why.NEVER: "Ask for kiln-dried or thinner wood.",
    Why.SWINGS: "Buy it if it looks right; build so that it may move.",
}
# So many readings, and none of them odd, are enough to pay on.
ENOUGH = 3


def _next(advised: AtTheRack, counted: int) -> str:
    if advised.advice is Advice.TAKE and counted < ENOUGH:
        return f"Read more boards before you pay, away from their ends. {NEXT[advised.why]}"
    return NEXT[advised.why]


def _besides(wood: WoodAtTheRack, advised: AtTheRack, odd: Sequence[int], read: Sequence[tuple[Spoken, Corrected]]) -> list[str]:
    said = []
    for position in odd:
        _, corrected = read[position]
        shown = bounded(corrected.moisture, corrected.bound)
        said.append(f"The {ordinal(position)} reading, {shown}%, doesn’t fit the others and is left out: leave that board where it is.")
    if advised.inside_unknown:
        said.append("It is thick, and was read near its faces only. Have an end cut off and read the fresh cut before you trust this.")
    counted = len(read) - len(odd)
    if counted > 1 and not advised.estimate.bound:
        which = "other " if odd else ""
        said.append(f"The {which}{counted} readings are {distance(advised.estimate.reach)} points apart.")
    if wood.species is None and advised.days is not None and advised.why is not Why.THERE:
        said.append("With no species given, the time is a slow wood’s (white oak), and the band begins with a quick one (white pine).")
    limit = percent(FRAMING.limit)
    said.append(
        f"For framing it is {f'dry enough, under {limit}' if advised.framing else f'not certainly under the {limit} of dry lumber'}."
    )
    return said
