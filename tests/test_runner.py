"""The test runner itself: a run that did not reach its end has failed, and says so."""

import contextlib
import io
import unittest

from tests.runner import CountingRunner


class Stopping(unittest.TestCase):
    """Three tests of which the first ends the run, as Ctrl-C does. Begun by the test below, never by themselves."""

    def ends(self) -> None:
        self._outcome.result.stop()

    def passes(self) -> None:
        """Nothing to do."""


class Endings(unittest.TestCase):
    def closing_line(self, *names: str) -> tuple[int, str]:
        runner, suite, said = CountingRunner(verbosity=0), unittest.TestSuite(map(Stopping, names)), io.StringIO()
        runner.wanted = suite.countTestCases()
        with contextlib.redirect_stdout(said):
            failed = runner.suite_result(suite, unittest.TextTestRunner(stream=io.StringIO()).run(suite))
        return failed, f"{said.getvalue()}{runner._closing}"

    def test_a_run_that_was_interrupted_fails_and_says_how_much_never_ran(self):
        failed, said = self.closing_line("passes", "ends", "passes", "passes")
        self.assertEqual(failed, 1)
        self.assertEqual(said, "This run did not reach its end: 2 of 4 tests never ran. It counts as a failure.\n2 passed, 1 failed")

    def test_a_run_to_the_end_counts(self):
        self.assertEqual(self.closing_line("passes", "passes"), (0, "2 passed, 0 failed"))
