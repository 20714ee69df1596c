"""Every public function of the core, called with what cannot be: a typed error or a stated answer, never NaN, and never for ever."""

import dataclasses
import enum
import importlib
import inspect
import math
import pkgutil
import random
import re
import time
import unittest
from datetime import UTC, date
from zoneinfo import ZoneInfo

import numpy as np

import wood
from tests.walks import far
from wood import units, uses, written
from wood.air import climate, logger_files, rooms
from wood.air.hygrometers import Shown
from wood.arrays import Values
from wood.builds import choosing, dates, first_year, glueups, layout, sizes
from wood.drying import arrival, field, forecast, learning, methods, questions, routes, settled, solar
from wood.drying.diffusivity import of_species
from wood.errors import WoodError
from wood.judging import readiness
from wood.kiln import by_route, chambers, disturbances, following, heat, loads, programs, samples, schedules, sharing, stress
from wood.measuring import estimates, lots, profile
from wood.movement import course, fastenings, restraint, section, shrinkage, strength, widths
from wood.species import species_named
from wood.stacks import air as stacks
from wood.stacks import pile, stickers, tally
from wood.turning import blanks, bowls, cracking, lathe, logs, microwave, oval, weight_logs
from wood.turning.drying import Way

NUMBERS = (0.0, 1.0, -1.0, 1e-12, 1e-3, 0.05, 0.12, 0.3, 0.5, 2.0, 20.0, 150.0, 1e6, 1e308, -1e308, math.inf, -math.inf, math.nan)
TEXTS = (
    "",
    " ",
    "0",
    "-",
    "nan",
    "5/4",
    "1 3/8",
    "1/0",
    "9" * 400,
    "8' 6\"",
    "'" * 50,
    "8'" * 40,
    "…",
    "T4-D2",
    "white_oak",
    "\x00",
    "12,5 %",
)
COUNTS = (0, 1, -1, 2, 5, 10**6)
# Of the processor's time, on both threads together: what else the machine does does not count.
LONGEST_S = 8.0

OAK, YEAR = species_named("white_oak"), climate.pattern("cold_winter").year
FIGURES, CHAMBER = of_species(OAK), climate.constant(40.0, 0.5, 1.0)
STACK = stacks.Stack(0.13)
SETTING = methods.setting(methods.YARD, YEAR)
SPOTS = [
    estimates.Spot(0.1, 0.01),
    estimates.Spot(0.28, 0.02, "core", bound="above"),
    estimates.Spot(math.nan, math.nan),
    estimates.Spot(0.1, 0.0, "whole"),
]
ESTIMATE = estimates.estimate(SPOTS[:1])
HISTORY = field.dry(FIGURES.wood, 0.027, 0.5, field.driven(CHAMBER, STACK), 10.0)
QUESTION = questions.Question(FIGURES, 0.027, 0.6, 0.12, SETTING)
ROUTES = routes.routes(OAK, 0.027, 0.6, 0.12, SETTING, YEAR)
LOAD = pile.Load("a", OAK, 0.027, 0.2, 2.4, 30, 0.8)
PILE = pile.pile([LOAD], 1.2, stickers.usual(OAK, 0.027, 0.8))
HELD = restraint.held(strength.of_species(OAK), 0.0, 0.3, 0.005, 0.001, restraint.FASTENINGS["glue"])
MADE = first_year.MadePart(shrinkage.of_species(OAK), 0.09, 0.15, 10.0)
FOUND = first_year.Finding(first_year.Measured.WIDTH, 100, 0.149)
FLAT = section.settled_board(0.14, 0.028, 0.0, -0.1, 0.99, 0.98)
LOG = learning.Log([0, 10, 20, 30], moistures=[0.3, 0.28, 0.26, 0.25])

CHAMBERS = (chambers.usual(chambers.Kind.VENTED, 2.0), chambers.usual(chambers.Kind.DEHUMIDIFIER, 2.0))
KILN_LOT = sharing.Lot("a", OAK, 0.0286, 0.3)
KILN_BOARDS = loads.boards("a", OAK, 0.0286, 0.3, count=2)
PROGRAM = programs.program(OAK, 0.0286, 0.3, 0.1, CHAMBERS[0])
RAN = loads.run(KILN_BOARDS, PROGRAM, CHAMBERS[0], YEAR, days=1.0)

CRACK = lathe.Crack(lathe.Where.RIM, 0.003, 0.02)
SESSION = microwave.Session(800, 0.9, 0.55, 0.61, heats=(microwave.Heat(60, 0.3, 0.89),))
WEIGHTS = weight_logs.Weights([0, 3, 9], [1.6, 1.5, 1.4])

# By the name of a parameter, else by its annotation: things to try, good and bad.
BY_NAME = {
    "species": (OAK, species_named("wenge")),
    "one": (OAK, species_named("wenge")),
    "figures": (FIGURES,),
    "wood": (FIGURES.wood, field.Wood(1.3)),
    "series": (YEAR, CHAMBER),
    "outdoors": (YEAR, CHAMBER),
    "background": (CHAMBER,),
    "exposure": (STACK, stacks.OpenBoard()),
    "setting": (SETTING,),
    "question": (),
    "history": (HISTORY,),
    "drive": (field.driven(CHAMBER, STACK),),
    "elsewhere": (SETTING,),
    "like": (climate.pattern("mild_inland"),),
    "log": (LOG,),
    "board": (ESTIMATE,),
    "other": (ESTIMATE, OAK),
    "spots": (SPOTS, [], SPOTS[2:]),
    "shrinkage": (0.08, math.nan, 0.0),
    "temperature_c": NUMBERS,
    "instruments": ([], [Shown("a", 0.5, 0.03), Shown("b", 0.6, 0.0)], [Shown("a", math.nan, 0.03)] * 2),
    "system": (units.INCH, units.METRIC),
    "sizes_m": ([0.5], [0.5, math.nan], [1e300] * 2),
    "use": (uses.FINE, 0.01, 0.0, math.nan),
    "method": (methods.LOG, methods.YARD, methods.SHED, methods.SHOP, methods.CHAMBER),
    "schedule": (schedules.steps("T4-D2"), ()),
    "interval": (lots.t_interval([0.1, 0.12]),),
    "outline": (section.rectangle(0.2, 0.03),),
    "published": (OAK,),
    "surface": (STACK.surface(CHAMBER),),
    "lines": ([], ["LOCATION,x"], ["LOCATION,x"] + [""] * 8000, ["a,b"] * 9000),
    "data": (b"", b"\xff\xfe", b"\x00" * 50, b"\x81\x8d"),
    "among": (None, []),
    "parts": ([], ["outer"], ["nowhere"]),
    "values": ([], [0.1], [0.1, math.nan], [0.1, 0.2, 1e308]),
    "readings": ([],),
    "moistures": ([], [0.1, 0.2]),
    "monthly_emc": ([0.1] * 12, [0.1] * 11, [math.nan] * 12),
    "monthly_means": ([1.0] * 12, [1.0], [math.inf] * 12),
    "species_key": ("white_oak", "nothing"),
    "condition": ("", "wet", "sodden"),
    "wind": ("usual", "gale"),
    "salt": ("NaCl", "pepper"),
    "cuts": ((0.15, 0.45), (0.5,)),
    "built": (0.09, 0.0, -1.0, 0.5, math.nan),
    "key": ("white_oak", "shellac", "nothing", ""),
    "code": ("T4-D2", "T99-Z9", ""),
    "runs": (8, 0, math.nan),
    "days": (10.0, 0.0, -5.0, math.nan, 1e9),
    "days_": ([],),
    "horizon": (10.0,),
    "points": (20,),
    "every": (1,),
    "out_days": ([1.0], [-1.0], [math.nan], None),
    "cells": (6, 0, 10**9),
    "start": (0.5, 2.5, -1.0, math.nan),
    "starts": (0.5, [], math.nan),
    "nominal_quarters": (4, 0, 999, 5),
    "shown": (0.5, math.nan, 1.5),
    "species_set_on_meter": (True, False),
    "figures_": (),
    "name": ("x",),
    "odd": ((), [0], [99]),
    "looks": ([], [(1.0, 0.3, 0.2, 0.4)], [(0.0, 0.03, 0.02, 0.04)] * 3),
    "lot": ("a",),
    "taken": ((), [np.array([(0.05, 0.0), (0.1, 0.0), (0.1, 0.06)])]),
    "scale": ([], [(20, 0.3), (40, 0.5)], [(1, 2)]),
}
LOGGED = logger_files.read("time;T (°C);RH (%)\n2026-10-25 01:30;18,0;52,0\n2026-10-25 02:30;18,5;52,0\n")
BOWL, LOG_END = bowls.Bowl(0.25, 0.1, 0.025), logs.LogEnd(0.4, 0.38, 0.5, 0.01, 0.0, 0.01, (logs.Stroke(((0.02, 0.02), (0.1, 0.1)), 0.03),))

PLANK = layout.Board("a", 1.0, 0.2, (layout.Rect(0.4, 0.5, 0.0, 0.05),))
LAID = layout.Placed("p", "a", layout.Rect(0.0, 0.3, 0.0, 0.1))
STAVE = glueups.PanelBoard("a", shrinkage.of_species(OAK), 0.1, 0.02)
READY = dates.Ready(np.array([3.0, 5.0, math.inf]), 5.0, 3.0, math.inf)

# By what a parameter is annotated with, before its name.
BY_TYPE = {
    r"Sequence\[tuple\[float, float, float(?=\]\])": ([], [(0.5, 1.5, 1.0)], [(0.0, math.nan, 0.5)], [(0.0, 1.0, 7.0)]),
    r"Sequence\[wood\.builds\.layout\.Board(?=\])": ([PLANK], []),
    r"Sequence\[wood\.builds\.layout\.Need(?=\])": ([layout.Need("p", 0.3, 0.1, 3)], []),
    r"Sequence\[wood\.builds\.layout\.Placed(?=\])": ([LAID], [LAID, LAID], []),
    r"layout\.Board": (PLANK,),
    "PanelBoard": ([STAVE], [STAVE] * 3, []),
    "RingApproach": tuple(glueups.RingApproach),
    "Ready": ([READY], [READY] * 3, []),
    "Exposure": tuple(choosing.Exposure),
    "Durability": tuple(choosing.Durability),
    r"sizes\.Size": (sizes.Size(1.0, 0.1, 0.02),),
    r"sizes\.Year": (sizes.Year(0.09, 0.06, 0.11),),
    "enum 'Fit": tuple(sizes.Fit),
    r"Mapping\[str, float": ({}, {"single": 3.0, "nothing": -5.0}, {"field": math.inf, "slab": math.nan}),
    r"turning\.bowls\.Bowl": (BOWL, bowls.Bowl(0.2, 0.08, 0.01, bowls.Form.ENCLOSED)),
    r"oval\.Ratios": (oval.Ratios(1.0, 0.97, 0.94), oval.Ratios(1.0, 1.0, 1.0)),
    r"logs\.LogEnd": (LOG_END, logs.LogEnd(0.05, 2.0, 0.03)),
    r"blanks\.Cuts": (blanks.Cuts(30.0, 0.03, 0.02), blanks.Cuts(math.nan, 0.1, 0.1), blanks.Cuts(0.0, -2.0, 0.1)),
    r"blanks\.Wanted": (blanks.Wanted(), blanks.Wanted(diameter_m=0.3, shape=blanks.Shape.SPHERE), None),
    "Rim": tuple(bowls.Rim),
    r"cracking\.Shell": (cracking.Shell([bowls.Part(1.0, 0.027, 2.0)], [HISTORY], [False], 0.027, 12.0),),
    r"bowls\.Part": (bowls.Part(1.0, 0.025, 2.0),),
    "Way": tuple(Way),
    r"lathe\.Crack(?=,|\])": ((), (CRACK,)),
    r"lathe\.Crack": (CRACK,),
    r"microwave\.Session": (SESSION,),
    "Felt": tuple(microwave.Felt),
    r"weight_logs\.Weights": (WEIGHTS,),
    "Estimate": (ESTIMATE, dataclasses.replace(ESTIMATE, mean=0.28, bound="above")),
    "Shrinkage": (shrinkage.of_species(OAK),),
    r"stacks\.Stack|air\.Stack": (STACK,),
    "AirSeries": (YEAR, CHAMBER),
    "LoggerAir": (LOGGED,),
    "LoggerClock": tuple(logger_files.LoggerClock),
    "tzinfo": (UTC, ZoneInfo("Europe/Berlin"), ZoneInfo("Pacific/Auckland")),
    r"field\.Wood": (FIGURES.wood, field.Wood(1.3)),
    r"class 'wood\.builds\.layout\.Board": (layout.Board("a", 2.0, 0.2, (layout.Rect(0.0, 0.1, 0.0, 0.2),)),),
    r"class 'wood\.builds\.layout\.Rect": (
        layout.Rect(0.0, 2.0, 0.0, 0.2),
        layout.Rect(0.5, 0.9, 0.05, 0.1),
        layout.Rect(0.1, 0.1, 0.0, 0.0),
    ),
    r"Sequence\[wood\.builds\.layout\.Rect(?=\])": ([layout.Rect(0.0, 0.4, 0.0, 0.1), layout.Rect(0.41, 0.8, 0.0, 0.1)], []),
    "Board": ([estimates.Board(ESTIMATE)], []),
    r"tuple\[float, float, float(?=\])": ((1.0, 2.0, 3.0), (1.0, math.inf, math.inf), (-1.0, 0.0, math.nan), None),
    "Swing": (widths.Swing(0.9, 0.89, 0.91, 0.002, 0.002, 0.003), widths.Swing(0.005, 0.004, 0.006, 0.001, 0.001, 0.001)),
    "Course": (course.between(0.09, 0.06, 0.11),),
    "Strip": ([widths.Strip(shrinkage.of_species(OAK), 30.0, 0.1)], []),
    "Fixed": tuple(fastenings.Fixed),
    "Strength": (strength.of_species(OAK),),
    "Fastening": tuple(restraint.FASTENINGS.values()),
    "Held": (HELD,),
    r"section\.Section|Section": (FLAT,),
    "Callable": (lambda moisture: moisture < 0.05, lambda moisture: moisture > 0.2, lambda moisture: True),
    r"Iterable\[wood\.species\.Species(?=\]$)": ([OAK], []),
    r"Sequence\[wood\.stacks\.pile\.Load(?=\])": ([LOAD], []),
    r"Sequence\[wood\.kiln\.disturbances\.Disturbance(?=\])": ([], [disturbances.Disturbance(disturbances.Disturbed.FANS, 0.0, 1.0)]),
    r"Sequence\[wood\.stacks\.tally\.Size(?=\])": ([tally.Size(0.2)], [tally.Size(0.2, 3), tally.Size(0.1, 4)], []),
    r"Sequence\[wood\.stacks\.tally\.Boards(?=\])": ([tally.Boards(0.2, 2.4, 10, "select")], []),
    "OwnRoute": (by_route.OwnRoute("k", CHAMBERS[1], YEAR, 2.0, 0.25),),
    r"wood\.stacks\.pile\.Load": (LOAD,),
    r"wood\.stacks\.pile\.Pile": (PILE,),
    r"stages\.Route": (ROUTES[0], ROUTES[1], routes.Route("x", ())),
    "Travelled": ([],),
    r"questions\.Question": (QUESTION,),
    "FeltYear": (settled.felt_year(CHAMBER, stacks.OpenBoard()),),
    "Edges": (readiness.around(0.1, uses.FINE), readiness.Edges(0.08, 0.1, 0.09, 0.11, 0.05)),
    "date": (date(2026, 2, 28), date(2028, 12, 31)),
    r"rooms\.Room": (rooms.DWELLING, rooms.UNHEATED),
    "History": (HISTORY,),
    "Chamber": CHAMBERS,
    "Kind": tuple(chambers.Kind),
    "Care": tuple(programs.Care),
    "Program": (PROGRAM,),
    r"Sequence\[wood\.kiln\.loads\.Followed(?=\])": (KILN_BOARDS, [], KILN_BOARDS[:1]),
    "Ran": (RAN,),
    "Give": (stress.of_species(OAK),),
    "Imposed": (None,),
    "Weighed": ([], [following.Weighed(0, 0.9, 0.28)], [following.Weighed(7, 1.0, 0.2)]),
    "Aim": tuple(heat.AIMS.values()),
    r"Sequence\[wood\.kiln\.schedules\.Step(?=\])": (schedules.steps("T4-D2"), [], None),
    r"Sequence\[wood\.kiln\.sharing\.Lot(?=\])": ([KILN_LOT], [KILN_LOT, KILN_LOT], []),
    r"Sequence\[wood\.kiln\.samples\.Sample(?=\])": ([], [samples.Sample("a", 1.0, ((0.0, 1.5),))]),
    r"Sequence\[tuple\[wood\.species\.Species(?=,)": ([(OAK, 0.0286)], [], [(species_named("wenge"), 0.03)]),
    r"Sequence\[tuple\[float, float(?=\]\])": ([], [(0.2, 0.1)], [(math.nan, 0.1)], [(0.1, 0.2)]),
    "Moving": (routes.USUAL_MOVING, routes.Moving(0.15, 0.3, 40.0)),
    "SolarKiln": (solar.SolarKiln(45.0), None),
    r"methods\.Setting": (SETTING,),
    r"wood\.stacks\.stickers\.Stickers": (stickers.usual(OAK, 0.027, 0.8),),
    "Fit": (),
    r"MadePart": (MADE,),
    r"first_year\.FirstYear": (first_year.first_year(MADE, course.between(0.09, 0.06, 0.11)),),
    r"Sequence\[wood\.builds\.first_year\.Finding(?=\])": ([], [FOUND]),
    r"first_year\.Finding": (FOUND, first_year.Finding(first_year.Measured.MOISTURE, 2, 0.1)),
    "KilnRun": (),
    "Wanted": (arrival.around(0.1, 0.01, 0.01), arrival.at_most(0.19)),
}
# What needs whole screens of input, or is not for people: tried by its own tests.
LEFT_OUT = {
    "wood.air.logger_files.faults": "takes moments as numpy has them",
    "wood.measuring.reporting.as_kept": "reads what it wrote itself",
    "wood.drying.calibration.main": "writes the shipped table",
    "wood.drying.calibration.fit_all": "fits every species",
    "wood.drying.calibration.table": "of fits",
    "wood.drying.calibration.usual_permeability": "of fits",
    "wood.drying.field.warm": "compiles",
    "wood.drying.field.side_by_side": "runs what it is given",
    "wood.kiln.plans.warm": "compiles",
    "wood.tables.rows": "names a file of the core",
    "wood.tables.number": "a cell of the core's own tables",
    "wood.errors.check_range": "is the check itself",
    "wood.errors.like_input": "shapes results",
}
LEFT_OUT_MODULES = {
    "wood.drying.kernel": "the compiled inside, behind wood.drying.field",
    "wood.turning.cuts_kernel": "the compiled inside, behind wood.turning.cuts",
    "wood.turning.growing": "the same, before it is compiled",
    "wood.turning.weight_fit": "the inside of wood.turning.weights",
    "wood.turning.weight_runs": "the inside of wood.turning.weights",
    "wood.turning.weight_shapes": "the inside of wood.turning.weights",
    "wood.builds.layout_kernel": "the compiled inside, behind wood.builds.layout",
    "wood.kiln.kernel": "the compiled inside, behind wood.kiln.loads",
    "wood.kiln.chamber_kernel": "the same",
    "wood.checks": "the science's own tables",
}


def functions() -> dict[str, object]:
    """Every public function of the core by its full name."""
    results = {}
    for info in pkgutil.walk_packages(wood.__path__, "wood."):
        if info.ispkg or any(info.name.startswith(name) for name in LEFT_OUT_MODULES):
            continue
        module = importlib.import_module(info.name)
        for name, member in vars(module).items():
            inside = getattr(member, "__wrapped__", member)
            if name.startswith("_") or not inspect.isfunction(inside) or inside.__module__ != info.name:
                continue
            results[f"{info.name}.{name}"] = member
    return {name: item for name, item in results.items() if name not in LEFT_OUT}


def tries(parameter: inspect.Parameter) -> tuple:
    """Values for a parameter: by its name, else by what it is annotated with."""
    annotation = str(parameter.annotation)
    if parameter.name == "temperature_c" and "ndarray" in annotation:
        return (np.full(HISTORY.days.size, 20.0), np.full(HISTORY.days.size, math.nan), np.array([]), np.array([20.0]))
    typed = next((values for name, values in BY_TYPE.items() if re.search(rf"\b{name}\b", annotation)), None)
    if typed is not None:
        return typed
    if BY_NAME.get(parameter.name) is None and parameter.annotation in (Values, Values | None):
        return NUMBERS
    if BY_NAME.get(parameter.name):
        return BY_NAME[parameter.name]
    if "bool" in annotation:
        return (True, False)
    if "str" in annotation:
        return TEXTS
    if "int" in annotation and "float" not in annotation:
        return COUNTS
    if "Sequence" in annotation or "tuple" in annotation or "list" in annotation or "ndarray" in annotation:
        return ([], [0.1], [0.1, 0.2, 0.15], [math.nan], np.array([0.5, 1e308]), np.array([]))
    return NUMBERS


def nan_in(result, depth: int = 0) -> bool:
    """Whether a NaN lies anywhere in a result."""
    if isinstance(result, float | np.floating):
        return math.isnan(result)
    if isinstance(result, np.ndarray):
        return bool(result.dtype.kind == "f" and np.isnan(result).any())
    if depth > 4 or isinstance(result, str | bytes | int | enum.Enum | type(None)):
        return False
    if isinstance(result, dict):
        return any(nan_in(item, depth + 1) for item in result.values())
    if isinstance(result, list | tuple | set):
        return any(nan_in(item, depth + 1) for item in result)
    if dataclasses.is_dataclass(result):
        return any(nan_in(getattr(result, field.name), depth + 1) for field in dataclasses.fields(result))
    return False


# A NaN that went in unread, or is the documented word for "not read", may come out.
MAY_ECHO = {"wood.measuring.estimates.estimate"}


class Fuzz(unittest.TestCase):
    takes_s = 14

    def test_no_public_function_gives_nan_an_untyped_error_or_no_answer_at_all(self):
        dice = random.Random(20261126)
        known = functions()
        self.assertGreater(len(known), 110)
        for name, function in known.items():
            parameters = [
                parameter
                for parameter in inspect.signature(function).parameters.values()
                if parameter.kind not in (parameter.VAR_KEYWORD, parameter.VAR_POSITIONAL)
            ]
            if any(parameter.name in BY_NAME and not BY_NAME[parameter.name] for parameter in parameters):
                continue
            with self.subTest(name):
                for _ in range(far(6, 40) if len(parameters) < 6 else far(12, 70)):
                    # Mostly defaults, so that the deep parts are reached too.
                    given = {
                        parameter.name: dice.choice(tries(parameter))
                        for parameter in parameters
                        if parameter.default is parameter.empty or dice.random() < 0.35
                    }
                    begun = time.process_time()
                    try:
                        with np.errstate(all="ignore"):
                            result = function(**given)
                            if inspect.isgenerator(result):
                                result = list(result)
                    except WoodError:
                        result = None
                    except Exception as untyped:
                        self.fail(f"{type(untyped).__name__}: {untyped} for {given}")
                    self.assertLess(time.process_time() - begun, LONGEST_S, given)
                    self.assertFalse(name not in MAY_ECHO and nan_in(result), f"NaN for {given}: {result}")

    def test_what_was_found_wanting_by_hand_stays_mended(self):
        from wood.air import hygrometers, sorption
        from wood.air.psychrometrics import Air
        from wood.measuring import weighing
        from wood.species import own

        dense = own("own-1", "Ironwood", specific_gravity_green=1.2)
        ran = field.dry(of_species(dense).wood, 0.027, 0.2, field.driven(CHAMBER, STACK), 30)
        self.assertTrue(np.isfinite(ran.mean).all())
        board = dataclasses.replace(ESTIMATE, mean=math.nan)
        refused = (
            lambda: readiness.judge(board, 0.1, 0.004, uses.FINE),
            lambda: weighing.weighing_uncertainty(1.0, 0.0, 0.01),
            lambda: lots.lot_mean([0.1], [""], 0.01, 0),
            lambda: hygrometers.compare(20.0, [Shown("a", 0.5, 0.0), Shown("b", 0.5, 0.03)]),
            lambda: methods.setting(methods.YARD, YEAR, wind="gale"),
            lambda: shrinkage.coefficient_from_shrinkage(0.0),
            lambda: shrinkage.shrinkage_from_coefficient(0.0),
            lambda: Air(20.0, 1e-9).dew_point_c,
            lambda: Air(110.0, 0.9).humidity_ratio,
            lambda: written.inches(math.nan),
            lambda: units.length_m("8'" * 4000, units.INCH),
            lambda: sorption.emc(145.0, 0.9),
            lambda: questions.Question(FIGURES, 0.027, 2.5, 0.2, SETTING),
            lambda: learning.Log([0, 1, 2], masses_kg=[1.0, 0.5, 0.4], dry_mass_kg=1.0),
            lambda: profile.profile_from(math.nan, 0.2),
            lambda: forecast.forecast(LOG, FIGURES, 0.027, CHAMBER, STACK, math.nan),
        )
        for act in refused:
            with self.assertRaises(WoodError):
                act()
        for kilograms in (1e-7, 123456.789, 9.075, 0.0):
            for system in (units.INCH, units.METRIC):
                self.assertAlmostEqual(units.mass_kg(written.typed_mass(kilograms, system), system), kilograms, delta=1e-9)
