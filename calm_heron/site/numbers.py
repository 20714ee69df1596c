"""How fractions are written: moistures, humidities and tolerances in percent. No other module multiplies by a hundred to show something."""

from wood.measuring.readings import Bound

NO_FIGURE = "–"
SIGN_OF = {Bound.ABOVE: ">", Bound.BELOW: "<"}
# From here on a decimal of a moisture says nothing.
WET = 0.30


def points(fraction: float | None, digits: int = 1) -> str:
    """A fraction as percentage points, without the sign.

    >>> points(0.112), points(None)
    ('11.2', '–')
    """
    return NO_FIGURE if fraction is None else f"{fraction * 100:.{digits}f}"


def distance(fraction: float) -> str:
    """How far apart two fractions are, in points.

    >>> distance(-0.012)
    '1.2'
    """
    return points(abs(fraction))


def signed(fraction: float, digits: int = 1) -> str:
    """A difference in points with its sign.

    >>> signed(-0.004)
    '−0.4'
    """
    return f"{fraction * 100:+.{digits}f}".replace("-", "−")


def figure(fraction: float) -> str:
    """A tolerance in points with no more digits than it has.

    >>> figure(0.01), figure(0.015)
    ('1', '1.5')
    """
    return f"{fraction * 100:.2g}"


def typed(fraction: float, figures: int = 6) -> str:
    """A fraction as somebody would type it in percent.

    >>> typed(0.09), typed(0.1234567, 4)
    ('9', '12.35')
    """
    return f"{fraction * 100:.{figures}g}"


def percent(fraction: float, digits: int | None = None) -> str:
    """A moisture with its sign, not to be parted from it; a decimal where it is not whole and small enough for that to matter.

    >>> percent(0.2), percent(0.084), percent(0.612)
    ('20%', '8.4%', '61%')
    """
    if digits is None:
        digits = 1 if fraction < WET and abs(fraction * 100 - round(fraction * 100)) > 0.05 else 0
    return f"{points(fraction, digits)}%"


def bounded(fraction: float | None, bound: str = Bound.NONE, digits: int = 1) -> str:
    """A moisture in points, with the sign of what is only known to lie above or below it.

    >>> bounded(0.28, Bound.ABOVE)
    '>28.0'
    """
    return SIGN_OF.get(Bound(bound), "") + points(fraction, digits)


def grouped(count: int) -> str:
    """A count with a comma at its thousands.

    >>> grouped(999), grouped(52560)
    ('999', '52,560')
    """
    return f"{count:,}"


def counted(count: int, word: str) -> str:
    """A count and its word, which takes an s where there is not just one.

    >>> counted(1, "board"), counted(3, "more heat"), counted(52560, "reading")
    ('1 board', '3 more heats', '52,560 readings')
    """
    return f"{grouped(count)} {word}{'' if count == 1 else 's'}"
