"""The questions at the rack: this air, this wood."""

from calm_heron.ask import air, rack, rack_words
from calm_heron.ask.air import ShownAir, ShownAirForm, WoodInAir
from calm_heron.ask.rack import Rack, WoodAtTheRack
from calm_heron.ask.rack_form import RackForm
from calm_heron.questions.tools import TOOLS, Drawing, Example, Tool, Why, in_both

TOOLS.add(
    Tool[ShownAirForm, ShownAir, WoodInAir](
        10,
        "air",
        "What will wood settle at in this air?",
        "Air",
        "ask",
        "M8 30C16 22 24 34 32 26S48 30 56 22M32 4V18M28 8L32 4L36 8",
        "ask/air/",
        "ask/air/",
        place=10,
        heavy=False,
        form=ShownAirForm,
        put=air.put,
        work=air.work,
        gist=air.gist,
        present=air.present,
        drawings={"chart": Drawing("ask/air_drawing.html", air.chart, any_width=True)},
        examples=(
            Example({"inch": {"temperature": "68", "humidity": "55"}, "metric": {"temperature": "20", "humidity": "55"}}, "holds"),
            Example(in_both({"temperature": "105 C", "humidity": "30", "wish": "25"}), "no air holds it"),
            Example({"inch": {"temperature": "68"}, "metric": {"temperature": "20"}}, why=Why.STILL_TO_SAY),
        ),
    ),
    Tool[RackForm, WoodAtTheRack, Rack](
        20,
        "wood",
        "Take it, wait, or walk away?",
        "Wood at the rack",
        "ask",
        "M6 14H58V28H6ZM20 14V28M34 4V14M30 10H38M34 20L48 24",
        "ask/wood/",
        "ask/wood/",
        place=20,
        form=RackForm,
        put=rack.put,
        work=rack.work,
        gist=rack.gist,
        present=rack_words.present,
        examples=(
            Example(
                {
                    "inch": {"readings": "11.2 11.8 12.1", "thickness_m": "1", "species_key": "walnut"},
                    "metric": {"readings": "11.2 11.8 12.1", "thickness_m": "25.4", "species_key": "walnut"},
                },
                "take it: in_time",
            ),
            Example(
                {"inch": {"readings": "8 16 24 9", "thickness_m": "1"}, "metric": {"readings": "8 16 24 9", "thickness_m": "25.4"}},
                "walk away: mixed",
            ),
            Example({"inch": {"readings": "12", "home": "typed"}, "metric": {"readings": "12", "home": "typed"}}, why=Why.STILL_TO_SAY),
            Example({"inch": {}, "metric": {}}, why=Why.STILL_TO_SAY),
        ),
    ),
)
