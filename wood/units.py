"""Units as people type and read them: inch fractions and quarter sizes, °F and °C, ounces and grams.

Everything is turned into SI here on the way in; on the way out it is :mod:`wood.written`. A unit written after a number always wins over
the workshop's own: ``20 C`` is 20°C everywhere.
"""

import re
import unicodedata
from dataclasses import dataclass, replace
from fractions import Fraction
from functools import lru_cache

from wood.errors import CannotRead, check_range

INCH_M = 0.0254
FOOT_M = 0.3048
OUNCE_KG = 0.028349523125
POUND_KG = 16 * OUNCE_KG

LENGTH_UNITS_M = {
    "in": INCH_M,
    '"': INCH_M,
    "”": INCH_M,
    "inch": INCH_M,
    "inches": INCH_M,
    "ft": FOOT_M,
    "'": FOOT_M,
    "’": FOOT_M,
    "foot": FOOT_M,
    "feet": FOOT_M,
    "mm": 0.001,
    "cm": 0.01,
    "m": 1.0,
}
MASS_UNITS_KG = {"g": 0.001, "kg": 1.0, "oz": OUNCE_KG, "lb": POUND_KG, "lbs": POUND_KG}
DENOMINATORS = (2, 4, 8, 16, 32, 64)


@dataclass(frozen=True)
class Scale:
    """What a scale shows: its unit's key and name, and the mass of one of it."""

    key: str
    name: str
    unit_kg: float


SCALES = {
    scale.key: scale
    for scale in (
        Scale("g", "g", 0.001),
        Scale("kg", "kg", 1.0),
        Scale("oz", "oz", OUNCE_KG),
        Scale("lb", "lb", POUND_KG),
        Scale("lb_oz", "lb and oz", POUND_KG),
    )
}
# The finest step that lengths are cut to, as a share of an inch.
CUT_STEPS = (64, 32)


@dataclass(frozen=True)
class System:
    """One of the two systems, entire: the unit that a bare number means, and how results are written.

    What the scale in use shows (``scale``) and how finely inches are cut (``cut_to``) are a workshop's own: :meth:`as_set`.
    """

    key: str
    name: str
    length: str
    temperature: str
    scale: Scale
    cut_to: int = CUT_STEPS[0]

    @property
    def is_inch(self) -> bool:
        return self.length == "in"

    @property
    def mass(self) -> str:
        """The name of the unit that is weighed in."""
        return self.scale.name

    def as_set(self, scale: str, cut_to: int) -> "System":
        """This system with a workshop's scale (empty: the usual one) and step of cutting."""
        return _as_set(self, scale, cut_to)


@lru_cache(maxsize=64)
def _as_set(system: System, scale: str, cut_to: int) -> System:
    return replace(system, scale=SCALES.get(scale, system.scale), cut_to=cut_to)


INCH = System("inch", "inches, °F, ounces", "in", "F", SCALES["oz"])
METRIC = System("metric", "millimetres, °C, grams", "mm", "C", SCALES["g"])
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

    >>> percent("11.2%")
    0.112
    """
    # Rounded where no meter shows more, so that 9.7% is kept as 0.097.
    return round(number(_plain(text).removesuffix("%"), field) / 100, 8)


def length_m(text: str, system: System, field: str = "length") -> float:
    """A length in metres from ``5/4``, ``1 3/8``, ``1-3/8``, ``1⅜``, ``27``, ``27 mm``, ``8 ft``, ``8' 6"``.

    Fractions are inches in either system (a quarter size such as ``5/4`` is what it says, 1 1/4 in); a bare number
    is in the system's unit.

    Raises:
        CannotRead: the text is no length; its ``why`` says what is wrong with it.

    >>> round(length_m("5/4", METRIC) * 1000, 2), round(length_m("1 3/8", INCH) * 1000, 3)
    (31.75, 34.925)
    """
    plain = _plain(_in_figures(text)).casefold()
    if not plain:
        raise CannotRead(field, text, "a size is needed here")
    feet = re.fullmatch(rf"({_NUMBER}) ?(?:ft|feet|foot|'|’) ?([^'’f]+)", plain)
    if feet:
        return number(feet[1], field) * FOOT_M + length_m(
            feet[2] if feet[2][-1].isalpha() or feet[2][-1] in '"”' else feet[2] + " in", INCH, field
        )
    result = re.fullmatch(r"([+\-\d.,/ ]*\d)[ ]?([a-z\"'”’]*)", plain)
    if re.fullmatch(r"(\d{1,2}) ?(?:x|×|by) ?(\d{1,2})", plain):
        raise CannotRead(field, text, f"“{shortened(text)}” is the size of a whole section; write one size here, like 1 1/2 in")
    if not result or result[2] not in ("", *LENGTH_UNITS_M):
        raise CannotRead(field, text, f"“{shortened(text)}” is not a size; write it like 5/4, 1 3/8, 27 mm or 2.4 m")
    amount, unit = result[1].strip(), result[2]
    if "/" in amount:
        if unit and LENGTH_UNITS_M[unit] not in (INCH_M, FOOT_M):
            raise CannotRead(field, text, "fractions are of an inch; write millimetres as a decimal, like 34.9 mm")
        return float(_fraction(amount, text, field)) * LENGTH_UNITS_M[unit or "in"]
    return number(amount, field) * LENGTH_UNITS_M[unit or system.length]


def _in_figures(text: str) -> str:
    """A text with fractions that are one sign (¼, ⅜) written out."""
    return re.sub(VULGAR, lambda sign: " " + unicodedata.normalize("NFKC", sign[0]).replace("⁄", "/"), text)


VULGAR = "[¼½¾⅐-⅞]"


def _fraction(amount: str, text: str, field: str) -> Fraction:
    result = re.fullmatch(r"([+-]?)(?:(\d{1,5})[ -])?(\d{1,5})/(\d{1,5})", amount)
    if not result:
        raise CannotRead(field, text, f"“{shortened(text)}” is not a fraction; write it like 5/4 or 1 3/8")
    whole, top, bottom = int(result[2] or 0), int(result[3]), int(result[4])
    if bottom == 0:
        raise CannotRead(field, text, f"“{shortened(text)}” has 0 under the line")
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
    """A mass in kilograms from ``412``, ``412 g``, ``2.4 kg``, ``14.5 oz``, ``3 lb``, ``2 lb 3 oz``; a bare number is what the scale shows.

    Raises:
        CannotRead: not a mass; or a bare number where the scale shows pounds and ounces, and it could be either.

    >>> mass_kg("2.4 kg", INCH), round(mass_kg("2lb3oz", METRIC), 4)
    (2.4, 0.9922)
    """
    # Units are written with a full stop behind them as often as without.
    plain = re.sub(r"(?<=[a-z])\.", "", _plain(text).casefold())
    both = re.fullmatch(rf"({_NUMBER}) ?(?:lbs?|#) ?(\d+(?:[.,]\d+)?) ?(?:oz)?", plain)
    if both:
        pounds, ounces = number(both[1], field), number(both[2], field)
        if ounces >= 16:
            raise CannotRead(field, text, f"“{shortened(text)}” has {both[2]} oz behind its pounds; sixteen are a pound")
        return pounds * POUND_KG + (-ounces if both[1].startswith("-") else ounces) * OUNCE_KG
    result = re.fullmatch(rf"({_NUMBER}) ?([a-z]*)", plain)
    if not result or result[2] not in ("", *MASS_UNITS_KG):
        raise CannotRead(field, text, f"“{shortened(text)}” is not a weight; write it like 412 g, 2.4 kg, 14.5 oz, 3 lb or 2 lb 3 oz")
    if not result[2] and system.scale.key == "lb_oz":
        raise CannotRead(field, text, f"pounds or ounces? Write it like 2 lb 3 oz, {result[1]} lb or {result[1]} oz")
    return number(result[1], field) * (MASS_UNITS_KG[result[2]] if result[2] else system.scale.unit_kg)


# Nothing that is typed is larger: a number has at most twenty digits.
GREATEST_TYPED = 1e21


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


def in_system(text: str, system: System) -> str:
    """A text that has both systems in it, ``{metric|inch}`` at each place, in one of them.

    >>> in_system("Stay {300 mm|a foot} from the ends.", INCH)
    'Stay a foot from the ends.'
    """
    return re.sub(r"\{([^|{}]*)\|([^|{}]*)\}", r"\2" if system.is_inch else r"\1", text)
