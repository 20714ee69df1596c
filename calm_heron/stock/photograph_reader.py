"""Makes one photograph small, in a process of its own: what is read here was sent by a stranger.

It reads the file from standard input and writes width, height and a JPEG. Memory, time, files and rights are given up before the first byte
is looked at, so that a file made to harm harms this process only. Started by ``photographs.py``; it knows nothing of the application.
"""

import io
import os
import resource
import sys

from PIL import Image, ImageOps, JpegImagePlugin, PngImagePlugin, UnidentifiedImageError, WebPImagePlugin

MOST_POINTS, SIDE = 55_000_000, 1600
MEMORY_BYTES, SECONDS = 1_000_000_000, 15
NOT_READABLE, TOO_MANY_POINTS = 3, 4
NOBODY = 65534
# Named so that they are loaded before the limits fall.
READ = (JpegImagePlugin, PngImagePlugin, WebPImagePlugin)


def give_up_rights() -> None:
    for what, most in (
        (resource.RLIMIT_AS, MEMORY_BYTES),
        (resource.RLIMIT_CPU, SECONDS),
        (resource.RLIMIT_FSIZE, 0),
        (resource.RLIMIT_CORE, 0),
    ):
        resource.setrlimit(what, (most, most))
    if os.geteuid() == 0:
        os.setgroups([])
        os.setgid(NOBODY)
        os.setuid(NOBODY)


def small(content: bytes) -> tuple[int, int, bytes]:
    """Upright, at most ``SIDE`` points a side, and without anything the camera wrote beside the picture."""
    with Image.open(io.BytesIO(content), formats=("JPEG", "PNG", "WEBP")) as opened:
        if opened.width * opened.height > MOST_POINTS:
            sys.exit(TOO_MANY_POINTS)
        # A JPEG can be read small at once, without room for all its points.
        opened.draft("RGB", (SIDE, SIDE))
        upright = ImageOps.exif_transpose(opened).convert("RGB")
    upright.thumbnail((SIDE, SIDE))
    # Comments and the like are kept beside the points, and would be written with them.
    upright.info.clear()
    out = io.BytesIO()
    upright.save(out, "JPEG", quality=82)
    return upright.width, upright.height, out.getvalue()


def main() -> None:
    # Our own limit is the one that counts, with a sentence for it.
    Image.MAX_IMAGE_PIXELS = None
    give_up_rights()
    try:
        width, height, jpeg = small(sys.stdin.buffer.read())
    except (UnidentifiedImageError, OSError, ValueError, SyntaxError):
        sys.exit(NOT_READABLE)
    sys.stdout.buffer.write(f"{width} {height}\n".encode() + jpeg)


if __name__ == "__main__":
    main()
