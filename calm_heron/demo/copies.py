"""A demo workshop for every visitor: copied from the pattern in one go, theirs alone, and taken out after a day."""

import secrets
from datetime import datetime, timedelta
from typing import Any

from django.db import connection, models, transaction

from calm_heron.demo import scenario
from calm_heron.logbook.models import Entry
from calm_heron.plugs import DEMO_PARTS
from calm_heron.workshops.models import Invitation, Membership, Person, Submission, Workshop
from calm_heron.workshops.refusals import Refused

LASTS = timedelta(days=1)
MOST = 500
# How long a copy that nobody has recorded anything in is left alone, where others wait for room.
UNTOUCHED_FOR = timedelta(hours=1)
# What belongs to somebody at a form, and not to the demo.
NOT_COPIED = (Submission, Invitation)
# One at a time renews the pattern or takes out copies; any number that no other lock of ours has.
LOCK = 20_261

# For each table, the keys of the pattern's rows and those of their copies, in one order.
Keys = dict[type[models.Model], tuple[list[int], list[int]]]


@transaction.atomic
def for_visitor(now: datetime) -> Membership:
    """A new person with a copy of the demo workshop, its owner.

    Raises:
        Refused: there are as many copies as this installation holds.
    """
    pattern = ready(now)
    _make_room(now)
    name = secrets.token_hex(5)
    visitor = Person.objects.create(
        email=f"visitor-{name}@saltmarsh.example", name=scenario.PEOPLE[0][0], password="!", is_visitor=True, date_joined=now
    )
    workshop = Workshop.objects.create(name=pattern.name, slug=f"{scenario.DEMO_SLUG}-{name}", units=pattern.units, created_at=now)
    _copy_rows(pattern, workshop, visitor)
    return Membership.objects.of(workshop).select_related("workshop", "person").get(person=visitor)


def ready(now: datetime) -> Workshop:
    """The pattern, fresh, with the copies whose day is over taken out; until the caller's transaction ends nobody else does so."""
    with connection.cursor() as cursor:
        cursor.execute("SELECT pg_advisory_xact_lock(%s)", [LOCK])
    _take_out(visitors().filter(date_joined__lt=now - LASTS))
    return scenario.fresh_pattern(now)


@transaction.atomic
def make_anew(now: datetime) -> None:
    """Take out all copies and make the pattern anew."""
    _take_out(visitors())
    scenario.renew(now)


def visitors() -> models.QuerySet[Person]:
    return Person.objects.filter(is_visitor=True)


def _make_room(now: datetime) -> None:
    """Where there is no room, take out the copies that nobody has recorded anything in.

    Raises:
        Refused: all the copies this installation holds are in use.
    """
    if visitors().count() < MOST:
        return
    # A copy begins with the pattern's log, which ends with the setting up of the demo.
    last = Entry.objects.filter(workshop__in=models.OuterRef("memberships__workshop")).order_by("-id").values("kind")[:1]
    _take_out(visitors().annotate(last=models.Subquery(last)).filter(last=scenario.SET_UP, date_joined__lt=now - UNTOUCHED_FOR))
    if visitors().count() >= MOST:
        raise Refused("As many people are in the demo as it holds. Come back in an hour.")


def _take_out(over: models.QuerySet[Person]) -> None:
    for visitor in over:
        for workshop in Workshop.objects.filter(pk__in=visitor.memberships.values("workshop")):
            scenario.erase(workshop)
        visitor.delete()


def _copy_rows(pattern: Workshop, workshop: Workshop, visitor: Person) -> None:
    """Copy all rows inside the database, with keys of their own; where a row names another, the copy names that one's copy."""
    wren = Person.objects.get(email=scenario.DEMO_EMAIL)
    keys: Keys = {Person: ([wren.pk], [visitor.pk]), Workshop: ([pattern.pk], [workshop.pk])}
    tables = [model for part in DEMO_PARTS for model in reversed(part.rows) if model not in NOT_COPIED]
    with connection.cursor() as cursor:
        for model in tables:
            table = model._meta.db_table
            cursor.execute(
                f"SELECT id, nextval(pg_get_serial_sequence('{table}', 'id')) FROM {table} WHERE workshop_id = %s ORDER BY id", [pattern.pk]
            )
            pairs = cursor.fetchall()
            keys[model] = ([old for old, _ in pairs], [new for _, new in pairs])
        for model in tables:
            _copy_table(cursor, model, keys)


def _copy_table(cursor: Any, model: type[models.Model], keys: Keys) -> None:
    into, values, joins, given = list[str](), list[str](), list[str](), list[Any]()
    for number, field in enumerate(model._meta.concrete_fields):
        column = f'"{field.column}"'
        into.append(column)
        target = model if field.primary_key else field.related_model
        if target not in keys:
            values.append(f"r.{column}")
            continue
        # A person may be one of the co-operative's own, who stay the same in every copy.
        values.append(f"coalesce(k{number}.new, r.{column})" if target is Person else f"k{number}.new")
        kind = "JOIN" if field.primary_key else "LEFT JOIN"
        joins.append(f"{kind} unnest(%s::bigint[], %s::bigint[]) AS k{number}(old, new) ON k{number}.old = r.{column}")
        given += keys[target]
    table = model._meta.db_table
    cursor.execute(
        f"INSERT INTO {table} ({', '.join(into)}) SELECT {', '.join(values)} FROM {table} r {' '.join(joins)} ORDER BY r.id", given
    )


def still_open(person: Person, now: datetime) -> Membership | None:
    """The membership a visitor has in a copy whose day is not over."""
    if not getattr(person, "is_visitor", False) or person.date_joined < now - LASTS:
        return None
    return person.memberships.select_related("workshop").first()
