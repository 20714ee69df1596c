"""Django's test runner with one closing line that counts."""

from django.test.runner import DiscoverRunner


class CountingRunner(DiscoverRunner):
    """Prints ``N passed, N failed`` (and how many were skipped) as the last line."""

    def suite_result(self, suite, result, **kwargs):
        failed = len(result.failures) + len(result.errors) + len(result.unexpectedSuccesses)
        skipped = len(result.skipped)
        self._closing = f"{result.testsRun - failed - skipped} passed, {failed} failed" + (f", {skipped} skipped" if skipped else "")
        return super().suite_result(suite, result, **kwargs)

    def run_tests(self, test_labels, **kwargs):
        failures = super().run_tests(test_labels, **kwargs)
        print(getattr(self, "_closing", "0 passed, 1 failed"), flush=True)
        return failures
