"""The queue's own jobs: what a dead worker left is taken up again, and what is long done is forgotten."""

from datetime import timedelta

from django.utils import timezone
from procrastinate.contrib.django import app

from calm_heron.jobs.models import JobFailure
from calm_heron.jobs.queue import TIDYING, job

FAILURES_FOR = timedelta(days=30)


@app.periodic(cron="* * * * *")  # type: ignore[untyped-decorator]
@app.task(name="jobs.take_up", priority=TIDYING, queueing_lock="jobs.take_up")
async def take_up(timestamp: int) -> None:
    """Begin again what workers left that died in the middle of it."""
    manager = app.job_manager
    for left in await manager.get_stalled_jobs():
        await manager.retry_job(left)


@job("jobs.forget", cron="17 * * * *")
def forget() -> None:
    """Forget failures of a month ago."""
    JobFailure.objects.filter(at__lt=timezone.now() - FAILURES_FOR).delete()
