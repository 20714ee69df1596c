"""``./heron simulate kiln …``: devices that are none, a kiln's controller and a scale, for the demo and for trying the door for devices."""

from command.trouble import Trouble
from simulators import kiln_controller, scale

SIMULATORS = {"kiln": kiln_controller.main, "scale": scale.main}


def run(arguments: list[str]) -> int:
    if not arguments or arguments[0] not in SIMULATORS:
        raise Trouble(f"Name one of these: {', '.join(SIMULATORS)}. As in ./heron simulate kiln --help")
    return SIMULATORS[arguments[0]](arguments[1:])
