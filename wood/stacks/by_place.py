"""Drying by place: boards from a stack's edge to its heart, each in the air that those before it leave.

The mean board of :class:`wood.stacks.air.Stack` is right for a whole stack; a stack's heart is wetter than its edges, until they are dry
and let drier air in. Here several places across the stack are followed together, step by step: what each gives off moistens the air on its
way out, to the nearer edge, because gusts push air in from either side and pull it out again; what all give off stands around the stack
until the wind carries it away.

Source: the channel, the film and the breath of :mod:`wood.stacks.air`, parted into segments; the field of :mod:`wood.drying.field`. That
vapour leaves by
the nearer edge is our own judgement: no published profile across a stack is at hand. In the mean of all places it is the stack's mean board
(tests).
"""

from dataclasses import dataclass

import numpy as np

from wood.air.climate import AirSeries
from wood.air.psychrometrics import saturation_concentration
from wood.air.sorption import emc, half_gap
from wood.drying import field, kernel
from wood.drying.field import Drive, Wood
from wood.errors import check_range
from wood.stacks.air import Stack

PLACES = 7
STEP_DAYS = 2.0
WETTEST = 0.995
# Twice three: see :func:`_spreads`.
SLOSHED = 6.0


@dataclass(frozen=True)
class ByPlace:
    """Moistures (fractions) at ``days``, a column for each of ``places`` (0 one edge … 1 the other), and the humidity of the air there."""

    days: np.ndarray
    places: np.ndarray
    means: np.ndarray
    humidity: np.ndarray

    @property
    def whole(self) -> np.ndarray:
        """The mean of all places."""
        return self.means.mean(axis=1)

    def arrival(self, target: float) -> np.ndarray:
        """The first day on which each place is at a moisture; infinite where it never is.

        Raises:
            OutOfRange: target 0…3.
        """
        check_range("target", target, 0.0, field.GREATEST_MOISTURE)
        there = self.means <= target
        first = there.argmax(axis=0)
        result = np.where(there.any(axis=0), self.days[first], np.inf)
        for column, row in enumerate(first):
            if np.isfinite(result[column]) and row:
                above, below = self.means[row - 1, column], self.means[row, column]
                result[column] -= (self.days[row] - self.days[row - 1]) * (target - below) / max(above - below, 1e-12)
        return result


def dry_by_place(
    wood: Wood,
    thickness_m: float,
    start: float,
    series: AirSeries,
    stack: Stack,
    days: float,
    *,
    places: int = PLACES,
    step_days: float = STEP_DAYS,
) -> ByPlace:
    """A stack's boards from edge to edge, from a moisture they all have.

    Args:
        thickness_m: 0.5 mm…1.5 m; start: 0…3; days: 1…4000; places: 3…31, odd, so that one is the heart; step_days: 0.25…10.
    Raises:
        OutOfRange.

    >>> from wood.air.climate import constant
    >>> dried = dry_by_place(Wood(0.56), 0.027, 0.6, constant(20.0, 0.5, 3.0), Stack(0.13), 60)
    >>> edge, heart = dried.means[-1, 0], dried.means[-1, 3]
    >>> bool(edge < heart)
    True
    """
    check_range("start", start, 0.0, field.GREATEST_MOISTURE)
    check_range("days", days, 1.0, field.HORIZON_DAYS, " days")
    check_range("step_days", step_days, 0.25, 10.0, " days")
    check_range("places", places, 3, 31)
    count = int(places) | 1
    air = _steps(series, stack, days, step_days)
    steps = air.temperature_c.size
    half = count // 2 + 1
    spreads = _spreads(count)
    profiles = [np.full(field.CELLS, float(start)) for _ in range(half)]
    means, humidity = np.full((steps + 1, count), float(start)), np.full((steps + 1, count), float(series.relative_humidity[0]))
    flux = np.zeros(count)
    for step in range(steps):
        saturated = air.saturated[step]
        # What all give off stands about the stack; what those before give off comes along.
        outside = (
            air.humidity[step] * saturated + flux.mean() / air.breath[step]
            if np.isfinite(air.breath[step])
            else air.humidity[step] * saturated
        )
        rise = spreads @ (flux / air.passing[step])
        there = np.clip((outside + rise) / saturated, 0.01, WETTEST)
        for place in range(half):
            drive = _drive(
                air.temperature_c[step], float(there[place]), air.vapour[step], air.heat[step], series.hysteresis_share, step_days
            )
            ran = field.dry(wood, thickness_m, profiles[place], drive, step_days, out_days=[step_days], tolerance=2e-4)
            profiles[place] = ran.profiles[-1]
            means[step + 1, place] = means[step + 1, -1 - place] = ran.mean[-1]
        humidity[step + 1] = there
        flux = np.maximum(means[step] - means[step + 1], -0.02) * wood.density * thickness_m / 2 / (step_days * field.DAY_S)
    return ByPlace(np.arange(steps + 1) * step_days, np.linspace(0.5 / count, 1 - 0.5 / count, count), means, humidity)


@dataclass(frozen=True)
class _Air:
    """The air outside and what carries vapour, in means of steps."""

    temperature_c: np.ndarray
    humidity: np.ndarray
    saturated: np.ndarray
    vapour: np.ndarray
    heat: np.ndarray
    passing: np.ndarray
    breath: np.ndarray


def _spreads(count: int) -> np.ndarray:
    """How far what each place gives off raises the vapour at each other, in units of its flux over what passes (kg/m³).

    Gusts push air in from either side and pull it out again: vapour leaves to the nearer edge, as in diffusion, so that the heart has the
    dampest air. Even flux raises it by x·(1 − x)·3, in the mean by a half: as much as air that passes through takes up in the mean.
    """
    step = 1.0 / count
    # Cells whose outer ones have the edge, where the air is that from outside, half a cell away.
    matrix = np.diag(np.full(count, 2.0)) - np.diag(np.ones(count - 1), 1) - np.diag(np.ones(count - 1), -1)
    matrix[0, 0] = matrix[-1, -1] = 3.0
    return np.linalg.inv(matrix / step**2) * SLOSHED


def _steps(series: AirSeries, stack: Stack, days: float, step_days: float) -> _Air:
    felt = stack.felt(series)
    vapour, _, passing, breath = stack.parts(series)
    # Air is cooled on its way as it is moistened; what warms the boards is that of the whole stack.
    heat = stack.surface(series).heat
    count = int(np.ceil(days / step_days))
    long = max(1, round(step_days * field.DAY_S / series.step_s))
    at = (np.arange(count)[:, None] * long + np.arange(long)) % felt.temperature_c.size
    saturated = np.asarray(saturation_concentration(felt.temperature_c))

    def mean(column: np.ndarray) -> np.ndarray:
        return np.broadcast_to(column, felt.temperature_c.shape)[at].mean(axis=1)

    held = mean(saturated)
    return _Air(
        mean(felt.temperature_c),
        mean(saturated * felt.relative_humidity) / held,
        held,
        mean(vapour),
        mean(heat),
        mean(passing),
        mean(breath),
    )


def _drive(temperature_c: float, humidity: float, vapour: float, heat: float, hysteresis: float, step_days: float) -> Drive:
    """One step of air as the field takes it (:func:`wood.drying.field.driven`)."""
    saturated, kelvin = float(saturation_concentration(temperature_c)), temperature_c + 273.15
    row = np.zeros(kernel.COLUMNS)
    row[kernel.TEMPERATURE] = temperature_c
    row[kernel.FROZEN] = min(max(-temperature_c, 0.0), 1.0)
    row[kernel.SATURATED] = vapour * saturated
    row[kernel.AMBIENT] = vapour * saturated * humidity
    row[kernel.COOLING] = kernel.LATENT_HEAT * vapour * saturated * (5400.0 / kelvin**2 - 1 / kelvin) / heat
    row[kernel.HEAT_RESISTANCE] = 1 / heat
    row[kernel.LEVEL] = float(emc(temperature_c, humidity))
    row[kernel.GAP] = float(half_gap(humidity))
    row[kernel.HYSTERESIS] = hysteresis
    return Drive(np.stack([np.zeros(kernel.COLUMNS), row]), step_days * field.DAY_S)
