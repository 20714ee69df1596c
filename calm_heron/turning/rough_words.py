"""Roughing a bowl in words."""

import math

from calm_heron.drying.words import span
from calm_heron.site.numbers import percent
from calm_heron.turning.kinds import WayKind
from calm_heron.turning.roughing import Roughed
from wood.turning.drying import Course, Way
from wood.turning.microwave import Session, next_step
from wood.turning.walls import School
from wood.units import System
from wood.written import handled_length, said_length, weighed_mass

SCHOOLS = {
    School.TENTH: "a tenth of the diameter",
    School.LIVELY: "a tenth, as lively as the wood is",
    School.INCH: "an inch, whatever the bowl",
}
# From these figures on cracks are possible, and likely.
POSSIBLE, LIKELY = 0.5, 1.0


def asked_of(crack: float | None) -> str:
    """How likely cracks are.

    >>> asked_of(0.2), asked_of(1.3)
    ('seldom', 'likely')
    """
    if crack is None:
        return "not known"
    return "likely" if crack >= LIKELY else "possible" if crack >= POSSIBLE else "seldom"


def answer(found: Roughed, system: System) -> tuple[str, str, str]:
    """The wall, what it is of, and why in a sentence."""
    asked, wall = found.asked, found.walls
    name, way = asked.species.spoken_name, WayKind(asked.way.value).label
    end = said_length(asked.end_wall_m, system)
    figure = handled_length(found.bowl.wall_m, system)
    if not math.isfinite(wall.true_m):
        return (
            figure,
            "of wall",
            f"No wall of this bowl leaves {end} when its oval is turned true. Make the bowl wider or the finished wall thinner.",
        )
    low = f"{handled_length(wall.true_m, system)} is the least that can be turned true to {end}"
    if found.is_own_wall:
        left = found.fits.thinnest_m
        if left < asked.end_wall_m:
            return (
                figure,
                "of wall",
                f"Too thin: turned true, only {said_length(max(left, 0.0), system)} is left of it, and {end} is wanted. {low.capitalize()}.",
            )
        return (
            figure,
            "of wall",
            f"Turned true, {said_length(left, system)} is left at its thinnest. {low.capitalize()}; ours would be {handled_length(wall.chosen_m, system)}.",
        )
    if wall.crack_m is None:
        return figure, "of wall", f"{low}. How thick it may be before it cracks is not known: no figure of {name} tells."
    if wall.crack_m == 0:
        return (
            figure,
            "of wall",
            f"{low}. Green {name} {way}, in {asked.place}, is asked too much at any such wall: dry it more gently (below).",
        )
    if not math.isfinite(wall.crack_m):
        return figure, "of wall", f"{low}; dried {way}, even a thick wall of {name} is not asked too much. The rest is patience."
    if not wall.between:
        return (
            figure,
            "of wall",
            f"{low}, and from {handled_length(wall.crack_m, system)} on it is likely to crack {way}: dry it more gently (below).",
        )
    return figure, "of wall", f"{low}, and {handled_length(wall.crack_m, system)} the most before green {name} is likely to crack {way}."


def shape(found: Roughed, system: System) -> str:
    """What the bowl becomes."""
    shown, asked = found.oval, found.asked
    rise = abs(shown.rise_m)
    ends = "higher" if shown.rise_m > 0 else "lower"
    said = (
        f"It dries to {handled_length(shown.along_m, system)} with the grain and {handled_length(shown.across_m, system)} across it, "
        f"{handled_length(shown.out_of_round_m, system)} out of round"
    )
    if rise >= 0.0008:
        said += f"; the ends of the grain then stand {handled_length(rise, system)} {ends} than the sides"
    fits = found.fits
    if fits.thinnest_m >= asked.end_wall_m:
        return f"{said}. The largest round bowl in it is {handled_length(fits.diameter_m, system)} across and {handled_length(fits.height_m, system)} high."
    return f"{said}. No round bowl with a wall of {said_length(asked.end_wall_m, system)} is left in it."


def tenon(found: Roughed, system: System) -> str:
    """What to allow on the tenon."""
    return f"Leave the tenon {handled_length(found.walls.tenon_m, system)} wider than the jaws want: it goes oval, too, and is turned round first."


def once(found: Roughed, system: System) -> str:
    """The other school: turned thin at once."""
    shown = found.once
    return (
        f"Turned at once to {said_length(found.asked.end_wall_m, system)} it is left as it goes: {handled_length(shown.along_m, system)} by "
        f"{handled_length(shown.across_m, system)} at the rim, its shape set in {span(found.once_course.rest_day)}. Cracks are {asked_of(found.once_course.crack)} "
        f"{WayKind(found.asked.way.value).label}. The oval is then a feature, and nothing is turned true."
    )


# What each way is, where a sentence helps.
NOTES = {
    Way.SHELF: "",
    Way.ENDS_SEALED: "Seal within the hour of turning; the wax slows the ends of the grain only.",
    Way.PAPER_BAG: "Kraft paper, closed; look for mould in the first weeks and change a wet bag.",
    Way.SHAVINGS: "Its own shavings in a box: turn them over so that they do not mould.",
    Way.ALL_SEALED: "For blanks and for waiting; it takes long and may stain.",
    Way.WARM_BOX: "Only once it has lost its free water: green wood is asked too much by the heat.",
}


def ways(found: Roughed) -> list[tuple[Way, str, str, str, Course, str]]:
    """The ways side by side: name, how long, how likely cracks are, the course and a remark."""
    return [(way, WayKind(way.value).label, span(one.rest_day), asked_of(one.crack), one, NOTES[way]) for way, one in found.courses.items()]


# What an old oven of usual size is, and the heaviest bowl that one takes.
OVEN_W, OVEN_KG = 800.0, 1.6


def microwave(found: Roughed, system: System) -> tuple[str, str]:
    """The same bowl in a microwave: how long, by the heat that its water needs, and a remark."""
    asked = found.asked
    dry = asked.figures.wood.density * found.bowl.volume_m3
    first, rest = dry * (1 + asked.start), dry * (1 + found.final)
    if first > OVEN_KG or rest >= first:
        return "–", f"Too heavy for an oven: {weighed_mass(first, system)}." if first > OVEN_KG else "It is as dry as its room already."
    step = next_step(Session(OVEN_W, first, dry, rest, min(max(found.bowl.wall_m, 0.002), 0.06)))
    days = span(max(step.days_left, 0.5)) if step.days_left >= 1 else "a day"
    return days, f"About {step.heats_left} short heats with long rests between; a scale tells when to stop. The oval is the same."


def lost(found: Roughed) -> str:
    """How much of its weight goes."""
    return f"About {percent(found.course.lost)} of its weight goes as water: from {percent(found.asked.start)} to {percent(found.final)}."


def schools(found: Roughed, system: System) -> list[tuple[str, str]]:
    """What the schools say."""
    return [(SCHOOLS[school], handled_length(wall, system)) for school, wall in found.walls.rules.items()]
