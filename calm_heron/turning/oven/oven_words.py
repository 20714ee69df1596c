"""A microwave session in words, and drawn."""

from dataclasses import dataclass
from typing import Any

from calm_heron.drying.words import span
from calm_heron.site.drawing import Scale, path
from calm_heron.site.numbers import counted, percent
from calm_heron.turning.kinds import FeltKind
from calm_heron.turning.models import OvenSession
from wood.turning.microwave import Next, Session, Step, Why
from wood.units import System
from wood.written import weighed_mass

WHY = {
    Why.FIRST: "A first heat only warms it through.",
    Why.SAME: "The last one was about right.",
    Why.LONGER: "The last one took out little and left it cool: a little longer.",
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
    if step.step is Step.STOP_BELOW:
        return OvenWords(
            "Stop",
            "it is dry enough",
            f"It weighs {weighed_mass(session.now_kg, system)}, less than the {rest} its room will bring it to: heat from here on chars.",
            "Let it come up to its room, and weigh it there until it stands still.",
        )
    wait = (
        f"then let it rest {span(step.rest_minutes / 1440) if step.rest_minutes > 1440 else f'{step.rest_minutes:.0f} minutes'}, weigh it"
    )
    reason = WHY[step.why]
    if step.step is Step.COOL_DOWN:
        reason = "It steamed: steam inside bursts wood. Let it grow quite cold first. " + reason
    left = f"About {counted(step.heats_left, 'more heat')}" if step.heats_left else "Nearly there"
    ahead = (
        f"{left}, some {span(step.days_left)} of them, until it weighs about {rest}."
        if step.heats_left
        else f"{left}: at rest about {rest}."
    )
    return OvenWords(clock(step.seconds), f"at {percent(step.level, 0)}, {wait}", reason, ahead)


def rows(session: OvenSession, system: System) -> list[tuple[Any, ...]]:
    """The heats so far, newest first: number, how long, at what, weight, loss, how it felt."""
    made, before = [], session.first_kg
    for number, heat in enumerate(session.heats.order_by("at", "pk"), 1):
        made.append(
            (
                number,
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
        f"{weighed_mass(session.rest_kg, system)} at rest",
        f"{len(session.heats)} heats, from {weighed_mass(masses[0], system)} to {weighed_mass(masses[-1], system)}.",
    )
