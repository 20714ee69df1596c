"""The science against published figures: every table of docs/science.md, worked anew (``./heron science``).

A check says what came out, what is wanted, from where the wanted figure is, and whether it was *fitted* (a number of the model was
chosen with it in view) or *held out* (it follows without having been looked at). A held-out check that fails is the more telling one;
a fitted one that fails says that one model could not serve all.
"""

from collections.abc import Callable, Iterator

from wood.checks.air import climates, interiors
from wood.checks.damage import damage, losses
from wood.checks.numerics import numerics, resolution
from wood.checks.tables import FITTED, HELD_OUT, Check, Table
from wood.checks.yards import calendar, frozen, kilns, seasons, settling, settling_weeks, stacking, yards

__all__ = ["FITTED", "HELD_OUT", "TABLES", "Check", "Table", "all_tables", "settling_weeks"]

TABLES: dict[str, Callable[[], Table]] = {
    item.__name__: item
    for item in (climates, interiors, yards, seasons, kilns, settling, calendar, stacking, frozen, damage, losses, numerics, resolution)
}


def all_tables(names: tuple[str, ...] = ()) -> Iterator[Table]:
    """Every table, or those named, worked one after the other.

    >>> next(all_tables(("frozen",))).title
    'Frozen wood'
    """
    for name in names or tuple(TABLES):
        yield TABLES[name]()
