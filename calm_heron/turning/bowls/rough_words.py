"""Roughing a bowl in words."""

import math

from calm_heron.drying.words import span
from calm_heron.questions.presentation import Caution, Cell, Drawn, Folded, Heading, Lead, Manner, Presentation, Row, Says, Table
from calm_heron.questions.tools import Put, Reader
from calm_heron.site.numbers import percent
from calm_heron.turning.bowls.roughing import BowlToRough, Roughed
from calm_heron.turning.kinds import WayKind
from wood.turning.drying import Way
from wood.turning.microwave import Session, next_step
from wood.turning.walls import WallApproach
from wood.units import System
from wood.written import handled_length, said_length, weighed_mass

APPROACHES = {
    WallApproach.TENTH: "a tenth of the diameter",
    WallApproach.LIVELY: "a tenth, as lively as the wood is",
    WallApproach.INCH: "an inch, whatever the bowl",
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


def present(put: Put[BowlToRough], rough: Roughed, reader: Reader) -> Presentation:
    """The wall, why, what the bowl becomes, the ways of drying it side by side, and the other approaches."""
    system = reader.system
    place, chosen = put.tells["place"], put.question.way
    rows = [
        Row(
            WayKind(way.value).label,
            (span(item.rest_day), Cell(asked_of(item.crack), "" if item.crack is None else f"{item.crack:.1f}"), NOTES[way] or "–"),
            way is chosen,
        )
        for way, item in rough.courses.items()
    ]
    days, remark = microwave(rough, system)
    log = reader.asker.address("log")
    return Presentation(
        Lead(handled_length(rough.bowl.wall_m, system), "of wall"),
        reason(rough, place, system),
        (
            Drawn("wall"),
            Drawn("oval"),
            Says("Dashed as it was turned, filled as it dries, the line the round bowl that is left in it.", Manner.HINT),
            Says(shape(rough, system), Manner.REASON),
            Says(f"{tenon(rough, system)} {lost(rough)}"),
            Table(
                (*rows, Row("in a microwave", (days, "not known", remark))),
                ("It dries", "At rest in", "Cracks are", "Mind"),
                f"In what it dries, in {place}",
            ),
            Heading("The other schools"),
            Says(once(rough, system)),
            Says(
                "Or leave the log whole, its ends sealed, and turn later: it keeps for weeks, not months, and splits to the pith if it"
                " dries in the round.",
                link=log,
                link_words="How long does the log keep?",
            ),
            Caution("lathe"),
            Folded("How?", working(rough), approaches(rough, system)),
        ),
    )


def working(rough: Roughed) -> tuple[str, ...]:
    """The rules behind it, and their sources."""
    figures = rough.question.shrinkage
    return (
        (
            "Too thin to true. Each section across the grain moves about the pith as its rings do; put together they are the dried bowl."
            " The largest round bowl is fitted into it on its best axis, and the wall is the thinnest that leaves what you want, cleaned"
            f" up. Shrinkage: {percent(figures.radial)} along the radius, {percent(figures.tangential)} round the ring, green to ovendry"
            " (Wood Handbook ch. 4)."
        ),
        (
            "Too thick. The wall is run through the moisture field as a slab, the ends of the grain a dozen times quicker, and the pull in"
            " its skin and its daily loss are held against what green boards of the wood bear on their published schedules: 1 is where"
            " cracks begin. A bowl without its pith bends where a board is held flat, so this is on the careful side. The resistance of"
            " paper, shavings and wax is our own judgement."
        ),
        (
            "At rest is when it stays within a hundredth of its weight of what its room brings it to. Boiling a rough bowl for an hour is"
            " said to relieve it and to speed its drying; soaking it in soap or alcohol likewise. Nobody has published figures that we"
            " could check, so nothing is computed of either."
        ),
    )


def reason(rough: Roughed, place: str, system: System) -> str:
    """Why the wall is so thick, in a sentence."""
    question, wall = rough.question, rough.walls
    name, way = question.species.spoken_name, WayKind(question.way.value).label
    end = said_length(question.end_wall_m, system)
    if not math.isfinite(wall.true_m):
        return f"No wall of this bowl leaves {end} when its oval is turned true. Make the bowl wider or the finished wall thinner."
    low = f"{handled_length(wall.true_m, system)} is the least that can be turned true to {end}"
    if rough.is_own_wall:
        left = rough.fits.thinnest_m
        if left < question.end_wall_m:
            return (
                f"Too thin: turned true, only {said_length(max(left, 0.0), system)} is left of it, and {end} is wanted. {low.capitalize()}."
            )
        ours = handled_length(wall.chosen_m, system)
        return f"Turned true, {said_length(left, system)} is left at its thinnest. {low.capitalize()}; ours would be {ours}."
    if wall.crack_m is None:
        return f"{low}. How thick it may be before it cracks is not known: no figure of {name} tells."
    if wall.crack_m == 0:
        return f"{low}. Green {name} {way}, in {place}, is asked too much at any such wall: dry it more gently (below)."
    if not math.isfinite(wall.crack_m):
        return f"{low}; dried {way}, even a thick wall of {name} is not asked too much. The rest is patience."
    most = handled_length(wall.crack_m, system)
    if not wall.between:
        return f"{low}, and from {most} on it is likely to crack {way}: dry it more gently (below)."
    return f"{low}, and {most} the most before green {name} is likely to crack {way}."


def shape(rough: Roughed, system: System) -> str:
    """What the bowl becomes."""
    shown, question = rough.oval, rough.question
    rise = abs(shown.rise_m)
    ends = "higher" if shown.rise_m > 0 else "lower"
    said = (
        f"It dries to {handled_length(shown.along_m, system)} with the grain and {handled_length(shown.across_m, system)} across it, "
        f"{handled_length(shown.out_of_round_m, system)} out of round"
    )
    if rise >= 0.0008:
        said += f"; the ends of the grain then stand {handled_length(rise, system)} {ends} than the sides"
    fits = rough.fits
    if fits.thinnest_m >= question.end_wall_m:
        return (
            f"{said}. The largest round bowl in it is {handled_length(fits.diameter_m, system)} across and"
            f" {handled_length(fits.height_m, system)} high."
        )
    return f"{said}. No round bowl with a wall of {said_length(question.end_wall_m, system)} is left in it."


def tenon(rough: Roughed, system: System) -> str:
    """What to allow on the tenon."""
    return (
        f"Leave the tenon {handled_length(rough.walls.tenon_m, system)} wider than the jaws want: it goes oval, too, and is turned round"
        " first."
    )


def once(rough: Roughed, system: System) -> str:
    """The other approach: turned thin at once."""
    shown = rough.once
    return (
        f"Turned at once to {said_length(rough.question.end_wall_m, system)} it is left as it goes:"
        f" {handled_length(shown.along_m, system)} by"
        f" {handled_length(shown.across_m, system)} at the rim, its shape set in {span(rough.once_course.rest_day)}. Cracks are"
        f" {asked_of(rough.once_course.crack)} {WayKind(rough.question.way.value).label}. The oval is then a feature, and nothing is turned"
        " true."
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


# What an old oven of usual size is, and the heaviest bowl that one takes.
OVEN_W, OVEN_KG = 800.0, 1.6


def microwave(rough: Roughed, system: System) -> tuple[str, str]:
    """The same bowl in a microwave: how long, by the heat that its water needs, and a remark."""
    question = rough.question
    dry = question.figures.wood.density * rough.bowl.volume_m3
    first, rest = dry * (1 + question.start), dry * (1 + rough.final)
    if first > OVEN_KG or rest >= first:
        return "–", f"Too heavy for an oven: {weighed_mass(first, system)}." if first > OVEN_KG else "It is as dry as its room already."
    step = next_step(Session(OVEN_W, first, dry, rest, min(max(rough.bowl.wall_m, 0.002), 0.06)))
    days = span(max(step.days_left, 0.5)) if step.days_left >= 1 else "a day"
    return days, f"About {step.heats_left} short heats with long rests between; a scale tells when to stop. The oval is the same."


def lost(rough: Roughed) -> str:
    """How much of its weight goes."""
    return (
        f"About {percent(rough.course.lost)} of its weight goes as water: from {percent(rough.question.start)} to {percent(rough.final)}."
    )


def approaches(rough: Roughed, system: System) -> list[tuple[str, str]]:
    """What the approaches say."""
    return [(APPROACHES[approach], handled_length(wall, system)) for approach, wall in rough.walls.rules.items()]
