"""A drying in words: the answer, its reason in one sentence, the next step, and every risk with its cause."""

from dataclasses import dataclass
from datetime import date, timedelta

import numpy as np

from calm_heron.drying.methods import DryingMethod
from calm_heron.drying.queries import Surroundings
from calm_heron.questions import presentation as parts
from calm_heron.site import dates
from calm_heron.site.numbers import percent, points
from wood import units, written
from wood.air.climate import YEAR_DAYS
from wood.drying.answers import LONGEST_DAYS, Answer, WhyNot
from wood.drying.defects import Defect, Risk, RiskLevel
from wood.drying.diffusivity import Figures
from wood.drying.learning import Flag
from wood.species import Species

LONGEST_YEARS = round(LONGEST_DAYS / 365)
INDOORS_FROM = 0.20


# Up to so many days, the size of the unit in days, and its name.
UNITS = ((60, 1.0, "days"), (200, 7.0, "weeks"), (730, 30.44, "months"), (np.inf, 365.25, "years"))


def span(days: float) -> str:
    """Days as people say them: 9 days, 14 weeks, 16 months, 3 years."""
    if not np.isfinite(days):
        return f"over {LONGEST_YEARS} years"
    if days < 1.5:
        return "a day" if days >= 0.75 else "hours"
    size, unit = next((size, unit) for limit, size, unit in UNITS if days < limit)
    return f"{days / size:.{1 if size > 365 else 0}f} {unit}"


def band_of(days: float, low: float, high: float) -> str:
    """The band in the unit of its middle: 5.8 to 9.2 months; where its upper end is never reached, that is said."""
    size, unit = next((size, unit) for limit, size, unit in UNITS if days < limit)
    digits = 0 if days / size >= 10 or size == 1 else 1
    if not np.isfinite(high):
        return f"from {low / size:.{digits}f} {unit}; the slowest in ten take over {LONGEST_YEARS} years"
    first, last = f"{low / size:.{digits}f}", f"{high / size:.{digits}f}"
    return f"{first} to {last} {unit}" if first != last else f"about {first} {unit}"


def on(start: date, days: float) -> str:
    """The date so many days on, with its year where that is another one."""
    day = start + timedelta(days=round(days))
    return dates.day(day) if day.year == start.year else dates.full_day(day)


@dataclass(frozen=True)
class Description:
    """What the page says. ``word`` is the large answer, ``band`` the smaller one beside it."""

    word: str
    band: str
    reason: str
    next_step: str


def describe(
    answer: Answer, start_moisture: float, target: float, start: date, around: Surroundings, risks: list["RiskDescription"]
) -> Description:
    """The answer in words; the gravest of the risks, where it is likely, is the next thing to see to."""
    there = where(around)
    if answer.already:
        if start_moisture < target:
            reason = f"At {percent(start_moisture)} it is drier than its target of {percent(target)}, and {around.name} won’t bring it up."
            return Description(
                "It is drier already", "", reason, "Ask for a lower moisture, or choose a damper place to see how it takes up."
            )
        return Description("It is there", "", f"It is at {percent(start_moisture)}, its target.", "Nothing needs to happen.")
    if not np.isfinite(answer.days):
        return _never(answer, start_moisture, target, around, there)
    verb = "comes down" if start_moisture > target else "comes up"
    reason = f"{there} it {verb} from {percent(start_moisture)} to {percent(target)} by {on(start, answer.days)}; "
    reason += (
        f"eight boards in ten between {on(start, answer.low)} and {on(start, answer.high)}."
        if np.isfinite(answer.high)
        else f"the quickest of ten boards by {on(start, answer.low)}, the slowest not within {LONGEST_YEARS} years."
    )
    band = band_of(answer.days, answer.low, answer.high)
    return Description(span(answer.days).capitalize(), band, reason, _next(answer, start_moisture, around, risks))


def where(around: Surroundings) -> str:
    """The beginning of a sentence about the wood there."""
    if not around.of_place:
        return f"{around.method.where} under {around.name}" if around.outdoors else f"{around.method.where} at these settings"
    return (around.method.at_a_yard if around.outdoors else "In {place}").format(place=around.name)


def _never(answer: Answer, start_moisture: float, target: float, around: Surroundings, there: str) -> Description:
    lowest = answer.lowest_month_emc
    if answer.why_not is WhyNot.BELOW_EVERY_MONTH and start_moisture < target:
        reason = (
            f"{there} it never gets up to {percent(target)}: even in the dampest month the EMC there is only about "
            f"{percent(answer.highest_month_emc, 1)}."
        )
        return Description("Not reached", "", reason, "Ask for a lower moisture, or choose a damper place.")
    if answer.why_not is WhyNot.BELOW_EVERY_MONTH:
        reason = f"{there} it never gets to {percent(target)}: {_driest(around)} has an EMC of about {percent(lowest, 1)}."
        return Description("Not reached", "", reason, _out_of_reach(lowest, start_moisture, around))
    if answer.why_not is WhyNot.BELOW_THE_WOOD:
        reason = (
            f"{there} the air reaches {percent(target)} for only part of the year, and wood this thick can’t follow it that far "
            "before the season turns."
        )
        other = "damper" if start_moisture < target else "warmer or drier"
        return Description("Not reached", "", reason, f"Thinner stock would get there; so would a {other} place.")
    reason = f"{there} it is on its way, but won’t be there within {LONGEST_YEARS} years."
    return Description(f"Over {LONGEST_YEARS} years", "", reason, "Saw it thinner, or dry it in a warmer place.")


def _driest(around: Surroundings) -> str:
    """The air that dries most there: of a chamber whose air is held the only one."""
    return "its driest month" if around.setting.last.series.days >= YEAR_DAYS - 1 and not around.method.is_heated else "its air"


def _out_of_reach(lowest: float, start_moisture: float, around: Surroundings) -> str:
    """What to do with wood that the driest month here, at an EMC of ``lowest``, does not bring down far enough."""
    if around.method.is_heated:
        return f"Ask for {percent(lowest + 0.01)} or more, or a drier room."
    worth_waiting_for = max(lowest + 0.02, INDOORS_FROM if around.outdoors else 0.0)
    if start_moisture <= worth_waiting_for:
        return "It is dry enough for a heated room now; bring it in."
    return f"Dry it here to about {percent(worth_waiting_for)}, then bring it into a heated room."


def likely(risk: "RiskDescription") -> str:
    """That something is likely to go wrong, and what helps."""
    return f"{risk.name} {'are' if risk.name.startswith('Checks') else 'is'} likely. {risk.advice}"


def _next(answer: Answer, start_moisture: float, around: Surroundings, risks: list["RiskDescription"]) -> str:
    if risks and risks[0].level is RiskLevel.HIGH:
        return likely(risks[0])
    months = np.array(answer.month_days)
    if around.outdoors and np.isfinite(months).all() and months.min() < 0.75 * answer.days and answer.days > 60:
        best = date(2001, int(months.argmin()) + 1, 1)
        return f"Begun in {best:%B} it would take {span(float(months.min()))}: the strip below shows every month."
    if start_moisture > 0.25 and not around.method.core.of_a_log:
        return (
            "Seal the ends, put it on stickers the day it is sawn, and weigh one board every week: its own readings will firm up this date."
        )
    return "Read it again in a few weeks: its own readings will firm up this date."


# So many days of frost are worth a word.
FEW_FROSTS = 10


def frost(days: int) -> str:
    """That freezing holds the wood up, where it does for so many days of its drying."""
    if days < FEW_FROSTS:
        return ""
    return f"For about {span(days)} of it the air is below freezing: free water is ice then, and drying all but stops."


def driest(least: float | None) -> str:
    """What wood comes down to that is dried as far as its air can."""
    if least is None:
        return ""
    return (
        f"Wood that has been there for years is at {percent(least, 1)} at that time of year; within a point of that, it’s as dry as it"
        " gets there."
    )


def beside(rule_of_thumb_days: float, species: Species, start: float, system: units.System) -> str:
    """What others would say of wood that is dried from green: the year for every inch, and the days published for one inch."""
    if start < INDOORS_FROM:
        return ""
    text = f"A year for every {{25 mm|inch}} of thickness would say {span(rule_of_thumb_days)}"
    if species.air_dry_days:
        low, high = species.air_dry_days
        text += f"; for {{25 mm|1-in}} boards of it {low:.0f} to {high:.0f} days to 20% in a yard are published (FPL-GTR-117)"
    return f"{units.in_system(text, system)}."


def basis(figures: Figures, species: Species, system: units.System) -> str:
    """On what the species' pace stands, for the working."""
    if figures.basis == "fitted" and species.air_dry_days:
        low, high = species.air_dry_days
        inch = units.in_system("{25 mm|1-in}", system)
        return (
            f"fitted to the {low:.0f} to {high:.0f} days in which {inch} {species.common_name} is said to dry to 20% in the yard"
            " (FPL-GTR-117)"
        )
    if figures.basis == "relative":
        return f"that of a near relative, {figures.stands_on.replace('_', ' ')}, as it has no figure of its own"
    return "estimated from its specific gravity and kind of wood: no drying days are published for it, so the band is wide"


@dataclass(frozen=True)
class RiskDescription:
    """A risk for the page: its name, how likely it is, the cause, what to do, and the day it is marked at."""

    name: str
    level: RiskLevel
    figure: float
    cause: str
    advice: str
    day: float

    def as_part(self, name: str = "") -> parts.Risk:
        """As a part of an answer; by the ``name`` of the lot it is of, where there are several."""
        likely = "likely" if self.level is RiskLevel.HIGH else "possible"
        return parts.Risk(f"{name}: {self.name}" if name else self.name, f"{likely}, {self.figure:.1f}", self.cause, self.advice)


NAMES = {
    Defect.FACE_CHECKS: "Checks in the faces",
    Defect.END_CHECKS: "Checks in the ends",
    Defect.HONEYCOMB: "Honeycomb and collapse",
    Defect.STAIN: "Stain",
    Defect.MOULD: "Mould",
    Defect.DECAY: "Decay",
}


def describe_risk(risk: Risk, system: units.System, method: DryingMethod) -> RiskDescription:
    """One risk in words, with what helps by the method that dries the wood."""
    cause, advice = _SENTENCES[risk.kind](risk, system)
    day = risk.worst_day if risk.since_day is None else risk.since_day
    return RiskDescription(NAMES[risk.kind], risk.level, risk.worst, cause, method.advice.get(risk.kind, advice), day)


def _day(risk: Risk) -> str:
    return f"on day {max(1, round(risk.worst_day))}"


def _surface(risk: Risk, system: units.System) -> tuple[str, str]:
    c = risk.cause
    safe = f"{points(c['safe'])}" + ("" if c["published"] else " (by estimate)")
    pull = f"The shell reaches {percent(c['shell'])} {_day(risk)} while the core is at {percent(c['core'])}"
    loss = f"until a third of its water is gone it loses {points(c['loss'])} points a day, and {safe} is considered safe"
    if c["by_loss"]:
        cause = f"It dries too fast overall: {loss}. {pull}."
    elif c["loss"]:
        cause = f"{pull}; that pull decides. Overall it is slow enough: {loss}." if c["loss_figure"] < 1 else f"{pull}; and {loss}."
    else:
        cause = f"{pull}."
    return cause, "Slow the first weeks: shade, a cover on the windy side, thinner stickers."


def _end(risk: Risk, system: units.System) -> tuple[str, str]:
    c = risk.cause
    cause = f"The ends are at {percent(c['end'])} {_day(risk)} while the middle is at {percent(c['core'])}."
    return cause, "They are sealed; see that the seal holds." if c["sealed"] else "Seal the ends the day it is cut, and shade them."


def _honeycomb(risk: Risk, system: units.System) -> tuple[str, str]:
    c = risk.cause
    borne = written.written_temperature(c["borne_c"], system) + ("" if c["published"] else " by estimate")
    cause = (
        f"The core is still at {percent(c['core'])} {_day(risk)} and the air at {written.written_temperature(c['temperature_c'], system)}; "
        f"this wood bears {borne} while it is wet inside."
    )
    return cause, "Keep the kiln cooler until the core is below fibre saturation."


def _stain(risk: Risk, system: units.System) -> tuple[str, str]:
    c = risk.cause
    cause = (
        f"The outer wood stays above 22% for the equivalent of {c['warm_days']:.0f} warm days; {c['limit']:.0f} are enough for "
        f"{c['words']}."
    )
    return cause, "Sticker it at once, on dry thin stickers, with the wind through it; saw pale wood in the cold months."


def _mould(risk: Risk, system: units.System) -> tuple[str, str]:
    c = risk.cause
    return (
        f"The faces stay above 18% for the equivalent of {c['warm_days']:.0f} warm days; {c['limit']:.0f} are enough.",
        "More air through the stack, or a drier place. Brush mould off outdoors, with a mask.",
    )


def _decay(risk: Risk, system: units.System) -> tuple[str, str]:
    c = risk.cause
    return (
        (
            f"It stays above fibre saturation for the equivalent of {c['warm_days']:.0f} warm days; {c['limit']:.0f} are enough for decay"
            " in"
            " this wood."
        ),
        "Saw it up and sticker it; sapwood goes first in any species.",
    )


_SENTENCES = {
    Defect.FACE_CHECKS: _surface,
    Defect.END_CHECKS: _end,
    Defect.HONEYCOMB: _honeycomb,
    Defect.STAIN: _stain,
    Defect.MOULD: _mould,
    Defect.DECAY: _decay,
}


FLAGS = {
    Flag.LEVEL: "Its last readings are level: it has settled where it is.",
    Flag.RISING: "Its last readings rise: it was drier than where it is now.",
    Flag.TOO_FAST: "It has lost more in a day than is safe for this wood.",
    Flag.STALLED: "It has stalled well above what its place should give: a wet core, or a meter set wrongly. Weigh it.",
}
