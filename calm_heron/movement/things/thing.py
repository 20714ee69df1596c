"""What every thing is: what it asks, and how its answer, its words and its drawing come from one course of moisture."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from django import forms

from calm_heron.movement.things.homes import Home
from calm_heron.movement.things.scene import Scene
from calm_heron.site.numbers import percent
from calm_heron.workshops.fields import CalmForm, LengthField, PercentField
from wood.air.climate import month_of
from wood.errors import NotKnown
from wood.movement import restraint, strength
from wood.movement.course import Course
from wood.movement.finishes import Finish
from wood.movement.restraint import Fastening, Fate, Held
from wood.movement.shrinkage import Shrinkage
from wood.movement.strength import Strength
from wood.movement.widths import SPREAD, Strip, Swing, swing, swing_of_air
from wood.species import Species
from wood.units import System
from wood.written import both_ways, cut_length

GRAINS = (("0", "flat: rings along the wide face"), ("45", "rift: rings at a slant"), ("90", "quarter: rings upright"))


@dataclass(frozen=True)
class ThingQuestion:
    """Everything that a thing is worked from. ``strength`` is None where no figure says what the species bears."""

    thing: "Thing"
    system: System
    species: Species
    shrinkage: Shrinkage
    strength: Strength | None
    course: Course
    home: Home
    finish: Finish | None
    thickness_m: float
    ring_angle_deg: float
    typed: Mapping[str, Any]
    # The same without its finish, where it has one.
    bare: Course | None = None

    def strip(self, width_m: float) -> Strip:
        """A board of this wood, so wide on the day."""
        return Strip(self.shrinkage, self.ring_angle_deg, width_m)

    def strips(self, width_m: float, count: int = 1) -> list[Strip]:
        """So many alike boards that are so wide together."""
        return [self.strip(width_m / count)] * count

    def size(self, metres: float) -> str:
        return cut_length(metres, self.system)

    def both_ways(self, growth_m: float, shrinkage_m: float) -> str:
        return both_ways(growth_m, shrinkage_m, self.system)

    def held(self, strips: Sequence[Strip], along_m: float, fastened: Fastening) -> Held | None:
        """What becomes of these boards if their outermost fastenings do not let them shrink as far as they will; None where no figure is
        known.
        """
        if self.strength is None:
            return None
        width, shrink = sum(strip.width_m for strip in strips), swing(strips, self.course)
        uncertainty = max(SPREAD, min(1.5, shrink.shrink_uncertainty_m / 2 / max(shrink.shrink_m, 1e-6)))
        return restraint.held(
            self.strength,
            self.ring_angle_deg,
            width,
            shrink.shrink_m,
            max(1e-9, width * along_m * self.thickness_m),
            fastened,
            uncertainty=uncertainty,
            would_grow_m=shrink.growth_m,
        )


@dataclass(frozen=True)
class WorkedThing:
    """A thing's figures: how far the width in question (``named``) really swings, how far its air alone would make it, what is particular
    to the thing, and what holds it, with a word for each."""

    named: str
    swing: Swing
    air: Swing
    result: Any = None
    held: tuple[tuple[str, Held], ...] = ()


@dataclass(frozen=True)
class Sizes:
    """Sizes in columns."""

    caption: str
    heads: Sequence[str]
    rows: Sequence[Sequence[str]]


@dataclass(frozen=True)
class ThingPresentation:
    """The answer in words: ``figure`` large with ``small`` beside it, why, what to do, further sizes, and what stands beside it."""

    figure: str
    small: str
    reason: str
    todo: Sequence[str] = ()
    table: Sizes | None = None
    rows: Sequence[tuple[str, str]] = ()
    beside: Sequence[str] = ()


@dataclass(frozen=True)
class Thing:
    """A thing that is made of solid wood.

    ``icon`` is its drawn shape as path data in a field of 64 by 40; ``example`` are the sizes it begins with, for inches and for
    millimetres; ``usual_home`` where such things live.
    """

    order: int
    key: str
    name: str
    asks: str
    icon: str
    example: Mapping[str, tuple[str, str]] = field(default_factory=dict, hash=False)
    usual_home: str = "heated"
    # The wettest that it is built of.
    wettest: float = 0.40

    def fields(self, form: CalmForm) -> None:
        """Add what only this thing asks."""
        raise NotImplementedError

    def defaults(self, system: System) -> dict[str, str]:
        """Its example as somebody would type it."""
        which = 0 if system.is_inch else 1
        return {name: texts[which] for name, texts in self.example.items()}

    def weathered(self, course: Course, typed: Mapping[str, Any], home: Home) -> Course:
        """The course as this thing lives through it; rain makes another of it."""
        return course

    def work(self, question: ThingQuestion) -> WorkedThing:
        """Its figures.

        Raises:
            OutOfRange: sizes that do not go together, with the form's field in ``field``.
        """
        raise NotImplementedError

    def present(self, question: ThingQuestion, worked: WorkedThing) -> ThingPresentation:
        raise NotImplementedError

    def scene(self, question: ThingQuestion, worked: WorkedThing, moisture: float) -> Scene:
        """Its shapes at a moisture."""
        raise NotImplementedError

    def approaches(self, question: ThingQuestion, worked: WorkedThing) -> Sequence[tuple[str, Scene, Scene, float]]:
        """Where practitioners do it two ways: each with a word, what becomes of it, what it was on the day, and the moisture it then
        has.
        """
        return ()

    def swings(self, question: ThingQuestion, named: str, strips: Sequence[Strip], result: Any = None, **held: Held | None) -> WorkedThing:
        """The figures of boards side by side."""
        there = tuple((name.replace("_", " "), board) for name, board in held.items() if board is not None)
        return WorkedThing(named, swing(strips, question.course), swing_of_air(strips, question.course), result, there)


def length_field(form: CalmForm, name: str, label: str, low: float, high: float) -> None:
    """A size, with the unit it is read in behind its name."""
    form.fields[name] = LengthField(form.system, low, high, required=False, label=f"{label}, {form.system.length}")
    form.fields[name].widget.attrs["inputmode"] = "text"


def percent_field(form: CalmForm, name: str, label: str, low: float, high: float, placeholder: str = "") -> None:
    form.fields[name] = PercentField(form.system, low, high, required=False, label=f"{label}, %")
    if placeholder:
        form.fields[name].widget.attrs["placeholder"] = placeholder


def count_field(form: CalmForm, name: str, label: str, low: int, high: int) -> None:
    """A number of things."""
    between = f"This must be a whole number from {low} to {high}."
    form.fields[name] = forms.IntegerField(
        required=False,
        label=label,
        min_value=low,
        max_value=high,
        widget=forms.TextInput(attrs={"inputmode": "numeric", "autocomplete": "off"}),
        error_messages={"invalid": between, "min_value": between, "max_value": between},
    )


def choice_field(form: CalmForm, name: str, label: str, choices: Sequence[tuple[str, str]]) -> None:
    """One of several; the first where nobody chooses."""
    form.fields[name] = forms.ChoiceField(required=False, label=label, choices=choices)


def chosen(question: ThingQuestion, name: str, choices: Sequence[tuple[str, str]]) -> str:
    return question.typed.get(name) or choices[0][0]


# -- words that several things share

FATES = {
    Fate.HOLDS: "It will hold",
    Fate.MAY_SPLIT: "It may split",
    Fate.SPLITS: "It will split",
}


def when(question: ThingQuestion, day: int) -> str:
    """When in the course a day lies: a month of the year, or how long after the day it was built."""
    if day == 0:
        return "on the day"
    if question.home.series is None:
        return f"after {max(2, round(day / 30.4))} months" if day >= 45 else "after a month"
    return f"in {month_of(question.course.first_day + day)}"


def through(question: ThingQuestion, worked: WorkedThing, less: str = "narrower", more: str = "wider") -> str:
    """What it does from the day it is built, in a sentence."""
    course, moved = question.course, worked.swing
    at = percent(course.built)
    parts = []
    if moved.shrink_m >= LEAST_TOLD_M:
        parts.append(f"{question.size(moved.shrink_m)} {less} at its driest ({percent(course.low)}, {when(question, course.low_day)})")
    if moved.growth_m >= LEAST_TOLD_M:
        parts.append(f"{question.size(moved.growth_m)} {more} at its dampest ({percent(course.high)}, {when(question, course.high_day)})")
    if not parts:
        return f"Built at {at}, it hardly changes there."
    return f"Built at {at}, it will be {' and '.join(parts)}."


# Less than this is not worth a word (metres).
LEAST_TOLD_M = 5e-5


def slowed(question: ThingQuestion) -> str:
    """What thickness and finish make of the air's swing, in a sentence."""
    course = question.course
    if not course.paced:
        if question.home.series is None:
            return "The two moistures were named, so nothing is damped or late."
        return f"How fast {question.species.spoken_name} follows its air is not known, so it is taken to follow at once."
    done = f"{percent(max(0.0, min(course.share, 1.0)), 0)} of the swing the air alone would cause"
    if question.finish is None:
        return f"Bare, {question.size(question.thickness_m)} thick, it makes {done}."
    coats = "coat" if question.finish.coats == 1 else "coats"
    under = (
        f"{question.size(question.thickness_m)} thick under {question.finish.coats} {coats} of {spoken(question.finish.name)}, it makes"
        f" {done}"
    )
    return f"{under}; bare it would make {percent(max(0.0, min(question.bare.share, 1.0)), 0)}." if question.bare else f"{under}."


# So much wetter than its home ever makes it, nothing is built with it.
TOO_WET = 0.02


def too_wet(question: ThingQuestion) -> str:
    """What is said of wood that its home will dry by much, empty where it may be built with; outdoors people build with wet wood and know
    it.
    """
    damp = float(question.course.level.max())
    if question.home.outdoors or question.course.built <= damp + TOO_WET:
        return ""
    return (
        f"At {percent(question.course.built)} it is wetter than {question.home.name} ever makes it ({percent(damp)} at most): let it dry"
        " before you build, and most of this does not happen to the finished thing."
    )


def spoken(name: str) -> str:
    """A finish's name within a sentence."""
    return name if name[:2].isupper() else name[0].lower() + name[1:]


def chance(held: Held) -> str:
    """How likely it is to split, no surer than anybody can be."""
    if held.chance < SURELY:
        return f"a chance of under {percent(SURELY, 0)}"
    if held.chance > 1 - SURELY:
        return f"a chance of over {percent(1 - SURELY, 0)}"
    return f"a chance of about {percent(held.chance, 0)}"


SURELY = 0.05
# A strain that is not worth a figure.
NO_STRAIN = 0.0005


def fate_of(question: ThingQuestion, held: Held, what: str) -> str:
    """A verdict with its reason."""
    if held.crushed_m >= LEAST_TOLD_M:
        return (
            f"{what}: {FATES[held.fate].lower()} (to split: {chance(held)}). It would grow {question.size(held.would_grow_m)} and may not:"
            f" that presses it shorter by about {question.size(held.crushed_m)} for good, and in the next dry season it is that much too"
            " narrow."
        )
    if held.would_shrink_m < LEAST_TOLD_M:
        return f"{what}: it never shrinks below what it was on the day, so nothing pulls."
    text = f"{what}: {FATES[held.fate].lower()} (to split: {chance(held)}). It would shrink {question.size(held.would_shrink_m)}"
    if held.strain < NO_STRAIN:
        return f"{text}, and the fastenings give about as much."
    slips = f", of which the fastenings give about {question.size(held.slips_m)}" if held.slips_m >= LEAST_TOLD_M else ""
    about = " The figures are estimated from its weight." if held.estimated else ""
    return (
        f"{text}{slips}. What is held back is a strain of {percent(held.strain, 1)}; half of pieces this size split at "
        f"{percent(held.bears, 1)}.{about}"
    )


def strength_of(species: Species) -> Strength | None:
    """What a species bears across its grain, None where nothing says so."""
    try:
        return strength.of_species(species)
    except NotKnown:
        return None
