"""What the movement of a board is computed from."""

from typing import Any

from django import forms

from calm_heron.stock.models import Piece
from calm_heron.workshops.fields import CalmForm, LengthField, PercentField
from wood.movement.section import PITH_M


class MovementForm(CalmForm):
    """From which moisture to which, and where the pith lies seen from the middle of the board. Everything has a default."""

    def __init__(self, *args: Any, piece: Piece, **kwargs: Any) -> None:
        self.piece = piece
        super().__init__(*args, **kwargs)

    def build(self) -> None:
        unit = self.system.length
        most = self.piece.species.greatest_moisture
        self.fields["from_moisture"] = PercentField(self.system, 0.0, most, label="From, % moisture", required=False)
        self.fields["to_moisture"] = PercentField(self.system, 0.0, most, label="To, % moisture", required=False)
        self.fields["pith_x"] = LengthField(self.system, -PITH_M, PITH_M, label=f"Pith to the right of the middle, {unit}", required=False)
        self.fields["pith_y"] = LengthField(self.system, -PITH_M, PITH_M, label=f"Pith above the middle, {unit}", required=False)


class PithForm(CalmForm):
    """The place in the log that was found by dragging, to be kept with the board: where the hand last was, answered or not."""

    # It stands beside the question, which has fields of these names.
    ids = "keep-%s"
    version = forms.IntegerField(widget=forms.HiddenInput)

    def build(self) -> None:
        for name in ("pith_x", "pith_y"):
            self.fields[name] = LengthField(self.system, -PITH_M, PITH_M, widget=forms.HiddenInput)
