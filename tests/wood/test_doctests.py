"""Every example in a docstring of the core, and of the strip's language, runs."""

import doctest
import importlib
import pkgutil
import unittest

import wood
from calm_heron.measuring import strip
from calm_heron.site import numbers
from calm_heron.stock import actions

MODULES = [importlib.import_module(package.name) for package in pkgutil.walk_packages(wood.__path__, "wood.")] + [strip, actions, numbers]


class Examples(unittest.TestCase):
    def test_every_example_gives_what_it_says(self):
        tried = 0
        for module in MODULES:
            with self.subTest(module.__name__):
                result = doctest.testmod(module)
                tried += result.attempted
                self.assertEqual(result.failed, 0)
        self.assertGreaterEqual(tried, 50)
