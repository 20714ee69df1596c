"""Backups every night: switched on or off, made by the running start command, thinned out with age."""

import contextlib
import subprocess
import sys
import time
from datetime import datetime, timedelta
from pathlib import Path

from calm_heron.jobs.backup_names import FAILED_FILE, STAMP, failure, made_at
from command.cluster import Cluster
from command.machine import ROOT, called_from
from command.trouble import Trouble

HOUR = 3
# Kept: the newest of each of so many days, weeks and months.
DAYS, WEEKS, MONTHS = 7, 4, 12
LOOK_SECONDS, AGAIN_SECONDS = 60.0, 3600.0


class Nightly:
    """The nightly backups of one cluster. A file beside its data names their folder; without it none are made."""

    def __init__(self, cluster: Cluster) -> None:
        self._file = cluster.folder / "nightly"
        # When the last one failed, and why; gone once one was made.
        self._failed = cluster.folder / FAILED_FILE
        self._usual = cluster.folder.parent / "backups"
        self._running: subprocess.Popen[bytes] | None = None
        self._next_look = 0.0

    @property
    def folder(self) -> Path | None:
        try:
            return Path(self._file.read_text(encoding="utf-8").strip())
        except FileNotFoundError:
            return None

    def switch(self, on: bool, into: Path | None = None) -> str:
        """Switch them on or off; returns how it stands then.

        Raises:
            Trouble: the folder cannot be made or written to.
        """
        if on:
            folder = called_from(into or self.folder or self._usual)
            try:
                folder.mkdir(parents=True, exist_ok=True, mode=0o700)
                probe = folder / ".calm-heron"
                probe.touch()
                probe.unlink()
                self._file.parent.mkdir(parents=True, exist_ok=True)
                self._file.write_text(f"{folder}\n", encoding="utf-8")
            except OSError as error:
                raise Trouble(f"Backups cannot be kept in {folder}: {error.strerror}.") from None
        else:
            self._file.unlink(missing_ok=True)
        self._failed.unlink(missing_ok=True)
        return self.word()

    def word(self) -> str:
        """How it stands with them, in a sentence or two."""
        if not self.folder:
            return "No nightly backups are made. To have them:  ./heron backup --nightly on --into FOLDER"
        newest = max(self._files().values(), default=None)
        if failed := failure(self._failed.parent):
            last = f"THE LAST ONE FAILED, {failed[0]:%d %B %Y, %H:%M}: {failed[1]}"
            return f"Nightly backups go into {self.folder}, after {HOUR}:00 while Calm Heron runs. {last}"
        last = f"The last one is of {newest:%d %B %Y, %H:%M}." if newest else "There is none yet."
        return f"Nightly backups go into {self.folder}, after {HOUR}:00 while Calm Heron runs. {last}"

    def next_file(self, now: datetime | None = None) -> Path:
        if not self.folder:
            raise Trouble("Nightly backups are not switched on:  ./heron backup --nightly on --into FOLDER")
        return self.folder / f"calm-heron-{now or datetime.now():{STAMP}}.backup"

    def is_due(self, now: datetime) -> bool:
        """Whether none was made since the last time that it was three in the morning."""
        if not self.folder:
            return False
        night = now.replace(hour=HOUR, minute=0, second=0, microsecond=0)
        night = night if night <= now else night - timedelta(days=1)
        return max(self._files().values(), default=datetime.min) < night

    def look(self) -> None:
        """Begin one where it is due, and tell of one that failed; meant to be called again and again."""
        if self._running and self._running.poll() is not None:
            if self._running.returncode:
                assert self._running.stderr is not None
                reason = self._running.stderr.read().decode(errors="replace").strip()
                print(f"THE NIGHTLY BACKUP FAILED, and is tried again in an hour. {reason}", file=sys.stderr, flush=True)
                self._note_failure(reason)
                self._next_look = time.monotonic() + AGAIN_SECONDS
            else:
                self._failed.unlink(missing_ok=True)
            if self._running.stderr is not None:
                self._running.stderr.close()
            self._running = None
        if self._running or time.monotonic() < self._next_look:
            return
        self._next_look = time.monotonic() + LOOK_SECONDS
        if self.is_due(datetime.now()):
            self._running = subprocess.Popen(
                [sys.executable, "-m", "command", "backup", "--nightly", "now"],
                cwd=ROOT,
                stdin=subprocess.DEVNULL,
                stdout=subprocess.DEVNULL,
                stderr=subprocess.PIPE,
                start_new_session=True,
            )

    def _note_failure(self, reason: str) -> None:
        with contextlib.suppress(OSError):
            self._failed.write_text(f"{datetime.now().astimezone().isoformat(timespec='seconds')}\n{reason}\n", encoding="utf-8")

    def thin_out(self) -> None:
        """Remove what is neither of the last days, weeks nor months. Only files of ours are touched."""
        files = self._files()
        wanted = to_keep(list(files.values()))
        for file, made in files.items():
            if made not in wanted:
                file.unlink(missing_ok=True)

    def _files(self) -> dict[Path, datetime]:
        results = {}
        for file in self.folder.glob("calm-heron-*.backup") if self.folder else ():
            if made := made_at(file.name):
                results[file] = made
        return results


def to_keep(moments: list[datetime]) -> set[datetime]:
    """Of the moments at which backups were made, those to keep: the newest of each of the last days, weeks and months that have one."""
    chosen = set()
    for number, part in ((DAYS, "%Y-%m-%d"), (WEEKS, "%G-%V"), (MONTHS, "%Y-%m")):
        newest = {}
        for moment in sorted(moments):
            newest[moment.strftime(part)] = moment
        chosen |= set(sorted(newest.values())[-number:])
    return chosen
