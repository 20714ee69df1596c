"""What wood bears across its grain: how stiff it is there, what pull it tears at, and what pressure crushes it.

Sources: Wood Handbook (FPL-GTR-282) ch. 5: tables of clear wood at 12% and elastic ratios (``data/mechanics.csv``); where a species has
no figure, the handbook's relations with specific gravity, marked as estimated. Coefficients of variation: tension 25%, stiffness 22%.
"""

import math
from dataclasses import dataclass
from functools import lru_cache

from wood.errors import NotKnown, check_range
from wood.species import Species
from wood.tables import Row, rows

# The bending test counts some shear: along the grain wood is a tenth stiffer than its tabulated modulus (Wood Handbook ch. 5).
TRUE_MODULUS = 1.10
# Middle of the tabulated ratios of each group, for species that have none, and how far single ones lie from them.
USUAL_TANGENTIAL = {"hardwood": 0.056, "softwood": 0.050}
USUAL_RADIAL = {"hardwood": 0.111, "softwood": 0.084}
# Tension across the grain, MPa at 12%, from specific gravity at 12%: A·G^B (Wood Handbook ch. 5, relations with gravity).
TENSION_BY_GRAVITY = {"hardwood": (10.1, 1.30), "softwood": (6.0, 1.11)}
CRUSHING_BY_GRAVITY = {"hardwood": (21.6, 2.09), "softwood": (16.5, 1.57)}
MODULUS_BY_GRAVITY = {"hardwood": (16_500.0, 0.70), "softwood": (20_500.0, 0.84)}
# Pulled radially, hardwoods with their rays bear more than pulled along the ring (beech 15-20 against 7-11 MPa); softwoods do not.
RADIAL_STRONGER = {"hardwood": 1.5, "softwood": 1.0}


@dataclass(frozen=True)
class Strength:
    """Across the grain at about 12%. ``tension_mpa`` is what the standard notched block tears at, ``crushing_mpa`` the pressure at which
    wood begins to be crushed; ``estimated`` says that a figure comes from specific gravity."""

    tangential_mpa: float
    radial_mpa: float
    tension_mpa: float
    crushing_mpa: float
    radial_stronger: float
    estimated: bool

    def stiffness_mpa(self, ring_angle_deg: float) -> float:
        """The modulus across the width of a board whose rings meet its face at this angle.

        Raises:
            OutOfRange: ring_angle_deg 0…90°.
        """
        cos2 = _cos2(ring_angle_deg)
        return 1 / (cos2 / self.tangential_mpa + (1 - cos2) / self.radial_mpa)

    def tears_at_mpa(self, ring_angle_deg: float) -> float:
        """The pull across the width that the standard block tears at.

        Raises:
            OutOfRange: ring_angle_deg 0…90°.
        """
        cos2 = _cos2(ring_angle_deg)
        return self.tension_mpa * (cos2 + (1 - cos2) * self.radial_stronger)


def _cos2(ring_angle_deg: float) -> float:
    check_range("ring_angle_deg", ring_angle_deg, 0.0, 90.0, "°")
    return math.cos(math.radians(ring_angle_deg)) ** 2


@lru_cache(maxsize=1)
def _table() -> dict[str, Row]:
    return {row["key"]: row for row in rows("mechanics")}


def of_species(species: Species) -> Strength:
    """What a species bears across its grain.

    Raises:
        NotKnown: no specific gravity at hand, or no wood at all.

    >>> from wood.species import species_named
    >>> round(of_species(species_named("white_oak")).tangential_mpa)
    974
    """
    gravity = species.specific_gravity
    if gravity is None or not species.is_wood:
        raise NotKnown("specific_gravity", species.common_name)
    row, group = _table().get(species.key, Row()), species.group
    modulus = _given(row, "moe_mpa") or _by_gravity(MODULUS_BY_GRAVITY[group], gravity)
    tension = _given(row, "tension_perp_kpa", 0.001)
    ratio_t, ratio_r = _given(row, "et_el"), _given(row, "er_el")
    along = TRUE_MODULUS * modulus
    return Strength(
        along * (ratio_t or USUAL_TANGENTIAL[group]),
        along * (ratio_r or USUAL_RADIAL[group]),
        tension or _by_gravity(TENSION_BY_GRAVITY[group], gravity),
        _by_gravity(CRUSHING_BY_GRAVITY[group], gravity),
        RADIAL_STRONGER[group],
        None in (ratio_t, ratio_r, tension),
    )


def _given(row: Row, name: str, scale: float = 1.0) -> float | None:
    return row.maybe(name, scale) if row else None


def _by_gravity(relation: tuple[float, float], gravity: float) -> float:
    return relation[0] * gravity ** relation[1]
