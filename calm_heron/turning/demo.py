"""The demo's turning: a shelf of rough bowls that were weighed, a log with its end drawn and the blanks of another, and a bowl in the
microwave.
"""

import math
from datetime import timedelta
from typing import Any

import numpy as np

from calm_heron.air.demo import BENCH, STORE, YARD
from calm_heron.measuring.kinds import Layer, Method
from calm_heron.measuring.models import Reading
from calm_heron.plugs import Demo
from calm_heron.stock.kinds import PieceKind, Seasoning
from calm_heron.stock.models import Piece
from calm_heron.turning.actions import weigh
from calm_heron.turning.bowls import finishing
from calm_heron.turning.models import CrackFound, LogEnd, OvenHeat, OvenSession, Tracing, Turned
from calm_heron.turning.shelf import weighing
from wood.drying import field
from wood.drying.diffusivity import of_species as figures_of
from wood.measuring.meters import CORRECTION_RULE
from wood.measuring.readings import Warn
from wood.species import species_named
from wood.turning.bowls import Bowl, parts
from wood.turning.drying import SHELF, wood_of

# Tag, species, diameter and height in inches, wall as a share of the diameter, where it lies, since how many days, how fast and how wet
# beside its species.
BOWLS = (
    ("ash-bowl-02", "white_ash", 11.0, 4.5, 0.10, BENCH, 150, 1.1, 1.0),
    ("cherry-bowl-01", "black_cherry", 8.0, 3.25, 0.09, BENCH, 95, 0.95, 1.05),
    ("cherry-bowl-02", "black_cherry", 12.5, 5.0, 0.10, BENCH, 60, 1.2, 0.95),
    ("maple-bowl-02", "sugar_maple", 10.0, 4.0, 0.10, BENCH, 34, 0.85, 1.1),
    ("walnut-bowl-01", "black_walnut", 9.0, 3.5, 0.095, STORE, 120, 1.0, 1.0),
    ("beech-bowl-01", "american_beech", 13.0, 5.5, 0.11, STORE, 21, 0.9, 1.0),
    ("oak-bowl-01", "white_oak", 9.5, 4.0, 0.09, BENCH, 75, 1.0, 1.0),
    ("birch-bowl-01", "yellow_birch", 7.0, 3.0, 0.09, BENCH, 6, 1.0, 1.0),
)
INCH_M = 0.0254
# A slip of the pen: which bowl, at which of its weighings, by what.
SLIPPED, SLIP_AT, SLIP_BY = "cherry-bowl-02", 6, 10.0
TRACED, CRACKED, HEATED = "ash-bowl-02", "oak-bowl-01", "birch-bowl-01"
HEATS = ((40, 1.0, "warm"), (40, 1.0, "warm"), (40, 1.0, "cool"), (50, 1.0, "warm"), (50, 1.0, "warm"))


def load(demo: Demo) -> None:
    """Bowls with their weights, a tracing, a crack, a session, a log as it lies."""
    for bowl in BOWLS:
        _bowl(demo, *bowl)
    _log(demo)


def _bowl(demo: Demo, tag: str, key: str, wide: float, high: float, wall: float, place: str, days: int, pace: float, wet: float) -> None:
    person = demo.people[1].person
    diameter, height = wide * INCH_M, high * INCH_M
    piece = Piece.objects.create(
        workshop=demo.workshop,
        tag=tag,
        kind=PieceKind.BOWL,
        species_key=key,
        thickness_m=round(wall * diameter, 4),
        width_m=diameter,
        length_m=height,
        seasoning=Seasoning.GREEN,
        place=demo.made[place],
        added_by=person,
        added_at=demo.now - timedelta(days=days),
        felled_on=(demo.now - timedelta(days=days + 9)).date(),
    )
    known = Turned.objects.create(workshop=demo.workshop, piece=piece, pith_m=0.016, aside_m=round(demo.chance.uniform(-0.012, 0.012), 4))
    began = demo.now - timedelta(days=days, hours=3)
    looked = _weighed_on(demo, days)
    masses = _truth(demo, piece, known.bowl(), began, looked, pace, wet)
    if tag == SLIPPED:
        masses[SLIP_AT] *= SLIP_BY
    dry = figures_of(piece.species).wood.density * known.bowl().volume_m3
    Reading.objects.bulk_create(
        Reading(
            workshop=demo.workshop,
            piece=piece,
            at=began + timedelta(days=day),
            by=person,
            method=Method.WEIGHT,
            layer=Layer.WHOLE,
            wet_mass_kg=mass,
            dry_mass_kg=min(dry, mass),
            moisture=min(max(mass / dry - 1, 0.0), 3.0),
            uncertainty=0.15,
            rule=CORRECTION_RULE,
            warnings=[Warn.FITTED_OVENDRY],
        )
        for day, mass in list(zip(looked, masses, strict=True))[:-1]
    )
    # The newest is kept as by hand: what it says of the moisture is what the whole log says.
    weigh(demo.people[1], piece, masses[-1], began + timedelta(days=looked[-1]), meant=True)
    weighed = weighing.renew(piece)
    if weighed is None:
        return
    if tag == TRACED:
        predicted = finishing.predicted_m(piece, known, weighed)
        Tracing.objects.create(
            workshop=demo.workshop,
            piece=piece,
            by=person,
            stage="dry",
            along_m=diameter * 0.999,
            across_m=diameter - (predicted or 0.01) * 1.12,
            predicted_m=predicted,
        )
    if tag == CRACKED:
        CrackFound.objects.create(workshop=demo.workshop, piece=piece, by=person, where="foot", depth_m=0.009, length_m=0.05)
    if tag == HEATED:
        _session(demo, piece, weighed)


def _weighed_on(demo: Demo, days: int) -> list[float]:
    """When somebody thought of it: every few days at first, later by the week, now and then forgotten."""
    looked, day = [0.0], 0.0
    while True:
        day += demo.chance.choice((1, 2, 2, 3) if day < 14 else (4, 6, 7, 7, 8, 13))
        if day > days - 0.4:
            return looked
        looked.append(day + demo.chance.uniform(-0.1, 0.1))


def _truth(demo: Demo, piece: Piece, bowl: Bowl, began: Any, looked: list[float], pace: float, wet: float) -> list[float]:
    """What a bowl would have weighed: many parts of its shell in the air of its place, a wall that is not even, and a scale of a gram."""
    species = species_named(piece.species_key)
    figures = figures_of(species)
    series = weighing.air_of(piece, began.date())
    assert series is not None
    own = field.Wood(figures.wood.specific_gravity, figures.wood.factor * pace, figures.wood.permeability, figures.wood.fibre_saturation)
    drive, shell = field.driven(series, SHELF), parts(bowl, 12.0, tuple(np.arange(1, 12) / 12))
    start = min(figures.green_moisture * wet, 0.9 * own.greatest_moisture)
    last = max(looked[-1], 1.0)
    means = [
        field.dry(wood_of(part, own), part.slab_m * demo.chance.uniform(0.92, 1.1), start, drive, last, out_days=np.asarray(looked)).mean
        for part in shell
    ]
    mean = np.average(means, axis=0, weights=[part.share for part in shell])
    dry = own.density * bowl.volume_m3 * math.exp(demo.chance.gauss(0, 0.06))
    return [round(float(dry * (1 + moisture)) * (1 + demo.chance.gauss(0, 0.001)), 3) for moisture in mean]


def _session(demo: Demo, piece: Piece, weighed: weighing.WeighedBowl) -> None:
    person = demo.people[1].person
    began = demo.now - timedelta(hours=7)
    session = OvenSession.objects.create(
        workshop=demo.workshop,
        piece=piece,
        by=person,
        began_at=began,
        watts=800,
        first_kg=weighed.last_kg,
        dry_kg=weighed.dry_kg[0],
        rest_kg=weighed.rest_kg[0],
    )
    mass = weighed.last_kg
    for number, (seconds, level, felt) in enumerate(HEATS):
        mass -= 0.8e3 * level * seconds * 0.55 / 2.59e6 * (1.0 - 0.08 * number)
        OvenHeat.objects.create(
            workshop=demo.workshop,
            session=session,
            at=began + timedelta(minutes=70 * number + 60),
            by=person,
            seconds=seconds,
            level=level,
            mass_kg=round(mass, 3),
            felt=felt,
        )


def _log(demo: Demo) -> None:
    """A cherry log with a star of checks, one of them through, and its pith off centre."""
    person = demo.people[1].person
    piece = Piece.objects.create(
        workshop=demo.workshop,
        tag="cherry-log-01",
        kind=PieceKind.LOG,
        species_key="black_cherry",
        thickness_m=16 * INCH_M,
        width_m=16 * INCH_M,
        length_m=24 * INCH_M,
        seasoning=Seasoning.GREEN,
        place=demo.made[YARD],
        added_by=person,
        added_at=demo.now - timedelta(days=12),
        felled_on=(demo.now - timedelta(days=26)).date(),
        ends_sealed=False,
    )
    strokes = []
    for hour, near, far, depth in (
        (1.2, 0.02, 0.16, None),
        (3.9, 0.03, 0.09, 0.03),
        (6.4, 0.02, 0.13, 0.04),
        (8.1, 0.05, 0.12, 0.025),
        (10.3, 0.03, 0.08, 0.03),
    ):
        angle = math.pi / 2 - hour * math.pi / 6
        strokes.append(
            {
                "p": [
                    [round(0.018 + r * math.cos(angle + 0.03 * k), 4), round(-0.012 + r * math.sin(angle + 0.03 * k), 4)]
                    for k, r in enumerate((near, (near + far) / 2, far))
                ],
                "d": depth,
                "f": "check",
            }
        )
    LogEnd.objects.create(
        workshop=demo.workshop,
        piece=piece,
        width_m=16 * INCH_M,
        height_m=15 * INCH_M,
        length_m=24 * INCH_M,
        pith_x_m=0.75 * INCH_M,
        pith_y_m=-0.5 * INCH_M,
        soft_m=0.5 * INCH_M,
        strokes=strokes,
    )
