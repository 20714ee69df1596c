"""The demo's kiln: a small chamber with a compressor, and a load of maple half way through, weighed every morning."""

from datetime import timedelta

from calm_heron.air.demo import STORE
from calm_heron.kiln.actions import keep_readings
from calm_heron.kiln.models import Chamber, ChamberReading, DegradeFound, Load, LoadEvent, LoadLot, Promise, Sample, SampleWeight
from calm_heron.plugs import Demo
from calm_heron.stacks.demo import BIRCH, CAME, DOWN
from calm_heron.stock.models import Piece
from wood.air import climate
from wood.drying.diffusivity import of_species
from wood.kiln import loads, programs
from wood.kiln.loads import Followed
from wood.species import species_named

BIRCH_DAYS = 16
SPECIES, COUNT, DAYS = "sugar_maple", 70, 9
# What nobody in the demo knows: how fast its wood really dries.
HIDDEN_PACE = 0.85
# Tag, moisture by its sections, ovendry mass (kg).
SAMPLES = (("A", 0.66, 1.92), ("B", 0.58, 2.05), ("C", 0.71, 1.88), ("D", 0.62, 1.97))
THICKNESS_M = 0.0286
# A lot of the yard that the joinery waits for.
PROMISED, PROMISED_IN_DAYS = "ash-lot-01", 45


def load(demo: Demo) -> None:
    """A chamber, a lot of maple, the load, its samples and their weights, the chamber as it was read."""
    person = demo.people[2].person
    lot = Piece.objects.create(
        workshop=demo.workshop,
        tag="maple-lot-01",
        count=COUNT,
        species_key=SPECIES,
        thickness_m=THICKNESS_M,
        nominal="4/4",
        width_m=0.17,
        length_m=2.4,
        place=demo.made[STORE],
        added_by=person,
        added_at=demo.now - timedelta(days=DAYS + 1),
        has_sapwood=True,
    )
    chamber = Chamber.objects.create(
        workshop=demo.workshop,
        name="Lean-to kiln",
        kind="dehumidifier",
        load_m3=1.0,
        hottest_c=50.0,
        heat_kw=2.0,
        litres_a_day=24.0,
        plate_litres=24.0,
        long_m=2.7432,
        deep_m=1.524,
        high_m=1.6002,
        kwh_price=0.28,
    )
    began = demo.now - timedelta(days=DAYS)
    load = Load.objects.create(
        workshop=demo.workshop,
        tag="load-01",
        chamber=chamber,
        began_at=began,
        wanted=0.08,
        foretold_days=44.0,
        foretold_low=36.0,
        foretold_high=55.0,
        added_by=person,
    )
    LoadLot.objects.create(workshop=demo.workshop, load=load, piece=lot, start=0.64)
    species = species_named(SPECIES)
    figures = of_species(species)
    boards = [Followed(lot.tag, species, figures, THICKNESS_M, moisture, 1 / len(SAMPLES)) for _, moisture, _ in SAMPLES]
    core = chamber.core
    program = programs.program(species, THICKNESS_M, 0.64, 0.08, core)
    outdoors = climate.pattern("mild_inland").year.starting(began.timetuple().tm_yday - 1)
    ran = loads.run(boards, program, core, outdoors, pace=HIDDEN_PACE, days=DAYS + 0.5)
    weights = []
    for number, (tag, moisture, dry) in enumerate(SAMPLES):
        sample = Sample.objects.create(workshop=demo.workshop, load=load, tag=tag, piece=lot, dry_mass_kg=dry)
        weights.append(SampleWeight(workshop=demo.workshop, sample=sample, at=began, mass_kg=round(dry * (1 + moisture), 3), by=person))
        for day in range(1, DAYS):
            mass = dry * (1 + float(ran.means[number, day * 24 - 1])) + demo.chance.gauss(0, 0.002)
            weights.append(
                SampleWeight(workshop=demo.workshop, sample=sample, at=began + timedelta(days=day), mass_kg=round(mass, 3), by=person)
            )
    SampleWeight.objects.bulk_create(weights)
    keep_readings(
        [
            ChamberReading(
                workshop=demo.workshop,
                load=load,
                at=began + timedelta(hours=hour),
                dry_bulb_c=round(float(ran.temperature_c[hour]) + demo.chance.gauss(0, 0.2), 1),
                humidity=round(min(float(ran.humidity[hour]) + demo.chance.gauss(0, 0.005), 0.99), 3),
                power_kwh=round(float(ran.power_w[hour].sum()) * 2 / 1000, 2),
                water_kg=round(float(ran.water_kg_h[hour, 1]) * 2, 2),
            )
            for hour in range(0, DAYS * 24, 2)
        ]
    )
    opened = began + timedelta(days=4)
    LoadEvent.objects.create(
        workshop=demo.workshop, load=load, kind="opened", words="to weigh", by=person, at=opened, until=opened + timedelta(minutes=6)
    )
    waiting = Piece.objects.get(workshop=demo.workshop, tag=PROMISED)
    Promise.objects.create(
        workshop=demo.workshop, piece=waiting, day=(demo.now + timedelta(days=PROMISED_IN_DAYS)).date(), whom="the joinery", by=person
    )
    _over(demo, chamber)


def _over(demo: Demo, chamber: Chamber) -> None:
    """The load before: birch that had stood a summer, weighed every third day, with what came of it."""
    person, lot = demo.people[2].person, Piece.objects.get(workshop=demo.workshop, tag=BIRCH)
    began, ended = demo.now - timedelta(days=DOWN - 1), demo.now - timedelta(days=DOWN - 1 - BIRCH_DAYS)
    load = Load.objects.create(
        workshop=demo.workshop,
        tag="birch-load",
        chamber=chamber,
        began_at=began,
        ended_at=ended,
        wanted=0.08,
        foretold_days=15.0,
        foretold_low=12.0,
        foretold_high=19.0,
        out_m3=0.47,
        learnt="the compressor stood at its limit for the first two days",
        added_by=person,
    )
    LoadLot.objects.create(workshop=demo.workshop, load=load, piece=lot, runs=False, start=CAME[0], came=0.081, driest=0.076, wettest=0.087)
    weights = []
    for tag, dry, falls in (("A", 1.74, 0.0072), ("B", 1.81, 0.0066), ("C", 1.69, 0.0069)):
        sample = Sample.objects.create(workshop=demo.workshop, load=load, tag=tag, piece=lot, dry_mass_kg=dry)
        for day in range(0, BIRCH_DAYS + 1, 2):
            moisture = 0.08 + (CAME[0] - 0.08) * (1 - day / BIRCH_DAYS) ** 1.4 + falls * (0.5 if day else 1.0)
            weights.append(
                SampleWeight(
                    workshop=demo.workshop, sample=sample, at=began + timedelta(days=day), mass_kg=round(dry * (1 + moisture), 3), by=person
                )
            )
    SampleWeight.objects.bulk_create(weights)
    DegradeFound.objects.create(
        workshop=demo.workshop, load=load, kind="warp", boards=3, of_boards=48, where="in the top course", by=person
    )
