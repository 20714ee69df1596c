"""An entry of the log as a sentence, made when it is read, from the words of the app that wrote it."""

from calm_heron.logbook.models import AS_WRITTEN, Entry
from calm_heron.plugs import LOG_KINDS, Sentence
from wood.units import System


def sentence_of(kind: str, what: str) -> Sentence | None:
    """The words that a registered kind has for a code, or None where there are none."""
    return next((log_kind.words.get(what) for log_kind in LOG_KINDS if log_kind.key == kind), None)


def describe(entry: Entry, system: System) -> str:
    """The entry in words, in units of a system.

    Entries that were kept as a text before entries had codes are that text; one whose app is not there any more is its bare code.
    """
    if entry.what == AS_WRITTEN:
        return entry.data["text"]
    sentence, data = sentence_of(entry.kind, entry.what), {**entry.data, "subject": entry.subject}
    if sentence is None:
        return f"{entry.subject}: {entry.kind}, {entry.what}"
    return sentence.format(**data) if isinstance(sentence, str) else sentence(data, system)
