"""Where apps plug themselves in.

Some pages belong to nobody alone: the rail, the keys, the log, Today, a piece's own page, the list of the stock. They are *composed*: an
app registers its parts here, from its own ``plugs.py``, which :class:`App` imports when the application starts; the page shows what is
registered, in order. So an app can be added or taken out without a word in any other.

``order`` is a number on one scale, the order of the work: 10 today, 20 air, 30 stock, 40 measuring, 50 judging and drying, then stacks,
kiln, turning and builds, 80 the log, 90 the workshop itself.
"""

import importlib.util
import random
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, field
from datetime import datetime
from enum import StrEnum
from typing import Any, Generic, Protocol, TypeVar

from django.apps import AppConfig, apps
from django.db.models import Model

from wood.units import System


class App(AppConfig):
    """An app of ours. Its addresses (``urls.py``) are mounted inside every workshop at ``mount``, unless that is None; what it registers
    stands in its ``plugs.py``, ``cautions.py`` and ``tools.py``."""

    mount: str | None = ""
    # Where its addresses for anybody (``open_urls.py``) lie, if it has any besides its questions.
    open_mount: str | None = None

    def ready(self) -> None:
        for plugged in ("plugs", "cautions", "tools"):
            if importlib.util.find_spec(f"{self.name}.{plugged}"):
                importlib.import_module(f"{self.name}.{plugged}")


def mounted() -> list[tuple[str, str]]:
    """Where each app's addresses lie inside a workshop, and the module that names them, in the order of ``INSTALLED_APPS``."""
    ours = [app for app in apps.get_app_configs() if isinstance(app, App) and app.mount is not None]
    return [(app.mount or "", f"{app.name}.urls") for app in ours]


def mounted_open() -> list[tuple[str, str]]:
    """Where apps' addresses for anybody lie, and the module that names them."""
    ours = [app for app in apps.get_app_configs() if isinstance(app, App) and app.open_mount is not None]
    return [(app.open_mount or "", f"{app.name}.open_urls") for app in ours]


class Ordered(Protocol):
    """What can be registered: it knows its place in the order."""

    @property
    def order(self) -> int: ...


Plug = TypeVar("Plug", bound=Ordered)


class Registry(Generic[Plug]):
    """What apps registered of one sort, in order; equal orders stay as they came."""

    def __init__(self) -> None:
        self._plugs: list[Plug] = []

    def add(self, *plugs: Plug) -> None:
        """Register; the same twice is a mistake of the house and raises ``ValueError``."""
        for plug in plugs:
            if plug in self._plugs:
                raise ValueError(f"{plug} is registered already")
            self._plugs.append(plug)
        self._plugs.sort(key=lambda plug: plug.order)

    def remove(self, *plugs: Plug) -> None:
        """Take out what was registered, for an app that goes again (tests do)."""
        for plug in plugs:
            self._plugs.remove(plug)

    def __iter__(self) -> Iterator[Plug]:
        return iter(self._plugs)


@dataclass(frozen=True)
class Part:
    """A part of the work: a page that the rail and the phone's bar lead to, under the heading of its ``group``.

    ``page`` is the name of its address; ``key`` leads there after ``g``; ``holds`` names pages that lie elsewhere and count as inside it.
    On a phone it stands in the bar under the name ``phone``, or behind “More”. One that is not in the rail is behind “More” only.
    """

    order: int
    name: str
    page: str
    key: str = ""
    phone: str = ""
    holds: tuple[str, ...] = ()
    in_rail: bool = True
    group: str = ""


@dataclass(frozen=True)
class Page:
    """A page that people look for by what it does (*Find*): its name, the name of its address with what follows it (``?kind=…``, ``#…``),
    other ``words`` that it answers to, and the right a member needs (a property of the membership). ``beside`` says where it is."""

    order: int
    name: str
    page: str
    words: str = ""
    at: str = ""
    beside: str = ""
    may: str = ""


@dataclass(frozen=True)
class Keys:
    """A line of the keys dialog: pairs of the keys and what they do, after the words that say where."""

    order: int
    does: tuple[tuple[tuple[str, ...], str], ...]
    where: str = ""


# An entry of the log in words: a text with the names of its data in braces, or what makes one from them, in the reader's units.
Sentence = str | Callable[[Mapping[str, Any], System], str]


@dataclass(frozen=True)
class LogKind:
    """A kind of entry in the log; ``name`` is the word to filter by, or empty for what is only found under everything.

    ``words`` has a sentence for each code that entries of this kind are kept by; its data are the entry's, and its ``subject``.
    """

    order: int
    key: str
    name: str = ""
    words: Mapping[str, Sentence] = field(default_factory=dict, hash=False)


class Slot(StrEnum):
    """Where panels may stand."""

    RAIL_HEAD = "rail.head"
    RAIL_FOOT = "rail.foot"
    ABOVE_PAGE = "page.above"
    PLACE = "place"
    # What there is to do today, line by line: dangers and alarms with an order below 10, then what is to be set, moved, weighed and read.
    TODAY_TASKS = "today.tasks"
    TODAY = "today"
    TODAY_AFTER = "today.after"
    PIECE = "piece"
    # Under the next step of a verdict, which is in the context as ``answer`` with its ``place`` and ``use``.
    VERDICT = "piece.verdict"
    # After how much wood a piece is.
    AMOUNT = "piece.amount"
    # Under numbers that were typed without a tag; the line is in the context as ``one.line``.
    UNTAGGED = "strip.untagged"
    # Beside the heading of the stock list, and below what can be asked of it.
    STOCK_HEAD = "stock.head"
    STOCK_LINKS = "stock.links"


@dataclass(frozen=True)
class Panel:
    """A piece of a composed page.

    ``data`` gets the page's template context and returns what ``template`` needs besides it, or None where there is nothing to show. Pages
    of pieces and of the stock hold their :class:`Question` as ``question``. A panel with a ``key`` can be asked for by itself
    (``?fragment=key``), which gives its template ``alone``.
    """

    order: int
    slot: Slot
    template: str
    data: Callable[[Mapping[str, Any]], dict[str, Any] | None] = lambda page: {}
    key: str = ""
    alone: str = ""


@dataclass(frozen=True)
class Question:
    """What a composed page is asked: by which workshop, with which words in its address, about which piece, if one."""

    workshop: Any
    address: Mapping[str, Any]
    piece: Any = None
    _known: dict[str, Any] = field(default_factory=dict, compare=False, repr=False)

    def once(self, name: str, make: Callable[[], Any]) -> Any:
        """What several parts of the page need: worked out by the first that asks, and the same for all."""
        if name not in self._known:
            self._known[name] = make()
        return self._known[name]


@dataclass(frozen=True)
class PieceAction:
    """What can be asked of a piece, as a button or a link on its page.

    ``address`` makes its address from the piece, ``applies`` says for which pieces it makes sense, ``may`` names the right a member needs
    (a property of the membership), ``door`` behind which of the three doors it stands: Read, Plan, Use.
    """

    order: int
    words: str
    address: Callable[[Any], str]
    applies: Callable[[Any], bool] = lambda piece: True
    may: str = ""
    style: str = "button plain"
    door: str = "Plan"


@dataclass(frozen=True)
class Demo:
    """The demo workshop while it is made: its people, the moment it ends at, chance from a fixed seed, and what was made so far, by
    name.
    """

    workshop: Any
    people: tuple[Any, ...]
    now: datetime
    chance: random.Random
    made: dict[str, Any] = field(default_factory=dict)


@dataclass(frozen=True)
class DemoPart:
    """What an app brings to the demo workshop, and the rows of a workshop that are its own, those that hang on others first.

    Parts are loaded and copied in order; erasing is the database's (``workshops/migrations/0006_least_right.py``).
    """

    order: int
    rows: tuple[type[Model], ...]
    load: Callable[[Demo], None] = lambda demo: None


# Why a reading of a device was not taken, or nothing where it was.
Taken = str


@dataclass(frozen=True)
class FixedIn:
    """Of a device that stays in one piece: how that is found by its tag (``Refused`` says why not), and its tag by its id."""

    find: Callable[[Any, str], int]
    tag: Callable[[Any, int], str]


@dataclass(frozen=True)
class Receiver:
    """Who listens to devices of a kind: what it can be about in a workshop (id and name), how it takes readings (each as its data and its
    moment; the answer says why not, in order), and what it has for a device that asks. ``fields`` are what it understands of a reading,
    each by its name as a type and what pydantic says of it; the door takes what some receiver understands and nothing else.

    ``does`` says in a line what such a device is for. Where ``fixed`` is given it stays in one piece, which is asked for by its tag.
    ``instruments`` are those of the workshop that it may be one of. ``told`` puts a reading into words in a system of units; ``stand_in``
    is what to type after ``./heron simulate``. ``watched`` names the values by which it is seen that it sticks or jumps; one without any is
    not missed when it is silent.
    """

    order: int
    kind: str
    name: str
    offers: Callable[[Any], list[tuple[int, str]]]
    take: Callable[[Any, list[tuple[dict[str, Any], datetime]]], list[Taken]]
    says: Callable[[Any], dict[str, Any]]
    fields: Mapping[str, tuple[Any, Any]] = field(default_factory=dict, hash=False)
    does: str = ""
    fixed: FixedIn | None = None
    instruments: Callable[[Any], list[tuple[int, str]]] | None = None
    told: Callable[[Mapping[str, Any], Any], str] = lambda data, system: ""
    stand_in: Callable[[Any], str] = lambda device: ""
    watched: tuple[str, ...] = ()


@dataclass(frozen=True)
class CautionText:
    """What must be said where work can hurt somebody; pages show it by its key (``{% caution "oven_test" %}``), in the reader's system
    (:func:`wood.units.in_system`)."""

    order: int
    key: str
    words: str


PARTS: Registry[Part] = Registry()
PAGES: Registry[Page] = Registry()
KEYS: Registry[Keys] = Registry()
LOG_KINDS: Registry[LogKind] = Registry()
PANELS: Registry[Panel] = Registry()
PIECE_ACTIONS: Registry[PieceAction] = Registry()
DEMO_PARTS: Registry[DemoPart] = Registry()
CAUTIONS: Registry[CautionText] = Registry()
RECEIVERS: Registry[Receiver] = Registry()
