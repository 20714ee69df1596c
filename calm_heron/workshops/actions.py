"""What people do with workshops: found one, invite, join, change what a member may do."""

from django.core.exceptions import PermissionDenied
from django.db import IntegrityError, transaction
from django.utils.text import slugify

from calm_heron.workshops.models import Invitation, Membership, Person, Role, Submission, Workshop


class Refused(Exception):
    """An action that cannot be done; ``field`` names the input it is about, ``""`` for the whole form."""

    def __init__(self, message: str, field: str = "") -> None:
        super().__init__(message)
        self.field = field


def require(membership: Membership, role: Role) -> None:
    """Raise PermissionDenied unless the member may do what ``role`` may."""
    if not membership.may(role):
        raise PermissionDenied(f"This takes the role “{role.label}” or one above it; yours here is “{membership.get_role_display()}”.")


@transaction.atomic
def found_workshop(person: Person, name: str, units: str) -> Workshop:
    """A new workshop with ``person`` as its owner; its address is made from its name."""
    base = slugify(name)[:50] or "workshop"
    number = 1
    while True:
        slug = base if number == 1 else f"{base}-{number}"
        try:
            with transaction.atomic():
                workshop = Workshop.objects.create(name=name, slug=slug, units=units)
            break
        except IntegrityError:
            number += 1
    Membership.objects.create(workshop=workshop, person=person, role=Role.OWNER)
    return workshop


def invite(by: Membership, role: Role) -> Invitation:
    """A link for one more person; owners invite."""
    require(by, Role.OWNER)
    return Invitation.objects.create(workshop=by.workshop, role=role, invited_by=by.person)


@transaction.atomic
def join(person: Person, token: str) -> Membership:
    """Make the bearer of an invitation a member. A member who opens it again keeps the role they have.

    Raises:
        Refused: the link is unknown, used or too old.
    """
    invitation = Invitation.objects.select_for_update().select_related("workshop").filter(token=token).first()
    if invitation is None:
        raise Refused("This invitation is not known. Ask for a new link.")
    member = Membership.objects.of(invitation.workshop).filter(person=person).first()
    if member:
        return member
    if not invitation.is_open:
        raise Refused("This invitation was used already or is older than two weeks. Ask for a new link.")
    invitation.accepted_by = person
    invitation.save(update_fields=["accepted_by"])
    return Membership.objects.create(workshop=invitation.workshop, person=person, role=invitation.role)


@transaction.atomic
def change_role(by: Membership, member_id: int, role: Role | None) -> None:
    """Give a member another role, or with ``None`` end the membership. The last owner stays owner.

    Raises:
        Refused: no such member, or it would leave the workshop without an owner.
    """
    require(by, Role.OWNER)
    members = {member.id: member for member in Membership.objects.of(by.workshop).select_for_update()}
    member = members.get(member_id)
    if member is None:
        raise Refused("There is no such member here.")
    owners = [one for one in members.values() if one.role == Role.OWNER]
    if owners == [member] and role != Role.OWNER:
        raise Refused("A workshop needs an owner. Make somebody else owner first.")
    if role is None:
        member.delete()
    else:
        member.role = role
        member.save(update_fields=["role"])


def set_units(by: Membership, name: str, units: str) -> None:
    """Rename the workshop or change its system of units; what is stored is SI and does not change."""
    require(by, Role.OWNER)
    by.workshop.name, by.workshop.units = name, units
    by.workshop.save(update_fields=["name", "units"])


class DoneAlready(Exception):
    """This very form was carried out before; ``answer_url`` is where it led."""

    def __init__(self, answer_url: str) -> None:
        super().__init__(answer_url)
        self.answer_url = answer_url


def claim(membership: Membership, token: str) -> Submission:
    """Mark a form as being carried out, inside the caller's transaction; a second one waits here for the first.

    Raises:
        DoneAlready: the token was carried out before.
    """
    try:
        with transaction.atomic():
            return Submission.objects.create(workshop=membership.workshop, token=token, answer_url="")
    except IntegrityError:
        raise DoneAlready(Submission.objects.of(membership.workshop).get(token=token).answer_url) from None
