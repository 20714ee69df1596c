"""A worker: it takes jobs from the queue one after another until it is ended. Any number may run, on any machine that reaches the
database."""

import asyncio
import logging

from procrastinate import exceptions
from procrastinate.contrib.django import app

logger = logging.getLogger(__name__)
# Without a notice from the database (one may be lost with its connection) it looks so often by itself.
LOOK_SECONDS = 5.0
# How long it waits before it tries to reach a database that is away, and for its job when it is to end.
AGAIN_SECONDS, ENDING_SECONDS = 2.0, 5.0


def work(*, wait: bool = True) -> None:
    """Take jobs until the process is told to end; with ``wait`` false until none is left."""
    asyncio.run(_work(wait))


async def _work(wait: bool) -> None:
    while True:
        try:
            with app.replace_connector(app.connector.get_worker_connector()) as working:  # type: ignore[attr-defined]
                async with working.open_async():
                    await working.run_worker_async(
                        wait=wait,
                        concurrency=1,
                        fetch_job_polling_interval=LOOK_SECONDS,
                        shutdown_graceful_timeout=ENDING_SECONDS,
                        delete_jobs="successful",
                        listen_notify=wait,
                        install_signal_handlers=wait,
                    )
            return
        except exceptions.ConnectorException:
            if not wait:
                raise
            logger.warning("The database cannot be reached; the worker tries again.")
            await asyncio.sleep(AGAIN_SECONDS)
