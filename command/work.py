"""``./heron work``: one more worker for the queue, here or on another machine that reaches the database."""

import argparse
import os
import sys

from command.application import BASE_SETTINGS, point_at
from command.cluster import Cluster

# How much the worker gives way to the web server.
NICER = 10


def run(options: argparse.Namespace) -> int:
    """Work until it is ended, at the database that the environment names, else at this folder's own."""
    if os.environ.get("CALM_HERON_DATABASE_HOST"):
        os.environ.setdefault("DJANGO_SETTINGS_MODULE", BASE_SETTINGS)
        return work()
    with Cluster("work").running_or_started() as cluster:
        point_at(cluster)
        return work()


def work() -> int:
    """The working itself; the environment names the database."""
    import django

    # Pages go first: what they find is not yet there they work out themselves.
    os.nice(NICER)
    django.setup()
    from calm_heron.jobs import worker

    worker.work()
    return 0


if __name__ == "__main__":
    sys.exit(work())
