"""Which installation this is and where its data lie: a name of its own, kept in the checkout, so that a moved checkout finds its data."""

import hashlib
import os
import re
import secrets
import time
from dataclasses import dataclass
from pathlib import Path

from command.machine import ROOT, is_root
from command.trouble import Trouble

# Kept in the checkout and named in .gitignore: a fresh clone is an installation of its own.
NAME_FILE = Path(".heron") / "installation"


@dataclass(frozen=True)
class Other:
    """Data of another installation, beside ours."""

    name: str
    folder: Path
    checkout: Path | None
    last_used: float

    @property
    def still_lives(self) -> bool:
        """Whether its checkout is still there and still calls these data its own."""
        return self.checkout is not None and _name_in(self.checkout) == self.name

    def __str__(self) -> str:
        day = time.strftime("%d %B %Y", time.localtime(self.last_used)).lstrip("0")
        return f"{self.name}, last used on {day}" + (f" from {self.checkout}" if self.checkout else "")


def base_folder() -> Path:
    """Where the data of all installations of this user lie."""
    if is_root():
        # Not below a home folder: PostgreSQL runs as its own user and must be able to walk the path.
        return Path("/var/lib/calm-heron")
    return Path(os.environ.get("XDG_STATE_HOME") or Path.home() / ".local" / "state") / "calm-heron"


def state_folder() -> Path:
    """Where this installation keeps its data: what ``CALM_HERON_DATA`` says, or a folder by its name beside those of others.

    Raises:
        Trouble: the installation has no name yet, and none can be written into the checkout.
    """
    if named := os.environ.get("CALM_HERON_DATA", "").strip():
        if not Path(named).is_absolute():
            raise Trouble(f"CALM_HERON_DATA is “{named}”; it must be a whole path that begins with “/”.")
        return Path(named)
    return base_folder() / (_name_in(ROOT) or _new_name())


def own_name() -> str:
    return state_folder().name


def others() -> list[Other]:
    """Other installations whose data lie beside ours, the last used first."""
    results, own = [], own_name()
    for folder in base_folder().glob("*"):
        data = folder / "work" / "data" / "PG_VERSION"
        try:
            if folder.name == own or not data.exists():
                continue
            checkout = folder / "checkout"
            path = Path(checkout.read_text(encoding="utf-8").strip()) if checkout.exists() else None
            used = max(file.stat().st_mtime for file in (data, folder / "work" / "lock", checkout) if file.exists())
        except OSError:
            continue
        results.append(Other(folder.name, folder, path, used))
    return sorted(results, key=lambda other: -other.last_used)


def listed(others: list[Other]) -> str:
    """Installations, a line each."""
    return "\n".join(f"  {other}" for other in others) or "  none"


def settle(checkout: Path = ROOT) -> None:
    """Write down which checkout uses these data.

    Raises:
        Trouble: another checkout that is still there uses them; this one is a copy of it.
    """
    written = state_folder() / "checkout"
    before = Path(written.read_text(encoding="utf-8").strip()) if written.exists() else checkout
    if before != checkout and not os.environ.get("CALM_HERON_DATA") and _name_in(before) == own_name():
        raise Trouble(
            f"This folder is a copy of {before}, and both name the same data. To give this one data of its own, remove the file\n"
            f"  {checkout / NAME_FILE}\nTo move there for good, remove the one in {before} instead. Then start again."
        )
    written.write_text(f"{checkout}\n", encoding="utf-8")


def take_over(name: str) -> Other:
    """Make the data of another installation ours.

    Raises:
        Trouble: there is no such installation, or its own checkout still uses the data.
    """
    wanted = next((other for other in others() if other.name == name), None)
    if os.environ.get("CALM_HERON_DATA"):
        raise Trouble("CALM_HERON_DATA says where the data lie; name the other folder there.")
    if wanted is None:
        raise Trouble(f"There are no data by the name “{name}” in {base_folder()}. There are:\n{listed(others())}")
    if wanted.still_lives:
        raise Trouble(f"{wanted.checkout} still uses these data. Use Calm Heron from there, or remove that folder first.")
    _write_name(name)
    return wanted


def word_about_others() -> str:
    """What a first start says where data of other installations lie beside it; empty where there are none."""
    results = [] if os.environ.get("CALM_HERON_DATA") else others()
    if not results:
        return ""
    return (
        f"This installation begins with data of its own. Beside them lie those of others:\n{listed(results[:5])}\n"
        f"If one of them is yours, end this with Ctrl-C and run  ./heron take-over {results[0].name}"
    )


def _name_in(checkout: Path) -> str | None:
    try:
        name = (checkout / NAME_FILE).read_text(encoding="utf-8").strip()
    except OSError:
        return None
    if not re.fullmatch(r"[\w.-]{1,100}", name) or name in {".", ".."}:
        raise Trouble(f"The file {checkout / NAME_FILE} does not hold the name of an installation. Mend or remove it.")
    return name


def _new_name() -> str:
    # Installations were once known by where they lay: one from then keeps its data.
    known_by_path = f"{ROOT.name}-{hashlib.sha256(str(ROOT).encode()).hexdigest()[:8]}"
    name = (
        known_by_path if (base_folder() / known_by_path).exists() else f"{re.sub(r'[^A-Za-z0-9.-]', '-', ROOT.name)}-{secrets.token_hex(4)}"
    )
    _write_name(name)
    return name


def _write_name(name: str) -> None:
    file = ROOT / NAME_FILE
    try:
        file.parent.mkdir(exist_ok=True)
        unfinished = file.with_suffix(".unfinished")
        unfinished.write_text(f"{name}\n", encoding="utf-8")
        unfinished.rename(file)
    except OSError as error:
        raise Trouble(
            f"{file} cannot be written ({error.strerror}). Start as the user this folder belongs to, "
            "or say where the data are to lie, as in  CALM_HERON_DATA=/srv/calm-heron ./heron start"
        ) from None
