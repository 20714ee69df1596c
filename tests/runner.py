"""Django's test runner, which runs the tests with the rights the application has, and has one closing line that counts."""

import psycopg
from django.db import connection
from django.test.runner import DiscoverRunner

from calm_heron.workshops import rights
from command.cluster import ROLE


class CountingRunner(DiscoverRunner):
    """Prints ``N passed, N failed`` (and how many were skipped) as the last line."""

    def setup_databases(self, **kwargs):
        made = super().setup_databases(**kwargs)
        if not made:
            return made
        names = [connection.settings_dict["NAME"]]
        names += [connection.creation.get_test_db_clone_settings(str(number + 1))["NAME"] for number in range(self.parallel)]
        for name in names[: 1 if self.parallel <= 1 else None]:
            with psycopg.connect(**connection.get_connection_params() | {"dbname": name}, autocommit=True) as owner:
                rights.settle(owner.cursor(), ROLE)
        act_as(ROLE)
        return made

    def teardown_databases(self, old_config, **kwargs):
        if old_config:
            act_as(None)
        super().teardown_databases(old_config, **kwargs)

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


def act_as(role: str | None) -> None:
    """Have every connection from now on act with a role's rights; with ``None`` as the owner again."""
    options = connection.settings_dict["OPTIONS"]
    if role:
        options["options"] = f"-c role={role}"
    else:
        options.pop("options", None)
    connection.close()
