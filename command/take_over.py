"""``./heron take-over NAME``: use the data of another installation, whose checkout is gone."""

import argparse

from command import installation
from command.trouble import Trouble


def run(options: argparse.Namespace) -> int:
    if not options.name:
        there = installation.listed(installation.others())
        raise Trouble(f"Name one installation, as in  ./heron take-over NAME. There are:\n{there}")
    before = installation.own_name()
    taken = installation.take_over(options.name)
    print(f"This checkout now uses the data in {taken.folder}. To go back:  ./heron take-over {before}")
    return 0
