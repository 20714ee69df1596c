"""Milling in steps: how long wood rests between rough and final milling, what resawing sets free, and when a glued panel may be planed.

A face that is planed lays bare wood that was inside. Where the inside is wetter, the piece goes on drying and moves; it rests until core
and outside agree again. Thick stock resawn in its middle has a dry face and a wet one: the wet one shrinks more as it evens out, and the
leaf cups hollow on the side that was the core.
Glue brings water into its joint: the wood swells there, and planed too soon the joint lies hollow once the water is gone.

Metres, days, moistures as fractions. Sources: the field of :mod:`wood.drying.field`, the bending of a strip whose layers shrink unlike (as
a bimetal's), the spreading of a line of water (Crank); evenness asked for, glue spread and what an eye sees are our own judgement of bench
practice. Growth and drying stresses that were locked in come out as well and are not computed: a prong test tells of them.
"""

import math
from dataclasses import dataclass, replace

import numpy as np

from wood.drying import field
from wood.drying.arrival import READ_PER_MEAN
from wood.drying.field import Wood
from wood.drying.pace import diffusivity_m2_s
from wood.drying.questions import Question
from wood.drying.speeding_up import skimmed
from wood.errors import check_range
from wood.movement.shrinkage import Shrinkage, size_ratio

# Core and outside agree so far (as readings would show it) before the last pass; what was cut rests a night at least, for stresses show by
# then.
EVEN, LEAST_DAYS = 0.005, 1.0
REST_DAYS = 120.0
# The first term's share of the bending of a straight slope (6/π²), and the cup still to come that does no more harm.
LINEAR_SHARE, CUP_LEFT_M = 0.61, 0.0002
DAY_S, ROOM_C = 86_400.0, 20.0
# Glue spread on a joint, both edges together, and the share of it that is water (kg/m²; common white and yellow glues).
GLUE_KG_M2, GLUE_WATER = 0.20, 0.50
# A hollow line of so much shows under a shining finish.
SHOWS_M = 0.00002
GLUE_LIMIT_DAYS = 60.0


@dataclass(frozen=True)
class Rest:
    """How long wood rests after a step, in days (infinite where it does not even out in four months), what it then is and was (mean, and a
    reading in the middle over one near the face), and the thickness it rests at."""

    days: float
    thickness_m: float
    mean: float
    gradient: float
    mean_after: float


def rest(question: Question, off_each_face_m: float) -> Rest:
    """How long wood rests once so much was taken off both faces, in the air that the question has.

    Args:
        question: the wood before; off_each_face_m: 0…0.45 of half its thickness, in metres.
    Raises:
        OutOfRange.
    """
    check_range("off_each_face_m", off_each_face_m, 0.0, 0.225 * question.thickness_m, " m")
    return evened(skimmed(question, off_each_face_m))


def evened(question: Question) -> Rest:
    """How long wood as it is rests until core and outside agree."""
    looks = np.concatenate([np.arange(0.0, 10.0, 0.25), np.arange(10.0, REST_DAYS + 0.5)])
    ran = field.dry(
        question.figures.wood,
        question.as_slab_m,
        question.profile,
        question.setting.drive(),
        REST_DAYS,
        out_days=looks,
        tolerance=field.STEP_TOLERANCE * 0.03,
    )
    off = READ_PER_MEAN * np.abs(ran.core - ran.mean)
    uneven = np.flatnonzero(off > EVEN)
    # It evens out, and the room's own weather may pull it apart again: what counts is the first time.
    within = np.flatnonzero(off <= EVEN)
    days = LEAST_DAYS if not uneven.size else float(looks[within[0]]) if within.size else math.inf
    days = max(days, LEAST_DAYS)
    after = float(np.interp(min(days, REST_DAYS), ran.days, ran.mean))
    return Rest(days, question.thickness_m, question.start, question.gradient, after)


@dataclass(frozen=True)
class Leaf:
    """One of the two leaves of a resawn board: its thickness, its moistures at the old face, at the new one and on the whole, the hollow it
    takes over its width as it evens out (above nothing: hollow on the new face), what planing flat then leaves of it, and how long it
    rests.
    """

    thickness_m: float
    face: float
    core: float
    mean: float
    cup_m: float
    flat_m: float
    rest: Rest


def resawn(question: Question, kerf_m: float, shrinkage: Shrinkage, ring_angle_deg: float, width_m: float) -> Leaf:
    """What resawing a board in its middle does.

    Args:
        question: the whole board; kerf_m: of the saw, 0…a quarter of its thickness; ring_angle_deg 0…90; width_m 5 mm…2 m.
    Raises:
        OutOfRange.
    """
    check_range("kerf_m", kerf_m, 0.0, question.thickness_m / 4, " m")
    check_range("ring_angle_deg", ring_angle_deg, 0.0, 90.0, "°")
    check_range("width_m", width_m, 0.005, 2.0, " m")
    half, near = question.thickness_m / 2, kerf_m / 2
    rise = question.gradient / (READ_PER_MEAN / 3)
    core = question.start + rise / 3
    depth = np.linspace(near, half, 201)
    moisture = np.clip(core - rise * (depth / half) ** 2, 0.0, None)
    thickness, mean = half - near, float(moisture.mean())
    cup = _cup(depth, moisture, shrinkage.at_ring_angle(ring_angle_deg), shrinkage.fibre_saturation, width_m)
    left = replace(question, thickness_m=thickness, start=mean, gradient=question.gradient * (thickness / question.thickness_m) ** 2)
    waits = evened(left)
    # From face to face the difference is gone once the cup still to come can no longer be seen; its slowest term goes four times as fast as
    # a slab's.
    pace = diffusivity_m2_s(question.figures.wood, min(mean, 0.3), ROOM_C) * DAY_S
    bent = max(math.log(max(abs(cup) * LINEAR_SHARE, 1e-9) / CUP_LEFT_M), 0.0) * thickness**2 / (4 * math.pi**2 * pace)
    return Leaf(
        thickness,
        float(moisture[-1]),
        float(moisture[0]),
        mean,
        cup,
        max(0.0, thickness - abs(cup)),
        replace(waits, days=max(waits.days, bent)),
    )


def _cup(depth: np.ndarray, moisture: np.ndarray, shrinkage: float, saturation: float, width_m: float) -> float:
    """The hollow of a leaf whose layers come to one moisture: κ = 12/t³·∫ε(x − x̄)dx, and κ·w²/8 over its width. Hollow on the side that
    was wetter (the beginning of ``depth``)."""
    thickness = depth[-1] - depth[0]
    mean = float(np.clip(moisture, 0, saturation).mean())
    strain = np.array([size_ratio(shrinkage, float(item), mean, saturation) - 1 for item in np.clip(moisture, 0, saturation)])
    middle = (depth[0] + depth[-1]) / 2
    bent = 12 / thickness**3 * float(np.trapezoid(strain * (depth - middle), depth))
    return bent * width_m**2 / 8


def glue_days(
    wood: Wood, thickness_m: float, shrinkage: Shrinkage, ring_angle_deg: float, moisture: float, temperature_c: float = 20.0
) -> float:
    """Days from gluing until a joint may be planed: until what its water still swells the wood by would show no more once it is gone.

    The water spreads from the joint as q/(2·√(πDt)) and leaves through the faces as e^(−π²Dt/L²), the slowest term of a slab's series.

    Args:
        wood: its diffusion and density; thickness_m: of the panel, 3…200 mm; ring_angle_deg: of its face, 0…90; moisture: 0.02…0.28;
        temperature_c: of the room, 0…50.
    Raises:
        OutOfRange.
    """
    check_range("thickness_m", thickness_m, 0.003, 0.2, " m")
    check_range("ring_angle_deg", ring_angle_deg, 0.0, 90.0, "°")
    check_range("moisture", moisture, 0.02, 0.28)
    check_range("temperature_c", temperature_c, 0.0, 50.0, "°C")
    pace = diffusivity_m2_s(wood, moisture, temperature_c) * DAY_S
    # Metres of pure moisture (as a fraction) that the glue brings in.
    brought = GLUE_KG_M2 * GLUE_WATER / wood.density
    through = shrinkage.at_ring_angle(90 - ring_angle_deg)
    days = np.arange(0.25, GLUE_LIMIT_DAYS, 0.25)
    excess = brought / (2 * np.sqrt(math.pi * pace * days)) * np.exp(-(math.pi**2) * pace * days / thickness_m**2)
    hollow = thickness_m / 2 * through * excess / shrinkage.fibre_saturation
    shows = np.flatnonzero(hollow > SHOWS_M)
    return float(days[min(int(shows[-1]) + 1, days.size - 1)]) if shows.size else LEAST_DAYS
