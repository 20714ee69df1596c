"""What the demo's co-operative measured of its own wood."""

from calm_heron.plugs import Demo
from calm_heron.stock.models import OwnSpecies


def load(demo: Demo) -> None:
    """Figures of its own: its estuary oak is denser than the published mean, and a wood that is in no table."""
    OwnSpecies.objects.create(
        workshop=demo.workshop,
        key="european_oak",
        common_name="European oak",
        specific_gravity_12=0.70,
        source="Twelve blocks of our own, weighed",
    )
    OwnSpecies.objects.create(
        workshop=demo.workshop,
        key="own-laburnum",
        common_name="Laburnum",
        botanical_name="Laburnum anagyroides",
        specific_gravity_12=0.82,
        source="Three blocks of our own, weighed",
    )
