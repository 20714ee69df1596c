"""Every example in a docstring of the core, and of the strip's language, runs."""

import doctest
import importlib
import pkgutil

import wood
from calm_heron.measuring import strip
from calm_heron.stock import actions


def load_tests(loader, tests, pattern):
    for module in pkgutil.iter_modules(wood.__path__, "wood."):
        tests.addTests(doctest.DocTestSuite(importlib.import_module(module.name)))
    for module in (strip, actions):
        tests.addTests(doctest.DocTestSuite(module))
    return tests
