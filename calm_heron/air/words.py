"""The log of the air in words."""

from typing import Any

from calm_heron.air.models import YearSource
from calm_heron.plugs import Sentence
from calm_heron.site.numbers import counted, points, signed
from wood.air.hygrometers import HOUSEHOLD_SALTS
from wood.units import System
from wood.written import written_temperature


def _read(data: Any, system: System) -> str:
    air = f"{written_temperature(data['temperature_c'], system)}, {points(data['relative_humidity'], 0)}% RH"
    return f"{data['subject']}: {air}, EMC {points(data['emc'])} ± {points(data['tolerance'])}%"


def _corrected(data: Any, system: System) -> str:
    before = data["before"]
    was = f"{written_temperature(before['temperature_c'], system)}, {points(before['relative_humidity'], 0)}% RH"
    now = f"{written_temperature(data['temperature_c'], system)}, {points(data['relative_humidity'], 0)}% RH"
    return f"{data['subject']}: {was} corrected to {now}, EMC {points(before['emc'])} to {points(data['emc'])}%"


def _year(data: Any, system: System) -> str:
    return f"Usual year of {data['subject']}: {' '.join(filter(None, (YearSource(data['source']).label, data['words'])))}"


def _checked(data: Any, system: System) -> str:
    return (
        f"{data['subject']} checked over {HOUSEHOLD_SALTS.get(data['salt'], data['salt'])}: showed {points(data['shown'], 0)}%, "
        f"should show {points(data['expected'])}%; offset {signed(data['offset'])}"
        + (f"; {data['corrected']} of its readings entered anew with it" if data.get("corrected") else "")
    )


LOG: dict[str, Sentence] = {
    "place_added": "New place: {subject}",
    "place_changed": "Place changed: {subject}",
    "place_retired": "Place retired: {subject}",
    "place_again": "Place in use again: {subject}",
    "air_read": _read,
    "air_corrected": _corrected,
    "air_put_back": lambda data, system: f"{data['subject']}: a reading of EMC {points(data['emc'])}% put back",
    "air_taken_out": lambda data, system: f"{data['subject']}: a reading of EMC {points(data['emc'])}% struck out",
    "logger_saved": lambda data, system: f"{data['subject']}: {counted(data['count'], 'reading')} of a logger saved, {data['name']}",
    "logger_struck": lambda data, system: f"{data['subject']}: {counted(data['count'], 'reading')} of a logger struck out, {data['name']}",
    "logger_put_back": lambda data, system: f"{data['subject']}: {counted(data['count'], 'reading')} of a logger put back, {data['name']}",
    "year_given": _year,
    "hygrometer_added": "New hygrometer: {subject}",
    "hygrometer_checked": _checked,
}
