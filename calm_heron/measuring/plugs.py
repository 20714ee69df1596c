"""What measuring brings to the pages that are composed: the reading strip on every page, and the instruments."""

import uuid
from collections.abc import Mapping

from calm_heron.measuring import demo, queries
from calm_heron.measuring.models import Meter, MeterCheck, PieceMoisture, Reading
from calm_heron.plugs import DEMO_PARTS, KEYS, LOG_KINDS, PANELS, PARTS, DemoPart, Keys, LogKind, Panel, Part, Slot


def strip(page: Mapping) -> dict | None:
    """The workshop's meters, the one this person used last, and a token so that a line is kept once."""
    membership = page["membership"]
    choices = list(queries.meters_of(membership.workshop)) if membership.may_record else []
    if not choices:
        return None
    usual = queries.usual_meter(membership) if len(choices) > 1 else choices[0]
    return {"choices": choices, "usual": usual, "once": uuid.uuid4().hex}


PARTS.add(
    Part(40, "Readings", "read", key="r", phone="Read", holds=("meters",)),
    Part(41, "Instruments", "meters", in_rail=False),
)
KEYS.add(
    Keys(5, ((("/",), "the reading strip"), (("Enter",), "keeps it"), (("Esc",), "leaves it"))),
    Keys(90, ((("←", "↑", "→", "↓"), "move"), (("Enter",), "goes to the number")), where="On the board or the log’s end"),
)
LOG_KINDS.add(LogKind(10, "reading", "Readings"), LogKind(60, "meter", "Meters"))
PANELS.add(Panel(10, Slot.ABOVE_PAGE, "measuring/strip.html", strip))
DEMO_PARTS.add(DemoPart(40, (PieceMoisture, Reading, MeterCheck, Meter), demo.load))
