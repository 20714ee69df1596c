"""What movement answers: things once they are built, a season of every wood, another home."""

from calm_heron.movement import built_views
from calm_heron.questions.tools import TOOLS, Tool

TOOLS.add(
    Tool(
        10,
        "made",
        "What will it do once it is built?",
        "Once built",
        "movement",
        "M4 12H60V17H4ZM10 17V36M54 17V36",
        "movement/",
        "movement/",
        place=50,
        view=built_views.choose,
    ),
    Tool(
        20,
        "made_thing",
        "What will it do?",
        "A thing",
        "movement",
        "",
        "movement/of/<slug:thing>/",
        "movement/of/<slug:thing>/",
        view=built_views.one_thing,
    ),
    Tool(
        30,
        "season",
        "Which wood moves least?",
        "Season dial",
        "movement",
        "M32 4A16 16 0 1 0 32.1 4ZM32 20V8M32 20L42 26",
        "movement/season/",
        "movement/season/",
        view=built_views.dial,
    ),
    Tool(
        40,
        "elsewhere",
        "What happens if it moves elsewhere?",
        "Move it elsewhere",
        "movement",
        "M4 34V18L14 8L24 18V34ZM40 34V18L50 8L60 18V34ZM28 26H36M33 23L36 26L33 29",
        "movement/elsewhere/",
        "movement/elsewhere/",
        view=built_views.elsewhere,
    ),
)
