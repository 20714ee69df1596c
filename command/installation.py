"""Which installation this is and where its data lie: kept in the checkout, so that a moved checkout, and every command, finds them."""

import hashlib
import json
import os
import re
import secrets
import sys
import time
from dataclasses import asdict, dataclass
from pathlib import Path

from command import processes
from command.machine import ROOT, is_root
from command.trouble import Trouble

# Kept in the checkout and named in .gitignore: a fresh clone is an installation of its own. A name of its own; where its data lie, if
# somebody said where; and what runs from here now.
NAME_FILE = Path(".heron") / "installation"
PLACE_FILE, RUNNING_FILE = Path(".heron") / "data", Path(".heron") / "running"


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


@dataclass(frozen=True)
class Running:
    """A start that runs from this checkout: its process, where its data lie, and the address that it is reached by."""

    mark: str
    data: str
    address: str


def _checkouts(file: Path, checkout: Path | None = None) -> Path:
    """A file of the checkout's own record; tests keep theirs elsewhere."""
    elsewhere = os.environ.get("CALM_HERON_RECORD") if checkout is None else None
    return Path(elsewhere) / file.name if elsewhere else (checkout or ROOT) / file


def running() -> Running | None:
    """The start that runs from this checkout, if one does."""
    try:
        told = Running(**json.loads(_checkouts(RUNNING_FILE).read_text(encoding="utf-8")))
        pid = int(told.mark.split()[0])
    except (OSError, ValueError, TypeError, IndexError):
        return None
    return told if processes.runs(pid) and processes.mark(pid) == told.mark else None


def note_running(address: str) -> None:
    """Write down that this process serves from here, for other commands to find; a checkout that cannot be written goes without."""
    told = Running(processes.mark(os.getpid()), str(state_folder()), address)
    _write(_checkouts(RUNNING_FILE), json.dumps(asdict(told)))


def forget_running() -> None:
    told = running()
    if told and told.mark == processes.mark(os.getpid()):
        _checkouts(RUNNING_FILE).unlink(missing_ok=True)


def need_no_other() -> None:
    """See that what runs from this checkout uses the data that this command would.

    Raises:
        Trouble: it uses others.
    """
    told, own = running(), state_folder()
    if told and Path(told.data) != own:
        raise Trouble(
            f"What runs from this folder keeps its data in {told.data}, and this command would use those in {own}. Nothing was done.\n"
            f"Name the same place, as in  CALM_HERON_DATA={told.data} ./heron …"
        )


def base_folder() -> Path:
    """Where the data of all installations of this user lie."""
    if is_root():
        # Not below a home folder: PostgreSQL runs as its own user and must be able to walk the path.
        return Path("/var/lib/calm-heron")
    return Path(os.environ.get("XDG_STATE_HOME") or Path.home() / ".local" / "state") / "calm-heron"


def state_folder() -> Path:
    """Where this installation keeps its data: what ``CALM_HERON_DATA`` said at the first start with it, or a folder by its name beside
    those of others.

    Raises:
        Trouble: ``CALM_HERON_DATA`` says another place than the one that was kept, or the installation has no name yet and none can be
            written into the checkout.
    """
    kept = _place_in()
    if named := os.environ.get("CALM_HERON_DATA", "").strip():
        if not Path(named).is_absolute():
            raise Trouble(f"CALM_HERON_DATA is “{named}”; it must be a whole path that begins with “/”.")
        if kept and kept != Path(named):
            raise Trouble(
                f"This folder keeps its data in {kept}, and CALM_HERON_DATA says {named}. To use those there from now on, remove the file\n"
                f"  {_checkouts(PLACE_FILE)}"
            )
        return Path(named)
    return kept or base_folder() / (_name_in(ROOT) or _new_name())


def _place_in(checkout: Path | None = None) -> Path | None:
    """Where the data of a checkout lie, as it wrote down; None where nobody said where."""
    try:
        told = _checkouts(PLACE_FILE, checkout).read_text(encoding="utf-8").strip()
    except OSError:
        return None
    if not told.startswith("/") or "\n" in told:
        raise Trouble(f"The file {_checkouts(PLACE_FILE, checkout)} does not hold a whole path. Mend or remove it.")
    return Path(told)


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
    """Write down which checkout uses these data, and in the checkout where they lie if ``CALM_HERON_DATA`` says so: from then on every
    command here uses them, whatever its environment.

    Raises:
        Trouble: another checkout that is still there uses them; this one is a copy of it.
    """
    own, named = state_folder(), os.environ.get("CALM_HERON_DATA")
    written = own / "checkout"
    before = Path(written.read_text(encoding="utf-8").strip()) if written.exists() else checkout
    file = PLACE_FILE if _place_in() else NAME_FILE
    if before != checkout and not named and (_place_in(before) == own if file is PLACE_FILE else _name_in(before) == own.name):
        raise Trouble(
            f"This folder is a copy of {before}, and both name the same data. To give this one data of its own, remove the file\n"
            f"  {checkout / file}\nTo move there for good, remove the one in {before} instead. Then start again."
        )
    written.write_text(f"{checkout}\n", encoding="utf-8")
    if named and not _place_in() and not _write(_checkouts(PLACE_FILE), f"{own}\n"):
        print(
            f"{_checkouts(PLACE_FILE)} cannot be written, so other commands will not find these data by themselves: give them "
            f"CALM_HERON_DATA={own}, too.",
            file=sys.stderr,
            flush=True,
        )


def take_over(name: str) -> Other:
    """Make the data of another installation ours.

    Raises:
        Trouble: there is no such installation, or its own checkout still uses the data.
    """
    wanted = next((other for other in others() if other.name == name), None)
    if os.environ.get("CALM_HERON_DATA"):
        raise Trouble("CALM_HERON_DATA says where the data lie; name the other folder there.")
    if place := _place_in():
        raise Trouble(f"The data of this folder lie in {place}. To use others, remove the file  {_checkouts(PLACE_FILE)}  first.")
    if wanted is None:
        raise Trouble(f"There are no data by the name “{name}” in {base_folder()}. There are:\n{listed(others())}")
    if wanted.still_lives:
        raise Trouble(f"{wanted.checkout} still uses these data. Use Calm Heron from there, or remove that folder first.")
    _write_name(name)
    return wanted


def word_about_others() -> str:
    """What a first start says where data of other installations lie beside it; empty where there are none."""
    results = [] if os.environ.get("CALM_HERON_DATA") or _place_in() else others()
    if not results:
        return ""
    return (
        f"This installation begins with data of its own. Beside them lie those of others:\n{listed(results[:5])}\n"
        f"If one of them is yours, end this with Ctrl-C and run  ./heron take-over {results[0].name}"
    )


def _write(file: Path, text: str) -> bool:
    """Write a file of the checkout's record whole; false where it cannot be."""
    try:
        file.parent.mkdir(exist_ok=True)
        unfinished = file.with_suffix(".unfinished")
        unfinished.write_text(text, encoding="utf-8")
        unfinished.rename(file)
    except OSError:
        return False
    return True


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
    if not _write(file, f"{name}\n"):
        raise Trouble(
            f"{file} cannot be written. Start as the user this folder belongs to, "
            "or say where the data are to lie, as in  CALM_HERON_DATA=/srv/calm-heron ./heron start"
        )
