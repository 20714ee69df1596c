"""What the log says of people, in words."""

from calm_heron.plugs import Sentence
from calm_heron.workshops.models import Role
from wood.units import SYSTEMS


def _role(number: int) -> str:
    return Role(number).name.lower()


LOG: dict[str, Sentence] = {
    "founded": "{name} was founded",
    "invited": lambda data, system: f"An invitation was made, as {_role(data['role'])}",
    "withdrawn": lambda data, system: f"An invitation, as {_role(data['role'])}, was taken back",
    "new_password": "A link was made by which {subject} chooses a new password",
    "joined": lambda data, system: f"{data['subject']} joined as {_role(data['role'])}",
    "left": lambda data, system: f"{data['subject']}, {_role(data['before'])}, is no longer a member",
    "role": lambda data, system: f"{data['subject']} is {_role(data['role'])} now, {_role(data['before'])} before",
    "renamed": "{before} is called {name} now",
    "clock": "Its clock is that of {time_zone} now, its dates are written as in {language}",
    "written": "Weights are written in {scale} now, cut sizes to 1/{cut_to} in",
    "units": lambda data, system: f"Numbers are written in {SYSTEMS[data['units']].name.lower()} now",
}
