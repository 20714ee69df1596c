"""What a logger's file was taken for, and what is wrong with it, in words."""

from collections import defaultdict

from calm_heron.air.logger_actions import moment_of
from calm_heron.site.dates import moment
from calm_heron.site.numbers import counted
from wood.air.logger_files import FaultKind, LoggerFault, LoggerLayout


def columns(layout: LoggerLayout) -> list[tuple[str, str]]:
    """What each of the three was read from."""

    def name(column: int) -> str:
        named = layout.names[column] if column < len(layout.names) else ""
        return f"“{named}”" if named else f"column {column + 1}"

    degrees = "Fahrenheit" if layout.fahrenheit else "Celsius"
    order = {"ymd": "year, month, day", "dmy": "day, month, year", "mdy": "month, day, year"}[layout.order]
    return [
        ("Time", f"{' and '.join(name(column) for column in layout.time_columns)}, days as {order}"),
        ("Temperature", f"{name(layout.temperature_column)}, in {degrees}"),
        ("Humidity", f"{name(layout.humidity_column)}, {'from 0 to 1' if layout.is_fraction else 'in percent'}"),
    ]


def _hours(fault: LoggerFault) -> str:
    return counted(round(fault.hours / 24), "day") if fault.hours >= 48 else counted(max(round(fault.hours), 1), "hour")


def said_faults(faults: list[LoggerFault]) -> list[str]:
    """One sentence a kind: how many there are, and the worst of them."""
    by_kind = defaultdict(list)
    for fault in faults:
        by_kind[fault.kind].append(fault)
    said = []
    for kind, found in by_kind.items():
        worst, since = found[0], moment(moment_of(found[0].begins))
        more = f" ({len(found)} times; this was the longest)" if len(found) > 1 else ""
        if kind == FaultKind.GAP:
            said.append(f"It recorded nothing for {_hours(worst)} from {since}{more}.")
        elif kind == FaultKind.STUCK:
            said.append(f"It showed the very same for {_hours(worst)} from {since}{more}: its sensor may be stuck.")
        else:
            times = counted(len(found), "time")
            said.append(f"It jumped {times} as no air does, first on {since}: it was moved, held in a hand, or is failing.")
    return said
