"""What air brings to the pages that are composed."""

from calm_heron.air import demo, words
from calm_heron.air.models import AirReading, Hygrometer, HygrometerCheck, Normals, Place
from calm_heron.plugs import DEMO_PARTS, LOG_KINDS, PARTS, DemoPart, LogKind, Part

PARTS.add(Part(20, "Air", "air", key="a", phone="Air"))
LOG_KINDS.add(LogKind(20, "air", "Air", words.LOG))
DEMO_PARTS.add(DemoPart(20, (AirReading, HygrometerCheck, Hygrometer, Normals, Place), demo.load))
