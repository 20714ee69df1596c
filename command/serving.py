"""How the application is served: two processes, a few threads each, nothing written to the home folder."""

import gc
import os
import socket
import sys
import threading
from pathlib import Path
from typing import Any

from command.processes import end_marked
from command.server import IN_PLACE_OF, LISTENS_AT

wsgi_app = "calm_heron.wsgi:application"
workers = 2
threads = 4
worker_class = "gthread"
preload_app = True
control_socket_disable = True
graceful_timeout = 2
limit_request_line = 8000
LATER_S = 3.0


# While the program is loaded nothing that was made is given up again: the collector of memory would walk it for nothing, again and again.
gc.disable()


def on_starting(server: Any) -> None:
    """All is loaded and no port is taken yet: the server whose place this one takes served until now."""
    if before := os.environ.get(IN_PLACE_OF):
        end_marked(Path(before))
    if LISTENS_AT not in os.environ:
        # Started by hand, with -b: gunicorn opens its own.
        return
    door, port, host = os.environ[LISTENS_AT].split(" ")
    listening = socket.socket(fileno=os.dup(int(door)))
    # One that is started again finds it bound, and whoever waits at it.
    with listening:
        if listening.getsockname()[1] == 0:
            try:
                listening.bind((host, int(port)))
            except OSError as error:
                sys.exit(f"Nothing can be served at port {port}: {error.strerror}.")


def post_worker_init(worker: Any) -> None:
    """Load what only some pages need while the first page is being read: so the address opens two seconds sooner, and no page waits."""
    gc.freeze()
    gc.enable()
    later = threading.Timer(LATER_S, _load_the_rest)
    later.daemon = True
    later.start()


def _load_the_rest() -> None:
    import fpdf  # noqa: F401
    import scipy.optimize  # noqa: F401

    leave_what_is_loaded()


def leave_what_is_loaded() -> None:
    """What has been loaded by now stays as long as the process: the collector of memory goes past it from now on, and comes by less often.
    Walking it all took 170 ms, in the middle of whatever page was being made; coming by after every 700 things made, a twentieth of all."""
    gc.collect()
    gc.freeze()
    gc.set_threshold(20_000, 20, 20)


def child_exit(server: Any, worker: Any) -> None:
    """What a process counted that ended stays counted."""
    from prometheus_client import multiprocess

    multiprocess.mark_process_dead(worker.pid)  # type: ignore[no-untyped-call]
