"""What people do with workshops: found one, invite, join, change what a member may do. All of it stands in the log."""

from django.db import IntegrityError, transaction
from django.utils.text import slugify

from calm_heron.logbook.actions import write
from calm_heron.people.accounts import new_password_path
from calm_heron.site.dates import AMERICAN, BRITISH, UTC
from calm_heron.workshops.models import Invitation, Membership, Person, Role, Workshop
from calm_heron.workshops.refusals import Refused, require
from calm_heron.workshops.versions import must_be_as_seen, settings_locked
from wood.units import INCH, SYSTEMS

KIND = "people"


def refuse_visitor(person: Person) -> None:
    """A visitor of the demo stays in the demo.

    Raises:
        Refused: ``person`` is one.
    """
    if person.is_visitor:
        raise Refused("This is not for visitors of the demo. Sign out, and start a workshop of your own or sign in.")


@transaction.atomic
def found_workshop(person: Person, name: str, units: str, time_zone: str = UTC) -> Workshop:
    """A new workshop with ``person`` as its owner; its address is made from its name, its English goes with its units. Whoever owns one of
    that name already is given that one.

    Raises:
        Refused: by a visitor of the demo.
    """
    refuse_visitor(person)
    # One founding at a time for each person; the same name again is the same form sent again.
    Person.objects.select_for_update().get(pk=person.pk)
    already = Workshop.objects.filter(name=name, pk__in=person.memberships.filter(role=Role.OWNER).values("workshop")).first()
    if already:
        return already
    base = slugify(name)[:50] or "workshop"
    number = 1
    while True:
        slug = base if number == 1 else f"{base}-{number}"
        try:
            with transaction.atomic():
                workshop = Workshop.objects.create(
                    name=name, slug=slug, units=units, time_zone=time_zone, language=AMERICAN if units == INCH.key else BRITISH
                )
            break
        except IntegrityError:
            number += 1
    owner = Membership.objects.create(workshop=workshop, person=person, role=Role.OWNER)
    write(owner, KIND, "founded", name=workshop.name)
    return workshop


@transaction.atomic
def invite(by: Membership, role: Role) -> Invitation:
    """A link for one more person; owners invite. The log does not hold the link.

    Raises:
        Refused: in the demo, where nobody is invited.
    """
    require(by, Role.OWNER)
    refuse_visitor(by.person)
    made = Invitation.objects.create(workshop=by.workshop, role=role, invited_by=by.person)
    write(by, KIND, "invited", role=role.value)
    return made


@transaction.atomic
def join(person: Person, token: str) -> Membership:
    """Make the bearer of an invitation a member. A member who opens it again keeps the role they have.

    Raises:
        Refused: the link is unknown, used or too old, or a visitor of the demo opened it.
    """
    refuse_visitor(person)
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
    member = Membership.objects.create(workshop=invitation.workshop, person=person, role=invitation.role)
    write(member, KIND, "joined", subject=str(person), role=member.role)
    return member


@transaction.atomic
def withdraw(by: Membership, invitation_id: int) -> None:
    """Take back an invitation that nobody has used.

    Raises:
        Refused: there is no such invitation, or somebody has joined by it.
    """
    require(by, Role.OWNER)
    invitation = Invitation.objects.of(by.workshop).select_for_update().filter(pk=invitation_id, accepted_by=None).first()
    if invitation is None:
        raise Refused("There is no such open invitation. Somebody may have joined by it: look at who is here.")
    role = invitation.role
    invitation.delete()
    write(by, KIND, "withdrawn", role=role)


@transaction.atomic
def new_password_link(by: Membership, member_id: int) -> tuple[Membership, str]:
    """A member, and the address at which they choose a new password: once, within a day. The log says that it was made, not what it is.

    It opens all that the member can see. So it is for members who work nowhere but in workshops of this owner.

    Raises:
        Refused: no such member, the owner's own account, or a member who works elsewhere, too.
    """
    require(by, Role.OWNER)
    refuse_visitor(by.person)
    member = Membership.objects.of(by.workshop).select_related("person").filter(pk=member_id).first()
    if member is None:
        raise Refused("There is no such member here.")
    if member.person_id == by.person_id:
        raise Refused("Your own password you change under “Change password”.")
    owned = Membership.objects.filter(person=by.person, role=Role.OWNER).values("workshop")
    if member.person.memberships.exclude(workshop__in=owned).exists():
        raise Refused(f"{member.person} works in another workshop, too. Whoever keeps this Calm Heron running can make the link.")
    write(by, KIND, "new_password", subject=str(member.person))
    return member, new_password_path(member.person)


@transaction.atomic
def change_role(by: Membership, member_id: int, role: Role | None) -> None:
    """Give a member another role, or with ``None`` end the membership. The last owner stays owner. Whoever is owner no more takes the
    invitations along that they made and nobody used.

    Raises:
        Refused: no such member, or it would leave the workshop without an owner.
    """
    require(by, Role.OWNER)
    members = {member.id: member for member in Membership.objects.of(by.workshop).select_for_update()}
    member = members.get(member_id)
    if member is None:
        raise Refused("There is no such member here.")
    owners = [member for member in members.values() if member.role == Role.OWNER]
    if owners == [member] and role != Role.OWNER:
        raise Refused("A workshop needs an owner. Make somebody else owner first.")
    if role == member.role:
        return
    who, before = str(member.person), member.role
    if before == Role.OWNER:
        Invitation.objects.of(by.workshop).filter(invited_by=member.person, accepted_by=None).delete()
    # Written first: a person who ends their own membership must still be a member when the log entry is made.
    if role is None:
        write(by, KIND, "left", subject=who, before=before)
        member.delete()
        return
    write(by, KIND, "role", subject=who, role=role.value, before=before)
    member.role = role
    member.save(update_fields=["role"])


@transaction.atomic
def set_units(
    by: Membership, name: str, units: str, time_zone: str = "", language: str = "", scale: str = "", cut_to: int = 0, seen: str = ""
) -> None:
    """Rename the workshop or change its units, its clock, its English (empty: as they are), what its scale shows (empty: what is usual) or
    how finely it cuts; what is stored is SI and UTC and does not change.

    Raises:
        Overtaken: someone else has changed them since they were ``seen``.
    """
    require(by, Role.OWNER)
    workshop = settings_locked(by)
    must_be_as_seen(seen, *settings_of(workshop), what="the name, the units or the clock")
    if name != workshop.name:
        write(by, KIND, "renamed", before=workshop.name, name=name)
    if units != workshop.units:
        write(by, KIND, "units", before=workshop.units, units=units)
    time_zone, language = time_zone or workshop.time_zone, language or workshop.language
    if (time_zone, language) != (workshop.time_zone, workshop.language):
        write(by, KIND, "clock", time_zone=time_zone, language=language)
    cut_to = cut_to or workshop.cut_to
    if (scale, cut_to) != (workshop.scale, workshop.cut_to):
        write(by, KIND, "written", scale=SYSTEMS[units].as_set(scale, cut_to).mass, cut_to=cut_to)
    by.workshop.name, by.workshop.units, by.workshop.time_zone, by.workshop.language = name, units, time_zone, language
    by.workshop.scale, by.workshop.cut_to = scale, cut_to
    by.workshop.save(update_fields=["name", "units", "time_zone", "language", "scale", "cut_to"])


def settings_of(workshop: Workshop) -> tuple[str, str, str, str, str, int]:
    """What owners set, in the order of their form, to bring it back as it was seen."""
    return workshop.name, workshop.units, workshop.time_zone, workshop.language, workshop.scale, workshop.cut_to
