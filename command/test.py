"""``./heron test``: prepare the machine as ``start`` does, plus a browser, and run every test or the ones named."""

import os
import sys

from command.application import point_at
from command.cluster import Cluster
from command.machine import ROOT, need_chromium


def run(arguments: list[str]) -> int:
    os.environ["CALM_HERON_CHROMIUM"] = need_chromium()
    # The synchronous browser driver keeps an event loop in the thread that also talks to the database.
    os.environ["DJANGO_ALLOW_ASYNC_UNSAFE"] = "true"
    with Cluster("test", durable=False) as cluster:
        point_at(cluster, settings="calm_heron.settings.testing", as_owner=True)
        from django.core.management import execute_from_command_line

        os.chdir(ROOT)
        named = [argument for argument in arguments if not argument.startswith("-")]
        labels = [] if named else ["tests", "calm_heron"]
        parallel = [] if named else ["--parallel", "2"]
        try:
            execute_from_command_line(["./heron", "test", "--noinput", *parallel, *arguments, *labels])
        except SystemExit as ended:
            return int(ended.code or 0)
    return 0


if __name__ == "__main__":
    sys.exit(run(sys.argv[1:]))
