"""What air brings to the pages that are composed."""

from calm_heron.air import demo, words
from calm_heron.air.models import AirReading, Hygrometer, HygrometerCheck, LoggerFile, Normals, Place
from calm_heron.plugs import DEMO_PARTS, LOG_KINDS, PAGES, PARTS, DemoPart, LogKind, Page, Part

PARTS.add(Part(20, "Air", "air", key="a", phone="Air", group="Wood"))
LOG_KINDS.add(LogKind(20, "air", "Air", words.LOG))
DEMO_PARTS.add(DemoPart(20, (AirReading, LoggerFile, HygrometerCheck, Hygrometer, Normals, Place), demo.load))
PAGES.add(
    Page(21, "Check a hygrometer over salt", "hygrometers", words="salts calibrate thermo-hygrometer compare", beside="Air"),
    Page(22, "Add a place", "new_place", words="new room yard store", beside="Air", may="may_make"),
)
