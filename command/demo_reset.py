"""``./heron demo-reset``: the demo workshop as it was on the first day, with dates that end today."""

from command.application import point_at, prepare
from command.cluster import Cluster


def run(arguments: list[str]) -> int:
    with Cluster("work") as cluster:
        cluster.create_database()
        point_at(cluster)
        prepare(demo=True)
        from django.core.management import call_command

        call_command("load_demo", "--again")
    print("The demo workshop is as it was.")
    return 0
