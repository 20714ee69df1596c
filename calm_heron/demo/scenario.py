"""The demo: the invented Saltmarsh Joinery Co-operative on an invented tidal estuary; mild, damp, windy.

Its people are here; what they have and did is in the ``demo.py`` of each app, which registers it. Everything comes from a fixed seed, with
dates that end today.
"""

import random
from datetime import datetime

from calm_heron.logbook.models import Entry
from calm_heron.plugs import DEMO_PARTS, Demo
from calm_heron.workshops.models import Membership, Person, Role, Workshop
from wood.units import INCH

DEMO_EMAIL = "wren@saltmarsh.example"
DEMO_SLUG = "saltmarsh-joinery-co-operative"
DEMO_NAME = "Saltmarsh Joinery Co-operative"
SEED = 20
PEOPLE = (
    ("Wren Hallow", DEMO_EMAIL, Role.OWNER),
    ("Tamsin Reedmace", "tamsin@saltmarsh.example", Role.MAKER),
    ("Idris Fenn", "idris@saltmarsh.example", Role.HELPER),
    ("Oona Slack", "oona@saltmarsh.example", Role.VIEWER),
)


def exists() -> bool:
    return Workshop.objects.filter(slug=DEMO_SLUG).exists()


def untouched_since_loading() -> bool:
    """Whether nobody has recorded anything in the demo since it was loaded; then it may be renewed without loss."""
    loaded = Entry.objects.filter(workshop__slug=DEMO_SLUG, kind="demo").order_by("-id").values_list("id", flat=True).first()
    return loaded is not None and not Entry.objects.filter(workshop__slug=DEMO_SLUG, id__gt=loaded).exists()


def erase(connection) -> None:
    """Take the demo workshop out whole; other workshops are not touched. Inside the caller's transaction."""
    workshop = Workshop.objects.filter(slug=DEMO_SLUG).first()
    if workshop is None:
        return
    with connection.cursor() as cursor:
        cursor.execute("SET LOCAL calm_heron.erasing_workshop = 'yes'")
    for part in reversed(list(DEMO_PARTS)):
        for model in part.rows:
            rows = model.objects.filter(workshop=workshop)
            rows._raw_delete(rows.db)
    workshop.delete()
    with connection.cursor() as cursor:
        cursor.execute("SET LOCAL calm_heron.erasing_workshop = ''")


def load(now: datetime) -> Workshop:
    """Make the demo workshop as it stands at ``now``. Inside the caller's transaction."""
    workshop = Workshop.objects.create(name=DEMO_NAME, slug=DEMO_SLUG, units=INCH.key)
    members = []
    for name, email, role in PEOPLE:
        person, _ = Person.objects.get_or_create(email=email, defaults={"name": name, "password": "!"})
        members.append(Membership.objects.create(workshop=workshop, person=person, role=role))
    demo = Demo(workshop, tuple(members), now, random.Random(SEED))
    for part in DEMO_PARTS:
        part.load(demo)
    Entry.objects.create(workshop=workshop, by=members[0].person, kind="demo", what="set_up", at=now)
    return workshop
