"""What stacks answer: how wood is stacked, and how thick it is sawn for it."""

from calm_heron.questions.tools import NEIGHBOURS, TOOLS, Drawing, Example, Neighbour, Subject, Tool, Why, in_both
from calm_heron.stacks import drawings, planning, saw_thickness, words
from calm_heron.stacks.forms import StackForm
from calm_heron.stacks.planning import StackPlan, StackToBuild
from calm_heron.stock.subjects import sawn

NEIGHBOURS.add(Neighbour(10, "stacks", "Stacks", "stacks"))
TOOLS.add(
    Tool[StackForm, StackToBuild, StackPlan](
        20,
        "stack",
        "How should I stack it?",
        "Plan a stack",
        "stacks",
        "M6 8H58M6 14H58M6 20H58M6 26H58M12 8V26M32 8V26M52 8V26M12 30V36M32 30V36M52 30V36",
        "stacks/plan/",
        "stack/",
        place=65,
        form=StackForm,
        put=planning.put,
        work=planning.work,
        gist=planning.gist,
        present=words.present,
        drawings={"stack": Drawing("stacks/views.html", drawings.stack)},
        subject=Subject(sawn, "Without stock"),
        examples=(
            Example(
                {
                    "inch": {
                        "species_key": "white oak",
                        "thickness_m": "27 mm",
                        "board_m": "200 mm",
                        "length_m": "2400 mm",
                        "count": "100",
                        "width_m": "1200 mm",
                    },
                    "metric": {
                        "species_key": "white oak",
                        "thickness_m": "27",
                        "board_m": "200",
                        "length_m": "2400",
                        "count": "100",
                        "width_m": "1200",
                    },
                },
                "as it should be",
            ),
            Example(in_both({"species_key": "white oak", "width_m": "1200 mm", "stickers_moisture": "30"}), "breaks a rule"),
            Example(in_both({"count": "20"}), why=Why.STILL_TO_SAY),
        ),
    ),
    Tool(
        30,
        "saw",
        "How thick should I saw it?",
        "Saw thickness",
        "stacks",
        "M6 12H58V28H6ZM6 20H58M58 20L62 16M58 20L62 24",
        "stacks/saw/",
        "stack/saw/",
        form=saw_thickness.SawForm,
        put=saw_thickness.put,
        work=saw_thickness.work,
        gist=saw_thickness.gist,
        present=saw_thickness.present,
        examples=(
            Example(
                {
                    "inch": {"species_key": "white oak", "wanted_m": "13/16", "width_m": "8"},
                    "metric": {"species_key": "white oak", "wanted_m": "20.6375", "width_m": "203.2"},
                },
                "saw",
            ),
            Example({"inch": {"species_key": ""}, "metric": {"species_key": ""}}, why=Why.STILL_TO_SAY),
            Example(
                {"inch": {"species_key": "wenge", "wanted_m": "1"}, "metric": {"species_key": "wenge", "wanted_m": "25.4"}},
                why=Why.NO_FIGURE,
            ),
        ),
    ),
)
