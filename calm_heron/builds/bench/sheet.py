"""The sheet that goes to the bench, and a label for each piece."""

from typing import TYPE_CHECKING

from calm_heron.builds.glueups import gluing
from calm_heron.builds.kinds import FitKind
from calm_heron.builds.readiness import BuildState, PartState
from calm_heron.builds.words import build_words, listed, state_of
from calm_heron.site.dates import full_day
from calm_heron.site.numbers import percent
from calm_heron.stock.labels import FONTS, SHEETS
from wood.units import System
from wood.written import cut_length, cut_sizes

if TYPE_CHECKING:
    from fpdf import FPDF

MARGIN, POINT_MM = 12.0, 25.4 / 72
# A sheet of so many lines fits a page at this size; longer ones are set smaller, down to what can be read, and then go on.
POINTS, LEAST_POINTS = 11.0, 7.0
COLUMNS = (("", 8), ("Part", 36), ("No.", 9), ("Wood, from", 42), ("Finished", 56), ("Cut today", 60), ("Leave", 62))
# The columns that hold sizes.
SIZES = (4, 5, 6)


def pdf(state: BuildState, system: System) -> bytes:
    """The bench sheet as a file, Letter where people measure in inches, else A4; on one page where it fits."""
    # Loaded where it is needed: it takes half a second, and no page waits for it (command/serving.py).
    from fpdf import FPDF

    document = FPDF(orientation="landscape", unit="mm", format="letter" if system.is_inch else "a4")
    document.set_auto_page_break(False)
    document.set_title(f"Bench sheet: {state.build.name}")
    document.add_font("sheet", "", FONTS / "hyperlegible-regular.ttf")
    document.add_font("sheet", "B", FONTS / "hyperlegible-bold.ttf")
    panels = _panels(state)
    lines = len(state.parts) + sum(1 + len(panel) // 8 for panel in panels) + 8
    room = document.h - 2 * MARGIN - 26
    points = max(LEAST_POINTS, min(POINTS, room / lines / POINT_MM / 1.5))
    page = _Page(document, points)
    page.begin(state)
    page.head()
    for part in state.parts:
        page.row(_cells(part, system))
    page.skip()
    for line in panels:
        page.line(line)
    page.skip()
    for line in _below(state):
        page.line(line)
    return bytes(document.output())


class _Page:
    """A page that is written from the top, and followed by another where it is full."""

    def __init__(self, document: "FPDF", points: float) -> None:
        self.document, self.points, self.height = document, points, points * POINT_MM * 1.5
        self.width = document.w - 2 * MARGIN
        self.share = self.width / sum(width for _, width in COLUMNS)
        self.y = MARGIN
        document.add_page()

    def begin(self, state: BuildState) -> None:
        build = state.build
        self.document.set_font("sheet", "B", 20)
        self.document.set_xy(MARGIN, MARGIN)
        self.document.cell(self.width, 9, build.name[:60])
        self.document.set_font("sheet", "", 10)
        year = f"; sizes are right at {percent(state.year.mean)}, the mean of its year there" if state.year else ""
        due = f"; due {full_day(build.due)}" if build.due else ""
        self.document.set_xy(MARGIN, MARGIN + 10)
        self.document.cell(self.width, 5, f"{full_day(state.today)}. To live in {build.place.name}{due}{year}.")
        answer = build_words(state)
        self.document.set_xy(MARGIN, MARGIN + 15)
        self.document.cell(self.width, 5, f"{answer.word}{' (' + answer.beside + ')' if answer.beside else ''}: {answer.reason}"[:150])
        self.y = MARGIN + 23

    def _room(self) -> None:
        if self.y + self.height > self.document.h - MARGIN:
            self.document.add_page()
            self.y = MARGIN
            self.head()

    def head(self) -> None:
        self._cells([name for name, _ in COLUMNS], bold=True)
        self.document.line(MARGIN, self.y, MARGIN + self.width, self.y)
        self.y += 0.8

    def row(self, cells: list[str]) -> None:
        self._room()
        self._cells(cells)

    def _cells(self, cells: list[str], *, bold: bool = False) -> None:
        left = MARGIN
        for n, (text, (_, width)) in enumerate(zip(cells, COLUMNS, strict=True)):
            size, wide = self.points, width * self.share
            self.document.set_font("sheet", "B" if bold or n in (0, 5) else "", size)
            # What does not fit is set smaller, and cut off only where it could not be read.
            while size > 5.5 and self.document.get_string_width(text) > wide - 1.5:
                size -= 0.5
                self.document.set_font_size(size)
            # A size is set as small as it must be: a figure that was cut short would be another figure.
            while n in SIZES and size > 2 and self.document.get_string_width(text) > wide - 1.5:
                size -= 0.25
                self.document.set_font_size(size)
            while n not in SIZES and text and self.document.get_string_width(text) > wide - 1.5:
                text = text[:-1]
            self.document.set_xy(left, self.y)
            self.document.cell(wide, self.height, text)
            left += wide
        self.y += self.height

    def line(self, text: str) -> None:
        self.document.set_font("sheet", "", self.points)
        for part in self.document.multi_cell(self.width, self.height, text, dry_run=True, output="LINES"):  # type: ignore[union-attr]
            self._room()
            self.document.set_font("sheet", "", self.points)
            self.document.set_xy(MARGIN, self.y)
            self.document.cell(self.width, self.height, part)  # type: ignore[arg-type]
            self.y += self.height

    def skip(self) -> None:
        self.y += self.height / 2


def _cells(part_state: PartState, system: System) -> list[str]:
    part = part_state.part
    tags = [wood.piece.tag for wood in part_state.woods]
    wood = f"{part.species.spoken_name}, {listed(tags, 3)}" if tags else f"{part.species.spoken_name}, no board yet"
    cut = (
        cut_sizes((part_state.sized.cut.length_m, part_state.sized.cut.width_m, part_state.sized.cut.thickness_m), system)
        if part_state.sized
        else "finished size"
    )
    if part_state.is_unready and part_state.sized:
        cut = f"wait; today {cut}"
    finished = part_state.sized.wanted if part_state.sized else None
    sizes = (
        cut_sizes((finished.length_m, finished.width_m, finished.thickness_m), system)
        if finished
        else cut_sizes((part.length_m, part.width_m, part.thickness_m), system)
    )
    waits = "" if part_state.state is None or part_state.state.value == "ready" else f" ({state_of(part_state).lower()})"
    return [part.letter, part.name + waits, str(part.count), wood, sizes, cut, allowance(part_state, system)]


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


def _panels(state: BuildState) -> list[str]:
    """Each glued panel with its joints as they are chalked."""
    lines = []
    for each_part in state.parts:
        part = each_part.part
        if part.staves < 2:
            continue
        for copy in range(min(part.count, 6)):
            staves = gluing.staves_of(part, copy, state.saw)
            _, order = gluing.arranged(part, copy, staves)
            text = ""
            for joint, (number, up, turned) in enumerate(order):
                side = "bark up" if up else "heart up"
                text += (
                    f"  |{joint}-{joint}|  " if joint else ""
                ) + f"{staves[int(number)].name} {side}{', end for end' if turned else ''}"
            lines.append(f"{part.letter}{copy + 1 if part.count > 1 else ''} {part.name}, glued:  {text}")
    return lines


def _below(state: BuildState) -> list[str]:
    lines = []
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
