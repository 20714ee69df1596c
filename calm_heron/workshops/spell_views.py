"""What a button beside something that happened does: it is over, goes on, was not so, or was."""

from collections.abc import Callable
from typing import Any

from django.contrib import messages
from django.db.models import QuerySet
from django.http import Http404

from calm_heron.site import undo
from calm_heron.workshops.doors import WorkshopRequest
from calm_heron.workshops.refusals import Refused


def change(
    request: WorkshopRequest, events: QuerySet[Any], event_id: int, do: Callable[[Any, str], tuple[Any, str]], address: Callable[[int], str]
) -> None:
    """Do with one of the ``events`` what its button says, and tell the way back or why not.

    ``do`` takes the row and the button's code and gives the row that stands now with the code that takes it back; ``address`` is where an
    event of that id is changed.

    Raises:
        Http404: none of them has that id.
    """
    row = events.filter(pk=event_id).first()
    if row is None:
        raise Http404
    try:
        stands, back = do(row, request.POST.get("do", ""))
        undo.tell(request, "Kept, and the forecast is made anew.", address(stands.pk), {"do": back})
    except Refused as refused:
        messages.error(request, str(refused))
