"""The reading strip's language: a tag and a row of numbers, ``ash-07 11.2 11.8 12.1 core 14``; one piece a line.

``core`` and ``shell`` before a number say how deep it was taken, ``end`` that it was taken near an end; in a lot ``outer``,
``middle`` and ``deep`` say where in its stack the board lay.
"""

from dataclasses import dataclass, field

from calm_heron.site.numbers import points
from calm_heron.workshops.fields import sentence
from wood import units
from wood.errors import CannotRead
from wood.measuring import lots, meters
from wood.measuring.readings import Layer

LAYERS = (Layer.CORE, Layer.SHELL)
MOST_READINGS = 1000
MOST_PER_LINE = 60


@dataclass(frozen=True)
class Spoken:
    """One reading as typed: ``raw`` as a fraction."""

    raw: float
    layer: str = Layer.USUAL
    at_end: bool = False
    part: str = ""


@dataclass
class Line:
    """One line of the strip; ``error`` says what is wrong with it, in a sentence."""

    number: int
    text: str
    tag: str = ""
    readings: list[Spoken] = field(default_factory=list)
    error: str = ""


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
    tag, *words = text.replace(";", " ").split()
    line = Line(number, text[:200], tag[:32])
    said: dict = {}
    try:
        for word in words:
            sign = word.casefold()
            if sign == "end":
                said["at_end"] = True
            elif sign in LAYERS:
                said["layer"] = Layer(sign)
            elif sign in lots.STRATA:
                said["part"] = sign
            else:
                line.readings.append(Spoken(_moisture(word), **said))
                said = {}
        if said:
            raise CannotRead("strip", text, f"“{words[-1]}” needs a number after it")
        if not line.readings:
            raise CannotRead("strip", text, f"no numbers follow “{units.shortened(tag)}”; write it like {units.shortened(tag)} 11.2 11.8")
        if len(line.readings) > MOST_PER_LINE:
            raise CannotRead("strip", text, f"more than {MOST_PER_LINE} readings on one piece; is a line break missing?")
    except CannotRead as error:
        line.error = sentence(error.why)
    return line


def _moisture(word: str) -> float:
    moisture = units.percent(word.rstrip(","), "moisture")
    low, high = meters.READING
    if moisture < 0:
        raise CannotRead("moisture", word, f"{word} is below nothing; moisture begins at 0 %")
    if moisture < low:
        raise CannotRead("moisture", word, f"{word} is less than any meter shows; write percent, as in 11.2")
    if moisture > high:
        raise CannotRead("moisture", word, f"{word} is more than any meter shows ({points(high, 0)})")
    return moisture
