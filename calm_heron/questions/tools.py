"""What can be asked. An app registers each of its questions as a tool; its page, its addresses inside a workshop and for anybody, its live
answer, its place among the others, on Ask and on the front page, and the walks of the tests follow from that."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from enum import StrEnum
from typing import Any, Generic, TypeVar

from django.http import HttpResponse

from calm_heron.plugs import Registry
from calm_heron.questions.forms import QuestionForm
from calm_heron.questions.presentation import Presentation
from calm_heron.workshops.askers import Asker
from wood.units import SYSTEMS, System

Asks = TypeVar("Asks", bound=QuestionForm)
Question = TypeVar("Question")
Answer = TypeVar("Answer")


@dataclass(frozen=True)
class Put(Generic[Question]):
    """A question that can be worked out: frozen, in SI, complete. What only tells (names of places, a price) stands beside it, by name."""

    question: Question
    tells: Mapping[str, Any] = field(default_factory=dict)


class Why(StrEnum):
    """Why a question cannot be put: something is still to say, no air is known, no figure is."""

    STILL_TO_SAY = "still to say"
    NO_AIR = "no air"
    NO_FIGURE = "no figure"


class StillToSay(Exception):
    """A form that is in order and does not say enough yet; the text says what is missing."""


@dataclass(frozen=True)
class CannotPut:
    """A question that cannot be put: why, about what, and the way out in a sentence.

    A wrong field is none of these: it is said beside the field.
    """

    why: Why
    says: str

    @property
    def word(self) -> str:
        """What stands large instead of an answer."""
        return "Not known" if self.why is Why.NO_FIGURE else ""


@dataclass(frozen=True)
class Bound:
    """A figure of an answer with its bounds, in SI."""

    usual: float | None
    low: float | None = None
    high: float | None = None


@dataclass(frozen=True)
class Gist:
    """What lists, kept rows and programs read of an answer: a code and a few figures, no words."""

    code: str
    figures: Mapping[str, Bound] = field(default_factory=dict)


@dataclass(frozen=True)
class Reader:
    """Who is told: in which units, by which addresses. ``typed`` is what was asked, as it stands in an address."""

    asker: Asker
    typed: str = ""

    @property
    def system(self) -> System:
        return self.asker.system


@dataclass(frozen=True)
class Drawing(Generic[Question, Answer]):
    """A drawing of an answer: its template, and its geometry for a wide or a narrow screen; ``any_width`` is as good for both."""

    template: str
    make: Callable[[Put[Question], Answer, Reader, bool], Any]
    any_width: bool = False


@dataclass(frozen=True)
class Subject:
    """What may be put into a question by its tag (``?piece=…``): ``find`` gives it or None; ``other`` are the words that lead to another.

    It *fills* the form, and from then on is imagined; or it is *asked of* (``stays``), and its own readings count for as long as the
    address names it.
    """

    find: Callable[[Asker, str], Any]
    other: str = ""
    stays: bool = False


@dataclass(frozen=True)
class Example:
    """A question as it stands in an address, by system, and how it ends: ``code`` of its gist, or why it cannot be put."""

    asks: Mapping[str, Mapping[str, str]]
    code: str = ""
    why: Why | None = None


def in_both(asks: Mapping[str, str]) -> dict[str, Mapping[str, str]]:
    """An example that reads alike in both systems."""
    return dict.fromkeys(SYSTEMS, asks)


@dataclass(frozen=True)
class Tool(Generic[Asks, Question, Answer]):
    """A question of the trade: how it is called and drawn, where it lies, and how it is put, worked out and told.

    ``title`` is the question as its page asks it, ``short`` its name among others, ``icon`` a path in 64 × 40. It lies at ``inside`` in a
    workshop, and at ``outside`` for anybody (empty: for members only); ``part`` says among which pages it stands, ``also`` among which
    others. On Ask and on the front page stand those with a ``place``.
    Tools that are alike in all but sizes are a ``family``: they are found by the page of the tool of that key, which has them to choose
    from. ``beside`` is a template that stands between the answer and the form (a slider that moves the drawing), ``keeping`` one below
    both, for members who may make: a form of the app's own that keeps what was asked.
    ``sheet`` makes a PDF of it, at its address with ``pdf=1``; ``not_known`` is what is said of a species of which a figure is missing.
    ``heavy`` ones, and that is nearly all, are worked out for one stranger at a time. What truly is something else brings its own
    ``view``, and nothing of the rest.
    """

    order: int
    key: str
    title: str
    short: str
    part: str
    icon: str
    inside: str
    outside: str = ""
    place: int = 0
    heavy: bool = True
    view: Callable[..., HttpResponse] | None = None
    form: type[Asks] | None = None
    put: Callable[[Any, Asker, Any], Put[Question] | CannotPut] | None = None
    work: Callable[[Question], Answer] | None = None
    gist: Callable[[Answer], Gist] | None = None
    present: Callable[[Put[Question], Answer, Reader], Presentation] | None = None
    drawings: Mapping[str, Drawing[Any, Any]] = field(default_factory=dict, hash=False)
    subject: Subject | None = None
    examples: tuple[Example, ...] = ()
    script: str = ""
    also: tuple[str, ...] = ()
    family: str = ""
    beside: str = ""
    keeping: str = ""
    sheet: Callable[[Put[Question], Answer, Reader], bytes] | None = None
    not_known: str = (
        "No source at hand has what this asks of {subject}. Put figures of your own into the species book, or ask about a relative."
    )

    @property
    def inside_name(self) -> str:
        """The name of its address inside a workshop."""
        return f"ask_{self.key}"

    @property
    def outside_name(self) -> str:
        """The name of its address for anybody."""
        return f"anybody_{self.key}"


@dataclass(frozen=True)
class Neighbour:
    """A page of the workshop that stands among the questions of a part: what runs in the kiln, the shelf."""

    order: int
    part: str
    words: str
    page: str
    may: str = ""


TOOLS: Registry[Tool[Any, Any, Any]] = Registry()
NEIGHBOURS: Registry[Neighbour] = Registry()
# What the pages of a part are called together, for those who hear them.
PART_NAMES = {
    "ask": "Questions",
    "movement": "Movement",
    "drying": "Drying",
    "stacks": "Stacks",
    "kiln": "Kiln",
    "turning": "Turning",
    "builds": "Builds",
}


def tool(key: str) -> Tool[Any, Any, Any]:
    """A registered tool by its key.

    Raises:
        LookupError: there is none.
    """
    for tool in TOOLS:
        if tool.key == key:
            return tool
    raise LookupError(f"no question is called {key}")
