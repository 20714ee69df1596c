"""How the files of nightly backups are called, and what is left of a night that failed; the command that makes them and the operator's
page that looks for them go by it."""

import re
from datetime import datetime
from pathlib import Path

STAMP = "%Y-%m-%d-%H%M%S"
NAME = re.compile(r"calm-heron-(\d{4}-\d\d-\d\d-\d{6})\.backup")


def made_at(name: str) -> datetime | None:
    """When a backup was made, by the name of its file (local time, without a zone); None of any other file."""
    match = NAME.fullmatch(name)
    return datetime.strptime(match[1], STAMP) if match else None


# Beside the data while the last nightly backup is one that failed: its moment on the first line, and why.
FAILED_FILE = "nightly-failed"


def failure(folder: Path) -> tuple[datetime, str] | None:
    """When the last nightly backup failed and why; None where it did not. ``folder`` is that of the database's data."""
    try:
        moment, _, why = (folder / FAILED_FILE).read_text(encoding="utf-8").partition("\n")
        return datetime.fromisoformat(moment), why.strip()
    except (OSError, ValueError):
        return None
