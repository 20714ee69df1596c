"""The worker beside the web server: begun, watched for its end, begun again, ended."""

import sys
from collections.abc import Iterator
from contextlib import contextmanager

from command.machine import ROOT
from command.processes import Watched


class Worker(Watched):
    """One process that takes jobs from the queue."""

    def start(self) -> None:
        self.begin([sys.executable, "-m", "command.work"], ROOT)


@contextmanager
def working() -> Iterator[None]:
    """One worker, until the block ends."""
    worker = Worker()
    try:
        worker.start()
        yield
    finally:
        worker.stop()
