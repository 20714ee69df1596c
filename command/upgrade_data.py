"""``./heron upgrade-data``: bring the data over to the newest PostgreSQL on this machine; the old data stay beside."""

import argparse

from command import restore
from command.cluster import Cluster
from command.machine import install, postgres_homes
from command.trouble import Trouble


def run(options: argparse.Namespace) -> int:
    cluster = Cluster("work")
    if not cluster.data.exists():
        raise Trouble("There are no data here yet; the first start makes them with the newest PostgreSQL there is.")
    old, newest = cluster.made_by(), max(postgres_homes(), default=0)
    if old is not None and old >= newest:
        print(f"Your data are made by PostgreSQL {old}, and there is none newer on this machine.")
        return 0
    if old not in postgres_homes():
        install(f"postgresql-{old}")
    with cluster:
        backup = restore.keep_what_is_there(cluster)
    aside = cluster.set_aside()
    try:
        with cluster:
            if backup:
                restore.into(cluster, restore.look(backup), keep=False)
    except BaseException:
        cluster.take_back(aside)
        raise
    print(
        f"Your data are now made by PostgreSQL {newest}. The old ones stay in {aside}, and as a backup in {backup}; remove them when you"
        " like."
    )
    return 0
