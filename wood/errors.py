"""Typed errors of the core: each carries the field, the value and the range that is allowed."""

import numpy as np

from wood.arrays import Array, Same, Values


class WoodError(ValueError):
    """Anything the core refuses to compute."""


class OutOfRange(WoodError):
    """A value outside the range in which a model holds.

    Args:
        field: the parameter's name, unit included, as in ``temperature_c``.
        value: the offending value (the first one of an array).
        low, high: the allowed range, both included.
        unit: how the value is written for a person, as in ``"°C"``.

    >>> raise OutOfRange("relative_humidity", 1.4, 0.0, 1.0)
    Traceback (most recent call last):
    wood.errors.OutOfRange: relative_humidity is 1.4; it must lie between 0 and 1
    """

    def __init__(self, field: str, value: float, low: float, high: float, unit: str = "") -> None:
        self.field, self.value, self.low, self.high, self.unit = field, float(value), low, high, unit
        super().__init__(f"{field} is {value:g}{unit}; it must lie between {low:g}{unit} and {high:g}{unit}")


class NotKnown(WoodError):
    """A figure that no source at hand gives; the application says that it does not know.

    Args:
        field: what is missing, as in ``shrinkage_tangential``.
        subject: of what, as in ``"Wenge"``.
    """

    def __init__(self, field: str, subject: str) -> None:
        self.field, self.subject = field, subject
        super().__init__(f"{field} is not known for {subject}")


class CannotRead(WoodError):
    """Text that is not the number, size or line it should be; ``field`` and ``text`` say which."""

    def __init__(self, field: str, text: str, why: str) -> None:
        self.field, self.text, self.why = field, text, why
        super().__init__(why)


def check_range(field: str, value: Values, low: float, high: float, unit: str = "") -> Array:
    """Return ``value`` as a float array, or raise :class:`OutOfRange` for its first element outside [low, high] or not a number."""
    values = np.asarray(value, dtype=float)
    # Minimum and maximum carry NaN along, so two reductions settle the usual case without a mask.
    if values.size and not (values.min() >= low and values.max() <= high):
        inside = (values >= low) & (values <= high)
        raise OutOfRange(field, float(values[~inside].flat[0] if values.ndim else values), low, high, unit)
    return values


def like_input(result: Array, *inputs: Values) -> Same:
    """A float where every input was a scalar, otherwise the array."""
    return float(result) if all(np.ndim(each_input) == 0 for each_input in inputs) else result
