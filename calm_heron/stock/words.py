"""The log of the stock in words."""

from typing import Any

from calm_heron.plugs import Sentence
from calm_heron.site.numbers import counted
from calm_heron.stock.kinds import PieceKind
from calm_heron.stock.models import Status
from wood.units import System


def _added(data: Any, system: System) -> str:
    what = f"lot of {data['count']}" if data["count"] > 1 else PieceKind(data["kind_of_piece"]).label.lower()
    return f"New {what} {data['subject']}: {data['species']}"


def _changed(data: Any, system: System) -> str:
    fields = (name.removesuffix("_m").removesuffix("_deg").removesuffix("_key").replace("_", " ") for name in data["fields"])
    return f"{data['subject']} changed: {', '.join(fields)}"


def _moved(data: Any, system: System) -> str:
    return f"{data['subject']} moved to {data['to']}" + (f" from {data['came_from']}" if data["came_from"] else "")


def _status(data: Any, system: System) -> str:
    return f"{data['subject']}: {Status(data['status']).label.lower()}"


def _own_figures(data: Any, system: System) -> str:
    figures = ", ".join(f"{name.replace('_', ' ')} {value:g}" for name, value in data["figures"].items())
    return f"Own figures for {data['subject']}: {figures or 'no figures'}"


def _table(data: Any, system: System) -> str:
    return f"{counted(data['count'], 'piece')} added from a table, {data['first']} to {data['last']}"


LOG: dict[str, Sentence] = {
    "added": _added,
    "changed": _changed,
    "moved": _moved,
    "status": _status,
    "ends_sealed": "{subject}: ends sealed",
    "split_off": "{subject}: {count} split off {lot}, which keeps {left}",
    "split": "{subject}: {count} split off as {made}, {left} left",
    "left_over": "{subject} left of {board}, which was sawn",
    "taken_out": "{subject} taken out of {lot}, which keeps {left}",
    "sample_named": "{subject} is a sample board of {lot}",
    "own_figures": _own_figures,
    "own_figures_dropped": "Own figures for {subject} dropped",
    "photographed": "Photograph of {subject}",
    "photograph_removed": "Photograph of {subject} taken away",
    "table_added": _table,
}
