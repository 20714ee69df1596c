"""The demo: the invented Saltmarsh Joinery Co-operative on an invented tidal estuary; mild, damp, windy.

A year of air and half a year of readings from a fixed seed, with dates that end today. Moisture follows a simple exponential here: it
only has to look like wood that was read, nothing is predicted from it.
"""

import math
import random
from datetime import datetime, timedelta

from calm_heron.air.models import AirReading, Hygrometer, HygrometerCheck, Kind, Normals, Place
from calm_heron.demo.boards import BENCH, BOARDS, FLAT, STORE, YARD, Board
from calm_heron.judging.models import Aim, UseRule
from calm_heron.logbook.models import Entry
from calm_heron.measuring.actions import Taken, build_reading, correct, record_oven_test, record_weight
from calm_heron.measuring.estimates import renew_moisture
from calm_heron.measuring.models import Meter, MeterCheck, MeterKind, PieceMoisture, Reading
from calm_heron.stock.actions import tag_word
from calm_heron.stock.models import RING_ANGLE_DEG, OwnSpecies, Photo, Piece
from calm_heron.stock.models import Kind as PieceKind
from calm_heron.workshops.models import Invitation, Membership, Person, Role, Submission, Workshop
from wood import sorption
from wood.air import Air
from wood.species import species
from wood.units import INCH, INCH_M

DEMO_EMAIL = "wren@saltmarsh.example"
DEMO_SLUG = "saltmarsh-joinery-co-operative"
DEMO_NAME = "Saltmarsh Joinery Co-operative"
SEED = 20
DAYS = 365
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
    for model in (
        PieceMoisture,
        Reading,
        Photo,
        Piece,
        OwnSpecies,
        MeterCheck,
        Meter,
        Aim,
        UseRule,
        AirReading,
        HygrometerCheck,
        Hygrometer,
        Normals,
        Place,
        Entry,
        Submission,
        Invitation,
        Membership,
    ):
        rows = model.objects.filter(workshop=workshop)
        rows._raw_delete(rows.db)
    workshop.delete()
    with connection.cursor() as cursor:
        cursor.execute("SET LOCAL calm_heron.erasing_workshop = ''")


def load(now: datetime) -> Workshop:
    """Make the demo workshop as it stands at ``now``. Inside the caller's transaction."""
    chance = random.Random(SEED)
    workshop = Workshop.objects.create(name=DEMO_NAME, slug=DEMO_SLUG, units=INCH.key)
    members = []
    for name, email, role in PEOPLE:
        person, _ = Person.objects.get_or_create(email=email, defaults={"name": name, "password": "!"})
        members.append(Membership.objects.create(workshop=workshop, person=person, role=role))
    wren, tamsin, idris, _ = members
    places = _places(workshop)
    _air(workshop, idris.person, places, now, chance)
    _hygrometers(workshop, idris.person, places[STORE], now)
    meters = _meters(workshop, idris.person, now)
    _own_figures(workshop)
    Aim.objects.create(workshop=workshop, place=places[BENCH], use_key="fine")
    _boards((wren, tamsin, idris), places, meters, now, chance)
    Entry.objects.create(workshop=workshop, by=wren.person, kind="demo", text="The demo workshop was set up", at=now)
    return workshop


def _places(workshop: Workshop) -> dict[str, Place]:
    made = (
        (BENCH, Kind.ROOM, 0.03),
        (STORE, Kind.STORE, 0.03),
        (YARD, Kind.YARD, 0.05),
        (FLAT, Kind.ROOM, 0.05),
    )
    return {name: Place.objects.create(workshop=workshop, name=name, kind=kind, rh_tolerance=good_to) for name, kind, good_to in made}


def _hygrometers(workshop: Workshop, by: Person, place: Place, now: datetime) -> None:
    """Two instruments that disagree: one checked over salt a month ago, and a dial that nobody has checked."""
    checked = now - timedelta(days=31)
    grey = Hygrometer.objects.create(workshop=workshop, name="Grey hygrometer", rh_tolerance=0.03, offset=-0.025, checked_at=checked)
    HygrometerCheck.objects.create(
        workshop=workshop, hygrometer=grey, at=checked, by=by, salt="NaCl", temperature_c=19.0, waited_hours=11, shown=0.78, expected=0.755,
        offset=-0.025,
    )  # fmt: skip
    dial = Hygrometer.objects.create(workshop=workshop, name="Brass dial", rh_tolerance=0.05)
    newest = place.readings.order_by("-at").first()
    for minutes, one, corrected in ((20, grey, newest.relative_humidity), (25, dial, newest.relative_humidity - 0.09)):
        meant = sorption.measured_emc(newest.temperature_c, corrected, one.tolerance_now)
        AirReading.objects.create(
            workshop=workshop, place=place, at=now - timedelta(minutes=minutes), by=by, temperature_c=newest.temperature_c, hygrometer=one,
            relative_humidity=corrected, shown_humidity=round(corrected - one.offset, 2), emc=meant.emc, emc_tolerance=meant.tolerance,
        )  # fmt: skip


def _meters(workshop: Workshop, by: Person, now: datetime) -> dict[str, Meter]:
    pin = Meter.objects.create(workshop=workshop, name="Blue pin meter", kind=MeterKind.PIN, tolerance=0.006)
    pinless = Meter.objects.create(
        workshop=workshop, name="Grey pinless meter", kind=MeterKind.PINLESS, tolerance=0.01, density_setting=0.5, depth_m=0.019
    )
    scale = Meter.objects.create(workshop=workshop, name="Bench scale", kind=MeterKind.SCALE, step_kg=0.005)
    Meter.objects.create(workshop=workshop, name="Small oven", kind=MeterKind.OVEN)
    for meter, of, expected, shown, days in ((pin, "resistor of 120 MΩ", 0.12, 0.12, 40), (scale, "test weight", 1.0, 1.005, 40)):
        MeterCheck.objects.create(
            workshop=workshop, meter=meter, at=now - timedelta(days=days), by=by, of=of, expected=expected, shown=shown
        )
        meter.checked_at = now - timedelta(days=days)
        meter.save()
    return {pin.name: pin, pinless.name: pinless}


def _own_figures(workshop: Workshop) -> None:
    """What the co-operative measured itself: its estuary oak is denser than the published mean, and a wood that is in no table."""
    OwnSpecies.objects.create(
        workshop=workshop,
        key="european_oak",
        common_name="European oak",
        specific_gravity_12=0.70,
        source="Twelve blocks of our own, weighed",
    )
    OwnSpecies.objects.create(
        workshop=workshop, key="own-laburnum", common_name="Laburnum", botanical_name="Laburnum anagyroides", specific_gravity_12=0.82,
        source="Three blocks of our own, weighed",
    )  # fmt: skip


def air_of(name: str, day: datetime, chance: random.Random) -> Air:
    """The air of one of the demo's places on a day: a mild coast, rooms heated from its outdoor air, and a dry inland flat."""
    turn = math.cos(2 * math.pi * (day.timetuple().tm_yday - 30) / 365.25)
    outdoors = Air(10.5 - 6 * turn + chance.gauss(0, 1.6), min(0.97, max(0.5, 0.82 + 0.035 * turn + chance.gauss(0, 0.045))))
    if name == YARD:
        return outdoors
    if name == STORE:
        return Air(outdoors.temperature_c + 1.2, min(0.9, max(0.45, 0.735 + 0.03 * turn + chance.gauss(0, 0.02))))
    if name == BENCH:
        return outdoors.brought_to(19 - 1.2 * turn + chance.gauss(0, 0.6), 0.0008 + chance.gauss(0, 0.0002))
    inland = Air(9 - 12 * turn + chance.gauss(0, 1.5), 0.70)
    return inland.brought_to(21.5 + chance.gauss(0, 0.5), 0.0012 + chance.gauss(0, 0.0002))


def _air(workshop: Workshop, by: Person, places: dict[str, Place], now: datetime, chance: random.Random) -> None:
    readings = []
    for name, place in places.items():
        for day in range(DAYS, -1, -1 if name in (BENCH, STORE) else -3):
            at = now - timedelta(days=day, minutes=chance.randrange(20, 300))
            air = air_of(name, at, chance)
            humidity = round(min(0.98, air.relative_humidity), 2)
            temperature = round(air.temperature_c * 2) / 2
            meant = sorption.measured_emc(temperature, humidity, place.rh_tolerance)
            readings.append(
                AirReading(
                    workshop=workshop,
                    place=place,
                    at=at,
                    by=by,
                    temperature_c=temperature,
                    relative_humidity=humidity,
                    emc=meant.emc,
                    emc_tolerance=meant.tolerance,
                )
            )
    AirReading.objects.bulk_create(readings)


def _boards(
    members: tuple[Membership, ...], places: dict[str, Place], meters: dict[str, Meter], now: datetime, chance: random.Random
) -> None:
    wren, tamsin, idris = members
    numbers: dict[str, int] = {}
    pieces, readings, entries = [], [], []
    lot = None
    for board in BOARDS:
        wood = species(board.species_key)
        word = f"{lot.tag}-s" if board.part else tag_word(wood.common_name, board.kind, board.count)
        numbers[word] = numbers.get(word, 0) + 1
        wall = round(0.09 * board.width * 8) / 8
        thickness, width, length = (
            (wall, board.width, board.length) if board.kind == PieceKind.BOWL else (board.thickness, board.width, board.length)
        )
        piece = Piece.objects.create(
            workshop=wren.workshop, tag=f"{word}-{numbers[word]:02d}", species_key=board.species_key, thickness_m=thickness * INCH_M,
            width_m=width * INCH_M, length_m=length * INCH_M, nominal=board.nominal, kind=board.kind, count=board.count, part=board.part,
            lot=lot if board.part else None, felled_on=(now - timedelta(days=board.felled)).date() if board.felled else None, source=board.source,
            ring_angle_deg=min(90, RING_ANGLE_DEG[board.grain] + chance.uniform(-4, 4)), pith_distance_m=chance.uniform(0.09, 0.2),
            seasoning=board.seasoning, place=places[board.place], note=board.note, added_by=tamsin.person,
            added_at=now - timedelta(days=board.days + 2),
        )  # fmt: skip
        lot = piece if board.count > 1 else lot
        pieces.append(piece)
        level = sum(emc for (emc,) in places[board.place].readings.order_by("-at").values_list("emc")[:30]) / 30
        for turn in range(board.reads):
            days_ago = board.days * (1 - turn / max(1, board.reads - 1)) if board.reads > 1 else 0
            at = now - timedelta(days=days_ago, hours=chance.uniform(2, 9))
            by = (wren, tamsin, idris)[chance.randrange(3)]
            taken = _sitting(board, piece, meters[board.meter], level, board.days - days_ago, chance)
            made = [build_reading(by, piece, meters[board.meter], one, 19.0, at) for one in taken]
            readings += made
            corrected = " ".join(f"{reading.moisture * 100:.1f}" for reading in made)
            entries.append(
                Entry(
                    workshop=by.workshop,
                    at=at,
                    by=by.person,
                    kind="reading",
                    subject=piece.tag,
                    text=f"{piece.tag} with {board.meter}: {corrected} % corrected",
                )
            )
    Reading.objects.bulk_create(readings)
    entries.sort(key=lambda entry: entry.at)
    Entry.objects.bulk_create(entries)
    for piece in pieces:
        renew_moisture(piece)
    elm = next(piece for piece in pieces if piece.species_key == "american_elm")
    record_oven_test(idris, elm, 0.412, 0.246, 0.001, piece_mass_kg=15.2, at=now - timedelta(days=12))
    record_weight(idris, elm, 13.9, None, 0.01, at=now - timedelta(days=1))


def moisture_after(board: Board, level: float, days: float) -> float:
    """A plausible moisture: an exponential towards the level, slower for thick and dense wood."""
    density = species(board.species_key).specific_gravity or 0.6
    thickness = 0.09 * board.width if board.kind == PieceKind.BOWL else min(board.thickness, 4)
    return level + (board.start - level) * math.exp(-days / (26 * thickness**1.4 * density / 0.55))


def _sitting(board: Board, piece: Piece, meter: Meter, level: float, days: float, chance: random.Random) -> list[Taken]:
    mean = moisture_after(board, level, days)
    taken = []
    for spot in range(board.spots):
        along = board.at_places[spot] + chance.uniform(-0.02, 0.02)
        patch = board.patchy * (1.6 if along < 0.3 else -0.4)
        moisture = max(0.055, mean + patch + chance.gauss(0, 0.0035))
        taken.append(Taken(_shown(piece, meter, moisture), "", along, chance.uniform(0.3, 0.7)))
    if board.core_wetter:
        core = mean + board.core_wetter
        taken.append(Taken(_shown(piece, meter, core), "core", taken[0].along, taken[0].across))
    return taken


def _shown(piece: Piece, meter: Meter, moisture: float) -> float:
    """What the meter would show on wood of this moisture: the correction turned round by halving, to its own 0.1 % steps."""
    if moisture > 0.28:
        # Beyond fibre saturation meters show some large number or other.
        return round(0.32 + 0.3 * (moisture - 0.28), 3)
    low, high = 0.03, 0.6
    for _ in range(14):
        middle = (low + high) / 2
        low, high = (middle, high) if correct(piece, meter, Taken(middle), 19.0).moisture < moisture else (low, middle)
    return round((low + high) / 2, 3)
