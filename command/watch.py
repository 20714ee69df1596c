"""Watching over database, web server and worker: what has died is started again; what dies again and again ends in a sentence."""

import time

from command.application import point_at, say
from command.cluster import Cluster
from command.nightly import Nightly
from command.server import Server
from command.trouble import Trouble
from command.worker import Worker

EVERY_SECONDS = 0.25
# More deaths than this within the time are no accident.
MOST, WITHIN_SECONDS = 5, 600.0


class Watch:
    """Looks after one cluster, the server in front of it and the worker beside it, until it is interrupted."""

    def __init__(self, cluster: Cluster, server: Server, worker: Worker, nightly: Nightly) -> None:
        self.cluster, self.server, self.worker, self.nightly = cluster, server, worker, nightly
        self._deaths: list[float] = []

    def keep(self) -> None:
        """For ever.

        Raises:
            Trouble: something died more than a few times within ten minutes, or does not start again.
        """
        while True:
            self.look()
            time.sleep(EVERY_SECONDS)

    def look(self) -> None:
        """One look: start again what is not there."""
        if not self.cluster.is_alive():
            self._count("database")
            say("The database ended unexpectedly; it is being started again.")
            port = self.cluster.port
            self.cluster.start_again()
            if self.cluster.port != port:
                # Its old port was taken meanwhile: the web server has to be told the new one.
                point_at(self.cluster)
                self.server.start_again()
                self.worker.start_again()
            say("The database runs again. Nothing that was kept is lost.")
        if self.server.has_ended():
            self._count("web server")
            say("The web server ended unexpectedly; it is being started again.")
            self.server.start_again()
            say("The web server runs again.")
        if self.worker.has_ended():
            self._count("worker")
            say("The worker ended unexpectedly; it is being started again.")
            self.worker.start_again()
        self.nightly.look()

    def _count(self, what: str) -> None:
        now = time.monotonic()
        self._deaths = [death for death in self._deaths if now - death < WITHIN_SECONDS] + [now]
        if len(self._deaths) > MOST:
            raise Trouble(
                f"CALM HERON HAS STOPPED. The {what} ended {len(self._deaths)} times within ten minutes and was not started once more. "
                f"Your data are untouched in {self.cluster.data}. What the database wrote last is in {self.cluster.logs}; "
                "is there memory and space left?"
            )
