"""The file that a backup is: a tar of what it holds in plain words, the database as its server's own tool wrote it, and secrets by choice.

``about.json`` says when it was made, by which PostgreSQL, how far its tables had been moved on, how many rows each table had, and the
digest of ``database.dump``; so a restored copy can be checked against what was there.
"""

import hashlib
import io
import json
import os
import shutil
import tarfile
from contextlib import contextmanager, suppress
from dataclasses import asdict, dataclass
from pathlib import Path
from typing import IO, Any

from command.trouble import Trouble

ABOUT, DUMP, SECRET_KEY = "about.json", "database.dump", "secret-key"
FORMAT = "calm-heron-backup-1"
# What a backup says of itself is far shorter.
LONGEST_TEXT = 16 << 20


@dataclass(frozen=True)
class About:
    """What a backup says of itself."""

    format: str
    made_at: str
    postgres: int
    migrations: list[str]
    rows: dict[str, int]
    digest: str
    has_secrets: bool


@contextmanager
def whole(file: Path) -> Any:
    """A file that comes into being whole or not at all, readable by its owner only; yields where to write.

    Raises:
        Trouble: it is there already, or cannot be written; the system's own reason is in the text.
    """
    if file.exists():
        raise Trouble(f"{file} is there already, and is left alone. Name another file.")
    unfinished = file.with_name(f".{file.name}.unfinished")
    try:
        unfinished.unlink(missing_ok=True)
        unfinished.touch(mode=0o600)
        yield unfinished
        with unfinished.open("rb") as written:
            os.fsync(written.fileno())
        # Linked and not renamed: should somebody else have made the file meanwhile, theirs stays.
        os.link(unfinished, file)
    except OSError as error:
        raise Trouble(f"{file} could not be written: {error.strerror or error}. Nothing was left half-written.") from None
    finally:
        with suppress(OSError):
            unfinished.unlink(missing_ok=True)


def digest(file: Path) -> str:
    with file.open("rb") as read:
        return hashlib.file_digest(read, "sha256").hexdigest()


def write(file: Path, about: About, dump: Path, secret_key: str = "") -> None:
    """Put the parts into ``file``, which ``whole`` makes."""
    with tarfile.open(file, "w") as tar:
        _add_text(tar, ABOUT, json.dumps(asdict(about), indent=1))
        if secret_key:
            _add_text(tar, SECRET_KEY, secret_key)
        entry = tar.gettarinfo(dump, DUMP)
        entry.mode, entry.uid, entry.gid, entry.uname, entry.gname = 0o600, 0, 0, "", ""
        with dump.open("rb") as read:
            tar.addfile(entry, read)


def take_apart(file: Path, dump: Path) -> tuple[About, str]:
    """Read what a backup says of itself and its secret key, and write the database it holds to ``dump``.

    Raises:
        Trouble: it is not there, is no backup of ours, or is not as it was written.
    """
    try:
        with tarfile.open(file, "r:") as tar:
            about = About(**json.loads(_text(tar, ABOUT)))
            secret_key = _text(tar, SECRET_KEY) if about.has_secrets else ""
            dump.touch(mode=0o600)
            with dump.open("wb") as out:
                shutil.copyfileobj(_part(tar, DUMP), out)
    except FileNotFoundError:
        raise Trouble(f"There is no file {file}.") from None
    except OSError as error:
        raise Trouble(f"{file} could not be read: {error.strerror or error}.") from None
    except (tarfile.TarError, KeyError, TypeError, AttributeError, ValueError):
        raise Trouble(f"{file} is no backup of Calm Heron, or only a part of one. Nothing was changed.") from None
    if about.format != FORMAT:
        raise Trouble(f"{file} is of a form that this version does not know. Nothing was changed.")
    if digest(dump) != about.digest:
        raise Trouble(f"{file} is damaged: what it holds is not what was written. Nothing was changed.")
    return about, secret_key


def _add_text(tar: tarfile.TarFile, name: str, text: str) -> None:
    entry, content = tarfile.TarInfo(name), text.encode()
    entry.size, entry.mode = len(content), 0o600
    tar.addfile(entry, io.BytesIO(content))


def _text(tar: tarfile.TarFile, name: str) -> str:
    return _part(tar, name).read(LONGEST_TEXT).decode()


def _part(tar: tarfile.TarFile, name: str) -> IO[bytes]:
    part = tar.extractfile(name)
    if part is None:
        raise KeyError(name)
    return part
