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


def _promised(data: Any, system: System) -> str:
    return f"{data['subject']} promised for {full_day(date.fromisoformat(data['day']))}" + (f", to {data['whom']}" if data["whom"] else "")


LOG: dict[str, Sentence] = {
    "chamber_kept": "Chamber {subject} kept",
    "chamber_changed": "Chamber {subject} changed",
    "begun": _begun,
    "sample_cut": lambda data, system: f"{data['subject']}: sample {data['sample']} cut at {percent(data['moisture'])}",
    "weighed": lambda data, system: f"{data['subject']}: {counted(data['count'], 'sample')} weighed",
    "weight_struck": "{subject}: a weight of sample {sample} taken out",
    "happened": _happened,
    "promised": _promised,
    "promise_taken_back": "{subject} is promised to nobody any more",
    "ended": "{subject} is out of the kiln",
    "runs_again": "{subject} runs again: it was not out",
    "found": lambda data, system: f"{data['subject']}: {Defect(data['how']).label} on {data['boards']} of {data['of_boards']} boards",
}
