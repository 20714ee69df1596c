"""``./heron simulate DEVICE …``: simulated devices, for the demo and for trying the door for devices; without one, which there
are; ``week`` runs all of them (:mod:`command.simulated_week`).
"""

import argparse

from command.trouble import Trouble
from simulators.door import DoorClosed
from simulators.lines import SIMULATORS


def run(options: argparse.Namespace) -> int:
    if not options.device:
        for name, simulator in SIMULATORS.items():
            print(f"  {name:<12} {simulator.does}")
        print(f"  {'week':<12} all of them at once for a week, on data of their own, held against what is true")
        return 0
    if options.device == "week":
        from command import simulated_week

        return simulated_week.run(options.of_device)
    from simulators import hygrometer, kiln_controller, meter, scale

    mains = {"kiln": kiln_controller.main, "scale": scale.main, "hygrometer": hygrometer.main, "weather": hygrometer.main}
    try:
        return mains.get(options.device, meter.main)(options.of_device)
    except DoorClosed as closed:
        raise Trouble(str(closed)) from None
