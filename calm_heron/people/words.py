"""What the log says of people, in words."""

from calm_heron.plugs import Sentence
from calm_heron.workshops.models import Role
from wood.units import SYSTEMS


def _role(number: int) -> str:
    return Role(number).name.lower()


LOG: dict[str, Sentence] = {
    "founded": "{name} was founded",
    "invited": lambda data, system: f"An invitation was made, as {_role(data['role'])}",
    "withdrawn": lambda data, system: f"An invitation, as {_role(data['role'])}, was withdrawn",
    "new_password": "A link was made by which {subject} chooses a new password",
    "joined": lambda data, system: f"{data['subject']} joined as {_role(data['role'])}",
    "left": lambda data, system: f"{data['subject']}, {_role(data['before'])}, is no longer a member",
    "role": lambda data, system: f"{data['subject']} is now {_role(data['role'])}, {_role(data['before'])} before",
    "renamed": "{before} is now called {name}",
    "clock": "The clock is now that of {time_zone}, and dates are written as in {language}",
    "written": "Weights are now in {scale}, cut sizes to 1/{cut_to} in",
    "units": lambda data, system: f"Numbers are now in {SYSTEMS[data['units']].name}",
}
