"""What each kind of place is: how warm it usually is, how its air moves, and whose air it has."""

from dataclasses import dataclass

from django.db import models

from wood.air.rooms import STILL_AIR_M_S


class PlaceKind(models.TextChoices):
    ROOM = "room", "Heated room"
    STORE = "store", "Unheated building"
    YARD = "yard", "Outdoors, under cover"
    KILN = "kiln", "Kiln or warm box"


@dataclass(frozen=True)
class PlaceTraits:
    """What a kind of place is.

    Outside ``usual_c`` (°C) a temperature without its unit is asked back, beyond ``hottest_c`` it is refused. What single readings do
    not say: ``wind_m_s``, and ``swing_c`` from night to day.
    """

    usual_c: tuple[float, float]
    swing_c: float
    wind_m_s: float = STILL_AIR_M_S
    hottest_c: float = 60.0
    is_outdoors: bool = False
    # Outdoor air comes in: its year can be worked out from that.
    is_a_room: bool = False
    is_heated: bool = False
    # Its air is held by settings and has no year.
    is_held: bool = False


PLACE_TRAITS = {
    PlaceKind.ROOM: PlaceTraits((5, 40), 2.0, is_a_room=True, is_heated=True),
    PlaceKind.STORE: PlaceTraits((-20, 40), 3.0, is_a_room=True),
    PlaceKind.YARD: PlaceTraits((-30, 45), 7.0, wind_m_s=3.5, is_outdoors=True),
    PlaceKind.KILN: PlaceTraits((5, 110), 0.0, hottest_c=120.0, is_held=True),
}
