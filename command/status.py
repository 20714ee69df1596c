"""``./heron status``: where the data lie and how large they are, what runs, the last backup, the queue, and the versions of all of it."""

import argparse
import platform
import shutil
import subprocess
from importlib import metadata
from pathlib import Path

from command import installation
from command.application import point_at
from command.cluster import DATABASE, Cluster
from command.kept import Kept, size_of
from command.machine import ROOT
from command.nightly import Nightly
from command.trouble import Trouble


def run(options: argparse.Namespace) -> int:
    cluster = Cluster("work")
    served = installation.running()
    lines = [("Data", data_word(cluster))]
    if served:
        lines.append(("Service", f"runs at {served.address}"))
    elif cluster.is_in_use():
        lines.append(("Service", "another command is at work on these data"))
    else:
        lines.append(("Service", "does not run; to start it:  ./heron start"))
    lines.append(("Backups", Nightly(cluster).word()))
    if kept := Kept(cluster).all():
        lines.append(("Set aside", f"{sum(size_of(path) for path in kept) / 1e6:,.0f} MB by restores and upgrades; see  ./heron kept"))
    if served or cluster.is_in_use():
        try:
            lines += told_by_database(cluster)
        except Trouble as trouble:
            lines.append(("Database", str(trouble)))
    lines.append(("Versions", versions(cluster)))
    for name, word in lines:
        print(f"{name:<10} " + word.replace("\n", "\n" + 11 * " "))
    return 0


def data_word(cluster: Cluster) -> str:
    folder = cluster.folder.parent
    if not cluster.data.exists():
        return f"none yet; they will lie in {folder}"
    return f"{folder}, {size_of(cluster.folder) / 1e6:,.0f} MB; {shutil.disk_usage(folder).free / 1e9:,.1f} GB free beside them"


def told_by_database(cluster: Cluster) -> list[tuple[str, str]]:
    """What the running database knows: its size, and how the queue stands."""
    with cluster.running_or_started():
        if DATABASE not in cluster.databases():
            return [("Database", "is being made")]
        with cluster.connect(DATABASE) as connection:
            row = connection.execute("SELECT pg_database_size(current_database())").fetchone()
        point_at(cluster)
        import django

        django.setup()
        from calm_heron.jobs.standing import standing
        from calm_heron.jobs.words import described

        now = standing()
    word, reason, _ = described(now)
    return [
        ("Database", f"{(row or [0])[0] / 1e6:,.0f} MB"),
        ("Queue", f"{now.waiting} wait, {now.at_work} being done, {now.failed} failed; workers: {now.workers}. {word}: {reason}"),
    ]


def versions(cluster: Cluster) -> str:
    told = [f"Calm Heron {own_version()}", f"Python {platform.python_version()}", f"Django {metadata.version('django')}"]
    if made_by := cluster.made_by():
        told.append(f"data of PostgreSQL {made_by}")
    return ", ".join(told)


def own_version(checkout: Path = ROOT) -> str:
    """The commit that is checked out, with its day; a copy without its history has none."""
    try:
        done = subprocess.run(
            ["git", "-c", f"safe.directory={checkout}", "log", "-1", "--format=%h of %cs"], cwd=checkout, capture_output=True, text=True
        )
    except OSError:
        return "of a version that is not known"
    return done.stdout.strip() or "of a version that is not known"
