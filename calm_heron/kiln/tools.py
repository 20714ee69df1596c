"""What the kiln answers: a load, insects, its end, and somebody else's kiln."""

from calm_heron.kiln import drawings, heat_a_load, insects, planning, words
from calm_heron.kiln.ends import hand_over, load_end
from calm_heron.kiln.ends.hand_over import LoadForOthers, Slip, SlipForm
from calm_heron.kiln.ends.load_end import LoadEnd, LoadEndForm
from calm_heron.kiln.forms import LoadForm
from calm_heron.kiln.heat_a_load import HeatLoadForm, LoadToHeat
from calm_heron.kiln.planning import LoadPlan, LoadToRun
from calm_heron.questions.tools import NEIGHBOURS, TOOLS, Drawing, Example, Neighbour, Subject, Tool, Why, in_both
from calm_heron.stock.subjects import sawn
from wood.kiln.finish import Ended
from wood.kiln.heat_load import Heated

NEIGHBOURS.add(
    Neighbour(10, "kiln", "Running", "kiln"),
    Neighbour(30, "kiln", "Next in", "kiln_season"),
    Neighbour(70, "kiln", "How did it go?", "kiln_record"),
    Neighbour(70, "stacks", "How did it go?", "kiln_record"),
)
PINE_LOAD = {"species_key": "eastern white pine", "moisture": "13", "where": "four_seasons"}
OAK_LOAD = {"species_key": "white oak", "chamber": "dehumidifier", "where": "four_seasons", "start_date": "2027-04-15"}
TOOLS.add(
    Tool[LoadForm, LoadToRun, LoadPlan](
        20,
        "kiln",
        "How do I run this load?",
        "Run a load",
        "kiln",
        "M6 36V10L32 4L58 10V36ZM14 22H50M14 27H50M14 32H50M24 14C28 10 32 18 36 14S42 12 44 14",
        "kiln/plan/",
        "kiln/",
        place=70,
        form=LoadForm,
        put=planning.put,
        work=planning.work,
        gist=planning.gist,
        present=words.present,
        drawings={"load": Drawing("kiln/load_drawing.html", drawings.load_drawing)},
        subject=Subject(sawn, "An imagined load"),
        not_known=(
            "No source at hand has a schedule for {subject} or a relative of it, or tells its pace. Type your own steps, or dry it"
            " outdoors."
        ),
        examples=(
            Example(
                {
                    "inch": OAK_LOAD | {"thickness_m": "28.6 mm", "volume_m3": "2.5 m3"},
                    "metric": OAK_LOAD | {"thickness_m": "28.6", "volume_m3": "2.5"},
                },
                "runs",
            ),
            Example(in_both({"species_key": "wenge"}), why=Why.NO_FIGURE),
            Example({"inch": {"volume_m3": "400"}, "metric": {"volume_m3": "1"}}, why=Why.STILL_TO_SAY),
        ),
    ),
    Tool(
        40,
        "heat",
        "Will heat kill the insects?",
        "Heat and insects",
        "kiln",
        "M22 34V10A5 5 0 0 1 32 10V34A7 7 0 1 1 22 34ZM40 10H46M40 16H46M40 22H46",
        "kiln/heat/",
        "kiln/heat/",
        form=insects.HeatForm,
        put=insects.put,
        work=insects.work,
        gist=insects.gist,
        present=insects.present,
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
    Tool[HeatLoadForm, LoadToHeat, Heated](
        45,
        "heat_load",
        "How do I heat a whole load through?",
        "Heat a load",
        "kiln",
        "M6 36V12L32 4L58 12V36ZM16 30H48M16 24H48M24 20C22 16 26 15 24 11M32 20C30 16 34 15 32 11M40 20C38 16 42 15 40 11",
        "kiln/heat-a-load/",
        "kiln/heat-a-load/",
        form=HeatLoadForm,
        put=heat_a_load.put,
        work=heat_a_load.work,
        gist=heat_a_load.gist,
        present=heat_a_load.present,
        subject=Subject(sawn, "An imagined load"),
        examples=(
            Example(
                {
                    "inch": PINE_LOAD | {"volume_m3": "1.2 m3", "thickness_m": "25.4 mm", "core_c": "149 F"},
                    "metric": PINE_LOAD | {"volume_m3": "1.2", "thickness_m": "25.4", "core_c": "65"},
                },
                "there",
            ),
            Example(
                {
                    "inch": PINE_LOAD | {"chamber": "dehumidifier", "core_c": "149 F"},
                    "metric": PINE_LOAD | {"chamber": "dehumidifier", "core_c": "65"},
                },
                "never there",
            ),
            Example(in_both({"species_key": ""}), why=Why.STILL_TO_SAY),
        ),
    ),
    Tool[LoadEndForm, LoadEnd, Ended | None](
        50,
        "prongs",
        "Is the load done?",
        "Prong test",
        "kiln",
        "M6 12H58M6 20H58M6 28H58M6 12V28",
        "kiln/prongs/",
        "kiln/prongs/",
        form=LoadEndForm,
        put=load_end.put,
        work=load_end.work,
        gist=load_end.gist,
        present=load_end.present,
        examples=(
            Example(in_both({}), "not read"),
            Example(in_both({"shell": "7.8", "core": "8.4", "wanted": "8", "later": "straight"}), "done"),
            Example(in_both({"shell": "6.5", "core": "11", "wanted": "8"}), "core_wet"),
            Example(in_both({"shell": "8"}), why=Why.STILL_TO_SAY),
        ),
    ),
    Tool[SlipForm, LoadForOthers, Slip](
        60,
        "dried_by",
        "What do I ask the kiln operator?",
        "Sent out",
        "kiln",
        "M14 4H50V36H14ZM20 12H44M20 19H44M20 26H36",
        "kiln/dried-by-others/",
        "kiln/dried-by-others/",
        form=SlipForm,
        put=hand_over.put,
        work=hand_over.work,
        gist=hand_over.gist,
        present=hand_over.present,
        sheet=hand_over.sheet,
        examples=(
            Example(in_both({"species_key": "sugar maple", "count": "60", "insects": "on"}), "slip"),
            Example(in_both({"count": "60"}), why=Why.STILL_TO_SAY),
        ),
    ),
)
