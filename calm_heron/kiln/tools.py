"""What the kiln answers: a load, insects, prongs, and somebody else's kiln."""

from calm_heron.kiln import hand_over, insects, views
from calm_heron.questions.tools import NEIGHBOURS, TOOLS, Example, Neighbour, Tool, Why

NEIGHBOURS.add(Neighbour(10, "kiln", "What runs", "kiln"), Neighbour(30, "kiln", "What goes in next?", "kiln_season"))
TOOLS.add(
    Tool(
        20,
        "kiln",
        "How do I run this load?",
        "Run a load",
        "kiln",
        "M6 36V10L32 4L58 10V36ZM14 22H50M14 27H50M14 32H50M24 14C28 10 32 18 36 14S42 12 44 14",
        "kiln/plan/",
        "kiln/",
        place=70,
        view=views.load,
    ),
    Tool(
        40,
        "heat",
        "Will heat clear it of insects?",
        "Heat and insects",
        "kiln",
        "M22 34V10A5 5 0 0 1 32 10V34A7 7 0 1 1 22 34ZM40 10H46M40 16H46M40 22H46",
        "kiln/heat/",
        "kiln/heat/",
        form=insects.HeatForm,
        put=insects.put,
        work=insects.work,
        gist=insects.gist,
        told=insects.told,
        examples=(
            Example(
                {
                    "inch": {"thickness_m": "2", "width_m": "8", "start_c": "59 F", "dry_bulb_c": "159.8 F", "wet_bulb_c": "140 F"},
                    "metric": {"thickness_m": "50.8", "width_m": "203.2", "start_c": "15", "dry_bulb_c": "71", "wet_bulb_c": "60"},
                },
                "clears",
            ),
            Example(
                {
                    "inch": {
                        "thickness_m": "2",
                        "width_m": "8",
                        "start_c": "59",
                        "dry_bulb_c": "113",
                        "wet_bulb_c": "104",
                        "moisture": "60",
                    },
                    "metric": {
                        "thickness_m": "50.8",
                        "width_m": "203.2",
                        "start_c": "15",
                        "dry_bulb_c": "45",
                        "wet_bulb_c": "40",
                        "moisture": "60",
                    },
                },
                "never",
            ),
            Example({"inch": {"thickness_m": ""}, "metric": {"thickness_m": ""}}, why=Why.STILL_TO_SAY),
        ),
    ),
    Tool(
        50,
        "prongs",
        "Is the load done?",
        "Is it done?",
        "kiln",
        "M6 12H58M6 20H58M6 28H58M6 12V28",
        "kiln/prongs/",
        "kiln/prongs/",
        view=views.is_done,
    ),
    Tool(
        60,
        "dried_by",
        "What do I ask, and what do I hand over?",
        "Somebody else dries it",
        "kiln",
        "M14 4H50V36H14ZM20 12H44M20 19H44M20 26H36",
        "kiln/dried-by-others/",
        "kiln/dried-by-others/",
        view=hand_over.questions,
    ),
)
