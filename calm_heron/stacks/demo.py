"""Stacks in the demo's yard: one half way, one that is ready to come in."""

from datetime import timedelta

from calm_heron.plugs import Demo
from calm_heron.stacks.models import Stack, StackLot
from calm_heron.stock.models import Piece
from calm_heron.workshops.models import Membership
from wood.stacks import stickers

# Tag of the lot or board, days since it was stacked, its moisture then, where it stands in the yard (metres).
STANDING = (("ash-lot-01", 150, 0.44, 1.0, 1.0), ("elm-01", 35, 0.80, 1.0, 1.0), ("larch-01", 120, 0.45, 5.5, 1.2))


def load(demo: Demo) -> None:
    """Needs the lots, where they lie."""
    by = Membership.objects.filter(workshop=demo.workshop).select_related("person").first()
    for number, (tag, days, moisture, x, y) in enumerate(STANDING, 1):
        piece = Piece.objects.of(demo.workshop).filter(tag=tag).first()
        if piece is None or piece.place is None or by is None:
            continue
        usual = stickers.usual(piece.species, piece.thickness_m, moisture)
        stack = Stack.objects.create(
            workshop=demo.workshop,
            tag=f"stack-{number:02d}",
            place=piece.place,
            built_on=(demo.now - timedelta(days=days)).date(),
            width_m=1.2,
            sticker_m=usual.thickness_m,
            spacing_m=usual.spacing_m,
            clear_m=0.3,
            start_moisture=moisture,
            x_m=x,
            y_m=y,
            added_by=by.person,
        )
        StackLot.objects.create(workshop=demo.workshop, stack=stack, piece=piece)
