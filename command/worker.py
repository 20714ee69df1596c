"""The worker beside the web server: begun, watched for its end, begun again, ended."""

import subprocess
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from command import processes
from command.machine import ROOT


class Worker:
    """One process that takes jobs from the queue. ``record`` keeps the mark of it for a later start to end it by."""

    def __init__(self, record: Path | None = None) -> None:
        self.record = record
        self._process: subprocess.Popen[bytes] | None = None

    def start(self) -> None:
        self._process = subprocess.Popen([sys.executable, "-m", "command.work"], cwd=ROOT, start_new_session=True)
        if self.record:
            self.record.write_text(processes.mark(self._process.pid))

    def has_ended(self) -> bool:
        return self._process is None or self._process.poll() is not None

    def start_again(self) -> None:
        """After it has died, or where its database has moved."""
        self.stop()
        self.start()

    def stop(self) -> None:
        if self._process is None:
            return
        self._process.terminate()
        try:
            self._process.wait(10)
        except subprocess.TimeoutExpired:
            self._process.kill()
            self._process.wait(10)
        processes.end_group(self._process.pid)
        if self.record:
            self.record.unlink(missing_ok=True)


@contextmanager
def working() -> Iterator[None]:
    """One worker, until the block ends."""
    worker = Worker()
    try:
        worker.start()
        yield
    finally:
        worker.stop()
