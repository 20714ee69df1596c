"""``./heron take-over NAME``: use the data of another installation, whose checkout is gone."""

from command import installation
from command.trouble import Trouble


def run(arguments: list[str]) -> int:
    if len(arguments) != 1:
        there = installation.listed(installation.others())
        raise Trouble(f"Name one installation, as in  ./heron take-over NAME. There are:\n{there}")
    before = installation.own_name()
    taken = installation.take_over(arguments[0])
    print(f"This checkout now uses the data in {taken.folder}. To go back:  ./heron take-over {before}")
    return 0
