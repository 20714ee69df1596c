"""What is said of roads."""

import numpy as np

from calm_heron.drying.roads import Compared, month_days
from calm_heron.drying.words import band_of, span
from calm_heron.site.dates import full_day
from calm_heron.site.numbers import percent
from wood.drying.defects import Defect, RiskLevel
from wood.drying.insects import Level
from wood.drying.roads import KILN_DAYS_AT_MOST, Travelled
from wood.sizes import BOARD_FOOT_M3
from wood.units import System

NAMES = {
    "yard": "Yard alone", "yard_room": "Yard, then a heated room", "shed_room": "Shed, then a heated room", "room": "Heated room from the saw",
    "yard_kiln": "Yard, then a kiln", "kiln": "Kiln from the saw", "solar": "Solar kiln", "shelf": "A shelf indoors", "yard_box": "Yard, then a warm box",
}  # fmt: skip
PLACES = {
    "yard": "the yard",
    "shed": "the shed",
    "room": "the room",
    "kiln": "the kiln",
    "box": "the box",
    "shelf": "the shelf",
    "solar": "the solar kiln",
}
RISKS = {
    Defect.FACE_CHECKS: "face checks", Defect.END_CHECKS: "end checks", Defect.HONEYCOMB: "honeycomb", Defect.STAIN: "stain", Defect.MOULD: "mould",
    Defect.DECAY: "decay",
}  # fmt: skip


def ready(found: Compared, one: Travelled) -> str:
    """When it is there, with its band, or what it stops at."""
    answer = one.answer
    if not one.arrives:
        return f"never: it stops at about {percent(one.reaches)}" if one.reaches > found.target else "not within ten years"
    return band_of(answer.days, answer.low, answer.high)


def moves(found: Compared, one: Travelled) -> str:
    """When it is moved, and where to."""
    return "; ".join(f"at {percent(move.moisture)} into {PLACES[move.where]}, about {full_day(found.day(move.day))}" for move in one.moved)


def risks(one: Travelled) -> str:
    """What is likely to go wrong, and what is to be watched."""
    high = [RISKS[risk.kind] for risk in one.risks if risk.level is RiskLevel.HIGH]
    watch = [RISKS[risk.kind] for risk in one.risks if risk.level is RiskLevel.WATCH]
    said = ([f"likely: {', '.join(high)}"] if high else []) + ([f"watch: {', '.join(watch)}"] if watch else [])
    if not one.risks:
        return "not known for this wood"
    return "; ".join(said) or "none to speak of"


def insects(one: Travelled) -> str:
    """What insects may do."""
    attack = one.attack
    if attack.cleared:
        return "killed by the heat; not kept off afterwards" if attack.open_pored or attack.inside or attack.under_bark else "hardly"
    said = ["some may be in it already: only heat ends them"] if attack.inside else []
    if attack.open_pored and attack.level is not Level.LOW:
        said.append({Level.WATCH: "possible in sapwood", Level.HIGH: "likely in sapwood"}[attack.level])
    if attack.under_bark:
        said.append("beetles under the bark until it is dry: take it off")
    return "; ".join(said) or "hardly"


def work(one: Travelled) -> str:
    """How often it is stacked, and how often read or weighed."""
    stacked = {1: "stacked once", 2: "stacked twice"}.get(one.movings, f"stacked {one.movings} times")
    if not one.arrives:
        return stacked
    looks = max(1, round(one.weighings))
    return f"{stacked}, looked at {'once' if looks == 1 else f'{looks} times'}"


# A thousand board feet, in which those who count in inches count their loads.
THOUSAND_BOARD_FEET_M3 = 1000 * BOARD_FOOT_M3


def energy(one: Travelled, price: float | None, system: System) -> str:
    """Kilowatt hours for a cubic metre or a thousand board feet, and what they cost."""
    low, high = (kwh * (THOUSAND_BOARD_FEET_M3 if system.is_inch else 1.0) for kwh in one.energy_kwh_m3)
    if high < 1:
        return "the house’s own" if any(leg.where in ("room", "shelf") for leg in one.road.legs) else "none"
    told = f"{low:.0f} to {high:.0f} kWh"
    return f"{told}, {low * price:,.0f} to {high * price:,.0f}" if price else told


def answer(found: Compared) -> tuple[str, str, str]:
    """Which road, when, and why, in a sentence."""
    best = found.best
    wood = found.species.spoken_name
    if best is None:
        nearest = min((one for one in found.roads), key=lambda one: one.reaches)
        return (
            "No road gets it there", f"to {percent(found.target)} within ten years",
            f"The driest any of them brings {wood} to is {percent(nearest.reaches)}: {NAMES[nearest.road.key].lower()}. Use it where it may be damper, or saw it thinner.",
        )  # fmt: skip
    why = [f"it is at {percent(found.target)} about {full_day(found.day(best.answer.days))}"]
    worst = best.worst
    if worst is not None and worst.level is RiskLevel.HIGH:
        why.append(f"no road is without risk, and this one risks least ({RISKS[worst.kind]})")
    else:
        quicker = [one for one in found.roads if one.arrives and one.answer.days < 0.9 * best.answer.days]
        if quicker:
            passed = min(quicker, key=lambda one: one.answer.days)
            why.append(f"{NAMES[passed.road.key].lower()} would be quicker, {_against(passed)}")
    if best.kiln_days > KILN_DAYS_AT_MOST:
        why.append(f"it keeps the kiln for {span(best.kiln_days)}")
    return NAMES[best.road.key], f"{span(best.answer.days)} in all", f"For {wood}: {'; '.join(why)}."


def _against(passed: Travelled) -> str:
    """Why a quicker road is not taken."""
    if passed.worst is not None and passed.worst.level is RiskLevel.HIGH:
        return (
            f"but {RISKS[passed.worst.kind]} are likely"
            if passed.worst.kind in (Defect.FACE_CHECKS, Defect.END_CHECKS)
            else f"but {RISKS[passed.worst.kind]} is likely"
        )
    if passed.kiln_days > KILN_DAYS_AT_MOST:
        return f"but keeps a kiln for {span(passed.kiln_days)}"
    return "but green wood does not belong in a heated room"


def rule_of_thumb(found: Compared) -> str:
    """The old rule, and the published days, as what they are."""
    years = found.roads[0].answer.rule_of_thumb_days / 365
    told = f"The old rule of a year for every inch says {years:.1f} years to air-dry."
    published = found.species.air_dry_days
    if published:
        told += f" Published for an inch of {found.species.spoken_name} to 20 %: {published[0]:.0f} to {published[1]:.0f} days."
    return told


def months(found: Compared) -> list[tuple[str, float, str]]:
    """The chosen road begun on the first of each month: its name, how tall its column is (percent of the longest), and the weeks it takes; none where every
    month is the same to it."""
    days = month_days(found)
    most = max((one for one in days if np.isfinite(one)), default=1.0)
    names = ("J", "F", "M", "A", "M", "J", "J", "A", "S", "O", "N", "D")
    return [
        (name, 100 * one / most if np.isfinite(one) else 0.0, f"{one / 7:.0f}" if np.isfinite(one) else "–")
        for name, one in zip(names, days, strict=False)
    ]  # fmt: skip
