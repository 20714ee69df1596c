"""What builds answer: which wood suits a use."""

from calm_heron.builds import which_wood
from calm_heron.questions.tools import NEIGHBOURS, TOOLS, Example, Neighbour, Tool

NEIGHBOURS.add(Neighbour(10, "builds", "All builds", "builds"))
TOOLS.add(
    Tool(
        90,
        "wood_for",
        "Which wood is right for it?",
        "Which wood?",
        "builds",
        "M8 34V20M18 34V12M28 34V24M38 34V8M48 34V16M58 34V28M4 34H62",
        "builds/wood/",
        "which-wood/",
        place=100,
        form=which_wood.WoodForm,
        put=which_wood.put,
        work=which_wood.work,
        gist=which_wood.gist,
        present=which_wood.present,
        examples=(
            Example({"inch": {"stands": "rain"}, "metric": {"stands": "rain"}}, "some"),
            Example({"inch": {"hard": "6700"}, "metric": {"hard": "29900"}}, "none"),
        ),
    ),
)
