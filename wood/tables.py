"""Reading the core's own data tables: names in the first row, units in the second, empty cells as ``None``."""

import csv
from importlib.resources import files


def rows(name: str) -> list[dict[str, str | None]]:
    """The rows of ``wood/data/<name>.csv`` without the units row; an empty cell is ``None``."""
    with (files("wood") / "data" / f"{name}.csv").open(encoding="utf-8", newline="") as table:
        _units, *body = csv.DictReader(table)
    return [{column: cell or None for column, cell in row.items()} for row in body]


def number(cell: str | None, scale: float = 1.0) -> float | None:
    """A cell as a number times ``scale``, or ``None`` where the table does not know."""
    return None if cell is None else float(cell) * scale
