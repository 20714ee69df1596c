"""How the queue stands, in words."""

from calm_heron.jobs.standing import QueueState
from calm_heron.site.numbers import counted


def described(now: QueueState) -> tuple[str, str, str]:
    """The answer large, its reason, and the next step where there is one."""
    if not now.workers:
        return (
            "No worker",
            "No worker was heard of within a minute, so nothing is worked out behind the pages.",
            "See that Calm Heron was started with its start command, or begin one more worker with ./heron work.",
        )
    if now.backup_failed:
        return (
            "No backup last night",
            f"The last nightly backup failed: {now.backup_failed[1] or 'why was not said'}",
            "Mend what it names; it is tried again every hour, and ./heron backup --nightly now makes one at once.",
        )
    if now.failed:
        return (
            "Not all of it",
            f"{counted(now.failed, 'job')} failed for good after five attempts. Pages show what was worked out before, with its day.",
            "Read below what went wrong; once that is mended, try each again.",
        )
    if now.waiting or now.at_work:
        return "It is being done", f"{counted(now.waiting + now.at_work, 'job')} to do.", ""
    return "All of it", "Nothing waits.", ""
