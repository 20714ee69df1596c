"""What is recorded is corrected by a new row that supersedes the old one, which stays to be seen; readings of wood and of air alike."""

from typing import Any, Self

from django.db import IntegrityError, transaction

from calm_heron.workshops.models import WorkshopRows
from calm_heron.workshops.refusals import Refused


class RecordedRows(WorkshopRows):
    """Rows with ``struck`` and ``supersedes``; ``standing`` leaves out what was taken out or corrected, and the entries that took it
    out.
    """

    def standing(self) -> Self:
        return self.filter(struck=False, superseded_by=None)


def again(row: Any, by: Any, **changes: Any) -> Any:
    """What a row says once more, with changes, in the name of who corrects it; not kept yet."""
    names = [field.name for field in row._meta.concrete_fields if field.name not in ("id", "by", "supersedes", "struck")]
    return type(row)(**({name: getattr(row, name) for name in names} | {"by": by.person} | changes))


def supersede(old: Any, new: Any, if_late: str) -> None:
    """Keep ``new`` in the place of ``old``.

    Raises:
        Refused: somebody else was first; ``if_late`` says so.
    """
    new.supersedes = old
    try:
        with transaction.atomic():
            new.save()
    except IntegrityError:
        raise Refused(if_late) from None
