"""What a verdict rests on, and whether there is anything to judge; :mod:`words` says it, the core has the rule."""

from dataclasses import dataclass, field
from datetime import datetime
from enum import StrEnum

import numpy as np
from django.utils import timezone

from calm_heron.air.models import Place
from calm_heron.judging.settled import MIDDLE, SizedWood
from calm_heron.judging.targets import Purpose, Target
from calm_heron.stock.dangers import Danger
from wood.judging.readiness import CODES, NO_METER_M, State, Verdict, judge, stricter
from wood.measuring.estimates import Estimate
from wood.uses import Against, Approach, Use

# A board moves on between readings; after this long the last ones describe another board.
READINGS_GOOD_DAYS = 90
READ_AGAIN_DAYS = 21
# Carried to other air it is another board after a week.
MOVED_GOOD_DAYS = 7
USUAL_SLAB_M = 0.025


class Missing(StrEnum):
    """Why nothing can be judged."""

    NO_PLACE = "no_place"
    RETIRED = "retired"
    NO_SUBFLOOR = "no_subfloor"
    SLAB_NOT_TESTED = "slab_not_tested"
    SLAB_TOO_WET = "slab_too_wet"
    NO_AIR = "no_air"
    NOT_NAMED = "not_named"
    OLD_SUBFLOOR = "old_subfloor"
    OLD_AIR = "old_air"
    NO_BOARD_READ = "no_board_read"
    READ_IN_VAIN = "read_in_vain"
    NOT_LIVED_IN = "not_lived_in"
    MOVED = "moved"
    TOO_THIN = "too_thin"
    NOT_READ = "not_read"
    OLD_READINGS = "old_readings"


@dataclass(frozen=True)
class VerdictQuestion:
    """What for, and what is judged: a board, a ``lot``, or something ``turned`` or to be turned, how thick (m), of which wood and size."""

    purpose: Purpose
    lot: bool = False
    turned: bool = False
    thickness_m: float = 0.0
    sized: SizedWood = field(default_factory=lambda: SizedWood(MIDDLE, USUAL_SLAB_M))
    # How wide it is, and what its width moves by for a point of moisture (fraction), where that is known.
    width_m: float | None = None
    movement: float | None = None
    # Since when it lies where it lies, where it was moved.
    moved_at: datetime | None = None
    # What the air of the last days brings wood to, on both sorption curves (fractions): asked for where it is thin.
    last_days: tuple[float, float] | None = None
    # What is dangerous about it whatever it is at.
    danger: Danger | None = None

    @property
    def is_thin(self) -> bool:
        """Whether it follows the air within hours, so that no meter can tell."""
        return 0 < self.thickness_m < NO_METER_M and self.use.against is not Against.LIMIT

    @property
    def place(self) -> Place | None:
        return self.purpose.place

    @property
    def use(self) -> Use:
        return self.purpose.use

    @property
    def where(self) -> str:
        """The place in a sentence."""
        return self.place.name if self.place else "the stack"


@dataclass(frozen=True)
class NotJudged:
    """There is nothing to judge by; ``days`` is how old what is too old is."""

    question: VerdictQuestion
    missing: Missing
    estimate: Estimate | None
    target: Target | None
    days: int = 0

    @property
    def state(self) -> State:
        return State.CANNOT_TELL if self.question.danger is None else State.CRACKED


@dataclass(frozen=True)
class Judged:
    """A verdict with what it rests on, and how many days ago the wood was read. Where two targets count, ``target`` is the one that
    decided."""

    question: VerdictQuestion
    verdict: Verdict
    estimate: Estimate
    target: Target
    days_since_read: int

    @property
    def is_to_be_read_again(self) -> bool:
        return self.days_since_read > READ_AGAIN_DAYS

    @property
    def state(self) -> State:
        return self.verdict.state if self.question.danger is None else State.CRACKED


def decide(
    question: VerdictQuestion, estimate: Estimate | None, read_at: datetime | None, target: Target | None, *, in_vain: bool = False
) -> Judged | NotJudged:
    """Judge wood for a place and a use, or say why that cannot be; ``in_vain``: it was read, but no reading counts."""

    def cannot(missing: Missing, since: datetime | None = None) -> NotJudged:
        return NotJudged(question, missing, estimate, target, _days_since(since))

    if target is None:
        if question.place is None:
            return cannot(Missing.NO_PLACE)
        if question.place.retired:
            return cannot(Missing.RETIRED)
        if question.use.against is Against.SUBFLOOR:
            return cannot(Missing.NO_SUBFLOOR)
        if question.place.not_lived_in:
            return cannot(Missing.NOT_LIVED_IN)
        return cannot(Missing.NOT_NAMED if question.purpose.approach is Approach.TYPED else Missing.NO_AIR)
    if target.blocked:
        return cannot(Missing(target.blocked), target.last_at)
    if target.stale:
        return cannot(Missing.OLD_SUBFLOOR if question.use.against is Against.SUBFLOOR else Missing.OLD_AIR, target.last_at)
    if question.is_thin:
        return cannot(Missing.TOO_THIN)
    if estimate is None:
        return cannot(Missing.READ_IN_VAIN if in_vain else Missing.NO_BOARD_READ if question.lot else Missing.NOT_READ)
    if _days_since(read_at) > READINGS_GOOD_DAYS:
        return cannot(Missing.OLD_READINGS, read_at)
    if (
        read_at is not None
        and question.moved_at is not None
        and read_at < question.moved_at
        and _days_since(question.moved_at) >= MOVED_GOOD_DAYS
    ):
        return cannot(Missing.MOVED, question.moved_at)
    verdict = _by(question, estimate, read_at, target)
    if target.also:
        second = _by(question, estimate, read_at, target.also)
        if stricter(*(np.array([CODES.index(item.state)]) for item in (verdict, second)))[0] != CODES.index(verdict.state):
            verdict, target = second, target.also
    return Judged(question, verdict, estimate, target, _days_since(read_at))


def _by(question: VerdictQuestion, estimate: Estimate, read_at: datetime | None, target: Target) -> Verdict:
    """The verdict by one target, by the edges of today; wood that was in order on the day it was read is not sent off by the season."""
    now = timezone.localtime()
    today = target.edges(question.use, question.sized, now)
    then = target.edges(question.use, question.sized, timezone.localtime(read_at)) if read_at is not None and target.home else None
    return judge(estimate, today, target.tolerance, question.use, question.thickness_m, then)


def _days_since(moment: datetime | None) -> int:
    return 0 if moment is None else (timezone.now() - moment).days
