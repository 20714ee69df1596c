"""The instruments there are and what each kind of them is; how, how deep and on what surface a reading was taken."""

from dataclasses import dataclass

from django.db import models

from wood.measuring import readings


class MeterKind(models.TextChoices):
    PIN = "pin", "Pin meter"
    PINLESS = "pinless", "Pinless meter"
    SCALE = "scale", "Scale"
    OVEN = "oven", "Oven"


class Method(models.TextChoices):
    """How the moisture of a reading was found."""

    PIN = "pin", "Pin meter"
    PINLESS = "pinless", "Pinless meter"
    WEIGHT = "weight", "Weight"
    OVEN = "oven", "Oven test"


@dataclass(frozen=True)
class MeterTraits:
    """What a kind of instrument is: the method it serves, and how it is checked (``check`` is empty where it is not)."""

    method: Method
    check: str = ""
    has_pins: bool = False
    senses_depth: bool = False
    weighs: bool = False

    @property
    def reads_moisture(self) -> bool:
        """Whether it shows a moisture of its own."""
        return self.has_pins or self.senses_depth


METER_TRAITS = {
    MeterKind.PIN: MeterTraits(
        Method.PIN,
        "A pin meter measures resistance, so a resistor of known value stands for wood of known moisture. On the softwood scale "
        "120 MΩ is 12%, 0.46 MΩ is 25%.",
        has_pins=True,
    ),
    MeterKind.PINLESS: MeterTraits(
        Method.PINLESS,
        "Hold it on the block that came with it, or on a board whose moisture an oven test gave within the last days, with air behind it.",
        senses_depth=True,
    ),
    MeterKind.SCALE: MeterTraits(
        Method.WEIGHT,
        "Moisture is a ratio of two weights: a scale that is a little heavy at both hardly matters, one that has drifted between them"
        " does.",
        weighs=True,
    ),
    MeterKind.OVEN: MeterTraits(Method.OVEN),
}
READS_MOISTURE = tuple(kind for kind, traits in METER_TRAITS.items() if traits.reads_moisture)


class SlabTestKind(models.TextChoices):
    """How concrete is tested; each has its own limit, which the flooring's maker gives."""

    HOLE = "hole", "humidity in a drilled hole, %"
    CARBIDE = "carbide", "carbide test, % by mass"
    CHLORIDE = "chloride", "calcium chloride, as its kit says"


class Layer(models.TextChoices):
    USUAL = readings.Layer.USUAL, "usual depth"
    SHELL = readings.Layer.SHELL, "shell"
    CORE = readings.Layer.CORE, "core"
    WHOLE = readings.Layer.WHOLE, "whole piece"


# Layers that are named beside a reading.
TOLD_LAYERS = (Layer.SHELL, Layer.CORE)


class Face(models.TextChoices):
    """Where on the piece, besides the face that lies up."""

    UPPER = "", "face up"
    UNDER = "under", "other face"
    EDGE = "edge", "edge"
    END = "end", "end grain"


class Condition(models.TextChoices):
    """What the surface was like there; the core knows what each means."""

    PLAIN = readings.Condition.PLAIN, "nothing special"
    FRESH = readings.Condition.FRESH, "freshly cut"
    WEATHERED = readings.Condition.WEATHERED, "weathered surface"
    WET = readings.Condition.WET, "wet to the touch"
    BACKED = readings.Condition.BACKED, "hand or bench behind it"
    METAL = readings.Condition.METAL, "nails or screws near"
