"""The file that a backup is: a tar of what it holds in plain words, the database as its server's own tool wrote it, and secrets by choice.

``about.json`` says when it was made, by which PostgreSQL, how far its tables had been moved on, how many rows each table had, and the
digest of ``database.dump``; so a restored copy can be checked against what was there. A file is looked at whole (:func:`look`) before
anything is done with what it holds: it may come from anywhere.
"""

import hashlib
import io
import json
import os
import tarfile
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from dataclasses import asdict, dataclass, fields
from datetime import datetime
from pathlib import Path
from typing import Any

from command.trouble import Trouble

ABOUT, DUMP, SECRET_KEY = "about.json", "database.dump", "secret-key"
FORMAT = "calm-heron-backup-1"
# What a backup says of itself is far shorter, and so is its key.
LONGEST_ABOUT, LONGEST_KEY = 4 << 20, 4096
# How the dump begins: PostgreSQL's own form.
DUMP_BEGINS = b"PGDMP"
PIECE = 1 << 20


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
    # How much room the database took; 0 where it was not told.
    database_bytes: int = 0


@dataclass(frozen=True)
class Looked:
    """A backup that was looked at: what it says of itself, its secret key (empty: none), and where in the file the database lies."""

    file: Path
    about: About
    secret_key: str
    begins: int
    size: int

    def pieces(self) -> Iterator[bytes]:
        """The database as it was written, piece by piece."""
        with self.file.open("rb") as read:
            read.seek(self.begins)
            left = self.size
            while left and (piece := read.read(min(PIECE, left))):
                left -= len(piece)
                yield piece


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


def look(file: Path) -> Looked:
    """Read a backup whole and change nothing: its parts and their sizes, what it says of itself, its digest.

    Raises:
        Trouble: it is not there, is no backup of ours, or is not as it was written.
    """
    try:
        with tarfile.open(file, "r:") as tar:
            parts = _parts(tar)
            about = _about(_text(tar, parts[ABOUT], LONGEST_ABOUT))
            if about.has_secrets != (SECRET_KEY in parts):
                raise ValueError(SECRET_KEY)
            secret_key = _text(tar, parts[SECRET_KEY], LONGEST_KEY) if about.has_secrets else ""
            if about.has_secrets and not (secret_key and secret_key.isprintable()):
                raise ValueError(SECRET_KEY)
            dump = parts[DUMP]
            looked = Looked(file, about, secret_key, dump.offset_data, dump.size)
        found, begin = hashlib.sha256(), b""
        for piece in looked.pieces():
            begin = begin or piece[: len(DUMP_BEGINS)]
            found.update(piece)
    except FileNotFoundError:
        raise Trouble(f"There is no file {file}.") from None
    except OSError as error:
        raise Trouble(f"{file} could not be read: {error.strerror or error}.") from None
    except _OtherForm:
        raise Trouble(f"{file} is of a form that this version does not know. Nothing was changed.") from None
    except (tarfile.TarError, KeyError, TypeError, ValueError, RecursionError, OverflowError):
        raise Trouble(f"{file} is no backup of Calm Heron, or only a part of one. Nothing was changed.") from None
    if found.hexdigest() != about.digest:
        raise Trouble(f"{file} is damaged: what it holds is not what was written. Nothing was changed.")
    if begin != DUMP_BEGINS:
        raise Trouble(f"{file} is no backup of Calm Heron: what it holds is no database. Nothing was changed.")
    return looked


class _OtherForm(Exception):
    """What it says of itself is of another form."""


def _parts(tar: tarfile.TarFile) -> dict[str, tarfile.TarInfo]:
    """The parts by name: plain files that lie there whole, each once, and no others."""
    parts: dict[str, tarfile.TarInfo] = {}
    for entry in tar:
        if entry.name in parts or entry.name not in (ABOUT, DUMP, SECRET_KEY) or not entry.isreg() or entry.issparse():
            raise ValueError(entry.name[:40])
        parts[entry.name] = entry
    return parts


def _about(text: str) -> About:
    said = json.loads(text)
    if not isinstance(said, dict):
        raise TypeError(ABOUT)
    if said.get("format", FORMAT) != FORMAT:
        raise _OtherForm
    about = About(**{field.name: said[field.name] for field in fields(About) if field.name in said})
    datetime.fromisoformat(about.made_at)
    plain = (
        type(about.postgres) is int
        and isinstance(about.migrations, list)
        and all(isinstance(step, str) for step in about.migrations)
        and isinstance(about.rows, dict)
        and all(type(number) is int and number >= 0 for number in about.rows.values())
        and isinstance(about.digest, str)
        and type(about.has_secrets) is bool
        and type(about.database_bytes) is int
    )
    if not plain:
        raise TypeError(ABOUT)
    return about


def _add_text(tar: tarfile.TarFile, name: str, text: str) -> None:
    entry, content = tarfile.TarInfo(name), text.encode()
    entry.size, entry.mode = len(content), 0o600
    tar.addfile(entry, io.BytesIO(content))


def _text(tar: tarfile.TarFile, entry: tarfile.TarInfo, longest: int) -> str:
    part = tar.extractfile(entry)
    if part is None or entry.size > longest:
        raise ValueError(entry.name)
    content = part.read()
    if len(content) != entry.size:
        raise ValueError(entry.name)
    return content.decode()
