"""A database of its own for each class of tests, in a folder that goes with it."""

import os
import tempfile
import unittest
from pathlib import Path
from unittest import mock

from command.cluster import Cluster


class OwnData(unittest.TestCase):
    """``self.state`` is an empty folder for data, which every command of this test uses."""

    def setUp(self):
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        # PostgreSQL runs as its own user where we are root, and must be able to walk the path.
        Path(folder.name).chmod(0o755)
        self.state = Path(folder.name) / "heron"
        self.state.mkdir(mode=0o755)
        # What the tests' own database told the environment stays out of these.
        own = {name: value for name, value in os.environ.items() if not name.startswith(("CALM_HERON_", "DJANGO_"))}
        patched = mock.patch.dict(os.environ, own | {"CALM_HERON_DATA": str(self.state)}, clear=True)
        patched.start()
        self.addCleanup(patched.stop)

    def cluster(self, name: str = "work", *, durable: bool = False) -> Cluster:
        return Cluster(name, durable=durable)
