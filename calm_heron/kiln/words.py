"""What is said of loads."""

import numpy as np

from calm_heron.drying import methods
from calm_heron.drying import words as drying
from calm_heron.kiln.planning import LoadPlan, LoadToRun
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
    Risk,
    Row,
    Says,
    Table,
)
from calm_heron.questions.tools import Put, Reader
from calm_heron.site.dates import full_day
from calm_heron.site.numbers import counted, percent, points
from wood.drying.defects import Defect, RiskLevel
from wood.kiln.chambers import DOUBTED_BELOW, Kind
from wood.kiln.loads import Ran
from wood.kiln.plans import Planned
from wood.kiln.programs import Phase
from wood.kiln.sharing import Together, Verdict
from wood.kiln.stress import Prongs
from wood.species import Species, species_named
from wood.stacks import stickers
from wood.units import POUND_KG, System, in_system
from wood.written import written_temperature

GALLON_L = 3.785
PHASES = {
    Phase.WARMING: "warmed",
    Phase.DRYING: "dried",
    Phase.EQUALISING: "evened out",
    Phase.CONDITIONING: "conditioned",
    Phase.MOISTENING: "moistened",
}
VERDICTS = {Verdict.TOGETHER: "They go together", Verdict.AT_A_PRICE: "Together at a price", Verdict.APART: "Apart"}
PRONGS = {
    Prongs.STRAIGHT: ("They stand straight", "Free of stress: saw and plane as you like."),
    Prongs.IN: (
        "They lean in",
        (
            "Case-hardened: it pinches the saw and cups when it is resawn or planed off one face. Condition it for longer, or mill it"
            " evenly from both faces."
        ),
    ),
    Prongs.TOUCH: (
        "They touch",
        (
            "Badly case-hardened: resawn it cups at once. Condition it again, as hot as the kiln can be held, until new prongs stand"
            " straight."
        ),
    ),
    Prongs.OUT: (
        "They lean out",
        (
            "Conditioned too long: reverse case hardening, which can’t be undone. Use it where it is not resawn, milled evenly from both"
            " faces."
        ),
    ),
}


# What to ask who dries for others, and what good answers are: our own words.
QUESTIONS = (
    (
        "How do you know what moisture it comes out at?",
        "Sample boards that are weighed, and a meter corrected for species and heat. “We know our kiln” is no answer.",
    ),
    (
        "By which schedule, for this species and thickness?",
        "One made for it, or for its slowest neighbour in the load. One schedule for everything is made for none.",
    ),
    ("What else goes into the same load?", "Woods of one pace and thickness. No green wood beside dry; no oak’s stickers under maple."),
    (
        "Do you even out and condition at the end?",
        "Yes, by the driest and the wettest sample, then a day of steam or spray, and prongs cut to see it.",
    ),
    (
        "How warm does the core get, and for how long?",
        "At least {56°C|133°F} for half an hour, if insects are to be cleared; a small dehumidifier kiln may not get there.",
    ),
    ("What if it comes back at another moisture than I asked for?", "It goes back in at no charge, or the price is settled before."),
    (
        "How is it stickered, and where does it wait?",
        "On dry stickers in line, weight on top, under a roof before and after; never in plastic while it is warm.",
    ),
)
CHECKS = (
    (
        "Moisture",
        (
            "Ten boards or a tenth of them, at a third and two thirds of their length, shell and core: within two points of what was asked,"
            " core and shell within one of each other."
        ),
    ),
    ("Prongs", "One section from each of three boards: straight after a day."),
    ("Insects", "No fresh dust under the stack, no new holes."),
    ("Stain", "No stripes where the stickers lay, no blue; plane one face to see how deep."),
    ("Checks", "End checks no longer than they were marked; no honeycomb in a fresh cross-cut an arm’s length from the end."),
    ("Count", "As many boards as went in."),
)


def marks_easily(species: Species) -> bool:
    """Whether stickers of another wood would mark it."""
    return stickers.shows_marks(species)


def answer(load: LoadToRun, planned: Planned) -> tuple[str, str, str]:
    """The answer large, what stands beside it, and why in a sentence."""
    ran, lead = planned.ran, planned.lots[0]
    wood = lead.species.spoken_name
    if not ran.finished:
        nearest = float(ran.mean[-1])
        return (
            "It won’t reach the target",
            f"to {percent(load.wanted)} within {ran.hours / 24:.0f} days",
            (
                f"The kiln brings {wood} to {percent(nearest)}: it is not held warm or dry enough for more. A warmer or tighter one does"
                " it, or a damper end."
            ),
        )
    band = f"{planned.low_days:.0f} to {planned.high_days:.0f}" if np.isfinite(planned.high_days) else f"from {planned.low_days:.0f}"
    if planned.program.has(Phase.MOISTENING):
        return (
            counted(round(ran.days), "day") if ran.days >= 1 else counted(round(24 * ran.days), "hour"),
            f"of damp air, until about {full_day(load.day(ran.days))}",
            f"{wood[0].upper() + wood[1:]} is at {percent(lead.start)} and the target is {percent(load.wanted)}: it is moistened, to"
            f" {percent(float(ran.mean[-1]))}. Its shell comes first; let it stand a day before you measure it.",
        )
    by = "by the sun" if load.solar else "by your own steps" if load.own else f"by schedule {planned.program.code}"
    led = f", run for the {wood} in it" if len(planned.lots) > 1 else ""
    return (
        counted(round(ran.days), "day"),
        f"{band}, until about {full_day(load.day(ran.days))}",
        (
            f"{wood[0].upper() + wood[1:]}, {by}{led}, from {percent(lead.start)} to {percent(float(ran.mean[-1]))}: the step goes by the"
            " wettest half of its samples."
        ),
    )


def remarks(load: LoadToRun, planned: Planned, system: System) -> list[str]:
    """What has to be known beside the answer."""
    said = []
    program, chamber = planned.program, load.chamber
    if program.relative:
        said.append(
            f"No schedule of its own is at hand: it borrows that of {species_named(program.relative).spoken_name}, its nearest relative."
            " Take it gently."
        )
    if program.cooler:
        said.append(
            f"The kiln reaches {written_temperature(chamber.hottest_c, system)} at most: later steps keep their EMC at that warmth"
            " and take longer."
        )
    dries = not program.has(Phase.MOISTENING)
    if load.condition and dries and not program.has(Phase.CONDITIONING) and chamber.is_kiln and not load.solar:
        said.append(
            "It cannot make its air damp, so nothing is conditioned: boards stay case-hardened. Spray or steam for a day at the end puts"
            " that right."
        )
    if chamber.kind is Kind.DEHUMIDIFIER and not load.solar:
        full = float((planned.ran.power_w[:, 1] > 0.98 * chamber.compressor_kw * 1000).mean()) if chamber.compressor_kw else 0.0
        if full > 0.05:
            said.append(
                f"Its compressor is at its limit for {percent(full, 0)} of the time: the wood could go faster than the kiln takes water."
            )
    driest = min((setting.humidity for setting in program.settings), default=1.0)
    if chamber.kind is Kind.DEHUMIDIFIER and not load.solar and driest < DOUBTED_BELOW:
        said.append(
            f"Its last steps ask for {percent(driest, 0)} RH, and a small compressor hardly brings warm air below"
            f" {percent(DOUBTED_BELOW, 0)}: the end may take longer than is told here. Weigh more often then."
        )
    if load.solar:
        said.append(
            "The sun follows no schedule: days are hot and dry, nights cool and damp, which relieves stress. Its days are of low"
            " confidence."
        )
    if chamber.kind in (Kind.BOX, Kind.ROOM) and not load.solar:
        said.append("A box or a room follows no humidity: its steps are what to aim at. Feed it wood that is air-dry.")
    return said


LITTLE_WATER_KG = 1.0
STEP_HEADS = ("It is", "Until", "Dry bulb", "Wet bulb", "RH", "EMC", "Days")


def steps(planned: Planned, system: System, now: int | None = None) -> Table:
    """The program, a row for each step; those that are passed at once are left out."""
    made = []
    for number, (setting, days) in enumerate(zip(planned.program.settings, planned.ran.step_days(), strict=True)):
        if days <= 0 and number != now:
            continue
        until = {
            Phase.WARMING: f"for {setting.hours:.0f} hours",
            Phase.DRYING: f"until {percent(setting.until, 0)}",
            Phase.EQUALISING: f"until the wettest is at {percent(planned.program.wettest_at_end, 0)}",
            Phase.CONDITIONING: f"for {setting.hours:.0f} hours",
            Phase.MOISTENING: f"for {setting.hours:.0f} hours",
        }[setting.kind]
        dry, wet = written_temperature(setting.dry_bulb_c, system), written_temperature(setting.wet_bulb_c, system)
        made.append(
            Row(PHASES[setting.kind], (until, dry, wet, percent(setting.humidity, 0), percent(setting.emc), f"{days:.1f}"), number == now)
        )
    return Table(made, STEP_HEADS, "Set it so")


def water(ran: Ran, system: System) -> tuple[str, str]:
    """The most that leaves in a day, and in all, in litres or gallons; of what is moistened, what it takes up."""
    if ran.water_kg < 0:
        by_day = ran.by_day(np.maximum(-ran.water_kg_h[:, 0], 0.0))
        return liquid(float(by_day.max()), system), f"{liquid(-ran.water_kg, system)} taken up"
    by_day = ran.by_day(np.maximum(ran.water_kg_h[:, 0], 0.0))
    return liquid(float(by_day.max()), system), liquid(ran.water_kg, system)


def liquid(litres: float, system: System) -> str:
    """An amount of water."""
    return f"{litres / GALLON_L:,.0f} gal" if system.is_inch else f"{litres:,.0f} l"


def energy(ran: Ran, price: float | None, system: System) -> list[tuple[str, str]]:
    """What it takes, and what that costs."""
    heat, compressor, fans = ran.energy_kwh
    total = heat + compressor + fans
    lines = [
        ("Heat", f"{heat:,.0f} kWh"),
        *([("Compressor", f"{compressor:,.0f} kWh")] if compressor else []),
        ("Fans", f"{fans:,.0f} kWh"),
    ]
    for_water = f"{ran.kwh_a_kg * POUND_KG:.2f} for a pound of water" if system.is_inch else f"{ran.kwh_a_kg:.1f} for a litre of water"
    # Where hardly any water leaves, power is not for it.
    lines.append(("In all", f"{total:,.0f} kWh" + (f", {for_water}" if ran.water_kg > LITTLE_WATER_KG else "")))
    if price:
        lines.append(("Its price", f"{total * price:,.0f}"))
    return lines


def loss(planned: Planned) -> tuple[str, bool] | None:
    """What the lead loses a day until a third of its water is gone, against what is safe, and whether that is beyond; None where no rate is
    at hand.
    """
    lead = planned.lots[0].name
    checks = next((risk.cause for name, risk in planned.risks if name == lead and risk.kind is Defect.FACE_CHECKS), None)
    if not checks or not checks.get("loss"):
        return None
    is_safe = "is" if checks["published"] else "is estimated to be"
    return (
        f"{points(checks['loss'])} points a day in the first third, where {points(checks['safe'])} {is_safe} safe",
        checks["loss"] > checks["safe"],
    )


def slowest(planned: Planned) -> str:
    """Which board comes last."""
    board = planned.ran.boards[planned.slowest]
    last = float(planned.ran.means[planned.slowest, -1])
    return f"{board.species.spoken_name} of {percent(board.start, 0)} at first, {percent(last)} in the end"


def risks(planned: Planned, system: System) -> list[Risk]:
    """What may go wrong, in the words of every drying."""
    method = methods.named("chamber")
    several = len(planned.lots) > 1
    said = []
    for name, risk in planned.risks:
        if risk.level in (RiskLevel.HIGH, RiskLevel.WATCH):
            said.append(drying.describe_risk(risk, system, method).as_part(name if several else ""))
    return said


def present(put: Put[LoadToRun], plan: LoadPlan, reader: Reader) -> Presentation:
    """How many days, why, how to set it, what it costs, what may go wrong, and what people ask besides."""
    load, planned, system = put.question, plan.planned, reader.system
    days, beside, reason = answer(load, planned)
    parts: list[Part] = [Says(said, Manner.HINT) for said in remarks(load, planned, system)]
    if plan.together:
        verdict, shares = sharing(plan.together)
        parts += [Says("", Manner.REASON, first=verdict), *(Says(said, Manner.HINT) for said in shares)]
    parts.append(Drawn("load"))
    if not load.solar:
        parts.append(steps(planned, system))
    parts += [
        costs(planned, put.tells["price"], system),
        Heading("What may go wrong"),
        *(risks(planned, system) or (Says("Nothing to speak of."),)),
    ]
    parts += [Caution("kiln"), *(Folded(question, (said,)) for question, said in further(load, planned)), Folded("How?", working(system))]
    return Presentation(Lead(days, beside), reason, parts)


def costs(planned: Planned, price: float | None, system: System) -> Table:
    """Its water, its power, and the board that comes last."""
    most, in_all = water(planned.ran, system)
    rate = loss(planned)
    lines = [("Water, on the day it gives most, and in all", f"{most}, {in_all}"), *energy(planned.ran, price, system)]
    if rate:
        lines.append((f"Daily loss{', too much' if rate[1] else ''}", rate[0]))
    lines.append(("The slowest board", slowest(planned)))
    if planned.ran.finished:
        lines.append(("Prongs, cut at the end", prongs(planned)[0].lower()))
    return Table(
        [Row(name, (Cell(said, is_number=True),)) for name, said in lines], caption="Water, power, and the slowest board", narrow=True
    )


def working(system: System) -> tuple[str, str]:
    """How it is worked out, and what that stands on."""
    published = "{1.0 to 1.9 and 0.3 to 0.7 kWh for a litre|0.45 to 0.9 and 0.14 to 0.3 kWh for a pound of water}"
    return (
        (
            "Eight boards of each lot, as different in moisture and pace as boards of a load are, are followed by the hour through the"
            " moisture field in the air that the chamber can really hold: its heat, walls, leaks, vents or compressor and its spray against"
            " what the wood gives off. Steps by the published codes (AH-188), on the wettest half; equalised from when the driest is two"
            " points under the target, the chamber there, until the wettest is at it; conditioned four points over it (softwoods"
            " three). The band is of eight loads in ten."
        ),
        (
            "Stress: one strain through the thickness, elastic, shrinking and creeping; the shell is in tension while the core is wet, "
            "sets so, and is in compression when the core shrinks in its turn. 1 is what the wood bears there at its moisture and warmth. "
            "Creep is of"
            " medium and low confidence, and was set by what practice says of prongs. Risks are those of every drying. Published energy,"
            f" vented and with a dehumidifier: {in_system(published, system)} (AH-188, GTR-118; medium and low)."
        ),
    )


def prongs(planned: Planned) -> tuple[str, str]:
    """What prongs cut from the middle board would do after a day, and what that means."""
    return PRONGS[planned.ran.prongs(planned.middle_of(planned.lots[0].name)).reading]


def sharing(together: Together) -> tuple[str, list[str]]:
    """Whether the lots go together, and what each pays."""
    lead = together.shares[together.leads].lot.name
    said = []
    for share in together.shares:
        text = f"{share.lot.name}: {share.together_days:.0f} days, alone {share.alone_days:.0f}"
        if share.rewetted > 0.01:
            text += f"; it is dry already and would go up {points(share.rewetted, 0)} points before it comes down again"
        said.append(text + ".")
    return f"{VERDICTS[together.verdict]}: the load is run for {lead}.", said


def further(load: LoadToRun, planned: Planned) -> list[tuple[str, str]]:
    """What people ask of a load besides, each answered by its own figures."""
    if planned.program.has(Phase.MOISTENING):
        return []
    ran, wanted = planned.ran, load.wanted
    said = []
    if ran.finished and load.solar is None:
        last = float((ran.mean > wanted + 0.02).sum()) / 24
        per_day = sum(ran.energy_kwh) / max(ran.days, 1e-9)
        points_last = ran.days - last
        said.append(
            (
                f"Why {points(wanted, 0)} and not {points(max(wanted - 0.02, 0.04), 0)}?",
                (
                    f"The last two points and the end took {points_last:.1f} of its {ran.days:.0f} days; two more would take about as long"
                    f" again and {points_last * per_day:,.0f} kWh, and a room of {percent(wanted)} gives the wood its water back."
                ),
            )
        )
    damp = [setting for setting in planned.program.settings if setting.kind is Phase.CONDITIONING]
    if damp:
        gained = float(ran.mean[-1] - ran.mean.min())
        said.append(
            (
                "Can it be made wetter again?",
                (
                    f"Yes: in the {damp[0].hours:.0f} hours of conditioning it takes up {points(gained)} points from air that would bring"
                    f" it to {percent(damp[0].emc)}. Overdried wood is brought back so."
                ),
            )
        )
    else:
        said.append(
            (
                "Can it be made wetter again?",
                "Yes, in damp warm air, slowly: a dry kiln without spray has none of it. Overdried wood is left in a damper room.",
            )
        )
    return said


def prong_reading(now: Prongs | None, later: Prongs | None) -> tuple[str, str]:
    """What both looks at the prongs mean together, and what to do."""
    if later is not None:
        name, what = PRONGS[later]
        if now is Prongs.STRAIGHT and later in (Prongs.IN, Prongs.TOUCH):
            return (
                name,
                "Straight at once and in after a day: the core was still wetter than the shell when it was cut. Even the load out, then"
                " condition it. " + what,
            )
        return name, what
    if now is not None:
        return (
            "Look again after a day",
            f"At once: {PRONGS[now][0].lower()}. Moisture still bends them: leave the section in a warm room for a day, then read it.",
        )
    return (
        "Cut a section, and look",
        "An inch along the grain, well away from the ends of a sample. Saw out its middle, and leave two prongs.",
    )
