"""Django's test runner with prepared databases, the longest tests first, and one closing line that counts and tells of a run cut short."""

import json
import signal
import time
from collections.abc import Iterator
from typing import Any
from unittest import TestCase, TestSuite

from django.test import runner as django_runner
from django.test.runner import DiscoverRunner, ParallelTestSuite

from command.installation import state_folder
from tests import databases
from tests.cases import Prepared

# Taken for a class that never ran here: a journey in the browser, a test that commits or starts programs, any other.
JOURNEY_S, COMMITTING_S, OTHER_S = 6.0, 2.0, 0.5
# How long each part took when it ran last here.
RECORD = state_folder() / "test" / "seconds-by-class.json"


def known_seconds() -> dict[str, float]:
    """Seconds by the name of a part, as they were measured last."""
    try:
        return json.loads(RECORD.read_text())
    except (OSError, ValueError):
        return {}


def _init_worker(counter: Any, *_: Any) -> None:
    with counter.get_lock():
        counter.value += 1
        django_runner._worker_id = counter.value
    # The run itself clears away when it is ended; its workers just end.
    signal.signal(signal.SIGTERM, signal.SIG_DFL)
    databases.in_process(counter.value)


def _run_subsuite(args: Any) -> Any:
    """One part of the run, in a process of its own; its seconds ride along as an event of their own."""
    begun = time.perf_counter()
    index, events = django_runner._run_subsuite(args)
    return index, [*events, ("took", -1, time.perf_counter() - begun)]


class InParallel(ParallelTestSuite):
    """Parts of a run in several processes, the longest first, and what each took."""

    init_worker = _init_worker
    run_subsuite = _run_subsuite

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.took: dict[str, float] = {}

    def handle_event(self, result: Any, tests: Any, event: Any) -> None:
        if event[0] == "took":
            self.took[_name(tests)] = event[2]
            RECORD.write_text(json.dumps(known_seconds() | self.took))
        else:
            super().handle_event(result, tests, event)


class CountingRunner(DiscoverRunner):
    """Prints ``N passed, N failed`` (and how many were skipped) as the last line; a run that did not reach its end has failed."""

    parallel_test_suite = InParallel

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.slowest = self.durations or 0
        # Unittest's own list wants a newer Python; ours is by class.
        self.durations = None
        self._failed = 1
        self._closing = "0 passed, 1 failed"

    def build_suite(self, *args: Any, **kwargs: Any) -> Any:
        suite = super().build_suite(*args, **kwargs)
        self.wanted = suite.countTestCases()
        if isinstance(suite, InParallel):
            parts = [part for whole in suite.subsuites for part in _parts(whole)]
            if self._shuffler is None:
                known = known_seconds()
                parts.sort(key=lambda part: _usual_seconds(part, known), reverse=not self.reverse)
            suite.subsuites = parts
        self.kinds = {getattr(type(test), "database", databases.EMPTY) for test in _tests(suite)}
        return suite

    def setup_databases(self, **kwargs: Any) -> Any:
        if not kwargs.get("aliases"):
            return False
        databases.prepare(self.kinds, self.parallel)
        return True

    def teardown_databases(self, old_config: Any, **kwargs: Any) -> None:
        if old_config:
            databases.drop_copies()

    def run_suite(self, suite: Any, **kwargs: Any) -> Any:
        result = super().run_suite(suite, **kwargs)
        took = suite.took if isinstance(suite, InParallel) else {}
        for seconds, name in sorted(((seconds, name) for name, seconds in took.items()), reverse=True)[: self.slowest]:
            print(f"{seconds:7.1f} s  {name}")
        return result

    def suite_result(self, suite: Any, result: Any, **kwargs: Any) -> Any:
        # Several failing sub-tests are one failing test.
        wrong = [test for test, _ in (*result.failures, *result.errors)] + result.unexpectedSuccesses
        failed = len({getattr(test, "test_case", test).id() for test in wrong})
        skipped, unreached = len(result.skipped), self.wanted - result.testsRun
        passed = max(result.testsRun - failed - skipped, 0)
        if unreached > 0:
            print(f"This run did not reach its end: {unreached} of {self.wanted} tests never ran. It counts as a failure.")
            failed = max(failed, 1)
        self._failed = failed
        self._closing = f"{passed} passed, {failed} failed" + (f", {skipped} skipped" if skipped else "")
        return failed

    def run_tests(self, test_labels: Any, **kwargs: Any) -> Any:
        try:
            super().run_tests(test_labels, **kwargs)
        finally:
            print(self._closing, flush=True)
        return self._failed


def _tests(suite: Any) -> Iterator[TestCase]:
    for part in suite:
        yield from _tests(part) if isinstance(part, TestSuite) else (part,)


def _parts(whole: TestSuite) -> Iterator[TestSuite]:
    """A class of tests as it is given to a process: whole, or test by test where its tests share nothing that is worth it."""
    tests = list(whole)
    if getattr(type(tests[0]), "apart", False):
        yield from (TestSuite([test]) for test in tests)
    else:
        yield whole


def _name(tests: list[TestCase]) -> str:
    kind = type(tests[0])
    name = f"{kind.__module__}.{kind.__qualname__}"
    return f"{name}.{tests[0]._testMethodName}" if getattr(kind, "apart", False) else name


def _usual_seconds(part: TestSuite, known: dict[str, float]) -> float:
    tests = list(part)
    kind = type(tests[0])
    # Where nothing was measured yet, as on a fresh machine: what those that take long say of themselves, each part of them.
    if hasattr(kind, "takes_s"):
        return known.get(_name(tests), kind.takes_s)
    each = JOURNEY_S if getattr(kind, "apart", False) else COMMITTING_S if issubclass(kind, Prepared) else OTHER_S
    return known.get(_name(tests), each * len(tests))
