"""What must be on the machine: PostgreSQL's programs and a headless Chromium, from Debian's packages."""

import os
import re
import shutil
import subprocess
from pathlib import Path

from command.trouble import Trouble

ROOT = Path(__file__).resolve().parent.parent
POSTGRES_HOMES = Path("/usr/lib/postgresql")
CHROMIUM_NAMES = ("chromium-headless-shell", "chromium", "chromium-browser")


def called_from(typed: Path) -> Path:
    """A path as it was typed, seen from where the command was given: the commands themselves run in their own folder."""
    return Path(os.path.normpath(Path(os.environ.get("CALM_HERON_CALLED_FROM") or Path.cwd()) / typed.expanduser()))


def install(*packages: str) -> None:
    done = subprocess.run(["bash", str(ROOT / "command" / "packages.sh"), *packages])
    if done.returncode:
        raise Trouble("Nothing was started.")


def postgres_homes() -> dict[int, Path]:
    """The folders that hold PostgreSQL's programs, by major version."""
    results: dict[int, Path] = {}
    for home in (*POSTGRES_HOMES.glob("*/bin"), *_home_on_path()):
        if all((home / program).exists() for program in ("initdb", "postgres", "pg_ctl", "pg_dump", "pg_restore")):
            results.setdefault(_major(home), home)
    return results


def _home_on_path() -> list[Path]:
    on_path = shutil.which("initdb")
    return [Path(on_path).resolve().parent] if on_path else []


def _major(home: Path) -> int:
    named = home.parent.name
    if named.isdecimal():
        return int(named)
    output = subprocess.run([str(home / "postgres"), "--version"], capture_output=True, text=True).stdout
    result = re.search(r"\d+", output)
    return int(result.group()) if result else 0


def need_postgres(made_by: int | None = None) -> Path:
    """The folder of PostgreSQL's programs: those that data were made by, or the newest.

    Raises:
        Trouble: they are not there; the text says what to do.
    """
    homes = postgres_homes()
    if not homes:
        install("postgresql")
        homes = postgres_homes()
    if not homes:
        raise Trouble("PostgreSQL was installed, but its program initdb is nowhere to be found.")
    newest = max(homes)
    if made_by is None or made_by in homes:
        return homes[made_by or newest]
    if made_by > newest:
        raise Trouble(
            f"Your data were made by PostgreSQL {made_by}, and this machine has only {newest}. They are untouched. "
            f"Install PostgreSQL {made_by}, then start again."
        )
    raise Trouble(
        f"Your data were made by PostgreSQL {made_by}, and this machine has only {newest}. They are untouched. Either install\n"
        f"  apt-get install --no-install-recommends postgresql-{made_by}\nif your system still has it, and run  ./heron upgrade-data  "
        f"to bring them over to {newest};\nor bring in your last backup:  ./heron restore FILE  (the old data stay beside it)."
    )


def chromium() -> str | None:
    return next((result for name in CHROMIUM_NAMES if (result := shutil.which(name))), None)


def need_chromium() -> str:
    if not chromium():
        install("chromium-headless-shell")
    result = chromium()
    if not result:
        raise Trouble("Chromium was installed, but its program is nowhere to be found.")
    return result


def is_root() -> bool:
    return os.geteuid() == 0
