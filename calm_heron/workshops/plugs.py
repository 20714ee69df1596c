"""What stands in every workshop and goes with it."""

from calm_heron.plugs import DEMO_PARTS, DemoPart
from calm_heron.workshops.models import Invitation, Membership, Submission

DEMO_PARTS.add(DemoPart(1, (Submission, Invitation, Membership)))
