"""The wood of the demo workshop: each board, lot and log with its sizes, where it lies and where its moisture goes."""

from dataclasses import dataclass, field

from calm_heron.air.demo import BENCH, FLAT, STORE, YARD
from calm_heron.stock.kinds import PieceKind, Seasoning
from calm_heron.stock.models import Grain, LotPart


@dataclass(frozen=True)
class DemoBoard:
    """One board of the demo: sizes in inches, when it was first read, and where its moisture goes from ``start``."""

    species_key: str
    thickness: float
    width: float
    length: float
    grain: Grain
    place: str
    start: float
    days: int
    seasoning: Seasoning = Seasoning.AIR
    nominal: str = ""
    core_wetter: float = 0.0
    patchy: float = 0.0
    reads: int = 6
    spots: int = 4
    meter: str = "Blue pin meter"
    note: str = ""
    kind: str = PieceKind.BOARD
    count: int = 1
    # A sample board of the lot before it, and where in its stack it lies.
    part: str = ""
    felled: int = 0
    source: str = ""
    at_places: tuple[float, ...] = field(default=(0.22, 0.42, 0.61, 0.8, 0.33, 0.7))


BOARDS = (
    DemoBoard("white_ash", 1.25, 8, 96, Grain.FLAT, BENCH, 0.19, 150, nominal="5/4"),
    DemoBoard("white_ash", 1.25, 7.5, 96, Grain.FLAT, BENCH, 0.18, 150, nominal="5/4"),
    DemoBoard(
        "white_ash", 1.25, 9, 96, Grain.RIFT, BENCH, 0.15, 60, nominal="5/4", core_wetter=0.028, note="Core still damp at the butt end"
    ),
    DemoBoard("white_ash", 2, 9, 84, Grain.FLAT, STORE, 0.27, 170, nominal="8/4", core_wetter=0.02),
    DemoBoard("european_oak", 1, 7, 78, Grain.QUARTER, BENCH, 0.13, 120, nominal="4/4"),
    DemoBoard("european_oak", 1, 6.5, 78, Grain.QUARTER, BENCH, 0.125, 120, nominal="4/4"),
    DemoBoard("european_oak", 1, 8, 78, Grain.FLAT, BENCH, 0.14, 100, nominal="4/4", patchy=0.016, note="One end lay under the roof leak"),
    DemoBoard("white_oak", 2, 10, 108, Grain.FLAT, STORE, 0.42, 190, nominal="8/4", core_wetter=0.03, note="For the tidemill doors"),
    DemoBoard("white_oak", 2, 9.5, 108, Grain.RIFT, STORE, 0.40, 190, nominal="8/4", core_wetter=0.03),
    DemoBoard("northern_red_oak", 1, 6, 72, Grain.FLAT, FLAT, 0.075, 30, Seasoning.KILN, nominal="4/4"),
    DemoBoard("black_cherry", 1, 8.5, 90, Grain.FLAT, BENCH, 0.12, 110, nominal="4/4"),
    DemoBoard("black_cherry", 1, 7, 90, Grain.FLAT, BENCH, 0.115, 110, nominal="4/4"),
    DemoBoard("black_cherry", 1.5, 8, 60, Grain.RIFT, STORE, 0.20, 140, nominal="6/4"),
    DemoBoard("black_walnut", 1, 9, 84, Grain.FLAT, BENCH, 0.11, 90, Seasoning.KILN, nominal="4/4"),
    DemoBoard("black_walnut", 2, 6, 48, Grain.QUARTER, BENCH, 0.14, 120, nominal="8/4"),
    DemoBoard(
        "sugar_maple", 1, 7, 72, Grain.FLAT, BENCH, 0.062, 35, Seasoning.KILN, nominal="4/4", reads=3, note="Came from the kiln very dry"
    ),
    DemoBoard(
        "european_walnut",
        0.5,
        7,
        40,
        Grain.FLAT,
        BENCH,
        0.10,
        30,
        reads=3,
        meter="Grey pinless meter",
        note="Thin: the pinless meter reads through it",
    ),
    DemoBoard("honduran_mahogany", 1, 9, 66, Grain.QUARTER, BENCH, 0.10, 60, Seasoning.KILN, nominal="4/4", meter="Grey pinless meter"),
    DemoBoard("sugar_maple", 1, 7, 72, Grain.FLAT, BENCH, 0.064, 35, Seasoning.KILN, nominal="4/4", reads=3),
    DemoBoard("european_beech", 2, 8, 78, Grain.FLAT, STORE, 0.24, 130, nominal="8/4"),
    DemoBoard("yellow_poplar", 1, 10, 96, Grain.FLAT, BENCH, 0.10, 70, Seasoning.KILN, nominal="4/4"),
    DemoBoard("scots_pine", 1.75, 6, 120, Grain.FLAT, STORE, 0.19, 80),
    DemoBoard("scots_pine", 1.75, 6, 120, Grain.FLAT, STORE, 0.18, 80),
    DemoBoard("douglas_fir_coast", 2, 8, 120, Grain.QUARTER, YARD, 0.30, 110, nominal="8/4"),
    DemoBoard("western_redcedar", 1, 6, 96, Grain.QUARTER, YARD, 0.26, 60, nominal="4/4", reads=4),
    DemoBoard(
        "american_elm", 1.5, 11, 60, Grain.FLAT, YARD, 0.72, 40, Seasoning.GREEN, nominal="6/4", reads=4, note="Storm-felled by the sluice"
    ),
    DemoBoard("european_sycamore_maple", 1, 8, 72, Grain.QUARTER, STORE, 0.22, 90, nominal="4/4"),
    DemoBoard("wenge", 1, 5, 36, Grain.QUARTER, BENCH, 0.09, 45, Seasoning.KILN, nominal="4/4", reads=3),
    DemoBoard("european_larch", 1.25, 7, 144, Grain.FLAT, YARD, 0.21, 70, nominal="5/4", spots=2),
    DemoBoard("black_locust", 2, 5, 72, Grain.RIFT, YARD, 0.0, 0, Seasoning.GREEN, nominal="8/4", reads=0),
    DemoBoard("european_ash", 1, 8, 84, Grain.FLAT, STORE, 0.0, 0, nominal="4/4", reads=0),
    # A lot in the store, read through sample boards: it is drier outside than deep in the stack, and one board of it is odd.
    DemoBoard(
        "white_ash",
        1.25,
        7,
        96,
        Grain.FLAT,
        STORE,
        0.0,
        90,
        nominal="5/4",
        kind=PieceKind.BOARD,
        count=64,
        reads=0,
        source="the Hallow copse",
    ),
    DemoBoard("white_ash", 1.25, 7, 96, Grain.FLAT, STORE, 0.20, 90, nominal="5/4", part=LotPart.OUTER, reads=3),
    DemoBoard("white_ash", 1.25, 7, 96, Grain.FLAT, STORE, 0.21, 90, nominal="5/4", part=LotPart.OUTER, reads=3),
    DemoBoard("white_ash", 1.25, 7, 96, Grain.FLAT, STORE, 0.23, 90, nominal="5/4", part=LotPart.MIDDLE, reads=3),
    DemoBoard("white_ash", 1.25, 7, 96, Grain.FLAT, STORE, 0.24, 90, nominal="5/4", part=LotPart.MIDDLE, reads=3),
    DemoBoard("white_ash", 1.25, 7, 96, Grain.FLAT, STORE, 0.52, 90, nominal="5/4", part=LotPart.DEEP, reads=3, note="From the butt log"),
    DemoBoard("white_oak", 0.75, 4.5, 72, Grain.QUARTER, FLAT, 0.0, 20, Seasoning.KILN, kind=PieceKind.FLOORING, count=180, reads=0),
    DemoBoard(
        "white_oak", 0.75, 4.5, 72, Grain.QUARTER, FLAT, 0.080, 20, Seasoning.KILN, kind=PieceKind.FLOORING, part=LotPart.OUTER, reads=3
    ),
    DemoBoard(
        "white_oak", 0.75, 4.5, 72, Grain.QUARTER, FLAT, 0.078, 20, Seasoning.KILN, kind=PieceKind.FLOORING, part=LotPart.MIDDLE, reads=3
    ),
    DemoBoard(
        "white_oak", 0.75, 4.5, 72, Grain.QUARTER, FLAT, 0.082, 20, Seasoning.KILN, kind=PieceKind.FLOORING, part=LotPart.DEEP, reads=3
    ),
    DemoBoard(
        "douglas_fir_coast",
        0.72,
        48,
        96,
        Grain.FLAT,
        FLAT,
        0.086,
        20,
        Seasoning.KILN,
        kind=PieceKind.SUBFLOOR,
        reads=3,
        note="Hall, by the door",
    ),
    DemoBoard(
        "douglas_fir_coast",
        0.72,
        48,
        96,
        Grain.FLAT,
        FLAT,
        0.084,
        20,
        Seasoning.KILN,
        kind=PieceKind.SUBFLOOR,
        reads=3,
        note="Under the window",
    ),
    DemoBoard("european_ash", 12, 12, 9, Grain.FLAT, STORE, 0.5, 75, Seasoning.GREEN, kind=PieceKind.BOWL, reads=4, felled=110),
    DemoBoard("european_sycamore_maple", 10, 10, 8, Grain.FLAT, STORE, 0.45, 75, Seasoning.GREEN, kind=PieceKind.BOWL, reads=4, felled=110),
    DemoBoard("black_cherry", 4, 11, 11, Grain.FLAT, YARD, 0.6, 30, Seasoning.GREEN, kind=PieceKind.BLANK, reads=2, felled=60),
    DemoBoard(
        "european_oak",
        18,
        18,
        96,
        Grain.FLAT,
        YARD,
        0.7,
        120,
        Seasoning.GREEN,
        kind=PieceKind.LOG,
        core_wetter=0.03,
        reads=2,
        felled=130,
        source="windthrow on the dyke",
    ),
    DemoBoard(
        "european_larch",
        3,
        9,
        120,
        Grain.FLAT,
        BENCH,
        0.115,
        60,
        kind=PieceKind.RECLAIMED,
        reads=3,
        note="Floor beams of the old net loft; mind the nails",
    ),
    DemoBoard("european_oak", 2.5, 22, 96, Grain.FLAT, STORE, 0.38, 180, kind=PieceKind.SLAB, core_wetter=0.03, felled=400),
)
