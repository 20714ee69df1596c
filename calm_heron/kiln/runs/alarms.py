"""What is wrong with a load that runs: by what was read of its chamber, by its samples, and by what nobody did."""

import itertools
from datetime import datetime, timedelta
from typing import TYPE_CHECKING, Any

from django.db.models import Avg
from django.utils import timezone

from calm_heron.kiln.models import ChamberHour, ChamberReading, Load
from wood.air.psychrometrics import Air
from wood.kiln.programs import Setting

if TYPE_CHECKING:
    from calm_heron.kiln.runs.running import LoadNow

# Nobody weighed for so long: that is missed.
WEIGHED_WITHIN = timedelta(hours=36)
# A chamber this far off what is set, °C and humidity, in its newest hour.
OFF_C, OFF_HUMIDITY, OFF_DRY = 5.0, 0.08, 0.10
# Air that drops this many times as much as it would between the boards goes round the load for a good part.
ROUND_FROM, LEAST_DROP_K = 1.5, 0.8
# And so many times as much where no air goes through it at all; or where it leaves nearly as cool as its wet bulb, by this share of the
# way, which air that moves never does (our judgement).
FANS_FROM, NEAR_WET_BULB, JUMP_C = 8.0, 0.8, 15.0
# So many of the newest readings and hours are looked at; hours that read alike to the last figure tell of a dead sensor; nobody is called
# within so short a silence.
LOOKED_AT, MOST_HOURS, STUCK_HOURS, LEAST_SILENCE = 24, 48, 4, timedelta(minutes=10)


def newest_air(load: Load) -> tuple[datetime, float, float] | None:
    """When the chamber was read last, and its dry bulb (°C) and humidity in the hour up to then; None where it never was."""
    last = load.air.order_by("-at").first()
    if last is None:
        return None
    mean = load.air.filter(at__gt=last.at - timedelta(hours=1)).aggregate(dry=Avg("dry_bulb_c"), humidity=Avg("humidity"))
    return last.at, mean["dry"], mean["humidity"]


def alarms(load: "LoadNow") -> list[tuple[str, dict[str, Any]]]:
    """What wants somebody, the gravest first."""
    if not load.load.runs:
        return []
    said = _of_the_chamber(load) if load.air is not None else []
    said += [("told", {"event": event}) for event in load.events if event.goes_on]
    said += [("too_fast", {"sample": sample}) for sample in load.samples if sample.too_fast]
    said += [("doubt", {"sample": sample}) for sample in load.samples if sample.doubt]

    newest = max((row.at for sample in load.samples for row in sample.sample.weights_in_order), default=None)
    if load.samples and newest is not None and timezone.now() - newest > WEIGHED_WITHIN:
        said.append(("missed", {"at": newest}))
    if not load.samples:
        said.append(("no_samples", {}))
    if load.setting is None:
        said.append(("done", {}))
    return said


def _of_the_chamber(load: "LoadNow") -> list[tuple[str, dict[str, Any]]]:
    """What is wrong with the chamber by what was read of it. What the newest readings show stands until newer ones show it gone, however
    old they grow."""
    assert load.air is not None
    at, dry, humidity = load.air
    newest = list(load.load.air.order_by("-at")[:LOOKED_AT])
    hours = list(load.load.hours.filter(count__gt=0).order_by("-hour")[:MOST_HOURS])
    said: list[tuple[str, dict[str, Any]]] = []
    fault = load.load.air.filter(at__gt=at - timedelta(hours=1)).exclude(fault="").order_by("-at").first()
    if fault is not None:
        said.append(("fault", {"words": fault.fault, "at": fault.at}))
    silent_after = _silent_after(newest)
    if silent_after is not None and timezone.now() - at > silent_after:
        said.append(("silent", {"at": at}))
    if load.setting is not None and load.day > 1.0:
        wrong = _off(dry, humidity, load.setting)
        if wrong:
            data = {"dry_c": dry, "humidity": humidity, "setting": load.setting, "since": _since(hours, wrong, load.setting)}
            data["kind"] = load.load.chamber.kind
            said.append((wrong, {"at": at} | data))
    before = newest[1] if len(newest) > 1 else None
    if before is not None and at - before.at < timedelta(minutes=15) and abs(newest[0].dry_bulb_c - before.dry_bulb_c) > JUMP_C:
        said.append(("jump", {"from_c": before.dry_bulb_c, "to_c": newest[0].dry_bulb_c, "at": at}))
    stuck = _same_since(hours)
    if stuck is not None:
        said.append(("stuck", {"since": stuck}))
    said += _of_its_air(load, newest)
    return said


def _off(dry: float, humidity: float, setting: Setting) -> str:
    """How the chamber is off what is set, as an alarm's code; empty: it is not."""
    if abs(dry - setting.dry_bulb_c) > OFF_C:
        return "off"
    if setting.humidity - humidity > OFF_DRY:
        return "too_dry"
    return "off" if humidity - setting.humidity > OFF_HUMIDITY else ""


def _since(hours: list[ChamberHour], wrong: str, setting: Setting) -> datetime | None:
    """Since when hours in a row were off in the same way; None where only the newest readings are. An hour within counts only where two
    are: what is off goes on through a short return."""
    since: datetime | None = None
    within = 0
    for hour in hours:
        if _off(hour.dry_bulb_c, hour.humidity, setting) == wrong:
            since, within = hour.hour, 0
        else:
            within += 1
            if within == 2:
                break
    return since


def _silent_after(newest: list[ChamberReading]) -> timedelta | None:
    """How long nothing may be heard: three of the usual intervals between readings; None where too few were taken to say."""
    gaps = sorted(later.at - earlier.at for later, earlier in itertools.pairwise(newest))
    return max(3 * gaps[len(gaps) // 2], LEAST_SILENCE) if len(gaps) >= 4 else None


def _same_since(hours: list[ChamberHour]) -> datetime | None:
    """Since when hours in a row have read exactly the same, where there are several with several readings each."""
    if not hours:
        return None
    first = hours[0]

    def is_alike(hour: ChamberHour) -> bool:
        return abs(hour.dry_bulb_c - first.dry_bulb_c) < 1e-6 and abs(hour.humidity - first.humidity) < 1e-6

    alike = list(itertools.takewhile(is_alike, hours))
    # An hour that has only begun, or was read once, tells nothing by itself.
    return alike[-1].hour if sum(hour.count >= 2 for hour in alike) >= STUCK_HOURS else None


def _of_its_air(load: "LoadNow", newest: list[ChamberReading]) -> list[tuple[str, dict[str, Any]]]:
    """What the cooling of the air on its way through the load says, by the newest reading of it: some of it goes round the load, or nothing
    moves it. Nothing where little is cooled, or as much as the water that is given off explains."""
    last = next((row for row in newest if row.leaving_c is not None), None)
    if last is None or last.leaving_c is None:
        return []
    hour = min(max(int((last.at - load.load.followed_from).total_seconds() / 3600), 0), load.forecast.ran.hours - 1)
    expected, measured = max(load.forecast.ran.drop_k(hour), 0.1), last.dry_bulb_c - last.leaving_c
    times = measured / expected
    if measured < LEAST_DROP_K or times < ROUND_FROM:
        return []
    air = Air(min(last.dry_bulb_c, 110.0), min(max(last.humidity, 0.01), 1.0))
    if times >= FANS_FROM or measured >= NEAR_WET_BULB * (air.temperature_c - air.wet_bulb_c):
        return [("fans", {"times": times})]
    return [("round", {"share": 1 - 1 / times})]
