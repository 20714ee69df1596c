"""A workshop full of simulated devices: made with its places, boards, loads and tokens, and afterwards held against what was true.

``python -m command.simulated_shop make`` and ``… check FOLDER`` work in the database of an installation that the environment names;
``./heron simulate week`` runs both. The suite takes an hour of it.
"""

import json
import sys
from dataclasses import dataclass, field
from datetime import datetime, timedelta
from pathlib import Path
from typing import Any

import numpy as np

from simulators.reporting import BATCH
from simulators.truths import settles_in

SHOP, PERSON = "Simulated shop", "simulated@example.org"


@dataclass(frozen=True)
class Standing:
    """A device that was let in: its name, the words that start its stand-in, its token, and how it fails."""

    name: str
    words: list[str]
    token: str
    fails: str = ""


@dataclass
class Row:
    """What one device came to: what it told, what is there, and what is wrong with that (empty: nothing)."""

    name: str
    told: int
    there: int
    said: str
    wrong: list[str] = field(default_factory=list)


# Name, kind of place, what it is like, and how it fails.
AIRS = (
    ("Bench room", "room", "room", ""),
    ("Store", "store", "store", "offline"),
    ("Loft", "room", "room", "battery"),
    ("Cellar", "store", "store", "stuck"),
    ("Attic", "room", "room", "clock"),
    ("Shed", "store", "store", "drift"),
)
PIN_BOARDS = {"oak-a": ("white_oak", 27, 17.0), "ash-a": ("white_ash", 27, 12.0)}
PINLESS_BOARDS, PROBE_BOARDS = {"cherry-a": ("black_cherry", 27, 11.0)}, {"walnut-a": ("black_walnut", 50, 16.0)}
BOWL, SAMPLE = ("bowl-a", "sugar_maple", 250, 25), ("A", "sugar_maple", 28.6, 66.0, 1900.0)


def owner() -> Any:
    """Who owns a new workshop for simulated devices."""
    from calm_heron.people.actions import found_workshop
    from calm_heron.workshops.models import Membership, Person

    person = Person.objects.create_user(email=PERSON, name="Simulated person")
    shop = found_workshop(person, SHOP, "metric")
    return Membership.objects.select_related("workshop", "person").get(workshop=shop, person=person)


def stand(by: Any, begins: datetime) -> list[Standing]:
    """Everything that the devices speak for, and the devices.

    Args:
        by: who owns the workshop; begins: when the week began, before now.
    """
    from calm_heron.air.actions import add_place
    from calm_heron.devices.actions import let_in
    from calm_heron.kiln import actions as kiln
    from calm_heron.kiln.models import Chamber
    from calm_heron.measuring.kinds import MeterKind
    from calm_heron.measuring.models import Meter
    from calm_heron.stock.actions import add_piece
    from calm_heron.stock.models import Piece

    standing: list[Standing] = []

    def device(name: str, kind: str, about: int, words: str, fails: str = "", instrument: int | None = None) -> None:
        _, token = let_in(by, name, kind, about, instrument)
        options = (
            [*words.split(), "--seed", str(len(standing) + 1)] if kind in ("air", "weather", "pin", "pinless", "probe") else words.split()
        )
        standing.append(Standing(name, options + (["--fail", fails] if fails else []), token, fails))

    for name, kind, like, fails in AIRS:
        place = add_place(by, name, kind, 0.03)
        device(name, "air", place.pk, f"hygrometer --like {like}", fails)
    device("Yard", "weather", add_place(by, "Yard", "yard", 0.03).pk, "weather")

    pins = Meter.objects.create(workshop=by.workshop, name="Pins", kind=MeterKind.PIN, tolerance=0.005)
    plate = Meter.objects.create(workshop=by.workshop, name="Plate", kind=MeterKind.PINLESS, tolerance=0.005)
    for boards in (PIN_BOARDS, PINLESS_BOARDS, PROBE_BOARDS):
        for tag, (species, thickness_mm, _) in boards.items():
            add_piece(by, species, tag=tag, thickness_m=thickness_mm / 1000, width_m=0.2, length_m=2.4)

    def named(boards: dict[str, tuple[str, int, float]]) -> str:
        return " ".join(f"--board {tag}={species}:{thick}:{wet:g}" for tag, (species, thick, wet) in boards.items())

    probed = Piece.objects.of(by.workshop).get(tag="walnut-a")
    device("Pins", "pin", pins.pk, f"pin {named(PIN_BOARDS)} --every 120")
    device("Plate", "pinless", plate.pk, f"pinless {named(PINLESS_BOARDS)} --every 240")
    device("Probe", "probe", probed.pk, f"probe {named(PROBE_BOARDS)}", instrument=pins.pk)

    for name, sampled in (("Controlled kiln", False), ("Weighed kiln", True)):
        chamber = Chamber.objects.create(
            workshop=by.workshop, name=name, kind="dehumidifier", load_m3=1.0, hottest_c=50.0, heat_kw=2.0, litres_a_day=24.0
        )
        lot = add_piece(by, "sugar_maple", tag=f"lot-{name[0].lower()}", count=60, thickness_m=0.0286, width_m=0.2, length_m=2.4)
        load = kiln.begin_load(by, [(lot, 0.64)], chamber, begins, wanted=0.08)
        if sampled:
            tag, wood, thick_mm, wet, dry_g = SAMPLE
            kiln.add_sample(by, load, tag, lot, dry_g / 1000 * (1 + wet / 100), wet / 100, begins)
            device("Sample scale", "samples", chamber.pk, f"scale --sample {tag}={wood}:{thick_mm}:{wet:g}:{dry_g:g} --days 1 2 4 6")
        else:
            device("Controller", "kiln", chamber.pk, "kiln --seconds-an-hour 0")
    tag, species, wide_mm, wall_mm = BOWL
    add_piece(by, species, tag=tag, kind="bowl", seasoning="green", thickness_m=wall_mm / 1000, width_m=wide_mm / 1000, length_m=0.1)
    device("Bowl scale", "scale", 0, f"scale --bowl {tag}={species}:{wide_mm}:{wall_mm} --days 0 1 2 3 5 6.5")
    return standing


def held_against(by: Any, standing: list[Standing], truths: dict[str, list[dict[str, Any]]]) -> list[Row]:
    """What each device came to, by what its stand-in wrote down as true (a line for each reading, in the order in which it told them)."""
    from calm_heron.devices.models import Device, Received

    rows = []
    for item in standing:
        truth = truths.get(item.name, [])
        device = Device.objects.of(by.workshop).get(name=item.name)
        kept = {line["key"] for line in truth if line["kept"]}
        there = list(Received.objects.filter(device=device).values_list("key", flat=True))
        wrong = [] if kept == set(there) and len(there) == len(kept) else [f"{len(kept)} were acknowledged, {len(there)} are known"]
        stored, said, more = _HELD[device.kind](by, item, device, [line for line in truth if line["kept"]])
        if stored != len(kept):
            wrong.append(f"{stored} rows for {len(kept)} readings")
        rows.append(Row(item.name, len(truth), stored, said, wrong + more))
    return rows


def _air(by: Any, item: Standing, device: Any, truth: list[dict[str, Any]]) -> tuple[int, str, list[str]]:
    """Moments and values as they were, the level of the place within its doubt, and what is wrong with the instrument seen."""
    from calm_heron.air import queries
    from calm_heron.air.models import AirReading
    from wood.air import sorption

    rows = list(AirReading.objects.of(by.workshop).filter(told_by=item.name).order_by("at"))
    wrong = []
    # A wrong clock is put right once three batches agree about it; what came before them stays as its clock had it.
    moments = [datetime.fromisoformat(line["at"]) for line in truth]
    if item.fails != "clock" and {row.at for row in rows} != set(moments):
        wrong.append("moments are others than those of the readings")
    # How far it is off is known as well as its batches are quick to come; where they had to be sent again that is some seconds.
    seconds = {round(row.at.timestamp()) + off for row in rows for off in range(-15, 16)}
    put_right = sum(round(at.timestamp()) in seconds for at in moments)
    if item.fails == "clock" and len(truth) > 1000 and put_right < len(truth) - 2 * BATCH:
        wrong.append(f"only {put_right} of {len(truth)} moments were put right")
    level = queries.levels(by.workshop.pk).get(device.about)
    true = np.array([[line["temperature_c"], line["humidity"]] for line in truth])
    wanted = float(sorption.emc(*settles_in(true[:, 0], true[:, 1]))) if len(true) else 0.0
    said = f"settles at {100 * level.emc:.1f} ± {100 * level.tolerance:.1f}%, truly {100 * wanted:.1f}%" if level else "no level"
    if item.fails in ("", "offline", "clock", "battery") and level and abs(level.emc - wanted) > level.tolerance:
        wrong.append("the level is off by more than its doubt")
    troubles = [trouble.kind.value for trouble in device.troubles()]
    # What an instrument that drifts does cannot be seen without another beside it.
    expected = {"battery": ["silent"], "stuck": ["stuck"]}.get(item.fails, [])
    long = bool(truth) and moments[-1] - moments[0] > timedelta(days=3)
    if long and troubles != expected:
        wrong.append(f"is taken to be {', '.join(troubles) or 'well'}")
    return len(rows), said + (f"; {', '.join(troubles)}" if troubles else ""), wrong


def _wood(by: Any, item: Standing, device: Any, truth: list[dict[str, Any]]) -> tuple[int, str, list[str]]:
    """What each board is said to hold, within its doubt."""
    from calm_heron.measuring.models import PieceMoisture, Reading

    count = Reading.objects.of(by.workshop).standing().filter(told_by=item.name).count()
    said, wrong = [], []
    for tag, true in truth[-1].items() if truth else []:
        if tag in ("key", "at", "kept"):
            continue
        row = PieceMoisture.objects.filter(piece__workshop=by.workshop, piece__tag=tag).first()
        if row is None and len(truth) < len(truth[-1]) - 3:
            # Within an hour it does not come round to all of them.
            continue
        if row is None:
            wrong.append(f"nothing is known of {tag}")
            continue
        doubt = row.estimate().uncertainty
        said.append(f"{tag} {100 * row.mean:.1f} ± {100 * doubt:.1f}%, truly {100 * true:.1f}%")
        if abs(row.mean - true) > doubt:
            wrong.append(f"{tag} is off by more than its doubt")
    return count, "; ".join(said), wrong


def _kiln(by: Any, item: Standing, device: Any, truth: list[dict[str, Any]]) -> tuple[int, str, list[str]]:
    from calm_heron.kiln.models import ChamberHour, ChamberReading

    count = ChamberReading.objects.of(by.workshop).filter(load__chamber=device.about).count()
    summed = sum(ChamberHour.objects.filter(load__chamber=device.about).values_list("count", flat=True))
    return count, f"{summed} readings in its hours", [] if summed == count else [f"{summed} are summed up, {count} are kept"]


def _samples(by: Any, item: Standing, device: Any, truth: list[dict[str, Any]]) -> tuple[int, str, list[str]]:
    from calm_heron.kiln.models import Load, SampleWeight
    from calm_heron.kiln.runs import running

    # Its first weight was kept with the sample itself.
    count = SampleWeight.objects.of(by.workshop).filter(sample__load__chamber=device.about).count() - 1
    if not truth:
        return count, "", []
    now = running.now(Load.objects.of(by.workshop).get(chamber=device.about, ended_at=None))
    true = truth[-1][SAMPLE[0]] / (SAMPLE[4] / 1000) - 1
    known = (now.samples[0].now if now else None) or 0.0
    wrong = [] if abs(known - true) < 0.01 else ["the sample is off by more than a point"]
    return count, f"{SAMPLE[0]} {100 * known:.1f}%, truly {100 * true:.1f}%", wrong


def _bowl(by: Any, item: Standing, device: Any, truth: list[dict[str, Any]]) -> tuple[int, str, list[str]]:
    from calm_heron.stock.models import Piece
    from calm_heron.turning.shelf import weighing

    bowl = Piece.objects.of(by.workshop).get(tag=BOWL[0])
    entries = weighing.entries_of(bowl)
    off = max((abs(entry.mass_kg / line[BOWL[0]] - 1) for entry, line in zip(entries, truth, strict=False)), default=0.0)
    return len(entries), f"weights off by {100 * off:.1f}% at most", [] if off < 0.01 else ["a weight is not what was told"]


_HELD = {"air": _air, "weather": _air, "pin": _wood, "pinless": _wood, "probe": _wood, "kiln": _kiln, "samples": _samples, "scale": _bowl}


def _main(what: str, folder: Path, hours: float) -> None:
    """``make`` writes who stands there into the folder; ``check`` reads truths from it and prints a row of JSON for each."""
    from dataclasses import asdict

    from command.application import point_at
    from command.cluster import Cluster

    with Cluster("work").running_or_started() as cluster:
        point_at(cluster)
        import django

        django.setup()
        from django.utils import timezone

        from calm_heron.workshops.models import Membership

        file = folder / "standing.json"
        if what == "make":
            standing = stand(owner(), timezone.now() - timedelta(hours=hours))
            file.write_text(json.dumps([asdict(item) for item in standing]), encoding="utf-8")
            return
        by = Membership.objects.select_related("workshop", "person").get(person__email=PERSON)
        standing = [Standing(**item) for item in json.loads(file.read_text(encoding="utf-8"))]
        truths = {
            item.name: [json.loads(line) for line in path.read_text(encoding="utf-8").splitlines()]
            for item in standing
            if (path := folder / f"{item.name}.truth").exists()
        }
        for row in held_against(by, standing, truths):
            print(json.dumps(asdict(row)))


if __name__ == "__main__":
    _main(sys.argv[1], Path(sys.argv[2]), float(sys.argv[3]) if len(sys.argv) > 3 else 168.0)
