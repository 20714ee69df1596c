"""The demo's boards and what was read on them: half a year of readings, from the demo's own seed, with dates that end today.

Moisture follows a simple exponential here: it only has to look like wood that was read, nothing is predicted from it.
"""

import math
import random
from datetime import datetime, timedelta

from calm_heron.air.models import Place
from calm_heron.logbook.models import Entry
from calm_heron.measuring.actions import Taken, build_reading, correct, entry_of, record_oven_test, record_weight
from calm_heron.measuring.demo_boards import BOARDS, DemoBoard
from calm_heron.measuring.estimates import renew_moisture
from calm_heron.measuring.kinds import Layer, MeterKind
from calm_heron.measuring.models import Meter, MeterCheck, Reading
from calm_heron.plugs import Demo
from calm_heron.stock.actions import tag_word
from calm_heron.stock.kinds import PieceKind
from calm_heron.stock.models import RING_ANGLE_DEG, Piece
from calm_heron.workshops.models import Membership, Person, Workshop
from wood.species import species_named
from wood.units import INCH_M


def load(demo: Demo) -> None:
    """The meters with their checks, and the boards with their readings; needs the places in ``made``."""
    meters = _meters(demo.workshop, demo.people[2].person, demo.now)
    _boards(demo.people[:3], demo.made, meters, demo.now, demo.chance)


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


def _boards(
    members: tuple[Membership, ...], places: dict[str, Place], meters: dict[str, Meter], now: datetime, chance: random.Random
) -> None:
    wren, tamsin, idris = members
    numbers: dict[str, int] = {}
    pieces, readings, entries = [], [], []
    lot = None
    for board in BOARDS:
        wood = species_named(board.species_key)

        word = f"{lot.tag}-s" if board.part else tag_word(wood.common_name, board.kind, board.count)  # type: ignore[attr-defined, union-attr]
        numbers[word] = numbers.get(word, 0) + 1
        wall = round(0.09 * board.width * 8) / 8
        thickness, width, length = (
            (wall, board.width, board.length) if board.kind == PieceKind.BOWL else (board.thickness, board.width, board.length)
        )
        piece = Piece.objects.create(
            workshop=wren.workshop,
            tag=f"{word}-{numbers[word]:02d}",
            species_key=board.species_key,
            thickness_m=thickness * INCH_M,
            width_m=width * INCH_M,
            length_m=length * INCH_M,
            nominal=board.nominal,
            kind=board.kind,
            count=board.count,
            part=board.part,
            lot=lot if board.part else None,
            felled_on=(now - timedelta(days=board.felled)).date() if board.felled else None,
            source=board.source,
            ring_angle_deg=min(90, RING_ANGLE_DEG[board.grain] + chance.uniform(-4, 4)),
            pith_distance_m=chance.uniform(0.09, 0.2),
            seasoning=board.seasoning,
            place=places[board.place],
            note=board.note,
            added_by=tamsin.person,
            added_at=now - timedelta(days=board.days + 2),
        )
        lot = piece if board.count > 1 else lot
        pieces.append(piece)
        level = sum(emc for (emc,) in places[board.place].readings.order_by("-at").values_list("emc")[:30]) / 30
        for turn in range(board.reads):
            days_ago = board.days * (1 - turn / max(1, board.reads - 1)) if board.reads > 1 else 0
            at = now - timedelta(days=days_ago, hours=chance.uniform(2, 9))
            by = (wren, tamsin, idris)[chance.randrange(3)]
            taken = _sitting(board, piece, meters[board.meter], level, board.days - days_ago, chance)
            made = [build_reading(by, piece, meters[board.meter], spot, 19.0, at) for spot in taken]
            readings += made
            entries.append(
                Entry(
                    workshop=by.workshop,
                    at=at,
                    by=by.person,
                    kind="reading",
                    what="read",
                    subject=piece.tag,
                    data=entry_of(made),
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


def moisture_after(board: DemoBoard, level: float, days: float) -> float:
    """A plausible moisture: an exponential towards the level, slower for thick and dense wood."""
    density = species_named(board.species_key).specific_gravity or 0.6
    thickness = 0.09 * board.width if board.kind == PieceKind.BOWL else min(board.thickness, 4)
    return level + (board.start - level) * math.exp(-days / (26 * thickness**1.4 * density / 0.55))


def _sitting(board: DemoBoard, piece: Piece, meter: Meter, level: float, days: float, chance: random.Random) -> list[Taken]:
    mean = moisture_after(board, level, days)
    taken = []
    for spot in range(board.spots):
        along = board.at_places[spot] + chance.uniform(-0.02, 0.02)
        patch = board.patchy * (1.6 if along < 0.3 else -0.4)
        moisture = max(0.055, mean + patch + chance.gauss(0, 0.0035))
        taken.append(Taken(_shown(piece, meter, moisture), Layer.USUAL, along, chance.uniform(0.3, 0.7)))
    if board.core_wetter:
        core = mean + board.core_wetter
        taken.append(Taken(_shown(piece, meter, core), Layer.CORE, taken[0].along, taken[0].across))
    return taken


def _shown(piece: Piece, meter: Meter, moisture: float) -> float:
    """What the meter would show on wood of this moisture, to its own 0.1% steps: the correction turned round, which lies near the reading
    and grows with it, so that what is missing at one guess makes the next."""
    if moisture > 0.28:
        # Beyond fibre saturation meters show some large number or other.
        return round(0.32 + 0.3 * (moisture - 0.28), 3)
    shown = moisture
    for _ in range(10):
        missing = moisture - correct(piece, meter, Taken(shown), 19.0).moisture
        shown = min(max(shown + missing, 0.03), 0.6)
        if abs(missing) < 1e-4:
            break
    return round(shown, 3)
