"""Doing what the queue holds, in tests."""

from concurrent.futures import ThreadPoolExecutor

from calm_heron.jobs import worker


def work_off() -> None:
    """Do what waits. In a thread of its own: one that drives a browser has a loop of its own running."""
    with ThreadPoolExecutor(1) as alone:
        alone.submit(worker.work, wait=False).result()
