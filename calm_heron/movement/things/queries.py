"""What a thing is worked from, read off its form; courses that were worked are remembered."""

from django.core.exceptions import ValidationError
from django.utils import timezone

from calm_heron.movement.things import boards
from calm_heron.movement.things.forms import SeasonedForm, ThingForm
from calm_heron.movement.things.homes import Home
from calm_heron.movement.things.thing import ThingQuestion, strength_of
from calm_heron.questions.tools import StillToSay
from calm_heron.site.memory import Memory, digest_of
from calm_heron.stock import woods
from wood.air.climate import MONTH_DAYS
from wood.drying.diffusivity import Figures, of_species
from wood.errors import NotKnown, OutOfRange
from wood.movement import course as courses
from wood.movement import finishes, shrinkage
from wood.movement.course import Course
from wood.movement.finishes import Finish
from wood.movement.shrinkage import Shrinkage
from wood.species import Species
from wood.units import INCH_M

USUAL_THICKNESS_M = INCH_M
# What a meter leaves open on the day something is built, where nobody says.
METER_UNCERTAINTY = 0.01

_courses: Memory[Course] = Memory(256)


def course_of(
    figures: Figures | None,
    thickness_m: float,
    built: float | None,
    home: Home,
    finish: Finish | None,
    first_day: float,
    built_uncertainty: float = METER_UNCERTAINTY,
) -> Course:
    """The course of a part; built at the middle of its home's year where no moisture is given."""
    if home.series is None:
        return courses.between(
            (home.low + home.high) / 2 if built is None else built,
            home.low,
            home.high,
            built_uncertainty=built_uncertainty,
            uncertainty=home.uncertainty,
        )
    series = home.series

    def make() -> Course:
        begun = series.starting(first_day)
        at = float(courses.level_of(begun).mean()) if built is None else built
        coating = finish.resistance_s_m if finish else 0.0
        return courses.in_air(
            figures, thickness_m, at, begun, coating, built_uncertainty=built_uncertainty, climate_uncertainty=home.uncertainty
        )

    wood = digest_of(figures.wood) if figures else b""
    key = (
        wood,
        round(thickness_m, 5),
        built,
        digest_of(series),
        finish and (finish.key, finish.coats),
        first_day,
        built_uncertainty,
        home.uncertainty,
    )
    return _courses.get(key, make)


def finish_of(form: SeasonedForm) -> Finish | None:
    """The finish that was chosen. A number of coats that was not tested is complained of beside its field."""
    key = form.cleaned_data.get("finish")
    if not key:
        return None
    coats = form.cleaned_data.get("coats")
    tested = [count for name, count in finishes.all_finishes() if name == key]
    if coats is None:
        coats = min(max(tested), 3)
    try:
        return finishes.finish(key, coats)
    except OutOfRange as beyond:
        how = f"{beyond.low:g} to {beyond.high:g} coats" if beyond.low < beyond.high else "one coat"
        form.add_error("coats", f"This finish was tested with {how}.")
        return None


def first_day(form: SeasonedForm) -> float:
    """The day of the year something is built: the middle of the month that was chosen, today where none was."""
    month = form.cleaned_data.get("month")
    if month:
        return float(sum(MONTH_DAYS[: int(month) - 1]) + 14)
    today = timezone.localdate()
    return float(min(today.timetuple().tm_yday - 1, 364))


def figures_of(species: Species) -> Figures | None:
    """How fast a species follows its air, None where no figure says so."""
    try:
        return of_species(species)
    except NotKnown:
        return None


def wood_of(form: SeasonedForm) -> tuple[Species, Shrinkage]:
    """The wood that a form names, and how much it shrinks.

    Raises:
        StillToSay: none yet. NotKnown: how much it shrinks.
    """
    key = form.cleaned_data["species_key"]
    if not key:
        raise StillToSay("Say which wood it is made of.")
    species = woods.species_of(form.workshop.pk, key)
    return species, shrinkage.of_species(species)


def question_from(form: ThingForm) -> ThingQuestion:
    """Everything a thing is worked from.

    Raises:
        StillToSay: no wood yet, or moistures still to be named. NotKnown: how much it shrinks. ValidationError: the form has errors, which
        stand beside their fields.
    """
    if form.errors:
        raise ValidationError("errors")
    cleaned = dict(form.cleaned_data)
    species, figures = wood_of(form)
    angle = float(cleaned["grain"] or 0)
    if cleaned.get("each"):
        try:
            cleaned["each"] = boards.read(cleaned["each"], form, species, angle)
        except ValidationError as wrong:
            form.add_error("each", wrong)
    home, finish = form.home_fields.read(), finish_of(form)
    if form.errors:
        raise ValidationError("errors")
    if home is None:
        raise StillToSay("Give the moistures it reaches at its driest and its dampest.")
    thickness = cleaned["thickness_m"] or USUAL_THICKNESS_M
    pace, day = figures_of(species), first_day(form)

    def lived(under: Finish | None) -> Course:
        return form.thing.weathered(course_of(pace, thickness, cleaned["built"], home, under, day), cleaned, home)

    bare = lived(None) if finish else None
    return ThingQuestion(
        form.thing, form.system, species, figures, strength_of(species), lived(finish), home, finish, thickness, angle, cleaned, bare
    )
