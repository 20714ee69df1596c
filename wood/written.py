"""How figures with units are written, each for a purpose: to cut, to handle, to say, to weigh, to be read back from a field.

- *to cut* (:func:`cut_length`): what a saw or a plane is set to, and what wood moves: 1/64 in (1/32 where a workshop prefers it) or 0.1 mm
  at any length, and thousandths of an inch or hundredths of a millimetre of what is smaller than a step;
- *to handle* (:func:`handled_length`): stickers, stacks, logs, boards as they lie: 1/16 in or 1 mm;
- *to say* (:func:`said_length`): in sentences, where the size is only named: long ones in feet or metres;
- *to weigh* (:func:`weighed_mass`): in the unit of the workshop's scale, whatever the size, so that a list has one unit;
- *to type* (:func:`typed_length`, :func:`typed_mass`): into a field, to be read back without loss.

What is cut is never written by what is said. All are of SI, read back by :mod:`wood.units`.
"""

import math
from collections.abc import Callable, Iterable
from fractions import Fraction

from wood.errors import check_range
from wood.sizes import BOARD_FOOT_M3
from wood.units import (
    FOOT_M,
    INCH,
    INCH_M,
    METRIC,  # noqa: F401 (for the examples)
    OUNCE_KG,
    POUND_KG,
    System,
    length_m,
    mass_kg,
    to_fahrenheit,
)

# The greatest figure that is written for people or read back from a field, in SI.
GREATEST_WRITTEN = 1e6
# A length smaller than this is written in thousandths of an inch or hundredths of a millimetre.
FINE_M = INCH_M / 64
# From so long on a length that is only said is said in feet, or in metres.
SAID_IN_FEET_M, SAID_IN_METRES_M = 5 * FOOT_M, 2.0
# From so heavy on a limit is written in the larger unit.
LIMIT_IN_LARGER_KG = 5.0
# The smallest length that is written behind a ±, by the unit of lengths.
LEAST_WRITTEN_M = {"in": INCH_M / 64, "mm": 1e-4}


def _known(field: str, value: float) -> float:
    return float(check_range(field, value, -GREATEST_WRITTEN, GREATEST_WRITTEN))


def _decimal(value: float, digits: int) -> str:
    """A number with at most so many decimals, without a sign on nothing.

    >>> _decimal(-0.04, 1), _decimal(20.0, 1)
    ('0', '20')
    """
    text = f"{value:.{digits}f}"
    text = text.rstrip("0").rstrip(".") if "." in text else text
    return "0" if text == "-0" else text


def inches(metres: float, denominator: int = 64) -> str:
    """A length in inches to the nearest 1/64 (or coarser), as people write it.

    Raises:
        OutOfRange: denominator 1…1024.

    >>> inches(0.034925), inches(0.0254), inches(-0.0015), inches(0.0001)
    ('1 3/8', '1', '-1/16', '0')
    """
    check_range("denominator", denominator, 1, 1024)
    steps = round(abs(_known("metres", metres)) / INCH_M * denominator)
    whole, rest = divmod(steps, denominator)
    sign = "-" if metres < 0 and steps else ""
    part = str(Fraction(rest, denominator)) if rest else ""
    return sign + (" ".join(filter(None, (str(whole) if whole else "", part))) or "0")


def _fine_length(metres: float, system: System) -> str:
    """A length that no step of a rule would show."""
    if system.is_inch:
        return f"{_decimal(metres / INCH_M, 3)} in"
    return f"{_decimal(metres * 1000, 2)} mm"


def cut_length(metres: float, system: System) -> str:
    """A length to cut by, or that wood moves: exact at any length.

    Raises:
        OutOfRange: metres −10⁶…10⁶.

    >>> cut_length(1.838325, INCH), cut_length(1.838325, METRIC), cut_length(0.0001, INCH), cut_length(0.0001, METRIC)
    ('72 3/8 in', '1838.3 mm', '0.004 in', '0.1 mm')
    """
    size = abs(_known("metres", metres))
    if size < FINE_M or (system.is_inch and round(size / INCH_M * system.cut_to) == 0):
        return _fine_length(metres, system)
    if system.is_inch:
        return f"{inches(metres, system.cut_to)} in"
    return f"{_decimal(metres * 1000, 1)} mm"


def cut_sizes(sizes_m: Iterable[float], system: System) -> str:
    """Sizes of one piece to cut by, their unit said once.

    >>> cut_sizes((1.838325, 0.2413, 0.0206375), INCH)
    '72 3/8 × 9 1/2 × 13/16 in'
    """
    return " × ".join(cut_length(size, system).rpartition(" ")[0] for size in sizes_m) + f" {system.length}"


def both_ways(growth_m: float, shrinkage_m: float, system: System) -> str:
    """How far wood moves either way, as :func:`cut_length`; a way that it does not go is left out.

    Args:
        growth_m, shrinkage_m: m, 0…10⁶.
    Raises:
        OutOfRange.

    >>> both_ways(0.003, 0.0015, METRIC), both_ways(0.0, 0.0015, METRIC), both_ways(0.0, 0.0, METRIC)
    ('+3 mm −1.5 mm', '−1.5 mm', '0 mm')
    """
    check_range("growth_m", growth_m, 0.0, GREATEST_WRITTEN, " m")
    check_range("shrinkage_m", shrinkage_m, 0.0, GREATEST_WRITTEN, " m")
    nothing = cut_length(0.0, system)
    ways = [(sign, cut_length(metres, system)) for sign, metres in (("+", growth_m), ("−", shrinkage_m))]
    return " ".join(f"{sign}{size}" for sign, size in ways if size != nothing) or nothing


def handled_length(metres: float, system: System) -> str:
    """A length as it is laid out in a yard or carried: to a sixteenth of an inch, from five feet on in feet; or to a millimetre.

    >>> handled_length(0.4012, INCH), handled_length(0.4012, METRIC), handled_length(2.44, INCH)
    ('15 13/16 in', '401 mm', '8 ft 1/16 in')
    """
    size = abs(_known("metres", metres))
    if not system.is_inch:
        return f"{_decimal(metres * 1000, 0)} mm" if size >= 0.0005 or size == 0 else _fine_length(metres, system)
    if size and round(size / INCH_M * 16) == 0:
        return _fine_length(metres, system)
    if size < SAID_IN_FEET_M:
        return f"{inches(metres, 16)} in"
    feet, sixteenths = divmod(round(size / INCH_M * 16), 12 * 16)
    rest = inches(sixteenths * INCH_M / 16, 16)
    return ("-" if metres < 0 else "") + (f"{feet} ft {rest} in" if sixteenths else f"{feet} ft")


def uncertain_length(metres: float, system: System) -> str:
    """What stands behind a ± of lengths: never nothing, for nothing is known that well.

    Raises:
        OutOfRange: not finite or absurdly large.

    >>> uncertain_length(0.0, METRIC)
    '0.1 mm'
    """
    return said_length(max(metres, LEAST_WRITTEN_M[system.length]), system)


def said_length(metres: float, system: System) -> str:
    """A length as it is named in a sentence: inch fractions to 1/64, or millimetres to 0.1; long ones in feet and inches, or metres.

    >>> said_length(0.2032, INCH), said_length(0.2031, METRIC), said_length(2.4, METRIC)
    ('8 in', '203.1 mm', '2.40 m')
    """
    size = abs(_known("metres", metres))
    if system.is_inch and size >= SAID_IN_FEET_M:
        feet, rest = divmod(round(size / INCH_M), 12)
        return ("-" if metres < 0 else "") + (f"{feet} ft {rest} in" if rest else f"{feet} ft")
    if not system.is_inch and size >= SAID_IN_METRES_M:
        return f"{metres:.2f} m"
    if size < FINE_M:
        return _fine_length(metres, system)
    return f"{inches(metres)} in" if system.is_inch else f"{_decimal(metres * 1000, 1)} mm"


def written_temperature(celsius: float, system: System) -> str:
    """A temperature with its unit, to a whole °F or a tenth of a °C; nothing is written as less than nothing.

    >>> written_temperature(20, INCH), written_temperature(20.25, METRIC), written_temperature(-0.04, METRIC)
    ('68°F', '20.2°C', '0°C')
    """
    return f"{_decimal(to_fahrenheit(celsius), 0)}°F" if system.is_inch else f"{_decimal(celsius, 1)}°C"


def weighed_mass(kilograms: float, system: System) -> str:
    """A mass as the workshop's scale shows it, whatever its size.

    >>> weighed_mass(0.412, METRIC), weighed_mass(0.412, INCH), weighed_mass(0.99, INCH.as_set("lb_oz", 64))
    ('412 g', '14.5 oz', '2 lb 2.9 oz')
    """
    key, amount = system.scale.key, kilograms / system.scale.unit_kg
    if key == "lb_oz":
        pounds, tenths = divmod(round(abs(kilograms) / OUNCE_KG * 10), 160)
        sign, ounces = "-" if kilograms < 0 and (pounds or tenths) else "", _decimal(tenths / 10, 1)
        return sign + (f"{pounds} lb {ounces} oz" if pounds and tenths else f"{pounds} lb" if pounds else f"{ounces} oz")
    if key == "oz":
        return f"{amount:.1f} oz".replace("-0.0", "0.0")
    if key == "lb":
        return f"{amount:.2f} lb".replace("-0.00", "0.00")
    return f"{_decimal(amount, 1 if key == 'g' else 3)} {key}"


def said_volume(volume_m3: float, system: System) -> str:
    """A volume in cubic metres or litres, cubic feet or cubic inches.

    Raises:
        OutOfRange: not finite or absurdly large.

    >>> said_volume(0.05, METRIC), said_volume(0.05, INCH)
    ('0.050 m³', '1.8 cu ft')
    """
    _known("volume_m3", volume_m3)
    if system.is_inch:
        feet = volume_m3 / FOOT_M**3
        return f"{feet:.1f} cu ft" if feet >= 1 else f"{feet * 1728:.0f} cu in"
    return f"{volume_m3:.3f} m³" if volume_m3 >= 0.02 else f"{volume_m3 * 1000:.1f} l"


def sawn_volume(volume_m3: float, system: System) -> str:
    """A volume of sawn wood, in cubic metres, or in board feet with cubic feet beside them.

    Raises:
        OutOfRange: not finite or absurdly large.

    >>> sawn_volume(2.36, METRIC), sawn_volume(2.36, INCH), sawn_volume(0.01, INCH)
    ('2.36 m³', '1,000 bd ft', '4.2 bd ft')
    """
    _known("volume_m3", volume_m3)
    if not system.is_inch:
        return f"{volume_m3:,.2f} m³" if volume_m3 >= 0.1 else f"{volume_m3:.3f} m³"
    feet = volume_m3 / BOARD_FOOT_M3
    return f"{feet:,.0f} bd ft" if feet >= 100 else f"{feet:.1f} bd ft"


def rough_mass(kilograms: float, system: System) -> str:
    """A mass that was reckoned and is known to about a tenth: two figures, in the unit that goes with its size.

    >>> rough_mass(0.9996, METRIC), rough_mass(431, INCH)
    ('1 kg', '950 lb')
    """
    large, small = (("lb", POUND_KG), ("oz", OUNCE_KG)) if system.is_inch else (("kg", 1.0), ("g", 0.001))
    written = float(f"{kilograms / large[1]:.2g}")
    name, size = large if written >= 1 else small
    return f"{_decimal(float(f'{kilograms / size:.2g}'), 2)} {name}"


# -- limits: round figures that lie inside what is allowed


def _inside(low: float, high: float, step: float) -> tuple[float, float]:
    """The limits moved inwards to whole steps; as they are where no step lies between them."""
    inner = math.ceil(low / step - 1e-9) * step, math.floor(high / step + 1e-9) * step
    return inner if inner[0] <= inner[1] else (low, high)


def length_limits(low_m: float, high_m: float, system: System) -> tuple[str, str]:
    """Between which lengths, each itself allowed.

    Raises:
        OutOfRange: low_m −10⁶…10⁶, high_m −10⁶…10⁶.

    >>> length_limits(0.0158, 2.5, INCH)
    ('5/8 in', '8 ft 2 in')
    """
    _known("low_m", low_m), _known("high_m", high_m)
    step = INCH_M / 64 if system.is_inch else 1e-4
    low, high = _inside(low_m, high_m, step)
    if high >= (SAID_IN_FEET_M if system.is_inch else SAID_IN_METRES_M):
        high = _inside(0.0, high_m, INCH_M if system.is_inch else 0.01)[1]
    return said_length(low, system), said_length(high, system)


def mass_limits(low_kg: float, high_kg: float, system: System) -> tuple[str, str]:
    """Between which masses, each itself allowed and in figures that people would type.

    Raises:
        OutOfRange: low_kg −10⁶…10⁶, high_kg −10⁶…10⁶.

    >>> mass_limits(0.001, 200.0, INCH)
    ('0.0353 oz', '440 lb')
    """
    return _limit_of_mass(_known("low_kg", low_kg), system, math.ceil), _limit_of_mass(_known("high_kg", high_kg), system, math.floor)


def _limit_of_mass(kilograms: float, system: System, toward: Callable[[float], int]) -> str:
    large, small = (("lb", POUND_KG), ("oz", OUNCE_KG)) if system.is_inch else (("kg", 1.0), ("g", 0.001))
    if system.scale.key in ("kg", "lb", "lb_oz") and kilograms >= system.scale.unit_kg:
        name, unit = ("kg", 1.0) if system.scale.key == "kg" else ("lb", POUND_KG)
    elif system.scale.key in ("g", "kg"):
        name, unit = ("kg", 1.0) if kilograms >= LIMIT_IN_LARGER_KG else ("g", 0.001)
    else:
        name, unit = large if kilograms >= LIMIT_IN_LARGER_KG else small
    if kilograms <= 0:
        return f"0 {name}"
    amount = kilograms / unit
    step = 10.0 ** (math.floor(math.log10(amount)) - 2)
    whole = toward(round(amount / step, 6)) * step
    return f"{_decimal(whole, max(0, 2 - math.floor(math.log10(amount))))} {name}"


# -- writing into a field, to be read back: nothing may be rounded away


def typed_length(metres: float, system: System) -> str:
    """A length that reads back as itself: an inch fraction where it is one, else a decimal.

    >>> typed_length(0.03175, INCH), typed_length(0.03175, METRIC), typed_length(0.03, INCH)
    ('1 1/4 in', '31.75 mm', '1.18110236 in')
    """
    _known("metres", metres)
    if system.is_inch:
        written = f"{inches(metres)} in"
        if abs(length_m(written, INCH) - metres) < 1e-9:
            return written
        # As many digits as bring it back; no saw cuts by the last of them.
        return f"{_decimal(metres / INCH_M, 8)} in"
    # Never as a power of ten: what is written here is read again.
    return f"{_decimal(metres * 1000, 6)} mm"


def typed_mass(kilograms: float, system: System) -> str:
    """A mass that reads back as itself to nine digits.

    >>> typed_mass(9.075, METRIC), typed_mass(0.992233, INCH.as_set("lb_oz", 64))
    ('9075 g', '2.187499318 lb')
    """
    _known("mass_kg", kilograms)
    if system.scale.key == "lb_oz":
        written = weighed_mass(kilograms, system)
        if abs(mass_kg(written, system) - kilograms) < 1e-9:
            return written
    unit, size = ("lb", POUND_KG) if system.scale.key == "lb_oz" else (system.scale.key, system.scale.unit_kg)
    return f"{_decimal(kilograms / size, 9)} {unit}"
