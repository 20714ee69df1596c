"""Cutting a log in words: what comes of it, what a line costs, in which order it is cut."""

from calm_heron.drying.words import span
from calm_heron.questions.presentation import (
    Caution,
    Cell,
    Drawn,
    Folded,
    Heading,
    Lead,
    Manner,
    Part,
    Presentation,
    Row,
    Says,
    Steps,
    Table,
)
from calm_heron.questions.tools import Put, Reader
from calm_heron.site.numbers import counted, percent
from calm_heron.turning.logs.cutting import LogCut, LogToCut
from wood.turning import cuts
from wood.turning.blanks import Blank, Kind, Plan, Shape
from wood.turning.bowls import Rim
from wood.turning.logs import LogEnd, Trunk
from wood.units import System
from wood.written import handled_length

KINDS = {
    Kind.LARGEST: "The largest bowl",
    Kind.MOST: "The most bowls",
    Kind.SAFEST: "The safest, the most wood",
    Kind.BALANCED: "Rings that lie alike",
    Kind.OWN: "Your own lines",
}
# What is to be known of logs that are not round.
OF_A_CROTCH = (
    "A crotch is cut through both its piths first: the feather lies on that face, and the bowl’s rim is cut from it, so that the feather"
    " runs through its foot. Bark often grows in where the limbs meet, and what holds two piths checks soonest: look before each cut."
)
OF_A_BURL = (
    "A burl has no pith and its grain runs every way: it hardly goes oval, it goes lumpy instead, and seldom splits. Flat side down, rim"
    " to the flat; or rim to the bark for a natural edge. Bark pockets hide in it: tap it, and stand aside when it first turns."
)
OFF_CENTRE = (
    "Its pith lies off centre, as where a tree leaned: the wide rings are reaction wood and move more, along the grain as well. Where the"
    " rings are to lie alike on both sides of each bowl, take the plan of that name; the half with the wide rings is the livelier one."
)
THINGS = {
    Shape.BOWL: ("bowl", "bowls"),
    Shape.RIM: ("platter", "platters"),
    Shape.HEMISPHERE: ("hemisphere", "hemispheres"),
    Shape.SPHERE: ("sphere", "spheres"),
    Shape.CYLINDER: ("cylinder", "cylinders"),
}


def _things(shape: Shape, count: int) -> str:
    return f"{count} {THINGS[shape][count != 1]}"


def present(put: Put[LogToCut], cut_log: LogCut, reader: Reader) -> Presentation:
    """What comes of it, the plans side by side, and in which order it is cut."""
    system = reader.system
    figure, beside, reason = answer(cut_log, system)
    said, steps, plans = cost(cut_log, system), order(cut_log, system), rows(cut_log, system)
    parts: list[Part] = [Says(said, Manner.NEXT)] if said else []
    parts.append(Drawn("log"))
    if plans:
        parts.append(Table(plans, ("Best at", "Gives", "Largest", "Nearest check"), "Plans side by side"))
    parts += [Says(item) for item in (lost(cut_log, system), of_its_kind(cut_log), yields(cut_log, system)) if item]
    if steps:
        parts += [
            Heading("In this order"),
            Steps(steps, ordered=True),
            Table(lines(cut_log, system), ("The log", "To take to the saw"), "For the saw"),
        ]
    parts += [Drawn("downhill"), Caution("chainsaw"), Caution("lathe"), Folded("How?", (WORKING,))]
    return Presentation(Lead(figure, beside), reason, parts)


WORKING = (
    "Two lines on either side of the pith are tried at every angle, with slabs of several thicknesses between them; in each half the"
    " largest blank is found that stays a margin clear of every check and of the bark, for many places along the cut and several heights."
    " Checks that end near the end of the log are gone round or cut off, whichever gives more. Bowls within a twenty-fifth of the log’s"
    " width count as equally wide, and then the most wood decides. The safest plan keeps three times the margin. The slab holds the pith"
    " and its tight rings; quartered, it hardly moves. How deep ends have checked is followed along the grain by the moisture field: as"
    " deep as the wood has begun to shrink."
)


def answer(cut_log: LogCut, system: System) -> tuple[str, str, str]:
    """What comes of it, how large, and why so."""
    question, plan = cut_log.question, cut_log.chosen
    if plan is None or not plan.blanks:
        if cut_log.squares:
            return (
                f"{len(cut_log.squares)} squares",
                handled_length(question.side_m or 0.0, system),
                "No bowl worth turning comes past its pith and checks, but spindle stock does.",
            )
        return (
            "Firewood",
            "",
            (f"Nothing of {handled_length(question.wanted.least_m, system)} clears the pith and the checks. Look for squares, or burn it."),
        )
    dangerous = [blank for blank in plan.blanks if blank.is_dangerous]
    if dangerous:
        number = sum(len(blank.crosses) for blank in dangerous)
        return (
            _things(question.wanted.shape, plan.bowls),
            f"to {handled_length(plan.largest_m, system)}",
            f"Dangerous: of this size {number} check{'s run' if number != 1 else ' runs'} through the wood. Smaller, or other lines.",
        )
    sizes = _sizes(plan, system)
    turned = "The pith goes with the slab between" if plan.kind is not Kind.OWN else "Along your lines"
    if question.log.trunk is Trunk.BURL:
        turned = "Their rims lie on its flat" if plan.bowls > 1 else "Its rim lies on the flat"
    clear = f", every check {handled_length(min(plan.clear_m, 0.5), system)} away or more" if plan.clear_m < 1 else ""
    return _things(question.wanted.shape, plan.bowls), f"to {handled_length(plan.largest_m, system)}", f"{sizes}. {turned}{clear}."


def _sizes(plan: Plan, system: System) -> str:
    """How many of which size; halves that give the same are counted together."""
    counts: dict[str, int] = {}
    for blank in plan.blanks:
        size = f"{handled_length(blank.diameter_m, system)} by {handled_length(blank.height_m, system)}"
        counts[size] = counts.get(size, 0) + blank.count
    said = " and ".join(f"{NUMBERS.get(count, count)} of {size}" for size, count in counts.items())
    return said[0].upper() + said[1:]


NUMBERS = {1: "one", 2: "two", 3: "three", 4: "four", 5: "five", 6: "six"}


def cost(cut_log: LogCut, system: System) -> str:
    """What the lines that somebody drew cost against the best."""
    plan, best = cut_log.chosen, cut_log.best
    if plan is None or best is None or plan.kind is not Kind.OWN or cut_log.question.own is None:
        return ""
    less, fewer = best.largest_m - plan.largest_m, best.bowls - plan.bowls
    volume = 1 - sum(blank.volume_m3 for blank in plan.blanks) / max(sum(blank.volume_m3 for blank in best.blanks), 1e-9)
    parts = []
    if less > 0.0015:
        parts.append(f"{handled_length(less, system)} of the largest bowl")
    elif less < -0.0015:
        return (
            f"Your largest is {handled_length(-less, system)} larger than ours; {percent(abs(volume), 0)}"
            f" {'less' if volume > 0 else 'more'} wood in all."
        )
    if fewer > 0:
        parts.append(f"{counted(fewer, 'bowl')}")
    if not parts:
        return (
            "These lines cost nothing against ours."
            if abs(volume) < 0.02
            else f"These lines give {percent(abs(volume), 0)} {'less' if volume > 0 else 'more'} wood in all."
        )
    return f"These lines cost {' and '.join(parts)} against ours."


def lost(cut_log: LogCut, system: System) -> str:
    """What the ends have lost."""
    question, plan = cut_log.question, cut_log.chosen
    if question.lost_m is None:
        return "How deep its ends have checked can’t be forecast: no figure of this wood is at hand. Cut back until no check shows."
    state = "sealed" if question.sealed else "open"
    said = (
        f"In {span(question.days)} {state} ends check about {handled_length(question.lost_m, system)} deep"
        if question.days
        else "Fresh ends have not checked yet"
    )
    if plan is None:
        return f"{said}."
    off = _ends_off(plan, question.log, system)
    return f"{said}; {off}, {handled_length(plan.usable_m, system)} is left." if plan.cut_off_m > 0.001 else f"{said}."


def of_its_kind(cut_log: LogCut) -> str:
    """What is to be known of a crotch, a burl, or a pith that lies off centre."""
    log = cut_log.question.log
    if log.trunk is Trunk.ROUND:
        return OFF_CENTRE if log.off_centre > cuts.OFF_CENTRE else ""
    return OF_A_CROTCH if log.trunk is Trunk.CROTCH else OF_A_BURL


def yields(cut_log: LogCut, system: System) -> str:
    """What of the log's wood becomes what, by volume, and how many squares are left beside the bowls."""
    plan, log = cut_log.chosen, cut_log.question.log
    if plan is None or not plan.blanks:
        return ""
    bowls, planks, rest = (share / log.volume_m3 for share in plan.volumes_m3)
    parts = [f"{percent(bowls, 0)} bowl blanks"]
    if planks > 0.005:
        parts.append(f"{percent(planks, 0)} quartered planks")
    if plan.squares:
        side = handled_length(plan.side_m, system)
        parts.append(f"{percent(rest, 0)} as {counted(len(plan.squares), 'square')} of {side}")
    said = f"{', '.join(parts[:-1])} and {parts[-1]}" if len(parts) > 1 else parts[0]
    return f"Of its wood {said}; {percent(max(1 - bowls - planks - rest, 0.0), 0)} is pith, ends, slabs and chips."


def lines(cut_log: LogCut, system: System) -> list[Row]:
    """What one takes to the chainsaw: the log, each line by its distance from the pith and its angle, and the grain of each blank."""
    question, plan = cut_log.question, cut_log.chosen
    assert plan is not None
    log = question.log
    felled = "just felled" if question.days == 0 else f"felled {span(question.days)} ago"
    size = handled_length(log.width_m, system)
    if abs(log.height_m - log.width_m) > 0.003:
        size += f" by {handled_length(log.height_m, system)}"
    rows = [
        Row("The log", (f"{question.species.common_name}, {size}, {handled_length(log.length_m, system)} long, {felled}",)),
        Row("Off its ends", (_ends_off(plan, log, system),)),
    ]
    angle = plan.cuts.angle_deg % 180
    tilt, towards = min(angle, 180 - angle), "right" if angle < 90 else "left"
    way = "level" if tilt < 1 else f"{tilt:.0f}° from level, rising to the {towards}"
    if log.trunk is Trunk.BURL:
        rows.append(Row("The line", ("its flat: the rim lies on it",)))
    else:
        which = "from the line through both piths" if log.trunk is Trunk.CROTCH else "from the pith"
        for name, off in (("Line A", plan.cuts.upper_m), ("Line B", plan.cuts.lower_m)):
            rows.append(Row(name, (f"{handled_length(off, system)} {which}, {way}",)))
    for blank in plan.blanks:
        aside = (
            f", its middle {handled_length(abs(blank.aside_m), system)} {_side(blank, angle)} the pith"
            if abs(blank.aside_m) > 0.003
            else ""
        )
        grain = "grain along the log, across the lathe; " + ("rim to the pith" if blank.rim is Rim.PITH else "rim to the bark")
        size = f"{handled_length(blank.diameter_m, system)} by {handled_length(blank.height_m, system)}"
        rows.append(Row(f"Half {half_name(blank)}", (f"{counted(blank.count, 'blank')} of {size}{aside}; {grain}",)))
    return rows


def _side(blank: Blank, angle: float) -> str:
    """On which side of the pith a blank's middle lies, as one looks at the end with the lines as they are."""
    right = (blank.aside_m > 0) == (angle <= 90)
    return "right of" if right else "left of"


def _ends_off(plan: Plan, log: LogEnd, system: System) -> str:
    if plan.cut_off_m <= 0.001:
        return "nothing"
    if log.both_ends or abs(plan.other_off_m - plan.cut_off_m) < 0.001:
        return f"{handled_length(plan.cut_off_m, system)} off each"
    other = handled_length(plan.other_off_m, system) if plan.other_off_m > 0.001 else "nothing"
    return f"{handled_length(plan.cut_off_m, system)} off the checked one, {other} off the other"


def half_name(blank: Blank) -> str:
    """What the drawing and the steps call a half."""
    return "A" if blank.upper else "B"


def _lengths(plan: Plan, blank: Blank, system: System) -> str:
    return f"{blank.count} lengths of {handled_length(plan.usable_m / blank.count, system)}"


def _half(plan: Plan, blank: Blank, system: System, *, crosscut: bool) -> str:
    """What is made of a half."""
    face = "rim on the cut" if blank.rim is Rim.PITH else "foot on the cut and rim at the bark"
    into = f"crosscut it into {_lengths(plan, blank, system)}, then " if crosscut else ""
    size = handled_length(blank.diameter_m, system)
    aside = f", their middle {handled_length(abs(blank.aside_m), system)} beside the pith" if abs(blank.aside_m) > 0.003 else ""
    cored = (
        f" Cored, each gives bowls of {' and '.join(handled_length(core, system) for core in blank.cores)} besides." if blank.cores else ""
    )
    return f"Half {half_name(blank)}: {into}round blanks of {size}, {face}{aside}.{cored}"


def order(cut_log: LogCut, system: System) -> list[str]:
    """In which order it is cut."""
    plan = cut_log.chosen
    if plan is None or not plan.blanks:
        return []
    steps = []
    if plan.cut_off_m > 0.001:
        off = _ends_off(plan, cut_log.question.log, system)
        steps.append(f"Cut the ends back, {off}, and look: a check that goes on is drawn in, and everything asked again.")
    counts = {blank.count for blank in plan.blanks}
    together = len(plan.blanks) == 2 and len(counts) == 1 and max(counts) > 1
    if together:
        steps.append(f"Crosscut it into {_lengths(plan, plan.blanks[0], system)}.")
    if cut_log.question.log.trunk is Trunk.BURL:
        steps.append(
            "Lay it on its flat, find the middle of the flat, and round the blank about it: bandsaw, or corners off with the chainsaw."
        )
        steps += [_half(plan, blank, system, crosscut=blank.count > 1 and not together) for blank in plan.blanks]
        return [*steps, "Seal it all over within the hour: a burl checks from every side."]
    steps.append(
        f"Chalk the two lines on both ends, {handled_length(plan.cuts.slab_m, system)} apart, the pith between them; turn the log so that"
        " they stand upright."
    )
    steps.append("First cut: the line through or beside the worst split, along the grain from end to end. Then the other.")
    if plan.planks:
        widths = " and ".join(handled_length(plank.width_m, system) for plank in plan.planks)
        steps.append(
            f"Rip the pith out of the slab: quartered planks of {widths}, the quiet pieces, for platters and for what must stay flat."
        )
    steps += [_half(plan, blank, system, crosscut=blank.count > 1 and not together) for blank in plan.blanks]
    steps.append("Seal the end grain within the hour, and keep the blanks wet or rough-turn them the same day.")
    return steps


def rows(cut_log: LogCut, system: System) -> list[Row]:
    """The plans: what each is best at, how many, the largest, and how far from checks."""
    looked_at = cut_log.chosen and cut_log.chosen.kind
    return [
        Row(
            Cell(KINDS[plan.kind], chooses=("plan", plan.kind.value)),
            (
                _things(cut_log.question.wanted.shape, plan.bowls),
                handled_length(plan.largest_m, system),
                handled_length(plan.clear_m, system) if plan.clear_m < 1 else "none near",
            ),
            plan.kind == looked_at,
        )
        for plan in cut_log.plans
    ]
