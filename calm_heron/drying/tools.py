"""What drying answers besides the page of a drying: the routes side by side, and a log's keeping."""

from calm_heron.drying import by_route, log_life, route_drawings, route_words, time_asked
from calm_heron.drying.by_route import Compared, WoodByRoute
from calm_heron.drying.questions import DryingQuestion
from calm_heron.drying.route_forms import RoutesForm
from calm_heron.drying.time_asked import DryingTimeForm
from calm_heron.questions.tools import NEIGHBOURS, TOOLS, Drawing, Example, Neighbour, Subject, Tool, Why, in_both
from calm_heron.stock.subjects import piece_or_lot
from wood.drying.answers import Answer

OAK = {"species_key": "white oak", "where": "four_seasons", "start_date": "2027-04-15"}
NEIGHBOURS.add(Neighbour(10, "drying", "How long by one?", "drying"))
TOOLS.add(
    Tool[DryingTimeForm, DryingQuestion, Answer](
        40,
        "drying",
        "How long will it take to dry?",
        "Drying time",
        "ask",
        "M6 34V6M6 34H60M8 8C14 24 30 30 58 31",
        "ask/drying/",
        "ask/drying/",
        place=40,
        form=DryingTimeForm,
        put=time_asked.put,
        work=time_asked.work,
        gist=time_asked.gist,
        present=time_asked.present,
        drawings={
            "course": Drawing("drying/time_course.html", time_asked.course),
            "months": Drawing("drying/time_months.html", time_asked.months),
            "working": Drawing("drying/time_working.html", time_asked.working, any_width=True),
        },
        examples=(
            Example({"inch": OAK | {"thickness_m": "27 mm"}, "metric": OAK | {"thickness_m": "27"}}, "dries"),
            Example(in_both(OAK | {"species_key": "wenge", "thickness_m": "27 mm"}), why=Why.NO_FIGURE),
            Example(in_both({"species_key": "white oak"}), why=Why.STILL_TO_SAY),
        ),
    ),
    Tool[RoutesForm, WoodByRoute, Compared](
        20,
        "roads",
        "Which is the best way to dry it?",
        "Routes",
        "drying",
        "M6 6C18 6 18 20 32 20S46 34 58 34M6 20C20 20 20 8 34 8S48 14 58 14M6 34H58",
        "drying/roads/",
        "roads/",
        place=60,
        form=RoutesForm,
        put=by_route.put,
        work=by_route.work,
        gist=by_route.gist,
        present=route_words.present,
        drawings={"roads": Drawing("drying/roads_drawing.html", route_drawings.drawing)},
        subject=Subject(piece_or_lot, "another wood", stays=True),
        script="site/js/pages/roads.js",
        not_known="No source at hand tells how fast {subject} dries.",
        examples=(
            Example({"inch": OAK | {"thickness_m": "27 mm"}, "metric": OAK | {"thickness_m": "27"}}, "yard_kiln"),
            Example(in_both(OAK | {"species_key": "wenge"}), why=Why.NO_FIGURE),
            Example(in_both({"target": "8"}), why=Why.STILL_TO_SAY),
        ),
    ),
    Tool(
        30,
        "log",
        "How long will the log keep?",
        "Log life",
        "drying",
        "M8 10H48A6 10 0 0 1 48 30H8A6 10 0 0 1 8 10ZM48 10A6 10 0 0 0 48 30M48 16A3 4 0 0 1 48 24",
        "drying/log/",
        "roads/log/",
        form=log_life.LogForm,
        put=log_life.put,
        work=log_life.work,
        gist=log_life.gist,
        present=log_life.present,
        examples=(
            Example(
                {
                    "inch": {"species_key": "sugar maple", "diameter_m": "16", "felled": "2026-06-01"},
                    "metric": {"species_key": "sugar maple", "diameter_m": "406.4", "felled": "2026-06-01"},
                },
                "keeps",
            ),
            Example({"inch": {"species_key": ""}, "metric": {"species_key": ""}}, why=Why.STILL_TO_SAY),
        ),
    ),
)
