"""What the demo's co-operative aims for."""

from calm_heron.air.demo import BENCH
from calm_heron.judging.models import Aim
from calm_heron.plugs import Demo
from wood.uses import FINE


def load(demo: Demo) -> None:
    """Fine work for the bench room; needs the places in ``made``."""
    Aim.objects.create(workshop=demo.workshop, place=demo.made[BENCH], use_key=FINE.key)
