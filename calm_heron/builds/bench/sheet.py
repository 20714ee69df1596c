"""The sheet that goes to the bench, and a label for each piece."""

from dataclasses import dataclass
from math import hypot, inf
from typing import TYPE_CHECKING

from calm_heron.builds.glueups import gluing
from calm_heron.builds.kinds import ChalkKind, FitKind, Paper, PaperTurned, SheetKind
from calm_heron.builds.layouts import eye, layout_words
from calm_heron.builds.layouts.allocation import Saw
from calm_heron.builds.made import following, owner_sheet
from calm_heron.builds.models import Held
from calm_heron.builds.readiness import BuildState, PartState
from calm_heron.builds.words import build_words, listed, outdoor_notes, state_of
from calm_heron.site.dates import full_day
from calm_heron.site.numbers import percent
from calm_heron.stock.labels import FONTS, SHEETS
from wood.units import System
from wood.written import cut_length, cut_sizes

if TYPE_CHECKING:
    from fpdf import FPDF

MARGIN, POINT_MM = 12.0, 25.4 / 72
# What is read at arm's length, what is read close to, and how far lines lie apart, by the size of their letters.
LARGE, SMALL, LEADING = 16.0, 11.0, 1.35
# The sheet for its owner is read in a chair.
OWNERS = 13.0
# A box to tick, and where names begin, mm from the left margin; cut sizes, as a share of the sheet's width.
BOX, NAME, CUT = 5.0, 10.0, 0.42
# A board is drawn at most so high, mm, with its cuts numbered beneath.
BOARD_HIGH = 55.0
# The ring about a cut's number, mm, and where along its cut it may stand, the best place first.
RING, ALONG_THE_CUT = 4.8, (0.5, 0.35, 0.65, 0.2, 0.8, 0.05, 0.95)


def pdf(
    state: BuildState,
    system: System,
    kind: SheetKind = SheetKind.BENCH,
    paper: Paper | None = None,
    turned: PaperTurned = PaperTurned.LANDSCAPE,
) -> bytes:
    """A sheet as a file: for the bench all of it, for the saw its boards, for the glue-up its panels, for the rack what to bring down, for
    its owner what it likes and what it does through the year.

    Where no paper is chosen it is Letter where people measure in inches, else A4.
    """
    # Loaded where it is needed: it takes half a second, and no page waits for it (command/serving.py).
    from fpdf import FPDF

    document = FPDF(orientation=turned.value, unit="mm", format=(paper or paper_of(system)).value)  # type: ignore[arg-type]
    document.set_auto_page_break(False)
    document.set_title(f"{kind.value.capitalize()} sheet: {state.build.name}")
    document.add_font("sheet", "", FONTS / "hyperlegible-regular.ttf")
    document.add_font("sheet", "B", FONTS / "hyperlegible-bold.ttf")
    page = _Page(document)
    if kind == SheetKind.OWNER:
        _for_its_owner(page, state, system)
        return bytes(document.output())
    _for_the_shop(page, state, system, kind)
    return bytes(document.output())


def _for_the_shop(page: "_Page", state: BuildState, system: System, kind: SheetKind) -> None:
    page.begin(state, with_parts=kind == SheetKind.BENCH)
    if kind == SheetKind.BENCH:
        for part in state.parts:
            page.part(_words(part, system))
        for line in [*_panels(state), *_below(state)]:
            page.line(line)
    if kind == SheetKind.GLUE:
        for line in _panels(state) or ["Nothing of it is glued up of staves."]:
            page.line(line, LARGE)
            page.y += 4
    if kind == SheetKind.RACK:
        for words in _rack(state, system):
            page.part(words)
        if not state.saw.held:
            page.line("No board is held for it yet.", LARGE)
    if kind in (SheetKind.BENCH, SheetKind.SAW):
        for held in state.saw.held:
            page.board(state.saw, held, system)
    if kind == SheetKind.SAW and not state.saw.cuts:
        page.line("Nothing is placed on a board yet.", LARGE)


def _for_its_owner(page: "_Page", state: BuildState, system: System) -> None:
    page.line(state.build.name, 24, bold=True)
    for heading, lines in owner_sheet.told(following.follow(state), system):
        page.y += 4
        page.line(heading, LARGE, bold=True)
        for line in lines:
            page.line(line, OWNERS)


def paper_of(system: System) -> Paper:
    """The paper that is usual where people measure so."""
    return Paper.LETTER if system.is_inch else Paper.A4


class _Page:
    """A page that is written from the top, and followed by another where it is full."""

    def __init__(self, document: "FPDF") -> None:
        self.document = document
        self.width = document.w - 2 * MARGIN
        self.cut = CUT * self.width
        self.y = MARGIN
        document.add_page()

    def begin(self, state: BuildState, *, with_parts: bool) -> None:
        build = state.build
        year = f"; sizes are right at {percent(state.year.mean)}, the mean of its year there" if state.year else ""
        due = f"; due {full_day(build.due)}" if build.due else ""
        answer = build_words(state)
        self.line(build.name, 20, bold=True)
        self.line(f"{full_day(state.today)}. To live in {build.place.name}{due}{year}.")
        self.line(f"{answer.word}{' (' + answer.beside + ')' if answer.beside else ''}: {answer.reason}")
        self.y += 2
        if with_parts:
            self._write(["Part, and how many"], MARGIN + NAME - 1, self.y, self.cut, SMALL, bold=True)
            self.y = self._write(["Cut today to"], MARGIN + self.cut, self.y, self.cut, SMALL, bold=True)

    def _room(self, height: float) -> None:
        if self.y + height > self.document.h - MARGIN:
            self.document.add_page()
            self.y = MARGIN

    def _lines(self, text: str, width: float, size: float, *, bold: bool = False) -> list[str]:
        self.document.set_font("sheet", "B" if bold else "", size)
        return self.document.multi_cell(width, size * POINT_MM, text, dry_run=True, output="LINES") if text else []  # type: ignore[return-value]

    def _write(self, lines: list[str], left: float, top: float, width: float, size: float, *, bold: bool = False) -> float:
        """Lines one under the other; how far down they reach. What is too long is broken, never cut short."""
        self.document.set_font("sheet", "B" if bold else "", size)
        for line in lines:
            self.document.set_xy(left, top)
            self.document.cell(width, size * POINT_MM * LEADING, line)
            top += size * POINT_MM * LEADING
        return top

    def part(self, words: "_PartWords") -> None:
        """A box to tick, what it is, and what it is cut to today; beneath, what is looked up once."""
        wide = self.width - self.cut
        name = self._lines(words.name, self.cut - NAME - 3, LARGE)
        cut = self._lines(words.cut, wide, LARGE, bold=True)
        beside = self._lines(words.beside, self.width - NAME, SMALL)
        tall = max(len(name), len(cut)) * LARGE + len(beside) * SMALL
        self._room(tall * POINT_MM * LEADING + 2)
        self.document.rect(MARGIN, self.y + 1.2, BOX, BOX)
        end = max(
            self._write(name, MARGIN + NAME - 1, self.y, self.cut - NAME, LARGE),
            self._write(cut, MARGIN + self.cut, self.y, wide, LARGE, bold=True),
        )
        self.y = self._write(beside, MARGIN + NAME - 1, end, self.width - NAME, SMALL) + 2
        self.document.set_draw_color(170)
        self.document.line(MARGIN, self.y - 1, MARGIN + self.width, self.y - 1)
        self.document.set_draw_color(0)

    def line(self, text: str, size: float = SMALL, *, bold: bool = False) -> None:
        for line in self._lines(text, self.width, size, bold=bold):
            self._room(size * POINT_MM * LEADING)
            self.y = self._write([line], MARGIN - 1, self.y, self.width, size, bold=bold)

    def board(self, saw: Saw, held: Held, system: System) -> None:
        """A board as large as the sheet is wide, its pieces by their names, its cuts numbered in their order, and each told beneath."""
        piece, sawn, blanks = saw.planks[held.pk].piece, saw.sawn(held), saw.blanks_on(held)
        if not blanks:
            return
        scale = min(self.width / piece.length_m, BOARD_HIGH / piece.width_m)
        told = [f"{n}  {line}" for n, line in enumerate(layout_words.cuts(sawn, system) if sawn else (), 1)]
        told += layout_words.resaws(saw, held, system)
        if sawn is None:
            told = ["No straight through-cut frees these parts; move one."]
        shows = f", {held.get_face_display()} shows" if held.face else ""
        heading = self._lines(
            f"{held.name}  {piece.species.spoken_name}, {cut_sizes((piece.length_m, piece.width_m, piece.thickness_m), system)}{shows}",
            self.width,
            LARGE,
            bold=True,
        )
        beneath = [line for item in told for line in self._lines(item, self.width, SMALL)]
        tall = (len(heading) * LARGE + min(len(beneath), 12) * SMALL) * POINT_MM * LEADING + piece.width_m * scale + 10
        self._room(tall)
        top = self._write(heading, MARGIN - 1, self.y + 2, self.width, LARGE, bold=True) + 4
        bottom = top + piece.width_m * scale
        document = self.document
        document.set_line_width(0.2)
        document.rect(MARGIN, top, piece.length_m * scale, piece.width_m * scale)
        document.set_line_width(0.6)
        for blank in blanks:
            r = blank[0].rect
            document.rect(MARGIN + r.x0 * scale, bottom - r.y1 * scale, (r.x1 - r.x0) * scale, (r.y1 - r.y0) * scale)
            name = saw.name_of(blank)
            size = min(14.0, (r.y1 - r.y0) * scale / POINT_MM * 0.8)
            if size >= 6:
                middle = bottom - (r.y0 + r.y1) / 2 * scale
                self._write([name], MARGIN + r.x0 * scale + 2, middle - size * POINT_MM * LEADING / 2, 40, size, bold=True)
        document.set_line_width(0.2)
        taken: list[tuple[float, float]] = []
        for n, cut in enumerate(sawn.cuts if sawn else (), 1):
            r = cut.within
            along = [(r.x0 + share * (r.x1 - r.x0), r.y0 + share * (r.y1 - r.y0)) for share in ALONG_THE_CUT]
            places = [(cut.at_m, y) if cut.across else (x, cut.at_m) for x, y in along]
            at = _freest([(MARGIN + x * scale, bottom - y * scale) for x, y in places], taken)
            taken.append(at)
            self._number(n, *at)
        self.y = bottom + 4
        for item in told:
            self.line(item)

    def _number(self, n: int, x: float, y: float) -> None:
        """A cut's number in a ring, on the line of the cut."""
        self.document.set_fill_color(255)
        self.document.ellipse(x - RING / 2, y - RING / 2, RING, RING, style="FD")
        self.document.set_font("sheet", "B", 9)
        self.document.set_xy(x - RING / 2, y - RING / 2)
        self.document.cell(RING, RING, str(n), align="C")


def _freest(places: list[tuple[float, float]], taken: list[tuple[float, float]]) -> tuple[float, float]:
    """The first of some places for a number where no other stands; the one farthest from the others where all are near one."""

    def apart(place: tuple[float, float]) -> float:
        return min((hypot(place[0] - x, place[1] - y) for x, y in taken), default=inf)

    return next((place for place in places if apart(place) >= RING), max(places, key=apart))


@dataclass(frozen=True)
class _PartWords:
    """A part on the sheet: what it is and how many, what it is cut to today, and what is looked up once."""

    name: str
    cut: str
    beside: str


def _words(part_state: PartState, system: System) -> _PartWords:
    part, sized = part_state.part, part_state.sized
    tags = [wood.piece.tag for wood in part_state.woods]
    finished = sized.wanted if sized else None
    sizes = (finished.length_m, finished.width_m, finished.thickness_m) if finished else (part.length_m, part.width_m, part.thickness_m)
    cut = cut_sizes((sized.cut.length_m, sized.cut.width_m, sized.cut.thickness_m), system) if sized else cut_sizes(sizes, system)
    waits = part_state.state is not None and part_state.state.value != "ready"
    beside = [
        f"finished {cut_sizes(sizes, system)}" if sized else "no allowance: what it still moves is not known",
        part.species.spoken_name,
        f"from {listed(tags, 6)}" if tags else "no board yet",
        state_of(part_state).lower() if waits else "",
        allowance(part_state, system),
    ]
    return _PartWords(
        f"{part.letter}  {part.name}, {part.count}",
        f"wait; today {cut}" if part_state.is_unready and sized else cut,
        "; ".join(item for item in beside if item) + ".",
    )


def allowance(part_state: PartState, system: System) -> str:
    """The gap, groove or slot that a part asks for, counted from its size at the year's mean; empty where it asks for none."""
    sized = part_state.sized
    if sized is None:
        return ""
    if part_state.part.fit == FitKind.INSET and sized.gap_m is not None:
        return f"gap {cut_length(sized.gap_m, system)} in all at the mean"
    if part_state.part.fit == FitKind.GROOVE and sized.groove_m is not None and sized.gap_m is not None:
        return f"grooves {cut_length(sized.groove_m, system)} deep, {cut_length(sized.gap_m, system)} free each side"
    if part_state.part.fit == FitKind.FIXED and sized.slot_m is not None:
        return f"slots {cut_length(sized.slot_m, system)} each way"
    return ""


def _rack(state: BuildState, system: System) -> list[_PartWords]:
    """The boards that are to be brought down: which, how large, where they lie and what they are for."""
    rows = []
    for held in state.saw.held:
        piece = held.piece
        names = sorted({state.saw.part_of(cut).name for cut in state.saw.by_board.get(held.pk, [])})
        beside = [
            piece.species.spoken_name,
            f"is in {piece.place.name}" if piece.place else "its place is not known",
            f"for {listed(names, 6)}" if names else "nothing is placed on it yet",
            "sawn already" if held.pk in state.saw.sawn_up else "",
        ]
        sizes = cut_sizes((piece.length_m, piece.width_m, piece.thickness_m), system)
        rows.append(_PartWords(held.name, sizes, "; ".join(item for item in beside if item) + "."))
    return rows


def _panels(state: BuildState) -> list[str]:
    """Each glued panel with its joints as they are chalked."""
    lines = []
    for each_part in state.parts:
        part = each_part.part
        if part.staves < 2:
            continue
        for copy in range(part.count):
            staves = gluing.staves_of(part, copy, state.saw)
            saved, order = gluing.arranged(part, copy, staves)
            triangle = saved is not None and saved.chalk == ChalkKind.TRIANGLE
            text = ""
            for joint, (number, up, turned) in enumerate(order):
                side = "bark up" if up else "heart up"
                text += (
                    ("  |  " if triangle else f"  |{joint}-{joint}|  ") if joint else ""
                ) + f"{staves[int(number)].name} {side}{', end for end' if turned else ''}"
            how = "under one triangle" if triangle else "glued"
            lines.append(f"{part.letter}{copy + 1 if part.count > 1 else ''} {part.name}, {how}:  {text}")
    return lines


def _below(state: BuildState) -> list[str]:
    lines = [*outdoor_notes(state), *eye.unmet(state.saw, state.build.workshop.system)]
    if any(part.sized is not None for part in state.parts):
        lines.append(
            "Cut sizes know today’s moisture: what the wood still moves is added once. Gaps, grooves and slots are counted from the"
            " finished size, not from the cut one."
        )
    inset = [part.part.name for part in state.parts if part.part.fit == FitKind.INSET]
    if inset:
        lines.append(f"{listed(inset)}: right at the dampest of the year, so that nothing sticks; the opening keeps its size.")
    plain = [part for part in state.parts if part.sized is None]
    for item in plain[:4]:
        lines.append(f"{item.part.letter} {item.part.name}: {item.unsized}")
    uncertainties = [part for part in state.parts if part.sized is not None and part.sized.uncertainty_m > 0.0008]
    if uncertainties:
        most = cut_length(
            max(uncertainty.sized.uncertainty_m for uncertainty in uncertainties if uncertainty.sized), state.build.workshop.system
        )
        lines.append(f"{listed([uncertainty.part.name for uncertainty in uncertainties])}: its species leaves {most} open.")
    return lines


MOST_LABELS = 600


def labels(state: BuildState, system: System) -> bytes:
    """A label for each piece that is sawn: its name, what it is, its rough size and its board."""
    from fpdf import FPDF

    sheet = SHEETS["letter-30" if system.is_inch else "a4-24"]
    document = FPDF(unit="mm", format=sheet.paper)
    document.set_auto_page_break(False)
    document.set_title(f"Labels: {state.build.name}")
    document.add_font("label", "", FONTS / "hyperlegible-regular.ttf")
    document.add_font("label", "B", FONTS / "hyperlegible-bold.ttf")
    boards = {held.pk: held.name for held in state.saw.held}
    of_piece = {(cut.part_id, cut.nth): boards[cut.board_id] for cut in state.saw.cuts}
    pieces = [(part.part, nth) for part in state.parts for nth in range(part.part.pieces)][:MOST_LABELS]
    if not pieces:
        document.add_page()
    for n, (part, nth) in enumerate(pieces):
        at = n % sheet.each
        if at == 0:
            document.add_page()
        row, column = divmod(at, sheet.columns)
        left, top = sheet.left + column * (sheet.width + sheet.gap) + 3, sheet.top + row * sheet.height + 3
        document.set_font("label", "B", 20)
        document.set_xy(left, top)
        document.cell(sheet.width - 6, 8, part.piece_name(nth))
        length, width, thickness = part.rough_m
        sizes = f"rough {cut_sizes((length, width, thickness), system)}"
        for number, text in enumerate((f"{part.name}, {state.build.name}", sizes, of_piece.get((part.pk, nth), ""))):
            points = 8.5
            document.set_font("label", "", points)
            while text is sizes and points > 2 and document.get_string_width(text) > sheet.width - 6:
                points -= 0.25
                document.set_font_size(points)
            while text is not sizes and text and document.get_string_width(text) > sheet.width - 6:
                text = text[:-1]
            document.set_xy(left, top + 8.5 + 3.6 * number)
            document.cell(sheet.width - 6, 3.6, text)
    return bytes(document.output())
