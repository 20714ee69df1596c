"""Photographs as people send them, turned into small ones that are kept."""

import subprocess
import sys
import threading
from pathlib import Path

from calm_heron.stock.photograph_reader import NOT_READABLE, TOO_MANY_POINTS
from calm_heron.workshops.refusals import Refused

READER = Path(__file__).with_name("photograph_reader.py")
SECONDS = 30
# Each may take a gigabyte for a moment: no more than this at once in one process of the server.
_AT_ONCE = threading.BoundedSemaphore(2)
REASONS = {
    NOT_READABLE: "This is no photograph that can be read here: JPEG, PNG or WebP, and whole.",
    TOO_MANY_POINTS: "This picture has more than 55 million points; send a smaller one.",
}


def small(content: bytes) -> tuple[bytes, int, int]:
    """A photograph turned upright, made small, and freed of what the camera wrote into it: JPEG, width, height.

    It is read in a process of its own, limited in memory and time and without rights (``photograph_reader.py``).

    Raises:
        Refused: it is no picture that can be read, an unreasonably large one, or one that takes too long.
    """
    with _AT_ONCE:
        try:
            done = subprocess.run([sys.executable, "-I", str(READER)], input=content, capture_output=True, timeout=SECONDS, check=False)
        except subprocess.TimeoutExpired:
            raise Refused("This picture takes too long to read; send a smaller one.", "photo") from None
    head, _, jpeg = done.stdout.partition(b"\n")
    if done.returncode or not jpeg:
        raise Refused(REASONS.get(done.returncode, "This picture takes more room to read than there is; send a smaller one."), "photo")
    width, height = (int(number) for number in head.split())
    return jpeg, width, height
