"""``./heron deaths``: kill each process of a running Calm Heron in turn while readings are posted, and see that none is lost or doubled.

It works on data of its own, which it takes away again. ``--requests`` instead asks for pages and tells how the memory of the processes that
serve them grows.
"""

import argparse
import json
import os
import re
import shutil
import signal
import subprocess
import sys
import tempfile
import threading
import time
from collections import defaultdict
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager, suppress
from dataclasses import dataclass, field
from datetime import UTC, datetime
from pathlib import Path
from urllib.request import urlopen

import numpy as np
import psycopg

from command.bench_load import Visitor
from command.cluster import DATABASE, OWNER, free_port
from command.installation import RUNNING_FILE
from command.machine import ROOT
from command.processes import runs, until
from command.trouble import Trouble

BEGIN, END = "<!-- deaths -->", "<!-- /deaths -->"
GUIDE = ROOT / "docs" / "hosting.md"
# How long a page may take to come back once the database can answer, and how long anything may take at all; it is back once it was there
# for so long, and no death is looked at for less.
WANTED_S, LONGEST_S = 5.0, 60.0
STEADY_S, LOOKED_S = 1.5, 2.5
# What a person at the bench waits between two readings.
BETWEEN_S = 0.1
# So many people ask for pages at once, where memory is looked at.
AT_ONCE = 4
LOOKED_AT = ("", "stock/", "stock/oak-04/", "air/", "log/", "turning/", "kiln/", "builds/", "movement/", "drying/")


@dataclass
class Installation:
    """A start of its own: where its data lie, at which port it is, and its process (another one after it was killed itself)."""

    state: Path
    port: int
    said: Path
    process: subprocess.Popen[bytes] | None = None

    def start(self) -> None:
        environment = os.environ | {"CALM_HERON_DATA": str(self.state), "CALM_HERON_RECORD": str(self.state / "record")}
        with self.said.open("ab") as said:
            self.process = subprocess.Popen(
                [sys.executable, "-m", "command", "start", "--port", str(self.port)],
                cwd=ROOT,
                env=environment,
                stdout=said,
                stderr=said,
                start_new_session=True,
            )

    def stop(self) -> None:
        if self.process and self.process.poll() is None:
            self.process.send_signal(signal.SIGINT)
            with suppress(subprocess.TimeoutExpired):
                self.process.wait(60)
            self.process.kill()

    def answers(self, seconds: float = 2.0) -> bool:
        """Whether a page that asks the database comes."""
        try:
            return urlopen(f"http://127.0.0.1:{self.port}/ready/", timeout=seconds).status == 200
        except OSError:
            return False

    def database_answers(self) -> bool:
        try:
            with self.database():
                return True
        except (psycopg.OperationalError, OSError, IndexError, ValueError):
            return False

    def database(self) -> psycopg.Connection:
        port = int((self.state / "work" / "data" / "postmaster.pid").read_text().splitlines()[3])
        password = (self.state / "work" / "password").read_text().strip()
        return psycopg.connect(host="127.0.0.1", port=port, user=OWNER, password=password, dbname=DATABASE, connect_timeout=2)

    def is_watched(self) -> bool:
        """Whether the start that runs has come so far that it watches."""
        try:
            told = json.loads((self.state / "record" / RUNNING_FILE.name).read_text(encoding="utf-8"))
            return self.process is not None and int(told["mark"].split()[0]) == self.process.pid
        except (OSError, ValueError, LookupError):
            return False

    # -- its processes

    def postmaster(self) -> int:
        return _number(self.state / "work" / "data" / "postmaster.pid")

    def web(self) -> int:
        return _number(self.state / "work" / "server")

    def worker(self) -> int:
        return _number(self.state / "work" / "worker")

    def victims(self) -> dict[str, Callable[[], int]]:
        """Each kind of process, and how to find one of it now."""
        return {
            "the database": self.postmaster,
            "a session of the database": lambda: _child(self.postmaster(), "calm_heron"),
            "the database's writer": lambda: _child(self.postmaster(), "background writer"),
            "the web server": self.web,
            "a process that serves": lambda: _child(self.web()),
            "the worker of the queue": self.worker,
            "the watch": lambda: self.process.pid if self.process else 0,
        }


@dataclass
class Told:
    """What the kills of one kind came to: how many, and for each the seconds that pages were away, and those of them that the database
    could answer."""

    kills: int = 0
    away_s: list[float] = field(default_factory=list)
    since_database_s: list[float] = field(default_factory=list)


def run(options: argparse.Namespace) -> int:
    with installed() as own:
        if options.requests:
            for line in memory(own, options.requests):
                print(line, flush=True)
            return 0
        told, sent, lost, doubled = killed(own, options.kills)
    lines = table(told, sent, lost, doubled)
    print("\n".join(lines))
    if options.write:
        write(lines)
    slow = max((max(item.since_database_s) for item in told.values() if item.since_database_s), default=0.0)
    return 1 if lost or doubled or slow > WANTED_S else 0


@contextmanager
def installed(pattern: Path | None = None) -> Iterator[Installation]:
    """An installation with the demo, on data of its own (``pattern``: copied from there); it is ended and taken away again.

    Raises:
        Trouble: it does not come up; the end of what it said.
    """
    with tempfile.TemporaryDirectory(prefix="calm-heron-deaths-") as folder:
        # PostgreSQL runs as its own user where we are root, and must be able to walk the path.
        Path(folder).chmod(0o755)
        state = Path(folder) / "heron"
        state.mkdir(mode=0o755)
        if pattern:
            subprocess.run(["cp", "-a", f"{pattern}/.", str(state)], check=True)
        own = Installation(state, free_port(), Path(folder) / "said")
        try:
            own.start()
            try:
                until(own.answers, 300.0)
            except TimeoutError:
                raise Trouble(f"It did not come up:\n{own.said.read_text(errors='replace')[-2000:]}") from None
            yield own
        finally:
            own.stop()
            # The watch may have been the last to be killed: what it watched over is ended by the next.
            for pid in (own.web(), own.worker(), own.postmaster()):
                with suppress(ProcessLookupError, PermissionError):
                    if pid:
                        os.kill(pid, signal.SIGQUIT if pid == own.postmaster() else signal.SIGTERM)
            shutil.rmtree(state, ignore_errors=True)


class Posting(threading.Thread):
    """Somebody at the bench: one reading after the other, each sent again until it is acknowledged."""

    def __init__(self, own: Installation) -> None:
        super().__init__(daemon=True)
        self.visitor = Visitor(1, f"http://127.0.0.1:{own.port}/", 0.0, defaultdict(list), [])
        self.board = f"{self.visitor.enter()}stock/oak-04/measure/"
        page = self.visitor.ask("look", self.board)
        found = re.search(r'<option value="(\d+)"', page), re.search(r'name="csrfmiddlewaretoken" value="([^"]+)"', page)
        if not all(found):
            raise Trouble("The page where readings are typed did not come.")
        self.meter, self.token = (item[1] for item in found if item)
        self.begun = datetime.now(UTC)
        self.acknowledged: list[str] = []
        self.ending = threading.Event()

    def run(self) -> None:
        number = 0
        while not self.ending.is_set():
            raw = f"{6 + number / 1000:.3f}"
            form = {"csrfmiddlewaretoken": self.token, "once": f"post-{number}", "meter": self.meter, "raw": raw, "from_end": "40"}
            while not self.visitor.ask("keep", self.board, **form):
                time.sleep(0.2)
            self.acknowledged.append(raw)
            number += 1
            time.sleep(BETWEEN_S)


def _away(own: Installation, begun: float) -> tuple[float, float]:
    """For how long pages were away until they came again steadily, with every process there; and for how long of it the database could
    answer."""
    database = page = first = begun
    while (now := time.monotonic()) - begun < LONGEST_S:
        if not own.database_answers():
            database = time.monotonic()
        if not own.answers():
            first, page = (now if page == begun else first), time.monotonic()
        # A watch that was begun anew ends what was left running before it serves by itself.
        if own.web() and own.worker() and own.is_watched() and now - begun > LOOKED_S and now - max(database, page) > STEADY_S:
            return page - first, max(page - max(database, first), 0.0)
        time.sleep(0.05)
    raise TimeoutError("it did not come back")


def killed(own: Installation, kills: int, kinds: Sequence[str] = ()) -> tuple[dict[str, Told], int, int, int]:
    """Kill so many times, each kind (or those named) in turn, while readings are posted: by kind what it came to, then how many readings
    were acknowledged, how many of those are lost, and how many are there more than once."""
    posting = Posting(own)
    posting.start()
    told: dict[str, Told] = defaultdict(Told)
    kinds = kinds or list(own.victims())
    for number in range(kills):
        kind = kinds[number % len(kinds)]
        pid = until(own.victims()[kind], LONGEST_S)
        os.kill(pid, signal.SIGKILL)
        begun = time.monotonic()
        if kind == "the watch" and own.process:
            # As systemd does.
            own.process.wait()
            own.start()
        away, since_database = _away(own, begun)
        told[kind].kills += 1
        told[kind].away_s.append(away)
        told[kind].since_database_s.append(since_database)
    posting.ending.set()
    posting.join(LONGEST_S)
    with own.database() as connection:
        rows = connection.execute(
            "SELECT r.raw, count(*) FROM measuring_reading r JOIN workshops_workshop w ON w.id = r.workshop_id"
            " WHERE w.slug = %s AND r.at >= %s GROUP BY r.raw",
            [posting.board.split("/")[4], posting.begun],
        ).fetchall()
    there = {f"{100 * raw:.3f}": count for raw, count in rows}
    lost = [raw for raw in posting.acknowledged if raw not in there]
    return told, len(posting.acknowledged), len(lost), sum(count > 1 for count in there.values())


def table(told: dict[str, Told], sent: int, lost: int, doubled: int) -> list[str]:
    """Lines of Markdown."""
    kills = sum(item.kills for item in told.values())
    lines = [
        f"{kills} kills in turn while readings were posted: {sent} acknowledged, {lost} lost, {doubled} doubled.",
        "",
        "| killed | times | pages away, median | longest | longest since the database could answer |",
        "|---|---|---|---|---|",
    ]
    for kind, item in told.items():
        lines.append(
            f"| {kind} | {item.kills} | {np.median(item.away_s):.1f} s | {max(item.away_s):.1f} s | {max(item.since_database_s):.1f} s |"
        )
    return lines


def write(lines: list[str], guide: Path = GUIDE) -> None:
    """Put the table into the guide, in the place of the one before."""
    text = guide.read_text(encoding="utf-8")
    before, _, rest = text.partition(BEGIN)
    guide.write_text(f"{before}{BEGIN}\n" + "\n".join(lines) + f"\n{END}{rest.partition(END)[2]}", encoding="utf-8")


def memory(own: Installation, requests: int) -> Iterator[str]:
    """Ask for so many pages, some at once, and tell how much memory the processes that serve them take meanwhile, and its slope over the
    latter half."""
    asked: list[int] = []
    failed: list[str] = []

    def ask(number: int) -> None:
        visitor = Visitor(number, f"http://127.0.0.1:{own.port}/", 0.0, defaultdict(list), failed)
        shop = visitor.enter()
        while len(asked) < requests:
            asked.append(number)
            visitor.ask("look", shop + LOOKED_AT[len(asked) % len(LOOKED_AT)])

    asking = [threading.Thread(target=ask, args=(number,), daemon=True) for number in range(AT_ONCE)]
    for person in asking:
        person.start()
    seen: list[tuple[int, float]] = []
    while any(person.is_alive() for person in asking):
        if len(asked) >= len(seen) * max(requests // 20, 1):
            seen.append((len(asked), sum(_resident_mb(pid) for pid in _children(own.web()))))
            yield f"{len(asked):>7,} pages  {seen[-1][1]:7.0f} MB"
        time.sleep(0.1)
    half = [item for item in seen if item[0] >= requests / 2]
    pages, taken = np.array(half, float).T
    slope = 1000 * float(np.polyfit(pages, taken, 1)[0]) if len(half) > 2 else float("nan")
    yield f"Over the latter half {slope:+.2f} MB per 1,000 pages, in both processes together; {len(failed)} of {len(asked):,} failed."


def _number(file: Path) -> int:
    """The process that a file names; 0 where it names none, or one that has ended."""
    try:
        pid = int(file.read_text().split()[0])
    except (OSError, ValueError, IndexError):
        return 0
    return pid if runs(pid) else 0


def _children(pid: int) -> list[int]:
    try:
        return [int(child) for child in Path(f"/proc/{pid}/task/{pid}/children").read_text().split()]
    except OSError:
        return []


def _child(pid: int, called: str = "") -> int:
    """A child of a process, with this in the name it goes by; 0 where there is none."""
    for child in _children(pid):
        with suppress(OSError):
            if called in Path(f"/proc/{child}/cmdline").read_text(errors="replace"):
                return child
    return 0


def _resident_mb(pid: int) -> float:
    try:
        return int(Path(f"/proc/{pid}/statm").read_text().split()[1]) * os.sysconf("SC_PAGE_SIZE") / 1e6
    except (OSError, IndexError, ValueError):
        return 0.0
