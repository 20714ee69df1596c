"""The parts of a build as they were made, their first year where they live, and what was measured of them later."""

from dataclasses import dataclass
from datetime import date

from django.db import transaction
from django.utils import timezone

from calm_heron.builds.kinds import FitKind
from calm_heron.builds.models import Build, BuildPart, MeasuredLater, PartAsMade
from calm_heron.builds.readiness import BuildState, PartState, Sizing, about_of
from calm_heron.logbook import actions as log
from calm_heron.movement.things.queries import course_of, figures_of
from calm_heron.workshops.models import Membership, Role
from calm_heron.workshops.refusals import Refused, require
from wood.air.climate import YEAR_DAYS
from wood.builds import first_year
from wood.builds.first_year import Against, Finding, FirstYear, MadePart, Measured
from wood.builds.sizes import Fit
from wood.errors import NotKnown, OutOfRange
from wood.movement import shrinkage

# So much is kept of what was measured of one build.
MOST_MEASURED = 2000


@dataclass(frozen=True)
class FollowedPart:
    """A part of a build that was made, or as it would be made today: its first year, or why that is not known, and what was measured of it
    since, each with how it stands to its forecast (None: before it was made, or nothing to hold it against)."""

    part: BuildPart
    moisture: float | None
    year: FirstYear | None
    unknown: str
    measured: tuple[tuple[MeasuredLater, Against | None], ...] = ()

    @property
    def newest(self) -> tuple[MeasuredLater, Against] | None:
        """The newest of its measurements that can be held against a forecast."""
        return next(((row, against) for row, against in reversed(self.measured) if against is not None), None)


@dataclass(frozen=True)
class BuildYear:
    """A build through its first year: since when, and its parts; ``is_made`` is false where it is reckoned as if it were made today."""

    build: Build
    since: date
    is_made: bool
    parts: tuple[FollowedPart, ...]
    sizing: Sizing

    @property
    def known(self) -> list[FollowedPart]:
        return [part for part in self.parts if part.year is not None]


def follow(state: BuildState) -> BuildYear:
    """A build through its first year: as its parts were when it was made, or as they would be today."""
    build = state.build
    since, sizing = build.done_on or state.today, Sizing(build, state.about)
    rows = {row.part_id: row for row in PartAsMade.objects.filter(part__build=build)} if build.done_on else {}
    measured: dict[int, list[MeasuredLater]] = {}
    for row in MeasuredLater.objects.filter(part__build=build, struck=False) if build.done_on else ():
        measured.setdefault(row.part_id, []).append(row)
    parts = tuple(_followed(each, rows.get(each.part.pk), measured.get(each.part.pk, []), since, sizing) for each in state.parts)
    return BuildYear(build, since, build.done_on is not None, parts, sizing)


def _followed(state: PartState, row: PartAsMade | None, measured: list[MeasuredLater], since: date, sizing: Sizing) -> FollowedPart:
    part = state.part
    moisture = state.moisture if row is None else row.moisture

    def unknown(why: str) -> FollowedPart:
        return FollowedPart(part, moisture, None, why, tuple((item, None) for item in measured))

    if sizing.home is None:
        return unknown(f"The year of {sizing.build.place.name} is not known yet.")
    if moisture is None:
        return unknown("Nobody knows what its wood was at." if sizing.build.done_on else "Its wood was not read yet.")
    width = row.width_m if row is not None else state.sized.cut.width_m if state.sized else part.width_m
    angle = row.ring_angle_deg if row is not None else state.ring_angle_deg
    try:
        made = MadePart(
            shrinkage.of_species(part.species), moisture, width, angle, Fit(part.fit), part.width_m if part.fit == FitKind.INSET else None
        )
        begun = float(min(since.timetuple().tm_yday - 1, YEAR_DAYS - 1))
        year = first_year.first_year(
            made, course_of(figures_of(part.species), part.thickness_m, moisture, sizing.home, sizing.finish, begun)
        )
    except NotKnown:
        return unknown(f"How much {part.species.spoken_name} moves is not known.")
    except OutOfRange:
        return unknown("Its sizes are beyond what can be reckoned.")
    found = {item.pk: _finding(item, since) for item in measured}
    known = [item for item in found.values() if item is not None]
    held = tuple((item, _against(year, found[item.pk], known)) for item in measured)
    return FollowedPart(part, moisture, year, "", held)


def _finding(row: MeasuredLater, since: date) -> Finding | None:
    days = (row.on - since).days
    return None if days < 0 else Finding(Measured(row.what), first_year.day_of_course(days), row.value)


def _against(year: FirstYear, found: Finding | None, others: list[Finding]) -> Against | None:
    if found is None:
        return None
    try:
        return first_year.held_against(year, found, others)
    except (NotKnown, OutOfRange):
        return None


def keep_as_made(state: BuildState) -> None:
    """Keep what each part is on the day its build is made: what its wood is at, and what it is cut to."""
    rows = []
    for each in state.parts:
        part, cut = each.part, each.sized.cut if each.sized else None
        sizes = (cut.length_m, cut.width_m, cut.thickness_m) if cut else (part.length_m, part.width_m, part.thickness_m)
        rows.append(
            PartAsMade(
                workshop=state.build.workshop,
                part=part,
                moisture=each.moisture,
                length_m=sizes[0],
                width_m=sizes[1],
                thickness_m=sizes[2],
                ring_angle_deg=each.ring_angle_deg,
            )
        )
    PartAsMade.objects.filter(part__build=state.build).delete()
    PartAsMade.objects.bulk_create(rows)


def forget_as_made(build: Build) -> None:
    """The build is being made again: what its parts were counts no more; what was measured of them stays."""
    PartAsMade.objects.filter(part__build=build).delete()


def _of(build: Build, part_id: int) -> BuildPart:
    part = build.parts.filter(pk=part_id).first()
    if part is None:
        raise Refused("Someone else has taken this part out meanwhile.", "part")
    return part


@transaction.atomic
def measure(by: Membership, build: Build, part_id: int, what: str, value: float, on: date | None, note: str = "") -> MeasuredLater:
    """Keep something measured of a part.

    Raises:
        Refused: the build is not made yet, it was measured before that, it has no gap, or there are too many.
    """
    require(by, Role.MAKER)
    row = Build.locked(by, build.pk)
    if row.done_on is None:
        raise Refused(f"{row.name} is not made yet.")
    part, day = _of(row, part_id), on or timezone.localdate()
    if day < row.done_on:
        raise Refused(f"{row.name} was not made then.", "on")
    if what == Measured.GAP and part.fit != FitKind.INSET:
        raise Refused(f"{part.name} fills no opening, so no gap is forecast for it. Measure its width.", "what")
    if MeasuredLater.objects.filter(part__build=row).count() >= MOST_MEASURED:
        raise Refused(f"So much is kept of one build: {MOST_MEASURED} measurements.")
    made = MeasuredLater.objects.create(workshop=row.workshop, part=part, what=what, value=value, on=day, note=note, by=by.person)
    log.write(by, "builds", "measured", subject=row.name, part=part.name, measured=made.get_what_display())
    return made


@transaction.atomic
def strike(by: Membership, build: Build, measured_id: int, *, back: bool = False) -> MeasuredLater:
    """A measurement was wrong and counts no more; or it counts again.

    Raises:
        Refused: somebody else was first.
    """
    require(by, Role.MAKER)
    row = MeasuredLater.objects.select_for_update(of=("self",)).filter(part__build=build, pk=measured_id).select_related("part").first()
    if row is None or row.struck is not back:
        raise Refused("Someone else has changed it since you opened it.")
    row.struck = not back
    row.save(update_fields=["struck"])
    kind = "measurement_back" if back else "measurement_struck"
    log.write(by, "builds", kind, subject=build.name, part=row.part.name)
    return row


@transaction.atomic
def correct(by: Membership, build: Build, version: int, part_id: int, moisture: float | None = None, width_m: float | None = None) -> None:
    """A part was made otherwise than the cut list had it: its moisture (a fraction) or its width on the day.

    Raises:
        Overtaken. Refused: the build is not made yet.
    """
    require(by, Role.MAKER)
    row = Build.unchanged(by, build.pk, version)
    if row.done_on is None:
        raise Refused(f"{row.name} is not made yet.")
    part = _of(row, part_id)
    sizes = {"length_m": part.length_m, "width_m": part.width_m, "thickness_m": part.thickness_m}
    made, _ = PartAsMade.objects.get_or_create(part=part, workshop=row.workshop, defaults=sizes)
    if made.moisture is None and moisture is not None and width_m is None:
        # It could not be cut to a size that knows its moisture; from what is known now, it can be said what that was.
        part.build = row
        sized = Sizing(row, about_of(row)).at_moisture(part, moisture, made.ring_angle_deg)
        width_m = sized.cut.width_m if sized else None
    made.moisture = made.moisture if moisture is None else moisture
    made.width_m = made.width_m if width_m is None else width_m
    made.save()
    row.change()
    log.write(by, "builds", "as_made", subject=row.name, part=part.name)
