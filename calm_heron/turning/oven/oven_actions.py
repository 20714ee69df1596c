"""Drying a bowl in a microwave: beginning, keeping heats, and ending. All checks of role and all log entries are here."""

from datetime import timedelta

from django.db import transaction
from django.utils import timezone

from calm_heron.logbook import actions as log
from calm_heron.stock.models import Piece, Status
from calm_heron.turning.actions import bowl_of, weigh
from calm_heron.turning.bowls import soundness
from calm_heron.turning.models import OvenHeat, OvenSession
from calm_heron.turning.oven import heating, oven_words
from calm_heron.turning.shelf import weighing
from calm_heron.workshops.models import Membership, Role
from calm_heron.workshops.refusals import Refused, require
from wood.turning import microwave
from wood.written import weighed_mass


@transaction.atomic
def begin_oven(
    by: Membership, piece: Piece, watts: float, mass_kg: float, level: float = 1.0, oven_m: float = microwave.USUAL_OVEN_M
) -> OvenSession:
    """Begin to dry a bowl in a microwave; what it weighs is a weighing like any other.

    Raises:
        LooksWrong, Refused: it is in one already, is cracked, or nothing is known of its wood; it does not go into the oven, or it would
        take weeks.
    """
    require(by, Role.HELPER)
    row = bowl_of(by, piece)
    if row.oven_sessions.filter(ended_at=None).exists():
        raise Refused(f"{row.tag} is in a session already.")
    if (danger := soundness.danger_in(row)) is not None:
        raise Refused(f"{danger.reason} Nothing that is done to it makes it fit for the lathe again.")
    weigh(by, row, mass_kg)
    weighed = weighing.renew(row)
    if weighed is None:
        raise Refused(f"Nothing is known of {row.species.spoken_name} that a session could be worked out from.")
    session = heating.asked(row, weighed, watts, level, mass_kg)
    if (too_much := microwave.too_much(session, row.width_m, oven_m)) is not None:
        reason, field = oven_words.why_not(too_much, session, row.width_m, by.workshop.system)
        raise Refused(reason, field)
    made = OvenSession.objects.create(
        workshop=by.workshop,
        piece=row,
        by=by.person,
        watts=watts,
        level=level,
        first_kg=mass_kg,
        dry_kg=session.dry_kg,
        rest_kg=session.rest_kg,
    )
    log.write(by, "turning", "oven_begun", subject=row.tag, watts=watts)
    return made


@transaction.atomic
def heat(by: Membership, session: OvenSession, seconds: float, level: float, mass_kg: float, felt: str) -> OvenHeat:
    """Keep a heat and what the bowl weighed after its rest.

    Raises:
        Refused: the session is over, or the weight cannot be.
    """
    require(by, Role.HELPER)
    row = OvenSession.locked(by, session.pk)
    if row.ended_at is not None:
        raise Refused("This session is over.")
    system = by.workshop.system
    last = row.last_heat()
    before = last.mass_kg if last else row.first_kg
    if mass_kg > 1.02 * before:
        raise Refused(
            f"It weighed {weighed_mass(before, system)} before and takes up no water in an oven. Check the scale and the unit.", "mass_kg"
        )
    if mass_kg < 0.85 * row.dry_kg:
        raise Refused(f"Ovendry it should weigh about {weighed_mass(row.dry_kg, system)}. Check the scale and the unit.", "mass_kg")
    if row.heats.count() >= microwave.MOST_HEATS:
        raise Refused("That is enough heats for one bowl; let it rest.")
    return OvenHeat.objects.create(
        workshop=by.workshop, session=row, by=by.person, seconds=seconds, level=level, mass_kg=mass_kg, felt=felt
    )


@transaction.atomic
def end_oven(by: Membership, session: OvenSession) -> None:
    """The bowl is out of the oven: its last weight goes into its log, and rests with it.

    Raises:
        Refused: it is over already.
    """
    require(by, Role.HELPER)
    row = OvenSession.locked(by, session.pk)
    if row.ended_at is not None:
        raise Refused("This session is over already.")
    row.ended_at = timezone.now()
    row.save(update_fields=["ended_at"])
    last = row.last_heat()
    if last is not None and row.piece.status == Status.IN_STOCK:
        weigh(by, row.piece, last.mass_kg, max(last.at, row.began_at + timedelta(seconds=1)), meant=True)
    log.write(by, "turning", "oven_ended", subject=row.piece.tag, heats=row.heats.count())
