"""The reading strip's language: a tag and a row of numbers, ``ash-07 11.2 11.8 12.1 core 14``; one piece a line.

``core`` and ``shell`` before a number say how deep it was taken, ``end`` that it was taken near an end; in a lot ``outer``,
``middle`` and ``deep`` say where in its stack the board lay. ``planed``, ``rough``, ``wet``, ``fresh``, ``bench`` and ``nails`` say what
the surface is like from there on, or said last of the whole line, ``frosty`` that the wood is frozen. A line that begins with a number has
no tag yet.
"""

from dataclasses import dataclass, field, replace
from typing import Any

from calm_heron.site.numbers import points
from calm_heron.workshops.fields import sentence
from wood import units
from wood.errors import CannotRead
from wood.measuring import lots, meters
from wood.measuring.readings import Condition, Layer

LAYERS = (Layer.CORE, Layer.SHELL)
# What may be said of the surface, and what it is for the core.
SURFACES = {
    "planed": Condition.PLAIN,
    "rough": Condition.PLAIN,
    "weathered": Condition.WEATHERED,
    "grey": Condition.WEATHERED,
    "wet": Condition.WET,
    "fresh": Condition.FRESH,
    "bench": Condition.BACKED,
    "hand": Condition.BACKED,
    "nails": Condition.METAL,
}
# What may be said of the whole line.
FROZEN = ("frosty", "frozen")
# Frozen wood, where nobody says how cold it is.
FROSTY_C = -5.0
MOST_READINGS = 1000
MOST_PER_LINE = 60


@dataclass(frozen=True)
class Spoken:
    """One reading as typed: ``raw`` as a fraction."""

    raw: float
    layer: str = Layer.USUAL
    at_end: bool = False
    part: str = ""
    condition: str = Condition.PLAIN


@dataclass
class Line:
    """One line of the strip; ``error`` says what is wrong with it, in a sentence."""

    number: int
    text: str
    tag: str = ""
    readings: list[Spoken] = field(default_factory=list)
    error: str = ""
    frosty: bool = False
    untagged: bool = False

    @property
    def numbers(self) -> str:
        """What follows the tag, to be put behind another."""
        return self.text if self.untagged else self.text.partition(" ")[2]

    @property
    def wood_temperature_c(self) -> float | None:
        """What the line says of the wood's temperature."""
        return FROSTY_C if self.frosty else None


def read(text: str) -> list[Line]:
    """The lines of a strip; blank ones are skipped. A line that cannot be read carries its error, the others stand.

    >>> [(reading.raw, str(reading.layer)) for reading in read("ash-07 11.2 core 14")[0].readings]
    [(0.112, ''), (0.14, 'core')]
    """
    lines = [_line(number, line.strip()) for number, line in enumerate(text.splitlines(), start=1) if line.strip()]
    total = 0
    for line in lines:
        total += len(line.readings)
        if total > MOST_READINGS and not line.error:
            line.error = f"That is more than {MOST_READINGS} readings at once. Send them in parts."
    return lines


def _line(number: int, text: str) -> Line:
    tag, words = _parted(text)
    line = Line(number, text[:200], tag[:32])
    said: dict[str, Any] = {}
    surface = Condition.PLAIN
    try:
        for word in words:
            sign = word.strip(",").casefold()
            if not sign:
                continue
            if sign in FROZEN:
                line.frosty = True
            elif sign in SURFACES:
                surface = SURFACES[sign]
            elif sign == "end":
                said["at_end"] = True
            elif sign in LAYERS:
                said["layer"] = Layer(sign)
            elif sign in lots.STRATA:
                said["part"] = sign
            else:
                line.readings.append(Spoken(_moisture(word), condition=surface, **said))
                said = {}
        if surface and not any(reading.condition for reading in line.readings):
            # Said last, it is meant of all of them.
            line.readings = [replace(reading, condition=surface) for reading in line.readings]
        if said:
            raise CannotRead("strip", text, f"“{words[-1]}” needs a number after it")
        if not line.readings:
            if not tag:
                raise CannotRead("strip", text, "no number is in it; write it like 11.2 11.8 12.1")
            raise CannotRead("strip", text, f"no numbers follow “{units.shortened(tag)}”; write it like {units.shortened(tag)} 11.2 11.8")
        if len(line.readings) > MOST_PER_LINE:
            raise CannotRead("strip", text, f"more than {MOST_PER_LINE} readings on one piece; is a line break missing?")
        if (slip := _slip(line.readings)) is not None and MEANT not in text:
            shown, likely = points(slip, 0), points(slip / 10)
            raise CannotRead("strip", text, f"{shown} beside the others: {likely}? If {shown} is meant, write {shown}{MEANT}")
    except CannotRead as error:
        line.error = sentence(error.why)
    return line


# What is written behind a number that looks like a slip and is none.
MEANT = "!"
# A number that is so many times the middle of the others is that of a point that was left out.
TENFOLD = (6.0, 16.0)


def _slip(readings: list[Spoken]) -> float | None:
    """The reading that lost its point, as 112 beside 11.4 and 11.6; None where none did."""
    if len(readings) < FEWEST_TO_COMPARE:
        return None
    values = sorted(reading.raw for reading in readings)
    largest, others = values[-1], values[:-1]
    middle = others[len(others) // 2]
    return largest if largest > MOST_OF_A_METER and TENFOLD[0] <= largest / middle <= TENFOLD[1] else None


FEWEST_TO_COMPARE, MOST_OF_A_METER = 2, 0.6


def read_numbers(text: str) -> Line:
    """Numbers that are of one piece, or of boards of one pile, without a tag; a tag in front is told to be one."""
    line = _line(1, text)
    if line.tag and not line.error:
        line.error = f"“{units.shortened(line.tag)}” is not a number; write what the meter shows, like 11.2 11.8"
    return line


# What a line may begin with that is no tag.
SIGNS = ("end", *LAYERS, *lots.STRATA, *SURFACES, *FROZEN)


def _parted(text: str) -> tuple[str, list[str]]:
    """The tag of a line, empty where it begins with a number or a sign, and its words."""
    first, *words = text.replace(";", " ").split()
    tag = first.rstrip(",:")
    if tag.casefold() in SIGNS or is_number(first):
        return "", [first, *words]
    return tag, words


def is_number(word: str) -> bool:
    """Whether a word is a moisture and no tag."""
    try:
        units.percent(word.rstrip(f",{MEANT}"))
    except CannotRead:
        return False
    return True


def _moisture(word: str) -> float:
    moisture = units.percent(word.rstrip(f",{MEANT}"), "moisture")
    low, high = meters.READING
    if moisture < 0:
        raise CannotRead("moisture", word, f"{word} is below 0%")
    if moisture < low:
        raise CannotRead("moisture", word, f"{word} is less than any meter shows; write percent, as in 11.2")
    if moisture > high:
        raise CannotRead("moisture", word, f"{word} is more than any meter shows ({points(high, 0)})")
    return moisture
