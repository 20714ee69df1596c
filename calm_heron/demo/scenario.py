"""The demo: the invented Saltmarsh Joinery Co-operative on an invented tidal estuary; mild, damp, windy.

Its people are here; what they have and did is in the ``demo.py`` of each app, which registers it. Everything comes from a fixed seed, with
dates that end today. Nobody works in this workshop and none of its people can sign in: it is the pattern that visitors get copies of
(``copies.py``).
"""

import random
from datetime import datetime, timedelta

from django.db import connection, transaction

from calm_heron.logbook.models import Entry
from calm_heron.plugs import DEMO_PARTS, Demo
from calm_heron.workshops.models import Membership, Person, Role, Workshop
from wood.units import INCH

DEMO_EMAIL = "wren@saltmarsh.example"
DEMO_SLUG = "saltmarsh-joinery-co-operative"
DEMO_NAME = "Saltmarsh Joinery Co-operative"
SEED = 20
FRESH_FOR = timedelta(hours=6)
# The kind of the last entry in the log of a demo that nobody has recorded anything in.
SET_UP = "demo"
PEOPLE = (
    ("Wren Hallow", DEMO_EMAIL, Role.OWNER),
    ("Tamsin Reedmace", "tamsin@saltmarsh.example", Role.MAKER),
    ("Idris Fenn", "idris@saltmarsh.example", Role.HELPER),
    ("Oona Slack", "oona@saltmarsh.example", Role.VIEWER),
)


def pattern() -> Workshop | None:
    """The demo workshop that copies are made of, if it is loaded."""
    return Workshop.objects.filter(slug=DEMO_SLUG).first()


@transaction.atomic
def fresh_pattern(now: datetime) -> Workshop:
    """The pattern, made anew where it is not there or too old for what was read in it to be of today."""
    loaded = pattern()
    # Long ago visitors signed in as one of them; whoever still is must not write into what all copies are made of.
    Person.objects.filter(email__in=[email for _, email, _ in PEOPLE], is_active=True).update(is_active=False, password="!")
    return loaded if loaded and now - loaded.created_at < FRESH_FOR else renew(now)


def erase(workshop: Workshop) -> None:
    """Take a demo workshop out whole; the database refuses any that people work in."""
    with connection.cursor() as cursor:
        cursor.execute("SELECT calm_heron_erase_workshop(%s, 'demo')", [workshop.pk])


@transaction.atomic
def renew(now: datetime) -> Workshop:
    """Put the pattern back as it was on the first day, with dates that end now."""
    if loaded := pattern():
        erase(loaded)
    workshop = load(now)
    # A year of readings at once: without fresh statistics the first pages would be planned for empty tables.
    with connection.cursor() as cursor:
        cursor.execute("SELECT calm_heron_fresh_statistics()")
    return workshop


def load(now: datetime) -> Workshop:
    """Make the pattern as it stands at ``now``. Inside the caller's transaction."""
    workshop = Workshop.objects.create(name=DEMO_NAME, slug=DEMO_SLUG, units=INCH.key, created_at=now)
    members = []
    for name, email, role in PEOPLE:
        person, _ = Person.objects.update_or_create(email=email, defaults={"name": name, "password": "!", "is_active": False})
        members.append(Membership.objects.create(workshop=workshop, person=person, role=role))
    demo = Demo(workshop, tuple(members), now, random.Random(SEED))
    for part in DEMO_PARTS:
        part.load(demo)
    Entry.objects.create(workshop=workshop, by=members[0].person, kind=SET_UP, what="set_up", at=now)
    return workshop
