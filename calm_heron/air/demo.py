"""What the demo's places are and the air that was read in them: a mild, damp, windy estuary, and a dry flat inland.

A year of readings with dates that end today. It only has to look like air that was read; nothing is predicted from it.
"""

import math
import random
from datetime import datetime, timedelta

from calm_heron.air.kinds import PlaceKind
from calm_heron.air.models import AirReading, Hygrometer, HygrometerCheck, Place
from calm_heron.plugs import Demo
from calm_heron.workshops.models import Person, Workshop
from wood.air import sorption
from wood.air.psychrometrics import Air

BENCH, STORE, YARD, FLAT = "Bench room", "Brick store", "Yard", "Client's flat, inland"
DAYS = 365


def load(demo: Demo) -> None:
    """The places, by name in ``made``, each with its year, and two hygrometers that disagree."""
    idris = demo.people[2].person
    places = _places(demo.workshop)
    demo.made.update(places)
    _air(demo.workshop, idris, places, demo.now, demo.chance)
    _hygrometers(demo.workshop, idris, places[STORE], demo.now)


def _places(workshop: Workshop) -> dict[str, Place]:
    made = (
        (BENCH, PlaceKind.ROOM, 0.03),
        (STORE, PlaceKind.STORE, 0.03),
        (YARD, PlaceKind.YARD, 0.05),
        (FLAT, PlaceKind.ROOM, 0.05),
    )
    return {name: Place.objects.create(workshop=workshop, name=name, kind=kind, rh_tolerance=good_to) for name, kind, good_to in made}


def _hygrometers(workshop: Workshop, by: Person, place: Place, now: datetime) -> None:
    """Two instruments that disagree: one checked over salt a month ago, and a dial that nobody has checked."""
    checked = now - timedelta(days=31)
    grey = Hygrometer.objects.create(workshop=workshop, name="Grey hygrometer", rh_tolerance=0.03, offset=-0.025, checked_at=checked)
    HygrometerCheck.objects.create(
        workshop=workshop,
        hygrometer=grey,
        at=checked,
        by=by,
        salt="NaCl",
        temperature_c=19.0,
        waited_hours=11,
        shown=0.78,
        expected=0.755,
        offset=-0.025,
    )
    dial = Hygrometer.objects.create(workshop=workshop, name="Brass dial", rh_tolerance=0.05)
    newest = place.readings.order_by("-at").first()

    for minutes, item, corrected in ((20, grey, newest.relative_humidity), (25, dial, newest.relative_humidity - 0.09)):  # type: ignore[union-attr]
        meant = sorption.measured_emc(newest.temperature_c, corrected, item.tolerance_now)  # type: ignore[union-attr]
        AirReading.objects.create(
            workshop=workshop,
            place=place,
            at=now - timedelta(minutes=minutes),
            by=by,
            temperature_c=newest.temperature_c,  # type: ignore[union-attr]
            hygrometer=item,
            relative_humidity=corrected,
            shown_humidity=round(corrected - item.offset, 2),
            emc=meant.emc,
            emc_tolerance=meant.tolerance,
        )


def air_of(name: str, day: datetime, chance: random.Random) -> Air:
    """The air of one of the demo's places on a day: a mild coast, rooms heated from its outdoor air, and a dry inland flat."""
    turn = math.cos(2 * math.pi * (day.timetuple().tm_yday - 30) / 365.25)
    outdoors = Air(10.5 - 6 * turn + chance.gauss(0, 1.6), min(0.97, max(0.5, 0.82 + 0.035 * turn + chance.gauss(0, 0.045))))
    if name == YARD:
        return outdoors
    if name == STORE:
        return Air(outdoors.temperature_c + 1.2, min(0.9, max(0.45, 0.735 + 0.03 * turn + chance.gauss(0, 0.02))))
    if name == BENCH:
        return outdoors.brought_to(19 - 1.2 * turn + chance.gauss(0, 0.6), 0.0008 + chance.gauss(0, 0.0002))
    inland = Air(9 - 12 * turn + chance.gauss(0, 1.5), 0.70)
    return inland.brought_to(21.5 + chance.gauss(0, 0.5), 0.0012 + chance.gauss(0, 0.0002))


def _air(workshop: Workshop, by: Person, places: dict[str, Place], now: datetime, chance: random.Random) -> None:
    readings = []
    for name, place in places.items():
        for day in range(DAYS, -1, -1 if name in (BENCH, STORE) else -3):
            at = now - timedelta(days=day, minutes=chance.randrange(20, 300))
            air = air_of(name, at, chance)
            humidity = round(min(0.98, air.relative_humidity), 2)
            temperature = round(air.temperature_c * 2) / 2
            meant = sorption.measured_emc(temperature, humidity, place.rh_tolerance)
            readings.append(
                AirReading(
                    workshop=workshop,
                    place=place,
                    at=at,
                    by=by,
                    temperature_c=temperature,
                    relative_humidity=humidity,
                    emc=meant.emc,
                    emc_tolerance=meant.tolerance,
                )
            )
    AirReading.objects.bulk_create(readings)
