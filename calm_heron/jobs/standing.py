"""How the queue and the installation stand: for the operator's page, and for metrics."""

import os
from dataclasses import dataclass
from datetime import datetime, timedelta
from pathlib import Path

from django.conf import settings
from django.db.models import Count, Min
from django.utils import timezone
from procrastinate.contrib.django.models import ProcrastinateEvent, ProcrastinateJob, ProcrastinateWorker

from calm_heron.jobs.backup_names import failure, made_at
from calm_heron.jobs.models import JobFailure

# A worker that was not heard of for so long is held to be dead.
HEARD_WITHIN = timedelta(seconds=60)
WAITING, AT_WORK, FAILED = "todo", "doing", "failed"


@dataclass(frozen=True)
class QueueState:
    """Jobs by state, the oldest that waits, workers that were heard of lately, and the newest backup (None: none is made or found)."""

    waiting: int
    at_work: int
    failed: int
    oldest: datetime | None
    workers: int
    backup_at: datetime | None
    # When the last nightly backup failed, and why; None where it did not.
    backup_failed: tuple[datetime, str] | None = None

    @property
    def waits_s(self) -> float:
        """How long the oldest job has waited, seconds."""
        return (timezone.now() - self.oldest).total_seconds() if self.oldest else 0.0


def standing() -> QueueState:
    """Read anew."""
    counts = dict(ProcrastinateJob.objects.values_list("status").annotate(Count("id")))
    # When a job was put into the queue stands in its events.
    oldest = ProcrastinateEvent.objects.filter(job__status=WAITING, type="deferred").aggregate(at=Min("at"))["at"]
    workers = ProcrastinateWorker.objects.filter(last_heartbeat__gte=timezone.now() - HEARD_WITHIN).count()
    return QueueState(
        counts.get(WAITING, 0), counts.get(AT_WORK, 0), counts.get(FAILED, 0), oldest, workers, newest_backup(), failed_backup()
    )


def failed_backup() -> tuple[datetime, str] | None:
    """When the last of the nightly backups failed, and why."""
    return failure(Path(settings.NIGHTLY).parent) if settings.NIGHTLY else None


def newest_backup() -> datetime | None:
    """When the newest of the nightly backups was made, by its name."""
    switch = Path(settings.NIGHTLY) if settings.NIGHTLY else None
    try:
        folder = Path(switch.read_text(encoding="utf-8").strip()) if switch else None
        names = os.listdir(folder) if folder else []
    except OSError:
        return None
    moments = [made.astimezone() for name in names if (made := made_at(name))]
    return max(moments, default=None)


@dataclass(frozen=True)
class FailedJob:
    """A job that failed for good, with what its last attempt said."""

    job: ProcrastinateJob
    failure: JobFailure | None


def failed_jobs(limit: int = 50) -> list[FailedJob]:
    """The newest jobs that failed for good."""
    jobs = list(ProcrastinateJob.objects.filter(status=FAILED).order_by("-id")[:limit])
    told: dict[str, JobFailure] = {}
    for said in JobFailure.objects.filter(job__in={item.task_name for item in jobs}).order_by("-at")[: 20 * limit]:
        told.setdefault(f"{said.job} {sorted(said.arguments.items())}", said)
    return [FailedJob(item, told.get(f"{item.task_name} {sorted(item.args.items())}")) for item in jobs]
