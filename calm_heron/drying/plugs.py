"""What drying brings to the pages that are composed, and the methods it knows of itself."""

from django.urls import reverse

from calm_heron.air.kinds import PlaceKind
from calm_heron.drying.methods import METHODS, DryingMethod
from calm_heron.drying.ready_by import ready_by
from calm_heron.plugs import PANELS, PARTS, PIECE_ACTIONS, Panel, Part, PieceAction, Slot
from wood.drying.defects import Defect
from wood.drying.methods import CHAMBER, LOG, SHED, SHOP, YARD

PARTS.add(Part(50, "Drying", "drying", key="d"))
PANELS.add(
    Panel(
        50,
        Slot.VERDICT,
        "drying/ready_by.html",
        lambda page: ready_by(page["piece"], page["about"], page["answer"], page["membership"]),
    )
)
PIECE_ACTIONS.add(
    PieceAction(
        50,
        "How long?",
        lambda piece: reverse("piece_drying", args=[piece.workshop.slug, piece.tag]),
        applies=lambda piece: piece.traits.is_judged,
    )
)
METHODS.add(
    DryingMethod(10, LOG, "Left in the log", at_a_yard="Left in the log at {place},"),
    DryingMethod(20, YARD, "In a yard", asks=("wind",)),
    DryingMethod(30, SHED, "In an unheated shed", at_a_yard="Unheated shed at {place},", place_kinds=(PlaceKind.STORE,)),
    DryingMethod(
        40, SHOP, "In a heated room", at_a_yard="Heated room at {place},", place_kinds=(PlaceKind.ROOM,), is_heated=True
    ),
    DryingMethod(
        50, CHAMBER, "In a chamber", place_kinds=(PlaceKind.KILN,), asks=("temperature_c", "humidity"),
        advice={
            # In a chamber the air is ours to set.
            Defect.FACE_CHECKS: "Begin cooler and damper, and only then step by step hotter and drier.",
            Defect.STAIN: "Warm it up and let the fan run from the first hour.",
            Defect.MOULD: "Warm it up and let the fan run from the first hour.",
        },
    ),
)  # fmt: skip
