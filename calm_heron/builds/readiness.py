"""Which of a build's wood is ready, when all of it is, and what it is cut to today: each board asked the very question of its own page, for
this build.
"""

from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass, field
from datetime import date, timedelta
from typing import Any

import numpy as np
from django.utils import timezone

from calm_heron.builds.kinds import GrainWanted
from calm_heron.builds.layouts.allocation import Saw
from calm_heron.builds.models import Build, BuildPart
from calm_heron.drying import forecasts
from calm_heron.drying.forecasts import MUST_WAIT, Known
from calm_heron.judging import queries as judging
from calm_heron.judging import stock_states
from calm_heron.judging.queries import Chosen
from calm_heron.movement.things import homes
from calm_heron.movement.things.queries import course_of
from calm_heron.stock.models import RING_ANGLE_DEG, Grain, Piece, Status
from calm_heron.workshops.models import Membership
from wood.builds import dates, sizes
from wood.builds.dates import Latest, Ready
from wood.builds.sizes import Fit, Size, Sized, Year
from wood.drying.diffusivity import of_species as pace_of
from wood.errors import NotKnown, OutOfRange
from wood.judging.readiness import MAY_BE_WORKED, WORKABLE, State
from wood.measuring.readings import Bound
from wood.movement import finishes, shrinkage
from wood.movement.finishes import Finish
from wood.species import Species

# Forecasts that a page works out itself; more of them follow behind the scenes.
# A page of many builds works out fewer for each.
AT_ONCE, AT_ONCE_EACH = 8, 2
# Wood in these states is neither milled nor glued; what is only close may be.
UNREADY = (State.WAIT, State.TOO_DRY, State.TOO_UNEVEN)
# How much each state stands in the way of the build.
GRAVITY = {
    State.READY: 0,
    State.WORKS_NOW: 1,
    State.DRY: 2,
    State.CLOSE: 3,
    State.CANNOT_TELL: 4,
    State.TOO_UNEVEN: 5,
    State.TOO_DRY: 6,
    State.WAIT: 6,
    State.CRACKED: 7,
}


@dataclass(frozen=True)
class BuildWood:
    """A board or lot that a build takes from: its state for this build, its forecast where it must wait, and how many of its boards are
    taken.
    """

    piece: Piece
    state: State
    known: Known | None
    boards: int

    @property
    def waits(self) -> bool:
        return self.state in MUST_WAIT

    def ready(self, today: date) -> Ready | None:
        """When it may be worked, counted from today; None where that is not known."""
        if not self.waits:
            return Ready(np.zeros(1), 0.0, 0.0, 0.0) if self.state in WORKABLE else None
        row = self.known.forecast if self.known else None
        if row is None or not row.member_days:
            return None
        passed = (today - row.day).days
        members = np.maximum(np.array(row.member_days, float) - passed, 0.0)
        days, low, high = (np.inf if item is None else max(item - passed, 0.0) for item in (row.days, row.low, row.high))
        return Ready(members, days, low, high)


@dataclass(frozen=True)
class PartState:
    """A part: the wood it comes from, the gravest state of it, how many of its pieces are laid, its sizes, what its wood is at on average
    (None where nothing tells), and the angle of its rings."""

    part: BuildPart
    woods: tuple[BuildWood, ...]
    laid: int
    sized: Sized | None
    unsized: str = ""
    moisture: float | None = None
    ring_angle_deg: float = 0.0

    @property
    def state(self) -> State | None:
        """None where no wood was chosen."""
        return max((wood.state for wood in self.woods), key=GRAVITY.__getitem__, default=None)

    @property
    def waits(self) -> bool:
        return any(wood.waits for wood in self.woods)

    @property
    def is_in_order(self) -> bool:
        """Whether all of its wood is ready, or works with its place as that is today."""
        return self.state in MAY_BE_WORKED

    @property
    def is_unready(self) -> bool:
        """Whether some of its wood is not to be touched yet."""
        return self.state in UNREADY


@dataclass(frozen=True)
class BuildState:
    """How a build stands. ``latest`` is the day when all its wood is ready, None where that is not known, because of the ``unknown``
    pieces or parts without wood; ``pending`` are boards whose forecast is still being worked out."""

    build: Build
    saw: Saw
    about: Chosen
    parts: tuple[PartState, ...]
    woods: tuple[BuildWood, ...]
    latest: Latest | None
    unknown: tuple[Piece, ...]
    pending: tuple[Piece, ...]
    year: Year | None
    today: date

    @property
    def sold_or_used(self) -> list[Piece]:
        """Boards that it was laid on and that are not in stock any more, while it is still being made."""
        sawn = self.saw.sawn_pieces
        gone = [wood.piece for wood in self.woods if wood.piece.status != Status.IN_STOCK and wood.piece.pk not in sawn]
        return [] if self.build.done_on else gone

    @property
    def without_wood(self) -> list[PartState]:
        return [part for part in self.parts if not part.woods]

    @property
    def ready(self) -> list[PartState]:
        return [part for part in self.parts if part.state is State.READY]

    @property
    def is_ready(self) -> bool:
        return bool(self.parts) and len(self.ready) == len(self.parts) and not self.sold_or_used

    @property
    def moving(self) -> list[BuildWood]:
        """Wood that may be worked today, and is not at the average of its place: it will still move with the seasons."""
        return [wood for wood in self.woods if wood.state in (State.WORKS_NOW, State.DRY)]

    @property
    def may_be_begun(self) -> bool:
        """Whether all of its wood is ready to work today, ready or not."""
        return bool(self.parts) and all(part.state in WORKABLE for part in self.parts) and not self.sold_or_used

    @property
    def waiting(self) -> list[BuildWood]:
        """What must wait, the latest first."""
        return sorted((wood for wood in self.woods if wood.waits), key=lambda wood: -_days(wood, self.today))

    @property
    def ready_on(self) -> date | None:
        return None if self.latest is None or not np.isfinite(self.latest.days) else self.today + timedelta(days=round(self.latest.days))

    @property
    def late_days(self) -> int | None:
        """By how many days its wood is later than the build is due; below nothing where there is time."""
        due = self.build.days_to_due(self.today)
        return None if due is None or self.latest is None or not np.isfinite(self.latest.days) else round(self.latest.days) - due


def _days(wood: BuildWood, today: date) -> float:
    result = wood.ready(today)
    return np.inf if result is None else result.days


def about_of(build: Build) -> Chosen:
    """What all pages of a build judge its wood for."""
    return judging.chosen(build.workshop, build.purpose_in_address)


def state_of(saw: Saw, membership: Membership, today: date | None = None, at_once: int | None = None) -> BuildState:
    """How a build stands today; so many forecasts at most are worked out ``at_once``."""
    build, day = saw.build, today or timezone.localdate()
    about = about_of(build)
    taken = _taken(saw)
    pieces = {piece.pk: piece for of_part in taken.values() for piece in of_part}
    boards: dict[int, set[int]] = defaultdict(set)
    for held in saw.held:
        boards[held.piece_id].add(held.nth)
    # Rows that already carry their moisture are judged in one query, and those that wait are forecast in one more.
    judged = stock_states.states_of(list(pieces.values()), about.purposes) if pieces else {}
    # What is sawn already was worked.
    states = {pk: State.READY if pk in saw.sawn_pieces else judged.get(pk, State.CANNOT_TELL) for pk in pieces}
    waiting = [piece for pk, piece in pieces.items() if states[pk] in MUST_WAIT]
    known = forecasts.for_purpose(waiting, about, membership, AT_ONCE if at_once is None else at_once) if waiting else {}
    woods = {pk: BuildWood(piece, states[pk], known.get(pk), max(len(boards[pk]), 1)) for pk, piece in pieces.items()}
    sized = Sizing(build, about)
    laid: dict[int, int] = defaultdict(int)
    for cut in saw.cuts:
        laid[cut.part_id] += 1
    parts = []
    for part in saw.parts:
        own = tuple(woods[piece.pk] for piece in taken[part.pk])
        wood = [item.piece for item in own]
        result, why = sized.of_part(part, wood)
        parts.append(PartState(part, own, laid[part.pk], result, why, moisture_of(wood), ring_angle_of(part, wood)))
    whole = tuple(woods.values())
    unknown = tuple(item.piece for item in whole if item.ready(day) is None and not (item.waits and item.known is None))
    pending = tuple(item.piece for item in whole if item.waits and item.known is None)
    complete = (
        parts
        and all(part.woods for part in parts)
        and not unknown
        and not pending
        and all(item.piece.status == Status.IN_STOCK or item.piece.pk in saw.sawn_pieces for item in whole)
    )
    latest = dates.latest([ready for item in whole if (ready := item.ready(day)) is not None]) if complete else None
    return BuildState(build, saw, about, tuple(parts), whole, latest, unknown, pending, sized.year, day)


def _taken(saw: Saw) -> dict[int, list[Piece]]:
    """The boards and lots that each part comes from: those it is laid on, else the one that was chosen for it."""
    pieces = {held.pk: held.piece for held in saw.held}
    results: dict[int, dict[int, Piece]] = {part.pk: {} for part in saw.parts}
    for cut in saw.cuts:
        piece = pieces[cut.board_id]
        results[cut.part_id][piece.pk] = piece
    return {part.pk: list(results[part.pk].values()) or ([part.stock] if part.stock is not None else []) for part in saw.parts}


@dataclass
class Sizing:
    """The sizes of a build's parts: today's moisture of their wood, and the year of the place where they will live."""

    build: Build
    about: Chosen
    _years: dict[tuple[Any, ...], Year] = field(default_factory=dict)

    def __post_init__(self) -> None:
        place = self.build.place
        known = self.about.purposes.air_of(place)[1] if not place.retired else None
        self.home = homes.of_place(place, homes.USUAL_PATTERN) if known is not None else None
        self.mean = known.mean if known is not None else None
        self.finish = finish_of(self.build)

    @property
    def year(self) -> Year | None:
        """The year of the place by its air alone, as thin bare wood would follow it."""
        if self.home is None or self.mean is None:
            return None
        course = course_of(None, 0.02, None, self.home, None, 0.0)
        return _year(self.mean, course.level_low, course.level_high)

    def year_of(self, species: Species, thickness_m: float) -> Year | None:
        """The moistures that a part of so much thickness goes through there, finished as the build is, once the day it was made is
        forgotten.
        """
        if self.home is None or self.mean is None:
            return None
        key = (species.key, round(thickness_m, 4))
        if key not in self._years:
            try:
                figures = pace_of(species)
            except NotKnown:
                figures = None
            course = course_of(figures, thickness_m, None, self.home, self.finish, 0.0)
            self._years[key] = _year(self.mean, *course.second_year)
        return self._years[key]

    def of_part(self, part: BuildPart, pieces: Iterable[Piece]) -> tuple[Sized | None, str]:
        """A part's sizes from the wood it comes from, or why they cannot be told."""
        why = self._why_unsized(part)
        if why:
            return None, why
        pieces = list(pieces)
        if not pieces:
            return None, "No board was chosen for it yet: its cut sizes follow from its board."
        known = [piece for piece in pieces if getattr(piece, "moisture", None) is not None]
        if any(piece.moisture.bound == Bound.ABOVE for piece in known):
            return None, "Its wood is wetter than the meter tells: it is not cut to size yet."
        now = moisture_of(pieces)
        if now is None:
            return None, "Its wood was not read yet: read it, and its cut sizes follow."
        sized = self.at_moisture(part, now, ring_angle_of(part, pieces))
        if sized is None:
            return None, "Too small for a gap: cut to the finished size."
        unread = [piece.tag for piece in pieces if piece not in known]
        were = "was" if len(unread) == 1 else "were"
        return sized, f"{', '.join(unread)} {were} not read yet: read before you cut." if unread else ""

    def _why_unsized(self, part: BuildPart) -> str:
        try:
            shrinkage.of_species(part.species)
        except NotKnown:
            return f"How much {part.species.spoken_name} moves is not known: cut to the finished size, and leave more."
        if self.year_of(part.species, part.thickness_m) is None:
            return f"The year of {self.build.place.name} is not known yet: cut to the finished size."
        return ""

    def at_moisture(self, part: BuildPart, moisture: float, ring_angle_deg: float) -> Sized | None:
        """A part's sizes where its wood is at a moisture (a fraction); None where they cannot be told."""
        year = self.year_of(part.species, part.thickness_m)
        if year is None:
            return None
        try:
            size = Size(part.length_m, part.width_m, part.thickness_m)
            return sizes.sized(size, shrinkage.of_species(part.species), ring_angle_deg, moisture, year, Fit(part.fit))
        except (NotKnown, OutOfRange):
            return None


def moisture_of(pieces: Iterable[Piece]) -> float | None:
    """What the boards of a part are at on average (a fraction), those that were read; None where none was. What is drier than the meter
    tells is taken at the driest it tells, and what is wetter than it tells is left out.
    """
    known = [moisture for piece in pieces if (moisture := getattr(piece, "moisture", None)) is not None]
    read = [moisture.mean for moisture in known if moisture.bound != Bound.ABOVE]
    return min(float(np.mean(read)), sizes.MOISTURE[1]) if read else None


def ring_angle_of(part: BuildPart, pieces: Iterable[Piece]) -> float:
    """The ring angle of a part: that of its boards, or the one that is wanted where none was chosen."""
    angles = [piece.ring_angle_deg for piece in pieces]
    return float(np.mean(angles)) if angles else wanted_angle(part)


def wanted_angle(part: BuildPart) -> float:
    """The ring angle that a part is taken to have where no board was chosen."""
    return RING_ANGLE_DEG[Grain(part.grain)] if part.grain != GrainWanted.ANY else RING_ANGLE_DEG[Grain.FLAT]


def _year(mean: float, low: float, high: float) -> Year:
    """A year about its mean; a part follows it with a lag of its own and may not quite reach round it."""
    return Year(mean, min(low, mean), max(high, mean))


def finish_of(build: Build) -> Finish | None:
    """The finish of a build, None for bare wood."""
    if not build.finish:
        return None
    try:
        return finishes.finish(build.finish, build.coats or 1)
    except (NotKnown, OutOfRange):
        return None
