"""How fast bound water spreads, in closed form, by the law that the kernel of :mod:`wood.drying.field` steps with.

Source: as the field's.
"""

from wood.drying import kernel
from wood.drying.field import Wood
from wood.errors import check_range


def diffusivity_m2_s(wood: Wood, moisture: float, temperature_c: float) -> float:
    """How fast bound water spreads across the grain, m²/s: the law that the kernel steps with, for what is worked out in closed form.

    Raises:
        OutOfRange: moisture 0…0.4, temperature_c −40…120°C.
    """
    check_range("moisture", moisture, 0.0, 0.4)
    check_range("temperature_c", temperature_c, -40.0, 120.0, "°C")
    if wood.constant_diffusivity:
        return wood.constant_diffusivity
    row, kelvin = wood.row, temperature_c + 273.15
    bound = min(moisture, float(row[kernel.FIBRE_SATURATION]))
    return float(kernel._bound(bound, kernel._scale(row[0], kelvin), kernel.ACTIVATION_PER_MOISTURE_K / kelvin, row[kernel.GRAVITY]))
