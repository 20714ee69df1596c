"""``./heron test``: prepare the machine as ``start`` does, plus a browser, and run every test or the ones named."""

import argparse
import os

from command.application import point_at
from command.cluster import Cluster
from command.machine import ROOT, need_chromium

EVERYTHING = ("tests", "calm_heron")
# Of two cores: while one waits, for a page or for a server to begin, the others work.
AT_ONCE = 3


def run(options: argparse.Namespace) -> int:
    os.environ["CALM_HERON_CHROMIUM"] = need_chromium()
    # The synchronous browser driver keeps an event loop in the thread that also talks to the database.
    os.environ["DJANGO_ALLOW_ASYNC_UNSAFE"] = "true"
    with Cluster("test", durable=False) as cluster:
        point_at(cluster, settings="calm_heron.settings.testing", as_owner=True)
        os.chdir(ROOT)
        import django

        django.setup()
        from tests.runner import CountingRunner

        runner = CountingRunner(
            interactive=False,
            verbosity=options.verbosity,
            failfast=options.failfast,
            reverse=options.reverse,
            shuffle=_seed(options.shuffle),
            parallel=options.parallel or (1 if options.names else AT_ONCE),
            test_name_patterns=[_pattern(word) for word in options.k],
            durations=options.durations,
        )
        return 1 if runner.run_tests(options.names or EVERYTHING) else 0


def _seed(typed: str | None) -> int | bool:
    """False for the usual order, True for one by chance, or the number of an order that was seen before."""
    return False if typed is None else int(typed) if typed.isdecimal() else True


def _pattern(word: str) -> str:
    return word if "*" in word else f"*{word}*"
