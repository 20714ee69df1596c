"""Keeping a judgement, and the workshop's usual aim."""

from typing import Any

from django.db import transaction

from calm_heron.air.models import Place
from calm_heron.judging import queries
from calm_heron.judging.models import Aim, UseRule
from calm_heron.judging.verdicts import Judged, NotJudged
from calm_heron.logbook import actions as log
from calm_heron.stock.models import Piece
from calm_heron.workshops.models import Membership, Role
from calm_heron.workshops.refusals import require
from calm_heron.workshops.versions import must_be_as_seen, settings_locked
from wood.judging.readiness import VERDICT_RULE, State
from wood.uses import Use


def keep_judgement(by: Membership, piece: Piece, found: Judged | NotJudged) -> None:
    """Write a verdict into the log as it stands now, with the rule's version."""
    require(by, Role.HELPER)
    place, use = found.asked.place, found.asked.use
    kept: dict[str, Any] = {"place": place.name if place else "", "use": use.key, "rule": VERDICT_RULE, "state": State.CANNOT_TELL}
    if isinstance(found, Judged):
        names = ("state", "cause", "difference", "uncertainty", "margin", "tolerance", "target", "target_uncertainty")
        kept |= {name: getattr(found.verdict, name) for name in names}
        kept |= {"moisture": found.estimate.mean, "bound": found.estimate.bound}
    log.write(by, "judgement", "judged", subject=piece.tag, **kept)


@transaction.atomic
def set_aim(by: Membership, place: Place, use: Use, seen: str = "") -> Aim:
    """The place and use that Today and every verdict start from.

    Raises:
        Overtaken: somebody else has chosen others since they were ``seen``.
    """
    require(by, Role.MAKER)
    must_be_as_seen(seen, *queries.aim_settings(Aim.objects.of(settings_locked(by)).first()), what="where verdicts start from")
    aim, _ = Aim.objects.update_or_create(workshop=by.workshop, defaults={"place": place, "use_key": use.key})
    log.write(by, "judgement", "aim", subject=place.name, use=use.key)
    return aim


@transaction.atomic
def set_uses(by: Membership, wanted: dict[str, dict[str, float | None]], seen: str = "") -> None:
    """Keep how close each use must be, by its key: ``tolerance``, ``evenness``, ``limit``; all empty is the usual rule again.

    Raises:
        Overtaken: somebody else has changed one since they were ``seen``.
    """
    require(by, Role.MAKER)
    must_be_as_seen(seen, *queries.rule_settings(settings_locked(by)), what="how close uses must be")
    kept: dict[str, dict[str, float]] = {}
    for key, figures in wanted.items():
        if all(value is None for value in figures.values()):
            UseRule.objects.of(by.workshop).filter(use_key=key).delete()
            continue
        UseRule.objects.update_or_create(workshop=by.workshop, use_key=key, defaults=figures)
        kept[key] = {name: value for name, value in figures.items() if value is not None}
    log.write(by, "judgement", "uses", uses=kept)
