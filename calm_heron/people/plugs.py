"""What the people of a workshop bring to the pages that are composed."""

from calm_heron.people import words
from calm_heron.people.actions import KIND
from calm_heron.plugs import LOG_KINDS, PAGES, PARTS, LogKind, Page, Part

PARTS.add(Part(90, "Workshop", "people", group="Records"))
LOG_KINDS.add(LogKind(90, KIND, "People", words.LOG))
PAGES.add(
    Page(91, "Units, name and clock", "people", words="inches millimetres metric language time zone", at="#units", beside="Workshop"),
    Page(92, "Invite someone", "people", words="invitation member colleague role people", at="#invite", beside="Workshop"),
    Page(93, "Backup", "backup", words="save copy restore safe nightly", beside="Workshop"),
)
