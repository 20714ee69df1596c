"""What movement answers: a board between two moistures, things once they are built, a season of every wood, another home."""

from calm_heron.movement import board, built_views, elsewhere, season
from calm_heron.movement.board import BoardForm, MovingBoard
from calm_heron.movement.elsewhere import ElsewhereForm, MovedElsewhere, PieceThatMoves
from calm_heron.movement.queries import Movement
from calm_heron.movement.season import SeasonForm, SeasonOfWoods, Seasons
from calm_heron.movement.things import presentation
from calm_heron.movement.things.forms import ThingForm
from calm_heron.movement.things.registry import THINGS
from calm_heron.movement.things.thing import Thing, ThingQuestion, WorkedThing
from calm_heron.questions.tools import TOOLS, Drawing, Example, Subject, Tool, Why, in_both
from wood.units import METRIC

# What becomes of the example of a thing that is held, at the worst; of the others nothing is.
FATES = {
    "board": "holds",
    "top": "may_split",
    "breadboard": "holds",
    "panel": "holds",
    "tray": "may_split",
    "deck": "holds",
    "plate": "holds",
    "joint": "holds",
}


def thing_example(thing: Thing) -> Example:
    """A thing as it begins in millimetres, and the same sizes for a reader of inches."""
    sizes = thing.defaults(METRIC) | {"month": "6"}
    unit = {"_m": " mm", "_c": " C"}
    in_units = {name: text + unit.get(name[-2:], "") for name, text in sizes.items()}
    return Example({"inch": in_units, "metric": sizes}, FATES.get(thing.key, "free"))


TOOLS.add(
    Tool[BoardForm, MovingBoard, Movement](
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
        form=BoardForm,
        put=board.put,
        work=board.work,
        gist=board.gist,
        present=board.present,
        drawings={"section": Drawing("movement/section.html", board.section)},
        examples=(
            Example(
                {
                    "inch": {"species_key": "red oak", "width_m": "8", "from_moisture": "12"},
                    "metric": {"species_key": "red oak", "width_m": "203.2", "from_moisture": "12"},
                },
                "shrinks",
            ),
            Example(
                {
                    "inch": {"species_key": "red oak", "width_m": "8", "from_moisture": "8"},
                    "metric": {"species_key": "red oak", "width_m": "203.2", "from_moisture": "8"},
                },
                "no change",
            ),
            Example(
                {
                    "inch": {"species_key": "wenge", "width_m": "8", "from_moisture": "12"},
                    "metric": {"species_key": "wenge", "width_m": "203.2", "from_moisture": "12"},
                },
                why=Why.NO_FIGURE,
            ),
            Example({"inch": {"width_m": "8"}, "metric": {"width_m": "200"}}, why=Why.STILL_TO_SAY),
        ),
    ),
    Tool(
        10,
        "made",
        "What will it do once it is built?",
        "Once it’s built",
        "movement",
        "M4 12H60V17H4ZM10 17V36M54 17V36",
        "movement/",
        "movement/",
        place=50,
        view=built_views.choose,
    ),
    Tool[SeasonForm, SeasonOfWoods, Seasons](
        30,
        "season",
        "Which wood moves least?",
        "Season dial",
        "movement",
        "M32 4A16 16 0 1 0 32.1 4ZM32 20V8M32 20L42 26",
        "movement/season/",
        "movement/season/",
        form=SeasonForm,
        put=season.put,
        work=season.work,
        gist=season.gist,
        present=season.present,
        drawings={
            "dial": Drawing("movement/season_dial.html", season.dial, any_width=True),
            "woods": Drawing("movement/season_woods.html", season.lines, any_width=True),
        },
        examples=(
            Example(
                {
                    "inch": {"width_m": "12", "home": "typed", "low": "6", "high": "10", "species_key": "white oak"},
                    "metric": {"width_m": "304.8", "home": "typed", "low": "6", "high": "10", "species_key": "white oak"},
                },
                "iroko",
            ),
            Example(in_both({"home": "typed"}), why=Why.STILL_TO_SAY),
        ),
    ),
    Tool[ElsewhereForm, PieceThatMoves, MovedElsewhere](
        40,
        "elsewhere",
        "What happens if it goes to another home?",
        "Move it elsewhere",
        "movement",
        "M4 34V18L14 8L24 18V34ZM40 34V18L50 8L60 18V34ZM28 26H36M33 23L36 26L33 29",
        "movement/elsewhere/",
        "movement/elsewhere/",
        form=ElsewhereForm,
        put=elsewhere.put,
        work=elsewhere.work,
        gist=elsewhere.gist,
        present=elsewhere.present,
        drawings={"years": Drawing("movement/years.html", elsewhere.years)},
        examples=(
            Example(
                {
                    "inch": {
                        "species_key": "white oak",
                        "width_m": "36",
                        "thickness_m": "1",
                        "climate": "mild_coast",
                        "to_climate": "hot_desert",
                    },
                    "metric": {
                        "species_key": "white oak",
                        "width_m": "914.4",
                        "thickness_m": "25.4",
                        "climate": "mild_coast",
                        "to_climate": "hot_desert",
                    },
                },
                "shrinks",
            ),
            Example(in_both({"species_key": "white oak", "to_home": "typed"}), why=Why.STILL_TO_SAY),
            Example(in_both({"species_key": "wenge"}), why=Why.NO_FIGURE),
        ),
    ),
    *(
        Tool[ThingForm, ThingQuestion, WorkedThing](
            20 + thing.order,
            f"made_{thing.key}",
            thing.asks,
            thing.name,
            "movement",
            thing.icon,
            f"movement/of/{thing.key}/",
            f"movement/of/{thing.key}/",
            form=type(f"{thing.key.title()}Form", (ThingForm,), {"thing": thing}),
            put=presentation.put,
            work=presentation.work,
            gist=presentation.gist,
            present=presentation.present,
            drawings={
                "scene": Drawing("movement/scene.html", presentation.scene),
                "stops": Drawing("movement/stops.html", presentation.stops, any_width=True),
                "schools": Drawing("movement/schools.html", presentation.approaches, any_width=True),
            },
            subject=Subject(presentation.piece_of, "of no piece", stays=True),
            script="site/js/pages/season.js",
            family="made",
            beside="movement/through.html",
            not_known="None of our sources gives the shrinkage of {subject}, so nothing is computed for it.",
            examples=(thing_example(thing),),
        )
        for thing in THINGS.values()
    ),
)
