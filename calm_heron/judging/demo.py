"""What the demo's co-operative aims for, and what some of its pieces are for."""

from calm_heron.air.demo import BENCH
from calm_heron.judging.models import PiecePurpose, WorkshopPurpose
from calm_heron.plugs import Demo
from calm_heron.stock.models import Piece
from wood.uses import FINE, GENERAL, Approach

# Some are built in this month, and some need not be so close.
THIS_MONTH = ("ash-01", "ash-02", "poplar-01")
NOT_SO_CLOSE = ("oak-01", "oak-02", "fir-01")


def load(demo: Demo) -> None:
    """Fine work for the bench room; needs the places in ``made`` and the pieces."""
    bench = demo.made[BENCH]
    WorkshopPurpose.objects.create(workshop=demo.workshop, place=bench, use_key=FINE.key)
    by_tag = {piece.tag: piece for piece in Piece.objects.of(demo.workshop)}
    for tags, use, approach in ((THIS_MONTH, FINE, Approach.WEEKS), (NOT_SO_CLOSE, GENERAL, Approach.YEAR)):
        for tag in tags:
            PiecePurpose.objects.create(workshop=demo.workshop, piece=by_tag[tag], place=bench, use_key=use.key, approach=approach)
