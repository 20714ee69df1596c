"""Many people at once: everyone in a demo workshop of their own, looking, reading the air, reading boards, with two seconds of thought."""

import http.cookiejar
import os
import random
import re
import threading
import time
import urllib.error
import urllib.parse
import urllib.request
from collections import defaultdict

import numpy as np

from command.application import prepare
from command.bench import best, row
from command.cluster import Cluster, free_port
from command.server import served
from command.worker import working

USERS, MINUTES, THOUGHT_SECONDS, COMING_SECONDS = 50, 10.0, 2.0, 40.0
LOOKED_AT = (
    "",
    "stock/",
    "stock/?q=oak+ready",
    "stock/oak-04/",
    "stock/ash-03/",
    "air/",
    "log/",
    "stock/ash-03/measure/",
    "stock/oak-04/movement/",
)
# Out of so many steps one is a reading that is kept.
ONE_KEPT_IN = 6


class Visitor(threading.Thread):
    """One person at work until a moment; keeps how long each answer took."""

    def __init__(
        self, number: int, base: str, until: float, taken: dict[str, list[float]], failed: list[str], coming_seconds: float = COMING_SECONDS
    ) -> None:
        super().__init__(daemon=True)
        self.chance, self.base, self.until, self.taken, self.failed = random.Random(number), base, until, taken, failed
        self.coming_seconds = coming_seconds
        self.jar = http.cookiejar.CookieJar()
        self.opener = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(self.jar))

    def ask(self, what: str, address: str, **form: str) -> str:
        begun = time.monotonic()
        try:
            data = urllib.parse.urlencode(form).encode() if form else None
            with self.opener.open(urllib.request.Request(address, data, {"Referer": self.base}), timeout=60) as answer:
                page, self.here = answer.read().decode(), answer.url
        except (OSError, urllib.error.HTTPError) as error:
            self.failed.append(f"{what}: {error}")
            return ""
        self.taken[what].append(time.monotonic() - begun)
        return page

    def enter(self) -> str:
        """Step into a demo workshop; returns its address."""
        token = next(iter(re.findall(r'name="csrfmiddlewaretoken" value="([^"]+)"', self.ask("front", self.base))), "")
        self.ask("enter the demo", f"{self.base}demo/", csrfmiddlewaretoken=token)
        return self.here

    def run(self) -> None:
        # They do not all come through the door at once.
        time.sleep(self.chance.uniform(0, self.coming_seconds))
        shop = self.enter()
        while time.monotonic() < self.until:
            time.sleep(self.chance.expovariate(1 / THOUGHT_SECONDS))
            if self.chance.randrange(ONE_KEPT_IN):
                self.ask("look", shop + self.chance.choice(LOOKED_AT))
            else:
                self.keep(shop)

    def keep(self, shop: str) -> None:
        board = shop + "stock/oak-04/measure/"
        page = self.ask("look", board)
        form = dict(re.findall(r'name="(csrfmiddlewaretoken|once)" (?:type="hidden" )?value="([^"]+)"', page))
        meter = re.search(r'<option value="(\d+)"', page)
        if form and meter:
            self.ask("keep a reading", board, **form, meter=meter[1], raw=f"{self.chance.uniform(9, 14):.1f}", from_end="40", from_edge="4")


def run(minutes: float = MINUTES, users: int = USERS, coming_seconds: float = COMING_SECONDS) -> None:
    with Cluster("bench") as cluster:
        cluster.create_database()
        os.environ["CALM_HERON_DEMO"] = "1"
        prepare(cluster, demo=True)
        port = free_port()
        with served(port), working():
            taken: dict[str, list[float]] = defaultdict(list)
            failed: list[str] = []
            until = time.monotonic() + coming_seconds + 60 * minutes
            people = [Visitor(number, f"http://127.0.0.1:{port}/", until, taken, failed, coming_seconds) for number in range(users)]
            for person in people:
                person.start()
            for each_person in people:
                each_person.join()
    yardstick = best(lambda: sum(range(1_000_000)))
    row("a million additions on this machine, for comparison", f"{yardstick * 1000:.0f} ms")
    everything = np.concatenate([np.array(times) for times in taken.values()])
    row(f"{users} people for {minutes:g} minutes", f"{len(everything):,} answers", f"{len(failed)} errors (wanted: 0)")
    for what, times in sorted(taken.items()):
        middle, slow = np.percentile(times, [50, 95]) * 1000
        row(f"  {what}: half within, 95 of 100 within", f"{middle:.0f}, {slow:.0f} ms")
    slow = np.percentile(everything, 95)
    row("  all: 95 of 100 within", f"{slow * 1000:.0f} ms, {slow / yardstick:.0f} x that", "wanted: 300 ms")
    for line in failed[:5]:
        print(f"  {line}")
