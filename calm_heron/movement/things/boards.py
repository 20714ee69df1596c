"""Boards of a panel one by one, as they are typed: each a line or parted by semicolons, ``6 1/2 white oak quarter``.

First a width, then what differs from the rest: a species, and flat, rift, quarter or an angle in degrees.
"""

import re
from typing import Any

from django import forms

from calm_heron.stock import woods
from calm_heron.workshops.fields import sentence
from wood import units, written
from wood.errors import CannotRead, NotKnown
from wood.movement import shrinkage
from wood.movement.widths import Strip
from wood.species import Species

ANGLES = {"flat": 0.0, "rift": 45.0, "quarter": 90.0}
MOST = 60
_LINE = re.compile(r"^([\d./,\- ]*\d(?:\s*(?:in|inches|inch|\"|mm|cm))?)\b[\"]?\s*(.*)$", re.IGNORECASE)


class BoardsField(forms.CharField):
    """Such lines; ``read`` turns them into strips once the main species and grain are known."""

    def __init__(self, **options: Any) -> None:
        super().__init__(
            required=False,
            max_length=2000,
            widget=forms.Textarea(attrs={"rows": 2, "placeholder": "6 1/2; 4 quarter; 5 black walnut"}),
            **options,
        )

    def in_units(self, text: str, before: units.System) -> str:
        """The lines as a reader of another system reads them alike: a bare width gets the unit that it was meant in."""
        return "".join(_with_unit(part, before.length) for part in re.split(r"([;\n])", text))


def _with_unit(line: str, unit: str) -> str:
    result = _LINE.match(line.strip())
    if not result or re.search(r"[a-z\"]\s*$", result[1], re.IGNORECASE):
        return line
    return f"{result[1].strip()} {unit} {result[2]}".rstrip()


def read(text: str, form: Any, species: Species, angle_deg: float) -> list[Strip]:
    """The boards of a text, in order.

    Raises:
        ValidationError: a line that cannot be read, and which.
    """
    lines = [line.strip() for line in re.split(r"[;\n]", text) if line.strip()]
    if len(lines) > MOST:
        raise forms.ValidationError(f"These are {len(lines)} boards; at most {MOST} can be told one by one.")
    return [_board(line, position, form, species, angle_deg) for position, line in enumerate(lines, 1)]


def _board(line: str, position: int, form: Any, species: Species, angle_deg: float) -> Strip:
    result = _LINE.match(line)
    if not result:
        raise forms.ValidationError(f"Board {position}: “{units.shortened(line)}” does not begin with its width.")
    words = result[2].split()
    if words and words[-1].casefold() in ANGLES:
        angle_deg = ANGLES[words.pop().casefold()]
    elif words and (degrees := re.fullmatch(r"(\d{1,2})°", words[-1])):
        angle_deg = float(degrees[1])
        words.pop()
    try:
        width = units.length_m(result[1], form.system, "boards")
        if words:
            species = woods.species_of(form.workshop.pk, woods.named(form.workshop, " ".join(words)))
        figures = shrinkage.of_species(species)
    except CannotRead as wrong:
        raise forms.ValidationError(f"Board {position}: {sentence(wrong.why)}") from None
    except NotKnown:
        raise forms.ValidationError(f"Board {position}: nobody published how much {species.spoken_name} shrinks.") from None
    if not (0.005 <= width <= 2.0 and angle_deg <= 90):
        low, high = (written.cut_length(edge, form.system) for edge in (0.005, 2.0))
        raise forms.ValidationError(f"Board {position} must be between {low} and {high} wide.")
    return Strip(figures, angle_deg, width)
