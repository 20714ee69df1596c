"""How the installation's backups stand, in words for its workshops."""

from datetime import datetime, timedelta

from django.utils import timezone

from calm_heron.site.templatetags.wood_words import ago

# A nightly backup that is older than this has been missed.
LATE = timedelta(hours=36)


def described(made: datetime | None, failed: tuple[datetime, str] | None, is_operator: bool) -> dict[str, str | bool]:
    """The answer large, its reason and the next step; ``is_operator`` says who reads it."""
    asks = "Ask whoever runs this installation"
    if failed:
        word, reason = "The last backup failed", f"It failed {ago(failed[0])}."
        reason += f" The newest that there is was made {ago(made)}." if made else " There is none before it."
        step = "See what failed on the operator’s page; it is tried again every hour." if is_operator else f"{asks} to look at it."
    elif made is None:
        word, reason = "No nightly backups", "This installation makes none, or keeps them where it can’t see them."
        step = (
            "Switch them on:  ./heron backup --nightly on --into FOLDER, best on another disk."
            if is_operator
            else f"{asks} whether your records are backed up in another way."
        )
    elif timezone.now() - made > LATE:
        word, reason = f"Backed up {ago(made)}", "A night has been missed: Calm Heron did not run, or its folder could not be reached."
        step = "Make one now:  ./heron backup --nightly now" if is_operator else f"{asks} to make one."
    else:
        word, reason, step = f"Backed up {ago(made)}", "Every night everything here goes into one file: readings, photographs, people.", ""
    return {"word": word, "reason": reason, "next_step": step, "is_operator": is_operator}
