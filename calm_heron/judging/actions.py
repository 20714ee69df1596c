"""Keeping a judgement, and the workshop's usual purpose."""

from typing import Any

from django.db import transaction
from django.dispatch import receiver

from calm_heron.air.actions import place_retired
from calm_heron.air.models import Place
from calm_heron.judging import queries
from calm_heron.judging.models import PiecePurpose, UseRule, WorkshopPurpose
from calm_heron.judging.targets import Purpose
from calm_heron.judging.verdicts import Judged, NotJudged
from calm_heron.logbook import actions as log
from calm_heron.stock.models import Piece
from calm_heron.workshops.models import Membership, Role
from calm_heron.workshops.refusals import Refused, require
from calm_heron.workshops.versions import must_be_as_seen, settings_locked
from wood.judging.readiness import VERDICT_RULE
from wood.uses import Approach


def keep_judgement(by: Membership, piece: Piece, judgement: Judged | NotJudged) -> None:
    """Write a verdict into the log as it stands now, with the rule's version."""
    require(by, Role.HELPER)
    place, use = judgement.question.place, judgement.question.use
    data: dict[str, Any] = {
        "place": place.name if place else "",
        "use": use.key,
        "school": judgement.question.purpose.approach,
        "rule": VERDICT_RULE,
        "state": judgement.state,
    }
    if isinstance(judgement, Judged):
        names = ("cause", "difference", "uncertainty", "margin", "tolerance", "target", "target_uncertainty")
        data |= {name: getattr(judgement.verdict, name) for name in names}
        data |= {"moisture": judgement.estimate.mean, "bound": judgement.estimate.bound}
    log.write(by, "judgement", "judged", subject=piece.tag, **data)


@transaction.atomic
def set_workshop_purpose(by: Membership, purpose: Purpose, seen: str = "") -> WorkshopPurpose:
    """What Today and every verdict start from.

    Raises:
        Refused: it names no place that there is, or no moisture that it is to go by.
        Overtaken: someone else has chosen another since it was ``seen``.
    """
    require(by, Role.MAKER)
    wanted = _as_kept(purpose)
    must_be_as_seen(
        seen, *queries.purpose_settings(WorkshopPurpose.objects.of(settings_locked(by)).first()), what="where verdicts start from"
    )
    stored, _ = WorkshopPurpose.objects.update_or_create(workshop=by.workshop, defaults=wanted)
    log.write(by, "judgement", "aim", subject=stored.place.name, use=stored.use_key, school=stored.approach, moisture=stored.moisture)
    return stored


@transaction.atomic
def set_piece_purpose(by: Membership, piece: Piece, purpose: Purpose | None, seen: str = "") -> None:
    """What one piece or lot is for, wherever it is asked about; None is as usual again. A sample board is for what its lot is for.

    Raises:
        Refused: it names no place that there is, or no moisture that it is to go by; or it is a sample board.
        Overtaken: someone else has changed it since it was ``seen``.
    """
    require(by, Role.HELPER)
    if piece.lot is not None:
        raise Refused(f"{piece.tag} is a sample board: set it for {piece.lot.tag}, and it goes for all its boards.")
    wanted = None if purpose is None else _as_kept(purpose)
    settings_locked(by)
    must_be_as_seen(seen, *queries.purpose_settings(PiecePurpose.objects.filter(piece=piece).first()), what=f"what {piece.tag} is for")
    if wanted is None:
        PiecePurpose.objects.filter(piece=piece).delete()
        log.write(by, "judgement", "piece_as_usual", subject=piece.tag)
        return
    stored, _ = PiecePurpose.objects.update_or_create(workshop=by.workshop, piece=piece, defaults=wanted)
    log.write(
        by,
        "judgement",
        "piece_aim",
        subject=piece.tag,
        place=stored.place.name,
        use=stored.use_key,
        school=stored.approach,
        moisture=stored.moisture,
    )


@receiver(place_retired)
def _verdicts_start_elsewhere(place: Place, **_: Any) -> None:
    """A place is not retired while every verdict starts from it."""
    if WorkshopPurpose.objects.filter(place=place).exists():
        raise Refused(f"{place.name} is the usual place for verdicts: choose another on Today first.")


def _as_kept(purpose: Purpose) -> dict[str, Any]:
    if purpose.place is None:
        raise Refused("Add a place under Air first.")
    if purpose.place.retired:
        raise Refused(f"{purpose.place.name} is retired: choose a place that is in use.")
    if purpose.approach is Approach.TYPED and purpose.moisture is None:
        raise Refused("Set its target moisture, between 3 and 30%.")
    return {"place": purpose.place, "use_key": purpose.use.key, "approach": purpose.approach, "moisture": purpose.moisture}


@transaction.atomic
def set_uses(by: Membership, wanted: dict[str, dict[str, float | None]], seen: str = "") -> None:
    """Keep how close each use must be, by its key: ``tolerance``, ``evenness``, ``limit``; all empty is the usual rule again.

    Raises:
        Overtaken: someone else has changed one since they were ``seen``.
    """
    require(by, Role.MAKER)
    must_be_as_seen(seen, *queries.rule_settings(settings_locked(by)), what="how close uses must be")
    rules: dict[str, dict[str, float]] = {}
    for key, figures in wanted.items():
        if all(value is None for value in figures.values()):
            UseRule.objects.of(by.workshop).filter(use_key=key).delete()
            continue
        UseRule.objects.update_or_create(workshop=by.workshop, use_key=key, defaults=figures)
        rules[key] = {name: value for name, value in figures.items() if value is not None}
    log.write(by, "judgement", "uses", uses=rules)
