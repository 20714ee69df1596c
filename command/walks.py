"""``./heron walks``: the long walks of the tests, whole; see ``tests/walks.py``."""

import argparse
import os

from command import line, test


def run(options: argparse.Namespace) -> int:
    from tests.walks import LONG, WALKS

    os.environ[LONG] = "1"
    return test.run(line.read("test", [*(options.names or WALKS), "--parallel", "2"]))
