"""``./heron check``: lint, types, templates, docstrings, words, boundaries, styles, migrations, coverage if wished. Nothing is changed."""

import argparse
import os
import subprocess
import sys
import tempfile
from pathlib import Path

from command import covered, docstrings, style, wording
from command.machine import ROOT
from command.trouble import Trouble

BIN = Path(sys.executable).parent


def run(options: argparse.Namespace) -> int:
    checks = {
        "lint": lambda: ran(str(BIN / "ruff"), "check", "."),
        "format": lambda: ran(str(BIN / "ruff"), "format", "--check", "."),
        "types": types_hold,
        "templates": lambda: ran(str(BIN / "djlint"), "--lint", "--quiet", "calm_heron"),
        "docstrings": docstrings.lacking,
        "words": wording.lacking,
        "boundaries": lambda: ran(str(BIN / "lint-imports"), "--no-cache"),
        "style sheet": style_is_current,
        "migrations": migrations_complete,
    }
    if options.coverage:
        checks["coverage"] = covered.lacking
    failed = []
    for name, check in checks.items():
        trouble = check()
        print(f"{name:<12} {'ok' if not trouble else 'not ok'}")
        if trouble:
            failed.append(name)
            print(trouble)
    if failed:
        raise Trouble(f"Not in order: {', '.join(failed)}.")
    return 0


def ran(*command: str) -> str:
    """Empty where the command succeeds, else what it printed."""
    done = subprocess.run(command, cwd=ROOT, capture_output=True, text=True)
    return "" if done.returncode == 0 else done.stdout + done.stderr


def style_is_current() -> str:
    with tempfile.TemporaryDirectory() as folder:
        fresh = Path(folder) / "calm-heron.css"
        style.compile_to(fresh)
        if fresh.read_text() != style.COMPILED.read_text():
            return "The committed style sheet is older than its source or the templates: run  ./heron style  and commit it."
    return ""


def types_hold() -> str:
    # The plugin reads the models; no database is asked.
    os.environ.setdefault("CALM_HERON_SECRET_KEY", "unused")
    return ran(str(BIN / "mypy"), "--no-error-summary")


def migrations_complete() -> str:
    # Compares models with migration files only; no database is asked.
    os.environ.setdefault("CALM_HERON_SECRET_KEY", "unused")
    return ran(sys.executable, "-W", "ignore", str(ROOT / "manage.py"), "makemigrations", "--check", "--dry-run")
