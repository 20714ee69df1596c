"""What a board will do: sizes now and settled, from its species, ring geometry, moisture and the level of a place."""

from dataclasses import dataclass
from typing import Protocol

from wood.movement import section, shrinkage
from wood.movement.section import Section
from wood.movement.shrinkage import Shrinkage
from wood.species import Species


class Sized(Protocol):
    """A board, in stock or not: its species and its sizes in metres."""

    @property
    def species(self) -> Species: ...
    @property
    def width_m(self) -> float: ...
    @property
    def thickness_m(self) -> float: ...
    @property
    def length_m(self) -> float: ...


# A piece's own shrinkage varies by about 15% about its species' mean (Wood Handbook ch. 4), one standard deviation.
SHRINKAGE_SPREAD = 0.15
# Half of what is written at the least.
LEAST_SHOWN_M = 5e-5


@dataclass(frozen=True)
class Movement:
    """Change of a board between two moistures. Lengths in metres; ``uncertainty_m`` is two standard deviations of the width's change."""

    shrinkage: Shrinkage
    section: Section
    from_moisture: float
    to_moisture: float
    width_change_m: float
    thickness_change_m: float
    length_change_m: float
    uncertainty_m: float
    by_coefficient_m: float | None

    @property
    def width_size(self) -> float:
        """The width's change without its sign."""
        return abs(self.width_change_m)

    @property
    def shows(self) -> bool:
        """Whether the width's change is more than any rule could show."""
        return self.width_size >= LEAST_SHOWN_M

    @property
    def cup_size(self) -> float:
        return abs(self.section.cup_m)


def movement(piece: Sized, from_moisture: float, to_moisture: float, pith: tuple[float, float]) -> Movement:
    """The movement of a board whose sizes are those at ``from_moisture``, with the pith at ``pith`` from its middle.

    Raises:
        NotKnown: how much its species shrinks.
    """
    figures = shrinkage.of_species(piece.species)
    k_radial, k_tangential = section.size_ratios(figures, from_moisture, to_moisture)
    settled = section.settled_board(piece.width_m, piece.thickness_m, *pith, k_radial, k_tangential)
    width_change = settled.width_m - piece.width_m
    length_ratio = shrinkage.size_ratio(figures.longitudinal, from_moisture, to_moisture, figures.fibre_saturation)
    return Movement(
        shrinkage=figures,
        section=settled,
        from_moisture=from_moisture,
        to_moisture=to_moisture,
        width_change_m=width_change,
        thickness_change_m=settled.thickness_m - piece.thickness_m,
        length_change_m=piece.length_m * (length_ratio - 1),
        uncertainty_m=2 * SHRINKAGE_SPREAD * abs(width_change),
        by_coefficient_m=_by_coefficient(piece, settled.ring_angle_deg, from_moisture, to_moisture),
    )


def _by_coefficient(piece: Sized, ring_angle_deg: float, from_moisture: float, to_moisture: float) -> float | None:
    """The width's change by the published coefficients, where they exist and hold."""
    first, (low, high) = piece.species, shrinkage.COEFFICIENT_RANGE
    inside = low <= from_moisture <= high and low <= to_moisture <= high
    if not inside or first.coefficient_radial is None or first.coefficient_tangential is None:
        return None
    between = Shrinkage(first.coefficient_radial, first.coefficient_tangential, first.fibre_saturation, "coefficient").at_ring_angle(
        ring_angle_deg
    )
    return shrinkage.change_by_coefficient(piece.width_m, between, from_moisture, to_moisture)
