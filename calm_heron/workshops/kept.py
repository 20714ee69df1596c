"""Whether a form that was sent was carried out: asked by a device that never got the answer."""

from django.http import HttpResponse, JsonResponse

from calm_heron.workshops.doors import WorkshopRequest, in_workshop
from calm_heron.workshops.models import Submission


@in_workshop()
def was_kept(request: WorkshopRequest) -> HttpResponse:
    """For a form's token (``once``) whether it was carried out here."""
    token = request.GET.get("once", "").replace("\x00", "")[:64]
    return JsonResponse({"kept": Submission.objects.of(request.workshop).filter(token=token).exclude(answer_url="").exists()})
