"""What stock brings to the pages that are composed."""

from calm_heron.plugs import DEMO_PARTS, LOG_KINDS, DemoPart, LogKind
from calm_heron.stock import demo
from calm_heron.stock.models import OwnSpecies, Photo, Piece

LOG_KINDS.add(LogKind(30, "stock", "Stock"))
DEMO_PARTS.add(DemoPart(30, (Photo, Piece, OwnSpecies), demo.load))
