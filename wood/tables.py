"""Reading the core's own data tables: names in the first row, units in the second, empty cells for what is not known."""

import csv
from importlib.resources import files

from wood.errors import NotKnown


class Row(dict[str, str]):
    """One row of a table, by the names of its columns; an empty cell is an empty text.

    >>> row = Row(key="oak", days_low="60", days_high="")
    >>> row.number("days_low"), row.maybe("days_high"), row.said("days_high")
    (60.0, None, None)
    """

    def said(self, name: str) -> str | None:
        """A cell, or ``None`` where it is empty."""
        return self[name] or None

    def maybe(self, name: str, scale: float = 1.0) -> float | None:
        """A cell as a number times ``scale``, or ``None`` where the table does not know."""
        return float(self[name]) * scale if self[name] else None

    def number(self, name: str, scale: float = 1.0) -> float:
        """A cell as a number times ``scale``.

        Raises:
            NotKnown: the table does not know it.
        """
        result = self.maybe(name, scale)
        if result is None:
            raise NotKnown(name, self.get("key", "this row"))
        return result


def rows(name: str) -> list[Row]:
    """The rows of ``wood/data/<name>.csv`` without the units row."""
    text = (files("wood") / "data" / f"{name}.csv").read_text(encoding="utf-8")
    _units, *body = csv.DictReader(text.splitlines())
    return [Row(row) for row in body]
