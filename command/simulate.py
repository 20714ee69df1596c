"""``./heron simulate kiln …``: a kiln's controller that is none, for the demo and for trying the door for devices."""

from command.trouble import Trouble
from simulators import kiln_controller

SIMULATORS = {"kiln": kiln_controller.main}


def run(arguments: list[str]) -> int:
    if not arguments or arguments[0] not in SIMULATORS:
        raise Trouble(f"Name one of these: {', '.join(SIMULATORS)}. As in ./heron simulate kiln --help")
    return SIMULATORS[arguments[0]](arguments[1:])
