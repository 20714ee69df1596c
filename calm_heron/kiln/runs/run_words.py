"""What is said of loads that run."""

from collections.abc import Mapping
from typing import Any

import numpy as np

from calm_heron.kiln.kinds import ChamberKind, ChargedBy
from calm_heron.kiln.runs.running import FROM_THE_FIELD, LoadNow, SampleNow
from calm_heron.site.dates import moment
from calm_heron.site.numbers import percent, points
from wood.kiln.programs import Phase
from wood.kiln.samples import Doubt
from wood.sizes import BOARD_FOOT_M3
from wood.units import POUND_KG, System
from wood.written import written_temperature

# How a chamber's air is made damper.
DAMPER = {
    ChamberKind.VENTED: "close the vents, and spray",
    ChamberKind.DEHUMIDIFIER: "stop its compressor until the air is damp again",
    ChamberKind.BOX: "turn its heat down",
    ChamberKind.ROOM: "turn its heat down",
}
# A lot this near to what was wanted of it is there (a fraction).
OUT_WITHIN = 0.01

DOUBTS = {
    Doubt.LIGHTER.value: "lighter than its own ovendry weight: wrong sections, or the wrong sample",
    Doubt.GAINED.value: "it gained while the others lost: it was wetted, or this is another sample’s weight",
    Doubt.OUT_OF_LINE.value: "it lost far more than its neighbours: a slip of the pen, or the wrong sample",
    Doubt.SWAPPED.value: "its weight fits another sample’s row: the two may be swapped",
    Doubt.MISSING.value: "it was not weighed with the others",
    FROM_THE_FIELD: "far from what a board like it should be: check its sections and its tag",
}


def setting(result: LoadNow, system: System) -> tuple[str, str, str]:
    """What to set now: large, beside it, and why."""
    load, now = result.load, result.setting
    if not load.runs:
        return "Load is out", f"after {result.days_run:.0f} days", "What was found on its boards is below, beside the forecast."
    if now is None:
        return (
            "It is done",
            f"after {result.days_run:.0f} days",
            "The schedule is finished: let it cool in the closed chamber, read shell and core, and cut prongs.",
        )
    half = "" if result.half is None else f"Its wettest half is at {percent(result.half, 0)}. "
    whose = "that" if half else "its wettest half"
    until = {
        Phase.WARMING: f"Warm it so for {now.hours:.0f} hours.",
        Phase.DRYING: f"Hold this until {whose} is at {percent(now.until, 0)}.",
        Phase.EQUALISING: f"Equalise until its wettest sample is at {percent(result.program.wettest_at_end, 0)}.",
        Phase.CONDITIONING: f"Condition it so for {now.hours:.0f} hours.",
        Phase.MOISTENING: f"Moisten it so for {now.hours:.0f} hours.",
    }[now.kind]
    ends = f" It is done in about {result.ends_in_days:.0f} days." if np.isfinite(result.ends_in_days) else ""
    return (
        written_temperature(now.dry_bulb_c, system),
        f"wet bulb {written_temperature(now.wet_bulb_c, system)}, {percent(now.humidity, 0)} RH",
        f"{half}{until}{ends}",
    )


def pace(load: LoadNow) -> str:
    """How fast its weighings have it."""
    if not load.samples or load.forecast.pace == 1.0:
        return "The forecast uses the usual pace; two weighings will sharpen it."
    return f"By its weighings it’s drying at {load.forecast.pace:.0%} of the usual pace; each updates the forecast."


def doubt(sample: SampleNow) -> str:
    """What is wrong with a sample."""
    if sample.doubt:
        return DOUBTS[sample.doubt]
    if sample.too_fast and sample.loss is not None and sample.safe is not None:
        return f"it loses {points(sample.loss)} points a day, and {points(sample.safe)} is safe"
    return ""


def alarm(code: str, data: dict[str, Any], system: System) -> str:
    """What wants somebody."""
    if code == "fault":
        return f"The controller reports: {data['words']}."
    if code in ("off", "too_dry"):
        wanted = data["setting"]
        since = f" since {moment(data['since'])}" if data["since"] else ""
        danger = f" Air so dry checks wet boards: {DAMPER[data['kind']]}." if code == "too_dry" else ""
        return (
            f"The chamber has been at {written_temperature(data['dry_c'], system)} and {percent(data['humidity'], 0)} RH{since}, and"
            f" {written_temperature(wanted.dry_bulb_c, system)} and {percent(wanted.humidity, 0)} are what the schedule asks for.{danger}"
        )
    if code == "silent":
        return f"No reading from the chamber since {moment(data['at'])}: check it and its controller."
    if code == "stuck":
        return f"The chamber has read exactly the same since {moment(data['since'])}: is its sensor still in the air?"
    if code == "jump":
        before, after = (written_temperature(data[name], system) for name in ("from_c", "to_c"))
        return f"The chamber’s reading jumped from {before} to {after} on {moment(data['at'])}: check its sensor."
    if code == "fans":
        return f"The air cools {data['times']:.0f} times as much on its way through as it should: have the fans stopped?"
    if code == "round":
        return (
            f"About {percent(data['share'], 0)} of the air goes round the load instead of through it: hang baffles at its ends and over it."
        )
    if code == "told":
        return f"{data['event'].said}, {data['event'].lasted}. The forecast counts it until now."
    if code == "too_fast":
        return f"Sample {data['sample'].sample.tag}: {doubt(data['sample'])}. Close the vents, or cool it, for a day."
    if code == "doubt":
        return f"Sample {data['sample'].sample.tag}: {doubt(data['sample'])}."
    if code == "missed":
        return f"Its samples were last weighed on {moment(data['at'])}: weigh them today."
    if code == "no_samples":
        return "It has no kiln samples, so nobody knows how wet it is. Cut at least four."
    return "The schedule is finished: test it, and take it out."


def comes_out(load: LoadNow, moistures: Mapping[str, float]) -> str:
    """What is known of a load that is about to be taken out: where each lot is, and whether that is what was wanted."""
    if not moistures:
        return ""
    lots = ", ".join(f"{tag} is at about {percent(moisture, 0)}" for tag, moisture in moistures.items())
    wanted = load.load.wanted
    wettest = max(moistures.values())
    if wettest > wanted + OUT_WITHIN:
        verdict = f"The target is {percent(wanted, 0)}: it isn’t dry yet."
    elif min(moistures.values()) < wanted - OUT_WITHIN:
        verdict = f"The target is {percent(wanted, 0)}: some of it is drier than that."
    else:
        verdict = f"The target is {percent(wanted, 0)}, and on average it’s there: test shell and core before you take it out."
    return f"{lots}. {verdict}"


def charge(result: LoadNow, counted_kg: float | None, system: System) -> str:
    """What a load costs who owns it, by its wood or by the water that left it: weighed, else counted, else as the forecast has it."""
    load = result.load
    if load.price is None:
        return ""
    whose = load.whose or "its owner"
    who = whose[0].upper() + whose[1:]
    if load.charged_by == ChargedBy.VOLUME:
        unit = 1000 * BOARD_FOOT_M3 if system.is_inch else 1.0
        return f"{who} pays {load.price * result.planned.volume_m3 / unit:,.2f}, by volume."
    if load.weighed_in_kg and load.weighed_out_kg:
        water, how = load.weighed_in_kg - load.weighed_out_kg, "weighed in and out"
    elif counted_kg:
        water, how = counted_kg, "by the condensate so far"
    else:
        water, how = result.forecast.ran.water_kg, "by the forecast"
    return f"{who} pays {load.price * max(water, 0.0) / (100 * (POUND_KG if system.is_inch else 1.0)):,.2f} for its water, {how}."
