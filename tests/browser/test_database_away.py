"""A database that goes away for ten seconds: a calm page, nothing half-kept, and then it works again."""

import contextlib
import os
import socket
import subprocess
import sys
import threading
import time

from django.db import connection
from playwright.sync_api import expect

from calm_heron.air.demo import BENCH
from calm_heron.air.models import AirReading, Place
from command.cluster import free_port
from command.machine import ROOT
from tests import databases
from tests.browser.case import Journey


class Cable:
    """A loopback relay to PostgreSQL that can be pulled out and put back."""

    def __init__(self, target_port: int) -> None:
        self.target_port, self.port, self.plugged = target_port, free_port(), True
        self.open: list[socket.socket] = []
        self.listener = socket.create_server(("127.0.0.1", self.port))
        threading.Thread(target=self._accept, daemon=True).start()

    def _accept(self) -> None:
        while True:
            try:
                near, _ = self.listener.accept()
            except OSError:
                return
            if not self.plugged:
                near.close()
                continue
            far = socket.create_connection(("127.0.0.1", self.target_port))
            self.open += [near, far]
            for a, b in ((near, far), (far, near)):
                threading.Thread(target=self._carry, args=(a, b), daemon=True).start()

    def _carry(self, a: socket.socket, b: socket.socket) -> None:
        with contextlib.suppress(OSError):
            while data := a.recv(65536):
                b.sendall(data)
        # Shutting down, not only closing: that wakes the other direction's thread as well.
        for end in (a, b):
            with contextlib.suppress(OSError):
                end.shutdown(socket.SHUT_RDWR)
            end.close()

    def pull(self) -> None:
        self.plugged = False
        for end in self.open:
            with contextlib.suppress(OSError):
                end.shutdown(socket.SHUT_RDWR)
        self.open.clear()

    def plug(self) -> None:
        self.plugged = True


class DatabaseAway(Journey):
    takes_s = 30

    database = databases.DEMO

    def setUp(self):
        super().setUp()
        settings = connection.settings_dict
        self.cable = Cable(int(settings["PORT"]))
        self.addCleanup(self.cable.listener.close)
        # The real server, as it is started for people, but at the far end of the cable.
        self.address = f"http://127.0.0.1:{free_port()}"
        environment = os.environ | {
            "DJANGO_SETTINGS_MODULE": "calm_heron.settings.testing",
            "CALM_HERON_DATABASE_PORT": str(self.cable.port),
            "CALM_HERON_DATABASE_NAME": settings["NAME"],
        }
        server = subprocess.Popen(
            [
                sys.executable,
                "-m",
                "gunicorn",
                "-c",
                str(ROOT / "command" / "serving.py"),
                "-b",
                self.address[7:],
                "--log-level",
                "critical",
            ],
            cwd=ROOT,
            env=environment,
            stderr=subprocess.DEVNULL,
        )
        self.addCleanup(server.wait)
        self.addCleanup(server.terminate)
        for _ in range(200):
            try:
                socket.create_connection(("127.0.0.1", int(self.address.rsplit(":", 1)[1]))).close()
                return
            except OSError:
                time.sleep(0.1)

    def test_a_form_sent_while_it_is_away_is_kept_once_it_is_back(self):
        page = self.page
        page.goto(self.address)
        page.get_by_role("button", name="Step into the demo workshop").click()
        page.wait_for_url("**/w/*/")
        place = Place.objects.get(name=BENCH, workshop__slug=page.url.split("/")[-2])
        page.goto(f"{page.url}air/{place.pk}/")
        before = AirReading.objects.count()
        page.get_by_label("Temperature, °F").fill("64")
        page.get_by_label("Relative humidity, %").fill("55")
        self.cable.pull()
        elapsed = time.monotonic()
        page.get_by_role("button", name="Save the reading").click()
        expect(page.get_by_role("heading", name="One moment: we can’t reach the database.")).to_be_visible()
        expect(page.get_by_text("What you typed is still here")).to_be_visible()
        # Sent again too early: still calm, still there.
        page.get_by_role("button", name="Send it again").click()
        expect(page.get_by_role("button", name="Send it again")).to_be_visible()
        self.assertEqual(AirReading.objects.count(), before)
        time.sleep(max(0, 10 - (time.monotonic() - elapsed)))
        self.cable.plug()
        page.get_by_role("button", name="Send it again").click()
        expect(page.get_by_role("heading", name="What will wood settle at in Bench room?")).to_be_visible()
        self.assertEqual(AirReading.objects.count(), before + 1)
        self.assertAlmostEqual(AirReading.objects.latest("id").relative_humidity, 0.55)

    def test_a_page_looked_at_meanwhile_looks_again_by_itself(self):
        page = self.page
        page.goto(self.address)
        page.get_by_role("button", name="Step into the demo workshop").click()
        page.wait_for_url("**/w/*/")
        self.cable.pull()
        page.goto(f"{page.url}stock/")
        expect(page.get_by_role("heading", name="One moment")).to_be_visible()
        self.cable.plug()
        expect(page.get_by_role("heading", name="What wood do you have?")).to_be_visible(timeout=15_000)
