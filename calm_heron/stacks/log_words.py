"""The log of stacks in words."""

from typing import Any

from calm_heron.plugs import Sentence
from calm_heron.stacks.kinds import Cover, StackHappened, StackTurned
from wood.units import System


def _built(data: Any, system: System) -> str:
    return f"{data['subject']} built of {', '.join(data['lots'])} in {data['place']}"


def _happened(data: Any, system: System) -> str:
    return f"{data['subject']}: {StackHappened(data['how']).label}" + (f", {data['words']}" if data["words"] else "")


LOG: dict[str, Sentence] = {
    "built": _built,
    "moved": "{subject} moved to {place}",
    "turned": lambda data, system: f"{data['subject']} turned: the wind blows {StackTurned(data['turned']).label}",
    "restacked": "{subject} restacked",
    "covered": lambda data, system: f"{data['subject']} {Cover(data['cover']).label}",
    "happened": _happened,
    "event_over": lambda data, system: f"{data['subject']}: over: {StackHappened(data['how']).label}",
    "event_on": lambda data, system: f"{data['subject']}: goes on: {StackHappened(data['how']).label}",
    "event_strike": lambda data, system: f"{data['subject']}: was not so: {StackHappened(data['how']).label}",
    "event_back": lambda data, system: f"{data['subject']}: was so after all: {StackHappened(data['how']).label}",
    "taken_down": "{subject} taken down",
    "outcome": lambda data, system: f"{data['subject']}: what came of it" + (f": {data['words']}" if data["words"] else ""),
    "stands_again": "{subject} stands again",
}
