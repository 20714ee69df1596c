"""A demo workshop for every visitor: copied from the pattern in one go, theirs alone, and taken out after a day."""

import hashlib
import ipaddress
import math
import secrets
from collections.abc import Iterable
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from typing import Any

from django.core.cache import cache
from django.db import connection, models, transaction

from calm_heron.demo import scenario
from calm_heron.logbook.models import Entry
from calm_heron.plugs import DEMO_PARTS
from calm_heron.site.numbers import counted
from calm_heron.workshops.models import Invitation, Membership, Person, Submission, Workshop
from calm_heron.workshops.refusals import Refused

LASTS = timedelta(days=1)
MOST = 500
# How long a copy that nobody has recorded anything in is left alone, where others wait for room.
UNTOUCHED_FOR = timedelta(minutes=30)
# How often one address is let in within an hour, and how many copies it may hold: a workshop's phones and visitors, and no flood. This
# machine itself is let in as often as it likes.
AN_HOUR, HELD_BY_ONE = 30, 60
# What belongs to somebody at a form, and not to the demo.
NOT_COPIED = (Submission, Invitation)
# One at a time renews the pattern or takes out copies; any number that no other lock of ours has.
LOCK = 20_261

# For each table, the keys of the pattern's rows and those of their copies, in one order.
Keys = dict[type[models.Model], tuple[list[int], list[int]]]


@dataclass
class Entered:
    """When an address was let in within the last day, and whose copy it got each time; kept in the cache by a digest of the address."""

    name: str
    times: list[tuple[float, int]]

    @classmethod
    def of(cls, address: str) -> "Entered":
        if not address or _is_this_machine(address):
            name = "demo-entered-here"
        else:
            name = f"demo-entered-{hashlib.sha256(address.encode()).hexdigest()[:32]}"
        return cls(name, cache.get(name, []))

    def need_turn(self, now: datetime) -> None:
        """See that it was not let in too often within the hour.

        Raises:
            Refused: it was; the text says when it may come again.
        """
        within = [at for at, _ in self.times if at > now.timestamp() - 3600]
        if self.name != "demo-entered-here" and len(within) >= AN_HOUR:
            first = datetime.fromtimestamp(sorted(within)[-AN_HOUR] + 3600, UTC)
            raise Refused(f"The demo was begun {AN_HOUR} times from this address within an hour. {_again_in(first, now)}")

    def keep(self, now: datetime, visitor: Person) -> None:
        day = [item for item in self.times if item[0] > now.timestamp() - LASTS.total_seconds()]
        cache.set(self.name, [*day, (now.timestamp(), visitor.pk)][-MOST:], LASTS.total_seconds())


def _is_this_machine(address: str) -> bool:
    try:
        return ipaddress.ip_address(address).is_loopback
    except ValueError:
        return False


@transaction.atomic
def for_visitor(now: datetime, address: str = "") -> Membership:
    """A new person with a copy of the demo workshop, its owner.

    Args:
        address: where the visitor comes from, as the network names it.
    Raises:
        Refused: there are as many copies as this installation holds, or this address was let in too often.
    """
    # Looked at once before anybody waits for the lock, and once inside it.
    entered = Entered.of(address)
    entered.need_turn(now)
    pattern = ready(now)
    entered = Entered.of(address)
    entered.need_turn(now)
    _make_room(now, entered)
    name = secrets.token_hex(5)
    visitor = Person.objects.create(
        email=f"visitor-{name}@saltmarsh.example", name=scenario.PEOPLE[0][0], password="!", is_visitor=True, date_joined=now
    )
    workshop = Workshop.objects.create(name=pattern.name, slug=f"{scenario.DEMO_SLUG}-{name}", units=pattern.units, created_at=now)
    _copy_rows(pattern, workshop, visitor)
    entered.keep(now, visitor)
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


def _unused() -> models.QuerySet[Person]:
    """Visitors who have recorded nothing: their log ends as a copy's begins, with the setting up of the demo."""
    last = Entry.objects.filter(workshop__in=models.OuterRef("memberships__workshop")).order_by("-id").values("kind")[:1]
    return visitors().annotate(last=models.Subquery(last)).filter(last=scenario.SET_UP)


def _make_room(now: datetime, entered: Entered) -> None:
    """Where there is no room, take out copies that nobody has recorded anything in: those of an address that holds very many, then any that
    were left alone for a while.

    Raises:
        Refused: all the copies this installation holds are in use; the text says when there is room again.
    """
    own = [key for _, key in entered.times]
    if (over := visitors().filter(pk__in=own).count() - HELD_BY_ONE + 1) > 0:
        _take_out(_unused().filter(pk__in=own).order_by("date_joined")[:over])
    if visitors().count() < MOST:
        return
    _take_out(_unused().filter(date_joined__lt=now - UNTOUCHED_FOR))
    if visitors().count() >= MOST:
        first, unused = visitors().earliest("date_joined").date_joined + LASTS, _unused().order_by("date_joined").first()
        room = min(first, unused.date_joined + UNTOUCHED_FOR) if unused else first
        raise Refused(f"As many people are in the demo as it holds. {_again_in(room, now)}")


def _again_in(moment: datetime, now: datetime) -> str:
    minutes = max(math.ceil((moment - now).total_seconds() / 60), 1)
    return f"Come back in {counted(minutes, 'minute') if minutes <= 90 else counted(math.ceil(minutes / 60), 'hour')}."


def _take_out(over: Iterable[Person]) -> None:
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
