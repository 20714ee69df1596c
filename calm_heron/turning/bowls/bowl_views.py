"""One turned piece: its weights, what they say, its shape, its cracks, and whether it may go back on the lathe."""

from collections.abc import Callable
from typing import Any

from django.contrib import messages
from django.http import Http404, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from calm_heron.measuring.models import Reading
from calm_heron.site import undo
from calm_heron.stock.models import Piece
from calm_heron.turning import actions
from calm_heron.turning.bowls import crack_actions, finishing, lathe_drawings, lathe_words, soundness
from calm_heron.turning.kinds import MendKind, WayKind
from calm_heron.turning.models import CrackFound, LayElsewhere, Turned, turned
from calm_heron.turning.shelf import shelf_words, weighing, weight_drawings
from calm_heron.turning.shelf.shelf_forms import CrackForm, LayElsewhereForm, MendForm, RoughedForm, TraceForm, TurnedForm, WeighForm
from calm_heron.turning.shelf.shelf_views import addresses, tell_kept
from calm_heron.workshops.doors import WorkshopRequest, in_workshop, once_or_again, once_or_told
from calm_heron.workshops.fields import CalmForm
from calm_heron.workshops.models import Role
from wood.drying.diffusivity import of_species as figures_of
from wood.errors import CannotRead, NotKnown, OutOfRange
from wood.written import weighed_mass

LISTED, MOST_LISTED = 8, 400


def piece_of(request: WorkshopRequest, tag: str) -> Piece:
    """The turned piece with a tag, or 404."""
    piece = (
        Piece.objects.of(request.workshop)
        .filter(tag__iexact=tag)
        .select_related("as_turned", "as_turned__log", "place", "workshop")
        .first()
    )
    if piece is None or not piece.traits.is_turned:
        raise Http404
    return piece


@in_workshop()
def bowl(request: WorkshopRequest, tag: str) -> HttpResponse:
    """A bowl, or a blank that waits to be one."""
    return render(request, "turning/bowl.html", _shown(request, piece_of(request, tag)))


def _shown(request: WorkshopRequest, piece: Piece, **forms: CalmForm) -> dict[str, Any]:
    system, known = request.workshop.system, turned(piece)
    page: dict[str, Any] = {
        "piece": piece,
        "known": known,
        "system": system,
        "addresses": addresses(request),
        "part": "",
        "is_bowl": piece.traits.dries_by_weight,
        "form_turned": TurnedForm(
            initial={name: getattr(known, name) for name in SAID} | {"version": known.seen},
            membership=request.membership,
        ),
    }
    if piece.traits.becomes:
        finish = finishing.finish(piece, known, None)
        page |= {"lathe": lathe_words.describe(finish, system), "danger": soundness.danger_by(finish), "fault": soundness.fault_by(finish)}
        page["form_crack"], page["form_mend"] = CrackForm(membership=request.membership), MendForm(membership=request.membership)
        page["form_roughed"] = RoughedForm(
            initial={"version": piece.version, "diameter_m": piece.width_m, "height_m": piece.thickness_m, "wall_m": piece.width_m * 0.1},
            membership=request.membership,
        )
    if piece.traits.dries_by_weight:
        page |= _weighed(piece, system)
        finish = finishing.finish(piece, known, page["weighed"])
        page |= {
            "lathe": lathe_words.describe(finish, system),
            "lathe_drawing": lathe_drawings.rim(finish, system),
            "danger": soundness.danger_by(finish),
            "box": weighing.in_a_box(piece, known, page["weighed"]),
        }
        page["form_weigh"] = WeighForm(membership=request.membership)
        page["form_trace"] = TraceForm(membership=request.membership)
        page["form_crack"] = CrackForm(membership=request.membership)
        page |= _beside(piece, known)
        page["form_mend"] = MendForm(membership=request.membership)
        page["form_elsewhere"] = LayElsewhereForm(membership=request.membership)
        page["spells"] = weighing.spells_of(piece)
        page["fault"] = soundness.fault_by(finish)
        page["oven"] = piece.oven_sessions.filter(ended_at=None).first()
        page["photo"] = piece.photos.order_by("-at").first()
    return page | forms


# What is said of a turned piece in its form.
SAID = ("form", "way", "rim", "grain", "pith_m", "aside_m", "foot_m", "end_wall_m", "turned_once", "held", "held_m")


def _beside(piece: Piece, known: Turned) -> dict[str, Any]:
    """What the workshop's own bowls say of such a one, and those that were cut from the same log."""
    try:
        learnt = weighing.pace_here(piece.workshop, piece.species_key, known.way, figures_of(piece.species), piece.pk)
    except NotKnown:
        learnt = None
    system = piece.workshop.system
    others = Piece.objects.of(piece.workshop).filter(as_turned__log=known.log).exclude(pk=piece.pk).order_by("tag") if known.log else []
    shelf = {item.piece.pk: item for item in weighing.shelf(piece.workshop)} if others else {}
    return {
        "pace_here": "" if learnt is None else shelf_words.pace_learnt(learnt, piece.species.spoken_name, WayKind(known.way).label),
        "same_log": [(other, shelf_words.in_list(shelf[other.pk].weighed, system) if other.pk in shelf else "") for other in others],
    }


def _weighed(piece: Piece, system: Any) -> dict[str, Any]:
    """What its weights say, drawn, and the weighings themselves, newest first."""
    weighed = weighing.renew(piece)
    entries = list(enumerate(weighing.entries_of(piece)))[::-1]
    absurd = set(weighed.absurd) if weighed is not None else set()
    rows = [(item, position in absurd) for position, item in entries[:MOST_LISTED]]
    if weighed is None:
        return {"weighed": None, "rows": rows[:LISTED], "older": rows[LISTED:], "too_few_figures": bool(entries)}
    out = [
        (round((item.at - weighed.first_at).total_seconds() / weighing.DAY_S, 3), item.mass_kg)
        for position, item in entries
        if position in absurd
    ]
    place = piece.place.name if piece.place else ""
    word, rest, reason = shelf_words.answer(weighed, place, system)
    return {
        "by_whose_air": shelf_words.by_whose_air(place, weighing.whose_air(piece)),
        "weighed": weighed,
        "rows": rows[:LISTED],
        "older": rows[LISTED:],
        "word": word,
        "rest": rest,
        "reason": reason,
        "water": shelf_words.water(weighed, system),
        "pace": shelf_words.pace(weighed),
        "reckoned": shelf_words.reckoned(weighed),
        "foretold": shelf_words.foretold(weighed, system),
        "counted": shelf_words.counted_bowls(weighing.bowls_at_rest(piece)),
        "next": shelf_words.next_weighing(weighed),
        "drawings": [
            ("wide-only", weight_drawings.curve(weighed, system, out=out)),
            ("narrow-only", weight_drawings.curve(weighed, system, weight_drawings.NARROW, out=out)),
        ],
    }


def _done(request: WorkshopRequest, tag: str, name: str, form: CalmForm, do: Callable[[Piece], str]) -> HttpResponse:
    """One of the page's forms: done once, or shown again with what was typed."""
    piece = piece_of(request, tag)
    if form.is_valid():

        def act() -> str:
            try:
                said = do(piece)
                # Empty: it has said so itself, with the way back.
                if said:
                    messages.success(request, said)
            except actions.LooksWrong:
                form.asks_back = True  # type: ignore[attr-defined]
                raise
            return reverse("bowl", args=[request.workshop.slug, piece.tag])

        answer = once_or_again(request, form, act)
        if answer is not None:
            return answer
    return render(request, "turning/bowl.html", _shown(request, piece_of(request, tag), **{name: form}), status=422)


@require_POST
@in_workshop(write=Role.HELPER)
def weigh(request: WorkshopRequest, tag: str) -> HttpResponse:
    """What it weighs."""
    form = WeighForm(request.POST, membership=request.membership)

    def do(piece: Piece) -> str:
        typed = form.cleaned_data
        reading = actions.weigh(request.membership, piece, typed["mass_kg"], typed["at"], meant=typed["meant"])
        tell_kept(request, reading, f"{weighed_mass(typed['mass_kg'], request.workshop.system)} kept.")
        return ""

    return _done(request, tag, "form_weigh", form, do)


@require_POST
@in_workshop(write=Role.HELPER)
def strike(request: WorkshopRequest, tag: str, reading_id: int) -> HttpResponse:
    """A weighing is taken out, or (``do=restore``) put back."""
    piece = piece_of(request, tag)
    reading = Reading.objects.of(request.workshop).filter(pk=reading_id, piece=piece).select_related("piece").first()
    if reading is None:
        raise Http404
    back = reverse("bowl", args=[request.workshop.slug, piece.tag])

    def do() -> str:
        if request.POST.get("do") == "restore":
            actions.put_back_weight(request.membership, reading)
            messages.success(request, "Put back. The journal has both.")
        else:
            actions.strike_weight(request.membership, reading)
            told = weighed_mass(reading.wet_mass_kg or 0.0, request.workshop.system)
            undo.tell(request, f"{told} counts no more. It stays in the journal.", request.path, {"do": "restore"})
        return back

    return once_or_told(request, do, back)


@require_POST
@in_workshop(write=Role.MAKER)
def say(request: WorkshopRequest, tag: str) -> HttpResponse:
    """What it is."""
    form = TurnedForm(request.POST, membership=request.membership)

    def do(piece: Piece) -> str:
        typed = dict(form.cleaned_data)
        version = typed.pop("version")
        typed.pop("once")
        typed["aside_m"] = typed["aside_m"] or 0.0
        actions.say_turned(request.membership, piece, version, **typed)
        return "Kept."

    return _done(request, tag, "form_turned", form, do)


@require_POST
@in_workshop(write=Role.MAKER)
def rough_out(request: WorkshopRequest, tag: str) -> HttpResponse:
    """The blank was turned rough."""
    form = RoughedForm(request.POST, membership=request.membership)

    def do(piece: Piece) -> str:
        typed = form.cleaned_data
        actions.rough_out(request.membership, piece, typed["version"], typed["diameter_m"], typed["height_m"], typed["wall_m"])
        return f"{piece.tag} is a rough bowl now. Weigh it before it dries."

    return _done(request, tag, "form_roughed", form, do)


@require_POST
@in_workshop(write=Role.HELPER)
def trace(request: WorkshopRequest, tag: str) -> HttpResponse:
    """Its rim as it is now."""
    form = TraceForm(request.POST, membership=request.membership)
    if form.is_valid():
        try:
            traced = finishing.traced(form.cleaned_data)
        except CannotRead as error:
            form.add_error(None, f"{error.why[0].upper()}{error.why[1:]}.")
        except OutOfRange:
            form.add_error("known_m", "No bowl has such a rim: is the known length right?")
        else:

            def do(piece: Piece) -> str:
                actions.trace(
                    request.membership,
                    piece,
                    traced,
                    finishing.predicted_m(piece, turned(piece)),
                    stage=form.cleaned_data["stage"],
                    points=form.cleaned_data["points"],
                )
                return "Kept."

            return _done(request, tag, "form_trace", form, do)
    return render(request, "turning/bowl.html", _shown(request, piece_of(request, tag), form_trace=form), status=422)


@require_POST
@in_workshop(write=Role.HELPER)
def crack(request: WorkshopRequest, tag: str) -> HttpResponse:
    """A crack was found."""
    form = CrackForm(request.POST, membership=request.membership)

    def do(piece: Piece) -> str:
        crack_actions.find_crack(request.membership, piece, **{name: value for name, value in form.cleaned_data.items() if name != "once"})
        return "Kept. See above what becomes of it."

    return _done(request, tag, "form_crack", form, do)


@require_POST
@in_workshop(write=Role.HELPER)
def forget_crack(request: WorkshopRequest, tag: str, crack_id: int) -> HttpResponse:
    """A crack is gone, or (``do=restore``) is there after all."""
    piece = piece_of(request, tag)
    back = reverse("bowl", args=[request.workshop.slug, piece.tag])
    if request.POST.get("do") == "restore":
        gone = CrackFound._base_manager.filter(workshop=request.workshop, pk=crack_id, piece=piece).select_related("piece").first()
        if gone is None:
            return redirect(back)

        def again() -> str:
            crack_actions.restore_crack(request.membership, gone)
            return back

        return once_or_told(request, again, back)
    crack = _crack(request, piece, crack_id)
    if crack is None:
        return redirect(back)

    def do() -> str:
        crack_actions.forget_crack(request.membership, crack)
        undo.tell(request, "It is gone. The journal still has it.", request.path, {"do": "restore"})
        return back

    return once_or_told(request, do, back)


def _crack(request: WorkshopRequest, piece: Piece, crack_id: int) -> CrackFound | None:
    return CrackFound.objects.of(request.workshop).filter(pk=crack_id, piece=piece).select_related("piece").first()


@require_POST
@in_workshop(write=Role.HELPER)
def mend(request: WorkshopRequest, tag: str, crack_id: int) -> HttpResponse:
    """A crack was filled or glued, or is open again."""
    piece = piece_of(request, tag)
    crack, form = _crack(request, piece, crack_id), MendForm(request.POST, membership=request.membership)
    if crack is None:
        return redirect("bowl", request.workshop.slug, piece.tag)

    def do(piece: Piece) -> str:
        made = crack_actions.mend_crack(request.membership, crack, form.cleaned_data["how"], form.cleaned_data["what"].strip())
        if made.how == MendKind.OPEN:
            return "It is open again."
        undo.tell(request, f"Saved: {lathe_words.mended(crack)}.", request.path, {"how": MendKind.OPEN.value})
        return ""

    return _done(request, tag, "form_mend", form, do)


@require_POST
@in_workshop(write=Role.HELPER)
def elsewhere(request: WorkshopRequest, tag: str) -> HttpResponse:
    """It lay elsewhere for a while."""
    form = LayElsewhereForm(request.POST, membership=request.membership)

    def do(piece: Piece) -> str:
        typed = {name: value for name, value in form.cleaned_data.items() if name != "once"}
        spell = actions.put_elsewhere(request.membership, piece, typed.pop("kind"), typed.pop("begins"), typed.pop("ends"), **typed)
        back = reverse("not_elsewhere", args=[request.workshop.slug, piece.tag, spell.pk])
        undo.tell(request, f"Saved: it lay {spell.get_kind_display()}. The forecast knows.", back, {})
        return ""

    return _done(request, tag, "form_elsewhere", form, do)


@require_POST
@in_workshop(write=Role.HELPER)
def not_elsewhere(request: WorkshopRequest, tag: str, spell_id: int) -> HttpResponse:
    """Where it lay is taken out, or (``do=restore``) put back."""
    piece = piece_of(request, tag)
    spell = LayElsewhere.objects.of(request.workshop).filter(pk=spell_id, piece=piece).select_related("piece").first()
    if spell is None:
        raise Http404
    back = reverse("bowl", args=[request.workshop.slug, piece.tag])

    def do() -> str:
        restore = request.POST.get("do") == "restore"
        actions.strike_elsewhere(request.membership, spell, restore=restore)
        if restore:
            messages.success(request, "Put back. The forecast knows.")
        else:
            undo.tell(request, "Struck out. The forecast knows nothing of it.", request.path, {"do": "restore"})
        return back

    return once_or_told(request, do, back)
