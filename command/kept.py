"""``./heron kept``: what restores and upgrades have set aside, how large it is, and how to remove it."""

import argparse
import re
import shutil
import sys
from pathlib import Path

from command.cluster import Cluster
from command.trouble import Trouble

# Of the backups that restores make of what was here before, so many stay.
RESTORES_KEPT = 3


class Kept:
    """What was set aside for a cluster: backups of what was there before a restore, and data folders of older PostgreSQLs."""

    def __init__(self, cluster: Cluster) -> None:
        self.folder = cluster.folder.parent / "backups"
        self._cluster = cluster

    def backups(self) -> list[Path]:
        """What restores kept, the newest first."""
        return sorted(
            (file for file in self.folder.glob("before-*.backup") if re.fullmatch(r"before-[\d-]+\.backup", file.name)), reverse=True
        )

    def data(self) -> list[Path]:
        """Data folders that were set aside for a newer PostgreSQL."""
        return sorted(path for path in self._cluster.folder.glob("data.*") if re.fullmatch(r"data\.\d+(-\d+)?", path.name))

    def all(self) -> list[Path]:
        return [*self.backups(), *self.data()]

    def thin_out(self, keep: int = RESTORES_KEPT) -> list[Path]:
        """Remove the oldest of the backups that restores made; returns those."""
        gone = self.backups()[keep:]
        for file in gone:
            file.unlink()
        return gone

    def remove(self, name: str) -> Path:
        """Remove one of them by its name.

        Raises:
            Trouble: there is none of that name, or it cannot be removed.
        """
        wanted = next((path for path in self.all() if path.name == name), None)
        if wanted is None:
            raise Trouble(f"Nothing by the name “{name}” was set aside. See  ./heron kept")
        try:
            shutil.rmtree(wanted) if wanted.is_dir() else wanted.unlink()
        except OSError as error:
            raise Trouble(f"{wanted} could not be removed: {error.strerror or error}.") from None
        return wanted


def run(options: argparse.Namespace) -> int:
    kept = Kept(Cluster("work"))
    if options.remove:
        size = next((size_of(path) for path in kept.all() if path.name == options.remove), 0)
        if not options.yes and not _agreed(f"Remove {options.remove}, {size / 1e6:,.1f} MB, for good?"):
            print("Nothing was removed.")
            return 1
        print(f"Removed: {kept.remove(options.remove)}")
        return 0
    if not kept.all():
        print("Nothing was set aside by a restore or an upgrade.")
        return 0
    print("Set aside by restores and upgrades:")
    for path in kept.all():
        print(f"  {path.name:<32} {size_of(path) / 1e6:>10,.1f} MB   {path}")
    print("Bring one of the backups back:  ./heron restore FILE\nRemove one for good:            ./heron kept --remove NAME")
    return 0


def size_of(path: Path) -> int:
    """How many bytes a file or a folder takes; what cannot be read counts as nothing."""
    try:
        return sum(file.lstat().st_size for file in (path.rglob("*") if path.is_dir() else [path]))
    except OSError:
        return 0


def _agreed(question: str) -> bool:
    """Ask on the terminal; without one nobody agreed."""
    if not sys.stdin.isatty():
        print(f"{question} Say so with --yes.")
        return False
    return input(f"{question} [y/N] ").strip().lower() in {"y", "yes"}
