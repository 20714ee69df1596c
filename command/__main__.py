"""Choose the command and turn every trouble into one plain sentence."""

import codecs
import importlib
import sys

from command.trouble import Trouble

COMMANDS = {
    "start": "start Calm Heron with its demo workshop and print the address",
    "backup": "write everything that people recorded to a file, or every night; see ./heron backup --help",
    "restore": "put what a backup holds in the place of what is here",
    "reset-link": "make a link by which somebody chooses a new password",
    "take-over": "use the data of another installation, whose checkout is gone",
    "upgrade-data": "bring the data over to a newer PostgreSQL",
    "test": "run every test; name some to run only those, as in ./heron test tests.wood",
    "check": "lint, types, templates, docstrings, boundaries between parts, style sheet, migrations",
    "shots": "retake docs/screenshots from the demo workshop",
    "bench": "measure, and show the figures as ratios",
    "science": "work every check of the science against published figures anew",
    "cases": "work everyday cases through the screens and write what they say into docs/science.md",
    "demo-reset": "make the demo anew and take out its visitors' copies; other workshops stay untouched",
    "simulate": "run a device that is none: kiln or scale; see ./heron simulate kiln --help",
    "style": "compile the style sheet (needs Node)",
}
# Those that explain themselves, and those that take the names of parts.
TAKE_ARGUMENTS = ("start", "backup", "restore", "reset-link", "test", "simulate")
TAKE_NAMES = ("bench", "science", "take-over")


def usage() -> str:
    return "Usage: ./heron COMMAND\n" + "\n".join(f"  {name:<12} {what}" for name, what in COMMANDS.items())


def speak_plainly() -> None:
    """On a terminal that has only plain letters, quotes and arrows become plain ones; nothing ends for want of a letter."""
    plain = str.maketrans({"“": '"', "”": '"', "’": "'", "…": "...", "×": "x", "→": "->", "°": " deg", "≤": "<="})

    def plainer(error: UnicodeError) -> tuple[str, int]:
        text = error.object[error.start : error.end].translate(plain)
        return "".join(letter if letter.isascii() else "?" for letter in text), error.end

    codecs.register_error("plainer", plainer)
    for stream in (sys.stdout, sys.stderr):
        stream.reconfigure(errors="plainer")


def main(arguments: list[str]) -> int:
    if not arguments or arguments[0] in {"-h", "--help", "help"}:
        print(usage())
        return 0
    name, *rest = arguments
    if name not in COMMANDS:
        print(f"There is no command “{name}”.\n{usage()}", file=sys.stderr)
        return 2
    if rest and rest[0] in {"-h", "--help", "help"} and name not in TAKE_ARGUMENTS:
        print(f"./heron {name}: {COMMANDS[name]}")
        return 0
    if rest and name not in TAKE_ARGUMENTS and name not in TAKE_NAMES:
        print(f"./heron {name} takes nothing after its name; “{rest[0]}” was not understood.", file=sys.stderr)
        return 2
    try:
        return importlib.import_module("command." + name.replace("-", "_")).run(rest) or 0
    except Trouble as trouble:
        print(trouble, file=sys.stderr)
        return 1
    except KeyboardInterrupt:
        return 130


if __name__ == "__main__":
    speak_plainly()
    sys.exit(main(sys.argv[1:]))
