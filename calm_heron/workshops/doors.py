"""The door of every workshop page: who is at it, whether they belong, and what they may do."""

import functools
import hashlib
import uuid
from collections.abc import Callable
from typing import Any

from django.contrib import messages
from django.contrib.auth.decorators import login_required
from django.db import IntegrityError, transaction
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render

from calm_heron.site import dates
from calm_heron.workshops import quota
from calm_heron.workshops.fields import CalmForm
from calm_heron.workshops.models import Membership, Role, Submission, Workshop
from calm_heron.workshops.refusals import Refused, require
from calm_heron.workshops.versions import Versioned

SAFE = ("GET", "HEAD")


class WorkshopRequest(HttpRequest):
    """A request that has passed the door of a workshop."""

    membership: Membership
    workshop: Workshop


def in_workshop(*, write: Role = Role.OWNER, only: bool = False) -> Callable[..., Any]:
    """A view inside a workshop: members may look, members with at least the role ``write`` may send forms.

    Anybody else gets 404, whether or not the workshop exists; a member with too low a role gets 403. The view gets
    ``request.membership`` and ``request.workshop``. A page that is nothing but its form is shown to them ``only``.
    """

    def decorate(view: Callable[..., Any]) -> Callable[..., Any]:
        @functools.wraps(view)
        @login_required
        def wrapped(request: WorkshopRequest, workshop: str, *args: Any, **kwargs: Any) -> HttpResponse:
            membership = (
                Membership.objects.select_related("workshop", "person").filter(workshop__slug=workshop, person=request.user).first()
            )
            if membership is None:
                raise Http404
            if only or request.method not in SAFE:
                require(membership, write)
            request.membership, request.workshop = membership, membership.workshop
            if membership.person.is_visitor and request.method not in SAFE and quota.is_full(membership.workshop):
                return render(request, "workshops/full.html", {"workshop": membership.workshop, "why": quota.FULL}, status=422)
            with dates.as_in(membership.workshop.language, membership.workshop.time_zone):
                return view(request, *args, **kwargs)

        wrapped.only = only  # type: ignore[attr-defined]
        wrapped.write_role = write  # type: ignore[attr-defined]  # read by the test that knocks at every door
        return wrapped

    return decorate


# What a form carries that is not what somebody typed.
UNTYPED = ("csrfmiddlewaretoken", "once")


class DoneAlready(Exception):
    """This very form was carried out before; ``answer_url`` is where it led."""

    def __init__(self, answer_url: str) -> None:
        super().__init__(answer_url)
        self.answer_url = answer_url


def content_of(request: HttpRequest) -> str:
    """A digest of all that was sent, and to where: two forms are the same only if nothing in them differs, files included."""
    digest = hashlib.sha256(request.path.encode())
    for name in sorted(request.POST):
        if name not in UNTYPED:
            digest.update(repr((name, request.POST.getlist(name))).encode(errors="backslashreplace"))
    for name in sorted(request.FILES):
        for file in request.FILES.getlist(name):
            digest.update(repr((name, file.name, file.size)).encode(errors="backslashreplace"))
            for chunk in file.chunks():
                digest.update(chunk)
            file.seek(0)
    return digest.hexdigest()


def claim(membership: Membership, token: str, content: str) -> Submission:
    """Mark a form as being carried out, inside the caller's transaction; a second one waits here for the first.

    The same token with other content is another form: somebody went back and typed something else.

    Raises:
        DoneAlready: the token was carried out before with this content.
    """
    try:
        with transaction.atomic():
            return Submission.objects.create(workshop=membership.workshop, token=token, content=content, answer_url="")
    except IntegrityError:
        raise DoneAlready(Submission.objects.of(membership.workshop).get(token=token, content=content).answer_url) from None


def once(request: WorkshopRequest, do: Callable[[], str]) -> HttpResponse:
    """Carry out ``do`` (which returns the address to go to next) in one transaction, and at most once for what the form carries."""
    token = request.POST.get("once", "")[:64] or uuid.uuid4().hex
    try:
        with transaction.atomic():
            submission = claim(request.membership, token, content_of(request))
            submission.answer_url = do()
            submission.save(update_fields=["answer_url"])
    except DoneAlready as done:
        return redirect(done.answer_url)
    return redirect(submission.answer_url)


def once_or_again(
    request: WorkshopRequest, form: CalmForm, do: Callable[[], str], changing: Versioned | None = None
) -> HttpResponse | None:
    """As :func:`once`; where the action refuses, its reason goes beside its field and None says to show the form again.

    With ``changing``, the row being changed, the form takes over the row's present version: sent again, it is meant.
    """
    try:
        return once(request, do)
    except Refused as refused:
        form.refuse(refused)
    # Where the row itself is gone there is no version to take over; the reason says so beside what was typed.
    if changing is not None and type(changing)._base_manager.filter(pk=changing.pk).exists():
        changing.refresh_from_db()
        form.data = {**request.POST.dict(), "version": changing.version}
    return None


def once_or_told(request: WorkshopRequest, do: Callable[[], str], back: str) -> HttpResponse:
    """As :func:`once`, for a button without a form to show again: a refusal is told on the page it was pressed on, ``back``."""
    try:
        return once(request, do)
    except Refused as refused:
        messages.error(request, str(refused))
        return redirect(back)
