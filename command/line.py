"""What may be typed after ``./heron``: the commands, what each takes, and what it needs of the machine.

``./heron`` asks this file first, with any Python there is and nothing installed: a call for help or one with a mistake is answered here and
ends; of any other it learns what to install. ``python -m command.line NAME …`` prints that and ends with ``GOES_ON``.
"""

import argparse
import contextlib
import os
import sys
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

# How this file ends where the command is to be run: none of the codes that a command itself ends with.
GOES_ON = 10
LOOPBACK = "127.0.0.1"
# What opens pages in a browser.
BROWSING = ("test", "walks", "shots", "cases")
BENCH_PARTS = ("core", "field", "turning", "forecasts", "builds", "logger", "door", "pages", "weight", "start", "load", "backup")
SCIENCE_TABLES = (
    "climates",
    "interiors",
    "yards",
    "seasons",
    "kilns",
    "settling",
    "calendar",
    "stacking",
    "frozen",
    "damage",
    "losses",
    "numerics",
    "resolution",
)
SIMULATORS = ("hygrometer", "weather", "pin", "pinless", "probe", "kiln", "scale", "week")
Parser = argparse.ArgumentParser


def _nothing(parser: Parser) -> None:
    """A command that takes nothing after its name."""


def _start(parser: Parser) -> None:
    parser.add_argument("--port", type=int, default=8000, help="the port (8000)")
    parser.add_argument(
        "--host", default=LOOPBACK, help="the address to listen at (127.0.0.1: this machine only); 0.0.0.0 for phones in the shop's network"
    )
    parser.add_argument(
        "--https", action="store_true", help="with a certificate of its own, so that phones can keep a page for where there is no network"
    )
    parser.add_argument("--no-demo", action="store_true", help="start without the demo workshop")


def _backup(parser: Parser) -> None:
    parser.add_argument("file", nargs="?", type=Path, help="the file to write; it must not be there yet")
    parser.add_argument(
        "--with-secrets", action="store_true", help="also the key that signs sessions, so that people stay signed in after a restore"
    )
    parser.add_argument("--nightly", choices=("on", "off", "now"), help="a backup every night while Calm Heron runs, or one of these now")
    parser.add_argument("--into", type=Path, help="the folder for those; another disk is best")


def _restore(parser: Parser) -> None:
    parser.add_argument("file", type=Path, help="a file that ./heron backup wrote")


def _deaths(parser: Parser) -> None:
    parser.add_argument("--kills", type=int, default=100, help="how many (100), each kind of process in turn")
    parser.add_argument("--requests", type=int, metavar="N", help="kill nothing: ask for so many pages and tell how memory grows")
    parser.add_argument("--write", action="store_true", help="put the table into docs/hosting.md")


def _guide(parser: Parser) -> None:
    parser.add_argument("--write", action="store_true", help="keep what it prints in docs/hosting-walked.txt")
    parser.add_argument("--root", type=Path, help="a bare Debian that is made already, to copy")


def _kept(parser: Parser) -> None:
    parser.add_argument("--remove", metavar="NAME", help="remove one of them for good")
    parser.add_argument("--yes", action="store_true", help="without asking")


def _reset_link(parser: Parser) -> None:
    parser.add_argument("address", help="the address the person signs in with")
    parser.add_argument("--without-second-step", action="store_true", help="also take the second step at signing in away")


def _operator(parser: Parser) -> None:
    parser.add_argument("address", nargs="?", help="the address the person signs in with; without one, who is an operator")
    parser.add_argument("--no-more", action="store_true", help="take it from that person")


def _take_over(parser: Parser) -> None:
    parser.add_argument("name", nargs="?", help="the installation; without one, those that there are")


def _test(parser: Parser) -> None:
    parser.add_argument(
        "names", nargs="*", metavar="NAME", help="a module, a class or a test, as in tests.wood.test_sorption; all without one"
    )
    parser.add_argument("-k", action="append", metavar="WORD", default=[], help="only tests whose name has this in it")
    parser.add_argument("--parallel", type=int, metavar="N", help="in so many processes at once (3, or 1 where tests are named)")
    parser.add_argument("--shuffle", nargs="?", const="", metavar="SEED", help="in an order by chance")
    parser.add_argument("--reverse", action="store_true", help="in the opposite order")
    parser.add_argument("--failfast", action="store_true", help="end at the first that fails")
    parser.add_argument("--durations", type=int, metavar="N", help="say which N took longest")
    parser.add_argument("--verbosity", type=int, choices=(0, 1, 2, 3), default=1)


def _check(parser: Parser) -> None:
    parser.add_argument("--coverage", action="store_true", help="also run every test and say what of the code they go through")


def _texts(parser: Parser) -> None:
    parser.add_argument("file", type=Path, help="the file to write")


def _walks(parser: Parser) -> None:
    parser.add_argument("names", nargs="*", metavar="NAME", help="one of the tests that walk far; all without one")


def _bench(parser: Parser) -> None:
    parser.add_argument("parts", nargs="*", metavar="PART", help=f"one or several of {', '.join(BENCH_PARTS)}; all but load without one")
    parser.add_argument("--small", action="store_true", help="little of everything, to see that it runs; the figures then mean nothing")


def _science(parser: Parser) -> None:
    parser.add_argument("tables", nargs="*", metavar="TABLE", help=f"one or several of {', '.join(SCIENCE_TABLES)}; all without one")


def _simulate(parser: Parser) -> None:
    parser.add_argument(
        "device", metavar="DEVICE", nargs="?", default="", help=f"one of {', '.join(SIMULATORS)}; without one they are listed"
    )
    parser.add_argument("rest", nargs=argparse.REMAINDER, metavar="…", help="what it takes; see ./heron simulate kiln --help")


@dataclass(frozen=True)
class Command:
    """A command: what it does in a line, what it takes, and whether it needs a database or the packages that only tests and checks need."""

    does: str
    takes: Callable[[Parser], None] = _nothing
    database: bool = False
    for_tests: bool = False


COMMANDS = {
    "start": Command("start Calm Heron with its demo workshop and print the address", _start, database=True),
    "backup": Command("write everything that people recorded to a file, or every night; see ./heron backup --help", _backup, database=True),
    "restore": Command("put what a backup holds in the place of what is here", _restore, database=True),
    "status": Command("say where the data lie, what runs, the last backup, the queue and the versions", database=True),
    "kept": Command("list what restores and upgrades have set aside, and remove it", _kept),
    "reset-link": Command("make a link by which somebody chooses a new password", _reset_link, database=True),
    "operator": Command("name who keeps this installation running and may see its queue", _operator, database=True),
    "work": Command("run one more worker for the queue; start begins one itself", database=True),
    "take-over": Command("use the data of another installation, whose checkout is gone", _take_over),
    "upgrade-data": Command("bring the data over to a newer PostgreSQL", database=True),
    "test": Command("run every test; name some to run only those, as in ./heron test tests.wood", _test, database=True, for_tests=True),
    "walks": Command("run the long walks of the tests whole, of which the suite takes samples", _walks, database=True, for_tests=True),
    "deaths": Command("kill each process of a running Calm Heron in turn, and see that nothing is lost", _deaths, database=True),
    "guide": Command("follow docs/hosting.md to the letter in a bare Debian (root, debootstrap)", _guide),
    "check": Command("lint, types, templates, docstrings, boundaries between parts, style sheet, migrations", _check, for_tests=True),
    "texts": Command("write all that people read in the demo, page by page, into one file", _texts, database=True, for_tests=True),
    "shots": Command("retake docs/screenshots from the demo workshop", database=True, for_tests=True),
    "bench": Command("measure, and show the figures as ratios", _bench, database=True, for_tests=True),
    "science": Command("work every check of the science against published figures anew", _science),
    "cases": Command("work everyday cases through the screens and write what they say into docs/science.md", database=True, for_tests=True),
    "demo-reset": Command("make the demo anew and take out its visitors' copies; other workshops stay untouched", database=True),
    "simulate": Command("run a simulated device: a hygrometer, a meter, a probe, a kiln, a scale; without one they are listed", _simulate),
    "style": Command("compile the style sheet (needs Node)", for_tests=True),
}


def usage() -> str:
    return "Usage: ./heron COMMAND\n" + "\n".join(f"  {name:<12} {command.does}" for name, command in COMMANDS.items())


def read(name: str, arguments: list[str]) -> argparse.Namespace:
    """What was typed after the name of a command. Help is printed, and a mistake named; both end the program."""
    command = COMMANDS[name]
    does = command.does.partition(";")[0]
    parser = Parser(prog=f"./heron {name}", description=f"{does[0].upper()}{does[1:]}.", allow_abbrev=False)
    command.takes(parser)
    options = parser.parse_args(arguments)
    for what, among in (("parts", BENCH_PARTS), ("tables", SCIENCE_TABLES), ("device", SIMULATORS)):
        named = getattr(options, what, [])
        unknown = next((item for item in ([named] if isinstance(named, str) else named) if item and item not in among), None)
        if unknown is not None:
            parser.error(f"there is no “{unknown}”; there are {', '.join(among)}")
    if name == "simulate" and options.device:
        from simulators.lines import read as read_device

        options.of_device = read_device(options.device, options.rest)
    return options


def checked(arguments: list[str]) -> tuple[str, argparse.Namespace]:
    """The command and what it was given; help and mistakes end the program here."""
    if not arguments or arguments[0] in {"-h", "--help", "help"}:
        with contextlib.suppress(BrokenPipeError):
            print(usage(), flush=True)
            sys.exit(0)
        # Whoever reads it has read enough.
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        sys.exit(0)
    if arguments[0] not in COMMANDS:
        print(f"There is no command “{arguments[0]}”.\n{usage()}", file=sys.stderr)
        sys.exit(2)
    return arguments[0], read(arguments[0], arguments[1:])


def speak_plainly() -> None:
    """On a terminal that has only plain letters, quotes and arrows become plain ones; nothing ends for want of a letter."""
    import codecs

    plain = str.maketrans({"“": '"', "”": '"', "’": "'", "…": "...", "×": "x", "→": "->", "°": " deg", "≤": "<="})

    def plainer(error: UnicodeError) -> tuple[str, int]:
        text = error.object[error.start : error.end].translate(plain)  # type: ignore[attr-defined]
        return "".join(letter if letter.isascii() else "?" for letter in text), error.end  # type: ignore[attr-defined]

    codecs.register_error("plainer", plainer)
    for stream in (sys.stdout, sys.stderr):
        stream.reconfigure(errors="plainer")  # type: ignore[union-attr]


if __name__ == "__main__":
    speak_plainly()
    name, options = checked(sys.argv[1:])
    needs = COMMANDS[name]
    needs_database = needs.database or getattr(options, "coverage", False)
    needs_browser = name in BROWSING or getattr(options, "coverage", False)
    print(
        "requirements-dev.lock" if needs.for_tests else "requirements.lock",
        "postgresql" if needs_database else "-",
        "chromium" if needs_browser else "-",
    )
    sys.exit(GOES_ON)
