"""A microwave session in words, and drawn."""

import math
from dataclasses import dataclass
from typing import Any

from calm_heron.drying.words import span
from calm_heron.site.drawing import Scale, path
from calm_heron.site.numbers import counted, percent
from calm_heron.turning.kinds import FeltKind
from calm_heron.turning.models import OvenSession
from wood.turning import microwave
from wood.turning.microwave import Next, Session, Step, TooMuch, Why
from wood.units import System
from wood.written import handled_length, weighed_mass

WHY = {
    Why.FIRST: "It warms the whole wall a little; most of the water leaves while it rests, still warm.",
    Why.SAME: "The last one was about right.",
    Why.LONGER: "The last one took out little or left it cool: a little longer.",
    Why.SHORTER: "It came out hot: shorter, and a longer rest.",
    Why.CAPPED: "Longer would overheat what water is left in it.",
}


def clock(seconds: float) -> str:
    """Minutes and seconds.

    >>> clock(95)
    '1:35'
    """
    return f"{int(seconds) // 60}:{int(seconds) % 60:02d}"


@dataclass(frozen=True)
class OvenWords:
    """What to do next: the large answer, what is beside it, why, and what is to come."""

    figure: str
    beside: str
    reason: str
    ahead: str


def describe(session: Session, step: Next, system: System) -> OvenWords:
    """What to do next."""
    rest = weighed_mass(session.rest_kg, system)
    if step.step is Step.STOP_FLAT:
        return OvenWords(
            "Stop",
            "it is flat",
            "Three heats took out nothing: what can leave has left. It is drier than its room now and will take some up again.",
            f"In its room it should come to about {rest}.",
        )
    if step.step is Step.STOP_THERE:
        now = weighed_mass(session.now_kg, system)
        return OvenWords(
            "Stop",
            "it is dry enough",
            f"It weighs {now}, and its room brings it to {rest}: heat from here on only takes out what comes back, and chars.",
            "Let it lie in its room a week or two, and weigh it there until it stands still.",
        )
    wait = (
        f"then let it rest {span(step.rest_minutes / 1440) if step.rest_minutes > 1440 else f'{step.rest_minutes:.0f} minutes'} or more,"
        " weigh it"
    )
    reason = WHY[step.why]
    if step.step is Step.COOL_DOWN:
        reason = "It steamed: steam inside bursts wood. Let it go completely cold first. " + reason
    left = f"About {counted(step.heats_left, 'more heat')}" if step.heats_left else "Nearly there"
    ahead = (
        f"{left}, an hour apart, over {span(math.ceil(step.days_left))}, until it weighs about {rest}."
        if step.heats_left > 1
        else f"{left}: settled about {rest}."
    )
    return OvenWords(clock(step.seconds), f"at {'full power' if step.level >= 1 else percent(step.level, 0)}, {wait}", reason, ahead)


def coming(session: Session, diameter_m: float, oven_m: float, system: System) -> tuple[str, str, str]:
    """What a session that is not begun would be: the large answer, what is beside it, and why."""
    rest, now = weighed_mass(session.rest_kg, system), weighed_mass(session.now_kg, system)
    if session.now_kg <= session.rest_kg * 1.005:
        return "No need", "it is dry enough", f"It weighs {now}, and its room brings it to {rest}."
    if (too_much := microwave.too_much(session, diameter_m, oven_m)) is not None:
        return "No", "not in a microwave", why_not(too_much, session, diameter_m, system)[0]
    plan = microwave.plan(session)
    return (
        f"About {counted(plan.heats, 'heat')}",
        f"over {span(math.ceil(plan.days))}",
        f"From {now} to the {rest} its room would bring it to: heats of about {5 * round(plan.seconds / 5):.0f} seconds in a usual oven of"
        f" {session.watts:.0f} W, an hour apart. It goes as oval as on a shelf, only sooner.",
    )


def why_not(too_much: TooMuch, session: Session, diameter_m: float, system: System) -> tuple[str, str]:
    """Why a microwave is no way to dry a bowl, and the field that this is about."""
    if too_much is TooMuch.WIDE:
        return f"It is {handled_length(diameter_m, system)} across and does not turn in the oven.", "oven_m"
    if too_much is TooMuch.THICK:
        return (
            f"Its wall of {handled_length(session.wall_m, system)} is too thick: steam does not find its way out before it bursts the wood."
            " Turn it thinner, or leave it on its shelf.",
            "",
        )
    if too_much is TooMuch.HEAVY:
        return f"{weighed_mass(session.now_kg, system)} is no load for an oven. Leave it on its shelf.", "mass_kg"
    plan = microwave.plan(session)
    heats = f"more than {microwave.MOST_HEATS}" if plan.heats >= microwave.MOST_HEATS else f"some {plan.heats}"
    return (
        f"With this oven and setting that would be {heats} heats over {span(plan.days)}. Take a higher setting, or leave it on its shelf.",
        "level",
    )


def rows(session: OvenSession, system: System) -> list[tuple[Any, ...]]:
    """The heats so far, newest first: number, when it was weighed, how long, at what, weight, loss, how it felt."""
    made, before = [], session.first_kg
    for number, heat in enumerate(session.heats.order_by("at", "pk"), 1):
        made.append(
            (
                number,
                heat.at,
                clock(heat.seconds),
                percent(heat.level, 0),
                weighed_mass(heat.mass_kg, system),
                weighed_mass(max(before - heat.mass_kg, 0.0), system),
                FeltKind(heat.felt).label,
            )
        )
        before = heat.mass_kg
    return made[::-1]


@dataclass(frozen=True)
class OvenDrawing:
    """A session as steps down to its waterline."""

    width: int
    height: int
    line: str
    dots: list[tuple[float, float]]
    rest: float
    first: str
    last: str
    rest_words: str
    summary: str


WIDTH, HEIGHT = 380, 180


def drawing(session: Session, system: System) -> OvenDrawing:
    """The weight heat by heat; a session is drawn at least ten heats wide, and thirty are seen at a glance."""
    masses = [session.first_kg, *(heat.mass_kg for heat in session.heats)]
    low, high = min(*masses, session.rest_kg) * 0.985, masses[0] * 1.01
    x, y = Scale(0, max(10, len(masses) - 1), 10, WIDTH - 90), Scale(low, high, HEIGHT - 14, 14)
    dots = [(round(x(k), 1), round(y(mass), 1)) for k, mass in enumerate(masses)]
    return OvenDrawing(
        WIDTH,
        HEIGHT,
        path(dots),
        dots,
        round(y(session.rest_kg), 1),
        weighed_mass(masses[0], system),
        weighed_mass(masses[-1], system),
        f"{weighed_mass(session.rest_kg, system)} once settled",
        f"{len(session.heats)} heats, from {weighed_mass(masses[0], system)} to {weighed_mass(masses[-1], system)}.",
    )
