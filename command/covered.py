"""``./heron check --coverage``: how much of the core and of the applications the tests go through, by line and branch."""

import json
import os
import subprocess
import sys
import tempfile
from pathlib import Path

from command.machine import ROOT, need_chromium

# The least share of lines and branches together, by the folder; what is compiled is tried by its answers and cannot be followed.
LEAST = {"wood": 0.95, "calm_heron": 0.90}
WORST_SHOWN = 12


def lacking() -> str:
    """What is covered too little, with the files that lack most; empty where nothing is, and then only the shares are printed."""
    with tempfile.TemporaryDirectory() as folder:
        environment = os.environ | {"COVERAGE_FILE": str(Path(folder) / "data"), "CALM_HERON_CHROMIUM": need_chromium()}
        ran = subprocess.run([sys.executable, "-m", "coverage", "run", "-m", "command", "test"], cwd=ROOT, env=environment)
        _coverage(environment, "combine", "--quiet")
        report = Path(folder) / "report.json"
        _coverage(environment, "json", "--quiet", "-o", str(report))
        files = json.loads(report.read_text())["files"]
    failed = ["The tests themselves did not pass; see above."] if ran.returncode else []
    return "\n".join([*failed, *(line for folder, least in LEAST.items() for line in judged(folder, least, files))])


def judged(folder: str, least: float, files: dict[str, dict[str, dict[str, int]]]) -> list[str]:
    """The lines that say what a folder lacks; none where it is covered enough.

    >>> whole = {"summary": {"covered_lines": 9, "covered_branches": 1, "num_statements": 9, "num_branches": 1}}
    >>> half = {"summary": {"covered_lines": 2, "covered_branches": 0, "num_statements": 3, "num_branches": 1}}
    >>> judged("wood", 0.95, {"wood/a.py": whole})
    wood         100.0% of lines and branches
    []
    >>> judged("wood", 0.95, {"wood/a.py": whole, "wood/b.py": half})
    wood         85.7% of lines and branches
    ['wood is covered to 85.7%, and 95% is the least; most is missing in wood/b.py (2).']
    """
    of_it = {name: file["summary"] for name, file in files.items() if name.startswith(f"{folder}/")}
    missing = {name: _all_of(summary) - _covered(summary) for name, summary in of_it.items()}
    whole = sum(map(_all_of, of_it.values()))
    share = 1 - sum(missing.values()) / max(whole, 1)
    print(f"{folder:<12} {share * 100:.1f}% of lines and branches")
    if share >= least:
        return []
    worst = sorted(missing, key=missing.__getitem__, reverse=True)[:WORST_SHOWN]
    named = ", ".join(f"{name} ({missing[name]})" for name in worst if missing[name])
    return [f"{folder} is covered to {share * 100:.1f}%, and {least * 100:.0f}% is the least; most is missing in {named}."]


def _covered(summary: dict[str, int]) -> int:
    return summary["covered_lines"] + summary["covered_branches"]


def _all_of(summary: dict[str, int]) -> int:
    return summary["num_statements"] + summary["num_branches"]


def _coverage(environment: dict[str, str], *arguments: str) -> None:
    subprocess.run([sys.executable, "-m", "coverage", *arguments], cwd=ROOT, env=environment, check=True)
