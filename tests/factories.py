"""Things that tests need, made with keyword arguments; whatever a test does not care about has a plain default."""

import io
import itertools
from datetime import timedelta
from typing import Any

from django.utils import timezone
from PIL import Image

from calm_heron.air.actions import record_air
from calm_heron.air.models import Hygrometer, Place
from calm_heron.judging.models import WorkshopPurpose
from calm_heron.measuring.actions import Taken, record_readings
from calm_heron.measuring.kinds import MeterKind
from calm_heron.measuring.models import Meter
from calm_heron.people.actions import found_workshop
from calm_heron.stock.actions import add_piece
from calm_heron.stock.models import Piece
from calm_heron.workshops.models import Membership, Person, Role

_number = itertools.count(1)


def make_person(**fields: Any) -> Person:
    number = next(_number)
    return Person.objects.create_user(
        **{"email": f"person{number}@example.org", "password": "sedge-and-rush", "name": f"Person {number}", **fields}
    )


def make_owner(*, name: str = "Test shop", units: str = "metric") -> Membership:
    """The owner of a new workshop; the membership is what actions take."""
    person = make_person()
    workshop = found_workshop(person, name, units)
    return Membership.objects.select_related("workshop", "person").get(workshop=workshop, person=person)


def make_member(owner: Membership, role: Role) -> Membership:
    return Membership.objects.create(workshop=owner.workshop, person=make_person(), role=role)


def make_place(by: Membership, **fields: Any) -> Place:
    return Place.objects.create(workshop=by.workshop, **{"name": f"Room {next(_number)}", "rh_tolerance": 0.02, **fields})


def make_aired_place(by: Membership, *, temperature_c: float = 21.1, relative_humidity: float = 0.5, days: int = 5, **fields: Any) -> Place:
    """A place whose air was read on several days; at 21.1°C and 50% its level is 9.2%."""
    place = make_place(by, **fields)
    for day in range(days):
        record_air(by, place, temperature_c, relative_humidity, at=timezone.now() - timedelta(days=day))
    return place


def make_hygrometer(by: Membership, **fields: Any) -> Hygrometer:
    return Hygrometer.objects.create(workshop=by.workshop, **{"name": f"Hygrometer {next(_number)}", "rh_tolerance": 0.03, **fields})


def make_meter(by: Membership, **fields: Any) -> Meter:
    defaults = {"name": f"Meter {next(_number)}", "kind": MeterKind.PIN, "tolerance": 0.005}
    # A meter that corrects for itself shows in tests what it is told to show.
    return Meter.objects.create(
        workshop=by.workshop, **{**defaults, "species_set_on_meter": True, "temperature_set_on_meter": True, **fields}
    )


def make_bowl(by: Membership, species_key: str = "sugar_maple", **sizes: Any) -> Piece:
    """A rough bowl of ten inches, green."""
    defaults = {"kind": "bowl", "seasoning": "green", "thickness_m": 0.025, "width_m": 0.25, "length_m": 0.1}
    return add_piece(by, species_key, **{**defaults, **sizes})


def make_board(by: Membership, species_key: str = "white_oak", **sizes: Any) -> Piece:
    defaults = {"thickness_m": 0.03, "width_m": 0.2, "length_m": 2.4}
    return add_piece(by, species_key, **{**defaults, **sizes})


def read_board(
    by: Membership, piece: Piece, *percent: float, meter: Meter | None = None, core: float | None = None, at: Any = None
) -> None:
    """Readings in percent, taken anywhere on the board."""
    taken = [Taken(value / 100) for value in percent] + ([Taken(core / 100, "core")] if core else [])
    record_readings(by, piece, meter or make_meter(by), taken, 20.0, at=at)


def make_shop(**fields: Any) -> tuple[Membership, Place, Meter, Piece]:
    """A workshop with an aired place as its aim, a meter, and one unread board."""
    owner = make_owner(**fields)
    place = make_aired_place(owner, name="Bench room")
    WorkshopPurpose.objects.create(workshop=owner.workshop, place=place, use_key="fine")
    return owner, place, make_meter(owner, name="Pin meter"), make_board(owner)


def make_lot(by: Membership, count: int = 40, species_key: str = "white_oak", **fields: Any) -> Piece:
    return make_board(by, species_key, count=count, **fields)


def a_picture(width: int = 64, height: int = 48) -> bytes:
    """A small photograph."""
    out = io.BytesIO()
    Image.new("RGB", (width, height), "#a5843c").save(out, "JPEG")
    return out.getvalue()
