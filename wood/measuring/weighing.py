"""Moisture by weight: the dry basis, the wet basis, and the ovendry mass that both stand on (AH-188 ch. 6)."""

import math
from dataclasses import dataclass

from wood.errors import check_range

LARGEST_MASS_KG = 20_000.0


def moisture_from_masses(wet_mass_kg: float, dry_mass_kg: float) -> float:
    """Moisture content on the dry basis, M = (wet − dry)/dry.

    Args:
        wet_mass_kg: mass as it is, at least the ovendry mass, up to 20 t.
        dry_mass_kg: ovendry mass, above zero.
    Raises:
        OutOfRange: a mass that is not positive, or wet below dry.

    >>> moisture_from_masses(1.2, 1.0)
    0.19999999999999996
    """
    check_range("dry_mass_kg", dry_mass_kg, 1e-6, LARGEST_MASS_KG, " kg")
    check_range("wet_mass_kg", wet_mass_kg, dry_mass_kg, LARGEST_MASS_KG, " kg")
    return float(wet_mass_kg / dry_mass_kg - 1)


def wet_basis(moisture: float) -> float:
    """Water as a share of the whole mass, from moisture on the dry basis (0 and up).

    Raises:
        OutOfRange: moisture 0…10.

    >>> wet_basis(1.0)
    0.5
    """
    check_range("moisture", moisture, 0.0, 10.0)
    return moisture / (1 + moisture)


def dry_basis(wet_basis_moisture: float) -> float:
    """Moisture on the dry basis from the share of water in the whole mass (0 up to, not including, 1).

    Raises:
        OutOfRange: wet_basis_moisture 0…0.95.

    >>> dry_basis(0.5)
    1.0
    """
    check_range("wet_basis_moisture", wet_basis_moisture, 0.0, 0.95)
    return wet_basis_moisture / (1 - wet_basis_moisture)


def ovendry_mass_kg(mass_kg: float, moisture: float) -> float:
    """The ovendry mass of a piece whose moisture is known from a section cut beside it: W_od = W/(1 + M) (AH-188 ch. 6).

    Raises:
        OutOfRange: mass_kg 10⁻⁶…LARGEST_MASS_KG kg, moisture 0…10.

    >>> round(ovendry_mass_kg(2.4, 0.2), 3)
    2.0
    """
    check_range("mass_kg", mass_kg, 1e-6, LARGEST_MASS_KG, " kg")
    check_range("moisture", moisture, 0.0, 10.0)
    return mass_kg / (1 + moisture)


def weighing_uncertainty(wet_mass_kg: float, dry_mass_kg: float, scale_step_kg: float, dry_mass_uncertainty: float = 0.0) -> float:
    """How far a moisture by weight may be off (95%), from the scale's step and a doubtful ovendry mass.

    Args:
        scale_step_kg: the smallest step the scale shows; each weighing may be off by half of it.
        dry_mass_uncertainty: relative doubt about the ovendry mass (0.01 is 1%), 0 where it was really ovendried.
    Raises:
        OutOfRange: dry_mass_kg 10⁻⁶…LARGEST_MASS_KG kg, wet_mass_kg 0…LARGEST_MASS_KG kg, scale_step_kg 0…100 kg,
            dry_mass_uncertainty 0…1.

    >>> round(weighing_uncertainty(1.2, 1.0, 0.01), 4)
    0.0078
    """
    check_range("dry_mass_kg", dry_mass_kg, 1e-6, LARGEST_MASS_KG, " kg")
    check_range("wet_mass_kg", wet_mass_kg, 0.0, LARGEST_MASS_KG, " kg")
    check_range("scale_step_kg", scale_step_kg, 0.0, 100.0, " kg")
    check_range("dry_mass_uncertainty", dry_mass_uncertainty, 0.0, 1.0)
    half, ratio = scale_step_kg / 2, wet_mass_kg / dry_mass_kg
    return math.hypot(half / dry_mass_kg, ratio * half / dry_mass_kg, ratio * dry_mass_uncertainty)


# The ratio of specific gravity within a species: 10% is one standard deviation (Wood Handbook ch. 4).
DENSITY_SPREAD = 0.10
WATER_KG_M3 = 1000.0


@dataclass(frozen=True)
class Contents:
    """What a piece weighs and how much of that is water; kilograms. ``spread`` is one standard deviation as a share of them."""

    mass_kg: float
    ovendry_kg: float
    water_kg: float
    spread: float


def specific_gravity_at(basic: float, moisture: float) -> float:
    """Ovendry mass over volume at a moisture, from that over green volume: G_M = G_b/(1 − 0.265·a·G_b), a = (0.30 − M)/0.30.

    Source: Wood Handbook ch. 4, eq. 4-10. Above 30% the volume no longer changes.
    Raises:
        OutOfRange: basic 0.05…1.3, moisture 0…10.

    >>> round(specific_gravity_at(0.60, 0.12), 3), specific_gravity_at(0.60, 0.8)
    (0.663, 0.6)
    """
    check_range("basic", basic, 0.05, 1.3)
    check_range("moisture", moisture, 0.0, 10.0)
    return basic / (1 - 0.265 * max(0.0, (0.30 - moisture) / 0.30) * basic)


def contents(volume_m3: float, basic_specific_gravity: float, moisture: float) -> Contents:
    """The weight of a piece and the water in it, from its size as it is, its specific gravity (green volume) and its moisture.

    Raises:
        OutOfRange: volume_m3 0…1000 m³.

    >>> oak = contents(0.02, 0.60, 0.20)
    >>> round(oak.ovendry_kg, 2), round(oak.water_kg, 2)
    (12.67, 2.53)
    """
    check_range("volume_m3", volume_m3, 0.0, 1000.0, " m³")
    dry = specific_gravity_at(basic_specific_gravity, moisture) * WATER_KG_M3 * volume_m3
    return Contents(dry * (1 + moisture), dry, dry * moisture, DENSITY_SPREAD)
