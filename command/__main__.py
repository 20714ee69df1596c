"""Run the chosen command and turn every trouble into one plain sentence."""

import importlib
import sys

from command import line
from command.trouble import Trouble


def main(arguments: list[str]) -> int:
    name, options = line.checked(arguments)
    try:
        return importlib.import_module("command." + name.replace("-", "_")).run(options) or 0
    except Trouble as trouble:
        print(trouble, file=sys.stderr)
        return 1
    except KeyboardInterrupt:
        return 130


if __name__ == "__main__":
    line.speak_plainly()
    sys.exit(main(sys.argv[1:]))
