"""What must hold of a piece as a whole, typed in a form or read from a table: one check for both."""

from datetime import date
from typing import Any

from django.utils import timezone

from calm_heron.stock.kinds import PieceKind, sizes_apart
from wood import sizes
from wood.errors import CannotRead

FIRST_YEAR = 1800


def complete(kind: PieceKind, values: dict[str, Any], typed_thickness: str) -> dict[str, str]:
    """Fill what follows from the rest of a piece's ``values``, and say what cannot be, by the names of the values.

    A round piece is measured once where a board is measured twice; a nominal size is kept as it was typed, and planed wood has the
    thickness that goes with it. Values that could not be read are missing, and nothing is said of them.
    """
    wrong: dict[str, str] = {}
    for name in ("thickness_m", "length_m"):
        if values.get(name) is None and values.get("width_m"):
            values[name] = values["width_m"]
    values["nominal"] = typed_thickness if sizes.quarters(typed_thickness) else ""
    if values.get("dressed"):
        try:
            values["thickness_m"] = sizes.planed_m(typed_thickness)
        except CannotRead as error:
            wrong["dressed"] = error.why
    if apart := sizes_apart(kind, values.get("thickness_m"), values.get("width_m")):
        wrong["width_m"] = apart
    return wrong | _days(values.get("felled_on"), values.get("sawn_on"))


def _days(felled: date | None, sawn: date | None) -> dict[str, str]:
    wrong: dict[str, str] = {}
    for name, day in (("felled_on", felled), ("sawn_on", sawn)):
        if day and day.year < FIRST_YEAR:
            wrong[name] = "that is before anybody kept such a log"
        elif day and day > timezone.localdate():
            wrong[name] = "that day is in the future"
    if felled and sawn and sawn < felled:
        wrong.setdefault("sawn_on", "it was sawn before it was felled; is one of the two wrong?")
    return wrong
