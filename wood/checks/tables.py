"""What a check of the science is, and a table of them."""

from dataclasses import dataclass

FITTED, HELD_OUT = "fitted", "held out"


@dataclass(frozen=True)
class Check:
    """One figure: ``got`` in ``unit``, wanted from ``low`` to ``high``; ``kind`` is FITTED or HELD_OUT."""

    name: str
    got: float
    low: float
    high: float
    unit: str
    kind: str

    @property
    def holds(self) -> bool:
        return self.low <= self.got <= self.high


@dataclass(frozen=True)
class Table:
    """Checks of one kind, with the source of what is wanted, and how many may fail before the table as a whole does."""

    title: str
    source: str
    checks: tuple[Check, ...]
    may_fail: int = 0
    note: str = ""

    @property
    def failed(self) -> int:
        return sum(not check.holds for check in self.checks)

    @property
    def holds(self) -> bool:
        return self.failed <= self.may_fail
