"""``./heron demo-reset``: the demo made anew with dates that end now; visitors' copies are taken out."""

import argparse

from command.application import prepare
from command.cluster import Cluster


def run(options: argparse.Namespace) -> int:
    with Cluster("work") as cluster:
        cluster.create_database()
        prepare(cluster, demo=True)
        import django
        from django.core.management import call_command

        django.setup()
        call_command("load_demo", "--again")
    print("The demo is as it was on the first day; the copies of its visitors are gone.")
    return 0
