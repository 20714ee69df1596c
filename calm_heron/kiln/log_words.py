"""The log of the kiln in words."""

from datetime import date
from typing import Any

from calm_heron.kiln.kinds import Defect, Happened
from calm_heron.plugs import Sentence
from calm_heron.site.dates import full_day
from calm_heron.site.numbers import counted, percent
from wood.units import System


def _begun(data: Any, system: System) -> str:
    return f"{data['subject']} begun in {data['chamber']} with {', '.join(data['lots'])}"


def _happened(data: Any, system: System) -> str:
    return f"{data['subject']}: {Happened(data['how']).label}" + (f", {data['words']}" if data["words"] else "")


def _cut(data: Any, system: System) -> str:
    at = ", its sections in the oven" if data["moisture"] is None else f" at {percent(data['moisture'])}"
    return f"{data['subject']}: sample {data['sample']} cut{at}"


def _promised(data: Any, system: System) -> str:
    return f"{data['subject']} promised for {full_day(date.fromisoformat(data['day']))}" + (f", to {data['whom']}" if data["whom"] else "")


LOG: dict[str, Sentence] = {
    "chamber_kept": "Kiln {subject} added",
    "chamber_changed": "Kiln {subject} changed",
    "begun": _begun,
    "sample_cut": _cut,
    "sections_dried": lambda data, system: f"{data['subject']}: sample {data['sample']} was cut at {percent(data['moisture'])}, ovendried",
    "weighed": lambda data, system: f"{data['subject']}: {counted(data['count'], 'sample')} weighed",
    "weight_struck": "{subject}: a weight of sample {sample} struck out",
    "happened": _happened,
    "event_over": lambda data, system: f"{data['subject']}: over: {Happened(data['how']).label}",
    "event_on": lambda data, system: f"{data['subject']}: goes on: {Happened(data['how']).label}",
    "event_strike": lambda data, system: f"{data['subject']}: was not so: {Happened(data['how']).label}",
    "event_back": lambda data, system: f"{data['subject']}: was so after all: {Happened(data['how']).label}",
    "promised": _promised,
    "promise_taken_back": "{subject} is promised to nobody any more",
    "ended": "{subject} is out of the kiln",
    "outcome": lambda data, system: f"{data['subject']}: what came of it" + (f": {data['words']}" if data["words"] else ""),
    "runs_again": "{subject} runs again: it was not out",
    "found": lambda data, system: f"{data['subject']}: {Defect(data['how']).label} on {data['boards']} of {data['of_boards']} boards",
}
