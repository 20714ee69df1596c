"""The questions at the rack: this air, this wood, two moistures, a drying."""

from calm_heron.ask import views
from calm_heron.questions.tools import TOOLS, Tool

TOOLS.add(
    Tool(
        10,
        "air",
        "What does this air bring wood to?",
        "Air",
        "ask",
        "M8 30C16 22 24 34 32 26S48 30 56 22M32 4V18M28 8L32 4L36 8",
        "ask/air/",
        "ask/air/",
        place=10,
        view=views.air,
    ),
    Tool(
        20,
        "wood",
        "Take it, wait, or walk away?",
        "Wood at the rack",
        "ask",
        "M6 14H58V28H6ZM20 14V28M34 4V14M30 10H38M34 20L48 24",
        "ask/wood/",
        "ask/wood/",
        place=20,
        heavy=True,
        view=views.wood,
    ),
    Tool(
        50,
        "movement",
        "How much will it move?",
        "One board",
        "ask",
        "M6 16H58V26H6ZM2 21H62M6 18L2 21L6 24M58 18L62 21L58 24",
        "ask/movement/",
        "ask/movement/",
        place=30,
        also=("movement",),
        view=views.movement,
    ),
    Tool(
        40,
        "drying",
        "How long will it take to dry?",
        "Drying time",
        "ask",
        "M6 34V6M6 34H60M8 8C14 24 30 30 58 31",
        "ask/drying/",
        "ask/drying/",
        place=40,
        heavy=True,
        view=views.drying,
    ),
)
