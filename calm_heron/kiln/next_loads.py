"""What goes in next: loads planned over a season from the lots that wait, by which woods go together, and how long each keeps the
chamber.
"""

from dataclasses import dataclass
from datetime import date, timedelta
from math import ceil
from typing import Any

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import render
from django.urls import reverse
from django.views.decorators.http import require_POST

from calm_heron.drying import queries as drying
from calm_heron.kiln import actions, planning
from calm_heron.kiln.models import Chamber, Load, LoadLot, Promise
from calm_heron.kiln.runs import running as at_work
from calm_heron.kiln.runs.run_forms import PromiseForm
from calm_heron.site.dates import full_day
from calm_heron.site.memory import Memory, digest_of
from calm_heron.site.numbers import percent
from calm_heron.stock.models import Piece, Status
from calm_heron.workshops.doors import WorkshopRequest, in_workshop, once_or_again
from calm_heron.workshops.models import Role
from wood.air.climate import AirSeries
from wood.errors import NotKnown, OutOfRange
from wood.kiln import programs
from wood.kiln.loads import run
from wood.kiln.sharing import Lot, boards_of, lead_first, leading, program_of

WANTED = 0.08
# Wood drier than this needs no kiln; a day for taking out and putting in.
WAITS_ABOVE, TURN_ROUND_DAYS = 0.12, 1
MOST_LOTS, NEAR_SEVERITY, NEAR_THICKNESS_M = 30, 0.035, 0.004


@dataclass(frozen=True)
class PlannedLoad:
    """A load of the season: its lots, from when to when it keeps the chamber, how many days, and the earliest day one of its lots is
    promised for.
    """

    lots: tuple[Lot, ...]
    begins: date
    ends: date
    days: float
    volume_m3: float
    promised: date | None

    @property
    def out(self) -> date:
        """The day its wood is there: before the day that putting in the next one takes."""
        return self.ends - timedelta(days=TURN_ROUND_DAYS)

    @property
    def late_days(self) -> int:
        """How many days after it was promised it comes out; none where it is in time."""
        return max((self.out - self.promised).days, 0) if self.promised else 0


_days: Memory[float] = Memory(256)


def waiting(workshop: Any) -> list[Lot]:
    """The lots that wait for a kiln: in stock, sawn, not in a load, wetter than a room would have them."""
    taken = LoadLot.objects.of(workshop).filter(runs=True).values_list("piece", flat=True)
    rows = (
        Piece.objects.of(workshop)
        .filter(status=Status.IN_STOCK, count__gt=1, lot=None)
        .exclude(pk__in=taken)
        .order_by("tag")[: MOST_LOTS * 2]
    )
    results = []
    for piece in rows:
        if not piece.traits.is_sawn:
            continue
        try:
            lot = planning.lot_of(piece, None)
            programs.schedule_of(lot.species, lot.thickness_m)
        except (OutOfRange, NotKnown):
            continue
        if lot.start > WAITS_ABOVE:
            results.append(lot)
    return results[:MOST_LOTS]


def grouped(lots: list[Lot], capacity_m3: float) -> list[list[Lot]]:
    """Lots that go together, as far as the chamber holds them: alike in their schedules' severity and in thickness; the wettest first."""
    groups: list[list[Lot]] = []
    for lot in sorted(lots, key=lambda lot: (-lot.start, lot.name)):
        hard = programs.severity(programs.schedule_of(lot.species, lot.thickness_m)[0])
        for group in groups:
            first = group[0]
            alike = abs(programs.severity(programs.schedule_of(first.species, first.thickness_m)[0]) - hard) <= NEAR_SEVERITY
            room = sum(item.volume_m3 for item in group) + lot.volume_m3 <= capacity_m3 * 1.02
            if (
                alike
                and room
                and abs(first.thickness_m - lot.thickness_m) <= NEAR_THICKNESS_M
                and abs(first.start - lot.start) < max(0.3 * first.start, 0.08)
            ):
                group.append(lot)
                break
        else:
            groups.append([lot])
    return groups


def planned(workshop: Any, chamber: Chamber, begin: date, outdoors: AirSeries) -> list[PlannedLoad]:
    """Loads one after the other, the earliest promised first (no order makes the latest of them less late), then the wettest; a lot larger
    than the chamber takes as many turns as it needs."""
    results, day = [], begin
    due = dict(Promise.objects.of(workshop).values_list("piece__tag", "day"))

    def promised(group: list[Lot]) -> date | None:
        return min((due[lot.name] for lot in group if lot.name in due), default=None)

    for group in sorted(grouped(waiting(workshop), chamber.load_m3), key=lambda item: promised(item) or date.max):
        volume = sum(lot.volume_m3 for lot in group)
        turns = max(1, -(-int(volume * 1000) // int(max(chamber.load_m3 * 1020, 1))))
        days = _keeps(group, chamber, outdoors)
        for _ in range(turns):
            ends = day + timedelta(days=ceil(days) + TURN_ROUND_DAYS)
            results.append(PlannedLoad(tuple(group), day, ends, days, volume / turns, promised(group)))
            day = ends
    return results


def _keeps(group: list[Lot], chamber: Chamber, outdoors: AirSeries) -> float:
    """How long a load keeps the chamber, days; a year where it never is done."""

    def make() -> float:
        core = planning.filled(chamber.core, min(sum(lot.volume_m3 for lot in group), chamber.load_m3))
        ordered = lead_first(group)
        boards = boards_of(ordered)
        ran = run(boards, program_of(ordered, WANTED, core), core, outdoors, leading=leading(boards))
        return float(min(ran.days, 365.0))

    return _days.get(digest_of((tuple(group), chamber.core, outdoors)), make)


@in_workshop()
def season(request: WorkshopRequest) -> HttpResponse:
    """What goes in next?"""
    return render(request, "kiln/season.html", _shown(request, PromiseForm(membership=request.membership)))


@require_POST
@in_workshop(write=Role.MAKER)
def promise(request: WorkshopRequest) -> HttpResponse:
    """Lots are promised by a day, or no more."""
    form = PromiseForm(request.POST, membership=request.membership)
    if form.is_valid():
        typed = form.cleaned_data

        def act() -> str:
            actions.promise(request.membership, typed["lots"], typed["day"], typed["whom"].strip())
            tags = ", ".join(piece.tag for piece in typed["lots"])
            messages.success(request, f"Promised: {tags}." if typed["day"] else f"Promised no more: {tags}.")
            return reverse("kiln_season", args=[request.workshop.slug])

        answer = once_or_again(request, form, act)
        if answer is not None:
            return answer
    return render(request, "kiln/season.html", _shown(request, form), status=422)


def _out(now: at_work.LoadNow) -> date:
    """The day a running load is out, as its weighings have it; a year on where it never is done."""
    return drying.today() + timedelta(days=ceil(min(now.ends_in_days, 365.0)))


def _other_promises(workshop: Any, planned_tags: set[str]) -> list[tuple[Promise, Load | None, date | None]]:
    """Promises of lots that no planned load has: with the load that they are in, and when that is out, where they are in one."""
    results: list[tuple[Promise, Load | None, date | None]] = []
    rows = Promise.objects.of(workshop).filter(piece__status=Status.IN_STOCK).exclude(piece__tag__in=planned_tags)
    for row in rows.select_related("piece").order_by("day", "piece__tag"):
        inside = row.piece.in_loads.filter(runs=True).select_related("load").first()
        load = inside.load if inside else None
        now = at_work.now(load) if load else None
        out = _out(now) if now is not None else None
        results.append((row, load, out))
    return results


def _shown(request: WorkshopRequest, form: PromiseForm) -> dict[str, Any]:
    chambers = planning.chambers_of(request.workshop)
    chosen = request.GET.get("chamber", "")
    chamber = next((item for item in chambers if str(item.pk) == chosen), chambers[0] if chambers else None)
    page: dict[str, Any] = {"chambers": chambers, "chamber": chamber, "form": form}
    if chamber is not None:
        around = planning.outdoors_of(request.workshop, drying.today())
        running = chamber.kiln_loads.filter(ended_at=None).first()
        begin = drying.today()
        if running is not None:
            now = at_work.now(running)
            if now is not None:
                begin = _out(now) + timedelta(days=TURN_ROUND_DAYS)
        page["rows"] = [
            {
                "lots": [(lot.name, percent(lot.start, 0)) for lot in item.lots],
                "tags": ",".join(lot.name for lot in item.lots),
                "begins": full_day(item.begins),
                "days": f"{item.days:.0f}",
                "volume": item.volume_m3,
                "promised": full_day(item.promised) if item.promised else "",
                "late": item.late_days,
                "out": full_day(item.out),
            }
            for item in planned(request.workshop, chamber, begin, around.setting.series)
        ]
        planned_tags = {name for row in page["rows"] for name, _ in row["lots"]}
        page["others"] = [
            {"promise": row, "load": load, "out": full_day(out) if out else "", "late": max((out - row.day).days, 0) if out else 0}
            for row, load, out in _other_promises(request.workshop, planned_tags)
        ]
        page["running"], page["any_promised"] = running, any(row["promised"] for row in page["rows"])
    return page
