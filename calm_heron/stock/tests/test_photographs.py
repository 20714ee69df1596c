"""Photographs from strangers: large ones are read, harmful and damaged ones get a sentence, and nothing the camera wrote is kept."""

import io
import os
import struct
import subprocess
import sys
import unittest
import zlib
from unittest import mock

from PIL import Image, PngImagePlugin

from calm_heron.stock import photographs
from calm_heron.stock.photograph_reader import MOST_POINTS
from calm_heron.workshops.refusals import Refused


def picture(form: str, size: tuple[int, int] = (400, 300), **how) -> bytes:
    out = io.BytesIO()
    Image.new("RGB", size, (120, 90, 60)).save(out, form, **how)
    return out.getvalue()


class Small(unittest.TestCase):
    def refusal(self, content: bytes) -> str:
        with self.assertRaises(Refused) as refused:
            photographs.small(content)
        return str(refused.exception)

    def test_a_photograph_of_fifty_million_points_is_read_whatever_its_form(self):
        for form, how in (("JPEG", {}), ("JPEG", {"progressive": True}), ("PNG", {"compress_level": 1})):
            with self.subTest(form, **how):
                jpeg, width, height = photographs.small(picture(form, (8192, 6144), **how))
                self.assertEqual((width, height), (1600, 1200))
                self.assertEqual(Image.open(io.BytesIO(jpeg)).size, (1600, 1200))

    def test_it_is_turned_upright(self):
        exif = Image.Exif()
        exif[0x0112] = 6
        self.assertEqual(photographs.small(picture("JPEG", (400, 300), exif=exif))[1:], (300, 400))

    def test_nothing_that_was_written_beside_the_picture_is_kept(self):
        exif = Image.Exif()
        exif[0x010E] = "where I live"
        text = PngImagePlugin.PngInfo()
        text.add_text("Comment", "where I live")
        for content in (
            picture("JPEG", exif=exif, comment=b"where I live", xmp=b"<x>where I live</x>"),
            picture("PNG", pnginfo=text),
            picture("WEBP", exif=exif, xmp=b"<x>where I live</x>"),
        ):
            self.assertIn(b"where I live", content)
            self.assertNotIn(b"where I live", photographs.small(content)[0])

    def test_a_picture_that_says_it_is_enormous_is_refused_unread(self):
        def chunk(kind: bytes, data: bytes) -> bytes:
            return struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))

        head = struct.pack(">IIBBBBB", 60_000, 60_000, 8, 2, 0, 0, 0)
        bomb = b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", zlib.compress(b"\0" * 1_000_000)) + chunk(b"IEND", b"")
        self.assertIn("more than 55 million points", self.refusal(bomb))
        self.assertGreater(MOST_POINTS, 8192 * 6144)

    def test_what_is_damaged_or_no_picture_is_refused_with_a_sentence(self):
        whole = picture("JPEG")
        for content in (b"", b"no picture", b"GIF89a" + bytes(100), whole[:200], b"<svg/>", picture("PNG")[:-200], os.urandom(5000)):
            self.assertIn("no photograph that can be read here", self.refusal(content))

    def test_one_that_takes_too_much_is_ended_and_nobody_else_with_it(self):
        # The same reader with less room than this picture takes.
        source, usual, tight = photographs.READER.read_text(), "MEMORY_BYTES, SECONDS = 1_000_000_000", "MEMORY_BYTES, SECONDS = 90_000_000"
        self.assertIn(usual, source)
        run = subprocess.run
        less = [sys.executable, "-I", "-c", source.replace(usual, tight)]
        with mock.patch.object(subprocess, "run", side_effect=lambda command, **how: run(less, **how)):
            self.assertIn("takes more room", self.refusal(picture("PNG", (7000, 7000))))
        with mock.patch.object(photographs, "SECONDS", 0.01):
            self.assertIn("takes too long", self.refusal(picture("PNG")))

    @unittest.skipUnless(os.geteuid() == 0, "only root has rights to give up")
    def test_it_is_never_read_with_the_rights_of_root(self):
        code = (
            f"import sys, runpy, os; reader = runpy.run_path({str(photographs.READER)!r});"
            "reader['give_up_rights'](); print(os.getuid(), os.geteuid(), os.getgroups())"
        )
        output = subprocess.run([sys.executable, "-I", "-c", code], capture_output=True, text=True, check=True).stdout
        self.assertEqual(output.strip(), "65534 65534 []")
