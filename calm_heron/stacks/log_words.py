"""The log of stacks in words."""

from typing import Any

from calm_heron.plugs import Sentence
from calm_heron.stacks.kinds import Cover, StackTurned
from wood.units import System


def _built(data: Any, system: System) -> str:
    return f"{data['subject']} built of {', '.join(data['lots'])} in {data['place']}"


LOG: dict[str, Sentence] = {
    "built": _built,
    "moved": "{subject} moved to {place}",
    "turned": lambda data, system: f"{data['subject']} turned: the wind blows {StackTurned(data['turned']).label}",
    "restacked": "{subject} stacked anew",
    "covered": lambda data, system: f"{data['subject']} lies {Cover(data['cover']).label}",
    "taken_down": "{subject} taken down",
    "stands_again": "{subject} stands again",
}
