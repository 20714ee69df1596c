"""The log of turning in words."""

from calm_heron.plugs import Sentence
from calm_heron.site.numbers import counted
from calm_heron.turning.kinds import ElsewhereKind, MendKind, WhereKind
from wood.written import said_length

LOG: dict[str, Sentence] = {
    "said": "{subject}: what is known of it as turned work changed",
    "roughed": lambda data, system: f"{data['subject']} roughed to a wall of {said_length(data['wall_m'], system)}",
    "traced": lambda data, system: (
        f"{data['subject']} traced: {said_length(data['along_m'], system)} by {said_length(data['across_m'], system)}"
    ),
    "cracked": lambda data, system: (
        f"{data['subject']}: a crack {WhereKind(data['where']).label}, {said_length(data['depth_m'], system)} deep"
    ),
    "crack_gone": "{subject}: a crack is gone",
    "crack_back": "{subject}: a crack that was said to be gone is there",
    "mended": lambda data, system: (
        f"{data['subject']}: a crack is {MendKind(data['how']).label}{' with ' + data['using'] if data['using'] else ''}"
    ),
    "elsewhere": lambda data, system: f"{data['subject']} lay {ElsewhereKind(data['where']).label} for a while",
    "elsewhere_struck": lambda data, system: f"{data['subject']}: where it lay is {'said again' if data['restored'] else 'taken out'}",
    "oven_begun": lambda data, system: f"{data['subject']} put into a microwave of {data['watts']:.0f} W",
    "oven_ended": lambda data, system: f"{data['subject']} out of the microwave after {counted(data['heats'], 'heat')}",
    "cut": lambda data, system: f"{data['subject']} cut into {', '.join(data['blanks'])}",
}
