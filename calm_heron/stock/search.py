"""What people type to find wood: ``oak >12 yard``, ``8/4 lots``, ``ready bench``, ``unread``, ``10-12``, ``all``."""

import re
from dataclasses import dataclass, field

from calm_heron.stock.models import Kind, Status
from wood.readiness import State

MOST_WORDS = 12
STATE_WORDS = {
    "ready": State.READY, "close": State.CLOSE, "wait": State.WAIT, "too-dry": State.TOO_DRY, "uneven": State.TOO_UNEVEN,
    "too-uneven": State.TOO_UNEVEN, "cannot-tell": State.CANNOT_TELL,
}  # fmt: skip
KIND_WORDS = {
    "blank": (Kind.BLANK, Kind.SPINDLE),
    "bowl": (Kind.BOWL,),
    **{kind.value: (kind,) for kind in Kind if kind != Kind.BLANK and kind != Kind.BOWL},
}
KIND_WORDS |= {word + "s": kinds for word, kinds in KIND_WORDS.items()}
STATUS_WORDS = {"used": (Status.USED,), "scrapped": (Status.SCRAPPED,), "all": tuple(Status)}
_NUMBER = r"(\d{1,3}(?:[.,]\d{1,3})?)%?"


@dataclass
class Search:
    """A search as it was understood. Moistures are fractions; everything given must hold at once."""

    words: list[str] = field(default_factory=list)
    above: float | None = None
    below: float | None = None
    nominal: str = ""
    kinds: tuple[str, ...] = ()
    statuses: tuple[str, ...] = (Status.IN_STOCK,)
    states: set[State] = field(default_factory=set)
    lots: bool = False
    unread: bool = False

    @property
    def asks_for_moisture(self) -> bool:
        return self.above is not None or self.below is not None


def understand(text: str) -> Search:
    """Read a search; a word that is no sign of ours is looked for in tags, species, places and notes.

    >>> found = understand("oak >12 yard")
    >>> found.words, found.above
    (['oak', 'yard'], 0.12)
    """
    found = Search()
    for word in text.casefold().replace("> ", ">").replace("< ", "<").split()[:MOST_WORDS]:
        if limit := re.fullmatch(rf"([<>])=?{_NUMBER}", word):
            value = _fraction(limit[2])
            found.above, found.below = (value, found.below) if limit[1] == ">" else (found.above, value)
        elif between := re.fullmatch(rf"{_NUMBER}(?:-|–|\.\.){_NUMBER}", word):
            found.above, found.below = sorted((_fraction(between[1]), _fraction(between[2])))
        elif re.fullmatch(r"\d{1,2}/4", word):
            found.nominal = word
        elif word in STATE_WORDS:
            found.states.add(STATE_WORDS[word])
        elif word in ("lot", "lots"):
            found.lots = True
        elif word == "unread":
            found.unread = True
        elif word in STATUS_WORDS:
            found.statuses = STATUS_WORDS[word]
        elif word in KIND_WORDS:
            found.kinds += KIND_WORDS[word]
        else:
            found.words.append(word)
    return found


def _fraction(text: str) -> float:
    return float(text.replace(",", ".")) / 100
