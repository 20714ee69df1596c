"""Long walks: what is tried so often, or killed so often, that it would hold up everyday work. The suite takes a small sample of each;
``./heron walks`` goes the whole way."""

import os
from collections.abc import Sequence
from typing import Any

LONG = "CALM_HERON_LONG_WALKS"
# The tests that go further in the long.
WALKS = (
    "calm_heron.questions.tests.test_every_question",
    "tests.browser.test_every_page",
    "tests.test_doors.Hostile",
    "tests.test_offered",
    "tests.test_two_at_a_form",
    "tests.test_units_walk",
    "tests.test_yard_walk",
    "tests.keeping.test_before",
    "tests.keeping.test_start.ThroughKills",
    "tests.wood.test_fuzz",
    "tests.wood.test_stacks",
    "tests.wood.test_things",
    "tests.wood.test_turning_cuts",
)


def some(of: Sequence[Any], nth: int = 0, parts: int = 3) -> Sequence[Any]:
    """The nth of so many parts of what there is, evenly taken, in the suite; all of it in a long walk."""
    return of if os.environ.get(LONG) else of[nth % parts :: parts]


def far(sample: Any, whole: Any) -> Any:
    """How many, or which: the sample in the suite, the whole in a long walk."""
    return whole if os.environ.get(LONG) else sample
