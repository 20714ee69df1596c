"""Processes known by more than their number, which the system gives to another one day."""

import contextlib
import os
import signal
import subprocess
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any


class Watched:
    """A process of ours with all it begins, in a group of its own. ``record`` keeps its mark for a later start to end it by."""

    def __init__(self, record: Path | None = None) -> None:
        self.record = record
        self._process: subprocess.Popen[bytes] | None = None

    def begin(self, arguments: list[str], folder: Path, more: dict[str, str] | None = None, inherits: tuple[int, ...] = ()) -> None:
        """Begin it; ``more`` is added to its environment, and it inherits these open files."""
        self._process = subprocess.Popen(arguments, cwd=folder, env=os.environ | (more or {}), start_new_session=True, pass_fds=inherits)
        if self.record:
            self.record.write_text(mark(self._process.pid))

    def start(self) -> None:
        """What a class of these begins with."""
        raise NotImplementedError

    def has_ended(self) -> bool:
        return self._process is None or self._process.poll() is not None

    def start_again(self) -> None:
        """After its first process has died, or where its database has moved: clear away what is left of it, and begin anew."""
        self.stop()
        self.start()

    def stop(self) -> None:
        if self._process is None:
            return
        self._process.terminate()
        try:
            self._process.wait(10)
        except subprocess.TimeoutExpired:
            self._process.kill()
            self._process.wait(10)
        end_group(self._process.pid)
        if self.record:
            self.record.unlink(missing_ok=True)


def until(what: Callable[[], Any], seconds: float) -> Any:
    """Ask again and again until something is so, and give what it was.

    Raises:
        TimeoutError: it did not come to be within so many seconds.
    """
    end = time.monotonic() + seconds
    while not (result := what()):
        if time.monotonic() > end:
            raise TimeoutError("it did not come to be in time")
        time.sleep(0.05)
    return result


def runs(pid: int) -> bool:
    """Whether a process runs; a zombie (ended, not yet reaped) does not."""
    return pid > 0 and _state(pid) not in {"", "Z", "X"}


def any_in(folder: Path) -> bool:
    """Whether any process runs in a folder, as far as this user may know."""
    here = str(folder.resolve())
    for number in filter(str.isdigit, os.listdir("/proc")):
        with contextlib.suppress(OSError):
            if os.readlink(f"/proc/{number}/cwd") == here and runs(int(number)):
                return True
    return False


def mark(pid: int) -> str:
    """What tells a process from a later one of the same number: the number, and when it began."""
    return f"{pid} {_fields(pid)[19:20]}"


def marked(file: Path) -> int:
    """The number of the process whose mark a file holds; 0 where it does not run any more, or there is no such file."""
    try:
        text = file.read_text().strip()
        pid = int(text.split()[0])
    except (OSError, ValueError, IndexError):
        return 0
    return pid if runs(pid) and mark(pid) == text else 0


def end_marked(file: Path, seconds: float = 10) -> bool:
    """End the process whose mark a file holds, with all of its group; false where it does not run any more."""
    pid = marked(file)
    if pid:
        _signal(pid, signal.SIGTERM)
        end = time.monotonic() + seconds
        while runs(pid) and time.monotonic() < end:
            time.sleep(0.05)
        _signal(pid, signal.SIGKILL)
    file.unlink(missing_ok=True)
    return pid > 0


def end_group(pid: int) -> None:
    """Whatever is left of the processes that one began, after it has died itself."""
    _signal(pid, signal.SIGKILL)


def _signal(group: int, number: int) -> None:
    with contextlib.suppress(ProcessLookupError, PermissionError):
        os.killpg(group, number)


def _fields(pid: int) -> list[str]:
    try:
        # The name stands in brackets and may hold anything; the state comes after it.
        return Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split()
    except OSError:
        return []


def _state(pid: int) -> str:
    return (_fields(pid) or [""])[0]
