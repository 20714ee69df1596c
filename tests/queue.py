"""Doing what the queue holds, in tests."""

from concurrent.futures import ThreadPoolExecutor
from unittest import mock

from procrastinate.contrib.django import procrastinate_app
from procrastinate.periodic import PeriodicRegistry

from calm_heron.jobs import worker


def work_off() -> None:
    """Do what waits and nothing that the clock asks for, so that a test ends alike at every minute. In a thread of its own: one that
    drives a browser has a loop of its own running.
    """
    clockless = mock.patch.object(procrastinate_app.current_app, "periodic_registry", PeriodicRegistry())
    with clockless, ThreadPoolExecutor(1) as alone:
        alone.submit(worker.work, wait=False).result()
