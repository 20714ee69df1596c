"""What is said of routes."""

from datetime import date, timedelta

import numpy as np

from calm_heron.drying.by_route import Compared, WoodByRoute, month_days
from calm_heron.drying.route_names import route_method_name
from calm_heron.drying.words import band_of, span
from calm_heron.questions.presentation import Cell, Columns, Drawn, Folded, Heading, Lead, Manner, Presentation, Row, Says, Table
from calm_heron.questions.tools import Put, Reader
from calm_heron.site.dates import full_day
from calm_heron.site.numbers import percent
from wood.drying.defects import Defect, RiskLevel
from wood.drying.insects import Level
from wood.drying.routes import KILN_DAYS_AT_MOST, Travelled
from wood.sizes import BOARD_FOOT_M3
from wood.units import System, in_system
from wood.written import written_temperature

RISKS = {
    Defect.FACE_CHECKS: "face checks",
    Defect.END_CHECKS: "end checks",
    Defect.HONEYCOMB: "honeycomb",
    Defect.STAIN: "stain",
    Defect.MOULD: "mould",
    Defect.DECAY: "decay",
}


ENERGY_HEAD = "Energy, {a m³|1,000 bd ft}"
RAIN = (
    "Rain is kept off by a roof that reaches over. A tarpaulin to the ground keeps the wet in; a stack with nothing over it is wetted again"
    " with every rain, and checks in the sun between: neither is in these figures."
)


def present(put: Put[WoodByRoute], comparison: Compared, reader: Reader) -> Presentation:
    """Which route, when and why; all of them side by side; and one of them begun in each month."""
    question, system, tells = comparison.question.question, reader.system, put.tells
    name, beside, reason = answer(comparison, tells["begun"])
    chosen = comparison.chosen(tells["road"])
    rows = [
        Row(
            comparison.question.name_of(route.route.key).name,
            (
                Cell(ready(comparison, route), moves(comparison, route, tells["begun"]), below=True),
                risks(route),
                insects(route),
                work(route),
                energy(route, tells["price"], system),
                Cell("below" if route is chosen else "show", chooses=("road", route.route.key)),
            ),
            route is comparison.best,
        )
        for route in comparison.routes
    ]
    caption = (
        f"Side by side, from {percent(question.start)} to {percent(question.target)}, in the air of {tells['outdoors']} and {tells['home']}"
    )
    heads = ("Route", "Ready after", "Goes wrong", "Insects", "Work", in_system(ENERGY_HEAD, system), "Months")
    columns = months(comparison, chosen)
    return Presentation(
        Lead(name, beside, is_word=False),
        reason,
        (
            Drawn("roads"),
            Says("Rings show where the wood moves on: drag them.", Manner.HANDLING),
            Table(rows, heads, caption),
            Heading(f"{comparison.question.name_of(chosen.route.key).name}, started in each month: weeks"),
            *([Columns(columns)] if columns else [Says("It is the same in every month.", Manner.REASON)]),
            Says(rule_of_thumb(comparison), Manner.HINT),
            Says(RAIN, Manner.HINT),
            Folded("How?", working(chosen, system)),
        ),
    )


def working(chosen: Travelled, system: System) -> tuple[str, str]:
    """How routes are worked out and chosen, and from what."""
    warm = {celsius: written_temperature(celsius, system) for celsius in (12, 18, 56)}
    figures = (
        "{The solar kiln has 4 m² of collector for a cubic metre|The solar kiln has a square foot of collector for ten board feet}, and its"
        " days are of low confidence, as the published ones are. Energy for {a kilogram|two pounds} of water: kiln {1.0 to 1.9|0.9 to 1.7}"
        " kWh, warm box {1.0 to 2.5|0.9 to 2.3}, solar fans {0.1 to 0.3|0.1 to 0.3} (AH-188, GTR-118; medium and low)."
    )
    return (
        (
            f"Each route is one run of the moisture field through the places it goes to, one after the other, a set of {chosen.answer.runs}"
            " for its band; eight boards in ten lie in it, each moved on when it is ready for it. Wood is moved indoors once it is at"
            f" {percent(0.20)} and into a kiln at {percent(0.25)}, or where you say. Read or weighed: daily in a kiln, weekly in a room,"
            " every two weeks outdoors. Kilns follow the species’ published schedule (AH-188) in three settings, in a chamber that holds"
            " whatever is asked: warming up, evening out and conditioning take two to four days more, and “How do I run this load?” tells"
            f" them for a real one. {in_system(figures, system)}"
        ),
        (
            "The route named is the quickest of those without a grave risk; green wood is not brought into a heated room, and no"
            " kiln is given away for more than two months. Powderpost beetles: sapwood of open-pored hardwoods, 8 to 32%, in air over"
            f" {warm[18]}; dry under 8% they are no danger any more. Beetles of the bark: while it is on and the wood over 25%, in air"
            f" over {warm[12]}. Old wood may have any of them in it already. Heat over {warm[56]} kills them and keeps none off afterwards."
        ),
    )


def on_day(begun: date, days: float) -> str:
    """The day so many days on."""
    return full_day(begun + timedelta(days=float(np.ceil(days))))


def ready(comparison: Compared, route: Travelled) -> str:
    """When it is there, with its band, or what it stops at."""
    answer = route.answer
    if not route.arrives:
        return (
            f"never: it stops at about {percent(route.reaches)}"
            if route.reaches > comparison.question.question.target
            else "not within ten years"
        )
    return band_of(answer.days, answer.low, answer.high)


def moves(comparison: Compared, route: Travelled, begun: date) -> str:
    """When it is moved, and where to; and in how many turns where one's own chamber does not hold all of it at once."""
    said = [
        f"at {percent(move.moisture)} into {route_method_name(move.where).words}, about {on_day(begun, move.day)}" for move in route.moved
    ]
    turns = comparison.question.turns(route.route.key)
    return "; ".join([*said, f"in {turns} turns, the last of them then"] if turns > 1 else said)


def risks(route: Travelled) -> str:
    """What is likely to go wrong, and what is to be watched."""
    high = [RISKS[risk.kind] for risk in route.risks if risk.level is RiskLevel.HIGH]
    watch = [RISKS[risk.kind] for risk in route.risks if risk.level is RiskLevel.WATCH]
    said = ([f"likely: {', '.join(high)}"] if high else []) + ([f"watch: {', '.join(watch)}"] if watch else [])
    if not route.risks:
        return "not known for this wood"
    return "; ".join(said) or "none to speak of"


def insects(route: Travelled) -> str:
    """What insects may do."""
    attack = route.attack
    if attack.cleared:
        return (
            "killed by the heat, which does not keep them off afterwards"
            if attack.open_pored or attack.inside or attack.under_bark
            else "hardly"
        )
    said = ["some may be in it already: only heat kills them"] if attack.inside else []
    if attack.open_pored and attack.level is not Level.LOW:
        said.append({Level.WATCH: "possible in sapwood", Level.HIGH: "likely in sapwood"}[attack.level])
    if attack.under_bark:
        said.append("beetles under the bark until it is dry: take it off")
    return "; ".join(said) or "hardly"


def work(route: Travelled) -> str:
    """How often it is stacked, and how often read or weighed."""
    stacked = {1: "stacked once", 2: "stacked twice"}.get(route.movings, f"stacked {route.movings} times")
    if not route.arrives:
        return stacked
    looks = max(1, round(route.weighings))
    return f"{stacked}, checked {'once' if looks == 1 else f'{looks} times'}"


# A thousand board feet, in which those who count in inches count their loads.
THOUSAND_BOARD_FEET_M3 = 1000 * BOARD_FOOT_M3


def energy(route: Travelled, price: float | None, system: System) -> str:
    """Kilowatt hours for a cubic metre or a thousand board feet, and what they cost."""
    low, high = (kwh * (THOUSAND_BOARD_FEET_M3 if system.is_inch else 1.0) for kwh in route.energy_kwh_m3)
    if high < 1:
        return "the house’s own" if any(stage.where in ("room", "shelf") for stage in route.route.stages) else "none"
    if high - low < 1:
        return f"{low:,.0f} kWh{f', {low * price:,.0f}' if price else ''}"
    text = f"{low:,.0f} to {high:,.0f} kWh"
    return f"{text}, {low * price:,.0f} to {high * price:,.0f}" if price else text


def answer(comparison: Compared, begun: date) -> tuple[str, str, str]:
    """Which route, when, and why, in a sentence."""
    best = comparison.best
    wood, target = comparison.question.species.spoken_name, comparison.question.question.target
    if best is None:
        nearest = min((route for route in comparison.routes), key=lambda route: route.reaches)
        return (
            "No route gets it there",
            f"to {percent(target)} within ten years",
            (
                f"The driest any of them brings {wood} to is {percent(nearest.reaches)}:"
                f" {comparison.question.name_of(nearest.route.key).within}. Use it where it may be damper, or saw it thinner."
            ),
        )
    why = [f"it is at {percent(target)} about {on_day(begun, best.answer.days)}"]
    worst = best.worst
    if worst is not None and worst.level is RiskLevel.HIGH:
        why.append(f"every route carries risk; of those to be had this one carries the least ({RISKS[worst.kind]})")
        safer = [item for item in comparison.routes if item.arrives and (item.worst is None or item.worst.worst < worst.worst)]
        if safer:
            least = min(safer, key=lambda item: item.worst.worst if item.worst else 0.0)
            why.append(f"{comparison.question.name_of(least.route.key).within} would risk less, {_out_of_the_question(least)}")
    else:
        quicker = [route for route in comparison.routes if route.arrives and route.answer.days < 0.9 * best.answer.days]
        if quicker:
            passed = min(quicker, key=lambda item: item.answer.days)
            why.append(f"{comparison.question.name_of(passed.route.key).within} would be quicker, {_against(passed)}")
    if best.kiln_days > KILN_DAYS_AT_MOST:
        why.append(f"it keeps the kiln for {span(best.kiln_days)}")
    return comparison.question.name_of(best.route.key).name, f"{span(best.answer.days)} in all", f"For {wood}: {'; '.join(why)}."


def _against(passed: Travelled) -> str:
    """Why a quicker route is not taken."""
    if passed.worst is not None and passed.worst.level is RiskLevel.HIGH:
        return (
            f"but {RISKS[passed.worst.kind]} are likely"
            if passed.worst.kind in (Defect.FACE_CHECKS, Defect.END_CHECKS)
            else f"but {RISKS[passed.worst.kind]} is likely"
        )
    return _out_of_the_question(passed)


def _out_of_the_question(passed: Travelled) -> str:
    """What stands in the way of a route, however safe it is."""
    if passed.kiln_days > KILN_DAYS_AT_MOST:
        return f"but keeps a kiln for {span(passed.kiln_days)}"
    return "but green wood does not belong in a heated room"


def rule_of_thumb(comparison: Compared) -> str:
    """The old rule, and the published days, as what they are."""
    years = comparison.routes[0].answer.rule_of_thumb_days / 365
    text = f"The old rule of a year for every inch says {years:.1f} years to air-dry."
    published = comparison.question.species.air_dry_days
    if published:
        text += (
            f" Published for an inch of {comparison.question.species.spoken_name} to 20%: {published[0]:.0f} to {published[1]:.0f} days."
        )
    return text


def months(comparison: Compared, chosen: Travelled) -> list[tuple[str, float, str]]:
    """A route begun on the first of each month: its name, how tall its column is (percent of the longest), and the weeks it takes; none
    where every month is the same to it."""
    days = month_days(comparison, chosen)
    most = max((day for day in days if np.isfinite(day)), default=1.0)
    names = ("J", "F", "M", "A", "M", "J", "J", "A", "S", "O", "N", "D")
    return [
        (name, 100 * item / most if np.isfinite(item) else 0.0, f"{item / 7:.0f}" if np.isfinite(item) else "–")
        for name, item in zip(names, days, strict=False)
    ]
