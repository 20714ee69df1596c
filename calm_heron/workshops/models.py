"""People, the workshops they share, what each may do there, and the mixin that keeps every row inside its workshop."""

import secrets
from datetime import timedelta
from typing import Any, Self

from django.contrib.auth.base_user import AbstractBaseUser, BaseUserManager
from django.db import models
from django.utils import timezone

from calm_heron.site import dates
from wood.units import CUT_STEPS, METRIC, SCALES, SYSTEMS, System


class People(BaseUserManager[Any]):
    def create_user(self, email: str, password: str | None = None, **fields: Any) -> "Person":
        person = self.model(email=self.normalize_email(email), **fields)
        person.set_password(password)
        person.save(using=self._db)
        return person

    def get_by_natural_key(self, email: str) -> "Person":  # type: ignore[override]
        return self.get(email__iexact=email)


class Person(AbstractBaseUser):
    """Somebody who signs in, with an e-mail address and a password."""

    email = models.EmailField(unique=True)
    name = models.CharField(max_length=80)
    is_active = models.BooleanField(default=True)
    # A stranger in a demo workshop of their own: no account, and nothing outside that workshop.
    is_visitor = models.BooleanField(default=False)
    # Who keeps the installation running: named by the command alone, by no role and by no sign-up.
    is_operator = models.BooleanField(default=False)
    date_joined = models.DateTimeField(default=timezone.now)

    objects = People()

    USERNAME_FIELD = "email"
    EMAIL_FIELD = "email"

    def __str__(self) -> str:
        return self.name or self.email


class Workshop(models.Model):
    """One workshop and its own system of units; everything else belongs to one."""

    name = models.CharField(max_length=80)
    slug = models.SlugField(max_length=60, unique=True)
    units = models.CharField(max_length=8, choices=[(key, system.name) for key, system in SYSTEMS.items()], default=METRIC.key)
    # What its scale shows (empty: what is usual with its units), and how finely inches are cut: a 64th or a 32nd.
    scale = models.CharField(max_length=8, blank=True, default="", choices=[(key, scale.name) for key, scale in SCALES.items()])
    cut_to = models.PositiveSmallIntegerField(default=CUT_STEPS[0], choices=[(step, f"1/{step} in") for step in CUT_STEPS])
    # Whose clock and whose English its pages speak.
    time_zone = models.CharField(max_length=60, default=dates.UTC)
    language = models.CharField(max_length=8, choices=dates.LANGUAGES, default=dates.BRITISH)
    created_at = models.DateTimeField(default=timezone.now)

    class Meta:
        constraints = [
            models.CheckConstraint(condition=models.Q(units__in=list(SYSTEMS)), name="workshop_units_known"),
            models.CheckConstraint(condition=models.Q(scale__in=["", *SCALES]), name="workshop_scale_known"),
            models.CheckConstraint(condition=models.Q(cut_to__in=CUT_STEPS), name="workshop_cut_to_known"),
        ]

    def __str__(self) -> str:
        return self.name

    @property
    def system(self) -> System:
        return SYSTEMS[self.units].as_set(self.scale, self.cut_to)


class Role(models.IntegerChoices):
    """What a member may do; each role may do all that a lower one may."""

    VIEWER = 1, "Viewer"
    HELPER = 2, "Helper who records"
    MAKER = 3, "Maker"
    OWNER = 4, "Owner"


ROLE_MEANS = {
    Role.VIEWER: "sees everything, changes nothing",
    Role.HELPER: "also records readings and air",
    Role.MAKER: "also adds wood, places and meters",
    Role.OWNER: "also invites people and sets the units",
}


class WorkshopRows(models.QuerySet[Any]):
    """Rows that belong to workshops; ``of`` is the only way in."""

    def of(self, workshop: Workshop) -> Self:
        return self.filter(workshop=workshop)


class WorkshopRow(models.Model):
    """The mixin of every row that belongs to a workshop.

    ``append_only`` says that its rows are added and never changed: the database's triggers and the rights of the application follow from
    that word (``rights.settle``, after every migration), and a test tries them. What ends, strikes or undoes such a row is a row of its
    own.
    """

    append_only = False
    # Whether saved answers stand on such rows, and whether they say something of one ``piece`` (or are one) and of no other
    # (:mod:`calm_heron.answers`).
    changes_answers, is_of_a_piece = True, False

    workshop = models.ForeignKey(Workshop, on_delete=models.CASCADE, related_name="+")

    objects = WorkshopRows.as_manager()

    class Meta:
        abstract = True


class Membership(WorkshopRow):
    """A person in a workshop. Actions take one: it says where, who, and with what right."""

    person = models.ForeignKey(Person, on_delete=models.CASCADE, related_name="memberships")
    role = models.PositiveSmallIntegerField(choices=Role.choices)
    since = models.DateTimeField(default=timezone.now)

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["workshop", "person"], name="one_membership_per_workshop"),
            models.CheckConstraint(condition=models.Q(role__range=(1, 4)), name="membership_role_known"),
        ]

    def may(self, role: Role) -> bool:
        return self.role >= role

    @property
    def may_record(self) -> bool:
        return self.may(Role.HELPER)

    @property
    def may_make(self) -> bool:
        return self.may(Role.MAKER)

    @property
    def may_own(self) -> bool:
        return self.may(Role.OWNER)


def new_token() -> str:
    return secrets.token_urlsafe(24)


def in_two_weeks() -> Any:
    return timezone.now() + timedelta(days=14)


class Invitation(WorkshopRow):
    """A link that makes one person a member, once, within two weeks."""

    changes_answers = False

    role = models.PositiveSmallIntegerField(choices=Role.choices)
    token = models.CharField(max_length=40, unique=True, default=new_token)
    invited_by = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")
    created_at = models.DateTimeField(default=timezone.now)
    expires_at = models.DateTimeField(default=in_two_weeks)
    accepted_by = models.ForeignKey(Person, on_delete=models.PROTECT, null=True, blank=True, related_name="+")

    @property
    def is_open(self) -> bool:
        return self.accepted_by_id is None and self.expires_at > timezone.now()


class Submission(WorkshopRow):
    """A form that was carried out, by the token it carried and a digest of its content: the same form sent twice is done once, and what
    was typed into it after Back is a form of its own."""

    changes_answers = False

    token = models.CharField(max_length=64)
    content = models.CharField(max_length=64, default="")
    # A tag of forty letters of another alphabet takes three hundred and sixty in an address.
    answer_url = models.TextField()
    at = models.DateTimeField(default=timezone.now)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["workshop", "token", "content"], name="a_submission_is_done_once")]


class Erasure(models.Model):
    """A workshop that was erased: written by the database function that erases, and by nothing else."""

    name = models.CharField(max_length=80)
    slug = models.CharField(max_length=60)
    by = models.CharField(max_length=80)
    rows = models.BigIntegerField()
    at = models.DateTimeField(default=timezone.now)
