"""What must be on the machine: PostgreSQL's programs and a headless Chromium, from Debian's packages."""

import os
import shutil
import subprocess
from pathlib import Path

from command.trouble import Trouble

ROOT = Path(__file__).resolve().parent.parent
POSTGRES_HOMES = Path("/usr/lib/postgresql")
CHROMIUM_NAMES = ("chromium-headless-shell", "chromium", "chromium-browser")


def install(*packages: str) -> None:
    done = subprocess.run(["bash", str(ROOT / "command" / "packages.sh"), *packages])
    if done.returncode:
        raise Trouble("Nothing was started.")


def postgres_programs() -> Path | None:
    """The newest folder that holds both initdb and postgres, or None."""
    homes = sorted(POSTGRES_HOMES.glob("*/bin"), key=lambda home: float(home.parent.name), reverse=True)
    for home in homes:
        if (home / "initdb").exists() and (home / "postgres").exists():
            return home
    on_path = shutil.which("initdb")
    return Path(on_path).resolve().parent if on_path else None


def need_postgres() -> Path:
    if not postgres_programs():
        install("postgresql")
    result = postgres_programs()
    if not result:
        raise Trouble("PostgreSQL was installed, but its program initdb is nowhere to be found.")
    return result


def chromium() -> str | None:
    return next((found for name in CHROMIUM_NAMES if (found := shutil.which(name))), None)


def need_chromium() -> str:
    if not chromium():
        install("chromium-headless-shell")
    result = chromium()
    if not result:
        raise Trouble("Chromium was installed, but its program is nowhere to be found.")
    return result


def is_root() -> bool:
    return os.geteuid() == 0
