"""This app's jobs: answers are worked out anew after a change, before anybody asks; and what is long over is tidied up."""

from calm_heron.answers import changes, saved
from calm_heron.jobs.queue import ASKED_FOR, job, put
from calm_heron.site import dates
from calm_heron.workshops.models import Workshop


@job("answers.renew")
def renew(workshop: int) -> None:
    """Work out what is not true any more of a workshop; of one that is gone there is nothing."""
    there = Workshop.objects.filter(pk=workshop).first()
    if there is not None:
        with dates.as_in(there.language, there.time_zone):
            saved.renew(there)


def renew_soon(workshop_id: int) -> None:
    """Have a workshop's answers renewed behind the pages; once, however often that is asked for before it is begun."""
    put(renew, once=f"answers of {workshop_id}", one_at_a_time=f"answers of {workshop_id}", priority=ASKED_FOR, workshop=workshop_id)


@job("answers.tidy", cron="23 * * * *")
def tidy() -> None:
    """Bring each workshop's counts of changes together, and delete answers of long ago."""
    changes.bring_together()
    saved.sweep()
