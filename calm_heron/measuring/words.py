"""A reading in words: its warnings, the steps from what was shown to what it means, and what the log says of it."""

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from typing import Any

from calm_heron.measuring.kinds import TOLD_LAYERS, Method, SlabTestKind
from calm_heron.measuring.models import Reading
from calm_heron.measuring.strip import Spoken
from calm_heron.plugs import Sentence
from calm_heron.site.numbers import bounded, points, signed, typed
from wood.measuring.readings import StepKind, Warn
from wood.measuring.weighing import wet_basis
from wood.units import System
from wood.written import weighed_mass, written_temperature

WARNINGS = {
    Warn.BEYOND_RANGE: "Beyond what this meter can measure: it only says wetter or drier.",
    Warn.FROST: "Frozen wood reads low and unsteadily; warm it and read again.",
    Warn.NO_SPECIES_FIGURE: "No figure is known for this species on this kind of meter, so it’s less certain.",
    Warn.RELATIVE_FIGURE: "Read on the scale of a close relative; so it’s a little less certain.",
    Warn.EXTRAPOLATED: "Outside the published table for this species; extrapolated.",
    Warn.THINNER_THAN_DEPTH: "The board is thinner than the meter senses: it has read what is behind it. Not counted.",
    Warn.AIR_GAP: "Barely thicker than the sensing depth: hold the board clear of bench and hand.",
    Warn.OTHER_SPECIES_SET: "The meter was set for other wood: that setting is taken back first.",
    Warn.SETTING_NOT_KNOWN: "What the meter’s own setting did to the number is not known here, so it could not be taken back.",
    Warn.SETTING_FAR: "The meter is set for wood of a very different density; the step from one to the other is large.",
    Warn.WET_SURFACE: "The surface was wet: pins and fields read that water. Not counted; wipe it, wait, or use insulated pins.",
    Warn.WEATHERED: "Read on a weathered surface, which runs ahead of the wood under it; it’s less certain. Plane or cut a fresh spot.",
    Warn.HAND_BEHIND: "A hand or the bench behind a thin board was read too. Not counted; hold it clear.",
    Warn.PINS_ACROSS: "The pins stood across the grain, where wood resists more: it may be wetter than it reads; it’s less certain.",
    Warn.METAL: "Metal was near: it carries current and bends the field. Not counted; read a hand’s width away.",
    Warn.FITTED_OVENDRY: "Its ovendry weight was worked out from all its weighings together.",
    Warn.ESTIMATED_OVENDRY: "Its ovendry weight was only estimated from size and species: good for wet wood, of little use near dry.",
    Warn.NEAR_END: "Near an end, where wood dries first: left out when others were taken.",
    Warn.NEWER_RULE: "First worked out by an older rule of correction, which is here no more; this is by today’s.",
}


def warning_sentences(codes: Iterable[str]) -> list[str]:
    """What is to be said of readings, each sentence once."""
    return [WARNINGS[Warn(code)] for code in dict.fromkeys(codes) if code in list(Warn)]


RESISTANCE = "FPL-GTR-6, resistance by species"
STEPS: dict[StepKind, tuple[Callable[[dict[str, Any], System], str], str]] = {
    StepKind.SHOWN: (lambda went_by, system: "as the meter shows it", ""),
    StepKind.CHECK_ADDS: (lambda went_by, system: f"its check adds {signed(went_by['adds'])}", ""),
    StepKind.SETTING_TAKEN_BACK: (lambda went_by, system: "the setting for other wood taken back", RESISTANCE),
    StepKind.WOOD_TEMPERATURE: (
        lambda went_by, system: f"wood at {written_temperature(went_by['temperature_c'], system)}",
        "Pfaff and Garrahan 1986",
    ),
    StepKind.SPECIES_SCALE: (lambda went_by, system: f"scale for {went_by['species']}", RESISTANCE),
    StepKind.DENSITY: (
        lambda went_by, system: (
            f"density of {went_by['species']}: setting {went_by['setting']:.2f} over specific gravity {went_by['specific_gravity']:.2f}"
        ),
        "",
    ),
    StepKind.ONLY_A_BOUND: (lambda went_by, system: "only a bound is left beyond the meter’s range", "FPL-GTR-6"),
    StepKind.WEIGHED: (lambda went_by, system: "(wet − dry) / dry", "AH-188 ch. 6"),
}


@dataclass(frozen=True)
class StepDescription:
    """A step for the page: the value after it, what was done, and by which source."""

    moisture: float
    what: str
    source: str


def describe_steps(steps: list[dict[str, Any]], system: System) -> list[StepDescription]:
    """The kept steps of a reading in words, in the reader's units."""
    return [_describe_step(step, system) for step in steps]


def _describe_step(step: dict[str, Any], system: System) -> StepDescription:
    if step["kind"] == StepKind.AS_WRITTEN:
        return StepDescription(step["moisture"], step["figures"]["name"], step["figures"]["source"])
    what, source = STEPS[StepKind(step["kind"])]
    return StepDescription(step["moisture"], what(step["figures"], system), source)


def where_and_how(reading: Reading) -> str:
    """Where on the piece and how a reading was taken, but for the name of its meter."""
    weighed = f"{reading.get_method_display()}, {points(wet_basis(reading.moisture))}% on the wet basis"
    parts = (
        (reading.meter is None, weighed),
        (reading.layer in TOLD_LAYERS, reading.get_layer_display()),
        (reading.face, f"on its {reading.get_face_display()}"),
        (reading.condition, f"({reading.get_condition_display()})"),
        (reading.part, f"({reading.get_part_display()})"),
        (reading.near_end, "near an end"),
        (not reading.counts, "not counted"),
    )
    return " ".join(words for applies, words in parts if applies)


def spoken(spoken: Spoken) -> str:
    """A reading of the strip as it was understood."""
    return " ".join(part for part in (spoken.layer, "end" if spoken.at_end else "", spoken.part, points(spoken.raw)) if part)


HOW = {Method.WEIGHT: "by weight", Method.OVEN: "by oven test"}


def _read(data: Any, system: System) -> str:
    how = f"with {data['meter']}" if data["meter"] else HOW[Method(data["method"])]
    shown = " ".join(f"{layer + ' ' if layer in TOLD_LAYERS else ''}{typed(raw)}" for layer, raw in data["shown"])
    meant = " ".join(bounded(moisture, bound) for moisture, bound in data["moistures"])
    return f"{data['subject']} {how}: {shown + ' read, ' if shown else ''}{meant}% corrected"


def _put_back(data: Any, system: System) -> str:
    return f"{data['subject']}: a reading of {points(data['moisture'])}% put back"


def _taken_out(data: Any, system: System) -> str:
    return f"{data['subject']}: reading of {points(data['moisture'])}% struck out"


def _corrected(data: Any, system: System) -> str:
    text = f"{data['subject']}: reading of {points(data['before'])}% corrected to {points(data['moisture'])}%"
    return f"{text}; it had been entered for {data['moved_from']}" if data.get("moved_from") else text


def _checked(data: Any, system: System) -> str:
    def written(figure: float) -> str:
        return weighed_mass(figure, system) if data["is_mass"] else f"{points(figure)}%"

    return f"{data['subject']} checked, {data['of']}: showed {written(data['shown'])} for {written(data['expected'])}"


SLAB_WORDS = dict(SlabTestKind.choices)


def _slab_tested(data: Any, system: System) -> str:
    allowed = "dry enough" if data["shown"] <= data["allowed"] else "too wet"
    return f"{data['subject']}: slab tested, {SLAB_WORDS[data['how']]}: {data['shown']:g} where {data['allowed']:g} is allowed, {allowed}"


LOG_OF_READINGS: dict[str, Sentence] = {
    "slab_tested": _slab_tested,
    "read": _read,
    "taken_out": _taken_out,
    "put_back": _put_back,
    "corrected": _corrected,
}
LOG_OF_METERS: dict[str, Sentence] = {
    "added": "New meter: {subject}",
    "changed": "Meter changed: {subject}",
    "checked": _checked,
    "checked_today": lambda data, system: f"{_checked(data, system)}; the day’s readings are compared with it",
    "retired": "{subject} retired",
    "back_in_use": "{subject} back in use",
    "removed": "{subject} removed",
}
