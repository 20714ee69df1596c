"""Tests of the whole: the core, the doors, the boundaries, the command, and journeys in the browser."""

import os

from hypothesis import settings

# A slow moment of the machine is no failure; and a verdict on a change must not depend on luck.
settings.register_profile("heron", deadline=None, derandomize=os.environ.get("CI") == "true")
settings.load_profile("heron")
