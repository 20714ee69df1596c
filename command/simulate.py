"""``./heron simulate kiln …``: simulated devices, a kiln's controller and a scale, for the demo and for trying the door for devices."""

import argparse

from simulators import kiln_controller, scale

DEVICES = {"kiln": kiln_controller.main, "scale": scale.main}


def run(options: argparse.Namespace) -> int:
    return DEVICES[options.device](options.of_device)
