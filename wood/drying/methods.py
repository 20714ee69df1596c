"""Ways to dry: where the wood lies, and how air gets to it there.

A method turns the conditions it is given into a :class:`Setting`: the air, and how the wood is exposed to it. New methods (a kiln, a
solar kiln, a warm box) are further instances of :class:`Method`; the application registers those that can be asked about.

Sources: wind in yards, Air Drying of Lumber (FPL-GTR-117) through :mod:`wood.drying.calibration`; bark, our own judgement.
"""

from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np

from wood.air import climate, rooms
from wood.air.climate import AirSeries
from wood.arrays import Array
from wood.drying import field
from wood.errors import CannotRead, NotKnown, check_range
from wood.stacks.air import OpenBoard, Stack

# Resistance of bark against vapour (our judgement; no figure is at hand): as tight as three coats of a good varnish.
BARK_S_M = 60_000.0
# Wind at the stack as a share of the weather's; the outer two are those of wood.drying.calibration.
WINDS = {"sheltered": 0.06, "usual": 0.13, "breezy": 0.34}
# How wide a usual stack in a yard is.
YARD_WIDTH_M = 1.6
# Indoors the air hardly moves.
SMALL_STACK = Stack(0.4, width_m=0.6)
FINE_HOURS = 24.0


@dataclass(frozen=True)
class Setting:
    """Air and exposure of a method; ``series`` begins on the day of the question, ``coating_s_m`` resists on the faces (s/m).

    ``then`` are the places it is carried to, in order, each with the day of that (whole days after the question's); their series, too,
    begin on the day of the question.
    """

    series: AirSeries
    exposure: OpenBoard | Stack
    coating_s_m: float = 0.0
    then: tuple["Stage", ...] = ()

    def drive(self, resolution_hours: float = FINE_HOURS) -> field.Drive:
        """What drives the moisture field, in means of so many hours."""
        if resolution_hours % FINE_HOURS == 0:
            return self._by_day.every(resolution_hours)
        return self._driven(resolution_hours)

    @cached_property
    def _by_day(self) -> field.Drive:
        # Every run of a question begins from it, and an hourly year is long.
        return self._driven(FINE_HOURS)

    def _driven(self, resolution_hours: float) -> field.Drive:
        result = field.driven(self.series, self.exposure, self.coating_s_m, resolution_hours)
        for stage in self.then:
            result = result.carried(stage.day, stage.setting.drive())
        return result.every(resolution_hours)

    @property
    def last(self) -> "Setting":
        """Where the wood is in the end."""
        return self.then[-1].setting if self.then else self

    def settling(self, days: float) -> Array:
        """What each day from the question's on would bring wood to by the table, wherever it then lies."""
        count = int(np.ceil(days)) + 1
        result = self.series.daily_emc(days)[:count]
        for stage in self.then:
            result[int(stage.day) :] = stage.setting.series.daily_emc(days)[:count][int(stage.day) :]
        return result


@dataclass(frozen=True)
class Stage:
    """A place that wood is carried to, and the day of that, in whole days after the question's."""

    day: float
    setting: Setting


@dataclass(frozen=True)
class Conditions:
    """What a method may ask about.

    ``outdoors`` is the outdoor year, ``wind`` how open the yard lies (a key of :data:`WINDS`), ``heated_to_c`` (°C) and
    ``moisture_gain`` (kg/m³) are of a heated room, ``temperature_c`` (5…110°C), ``relative_humidity`` (0…1) and ``air_speed_m_s``
    (0…10 m/s) of a chamber.
    """

    outdoors: AirSeries | None = None
    wind: str = "usual"
    heated_to_c: float = 19.0
    moisture_gain: float = 0.001
    temperature_c: float = 40.0
    relative_humidity: float = 0.5
    air_speed_m_s: float = 1.5


@dataclass(frozen=True)
class Method:
    """A way to dry. ``arrange`` makes its setting from :class:`Conditions`.

    ``outdoors`` says that it needs the outdoor year (else the air is held), ``of_a_log`` that the wood lies uncut in its bark.
    """

    key: str
    name: str
    words: str
    arrange: Callable[[Conditions], Setting]
    outdoors: bool = True
    of_a_log: bool = False


def setting(method: Method, outdoors: AirSeries | None = None, **conditions: Any) -> Setting:
    """The air and exposure of a method.

    Args:
        outdoors: the outdoor year, needed for all but a method that holds its air; conditions: see :class:`Conditions`.
    Raises:
        OutOfRange: a condition beyond its limits. CannotRead: no such wind. NotKnown: no outdoor year where one is needed.

    >>> setting(CHAMBER, temperature_c=45.0, relative_humidity=0.6).series.temperature_c[0].item()
    45.0
    """
    return method.arrange(Conditions(outdoors, **conditions))


def _outdoors(conditions: Conditions) -> AirSeries:
    if conditions.outdoors is None:
        raise NotKnown("outdoor_air", "this method")
    return conditions.outdoors


def _yard(conditions: Conditions) -> Setting:
    if conditions.wind not in WINDS:
        raise CannotRead("wind", conditions.wind, f"“{conditions.wind}” is no wind; it is one of {', '.join(WINDS)}")
    return Setting(_outdoors(conditions), Stack(WINDS[conditions.wind], width_m=YARD_WIDTH_M))


def _log(conditions: Conditions) -> Setting:
    return Setting(_outdoors(conditions), OpenBoard(), BARK_S_M)


def _shed(conditions: Conditions) -> Setting:
    return Setting(rooms.unheated(_outdoors(conditions)), SMALL_STACK)


def _shop(conditions: Conditions) -> Setting:
    return Setting(rooms.room(_outdoors(conditions), rooms.Room(conditions.heated_to_c, conditions.moisture_gain)), SMALL_STACK)


def _chamber(conditions: Conditions) -> Setting:
    check_range("temperature_c", conditions.temperature_c, 5.0, 110.0, "°C")
    check_range("relative_humidity", conditions.relative_humidity, 0.0, 1.0)
    check_range("air_speed_m_s", conditions.air_speed_m_s, 0.0, 10.0, " m/s")
    air = climate.constant(conditions.temperature_c, conditions.relative_humidity, conditions.air_speed_m_s)
    return Setting(air, Stack(1.0, width_m=1.2, forced=True))


LOG = Method("log", "Left in the log", "bark on, ends open, off the ground", _log, of_a_log=True)
YARD = Method("yard", "Yard", "stickered outdoors under a roof", _yard)
SHED = Method("shed", "Unheated shed", "stickered under cover, little wind", _shed)
SHOP = Method("shop", "Heated room", "stickered indoors, air all round", _shop)
CHAMBER = Method("chamber", "Kiln", "air held at set conditions, moved by a fan", _chamber, outdoors=False)
