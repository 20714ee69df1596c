"""Turning: plans for a log with ten checks, a line that is moved, a fit of thirty weighings, and a shelf of two hundred bowls."""

import numpy as np

from command.bench import best, row
from wood.air.climate import constant
from wood.drying import field
from wood.drying.diffusivity import of_species
from wood.species import species_named
from wood.turning import cuts, weights
from wood.turning.blanks import Cuts
from wood.turning.bowls import Bowl, parts
from wood.turning.drying import SHELF, course, wood_of
from wood.turning.logs import LogEnd, Stroke
from wood.turning.weight_logs import Weights

ROOM = constant(18.0, 0.5)


def run() -> None:
    log = a_log()
    cuts.plans(log)
    row("cut plans for a log with ten checks", f"{best(lambda: cuts.plans(log)) * 1000:.0f} ms", "wanted: at most 300")
    moved = Cuts(52.0, 0.03, 0.03)
    row("  a line moved", f"{best(lambda: cuts.along_cuts(log, moved)) * 1000:.1f} ms", "wanted: at most 100")
    maple = species_named("sugar_maple")
    figures = of_species(maple)
    bowl = Bowl(0.25, 0.10, 0.025)
    first = best(lambda: course(bowl, maple, figures, figures.green_moisture, ROOM, days=120))
    row("a bowl's course with its cracks, six slabs", f"{first * 1000:.1f} ms")
    days = np.linspace(0, 40, 30)
    drive = field.driven(ROOM, SHELF)
    shell = parts(bowl, 12.0)
    means = [field.dry(wood_of(part, figures.wood), part.slab_m, 0.7, drive, 40, out_days=days).mean for part in shell]
    masses = np.average(means, axis=0, weights=[part.share for part in shell])
    masses = figures.wood.density * bowl.volume_m3 * (1 + masses) * (1 + np.random.default_rng(1).normal(0, 0.0015, 30))
    log_of_it = Weights(days.tolist(), masses.tolist(), bowl=bowl)
    fit = best(lambda: weights.weighed(log_of_it, figures, ROOM))
    row("a fit of thirty weighings with its bands", f"{fit * 1000:.0f} ms", "wanted: at most 100")
    row("  against one course of a bowl", f"{fit / first:.0f} x")


def a_log() -> LogEnd:
    """A log with ten checks of which some are shallow."""
    chance = np.random.default_rng(2)
    strokes = []
    for angle, depth in zip(chance.uniform(0, 6.28, 10), (None, None, 0.03, 0.05, None, 0.1, 0.02, 0.3, 0.04, None), strict=True):
        strokes.append(
            Stroke(tuple((r * np.cos(angle + 0.1 * k), r * np.sin(angle + 0.1 * k)) for k, r in enumerate((0.05, 0.11, 0.18))), depth)
        )
    return LogEnd(0.42, 0.38, 0.9, 0.02, -0.03, 0.02, tuple(strokes))
