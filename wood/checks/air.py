"""Climates and rooms against published equilibrium moistures."""

import numpy as np

from wood.air import climate, rooms
from wood.air.climate import MONTH_DAYS, AirSeries, pattern
from wood.air.rooms import DWELLING, Room
from wood.checks.tables import FITTED, HELD_OUT, Check, Table


def _monthly(series: AirSeries) -> np.ndarray:
    return np.bincount(np.repeat(np.arange(12), MONTH_DAYS), series.settling) / np.array(MONTH_DAYS)


def climates() -> Table:
    """Patterns against the published places they were drawn after: the year within half a point, each month within one."""
    result = []
    places = climate.published_places().values()
    for key, climate_of_kind in climate.patterns().items():
        typical = np.array([place.monthly_emc for place in places if place.kind == key and place.typical])
        if not typical.size:
            continue
        off = (climate_of_kind.monthly_emc - typical.mean(axis=0)) * 100
        result.append(Check(f"{climate_of_kind.name}: year", float(off.mean()), -0.5, 0.5, "points", FITTED))
        result.append(Check(f"{climate_of_kind.name}: farthest month", float(off[np.abs(off).argmax()]), -1.0, 1.0, "points", FITTED))
        settles = (_monthly(climate_of_kind.year) - climate_of_kind.monthly_emc) * 100
        result.append(
            Check(f"{climate_of_kind.name}: hours against months", float(settles[np.abs(settles).argmax()]), -0.3, 0.3, "points", HELD_OUT)
        )
    return Table("Outdoor climates", "FPL-RN-0268, EMC of the month's means", tuple(result))


def interiors() -> Table:
    """Houses of the three published interior regions, and a workshop held by machines."""
    cooled = Room(20.0, cooled_to_c=25.0)
    houses = (
        ("Long cold winter, heated", "cold_winter", DWELLING, 8.0),
        ("Four seasons, heated and cooled", "four_seasons", cooled, 8.0),
        ("Hot desert, heated", "hot_desert", DWELLING, 6.0),
        ("High cold desert, heated and cooled", "high_desert", cooled, 6.0),
        ("Warm and humid, not cooled", "warm_humid", DWELLING, 11.0),
    )
    result = []
    for name, key, house, average in houses:
        months = _monthly(rooms.room(pattern(key).year, house)) * 100
        result.append(Check(f"{name}: year's mean", float(months.mean()), average - 1, average + 1, "%", FITTED))
        result.append(Check(f"{name}: dampest month", float(months.max()), 0, 13.0, "%", FITTED))
    winter = _monthly(rooms.room(pattern("cold_winter").year, DWELLING)) * 100
    result.append(Check("Long cold winter, heated: driest month", float(winter.min()), 4.0, 5.5, "%", FITTED))
    shop = _monthly(rooms.room(pattern("cold_winter").year, Room(21.1, 0.001, 0.32, 0.43, cooled_to_c=24.0))) * 100
    result.append(Check("Workshop held at 32-43% RH: winter", float(shop[[0, 1, 11]].mean()), 6.2, 6.9, "%", HELD_OUT))
    result.append(Check("Workshop held at 32-43% RH: summer", float(shop[5:8].mean()), 7.7, 8.5, "%", HELD_OUT))
    return Table("Air indoors", "Wood Handbook ch. 13, averages of interiors by region", tuple(result))
