"""Django's test runner with one closing line that counts."""

from django.test.runner import DiscoverRunner


class CountingRunner(DiscoverRunner):
    """Prints ``N passed, N failed`` (and how many were skipped) as the last line."""

    def suite_result(self, suite, result, **kwargs):
        # Several failing sub-tests are one failing test.
        told = [test for test, _ in (*result.failures, *result.errors)] + result.unexpectedSuccesses
        failed = len({getattr(test, "test_case", test).id() for test in told})
        skipped = len(result.skipped)
        self._closing = f"{result.testsRun - failed - skipped} passed, {failed} failed" + (f", {skipped} skipped" if skipped else "")
        return super().suite_result(suite, result, **kwargs)

    def run_tests(self, test_labels, **kwargs):
        failures = super().run_tests(test_labels, **kwargs)
        print(getattr(self, "_closing", "0 passed, 1 failed"), flush=True)
        return failures
