"""What a simulated device takes on the command line; read without anything installed."""

import argparse

FAILURES = ("fans", "heat", "sensor", "spray", "door", "power", "stuck", "silent")


def _door(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("--door", required=True, help="the address of the door, ending in /devices/v1/")
    parser.add_argument("--token", required=True, help="the token that was shown when the device was let in")


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


def read(device: str, arguments: list[str]) -> argparse.Namespace:
    """The options of a device; help is printed, and a mistake named; both end the program."""
    parser = argparse.ArgumentParser(prog=f"./heron simulate {device}", allow_abbrev=False)
    _door(parser)
    {"kiln": _kiln, "scale": _scale}[device](parser)
    options = parser.parse_args(arguments)
    if device == "scale" and not options.bowl and not options.sample:
        parser.error("name at least one --bowl, or at least one --sample at a kiln’s door")
    return options
