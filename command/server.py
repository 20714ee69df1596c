"""The web server: begun, watched for its end, begun again, ended."""

import shutil
import socket
import ssl
import sys
import tempfile
import time
import urllib.error
import urllib.request
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING

from command.line import LOOPBACK
from command.machine import ROOT
from command.processes import Watched
from command.trouble import Trouble

if TYPE_CHECKING:
    from command.certificate import Certificate

# Names the mark of the server that is to be ended once the new one is loaded.
IN_PLACE_OF = "CALM_HERON_IN_PLACE_OF"
# The number of the socket that it inherits, the port and the host that it listens at.
LISTENS_AT = "CALM_HERON_LISTENS_AT"
EVERY_ADDRESS = ("0.0.0.0", "::")


def in_address(host: str) -> str:
    """A host as it stands in an address: one with colons in brackets."""
    return f"[{host}]" if ":" in host else host


class Server(Watched):
    """gunicorn with the application, on one address, by HTTPS where it has a ``certificate`` to show. ``before`` is the mark of one that
    serves on until this one is loaded.

    Where it listens is held here as well: who asks for a page while it is started again waits for it, and meets no closed door.
    """

    def __init__(
        self,
        port: int,
        host: str = LOOPBACK,
        *,
        quiet: bool = True,
        record: Path | None = None,
        before: Path | None = None,
        certificate: "Certificate | None" = None,
    ) -> None:
        super().__init__(record)
        self.port, self.host, self.quiet, self.before = port, host, quiet, before
        self.certificate = certificate
        self._counts: Path | None = None
        self._door: socket.socket | None = None

    def start(self) -> None:
        # Both processes count into one folder, which begins empty.
        self._counts = Path(tempfile.mkdtemp(prefix="calm-heron-counts-"))
        if self._door is None:
            family = socket.AF_INET6 if ":" in self.host else socket.AF_INET
            self._door = socket.socket(family, socket.SOCK_STREAM)
            self._door.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        door = self._door.fileno()
        self.begin(
            [sys.executable, "-m", "gunicorn", "-c", str(ROOT / "command" / "serving.py"), "-b", f"fd://{door}"]
            + (["--certfile", str(shown.certificate), "--keyfile", str(shown.key)] if (shown := self.certificate) else [])
            + (["--log-level", "warning"] if self.quiet else []),
            ROOT,
            {
                "PROMETHEUS_MULTIPROC_DIR": str(self._counts),
                LISTENS_AT: f"{door} {self.port} {self.host}",
                IN_PLACE_OF: str(self.before or ""),
            },
            (door,),
        )
        self._wait()

    def stop(self) -> None:
        self._end()
        if self._door:
            self._door.close()
            self._door = None

    def start_again(self) -> None:
        self._end()
        self.start()

    def _end(self) -> None:
        super().stop()
        if self._counts:
            shutil.rmtree(self._counts, ignore_errors=True)

    def _wait(self) -> None:
        """Until the first page can be had; a server that has ended is a trouble."""
        host = LOOPBACK if self.host in EVERY_ADDRESS else in_address(self.host)
        address = f"{'https' if self.certificate else 'http'}://{host}:{self.port}/alive/"
        trusted = ssl.create_default_context(cafile=self.certificate.authority) if self.certificate else None
        for _ in range(1200):
            if self.has_ended():
                raise Trouble("The web server ended as soon as it was started; the lines above say why.")
            if self.before and self.before.exists():
                # What answers now would be the one before.
                time.sleep(0.05)
                continue
            try:
                urllib.request.urlopen(address, timeout=2, context=trusted).read()
                return
            except urllib.error.HTTPError as error:
                raise Trouble(f"The web server answers with an error ({error.code}); the lines above say why.") from None
            except (urllib.error.URLError, ConnectionError, TimeoutError):
                time.sleep(0.05)
        raise Trouble("The web server does not answer.")


@contextmanager
def served(port: int) -> Iterator[None]:
    """Serve the application on loopback as ``./heron start`` does, until the block ends."""
    server = Server(port)
    try:
        server.start()
        yield
    finally:
        server.stop()
