"""Instruments and other thin parts: a slotted board with its frets, a plate held by its braces."""

from dataclasses import dataclass

import numpy as np

from calm_heron.movement.things.scene import Dimension, Note, Scene, SceneShape, line, rectangle
from calm_heron.movement.things.thing import (
    Sizes,
    Thing,
    ThingPresentation,
    ThingQuestion,
    WorkedThing,
    fate_of,
    length_field,
    percent_field,
    through,
)
from calm_heron.site.numbers import percent, points
from calm_heron.workshops.fields import CalmForm, TemperatureField
from wood.air import sorption
from wood.movement import soundboards
from wood.movement.restraint import FASTENINGS
from wood.movement.soundboards import CATCHES_M, FELT_M, SafeBand

ROOM_C, NOTHING_M, FLUSH_M = 20.0, 5e-6, 1.3e-5
FRETS = 7
HUMIDITIES = (0.20, 0.30, 0.40, 0.50, 0.60, 0.70)


def _room_c(question: ThingQuestion) -> float:
    """How warm its room is: as typed, or as usual."""
    typed = question.typed.get("room_c")
    return ROOM_C if typed is None else float(typed)


def _room_field(form: CalmForm) -> None:
    form.fields["room_c"] = TemperatureField(form.system, -10, 50, required=False, label=f"The room, °{form.system.temperature}")
    form.fields["room_c"].widget.attrs["placeholder"] = "20" if form.system.temperature == "C" else "68"


class Neck(Thing):
    """A fingerboard across its width, against metal frets that do not move."""

    def fields(self, form: CalmForm) -> None:
        length_field(form, "width_m", "Width", 0.02, 0.15)
        _room_field(form)

    def work(self, question: ThingQuestion) -> WorkedThing:
        width = question.typed.get("width_m") or 0.055
        room_c = _room_c(question)
        worked = self.swings(question, "the board’s width", question.strips(width))
        built = question.course.built

        def end(moisture: float) -> float:
            return soundboards.fret_ends_m(question.shrinkage, question.ring_angle_deg, width, built, moisture)

        band = soundboards.safe_band(lambda m: end(m) > FELT_M, lambda m: end(m) < -CATCHES_M, min(max(built, 0.02), 0.25), room_c)
        felt = [(rh, end(float(sorption.emc(room_c, rh)))) for rh in HUMIDITIES]
        return WorkedThing(worked.named, worked.swing, worked.air, _Neck(width, room_c, band, end(question.course.low), felt))

    def present(self, question: ThingQuestion, worked: WorkedThing) -> ThingPresentation:
        result, size = worked.result, question.size
        proud = result.proud_m
        if proud <= NOTHING_M:
            reason = f"In {question.home.name} its ends never stand out."
        elif proud <= FELT_M:
            reason = (
                f"In {question.home.name} each end stands out by {_fine(question, max(0.0, proud))} at the driest: nobody will feel it."
            )
        elif proud <= CATCHES_M:
            reason = f"In {question.home.name} each end stands out by {_fine(question, proud)} at the driest: a hand will feel it."
        else:
            reason = (
                f"In {question.home.name} each end stands out by {_fine(question, proud)} at the driest: it will catch the hand, and push"
                " its binding off."
            )
        return ThingPresentation(
            *_band_told(result.band, question),
            reason,
            [
                "Fret it at the dry end of where it will live, or undercut the slots and hide the ends behind binding that may move.",
                "Dress ends that stand proud when the board is driest; filed in summer they come out again in winter.",
            ],
            Sizes(
                "Each fret end against the humidity of the room",
                ("Humidity", "Stands"),
                [(percent(rh), _end(question, end)) for rh, end in result.felt],
            ),
            [("Felt from", _fine(question, FELT_M)), ("The board’s own swing there", size(worked.swing.range_m))],
            [
                through(question, worked),
                "Binding glued along both edges is pushed as far as the ends: give it wood of the same shrinkage, or none of its own.",
            ],
        )

    def scene(self, question: ThingQuestion, worked: WorkedThing, moisture: float) -> Scene:
        result = worked.result
        now = float(question.strip(result.width_m).width_at(question.course.built, moisture))
        long = result.width_m * 3.4
        shapes = [SceneShape("settled", rectangle(0.0, -now / 2, long, now / 2), wet=True)]
        # Frets come closer together up the board, as their spacing does: each step a share of what is left.
        place = long * 0.06
        for _ in range(FRETS):
            shapes.append(SceneShape("fret", line((place, -result.width_m / 2), (place, result.width_m / 2)), closed=False))
            place += (long * 1.06 - place) * 0.14
        return Scene(
            shapes,
            [Dimension((long, -now / 2), (long, now / 2), question.size(now))],
            [Note((0.0, result.width_m / 2 * 1.15), "frets keep their length", "start")],
        )


@dataclass(frozen=True)
class _Neck:
    width_m: float
    room_c: float
    band: SafeBand
    proud_m: float
    felt: list[tuple[float, float]]


def _fine(question: ThingQuestion, metres: float) -> str:
    """Sizes of fret ends: hundredths of a millimetre or thousandths of an inch."""
    return f"{metres / 0.0254:.3f} in" if question.system.is_inch else f"{metres * 1000:.2f} mm"


def _end(question: ThingQuestion, end_m: float) -> str:
    where = "proud" if end_m > 0 else "under"
    return f"{_fine(question, abs(end_m))} {where}" if abs(end_m) >= FLUSH_M else "flush"


def _band_told(band: SafeBand, question: ThingQuestion) -> tuple[str, str]:
    if band.empty:
        return "No such band", f"for one that was built at {percent(question.course.built)}"
    return f"{points(band.low, 0)} to {points(band.high, 0)}%", "relative humidity suits it; makers keep 40 to 55%"


class Plate(Thing):
    """A soundboard, back or other thin plate whose braces or rim do not let it go."""

    def fields(self, form: CalmForm) -> None:
        length_field(form, "width_m", "Width across the grain", 0.05, 1.5)
        length_field(form, "length_m", "Length", 0.05, 2.0)
        _room_field(form)
        percent_field(form, "goes_to", "Or taken into air of, RH", 0.05, 0.95)

    def work(self, question: ThingQuestion) -> WorkedThing:
        width, length = question.typed.get("width_m") or 0.38, question.typed.get("length_m") or 0.48
        room_c = _room_c(question)
        strips = question.strips(width, 2)
        built, glue = question.course.built, FASTENINGS["glue"]
        worked = self.swings(
            question, "the plate’s width, if it were free", strips, None, Glued_to_its_braces=question.held(strips, length, glue)
        )
        band = None
        if question.strength is not None:

            def harmed(moisture: float) -> bool:
                assert question.strength is not None
                return soundboards.first_harm(
                    soundboards.plate_held(
                        question.strength,
                        question.shrinkage,
                        question.ring_angle_deg,
                        width,
                        length,
                        min(question.thickness_m, 0.2),
                        built,
                        moisture,
                        glue,
                    )
                )

            band = soundboards.safe_band(
                harmed,
                lambda m: soundboards.bulges(question.shrinkage, question.ring_angle_deg, built, m),
                min(max(built, 0.02), 0.25),
                room_c,
            )
        return WorkedThing(worked.named, worked.swing, worked.air, _Plate(width, length, room_c, band), worked.held)

    def present(self, question: ThingQuestion, worked: WorkedThing) -> ThingPresentation:
        result, band = worked.result, worked.result.band
        figure, small = _band_told(band, question) if band else ("Not known", "what this wood bears across its grain")
        todo = [
            "Build it in air at the dry end of where it will live: a plate that swells bulges and comes back, one that shrinks splits.",
            "Where winter air is drier than the band, keep it in its case with a humidifier.",
        ]
        rows = []
        if question.typed.get("goes_to") is not None and band is not None:
            there = question.typed["goes_to"]
            inside = "within the band" if band.low <= there <= band.high else "beyond the band"
            rows.append(
                (
                    f"Taken into air of {percent(there)}",
                    f"wood comes to {percent(float(sorption.emc(result.room_c, there)), 1)} there: {inside}",
                )
            )
        if band is not None and not band.empty:
            rows.append(("The band in moisture of the wood", f"{points(band.dry_end)} to {percent(band.damp_end, 1)}"))
        return ThingPresentation(
            figure,
            small,
            through(question, worked),
            todo,
            None,
            rows,
            [
                *(fate_of(question, held, name) for name, held in worked.held),
                (
                    "The dry end is where one plate in five of those held so splits. The damp end is where the plate, held at its rim,"
                    " would bulge by more than four parts in a thousand of its width: our own judgement."
                ),
            ],
        )

    def scene(self, question: ThingQuestion, worked: WorkedThing, moisture: float) -> Scene:
        result = worked.result
        now = float(question.strip(result.width_m).width_at(question.course.built, moisture))
        turn = np.linspace(0, 2 * np.pi, 97)[:-1]
        # A plate with a waist; its length lies across the page, along the grain.
        half = result.length_m / 2
        x = half * np.cos(turn)
        waist = 1 - 0.22 * np.exp(-(((x / half) + 0.1) ** 2) / 0.05)
        y = now / 2 * np.sin(turn) * waist
        rim = result.width_m / 2 * np.sin(turn) * waist
        shapes = [
            SceneShape("green", np.column_stack([x, rim])),
            SceneShape("settled", np.column_stack([x, y]), wet=True),
            SceneShape("hair", line((-half, 0.0), (half, 0.0)), closed=False),
        ]
        for place in (-0.55, -0.2, 0.35):
            reach = 0.44 * result.width_m * (0.8 if place == -0.2 else 0.9)
            shapes.append(SceneShape("wood", rectangle(place * half - 0.006, -reach, place * half + 0.006, reach)))
        return Scene(
            shapes,
            [Dimension((half, -now / 2), (half, now / 2), question.size(now))],
            [Note((0.0, -result.width_m / 2 * 1.12), "dashed: rim and braces, which keep their size", "middle")],
        )


@dataclass(frozen=True)
class _Plate:
    width_m: float
    length_m: float
    room_c: float
    band: SafeBand | None


ICONS = {
    "neck": "M4 14H60V26H4ZM12 13V27M22 13V27M31 13V27M39 13V27M46 13V27M52 13V27",
    "plate": "M8 20C8 8 24 6 30 12C38 6 56 6 56 20C56 34 38 34 30 28C24 34 8 32 8 20ZM8 20H56M20 10V30M44 9V31",
}
THINGS = (
    Neck(
        90,
        "neck",
        "A fingerboard",
        "Will its fret ends stand proud?",
        ICONS["neck"],
        {
            "species_key": ("Indian rosewood",) * 2,
            "width_m": ("2 1/8", "54"),
            "thickness_m": ("1/4", "6.5"),
            "grain": ("90",) * 2,
            "built": ("8",) * 2,
        },
    ),
    Plate(
        100,
        "plate",
        "A soundboard",
        "What air is it safe in?",
        ICONS["plate"],
        {
            "species_key": ("Sitka spruce",) * 2,
            "width_m": ("15", "380"),
            "length_m": ("19", "480"),
            "thickness_m": ("1/8", "3"),
            "grain": ("90",) * 2,
            "built": ("8",) * 2,
        },
    ),
)
