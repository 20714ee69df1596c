"""How the files of nightly backups are called; the command that makes them and the operator's page that looks for them go by it."""

import re
from datetime import datetime

STAMP = "%Y-%m-%d-%H%M%S"
NAME = re.compile(r"calm-heron-(\d{4}-\d\d-\d\d-\d{6})\.backup")


def made_at(name: str) -> datetime | None:
    """When a backup was made, by the name of its file (local time, without a zone); None of any other file."""
    match = NAME.fullmatch(name)
    return datetime.strptime(match[1], STAMP) if match else None
