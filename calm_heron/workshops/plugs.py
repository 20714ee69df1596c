"""What the workshop itself brings to the pages that are composed."""

from calm_heron.plugs import DEMO_PARTS, PARTS, DemoPart, Part
from calm_heron.workshops.models import Invitation, Membership, Submission

PARTS.add(Part(90, "Workshop", "people"))
DEMO_PARTS.add(DemoPart(1, (Submission, Invitation, Membership)))
