"""What a simulated device takes on the command line; read without anything installed."""

import argparse
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

FAILURES = ("fans", "heat", "sensor", "spray", "door", "power", "stuck", "silent")


# How what reports by itself fails.
REPORTS_BADLY = ("battery", "drift", "stuck", "offline", "clock")


def _door(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("--door", required=True, help="the address of the door, ending in /devices/v1/")
    parser.add_argument("--token", required=True, help="the token that was shown when the device was let in")
    parser.add_argument("--truth", type=Path, help="a file to write what is really so into, a line for each reading")


def _kiln(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("--species", default="sugar_maple")
    parser.add_argument("--thickness-mm", type=float, default=28.6)
    parser.add_argument("--moisture", type=float, default=64.0, help="the load's true moisture, %%")
    parser.add_argument("--volume-m3", type=float, default=1.0)
    parser.add_argument("--pace", type=float, default=0.85, help="how fast it really dries, against its species")
    parser.add_argument("--hours", type=int, default=24)
    parser.add_argument("--seconds-an-hour", type=float, default=1.0)
    parser.add_argument("--fail", choices=FAILURES, help="what fails, from --fail-from on")
    parser.add_argument("--fail-from", type=int, default=6)


def _bowl(text: str) -> tuple[str, str, float, float]:
    """TAG=SPECIES:DIAMETER:WALL, in millimetres."""
    tag, _, rest = text.partition("=")
    try:
        species, diameter, wall = rest.split(":")
        return tag, species, float(diameter), float(wall)
    except ValueError:
        raise argparse.ArgumentTypeError(f"“{text}” is not TAG=SPECIES:DIAMETER:WALL, as maple-bowl-02=sugar_maple:250:25") from None


def _sample(text: str) -> tuple[str, str, float, float, float]:
    """TAG=SPECIES:THICKNESS:MOISTURE:DRY, in millimetres, percent and grams."""
    tag, _, rest = text.partition("=")
    try:
        species, thickness, moisture, dry = rest.split(":")
        return tag, species, float(thickness), float(moisture), float(dry)
    except ValueError:
        raise argparse.ArgumentTypeError(f"“{text}” is not TAG=SPECIES:THICKNESS:MOISTURE:DRY, as A=sugar_maple:28.6:64:1900") from None


def _scale(parser: argparse.ArgumentParser) -> None:
    parser.add_argument(
        "--sample",
        action="append",
        type=_sample,
        default=[],
        help="TAG=SPECIES:THICKNESS:MOISTURE:DRY, as A=sugar_maple:28.6:64:1900 (mm, %%, g)",
    )
    parser.add_argument(
        "--bowl", action="append", type=_bowl, default=[], help="TAG=SPECIES:DIAMETER:WALL in mm, as maple-bowl-02=sugar_maple:250:25"
    )
    parser.add_argument(
        "--days", type=float, nargs="+", default=[0, 2, 4, 7, 10, 14, 18, 23, 28], help="on which days after the first, all within a month"
    )
    parser.add_argument("--slip", default="", help="a bowl whose last weight is told ten times as large")


def _reports(parser: argparse.ArgumentParser, hours: float, every: float) -> None:
    parser.add_argument("--hours", type=float, default=hours, help=f"so far back it begins, at most a month ({hours:g})")
    parser.add_argument("--every", type=float, default=every, help=f"minutes between its readings ({every:g})")
    parser.add_argument("--goes-on", action="store_true", help="it goes on reading as time passes, until Ctrl-C")
    parser.add_argument("--seed", type=int, default=1, help="another number is another instrument in another truth")
    parser.add_argument("--fail", choices=REPORTS_BADLY, default="", help="how it fails, from --fail-from on")
    parser.add_argument("--fail-from", type=float, default=24.0, help="hours after it began (24)")


def _hygrometer(parser: argparse.ArgumentParser) -> None:
    _reports(parser, 168, 10)
    parser.add_argument("--like", choices=("room", "store", "yard", "kiln"), default="room", help="in what kind of place it hangs")


def _weather(parser: argparse.ArgumentParser) -> None:
    _reports(parser, 168, 10)


def _board(text: str) -> tuple[str, str, float, float]:
    """TAG=SPECIES:THICKNESS:MOISTURE, in millimetres and percent."""
    tag, _, rest = text.partition("=")
    try:
        species, thickness, moisture = rest.split(":")
        return tag, species, float(thickness), float(moisture)
    except ValueError:
        raise argparse.ArgumentTypeError(f"“{text}” is not TAG=SPECIES:THICKNESS:MOISTURE, as oak-04=white_oak:27:18") from None


def _meter(parser: argparse.ArgumentParser, every: float = 720) -> None:
    _reports(parser, 168, every)
    parser.add_argument(
        "--board", action="append", type=_board, required=True, help="TAG=SPECIES:THICKNESS:MOISTURE, as oak-04=white_oak:27:18 (mm, %%)"
    )
    parser.add_argument("--setting", type=float, help="of a pinless meter: the specific gravity that it is set to")


def _probe(parser: argparse.ArgumentParser) -> None:
    _meter(parser, 60)


@dataclass(frozen=True)
class Simulator:
    """A simulated device: what it is, in a line, and what it takes."""

    does: str
    takes: Callable[[argparse.ArgumentParser], None]


SIMULATORS = {
    "hygrometer": Simulator("a thermo-hygrometer in a room, a store or a kiln", _hygrometer),
    "weather": Simulator("a weather station in the yard", _weather),
    "pin": Simulator("a pin meter that goes round boards", _meter),
    "pinless": Simulator("a pinless meter that goes round boards", _meter),
    "probe": Simulator("a probe left in a board", _probe),
    "kiln": Simulator("a kiln’s controller with a load", _kiln),
    "scale": Simulator("a scale for rough bowls, or for the samples of a kiln’s load", _scale),
}


def _week(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("--hours", type=float, default=168, help="so many hours in place of a week")
    parser.add_argument("--every", type=float, default=1, help="minutes between two readings of air (1)")
    parser.add_argument("--kills", type=int, default=20, help="so often a process of the server is killed meanwhile (20)")


def read(device: str, arguments: list[str]) -> argparse.Namespace:
    """The options of a device; help is printed, and a mistake named; both end the program."""
    parser = argparse.ArgumentParser(prog=f"./heron simulate {device}", allow_abbrev=False)
    if device == "week":
        _week(parser)
    else:
        _door(parser)
        SIMULATORS[device].takes(parser)
    options = parser.parse_args(arguments)
    if device == "scale" and not options.bowl and not options.sample:
        parser.error("name at least one --bowl, or at least one --sample at a kiln’s door")
    for name, least, most in (("hours", 0.0, 720.0), ("every", 0.1, 10_080.0)):
        value = getattr(options, name, least)
        if not least <= value <= most:
            parser.error(f"--{name} is between {least:g} and {most:g}")
    options.device = device
    return options
