"""What air brings to the pages that are composed."""

from collections.abc import Mapping
from typing import Any

from calm_heron.air import demo, logger_actions, receiver, words
from calm_heron.air.logger_words import said_faults
from calm_heron.air.models import AirReading, Hygrometer, HygrometerCheck, LoggerFile, Normals, Place
from calm_heron.plugs import DEMO_PARTS, LOG_KINDS, PAGES, PANELS, PARTS, RECEIVERS, DemoPart, LogKind, Page, Panel, Part, Receiver, Slot


def today(page: Mapping[str, Any]) -> dict[str, Any] | None:
    """Loggers whose newly saved files have gaps in them, or show that they stick or were moved; the worst of each."""
    files = logger_actions.lately_wrong(page["workshop"])
    return {"logger_faults": [(file, said_faults(logger_actions.faults_of(file))[0]) for file in files]} if files else None


PANELS.add(Panel(7, Slot.TODAY_TASKS, "air/today.html", today))
PARTS.add(Part(20, "Air", "air", key="a", phone="Air", group="Wood"))
RECEIVERS.add(
    Receiver(
        10,
        "air",
        "Thermo-hygrometer",
        receiver.offers,
        receiver.take,
        receiver.says,
        receiver.FIELDS,
        does="hangs in a place and reports its air",
        instruments=receiver.instruments,
        told=receiver.told,
        stand_in=receiver.stand_in,
        watched=receiver.WATCHED,
    ),
    Receiver(
        20,
        "weather",
        "Weather station",
        receiver.offers_outdoors,
        receiver.take,
        receiver.says,
        receiver.FIELDS,
        does="stands in the yard and reports the air outdoors",
        instruments=receiver.instruments,
        told=receiver.told,
        stand_in=receiver.stand_in,
        watched=receiver.WATCHED,
    ),
)
LOG_KINDS.add(LogKind(20, "air", "Air", words.LOG))
DEMO_PARTS.add(DemoPart(20, (AirReading, LoggerFile, HygrometerCheck, Hygrometer, Normals, Place), demo.load))
PAGES.add(
    Page(21, "Check a hygrometer over salt", "hygrometers", words="salts calibrate thermo-hygrometer compare", beside="Air"),
    Page(22, "Add a place", "new_place", words="new room yard store", beside="Air", may="may_make"),
)
