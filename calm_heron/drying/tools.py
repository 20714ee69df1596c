"""What drying answers besides the page of a drying: the roads side by side, and a log's keeping."""

from calm_heron.drying import log_life, road_views
from calm_heron.questions.tools import NEIGHBOURS, TOOLS, Example, Neighbour, Tool, Why

NEIGHBOURS.add(Neighbour(10, "drying", "How long by one?", "drying"))
TOOLS.add(
    Tool(
        20,
        "roads",
        "By which road does it dry?",
        "Roads",
        "drying",
        "M6 6C18 6 18 20 32 20S46 34 58 34M6 20C20 20 20 8 34 8S48 14 58 14M6 34H58",
        "drying/roads/",
        "roads/",
        place=60,
        heavy=True,
        view=road_views.by_road,
    ),
    Tool(
        30,
        "log",
        "How long does the log keep?",
        "Log life",
        "drying",
        "M8 10H48A6 10 0 0 1 48 30H8A6 10 0 0 1 8 10ZM48 10A6 10 0 0 0 48 30M48 16A3 4 0 0 1 48 24",
        "drying/log/",
        "roads/log/",
        form=log_life.LogForm,
        put=log_life.put,
        work=log_life.work,
        gist=log_life.gist,
        told=log_life.told,
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
