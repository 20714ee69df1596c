"""The queue: work that no page waits for, kept in the database and done by workers (:mod:`calm_heron.jobs.worker`).

An app has its jobs in its ``tasks.py``, which is imported when the application starts. A job may run more than once (its worker may die
between its work and its end), so it does what it does by what it finds: done twice, it is done once. It is put into the queue in the
transaction of whoever asks for it: what is rolled back is never asked for.
"""

import traceback
from collections.abc import Callable
from typing import Any

from django.conf import settings
from django.db import close_old_connections, connection, transaction
from procrastinate import RetryStrategy, exceptions
from procrastinate.contrib.django import app
from procrastinate.tasks import Task

from calm_heron.jobs.models import JobFailure

# Renewals that somebody looks at are begun first, then what was asked for, then what tidies up.
LOOKED_AT, ASKED_FOR, TIDYING = 10, 0, -10
# A failed job is tried again after 4, 16, 64 and 256 seconds; the fifth failure is named to the operator.
RETRY = RetryStrategy(max_attempts=4, exponential_wait=4)

Job = Task[Any, Any, Any]


def job(name: str, *, cron: str = "") -> Callable[[Callable[..., None]], Job]:
    """Declare a function as a job that is called by keyword; with ``cron`` it is begun by that clock as well (UTC)."""

    def declare(function: Callable[..., None]) -> Job:
        def work(timestamp: int | None = None, **arguments: Any) -> None:
            _fresh_connection()
            try:
                function(**arguments)
            except Exception as trouble:
                JobFailure.objects.create(job=name, arguments=arguments, error=_told(trouble))
                raise
            finally:
                _fresh_connection()

        work.__doc__ = function.__doc__
        declared: Job = app.task(name=name, retry=RETRY, priority=TIDYING if cron else ASKED_FOR)(work)
        if cron:
            declared = app.periodic(cron=cron, periodic_id=name)(declared)
        return declared

    return declare


def _fresh_connection() -> None:
    """A worker keeps its connection between jobs; one that died meanwhile is replaced."""
    if not connection.in_atomic_block:
        close_old_connections()


def _told(trouble: Exception) -> str:
    """What went wrong, and where in our own code."""
    lines = traceback.format_exception(trouble, limit=-LINES)
    return "".join(lines)[-MOST_TOLD:]


# How much of what went wrong the operator is told.
LINES, MOST_TOLD = 6, 4000


def put(task: Job, *, once: str = "", one_at_a_time: str = "", priority: int = ASKED_FOR, **arguments: Any) -> bool:
    """Put a job into the queue; false where one that does the same (``once``) waits there already, or nothing is worked out behind pages.

    Jobs that share ``one_at_a_time`` never run beside each other. Arguments are what JSON can hold.
    """
    if not settings.WORK_BEHIND:
        return False
    try:
        # What is refused takes back no more than itself.
        with transaction.atomic():
            task.configure(queueing_lock=once or None, lock=one_at_a_time or None, priority=priority).defer(**arguments)
    except exceptions.AlreadyEnqueued:
        return False
    return True
