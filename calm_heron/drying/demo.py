"""Today's forecasts of the demo's pieces."""

from calm_heron.drying import forecasts
from calm_heron.plugs import Demo


def load(demo: Demo) -> None:
    """Needs the pieces with their readings and aims."""
    forecasts.renew_all(demo.workshop)
