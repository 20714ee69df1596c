"""``./heron simulate week``: every simulated device for a week, on an installation of its own, while its processes are killed; then each
reading is sought in the database, once, and each verdict held against what is true.

Each device is a program of its own, and speaks to the door over the network. A week of readings is told in minutes: a device may be a month
late.
"""

import argparse
import json
import os
import signal
import subprocess
import sys
import time
from contextlib import ExitStack
from pathlib import Path

from command.deaths import LONGEST_S, Installation, installed
from command.machine import ROOT
from command.processes import until
from command.trouble import Trouble

# Between two kills, so that it is back before the next; and how long all of it may take.
BETWEEN_KILLS_S, LONGEST_WEEK_S = 2.0, 1200.0
VICTIMS = ("a process that serves", "the web server", "a session of the database", "a process that serves")


def run(options: argparse.Namespace) -> int:
    with installed() as own:
        # Beside its data, not in them: who owns those is another user where we are root.
        folder = own.said.parent / "truths"
        folder.mkdir()
        _shop(own, "make", folder, options.hours)
        standing = json.loads((folder / "standing.json").read_text(encoding="utf-8"))
        begun = time.monotonic()
        kills = _told(own, standing, folder, options)
        took = time.monotonic() - begun
        rows = [json.loads(line) for line in _shop(own, "check", folder, options.hours).splitlines()]
    told = sum(row["told"] for row in rows)
    pace = f"{took:.0f} s, {told / took:.0f} a second"
    print(f"{len(rows)} devices told {told:,} readings of {options.hours:g} hours in {pace}, through {kills} kills.")
    for row in rows:
        print(f"  {row['name']:<14} {row['told']:>6} told {row['there']:>6} there  {row['said']}")
        for wrong in row["wrong"]:
            print(f"      WRONG: {wrong}")
    wrong = sum(len(row["wrong"]) for row in rows)
    print("Every reading is there once, and every verdict within its doubt." if not wrong else f"{wrong} things are wrong.")
    return 1 if wrong else 0


def _told(own: Installation, standing: list[dict[str, object]], folder: Path, options: argparse.Namespace) -> int:
    """All devices tell all they have, while processes of the server are killed in turn; how many kills.

    Raises:
        Trouble: a device gave up, or took too long.
    """
    door = f"http://127.0.0.1:{own.port}/devices/v1/"
    with ExitStack() as stack:
        programs = {}
        for item in standing:
            name, words = str(item["name"]), [str(word) for word in item["words"]]  # type: ignore[attr-defined]
            air = ["--every", str(options.every)] if words[0] in ("hygrometer", "weather") else []
            span = ["--hours", f"{options.hours:g}"] if words[0] not in ("scale", "kiln") else []
            span = ["--hours", f"{int(options.hours)}"] if words[0] == "kiln" else span
            said = stack.enter_context((folder / f"{name}.said").open("wb"))
            line = [*words, *air, *span, "--door", door, "--token", str(item["token"]), "--truth", str(folder / f"{name}.truth")]
            programs[name] = subprocess.Popen([sys.executable, "-m", "command", "simulate", *line], cwd=ROOT, stdout=said, stderr=said)
        ends, kills = time.monotonic() + LONGEST_WEEK_S, 0
        while any(program.poll() is None for program in programs.values()):
            if time.monotonic() > ends:
                raise Trouble("It took too long.")
            time.sleep(BETWEEN_KILLS_S)
            if kills < options.kills:
                victim = VICTIMS[kills % len(VICTIMS)]
                os.kill(until(own.victims()[victim], LONGEST_S), signal.SIGKILL)
                kills += 1
        until(own.answers, LONGEST_S)
    for name, program in programs.items():
        if program.returncode:
            raise Trouble(f"{name} gave up:\n{(folder / f'{name}.said').read_text(errors='replace')[-1000:]}")
    return kills


def _shop(own: Installation, what: str, folder: Path, hours: float) -> str:
    environment = os.environ | {"CALM_HERON_DATA": str(own.state), "CALM_HERON_RECORD": str(own.state / "record")}
    line = [sys.executable, "-m", "command.simulated_shop", what, str(folder), str(hours)]
    done = subprocess.run(line, cwd=ROOT, env=environment, capture_output=True, text=True)
    if done.returncode:
        raise Trouble(done.stderr[-2000:])
    return done.stdout
