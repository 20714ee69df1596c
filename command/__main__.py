"""Run the chosen command and turn every trouble into one plain sentence."""

import importlib
import os
import signal
import sys
from types import FrameType

from command import line
from command.trouble import Trouble


def main(arguments: list[str]) -> int:
    name, options = line.checked(arguments)
    # Ended from outside, a command clears away what it began, as after Ctrl-C.
    signal.signal(signal.SIGTERM, _ended)
    try:
        return importlib.import_module("command." + name.replace("-", "_")).run(options) or 0
    except Trouble as trouble:
        print(trouble, file=sys.stderr)
        return 1
    except KeyboardInterrupt:
        return 130
    except BrokenPipeError:
        # Whoever read what it says has read enough.
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        return 0


def _ended(number: int, frame: FrameType | None) -> None:
    raise KeyboardInterrupt


if __name__ == "__main__":
    line.speak_plainly()
    sys.exit(main(sys.argv[1:]))
