"""Sample boards of a load at work: cutting them, their sections out of the oven, weighing them, and taking a weight out."""

from django.contrib import messages
from django.http import Http404, HttpResponse
from django.urls import reverse
from django.views.decorators.http import require_POST

from calm_heron.kiln import actions
from calm_heron.kiln.models import Load, SampleWeight
from calm_heron.kiln.runs.run_forms import LoadSampleForm, SectionsForm, WeighSamplesForm
from calm_heron.kiln.runs.run_views import done, load_of
from calm_heron.site.numbers import counted
from calm_heron.workshops.doors import WorkshopRequest, in_workshop, once_or_told
from calm_heron.workshops.models import Role


@require_POST
@in_workshop(write=Role.HELPER)
def cut_sample(request: WorkshopRequest, load_tag: str) -> HttpResponse:
    """A sample is cut."""
    form = LoadSampleForm(request.POST, membership=request.membership, load=load_of(request, load_tag))

    def do(load: Load) -> str:
        typed = form.cleaned_data
        made = actions.add_sample(
            request.membership,
            load,
            typed["tag"].strip(),
            typed["piece"],
            typed["mass_kg"],
            typed["moisture"],
            typed["at"],
            sections=form.sections,
        )
        if made.dry_mass_kg is None:
            return f"Sample {made.tag} is kept. Its moisture is known once its sections are out of the oven."
        return f"Sample {made.tag} is kept."

    return done(request, load_tag, "form_sample", form, do)


@require_POST
@in_workshop(write=Role.HELPER)
def oven(request: WorkshopRequest, load_tag: str, sample_id: int) -> HttpResponse:
    """Its sections are out of the oven."""
    load = load_of(request, load_tag)
    sample = load.samples.filter(pk=sample_id).first()
    if sample is None:
        raise Http404
    form = SectionsForm(request.POST, membership=request.membership, sample=sample)

    def do(load: Load) -> str:
        dried = actions.dry_sections(request.membership, sample, form.dry_kg)
        return f"Sample {dried.tag} counts from now on."

    return done(request, load_tag, "form_oven", form, do)


@require_POST
@in_workshop(write=Role.HELPER)
def weigh(request: WorkshopRequest, load_tag: str) -> HttpResponse:
    """What its samples weigh."""
    form = WeighSamplesForm(request.POST, membership=request.membership, samples=load_of(request, load_tag).samples.order_by("tag"))

    def do(load: Load) -> str:
        count = actions.weigh(request.membership, load, form.masses, form.cleaned_data["at"])
        return f"{counted(count, 'weight')} kept."

    return done(request, load_tag, "form_weigh", form, do)


@require_POST
@in_workshop(write=Role.HELPER)
def strike(request: WorkshopRequest, load_tag: str, weight_id: int) -> HttpResponse:
    """A weighing is taken out."""
    load = load_of(request, load_tag)
    weight = (
        SampleWeight.objects.of(request.workshop).filter(pk=weight_id, sample__load=load).select_related("sample", "sample__load").first()
    )
    if weight is None:
        raise Http404
    back = reverse("load", args=[request.workshop.slug, load.tag])

    def do() -> str:
        actions.strike_weight(request.membership, weight)
        messages.success(request, "That weight counts no more.")
        return back

    return once_or_told(request, do, back)
