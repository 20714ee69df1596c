"""What turning answers: how thick a bowl is roughed, and where a log is cut."""

from calm_heron.questions.tools import NEIGHBOURS, TOOLS, Drawing, Example, Neighbour, Subject, Tool, Why, in_both
from calm_heron.stock.models import Piece
from calm_heron.stock.subjects import piece_or_lot
from calm_heron.turning import drawings
from calm_heron.turning.bowls import rough_words, roughing
from calm_heron.turning.drawings import NARROW, WIDE
from calm_heron.turning.forms import CutForm, RoughForm
from calm_heron.turning.logs import cut_drawings, cut_words, cutting
from calm_heron.turning.logs.cutting import LogCut, LogToCut
from calm_heron.workshops.askers import Asker


def _turned(asker: Asker, tag: str) -> Piece | None:
    piece = piece_or_lot(asker, tag)
    return piece if piece is not None and piece.traits.is_turned else None


NEIGHBOURS.add(Neighbour(10, "turning", "The shelf", "turning"), Neighbour(20, "turning", "Weigh", "weigh_shelf", may="may_record"))
TOOLS.add(
    Tool[CutForm, LogToCut, LogCut](
        30,
        "cut",
        "Where do I cut this log?",
        "Cut a log",
        "turning",
        "M32 4A16 16 0 1 0 32.1 4ZM12 14H52M12 26H52M30 20H34",
        "turning/cut/",
        "turning/cut/",
        place=80,
        form=CutForm,
        put=cutting.put,
        work=cutting.answered,
        gist=cutting.gist,
        present=cut_words.present,
        drawings={
            "log": Drawing(
                "turning/log_end.html",
                lambda put, result, reader, narrow: cut_drawings.log_end(result, reader.system, NARROW if narrow else WIDE),
            ),
            "downhill": Drawing("turning/downhill.html", lambda put, result, reader, narrow: None, any_width=True),
        },
        subject=Subject(cutting.log_of, "another log", stays=True),
        script="site/js/pages/cut.js",
        beside="turning/cut_tools.html",
        keeping="turning/cut_keep.html",
        examples=(
            Example(
                {
                    "inch": {"species_key": "black cherry", "width_m": "400 mm", "length_m": "500 mm", "least_m": "130 mm"},
                    "metric": {"species_key": "black cherry", "width_m": "400", "length_m": "500", "least_m": "130"},
                },
                "largest",
            ),
            Example(in_both({"species_key": "black cherry", "width_m": "120 mm", "length_m": "300 mm", "least_m": "300 mm"}), "firewood"),
        ),
    ),
    Tool(
        40,
        "rough",
        "How thick should I leave the wall?",
        "Rough a bowl",
        "turning",
        "M6 10H58C56 26 46 34 32 34S8 26 6 10ZM14 10C16 22 22 28 32 28S48 22 50 10",
        "turning/rough/",
        "turning/rough/",
        place=90,
        form=RoughForm,
        put=roughing.put,
        work=roughing.roughed,
        gist=roughing.gist,
        present=rough_words.present,
        drawings={
            "wall": Drawing(
                "turning/wall_band.html",
                lambda put, result, reader, narrow: drawings.wall_band(result, reader.system, NARROW if narrow else WIDE),
            ),
            "oval": Drawing(
                "turning/picture.html", lambda put, result, reader, narrow: drawings.oval(result, reader.system, NARROW if narrow else WIDE)
            ),
        },
        subject=Subject(_turned, "another bowl"),
        examples=(
            Example(
                {
                    "inch": {"diameter_m": "12", "height_m": "5", "where": "heated"},
                    "metric": {"diameter_m": "304.8", "height_m": "127", "where": "heated"},
                },
                "can be",
            ),
            Example({"inch": {"species_key": "wenge"}, "metric": {"species_key": "wenge"}}, why=Why.NO_FIGURE),
        ),
    ),
)
