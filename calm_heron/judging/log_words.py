"""The log of judgements in words."""

from typing import Any

from calm_heron.site.numbers import bounded, distance, points, typed
from wood.judging.readiness import VERDICT_RULE
from wood.units import System
from wood.uses import USES, Approach


def _use(key: str) -> str:
    return USES[key].name.lower() if key in USES else key


def _judged(data: Any, system: System) -> str:
    text = f"{data['subject']} for {data['place'] + ', ' if data['place'] else ''}{_use(data['use'])}: {data['state']}."
    # What was judged by another rule stays as it was, and says so.
    if data.get("rule", VERDICT_RULE) != VERDICT_RULE:
        text += f" Judged by the rule {data['rule']}, since replaced."
    if "target" not in data:
        return text
    side = "above" if data["difference"] >= 0 else "below"
    return (
        f"{text} At {bounded(data['moisture'], data['bound'])}% it lay {distance(data['difference'])} points {side} "
        f"{points(data['target'])}%, give or take {points(data['uncertainty'])}."
    )


def _by(data: Any) -> str:
    """By which approach a purpose goes, where one was chosen; older entries know none."""
    approach = data.get("school", "")
    if approach == Approach.TYPED:
        return f", to {points(data['moisture'])}%"
    return {Approach.YEAR: ", by its year", Approach.WEEKS: ", by its last four weeks"}.get(approach, "")


def _uses(data: Any, system: System) -> str:
    text = [
        f"{_use(key)} {', '.join(f'{name} {typed(figure)}%' for name, figure in figures.items())}" for key, figures in data["uses"].items()
    ]
    return f"Tolerances: {'; '.join(text) or 'as usual'}"


LOG = {
    "judged": _judged,
    "aim": lambda data, system: f"Usual purpose: {data['subject']}, {_use(data['use'])}{_by(data)}",
    "piece_aim": lambda data, system: f"{data['subject']} is for {data['place']}, {_use(data['use'])}{_by(data)}",
    "piece_as_usual": lambda data, system: f"{data['subject']} is for the usual purpose here",
    "uses": _uses,
}
