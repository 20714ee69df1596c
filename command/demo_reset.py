"""``./heron demo-reset``: the demo made anew with dates that end now; visitors' copies are taken out."""

from command.application import point_at, prepare
from command.cluster import Cluster


def run(arguments: list[str]) -> int:
    with Cluster("work") as cluster:
        cluster.create_database()
        point_at(cluster)
        prepare(demo=True)
        from django.core.management import call_command

        call_command("load_demo", "--again")
    print("The demo is as it was on the first day; the copies of its visitors are gone.")
    return 0
