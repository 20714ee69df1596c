"""Today's forecasts of the demo's pieces."""

from calm_heron.drying import forecasts
from calm_heron.plugs import Demo
from calm_heron.stock.models import Piece


def load(demo: Demo) -> None:
    """Needs the pieces with their readings and aims."""
    forecasts.renew(demo.workshop, Piece.objects.of(demo.workshop).in_stock().filter(lot=None).values_list("pk", flat=True))
