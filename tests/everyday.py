"""Everyday cases worked through the screens: what somebody has, asks, is told, and what practice expects. ``./heron cases`` writes the table."""

import re
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field, replace
from datetime import date
from typing import Any

from django.test import Client
from django.utils import timezone

from calm_heron.air import actions as air
from calm_heron.air.kinds import PlaceKind
from calm_heron.air.models import Place, YearSource
from calm_heron.drying.words import span
from calm_heron.judging.actions import set_piece_purpose, set_workshop_purpose
from calm_heron.judging.targets import Purpose
from calm_heron.stock.kinds import PieceKind, Seasoning
from calm_heron.workshops.models import Membership
from tests.factories import make_board, make_meter, make_owner, make_place, read_board
from tests.pages import text_of
from wood.air.climate import pattern
from wood.air.rooms import DWELLING, UNHEATED, WORKSHOP
from wood.uses import FINE, FRAMING, GENERAL, INSTRUMENT, OUTDOORS, PLANK_FLOOR, RESAWN, STRIP_FLOOR, TURNING, Use

IN = 0.0254
BENCH, COAST, SHOP, YARD, LOW_YARD, FLAT, WORKSHOP_ROOM, FAR_YARD = (
    "heated room, four seasons",
    "heated room, mild coast",
    "unheated shop, mild coast",
    "yard, four seasons",
    "yard, mild coast",
    "heated flat, long cold winter",
    "workshop, four seasons",
    "yard, long cold winter",
)
# Meters and hygrometers of the cases are good ones: their doubt is not what the cases are about.
METER = 0.004


@dataclass(frozen=True)
class Case:
    """A case: the wood, its place, the question and its day (month, day), and what practice expects: a range of days, or words."""

    what: str
    species: str
    reads: tuple[float, ...]
    question: str
    expects: str
    place: str = BENCH
    use: Use = FINE
    core: float | None = None
    start: tuple[int, int] = (10, 1)
    days: tuple[float, float] | None = None
    says: str = ""
    piece: dict[str, Any] = field(default_factory=dict)
    form: dict[str, Any] = field(default_factory=dict)
    page: str = "drying/"
    lies: str = ""
    # Whether what is expected was written down before it was first computed.
    beforehand: bool = False


def board(thickness: float, width: float = 8, length: float = 96, **more: Any) -> dict[str, Any]:
    return {"thickness_m": thickness * IN, "width_m": width * IN, "length_m": length * IN, **more}


READY, DRY = "When may it be worked?", "When is it at 20%?"
# The page of a bowl to be roughed: bowls are foretold there and by their weights, and not as boards are.
ROUGH = "rough/"
CASES = (
    Case(
        "4/4 red oak, air dried, 14%",
        "northern_red_oak",
        (14,) * 4,
        READY,
        "A month or two for an inch of air-dried oak in a heated room, if winter does not carry it on past the year’s mean and it has to wait for spring.",
        days=(25, 240),
        piece=board(1.06),
    ),
    Case(
        "4/4 white pine, air dried, 14%",
        "eastern_white_pine",
        (14,) * 4,
        READY,
        "Sooner than oak in the same room: a month or two while the room itself still dries.",
        COAST,
        days=(10, 60),
        piece=board(1.06),
    ),
    Case(
        "4/4 white oak, air dried, 14%",
        "white_oak",
        (14,) * 4,
        READY,
        "Slower than pine: two to three months.",
        COAST,
        days=(20, 110),
        piece=board(1.06),
    ),
    Case(
        "8/4 white ash, air dried, 16.3%",
        "white_ash",
        (16.3,) * 4,
        READY,
        "Four to six months, or a whole year where the heating season ends before it is there.",
        COAST,
        days=(70, 430),
        piece=board(2.06),
    ),
    Case(
        "8/4 walnut slab edge, dry outside, core beyond the meter",
        "black_walnut",
        (9.0, 9.1, 9.2),
        "Is it ready?",
        "Never: a wet core under a dry face bends at the first cut.",
        COAST,
        core=34,
        says="Wait The core is wetter than the meter can measure",
        piece=board(2.06),
        page="",
    ),
    Case(
        "8/4 walnut, four readings near the face, none inside",
        "black_walnut",
        (9.7, 9.6, 9.8, 9.7),
        "Is it ready?",
        "Not before somebody has read the middle or weighed it.",
        COAST,
        says="Close",
        piece=board(2.06),
        page="",
    ),
    Case(
        "6/4 sugar maple, 2.5 above what is wanted, six readings",
        "sugar_maple",
        (12.2, 12.1, 12.2, 12.3, 12.1, 12.2),
        "Is it ready?",
        "No, and no doubt of a meter makes it so.",
        COAST,
        says="Wait",
        piece=board(1.25),
        page="",
    ),
    Case(
        "4/4 cherry from the kiln, 6%",
        "black_cherry",
        (6.0,) * 4,
        READY,
        "It gains slowly: some weeks to some months, for the damp half of the year.",
        COAST,
        days=(14, 330),
        piece=board(1.06, seasoning=Seasoning.KILN),
    ),
    Case(
        "4/4 red oak, green, on stickers",
        "northern_red_oak",
        (),
        DRY,
        "70 to 200 days are published.",
        YARD,
        start=(4, 1),
        days=(60, 200),
        piece=board(1.125, seasoning=Seasoning.GREEN),
        form={"target": "20"},
    ),
    Case(
        "4/4 red oak, green, stacked in November",
        "northern_red_oak",
        (),
        DRY,
        "Winter is all but lost: dry in late spring, some weeks before the board of April.",
        YARD,
        start=(11, 1),
        days=(170, 300),
        piece=board(1.125, seasoning=Seasoning.GREEN),
        form={"target": "20"},
    ),
    Case(
        "4/4 yellow poplar, green, on stickers",
        "yellow_poplar",
        (),
        DRY,
        "40 to 150 days are published.",
        YARD,
        start=(4, 1),
        days=(40, 150),
        piece=board(1.125, seasoning=Seasoning.GREEN),
        form={"target": "20"},
    ),
    Case(
        "4/4 eastern white pine, green, on stickers",
        "eastern_white_pine",
        (),
        DRY,
        "60 to 200 days are published for pine; not slower than oak.",
        YARD,
        start=(4, 1),
        days=(35, 200),
        piece=board(1.125, seasoning=Seasoning.GREEN),
        form={"target": "20"},
    ),
    Case(
        "8/4 white oak, green, on stickers",
        "white_oak",
        (),
        DRY,
        "Over a year; the year for every inch says two.",
        YARD,
        start=(4, 1),
        days=(300, 900),
        piece=board(2.25, seasoning=Seasoning.GREEN),
        form={"target": "20"},
    ),
    Case(
        "4/4 ash, green in the yard, for the heated room",
        "white_ash",
        (),
        READY,
        "A summer outside, then one to three months indoors.",
        BENCH,
        start=(4, 1),
        days=(90, 420),
        says="then in",
        piece=board(1.125, seasoning=Seasoning.GREEN),
        lies=YARD,
    ),
    Case(
        "Oak in a damp yard, asked for 9% there",
        "white_oak",
        (18,) * 3,
        "When is it at 9%?",
        "Never outdoors there; it has to come into a heated room.",
        LOW_YARD,
        says="Not reached",
        piece=board(1.06),
        form={"target": "9", "then": ""},
        lies=LOW_YARD,
    ),
    Case(
        "Strip floor 2 1/4 in, 8.5%, subfloor 10%",
        "white_oak",
        (8.5,) * 4,
        "Is it ready?",
        "Within four of the subfloor, and of the room: lay it.",
        COAST,
        STRIP_FLOOR,
        says="Ready",
        piece=board(0.75, 2.25, kind=PieceKind.FLOORING),
        page="",
        lies=COAST,
    ),
    Case(
        "Plank floor 5 in, 13.5%, subfloor 13%",
        "white_oak",
        (13.5,) * 4,
        "Is it ready?",
        "It suits a damp subfloor and not the room: gaps by winter.",
        BENCH,
        PLANK_FLOOR,
        says="Wait",
        piece=board(0.75, 5, kind=PieceKind.FLOORING),
        page="",
        lies=BENCH,
    ),
    Case(
        "Rough maple bowl, 1 in wall, green",
        "sugar_maple",
        (),
        "When is it at rest on the shelf?",
        "Six weeks to four months on a shelf; its weight stands still then.",
        COAST,
        TURNING,
        days=(40, 130),
        form={"diameter_m": "12", "height_m": "5", "wall_m": "1", "way": "shelf"},
        page=ROUGH,
    ),
    Case(
        "18-in oak log, outside 7.5%, heart 31%",
        "white_oak",
        (7.5,),
        "Is it ready?",
        "A dry bark over a green heart: saw it.",
        COAST,
        core=31,
        says="Wait",
        piece={"thickness_m": 18 * IN, "width_m": 18 * IN, "length_m": 2.4, "kind": PieceKind.LOG},
        page="",
    ),
    Case(
        "Walnut slab 2 1/2 in, 18%",
        "black_walnut",
        (18.0,) * 4,
        READY,
        "The better part of a year, or two winters.",
        COAST,
        days=(150, 800),
        piece=board(2.5, 22, 84, kind=PieceKind.SLAB),
    ),
    Case(
        "2x8 Douglas-fir, 24%, for framing",
        "douglas_fir_coast",
        (24.0,) * 4,
        "When is it under 19%?",
        "Some weeks under cover in summer.",
        YARD,
        FRAMING,
        start=(6, 1),
        days=(5, 70),
        piece=board(1.5, 7.25, 120),
        lies=YARD,
    ),
    Case(
        "Spruce for an instrument, 8% wanted, 8.1% read with core",
        "sitka_spruce",
        (8.1, 8.1, 8.0, 8.1),
        "Is it ready?",
        "Within one, and even to half a point: yes.",
        COAST,
        INSTRUMENT,
        core=8.3,
        says="Ready",
        piece=board(0.5, 8, 22),
        form={"approach": "typed", "moisture": "8"},
        page="",
    ),
    Case(
        "4/4 oak, ready at 9.6%, left in an unheated damp shop",
        "northern_red_oak",
        (9.6,) * 4,
        "How long may it lie there?",
        "A week or two for the one point of fine work, in a damp autumn.",
        COAST,
        says=SHOP,
        piece=board(1.0, seasoning=Seasoning.KILN),
        page="speed-up/",
    ),
    Case(
        "8/4 ash, 16.3%, wanted sooner",
        "white_ash",
        (16.3,) * 4,
        "Speed it up?",
        "Stickers above all; cut, skimmed and warm some weeks more.",
        COAST,
        says="sooner",
        piece=board(2.06),
        page="speed-up/",
    ),
    Case(
        "4/4 oak for general work",
        "white_oak",
        (12.5,) * 4,
        READY,
        "Two points are allowed: some weeks at most.",
        COAST,
        GENERAL,
        days=(0, 60),
        piece=board(1.06),
    ),
    Case(
        "4/4 oak wanted at 4%",
        "white_oak",
        (10.0,) * 4,
        READY,
        "No living room holds that for a month.",
        COAST,
        says="Not in this air",
        piece=board(1.06),
        form={"approach": "typed", "moisture": "4"},
    ),
)  # fmt: skip  a table: one case a line


def _ready(
    what: str, species: str, at: float, inches: float, begun: tuple[int, int], days: tuple[float, float], expects: str, **more: Any
) -> Case:
    """Sawn wood at a moisture, asked when it may be worked, the range of days written down before it was computed."""
    given = {"place": FLAT} | more
    return Case(what, species, (at,) * 4, READY, expects, start=begun, days=days, piece=board(inches), beforehand=True, **given)


# What a rule of readiness must not be fooled by: rooms that swing wider than what is allowed, thick wood, a hair of moisture.
CASES += (
    _ready("3/4 in red oak, 12%", "northern_red_oak", 12.0, 0.75, (11, 15), (13, 21), "Two to three weeks."),
    _ready("1 1/2 in red oak, 12%", "northern_red_oak", 12.0, 1.5, (11, 15), (28, 50), "A month to six weeks."),
    _ready("2 in red oak, 12%", "northern_red_oak", 12.0, 2.0, (11, 15), (44, 74), "About two months."),
    _ready("2 in red oak, 12%, in January", "northern_red_oak", 12.0, 2.0, (1, 15), (31, 75), "Six weeks to ten, before the heating ends."),
    _ready(
        "2 1/2 in red oak, 12%, in January",
        "northern_red_oak",
        12.0,
        2.5,
        (1, 15),
        (150, 270),
        "It misses the spring, or just catches it: two chances.",
        says="the others wait for",
    ),
    _ready("4/4 white pine, 14%", "eastern_white_pine", 14.0, 1.06, (11, 15), (8, 30), "Some weeks of heated air."),
    _ready("8/4 cherry, 12%", "black_cherry", 12.0, 2.06, (10, 1), (40, 120), "Two to four months; half a year is too long."),
    _ready("4/4 cherry, 7.5%", "black_cherry", 7.5, 1.06, (12, 1), (0, 1), "It is where it will live already."),
    _ready("8/4 walnut, 12%, to be resawn", "black_walnut", 12.0, 2.06, (11, 1), (35, 140), "Longer than to be used whole.", use=RESAWN),
    _ready(
        "4/4 sugar maple, 11.2%, in spring",
        "sugar_maple",
        11.2,
        1.06,
        (4, 25),
        (14, 77),
        "Within eleven weeks it has settled with the summer; at its average in November.",
        place=WORKSHOP_ROOM,
        says="at the average of the year by about",
    ),
    _ready("4/4 sugar maple, 11.2%, in November", "sugar_maple", 11.2, 1.06, (11, 1), (0, 30), "Within the month.", place=WORKSHOP_ROOM),
    _ready("5/4 ash, 14.6%", "white_ash", 14.6, 1.31, (11, 15), (20, 70), "A month or two, and not till May.", place=WORKSHOP_ROOM),
    _ready("3 in white oak, 12%", "white_oak", 12.0, 3.0, (11, 15), (60, 300), "A winter, or the next.", place=WORKSHOP_ROOM),
    _ready("5/4 red oak, 14%", "northern_red_oak", 14.0, 1.25, (10, 1), (45, 90), "Two months, and never seven.", place=BENCH),
    _ready("5/4 birch from the kiln, 6.3%", "yellow_birch", 6.3, 1.25, (10, 7), (30, 150), "It swells through the winter.", place=BENCH),
    _ready("4/4 oak, 12%, for general work", "white_oak", 12.0, 1.06, (11, 1), (0, 25), "Days, or some weeks.", place=BENCH, use=GENERAL),
    _ready(
        "4/4 walnut, 8%, for general work",
        "black_walnut",
        8.0,
        1.06,
        (11, 1),
        (0, 60),
        "It may be worked, or soon.",
        place=COAST,
        use=GENERAL,
    ),
    _ready(
        "1/4 in spruce, 12%, for an instrument", "sitka_spruce", 12.0, 0.25, (11, 1), (1, 21), "Days for so thin a plate.", use=INSTRUMENT
    ),
    _ready(
        "4/4 white pine, 16%, for outdoor work",
        "eastern_white_pine",
        16.0,
        1.06,
        (6, 1),
        (0, 60),
        "A summer yard does that.",
        place=YARD,
        use=OUTDOORS,
    ),
)


@dataclass(frozen=True)
class Presentation:
    """What the screen said: its large word, and the days it rests on where it has some."""

    word: str
    days: float | None
    page: str

    @property
    def short(self) -> str:
        """The answer as the table has it."""
        return re.sub(r"\s+", " ", self.word)


class Bench:
    """A workshop with the places of the cases, each with its year."""

    def __init__(self, owner: Membership) -> None:
        self.owner, self.client = owner, Client()
        self.client.force_login(owner.person)
        self.places = dict(self._places())
        self.meter = make_meter(owner, tolerance=METER)
        set_workshop_purpose(owner, Purpose(self.places[BENCH], FINE))
        for place, value in ((COAST, 10.0), (BENCH, 13.0)):
            sub = make_board(owner, "douglas_fir_coast", kind=PieceKind.SUBFLOOR, place=self.places[place])
            read_board(owner, sub, value, value, value, meter=self.meter)

    def _places(self) -> Iterator[tuple[str, Place]]:
        for key, yard, rooms in (
            ("four_seasons", YARD, ((BENCH, PlaceKind.ROOM, DWELLING), (WORKSHOP_ROOM, PlaceKind.ROOM, WORKSHOP))),
            ("cold_winter", FAR_YARD, ((FLAT, PlaceKind.ROOM, DWELLING),)),
            ("mild_coast", LOW_YARD, ((COAST, PlaceKind.ROOM, DWELLING), (SHOP, PlaceKind.STORE, UNHEATED))),
        ):
            outdoors = make_place(self.owner, name=yard, kind=PlaceKind.YARD, rh_tolerance=0.01)
            year = pattern(key)
            air.keep_year(self.owner, outdoors, 0, YearSource.TYPED, "", year)
            yield yard, outdoors
            for name, kind, room in rooms:
                made = make_place(self.owner, name=name, kind=kind, rh_tolerance=0.01)
                air.keep_room(self.owner, made, 0, outdoors, room)
                yield name, made

    def work(self, case: Case) -> Presentation:
        """One case through its screen."""
        if case.page == ROUGH:
            return self._roughed(case)
        lies = self.places[case.lies] if case.lies else None
        piece = make_board(self.owner, case.species, place=lies, **case.piece)
        set_piece_purpose(self.owner, piece, Purpose(self.places[case.place], case.use))
        if case.reads:
            read_board(self.owner, piece, *case.reads, core=case.core, meter=self.meter)
        question = dict(case.form)
        if case.page:
            question |= {"start_date": _next(*case.start).isoformat()}
        if case.page == "drying/":
            question |= self._where(case)
        answer = _told(self.client.get(f"/w/{self.owner.workshop.slug}/stock/{piece.tag}/{case.page}", question))
        if case.page == "drying/" and answer.days == 0.0:
            # On that very day the page has a verdict to show, and another word for the same.
            answer = replace(answer, word="It is there")
        if left := re.search(rf"{SHOP} ((?:[\d.]+ |as long as you )\w+)", answer.page):
            answer = replace(answer, word=f"{left[1]} there") if case.says == SHOP else answer
        return answer

    def _roughed(self, case: Case) -> Presentation:
        """A bowl asked about at the log: what the page says of its way of drying."""
        question = case.form | {"species_key": case.species, "where": f"place-{self.places[case.place].pk}"}
        answer = self.client.get(f"/w/{self.owner.workshop.slug}/turning/{ROUGH}", question)
        result = answer.context["worked"]
        return Presentation(span(result.course.rest_day), result.course.rest_day, text_of(answer))

    def _where(self, case: Case) -> dict[str, Any]:
        """Asked for a place that it does not live in: it lies there."""
        return {"where": f"place-{self.places[case.place].pk}"} if case.form.get("target") else {}


def _next(month: int, day: int) -> date:
    """The next such day."""
    today = timezone.localdate()
    return next(result for year in (today.year, today.year + 1) if (result := date(year, month, day)) >= today)


def _told(answer: Any) -> Presentation:
    markup, page = answer.content.decode(), text_of(answer)
    large = re.search(r'<p class="(?:figure|answer-word)">(.*?)</p>', markup, re.DOTALL)
    word = re.sub(r"\s+", " ", re.sub(r"<[^>]+>", " ", large[1] if large else "")).strip()
    result = answer.context.get("answer") if answer.context else None
    days = getattr(result, "days", None)
    return Presentation(word, None if days is None else float(days), page)


def worked(make: Callable[[], Membership] = make_owner) -> Iterator[tuple[Case, Presentation]]:
    """Every case with what its screen said."""
    bench = Bench(make())
    for case in CASES:
        yield case, bench.work(case)


def holds(case: Case, answer: Presentation) -> bool:
    """Whether practice would accept the answer."""
    return (case.says in answer.page) and (case.days is None or (answer.days is not None and case.days[0] <= answer.days <= case.days[1]))


def table(rows: Iterator[tuple[Case, Presentation]]) -> str:
    """The cases as they stand in docs/science.md."""
    lines = ["| wood | where, for what | asked, from | the screen says | practice expects |", "|---|---|---|---|---|"]
    for case, row in rows:
        begins = f", {date(2001, *case.start):%-d %B}" if case.page not in ("", ROUGH) else ""
        expects = case.expects
        if case.beforehand and case.days:
            expects += f" *Written beforehand: {case.days[0]:.0f} to {case.days[1]:.0f} days.*"
        lines.append(f"| {case.what} | {case.place}; {case.use.name.lower()} | {case.question}{begins} | {row.short} | {expects} |")
    return "\n".join(lines)
