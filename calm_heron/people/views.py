"""Pages about workshops and their people."""

from typing import Any

from django.contrib import messages
from django.contrib.auth.decorators import login_required
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from calm_heron.jobs.standing import failed_backup, newest_backup
from calm_heron.people import actions, backup_words, queries
from calm_heron.people.forms import InviteForm, MemberForm, OneForm, SettingsForm, WorkshopForm
from calm_heron.site.addresses import onward
from calm_heron.site.dates import UTC, zones
from calm_heron.workshops.doors import WorkshopRequest, in_workshop, once_or_told
from calm_heron.workshops.models import ROLE_MEANS, Invitation, Role
from calm_heron.workshops.refusals import Refused
from calm_heron.workshops.versions import as_seen


@login_required
def choose(request: HttpRequest) -> HttpResponse:
    """To the only workshop, or a choice of several, or on to founding the first."""
    memberships = list(queries.memberships_of(request.user))  # type: ignore[arg-type]
    if not memberships:
        return redirect("found_workshop")
    if len(memberships) == 1:
        return redirect("today", memberships[0].workshop.slug)
    return render(request, "people/choose.html", {"memberships": memberships})


@login_required
def create_workshop(request: HttpRequest) -> HttpResponse:
    form = WorkshopForm(request.POST or None)
    if form.is_valid():
        try:
            zone = request.POST.get("time_zone", "")

            workshop = actions.found_workshop(request.user, **form.cleaned_data, time_zone=zone if zone in zones() else UTC)  # type: ignore[arg-type]
        except Refused as refused:
            form.add_error(None, str(refused))
        else:
            return onward(request, reverse("today", args=[workshop.slug]))
    return render(request, "people/found.html", {"form": form})


def join(request: HttpRequest, token: str) -> HttpResponse:
    """What an invitation link opens: who invites to what, and one button. Strangers sign up first and come back."""
    invitation = Invitation.objects.select_related("workshop", "invited_by").filter(token=token).first()
    refusal = ""
    if request.method == "POST" and request.user.is_authenticated:
        try:
            return redirect("today", actions.join(request.user, token).workshop.slug)
        except Refused as refused:
            refusal = str(refused)
    if invitation is None or (not invitation.is_open and not refusal):
        refusal = "This invitation is not known, was used already, or is older than two weeks. Ask for a new link."
    page = {"invitation": invitation, "refusal": refusal, "means": ROLE_MEANS.get(invitation.role) if invitation else ""}
    return render(request, "people/join.html", page, status=404 if refusal else 200)


@in_workshop(write=Role.OWNER)
def people(request: WorkshopRequest) -> HttpResponse:
    return render(request, "people/people.html", people_page(request))


def people_page(request: WorkshopRequest, **forms: Any) -> dict[str, Any]:
    workshop = request.workshop
    return {
        "members": queries.members_of(workshop),
        "roles": [(role, ROLE_MEANS[role]) for role in reversed(Role)],
        "invitations": [
            (invitation, request.build_absolute_uri(reverse("join", args=[invitation.token])))
            for invitation in (queries.open_invitations(workshop) if request.membership.may_own else ())
        ],
        "invite_form": InviteForm(membership=request.membership),
        "units_form": SettingsForm(initial=dict(zip(SettingsForm.base_fields, actions.settings_of(workshop), strict=True))),
        "seen": as_seen(*actions.settings_of(workshop)),
        **forms,
    }


@in_workshop()
def backup(request: WorkshopRequest) -> HttpResponse:
    """When the whole installation was last backed up, and who does that how. Nothing of it can be had through the web."""
    is_operator = getattr(request.user, "is_operator", False)
    return render(request, "people/backup.html", backup_words.described(newest_backup(), failed_backup(), is_operator))


@require_POST
@in_workshop(write=Role.OWNER)
def invite(request: WorkshopRequest) -> HttpResponse:
    form = InviteForm(request.POST, membership=request.membership)
    if not form.is_valid():
        return render(request, "people/people.html", people_page(request, invite_form=form), status=422)

    def do() -> str:
        actions.invite(request.membership, form.cleaned_data["role"])
        return reverse("people", args=[request.workshop.slug]) + "#invite"

    return once_or_told(request, do, reverse("people", args=[request.workshop.slug]))


@require_POST
@in_workshop(write=Role.OWNER)
def withdraw(request: WorkshopRequest) -> HttpResponse:
    form = OneForm(request.POST, membership=request.membership)
    page = reverse("people", args=[request.workshop.slug]) + "#invitations"
    if not form.is_valid():
        return redirect(page)

    def do() -> str:
        actions.withdraw(request.membership, form.cleaned_data["which"])
        return page

    return once_or_told(request, do, page)


@require_POST
@in_workshop(write=Role.OWNER)
def new_password(request: WorkshopRequest) -> HttpResponse:
    """The link is shown once, on the answer itself, and kept nowhere."""
    form = OneForm(request.POST, membership=request.membership)
    if form.is_valid():
        try:
            member, path = actions.new_password_link(request.membership, form.cleaned_data["which"])
        except Refused as refused:
            messages.error(request, str(refused))
        else:
            shown = {"new_password_for": member.person, "new_password_link": request.build_absolute_uri(path)}
            return render(request, "people/people.html", people_page(request, **shown))
    return redirect("people", request.workshop.slug)


@require_POST
@in_workshop(write=Role.OWNER)
def change_role(request: WorkshopRequest) -> HttpResponse:
    form = MemberForm(request.POST, membership=request.membership)
    if form.is_valid():
        try:
            actions.change_role(request.membership, form.cleaned_data["member"], form.cleaned_data["role"])
        except Refused as refused:
            messages.error(request, str(refused))
    else:
        messages.error(request, "That is not a role this workshop knows. Choose one of the list.")
    return redirect("people", request.workshop.slug)


@require_POST
@in_workshop(write=Role.OWNER)
def set_units(request: WorkshopRequest) -> HttpResponse:
    form = SettingsForm(request.POST)
    if not form.is_valid():
        return render(request, "people/people.html", people_page(request, units_form=form), status=422)
    try:
        actions.set_units(request.membership, **form.cleaned_data, seen=request.POST.get("seen", ""))
    except Refused as refused:
        form.add_error(None, str(refused))
        request.workshop.refresh_from_db()
        return render(request, "people/people.html", people_page(request, units_form=form), status=422)
    messages.success(request, "Kept. What is stored has not changed, only how it is written.")
    return redirect("people", request.workshop.slug)
