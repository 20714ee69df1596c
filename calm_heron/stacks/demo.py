"""Stacks in the demo's yard: one half way, one that is ready to come in."""

from datetime import timedelta

from calm_heron.air.demo import YARD
from calm_heron.plugs import Demo
from calm_heron.stacks.models import Stack, StackLot
from calm_heron.stock.models import Piece, Status
from calm_heron.workshops.models import Membership
from wood.stacks import stickers

# Tag of the lot or board, days since it was stacked, its moisture then, where it stands in the yard (metres).
STANDING = (("ash-lot-01", 150, 0.44, 1.0, 1.0), ("elm-01", 35, 0.80, 1.0, 1.0), ("larch-01", 120, 0.45, 5.5, 1.2))


# A lot that stood a summer, went through the kiln and was used up: days since it was sawn and since it was taken down, and what came.
BIRCH, SAWN, DOWN, CAME = "birch-lot-01", 290, 110, (0.182, 0.165, 0.194)


def load(demo: Demo) -> None:
    """Needs the lots, where they lie."""
    _over(demo)
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


def _over(demo: Demo) -> None:
    """The stack that was taken down, and its lot, which is used up."""
    person, yard = demo.people[2].person, demo.made[YARD]
    began, out = demo.now - timedelta(days=SAWN), demo.now - timedelta(days=DOWN)
    lot = Piece.objects.create(
        workshop=demo.workshop,
        tag=BIRCH,
        count=48,
        species_key="yellow_birch",
        thickness_m=0.0286,
        nominal="4/4",
        width_m=0.16,
        length_m=2.4,
        place=yard,
        added_by=person,
        added_at=began,
        has_sapwood=True,
        status=Status.USED,
    )
    stack = Stack.objects.create(
        workshop=demo.workshop,
        tag="birch-stack",
        place=yard,
        built_on=began.date(),
        width_m=1.2,
        sticker_m=0.019,
        spacing_m=0.4,
        clear_m=0.3,
        start_moisture=0.72,
        standing=False,
        foretold_days=158.0,
        out_m3=0.50,
        learnt="the side to the wall came two weeks later: turn it at midsummer",
        added_by=person,
    )
    mean, driest, wettest = CAME
    StackLot.objects.create(
        workshop=demo.workshop, stack=stack, piece=lot, standing=False, came=mean, driest=driest, wettest=wettest, out_at=out
    )
