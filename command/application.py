"""The Django side of the commands: point the application at a cluster and bring its database up to date."""

import os
import time
from collections.abc import Iterator
from contextlib import contextmanager

from command.cluster import DATABASE, Cluster, state_folder
from command.machine import ROOT


def point_at(cluster: Cluster, *, database: str = DATABASE, settings: str = "calm_heron.settings.base") -> None:
    """Set the environment that the settings read; child processes inherit it."""
    os.environ.update(cluster.environment())
    os.environ.setdefault("CALM_HERON_STATIC_ROOT", str(state_folder() / "static"))
    os.environ["CALM_HERON_DATABASE_NAME"] = database
    os.environ["DJANGO_SETTINGS_MODULE"] = settings


def prepare(*, demo: bool) -> None:
    """Migrate, gather static files, and load the demo workshop where there is none."""
    import django
    from django.core.management import call_command

    django.setup()
    call_command("migrate", verbosity=0, interactive=False)
    call_command("collectstatic", verbosity=0, interactive=False)
    from wood.drying import field

    # Compiled here where it never was (some ten seconds); the server finds it in the cache.
    field.warm()
    if demo:
        call_command("load_demo", verbosity=0)


@contextmanager
def served(port: int, *, quiet: bool = True) -> Iterator[None]:
    """Serve the application on loopback as ``./heron start`` does, until the block ends."""
    import subprocess
    import sys

    server = subprocess.Popen(
        [sys.executable, "-m", "gunicorn", "-c", str(ROOT / "command" / "serving.py"), "-b", f"127.0.0.1:{port}"]
        + (["--log-level", "warning"] if quiet else []),
        cwd=ROOT,
        start_new_session=True,
    )
    try:
        wait_for(port, server)
        yield
    finally:
        server.terminate()
        try:
            server.wait(10)
        except subprocess.TimeoutExpired:
            server.kill()


def wait_for(port: int, server) -> None:
    """Until the first page can be had; a server that has ended is a trouble."""
    import urllib.error
    import urllib.request

    from command.trouble import Trouble

    for _ in range(600):
        if server.poll() is not None:
            raise Trouble("The web server ended as soon as it was started; the lines above say why.")
        try:
            urllib.request.urlopen(f"http://127.0.0.1:{port}/alive/", timeout=2).read()
            return
        except (urllib.error.URLError, ConnectionError, TimeoutError):
            time.sleep(0.05)
    raise Trouble("The web server does not answer.")
