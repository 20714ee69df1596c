"""``./heron simulate kiln …``: simulated devices, a kiln's controller and a scale, for the demo and for trying the door for devices."""

import argparse

from command.trouble import Trouble
from simulators import kiln_controller, scale

DEVICES = {"kiln": kiln_controller.main, "scale": scale.main}


def run(options: argparse.Namespace) -> int:
    try:
        return DEVICES[options.device](options.of_device)
    except kiln_controller.DoorClosed as closed:
        raise Trouble(str(closed)) from None
