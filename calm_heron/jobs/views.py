"""For whoever keeps the installation running: whether it is ready, its figures, and the queue. Everybody else finds nothing there."""

import hmac
from collections.abc import Callable
from typing import Any

from django.conf import settings
from django.contrib import messages
from django.db import DatabaseError, connection, transaction
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_POST, require_safe
from procrastinate.contrib.django import app
from procrastinate.contrib.django.models import ProcrastinateJob
from prometheus_client import CONTENT_TYPE_LATEST, REGISTRY, CollectorRegistry, Gauge, generate_latest, multiprocess

from calm_heron.jobs.standing import FAILED, failed_jobs, standing
from calm_heron.jobs.words import described


def _is_operator(request: HttpRequest) -> bool:
    return request.user.is_authenticated and getattr(request.user, "is_operator", False)


def for_the_operator(view: Callable[..., HttpResponse]) -> Callable[..., HttpResponse]:
    """The door of the operator's pages: to everybody else they are not there."""

    def wrapped(request: HttpRequest, *args: Any, **kwargs: Any) -> HttpResponse:
        if not _is_operator(request):
            raise Http404
        return view(request, *args, **kwargs)

    return wrapped


@require_safe
def ready(request: HttpRequest) -> HttpResponse:
    """For whoever sends requests here: the database answers."""
    try:
        with connection.cursor() as cursor:
            cursor.execute("SELECT 1")
    except DatabaseError:
        return HttpResponse("the database does not answer", content_type="text/plain", status=503, headers={"Retry-After": "3"})
    return HttpResponse("ready", content_type="text/plain")


@require_safe
@for_the_operator
def queue(request: HttpRequest) -> HttpResponse:
    """How the queue stands, and which jobs failed."""
    now = standing()
    word, reason, next_step = described(now)
    counts = (("Waiting", now.waiting), ("Being done", now.at_work), ("Failed", now.failed), ("Workers", now.workers))
    page = {"standing": now, "counts": counts, "word": word, "reason": reason, "next_step": next_step, "failed": failed_jobs()}
    return render(request, "jobs/queue.html", page)


@require_POST
@for_the_operator
def again(request: HttpRequest, job_id: int) -> HttpResponse:
    """Have a failed job tried once more."""
    job = ProcrastinateJob.objects.filter(pk=job_id, status=FAILED).first()
    if job is None:
        messages.error(request, "That job has not failed, or is not there any more.")
    else:
        with transaction.atomic():
            app.configure_task(job.task_name, lock=job.lock, priority=job.priority).defer(**job.args)
            ProcrastinateJob.objects.filter(pk=job.pk).delete()
        messages.success(request, f"Job {job.pk} is tried once more.")
    return redirect("operator")


@require_safe
def metrics(request: HttpRequest) -> HttpResponse:
    """Figures for Prometheus: to the operator, and to who sends the token that the settings name."""
    sent = request.headers.get("Authorization", "").removeprefix("Bearer ").encode()
    has_token = bool(settings.METRICS_TOKEN) and hmac.compare_digest(sent, settings.METRICS_TOKEN.encode())
    if not has_token and not _is_operator(request):
        raise Http404
    counted = REGISTRY
    if settings.METRICS_FOLDER:
        # All processes that serve write theirs into one folder.
        counted = CollectorRegistry()
        multiprocess.MultiProcessCollector(counted)  # type: ignore[no-untyped-call]
    return HttpResponse(generate_latest(counted) + generate_latest(_gauges()), content_type=CONTENT_TYPE_LATEST)


def _gauges() -> CollectorRegistry:
    """What stands in the database and on the disk, read anew."""
    now, registry = standing(), CollectorRegistry()
    jobs = Gauge("calm_heron_jobs", "Jobs in the queue by state.", ["state"], registry=registry)
    for state, count in (("waiting", now.waiting), ("at work", now.at_work), ("failed", now.failed)):
        jobs.labels(state).set(count)
    Gauge("calm_heron_oldest_job_seconds", "How long the oldest job has waited.", registry=registry).set(now.waits_s)
    Gauge("calm_heron_workers", "Workers that were heard of within a minute.", registry=registry).set(now.workers)
    Gauge("calm_heron_backup_failed", "1 while the last nightly backup is one that failed.", registry=registry).set(bool(now.backup_failed))
    if now.backup_at is not None:
        made = Gauge("calm_heron_last_backup_seconds", "When the newest nightly backup was made, seconds since 1970.", registry=registry)
        made.set(now.backup_at.timestamp())
    return registry
