"""The stacks that stand: the yard from above, one stack by itself, building, changing and taking down."""

from dataclasses import replace
from functools import partial
from typing import Any

from django.contrib import messages
from django.http import Http404, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.utils import timezone
from django.views.decorators.http import require_POST

from calm_heron.measuring import queries as measuring
from calm_heron.measuring.wood_now import wood_now
from calm_heron.site import undo
from calm_heron.stacks import actions, outcomes, standing, standing_drawings, words
from calm_heron.stacks.forms import BUILT, BuiltForm, DownForm, HappenedForm, OutcomeForm, by_tags
from calm_heron.stacks.models import Stack, StackEvent
from calm_heron.stacks.planning import green
from calm_heron.workshops import spell_views
from calm_heron.workshops.doors import WorkshopRequest, in_workshop, once_or_again, once_or_told
from calm_heron.workshops.models import Role
from calm_heron.workshops.refusals import Refused
from wood.stacks import stickers


def _stack(request: WorkshopRequest, stack_tag: str) -> Stack:
    stack = Stack.objects.of(request.workshop).select_related("place").filter(tag__iexact=stack_tag).first()
    if stack is None:
        raise Http404
    return stack


@in_workshop()
def yard(request: WorkshopRequest) -> HttpResponse:
    """Which stacks stand, and which is ready to move?"""
    results = [standing.now(stack) for stack in standing.stacks_of(request.workshop)]
    page = {
        "stacks": [(item, standing.ready_on(item)) for item in results],
        "ready": [item for item in results if item.is_ready],
        "down": standing.down_of(request.workshop),
        "maps": [
            (place, standing_drawings.yards([item for item in results if item.stack.place == place], request.workshop.system))
            for place in dict.fromkeys(item.stack.place for item in results)
        ],
    }
    return render(request, "stacks/yard.html", page)


@in_workshop()
def stack(request: WorkshopRequest, stack_tag: str) -> HttpResponse:
    """How is this stack doing?"""
    stack = _stack(request, stack_tag)
    return render(request, "stacks/stack.html", _shown(request, stack, _as_built(request, stack)))


def _as_built(request: WorkshopRequest, stack: Stack) -> BuiltForm:
    """The form that changes it, with what is kept."""
    initial = {name: getattr(stack, name) for name in (*BUILT, "version")}
    return BuiltForm(membership=request.membership, new=False, initial=initial | {"place": stack.place_id})


def _shown(request: WorkshopRequest, stack: Stack, form: BuiltForm, note: HappenedForm | None = None) -> dict[str, Any]:
    """A stack as its page shows it, and the form that changes it. Each lot is at what all pages have of it."""
    current, followed = standing.now(stack), wood_now(request.workshop)
    lots = [replace(lot, moisture=followed[lot.piece.pk].moisture) if lot.piece.pk in followed else lot for lot in current.lots]
    current = replace(current, lots=lots) if stack.standing else current
    return {
        "current": current,
        "stack": stack,
        "ready_on": standing.ready_on(current),
        "form": form,
        "pace": words.pace(current),
        "breaches": [words.breach(item, request.workshop.system) for item in current.breaches],
        "across": standing_drawings.across(current) if current.progress else None,
        "events": list(stack.events.standing().select_related("by").order_by("-goes_on", "-at")[:30]),
        "form_note": note or HappenedForm(membership=request.membership),
        "outcome": None if stack.standing else outcomes.of_stack(stack),
        "form_outcome": OutcomeForm(membership=request.membership, initial={"out_m3": stack.out_m3, "learnt": stack.learnt}),
        "down": DownForm(membership=request.membership, initial={"version": stack.version}),
    }


@in_workshop(write=Role.MAKER, only=True)
def build(request: WorkshopRequest) -> HttpResponse:
    """Add a stack that is built."""
    form = BuiltForm(request.POST or None, membership=request.membership, new=True, initial=_begun(request))
    if form.is_valid():
        answer = once_or_again(request, form, lambda: _keep(request, form))
        if answer is not None:
            return answer
    return render(request, "stacks/build.html", {"form": form}, status=422 if form.errors else 200)


def _begun(request: WorkshopRequest) -> dict[str, Any]:
    """What the form begins with: the lot that was named, with the stickers that are usual for it."""
    typed = request.GET.get("lots", "")[:400]
    pieces, _ = by_tags(request.workshop, typed)
    begun: dict[str, Any] = {
        "lots": typed,
        "width_m": 1.2192 if request.workshop.system.is_inch else 1.2,
        "clear_m": 0.3048 if request.workshop.system.is_inch else 0.3,
    }
    if pieces:
        main = pieces[0]
        moisture = measuring.moisture_to_begin_from(main)
        usual = stickers.usual(main.species, main.thickness_m, 0.8 if moisture is None else moisture)
        begun |= {"sticker_m": usual.thickness_m, "spacing_m": usual.spacing_m, "place": main.place_id}
        if moisture is not None:
            begun["start_moisture"] = moisture
    for name in ("width_m", "sticker_m", "spacing_m", "clear_m"):
        if request.GET.get(name):
            begun[name] = request.GET[name][:30]
    return begun


def _keep(request: WorkshopRequest, form: BuiltForm) -> str:
    typed_values = form.cleaned_data
    pieces, start = typed_values["lots"], typed_values["start_moisture"]
    joined = timezone.localdate() if typed_values["now"] is not None else None
    if joined is not None:
        start = typed_values["now"]
    if start is None:
        start = green(pieces[0].species)
    when = typed_values["built_on"]
    day = timezone.localtime(when).date() if when else timezone.localdate()
    values = form.built
    place = values.pop("place")
    stack = actions.build_stack(request.membership, pieces, place, day, start, tag=typed_values["tag"].strip(), joined_on=joined, **values)
    foretold = standing.now(stack).foretold_days
    if foretold is not None:
        actions.foretell(request.membership, stack, foretold)
    messages.success(request, f"{stack.tag} is kept. Its lots lie in {place} now.")
    return reverse("stack", args=[request.workshop.slug, stack.tag])


@require_POST
@in_workshop(write=Role.HELPER)
def change(request: WorkshopRequest, stack_tag: str) -> HttpResponse:
    """Turn it, cover it, restack it, move it."""
    stack = _stack(request, stack_tag)
    form = BuiltForm(request.POST, membership=request.membership, new=False)
    if form.is_valid():

        def do() -> str:
            actions.change_stack(request.membership, stack, form.cleaned_data["version"], **form.built)
            messages.success(request, "Kept.")
            return reverse("stack", args=[request.workshop.slug, stack.tag])

        answer = once_or_again(request, form, do, changing=stack)
        if answer is not None:
            return answer
    return render(request, "stacks/stack.html", _shown(request, stack, form), status=422)


@require_POST
@in_workshop(write=Role.HELPER)
def outcome(request: WorkshopRequest, stack_tag: str) -> HttpResponse:
    """What came of it."""
    stack = _stack(request, stack_tag)
    form, back = OutcomeForm(request.POST, membership=request.membership), reverse("stack", args=[request.workshop.slug, stack.tag])

    def do() -> str:
        actions.tell_outcome(request.membership, stack, form.cleaned_data["out_m3"], form.cleaned_data["learnt"].strip())
        messages.success(request, "Kept.")
        return back

    if form.is_valid():
        answer = once_or_again(request, form, do)
        if answer is not None:
            return answer
    page = _shown(request, stack, _as_built(request, stack)) | {"form_outcome": form}
    return render(request, "stacks/stack.html", page, status=422)


@require_POST
@in_workshop(write=Role.HELPER)
def note(request: WorkshopRequest, stack_tag: str) -> HttpResponse:
    """Something happened to it."""
    stack = _stack(request, stack_tag)
    form = HappenedForm(request.POST, membership=request.membership)
    if form.is_valid():

        def do() -> str:
            actions.note(request.membership, stack, form.cleaned_data["kind"], form.cleaned_data["words"], **form.span)
            messages.success(request, "Kept, and the forecast is made anew.")
            return reverse("stack", args=[request.workshop.slug, stack.tag])

        answer = once_or_again(request, form, do)
        if answer is not None:
            return answer
    return render(request, "stacks/stack.html", _shown(request, stack, _as_built(request, stack), form), status=422)


@require_POST
@in_workshop(write=Role.HELPER)
def event(request: WorkshopRequest, stack_tag: str, event_id: int) -> HttpResponse:
    """Something that was noted is over, or was not so."""
    stack = _stack(request, stack_tag)
    spell_views.change(
        request,
        StackEvent.objects.of(request.workshop).filter(stack=stack),
        event_id,
        partial(actions.change_event, request.membership, stack),
        lambda pk: reverse("stack_event", args=[request.workshop.slug, stack.tag, pk]),
    )
    return redirect("stack", request.workshop.slug, stack.tag)


@require_POST
@in_workshop(write=Role.HELPER)
def take_down(request: WorkshopRequest, stack_tag: str) -> HttpResponse:
    """It stands no more."""
    stack = _stack(request, stack_tag)
    form, back = DownForm(request.POST, membership=request.membership), reverse("stack", args=[request.workshop.slug, stack.tag])
    if not form.is_valid():
        messages.error(request, "That was not kept: open the stack again, and say it once more.")
        return redirect(back)

    if request.POST.get("do") == "stand":
        try:
            actions.stand_again(request.membership, stack)
            messages.success(request, f"{stack.tag} stands again.")
        except Refused as refused:
            messages.error(request, str(refused))
        return redirect(back)

    def do() -> str:
        typed = form.cleaned_data
        came = {lot.piece.pk: lot.came_out for lot in standing.now(stack).lots if lot.progress or lot.was_read}
        actions.take_down(request.membership, stack, typed["version"], came, out_m3=typed["out_m3"], learnt=typed["learnt"].strip())
        again = {"do": "stand", "version": str(stack.version)}
        undo.tell(request, f"{stack.tag} is taken down. Its lots stay where they lie.", request.path, again)
        return reverse("stacks", args=[request.workshop.slug])

    return once_or_told(request, do, back)
