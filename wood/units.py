"""Units as people type and read them: inch fractions and quarter sizes, °F and °C, ounces and grams.

Everything is turned into SI here on the way in and out. A unit written after a number always wins over the workshop's own:
``20 C`` is 20 °C everywhere.
"""

import re
from dataclasses import dataclass
from fractions import Fraction

from wood.errors import CannotRead, check_range

INCH_M = 0.0254
FOOT_M = 0.3048
OUNCE_KG = 0.028349523125
POUND_KG = 16 * OUNCE_KG

LENGTH_UNITS_M = {
    "in": INCH_M, '"': INCH_M, "”": INCH_M, "inch": INCH_M, "inches": INCH_M,
    "ft": FOOT_M, "'": FOOT_M, "’": FOOT_M, "foot": FOOT_M, "feet": FOOT_M,
    "mm": 0.001, "cm": 0.01, "m": 1.0,
}  # fmt: skip
MASS_UNITS_KG = {"g": 0.001, "kg": 1.0, "oz": OUNCE_KG, "lb": POUND_KG, "lbs": POUND_KG}
DENOMINATORS = (2, 4, 8, 16, 32, 64)


@dataclass(frozen=True)
class System:
    """One of the two systems, entire: the unit that a bare number means, and how results are written."""

    key: str
    name: str
    length: str
    temperature: str
    mass: str


INCH = System("inch", "inches, °F, ounces", "in", "F", "oz")
METRIC = System("metric", "millimetres, °C, grams", "mm", "C", "g")
SYSTEMS = {system.key: system for system in (INCH, METRIC)}

_NUMBER = r"[+-]?\d+(?:[.,]\d+)?"


def _plain(text: str) -> str:
    return re.sub(r"\s+", " ", text.replace("−", "-").replace("⁄", "/")).strip()


def number(text: str, field: str = "number") -> float:
    """A plain decimal number; a comma serves as the point.

    Raises:
        CannotRead: anything else.

    >>> number("11,2")
    11.2
    """
    plain = _plain(text)
    if not re.fullmatch(_NUMBER, plain) or len(plain) > 20:
        raise CannotRead(field, text, f"“{shortened(text)}” is not a number")
    return float(plain.replace(",", "."))


def percent(text: str, field: str = "percent") -> float:
    """A percentage as a fraction; a trailing ``%`` is allowed.

    >>> percent("11.2 %")
    0.112
    """
    # Rounded where no meter shows more, so that 9.7 % is kept as 0.097.
    return round(number(_plain(text).removesuffix("%"), field) / 100, 8)


def length_m(text: str, system: System, field: str = "length") -> float:
    """A length in metres from ``5/4``, ``1 3/8``, ``1-3/8``, ``27``, ``27 mm``, ``8 ft``, ``8' 6"``.

    Fractions are inches in either system (a quarter size such as ``5/4`` is what it says, 1 1/4 in); a bare number
    is in the system's unit.

    Raises:
        CannotRead: the text is no length; its ``why`` says what is wrong with it.

    >>> round(length_m("5/4", METRIC) * 1000, 2), round(length_m("1 3/8", INCH) * 1000, 3)
    (31.75, 34.925)
    """
    plain = _plain(text).casefold()
    if not plain:
        raise CannotRead(field, text, "a size is needed here")
    feet = re.fullmatch(rf"({_NUMBER}) ?(?:ft|feet|foot|'|’) ?([^'’f]+)", plain)
    if feet:
        return number(feet[1], field) * FOOT_M + length_m(
            feet[2] if feet[2][-1].isalpha() or feet[2][-1] in '"”' else feet[2] + " in", INCH, field
        )
    found = re.fullmatch(r"([+\-\d.,/ ]*\d)[ ]?([a-z\"'”’]*)", plain)
    if re.fullmatch(r"(\d{1,2}) ?(?:x|×|by) ?(\d{1,2})", plain):
        raise CannotRead(field, text, f"“{shortened(text)}” is the size of a whole section; write one size here, like 1 1/2 in")
    if not found or found[2] not in ("", *LENGTH_UNITS_M):
        raise CannotRead(field, text, f"“{shortened(text)}” is not a size; write it like 5/4, 1 3/8, 27 mm or 2.4 m")
    amount, unit = found[1].strip(), found[2]
    if "/" in amount:
        if unit and LENGTH_UNITS_M[unit] not in (INCH_M, FOOT_M):
            raise CannotRead(field, text, "fractions are of an inch; write millimetres as a decimal, like 34.9 mm")
        return float(_fraction(amount, text, field)) * LENGTH_UNITS_M[unit or "in"]
    return number(amount, field) * LENGTH_UNITS_M[unit or system.length]


def _fraction(amount: str, text: str, field: str) -> Fraction:
    result = re.fullmatch(r"([+-]?)(?:(\d{1,5})[ -])?(\d{1,5})/(\d{1,5})", amount)
    if not result:
        raise CannotRead(field, text, f"“{shortened(text)}” is not a fraction; write it like 5/4 or 1 3/8")
    whole, top, bottom = int(result[2] or 0), int(result[3]), int(result[4])
    if bottom == 0:
        raise CannotRead(field, text, f"“{shortened(text)}” has 0 below the line; nothing can be divided by it")
    if bottom not in DENOMINATORS:
        raise CannotRead(field, text, f"inch fractions have 2, 4, 8, 16, 32 or 64 below the line, not {bottom}")
    size = whole + Fraction(top, bottom)
    return -size if result[1] == "-" else size


@dataclass(frozen=True)
class TypedTemperature:
    """A temperature in °C, and whether its unit was written beside it."""

    celsius: float
    unit_given: bool


def temperature(text: str, system: System, field: str = "temperature") -> TypedTemperature:
    """A temperature from ``68``, ``68 F``, ``20°C``; a bare number is in the system's unit.

    Raises:
        CannotRead.

    >>> round(temperature("68 F", METRIC).celsius, 1)
    20.0
    """
    result = re.fullmatch(rf"({_NUMBER}) ?(?:°|deg)? ?([cf]?)", _plain(text).casefold())
    if not result:
        raise CannotRead(field, text, f"“{shortened(text)}” is not a temperature; write it like 20 C or 68 F")
    value, unit = number(result[1], field), result[2].upper() or system.temperature
    return TypedTemperature(from_fahrenheit(value) if unit == "F" else value, bool(result[2]))


def mass_kg(text: str, system: System, field: str = "mass") -> float:
    """A mass in kilograms from ``412``, ``412 g``, ``2.4 kg``, ``14.5 oz``, ``3 lb``.

    Raises:
        CannotRead.

    >>> mass_kg("2.4 kg", INCH)
    2.4
    """
    result = re.fullmatch(rf"({_NUMBER}) ?([a-z]*)", _plain(text).casefold())
    if not result or result[2] not in ("", *MASS_UNITS_KG):
        raise CannotRead(field, text, f"“{shortened(text)}” is not a weight; write it like 412 g, 2.4 kg, 14.5 oz or 3 lb")
    return number(result[1], field) * MASS_UNITS_KG[result[2] or system.mass]


# The greatest figure that is written for people or read back from a field, in SI.
GREATEST_WRITTEN = 1e6
# Nothing that is typed is larger: a number has at most twenty digits.
GREATEST_TYPED = 1e21


def _written(field: str, value: float) -> float:
    return float(check_range(field, value, -GREATEST_WRITTEN, GREATEST_WRITTEN))


def from_fahrenheit(fahrenheit: float) -> float:
    """Degrees Celsius.

    Raises:
        OutOfRange: fahrenheit −GREATEST_TYPED…GREATEST_TYPED.
    """
    check_range("fahrenheit", fahrenheit, -GREATEST_TYPED, GREATEST_TYPED)
    return (fahrenheit - 32) / 1.8


def to_fahrenheit(celsius: float) -> float:
    """Degrees Fahrenheit.

    Raises:
        OutOfRange: celsius −GREATEST_TYPED…GREATEST_TYPED.
    """
    check_range("celsius", celsius, -GREATEST_TYPED, GREATEST_TYPED)
    return celsius * 1.8 + 32


def shortened(text: str, most: int = 24) -> str:
    """What somebody typed, short enough to be repeated in a sentence."""
    plain = _plain(text)
    return plain if len(plain) <= most else plain[: most - 1] + "…"


# -- writing


def inches(metres: float, denominator: int = 64) -> str:
    """A length in inches to the nearest 1/64 (or coarser), as people write it.

    Raises:
        OutOfRange: denominator 1…1024.

    >>> inches(0.034925), inches(0.0254), inches(-0.0015), inches(0.0001)
    ('1 3/8', '1', '-1/16', '0')
    """
    check_range("denominator", denominator, 1, 1024)
    steps = round(abs(_written("metres", metres)) / INCH_M * denominator)
    whole, rest = divmod(steps, denominator)
    sign = "-" if metres < 0 and steps else ""
    part = str(Fraction(rest, denominator)) if rest else ""
    return sign + (" ".join(filter(None, (str(whole) if whole else "", part))) or "0")


# The smallest length that is written, by the unit of lengths.
LEAST_WRITTEN_M = {"in": INCH_M / 64, "mm": 1e-4}


def write_length(metres: float, system: System) -> str:
    """A length with its unit: inch fractions to 1/64, or millimetres to 0.1; long ones in feet or metres.

    >>> write_length(0.2031, INCH), write_length(0.2031, METRIC), write_length(2.4, METRIC)
    ('8 in', '203.1 mm', '2.40 m')
    """
    _written("metres", metres)
    if system is INCH:
        if abs(metres) >= 5 * FOOT_M:
            feet, rest = divmod(round(metres / INCH_M), 12)
            return f"{feet} ft {rest} in" if rest else f"{feet} ft"
        return f"{inches(metres)} in"
    if abs(metres) >= 2:
        return f"{metres:.2f} m"
    tenths = f"{metres * 1000:.1f}".removesuffix(".0")
    return f"{'0' if tenths == '-0' else tenths} mm"


def rough_length(metres: float, system: System) -> str:
    """A length as it is laid out in a yard, with its unit: to a sixteenth of an inch, or to a millimetre.

    >>> rough_length(0.4012, INCH), rough_length(0.4012, METRIC)
    ('15 13/16 in', '401 mm')
    """
    _written("metres", metres)
    step = INCH_M / 16 if system is INCH else 0.001
    return write_length(round(metres / step) * step, system)


def write_temperature(celsius: float, system: System) -> str:
    """A temperature with its unit, to a whole °F or half a °C.

    >>> write_temperature(20, INCH), write_temperature(20.25, METRIC)
    ('68 °F', '20.2 °C')
    """
    return f"{to_fahrenheit(celsius):.0f} °F" if system is INCH else f"{celsius:.1f} °C".replace(".0 ", " ")


def write_mass(kilograms: float, system: System) -> str:
    """A mass with its unit; the larger unit from about a kilogram up.

    >>> write_mass(0.412, METRIC), write_mass(0.412, INCH), write_mass(2.4, METRIC)
    ('412 g', '14.5 oz', '2.4 kg')
    """
    if system is INCH:
        return f"{kilograms / POUND_KG:.2f} lb" if kilograms >= 2 * POUND_KG else f"{kilograms / OUNCE_KG:.1f} oz"
    if kilograms >= 1:
        return f"{kilograms:.3f}".rstrip("0").rstrip(".") + " kg"
    return f"{kilograms * 1000:.1f}".removesuffix(".0") + " g"


# -- writing into a field, to be read back: nothing may be rounded away


def exact_length(metres: float, system: System) -> str:
    """A length that reads back as itself: an inch fraction where it is one, else a decimal.

    >>> exact_length(0.03175, INCH), exact_length(0.03175, METRIC), exact_length(0.03, INCH)
    ('1 1/4 in', '31.75 mm', '30 mm')
    """
    _written("metres", metres)
    if system is INCH:
        written = f"{inches(metres)} in"
        if abs(length_m(written, INCH) - metres) < 1e-9:
            return written
    # Never as a power of ten: what is written here is read again.
    return f"{metres * 1000:.6f}".rstrip("0").rstrip(".") + " mm"


def exact_mass(kilograms: float, system: System) -> str:
    """A mass that reads back as itself to nine digits.

    >>> exact_mass(9.075, METRIC)
    '9.075 kg'
    """
    _written("mass_kg", kilograms)
    # Never as a power of ten: what is written here is read again.
    amount, unit = (kilograms / POUND_KG, "lb") if system is INCH else (kilograms, "kg")
    return f"{amount:.9f}".rstrip("0").rstrip(".") + f" {unit}"


def in_system(text: str, system: System) -> str:
    """A text that has both systems in it, ``{metric|inch}`` at each place, in one of them.

    >>> in_system("Stay {300 mm|a foot} from the ends.", INCH)
    'Stay a foot from the ends.'
    """
    return re.sub(r"\{([^|{}]*)\|([^|{}]*)\}", r"\2" if system is INCH else r"\1", text)
