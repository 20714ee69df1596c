"""What Today says of the stock: the wood that is ready, and what to read next. Saved for what each piece is for."""

from collections.abc import Mapping
from datetime import datetime, timedelta
from typing import Any

from calm_heron.answers.saved import KINDS, AnswerKind, Saved, answers_of
from calm_heron.judging.purposes import Purposes
from calm_heron.judging.queries import read_next
from calm_heron.judging.stock_states import STATES, Overview, overview
from calm_heron.stock.models import Piece
from calm_heron.stock.templatetags.piece_words import thickness
from calm_heron.workshops.models import Workshop
from wood.judging.readiness import VERDICT_RULE, State


def ready(page: Mapping[str, Any]) -> dict[str, Any]:
    """The pieces that are ready, nearest to the level first."""
    return {"ready": _rows(page)["ready"], "ready_count": page["overview"].counts.get(State.READY, 0)}


def to_read(page: Mapping[str, Any]) -> dict[str, Any]:
    """What to read next, and why."""
    rows = _rows(page)["read_next"]
    return {"read_next": [row | {"read_at": datetime.fromisoformat(row["read_at"]) if row["read_at"] else None} for row in rows]}


def _rows(page: Mapping[str, Any]) -> dict[str, list[dict[str, Any]]]:
    workshop, counted = page["workshop"], page["overview"]
    return _worked_out(workshop, counted) if page["about"].is_asked else _saved(workshop, counted, answers_of(workshop.pk))


def _saved(workshop: Workshop, counted: Overview, saved: Saved) -> dict[str, list[dict[str, Any]]]:
    rows: dict[str, list[dict[str, Any]]] = saved.get(ON_TODAY, 0, lambda: _worked_out(workshop, counted))
    return rows


def _worked_out(workshop: Workshop, counted: Overview) -> dict[str, list[dict[str, Any]]]:
    ids = counted.ids.get(State.READY, [])
    pieces = Piece.objects.of(workshop).select_related("moisture", "place").in_bulk(ids)
    return {
        "ready": [
            {
                "tag": piece.tag,
                "moisture": piece.moisture.mean,
                "wood": f"{piece.species.common_name}, {thickness(piece, workshop.system)}",
                "place": piece.place.name if piece.place else "",
            }
            for piece in (pieces[pk] for pk in ids if pk in pieces)
        ],
        "read_next": [
            {"tag": item.piece.tag, "why": item.why, "read_at": item.read_at.isoformat() if item.read_at else ""}
            for item in read_next(workshop, counted)
        ],
    }


def _renew(workshop: Workshop, saved: Saved) -> None:
    _saved(workshop, overview(workshop, Purposes(workshop)), saved)


ON_TODAY = AnswerKind(55, "wood on Today", VERDICT_RULE, timedelta(hours=1), STATES.stands_on, _renew)
KINDS.add(ON_TODAY)
