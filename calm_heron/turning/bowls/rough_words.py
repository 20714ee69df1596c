"""Roughing a bowl in words."""

import math

from calm_heron.drying.words import span
from calm_heron.questions.presentation import Caution, Drawn, Folded, Heading, Lead, Manner, Presentation, Row, Says, Table
from calm_heron.questions.tools import Put, Reader
from calm_heron.site.numbers import percent
from calm_heron.turning.bowls.roughing import BowlToRough, Roughed
from calm_heron.turning.kinds import WayKind
from calm_heron.turning.oven.oven_words import why_not
from wood.turning import microwave as oven
from wood.turning.cracking import LIMIT, grade, known_to_check
from wood.turning.drying import Way
from wood.turning.walls import WallApproach
from wood.units import System
from wood.written import handled_length, said_length, weighed_mass

APPROACHES = {
    WallApproach.TENTH: "a tenth of the diameter",
    WallApproach.LIVELY: "a tenth, as lively as the wood is",
    WallApproach.INCH: "an inch, whatever the bowl",
}


def asked_of(crack: float | None) -> str:
    """How high the risk of cracks is, in a word or two.

    >>> asked_of(0.2), asked_of(1.3)
    ('little', 'high')
    """
    return "not known" if crack is None else grade(crack).value


def present(put: Put[BowlToRough], rough: Roughed, reader: Reader) -> Presentation:
    """The wall, why, what the bowl becomes, the ways of drying it side by side, and the other approaches."""
    system = reader.system
    place, chosen = put.tells["place"], put.question.way
    rows = [
        Row(
            WayKind(way.value).label,
            (span(item.rest_day), asked_of(item.crack), NOTES[way] or "–"),
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
            *([Says(parts_of_the_least(rough, system), Manner.HINT)] if math.isfinite(rough.walls.true_m) else []),
            Drawn("oval"),
            Says("Dashed as it was turned, filled as it dries, the line the round bowl that is left in it.", Manner.HINT),
            Says(shape(rough, system), Manner.REASON),
            Says(f"{tenon(rough, system)} {lost(rough)}"),
            *([Says(put.tells["learnt"])] if put.tells.get("learnt") else []),
            Table(
                (*rows, Row("in a microwave", (days, "not known", remark))),
                ("It dries", "Settled in", "Risk of cracks", "Mind"),
                f"Ways to dry it, in {place}",
            ),
            Heading("Other approaches"),
            Says(once(rough, system)),
            Says(
                "Or leave the log whole, its ends sealed, and turn later: it keeps for weeks, not months, and splits to the pith if it"
                " dries in the round.",
                link=log,
                link_words="How long will the log keep?",
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
            " The least wall is the finished one, half of what the oval’s two diameters differ by, the rim’s rise, and what centring and a"
            " clean cut take; never less than the largest round bowl that fits would need."
            f" Shrinkage: {percent(figures.radial)} along the radius, {percent(figures.tangential)} round the ring, green to ovendry"
            " (Wood Handbook ch. 4)."
        ),
        (
            "Too thick. The wall is run through the moisture field part by part, the ends of the grain a dozen times quicker. Where the "
            "shell wants to shrink and the bowl does not yet let it, it pulls; some of that fades as wood gives way, some stays as long "
            "as"
            " it is wet within. A pull opens a crack the sooner the thicker the wall, and in end grain sooner than in side grain; wax on"
            " the end grain takes nine tenths of it off there."
            f"{_known(rough)} From where the risk is high on, we call the wall too thick. It is a risk in words and no chance: nobody has"
            " published how many bowls crack, and yours will come to count. What paper, cardboard, shavings and wax hold back is our own"
            " judgement."
        ),
        ("It has settled when it stays within 1% of the weight its room brings it to."),
        (
            "Boiling a rough bowl for an hour or two, soaking it in dish soap, soaking it in alcohol: three approaches, and nothing is"
            " computed of them. Shown in print: steaming green hardwood speeds up its drying by some tenth to quarter (Dry Kiln"
            " Operator’s Manual); that it saves a bowl from cracks is told at benches and not measured. Soap makes wood pleasanter to"
            " cut and sand; no test shows that it dries otherwise. Alcohol takes the place of some water and leaves sooner; weighed"
            " side by side with bowls left as they were, nobody has shown fewer cracks. What is shown to help is polyethylene glycol,"
            " soaked in for weeks while green (Forest Products Laboratory): it keeps the wood swollen, and hinders glue and finish."
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
        asked = "" if rough.course.crack is None else f" Of this wall the risk of cracks {way} is {risk(rough)}."
        return f"Turned true, {said_length(left, system)} is left at its thinnest.{asked} {low.capitalize()}; ours would be {ours}."
    if wall.crack_m is None:
        return f"{low}. How thick it may be before it cracks is not known: no figure of {name} tells."
    if wall.crack_m < wall.true_m:
        return f"That is the least that can be turned true to {end}, and {way} its risk of cracks is {risk(rough)}. {gentler(rough)}"
    if not math.isfinite(wall.crack_m):
        return f"{low}. Dried {way}, no wall of this bowl is at a high risk of cracks; a thicker one only takes longer."
    most = handled_length(wall.crack_m, system)
    return f"{low}, and {most} the most: from there on green {name} {way} is at a high risk of cracks."


def risk(rough: Roughed) -> str:
    """The risk of the chosen way."""
    return asked_of(rough.course.crack)


def gentler(rough: Roughed) -> str:
    """The quickest way of drying that is at no high risk; what to do where there is none."""
    fit = [
        (item.rest_day, way)
        for way, item in rough.courses.items()
        if way is not Way.ALL_SEALED and item.crack is not None and item.crack < LIMIT
    ]
    if not fit:
        return "So it is in every way we know: leave the log sealed, or take a smaller bowl from it."
    day, way = min(fit)
    words = asked_of(rough.courses[way].crack)
    said = WayKind(way.value).label
    return f"{said[0].upper()}{said[1:]} there is {words} risk, over {span(day)}."


def parts_of_the_least(rough: Roughed, system: System) -> str:
    """The least wall as the sum it is."""
    item = rough.walls.least
    said = (
        f"{handled_length(item.total_m, system)} at the least: {said_length(item.end_wall_m, system)} of finished wall, "
        f"{handled_length(item.half_oval_m, system)} for the oval (half of what its diameters will differ by), "
    )
    if item.rise_m >= 0.0004:
        said += f"{handled_length(item.rise_m, system)} for the rim’s rise, "
    return f"{said}and {handled_length(item.centring_m, system)} to centre it and clean it up."


def _known(rough: Roughed) -> str:
    """What turners know of the wood, where it counts."""
    words = known_to_check(rough.question.species)
    return f" This wood bears less than its figures tell: {words}." if words else ""


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
        f"Leave the tenon {handled_length(rough.walls.tenon_m, system)} wider than the jaws need: it goes oval, too, and is turned round"
        " first."
    )


def once(rough: Roughed, system: System) -> str:
    """The other approach: turned thin at once."""
    shown, way = rough.once, WayKind(rough.question.way.value).label
    return (
        f"Turned at once to {said_length(rough.question.end_wall_m, system)} it is left as it goes:"
        f" {handled_length(shown.along_m, system)} by {handled_length(shown.across_m, system)} at the rim, its shape set in"
        f" {span(rough.once_course.rest_day)}. The risk of cracks is {asked_of(rough.once_course.crack)} {way}. The oval is then a feature,"
        " and nothing is turned true."
    )


# What each way is, where a sentence helps.
NOTES = {
    Way.SHELF: "",
    Way.ENDS_SEALED: "Seal within the hour of turning; the wax slows the ends of the grain only.",
    Way.BAG_ENDS_SEALED: "Wax the end grain first, then bag it as above.",
    Way.CARTON: "Room for air between the bowls; open it now and then in the first weeks and look for mould.",
    Way.PAPER_BAG: "Kraft paper, closed; look for mould in the first weeks and change a wet bag.",
    Way.SHAVINGS: "Its own shavings in a box: turn them over so that they do not mould.",
    Way.ALL_SEALED: "For blanks and for waiting; it takes long and may stain.",
    Way.WARM_BOX: "Only once it has lost its free water: green wood is likely to crack in the heat.",
}


OVEN_W = 800.0


def microwave(rough: Roughed, system: System) -> tuple[str, str]:
    """The same bowl in a microwave of usual size: how long, as a session would be planned, and a remark."""
    question = rough.question
    dry = question.figures.wood.density * rough.bowl.volume_m3
    first, rest = dry * (1 + question.start), dry * (1 + rough.final)
    if rest >= first:
        return "–", "It is as dry as its room already."
    if first > oven.HEAVIEST_KG:
        return "–", f"Too heavy for an oven: {weighed_mass(first, system)}."
    shelf = oven.shelf_of(rough.courses[Way.SHELF], question.series)
    session = oven.Session(OVEN_W, first, dry, rest, min(max(rough.bowl.wall_m, 0.002), 0.06), shelf=shelf)
    if (too_much := oven.too_much(session, rough.bowl.diameter_m)) is not None:
        return "–", why_not(too_much, session, rough.bowl.diameter_m, system)[0]
    plan = oven.plan(session)
    return (
        span(math.ceil(plan.days)),
        f"About {plan.heats} heats of {5 * round(plan.seconds / 5):.0f} seconds, an hour apart; a scale tells when to stop. The oval is the"
        " same.",
    )


def lost(rough: Roughed) -> str:
    """How much of its weight goes."""
    return (
        f"About {percent(rough.course.lost)} of its weight goes as water: from {percent(rough.question.start)} to {percent(rough.final)}."
    )


def approaches(rough: Roughed, system: System) -> list[tuple[str, str]]:
    """What the approaches say."""
    return [(APPROACHES[approach], handled_length(wall, system)) for approach, wall in rough.walls.rules.items()]
