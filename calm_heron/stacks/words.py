"""What is said of a stack."""

from collections.abc import Mapping
from urllib.parse import urlencode

import numpy as np
from django.urls import reverse

from calm_heron.drying.words import span
from calm_heron.questions.presentation import (
    Button,
    Caution,
    Cell,
    Drawn,
    Folded,
    Lead,
    Manner,
    Part,
    Presentation,
    Row,
    Ruled,
    Says,
    Table,
)
from calm_heron.questions.tools import Put, Reader
from calm_heron.site.numbers import counted, percent, points
from calm_heron.stacks.planning import StackPlan, StackToBuild
from calm_heron.stacks.standing import StackNow
from wood.sizes import BOARD_FOOT_M3
from wood.stacks.breaches import FULL_HEIGHT_M, MARK_M, NEXT_M, PLANED_CLEAR_M, Breach, FoundBreach
from wood.stacks.pile import CHIMNEY_M, CLEAR_PACK_M, STEADY
from wood.stacks.stickers import STICKERS_DRY
from wood.units import System, in_system
from wood.written import handled_length, rough_mass, sawn_volume

POUNDS_A_SQUARE_FOOT = 20.885
RULES = {
    "thick_softwood": "softwood two inches and thicker: up to four feet apart, closer while it is wet",
    "softwood": "softwood of about an inch: two feet, closer while it is wet",
    "thin": "thin boards: eight to twelve inches",
    "under_four_quarter": "hardwood under 4/4: twelve inches",
    "warps": "a wood that warps: twelve to sixteen inches, eighteen at the most",
    "four_and_five_quarter": "hardwood 4/4 and 5/4: twelve to sixteen inches",
    "six_quarter": "hardwood 6/4: sixteen to twenty-four inches, closer while it is wet",
    "eight_quarter": "hardwood 8/4 and thicker: two feet",
}
OTHERWISE = {
    "twice_as_wide": "twice as wide",
    "thicker_stickers": "on stickers {6 mm|1/4 in} thicker",
    "thinner_stickers": "on stickers {6 mm|1/4 in} thinner",
    "turned_across": "with the wind through its stickers",
}


def breach(search: FoundBreach, system: System) -> str:
    """A broken rule and what comes of it."""
    size = {
        "clear": handled_length(CLEAR_PACK_M, system),
        "chimney": handled_length(CHIMNEY_M, system),
        "next": handled_length(NEXT_M, system),
        "dry": percent(STICKERS_DRY),
        "full": handled_length(FULL_HEIGHT_M, system),
        "mark": handled_length(MARK_M, system),
        "clear_of": handled_length(PLANED_CLEAR_M, system),
    }
    return {
        Breach.TOO_FAR_APART: "The stickers lie farther apart than practice has them: boards sag between them and keep the bend.",
        Breach.ENDS_HANG_OVER: "Ends hang over the last stickers: they dry first, warp and check. Put a sticker within an inch of them.",
        Breach.NOT_OVER_A_BEARER: (
            f"{len(search.places_m)} lines of stickers stand over no bearer (marked): every course above bends there. Put a bearer under"
            " each."
        ),
        Breach.STICKERS_WET: f"The stickers are over {size['dry']}: they leave wet stripes that dry late and may mould. Dry them first.",
        Breach.STICKER_STAIN: (
            f"The stickers are over {size['dry']} under a pale wood: each leaves a grey mark, often deeper than planing takes off. "
            "Dry them first, and take narrow or grooved ones of a wood that does not stain."
        ),
        Breach.STICKERS_THIN: (
            f"Under wet pale wood stickers are {size['full']} high at least: thinner ones slow the air, and it stains grey. Take dry,"
            " narrow ones of full height."
        ),
        Breach.DARK_STICKERS: (
            f"Stickers of oak or another dark wood mark pale wood {size['mark']} deep: boards over {size['clear_of']} are planed clear of"
            " it, thinner ones keep it. Take stickers of the wood itself."
        ),
        Breach.STICKERS_TOO_THICK: (
            "The stickers are twice as thick as the boards and more: the stack is mostly air, tips easily, and dries its skins hard."
        ),
        Breach.TOO_LOW: f"Less than {size['clear']} of air beneath: the lowest courses stay damp and stain. Raise the bearers.",
        Breach.NOT_STEADY: f"Higher than {STEADY:g} times its width: it may fall. Build two, or make it wider.",
        Breach.NO_ROOF: (
            "Nothing keeps rain and sun off: the upper courses are wetted and dried over and over, and check. Put a roof on it that reaches"
            " over."
        ),
        Breach.CLOSE_TO_NEXT: (
            f"Less than {size['next']} to the next stack or wall: hardly any wind comes between, and the damp stays. Leave {size['next']}"
            " and more."
        ),
        Breach.UNSHADED: (
            "The sun is on wet oak in the warm months: its faces and ends check. Hang shade cloth on its sides, or stand it where a"
            " building shades it."
        ),
        Breach.MIXED_SPECIES: "Two woods in one stack dry at two paces: the quick one waits, or is pulled from under the slow one.",
        Breach.CHIMNEY: f"A pile this wide needs a chimney of {size['chimney']} and more up its middle.",
    }[search.breach]


def present(put: Put[StackToBuild], plan: StackPlan, reader: Reader) -> Presentation:
    """How many courses on how many stickers, which rules it breaks, how long it takes, what it needs, and why."""
    system, question = reader.system, plan.question
    figure, beside, reason = answer(plan, system)
    days = time(plan, put.tells["place"])
    parts: list[Part] = [Says(breach(each_breach, system), Manner.BREACH, first="✕") for each_breach in plan.breaches]
    parts += [Drawn("stack"), *([Says(days, Manner.REASON)] if days else []), counts(plan, system, put.tells["grades"])]
    member = reader.asker.membership
    if put.tells["tags"] and member.may_make:
        build = reverse("build_stack", args=[reader.asker.workshop.slug])
        parts.append(Button("Save as built", f"{build}?{urlencode({'lots': ', '.join(put.tells['tags'])})}"))
    parts += [
        Caution("stack"),
        Says(cover(question), Manner.HINT),
        Folded("How?", working(plan, system)),
        Ruled("Day, Course, Found, By", 6),
    ]
    return Presentation(Lead(figure, beside), reason, parts)


def counts(plan: StackPlan, system: System, grades: Mapping[str, tuple[int, float]]) -> Table:
    """What it takes, and what it weighs."""
    pile, wide = plan.pile, handled_length(plan.pile.width_m, system)
    sticker = f"{handled_length(pile.stickers.thickness_m, system)} by {handled_length(pile.stickers.width_m, system)}"
    lines = [
        ("Boards", str(pile.boards)),
        ("Wood", sawn_volume(pile.volume_m3, system)),
        *(
            (
                f"of it {grade}" if grade else "of it without a grade",
                f"{counted(count, 'board')}, {sawn_volume(feet * BOARD_FOOT_M3, system)}",
            )
            for grade, (count, feet) in grades.items()
        ),
        (f"Stickers to cut, {sticker}", f"{pile.sticker_count} × {wide}"),
        ("Bearers", f"{len(plan.bearers_m)} × {wide}"),
        *([("Bolsters between packs", f"{pile.bolster_count} × {wide}")] if pile.bolster_count else []),
    ]
    if plan.question.cover in ("roof", "shade"):
        lines.append(("Roof, with its overhang", " × ".join(handled_length(side, system) for side in pile.roof_m)))
    if pile.inner_ends_m:
        places = ", ".join(handled_length(length, system) for length in pile.inner_ends_m)
        lines.append(("A short sticker under inner ends, from the stack’s end", places))
    if pile.mass and pile.bearer_kg is not None:
        lines += [
            ("Dry wood, and the water in it", f"{rough_mass(pile.mass.wood_kg, system)} + {rough_mass(pile.mass.water_kg, system)}"),
            (
                "On the most loaded bearer",
                f"{rough_mass(pile.bearer_kg, system)}, {_pressure(pile.ground_kpa or 0.0, system)} under it",
            ),
        ]
    else:
        lines.append(("Weight", "not known for this wood"))
    lines.append(("Weight on top, against warp (in trials)", rough_mass(pile.top_kg, system)))
    if plan.times:
        lines += [
            (f"At 20%, {in_system(OTHERWISE[way], system)}", f"{days:.0f} days, not {plan.times.mean:.0f}") for way, days in plan.others
        ]
    return Table(
        [Row(name, (Cell(said, is_number=True),)) for name, said in lines], caption="What it takes, and what it weighs", narrow=True
    )


def _pressure(kilopascals: float, system: System) -> str:
    """What presses on the ground."""
    return f"{kilopascals * POUNDS_A_SQUARE_FOOT:,.0f} lb a square foot" if system.is_inch else f"{kilopascals:.0f} kPa"


def working(plan: StackPlan, system: System) -> list[str]:
    """The rules behind it, and how its air is followed."""
    usual = plan.question.usual
    said = [
        f"Spacing by {RULES[usual.rule]}; here {handled_length(usual.closest_m, system)} to {handled_length(usual.farthest_m, system)} is"
        " practice (AH-188, GTR-118, AH-402; medium confidence). The first and last line lie within an inch of the ends, the others evenly"
        f" between; every line stands over a bearer. Air beneath: {handled_length(plan.pile.clear_m, system)}. Roof, packs and bolsters"
        " after AH-402; weight on top is of low confidence."
    ]
    if plan.through:
        said.append(
            "The air: wind, and the weight of air that was cooled, against friction between the boards; on its way it takes up what the"
            " boards give, so the middle dries later than the edges. Lines are darker the moister the air is: they begin at"
            f" {points(plan.through.humidity[0], 0)}% and leave at {points(plan.through.gained, 0)} points more. Wind comes from either"
            " side in turn. Top and bottom of a stack, wet ground and sun are not in the figures. No measured profile across a stack is"
            " known to us: its heart may lag more than is said here, so put a sample board there."
        )
    return said


def answer(planned: StackPlan, system: System) -> tuple[str, str, str]:
    """The answer large, what stands beside it, and a sentence."""
    pile = planned.pile
    courses, lines = len(pile.courses), len(pile.lines_m)
    most = max(course.boards for course in pile.courses)
    over = "" if any(breach.breach is Breach.NOT_OVER_A_BEARER for breach in planned.breaches) else ", each over a bearer"
    packs = f", in {pile.packs} packs with bolsters between" if pile.packs > 1 else ""
    return (
        f"{counted(courses, 'course')}",
        f"of {counted(most, 'board')}",
        (
            f"On {lines} lines of stickers, {handled_length(pile.lines_m[1] - pile.lines_m[0], system)} apart{over}: {pile.sticker_count}"
            f" stickers, {handled_length(pile.stickers.thickness_m, system)} thick and {handled_length(pile.width_m, system)} long{packs}."
            f" It stands {handled_length(pile.height_m + pile.clear_m, system)} high with the air beneath."
        ),
    )


def time(planned: StackPlan, place: str) -> str:
    """How long it takes to air-dry, at the edges and in the heart."""
    times = planned.times
    if times is None:
        return ""
    if not np.isfinite(times.mean):
        return f"In the air of {place} it does not come to 20% within ten years."
    text = f"In the air of {place}, started today, it reaches 20% after about {span(times.mean)}"
    if np.isfinite(times.middle) and np.isfinite(times.edge) and times.middle > 1.05 * times.edge:
        text += f": its edges after {span(times.edge)}, its middle after {span(times.middle)}"
    return text + "."


def cover(planned: StackToBuild) -> str:
    """The two approaches of what to put on top."""
    if planned.cover == "tarp":
        return (
            "A tarpaulin that reaches the ground keeps the rain off and the wet in: hardly any wind gets through. A roof or a lid that"
            " reaches over, open at the sides, keeps the rain off and lets the wind in."
        )
    if planned.cover == "shade":
        return (
            "Shade cloth takes the sun off the sides and about four tenths of the wind (our judgement): it costs some days, and spares oak"
            " its checks. Take it off once the boards are under 30%."
        )
    if planned.cover == "none":
        return (
            "With nothing over it, rain is counted as air that is saturated a quarter of the time: a rough figure of our own. What sun and"
            " rain in turn do to the upper courses is not in it: they check."
        )
    return "A roof that reaches over keeps sun and rain off and lets the wind through; a tarpaulin to the ground keeps the wet in."


def pace(stack: StackNow) -> str:
    """What its own readings have taught of its pace."""
    if stack.progress is None or stack.progress.pace is None:
        return ""
    share = stack.progress.pace
    if 0.9 < share < 1.1:
        return "Its readings say that it dries as usual."
    return f"By its readings it’s drying at {share:.0%} of the usual pace, and the forecast goes by that."
