"""Reads: a person's workshops, a workshop's people and open invitations."""

from django.db.models import QuerySet
from django.utils import timezone

from calm_heron.workshops.models import Invitation, Membership, Person, Workshop


def memberships_of(person: Person) -> QuerySet[Membership]:
    return Membership.objects.filter(person=person).select_related("workshop").order_by("workshop__name")


def members_of(workshop: Workshop) -> QuerySet[Membership]:
    return Membership.objects.of(workshop).select_related("person").order_by("-role", "person__name")


def open_invitations(workshop: Workshop) -> QuerySet[Invitation]:
    opened = Invitation.objects.of(workshop).filter(accepted_by=None, expires_at__gt=timezone.now())
    return opened.select_related("invited_by").order_by("-created_at")
