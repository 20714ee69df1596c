"""``./heron bench``: the figures that matter, as ratios within one run. Nothing here is asserted by the tests."""

import argparse
import gzip
import os
import subprocess
import sys
import time
import traceback
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from typing import Any

from command.application import point_at, prepare
from command.cluster import Cluster, free_port
from command.machine import ROOT
from command.server import served
from command.trouble import Trouble

DEMO_DATABASE, LARGE_DATABASE = "bench_demo", "bench_large"
# In small everything is done, and little of it: to see that it runs.
SMALL = "CALM_HERON_BENCH_SMALL"


def run(options: argparse.Namespace) -> int:
    if options.small:
        os.environ[SMALL] = "1"
    # Ten minutes of many people are measured where they are asked for.
    broken = [name for name in options.parts or [name for name in PARTS if name != "load"] if not _ran(name)]
    if broken:
        print(f"Broken: {', '.join(broken)}. What went wrong stands above.", file=sys.stderr)
    return 1 if broken else 0


def _ran(name: str) -> bool:
    """One part by itself: what breaks it is shown and keeps no other from running."""
    try:
        PARTS[name]()
    except Exception:
        print(f"The part “{name}” is broken:", file=sys.stderr)
        traceback.print_exc()
        return False
    return True


def is_small() -> bool:
    return bool(os.environ.get(SMALL))


def large_pieces() -> int:
    return 60 if is_small() else 5_000


def readings_each() -> int:
    return 2 if is_small() else 40


def row(what: str, figure: str, wanted: str = "") -> None:
    print(f"{what:<58} {figure:>20}   {wanted}", flush=True)


def best(act: Callable[..., Any], times: int = 5) -> float:
    """The least of some timings in seconds: what the machine can do when nothing else disturbs it."""
    result = []
    for _ in range(1 if is_small() else times):
        begun = time.perf_counter()
        act()
        result.append(time.perf_counter() - begun)
    return min(result)


def core() -> None:
    import numpy as np

    from wood.air import sorption
    from wood.movement import section

    chance = np.random.default_rng(1)
    count = 10_000 if is_small() else 1_000_000
    temperatures, humidities = chance.uniform(-1, 60, count), chance.uniform(0, 1, count)
    exponential = best(lambda: np.exp(temperatures))
    row(f"numpy.exp over {count:,} points", f"{exponential * 1000:.1f} ms")
    computed = best(lambda: sorption.emc(temperatures, humidities))
    row("EMC over the same points", f"{computed * 1000:.1f} ms")
    row("  ratio to one numpy.exp", f"{computed / exponential:.1f} x", "wanted: at most 25")
    inverse = best(lambda: sorption.relative_humidity_for(20.0, np.linspace(0.0, 0.25, count // 10)), 3)
    row("  RH for a wanted EMC, per point against EMC per point", f"{inverse * 10 / computed:.0f} x")
    board = best(lambda: section.settled_board(0.2, 0.03, -0.02, -0.12, 0.97, 0.94), 20)
    row("one settled section with its rings", f"{board * 1000:.2f} ms")


def moisture_field() -> None:
    from command import bench_field

    bench_field.run()


def turning() -> None:
    from command import bench_turning

    bench_turning.run()


def forecasts() -> None:
    """How forecasts of bowls come true, on logs of other arithmetic: the ten of the reference, and shapes not among them."""
    from command.made_bowls import others, reference, score

    seeds = (32,) if is_small() else (32, 1, 2, 3)
    made = [bowl for seed in seeds for bowl in others(1 if is_small() else 4, seed)]
    for what, bowls, wanted in (
        (
            "ten made logs",
            reference()[: 1 if is_small() else None],
            "wanted: 15 and 15 of 20; 30% at a third, 20% at half; threefold at half",
        ),
        (f"{len(made)} logs of other shapes", made, ""),
    ):
        said = score(bowls)
        row(f"{what}, each asked at a third and at half of its way: days in their bands", f"{said.days} of {said.asked}", wanted)
        row("  weights in theirs", f"{said.weights} of {said.asked}")
        row("  the day off by, in the median, at a third and at half", f"{100 * said.error_third:.0f} and {100 * said.error_half:.0f}%")
        row("  its band from low to high, times", f"{said.width_third:.1f} and {said.width_half:.1f}")


def builds() -> None:
    """Layouts and panels by themselves, then the pages of a build of sixty parts in a process of its own."""
    import json

    from command import bench_builds

    bench_builds.run()
    with new_database(DEMO_DATABASE):
        said = in_a_process("command.bench_builds")
    for page, (spent_ms, queries, wanted) in json.loads(said.splitlines()[-1]).items():
        row(page, f"{spent_ms:.0f} ms" + (f", {queries} queries" if queries else ""), wanted)


def logger() -> None:
    """A logger's file of a hundred thousand lines, in a process of its own."""
    import json

    with new_database(DEMO_DATABASE):
        said = in_a_process("command.bench_logger")
    for what, (figure, wanted) in json.loads(said.splitlines()[-1]).items():
        row(what, figure, wanted)


def door() -> None:
    """Readings that devices tell in batches, in a process of its own."""
    import json

    with new_database(DEMO_DATABASE):
        said = in_a_process("command.bench_door")
    for what, (figure, wanted) in json.loads(said.splitlines()[-1]).items():
        row(what, figure, wanted)


def with_the_demo(measured: Callable[[], Any]) -> None:
    """In a process and a database of its own, which the environment names: the demo is loaded, and what is measured with it printed as one
    line of JSON.
    """
    import json

    import django
    from django.conf import settings
    from django.core.management import call_command

    django.setup()
    settings.ALLOWED_HOSTS = ["testserver"]
    call_command("migrate", verbosity=0, interactive=False)
    call_command("load_demo", verbosity=0)
    print(json.dumps(measured()))


@contextmanager
def new_database(name: str) -> Iterator[Cluster]:
    """An empty database of that name in the cluster for tests, which the environment then names with its owner; taken out afterwards."""
    with Cluster("test", durable=False) as cluster:
        cluster.drop_database(name)
        cluster.create_database(name)
        point_at(cluster, database=name, settings="calm_heron.settings.testing", as_owner=True)
        yield cluster
        cluster.drop_database(name)


def in_a_process(module: str, *arguments: str) -> str:
    """What a module of ours prints that is run in a process of its own.

    Raises:
        Trouble: it failed; the end of what it complained of.
    """
    done = subprocess.run([sys.executable, "-m", module, *arguments], cwd=ROOT, capture_output=True, text=True)
    if done.returncode:
        raise Trouble(done.stderr[-2000:])
    return done.stdout


def pages() -> None:
    """Server time of the pages at demo size and at 5,000 pieces with 200,000 readings; each measured in a process of its own."""
    import json

    from command.bench_pages import NOTHING_WORKED_OUT

    results = {}
    # In small the demo's own size tells nothing that the other does not.
    for database, size in ((DEMO_DATABASE, "demo"), (LARGE_DATABASE, "large"))[1 if is_small() else 0 :]:
        with new_database(database):
            results[size] = json.loads(in_a_process("command.bench_pages", size).splitlines()[-1])
    results.setdefault("demo", results["large"])
    plain_ms = results["demo"][NOTHING_WORKED_OUT][0]
    for page, (small_ms, small_queries) in results["demo"].items():
        large_ms, large_queries = results["large"][page]
        if not small_queries:
            row(page, f"{min(small_ms, large_ms):.0f} ms")
            continue
        row(f"{page}: demo size", f"{small_ms:.1f} ms, {small_queries} queries", f"{small_ms / plain_ms:.1f} x that of what can be asked")
        row(
            f"{page}: {large_pieces():,} pieces, {large_pieces() * readings_each():,} readings",
            f"{large_ms:.1f} ms, {large_queries} queries",
        )
        # The list shows fifty rows of a large stock and thirty of the demo's: its growth is shown, not held against it.
        wanted = "" if page.startswith("stock list") else "wanted: at most 1.5" + ("; under 150 ms" if "fragment" in page else "")
        row("  growth", f"{large_ms / small_ms:.2f} x", wanted)


def weight() -> None:
    """Our own script and style as they travel, compressed as any server can."""
    site = ROOT / "calm_heron" / "site" / "static" / "site"
    for what, files, wanted in (
        ("script", sorted((site / "js").glob("*.js")), "wanted: at most 60 kB"),
        ("style", [site / "calm-heron.css"], "wanted: at most 40 kB"),
    ):
        size = sum(len(gzip.compress(file.read_bytes(), 9)) for file in files)
        row(f"own {what}, gzip", f"{size / 1000:.1f} kB", wanted)


def start() -> None:
    """From the command to the first page, on a machine that is prepared: cluster, migrations, demo, server."""
    begun = time.perf_counter()
    with Cluster("bench") as cluster:
        cluster.create_database()
        os.environ["CALM_HERON_DEMO"] = "1"
        first = time.perf_counter() - begun
        prepare(cluster, demo=True)
        made = time.perf_counter()
        port = free_port()
        with served(port):
            first_page(port)
            whole = time.perf_counter() - begun
    row("cluster up", f"{first:.1f} s")
    row("migrations, static files, demo workshop", f"{made - begun - first:.1f} s")
    row("./heron start to the first page", f"{whole:.1f} s")


def load() -> None:
    from command import bench_load

    bench_load.run(minutes=0.05, users=2, coming_seconds=1.0) if is_small() else bench_load.run()


def backup() -> None:
    """A backup and its restoring at 200,000 readings with photographs; the small pictures are noise, which is as large as they come."""
    import json
    import tempfile
    from pathlib import Path

    from command import backup as made
    from command import restore

    with new_database(LARGE_DATABASE) as cluster, tempfile.TemporaryDirectory() as folder:
        in_a_process("command.bench_pages", "fill")
        file = Path(folder) / "large.backup"
        begun = time.perf_counter()
        about = made.write(cluster, file, database=LARGE_DATABASE)
        written = time.perf_counter()
        restore.into(cluster, restore.look(file), database=LARGE_DATABASE, keep=False)
        restored = time.perf_counter()
        row(f"backup of {sum(about.rows.values()):,} rows, {about.rows['stock_photo']} photographs", f"{written - begun:.1f} s")
        row("  its size", f"{file.stat().st_size / 1e6:.1f} MB")
        row("  restored, each table counted", f"{restored - written:.1f} s", "wanted: 60 s at 100,000 readings")
        beside = Path(folder) / "beside.backup"
        alone_ms, beside_ms, posts = json.loads(in_a_process("command.bench_backup", str(beside)).splitlines()[-1])
        row("a reading kept, alone and beside a backup", f"{alone_ms:.0f} and {beside_ms:.0f} ms, {posts} posts")
        row("  ratio", f"{beside_ms / alone_ms:.2f} x", "wanted: at most 2")


def first_page(port: int) -> None:
    import urllib.request

    urllib.request.urlopen(f"http://127.0.0.1:{port}/").read()


def least_ms(act: Callable[..., Any]) -> float:
    """Milliseconds of the quickest of many runs, after two to warm up."""
    if not is_small():
        act(), act()
    return best(act, 40) * 1000


PARTS: dict[str, Callable[[], None]] = {
    "core": core,
    "field": moisture_field,
    "turning": turning,
    "forecasts": forecasts,
    "builds": builds,
    "logger": logger,
    "door": door,
    "pages": pages,
    "weight": weight,
    "start": start,
    "load": load,
    "backup": backup,
}
