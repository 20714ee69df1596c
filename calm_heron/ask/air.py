"""What this air brings wood to: the question, its answer, and how it is told."""

from dataclasses import dataclass

from django.urls import reverse

from calm_heron.air import drawings
from calm_heron.air import queries as air
from calm_heron.air.drawings import NARROW, AirChart
from calm_heron.ask.forms import USUAL_RH_TOLERANCE, WrongWayRound, air_fields
from calm_heron.questions.forms import Group, QuestionForm
from calm_heron.questions.presentation import Drawn, Keep, Lead, Manner, Part, Presentation, Says
from calm_heron.questions.tools import Bound, CannotPut, Gist, Put, Reader, Why
from calm_heron.questions.worth_keeping import into_a_workshop
from calm_heron.site.numbers import figure, percent, points
from calm_heron.workshops.askers import Asker
from calm_heron.workshops.fields import PercentField
from wood.air import sorption
from wood.air.sorption import HysteresisBand, MeasuredEmc

# The moisture that is wished where nobody says.
USUAL_WISH = 0.08


class ShownAirForm(WrongWayRound, QuestionForm):
    """The air as a hygrometer shows it, and the moisture that is wished of it."""

    answer_below = True
    groups = (Group(("temperature", "humidity", "wish", "good_to")),)

    def build(self) -> None:
        air_fields(self)
        self.fields["wish"] = PercentField(self.system, 0.02, 0.26, required=False, label="Target, %")
        self.fields["wish"].widget.attrs["placeholder"] = figure(USUAL_WISH)
        self.fields["good_to"] = PercentField(self.system, 0.005, 0.15, required=False, label="Hygrometer, ± %")
        self.fields["good_to"].widget.attrs["placeholder"] = figure(USUAL_RH_TOLERANCE)


@dataclass(frozen=True)
class ShownAir:
    """Air as it is shown, what the instrument leaves open, and the moisture that is wished (fractions)."""

    temperature_c: float
    relative_humidity: float
    rh_tolerance: float
    wish: float


@dataclass(frozen=True)
class WoodInAir:
    """What wood comes to in it, on the way down and on the way up, and the humidity that holds the wish; None where no air does."""

    level: MeasuredEmc
    settles: HysteresisBand
    holds: float | None


def put(form: ShownAirForm, asker: Asker, subject: None) -> Put[ShownAir] | CannotPut:
    """A valid form as a question."""
    typed = form.cleaned_data
    temperature, humidity = typed["temperature"], typed["humidity"]
    if temperature is None or humidity is None:
        return CannotPut(Why.STILL_TO_SAY, "Type temperature and humidity as your hygrometer shows them.")
    latest = air.latest_of_each(asker.workshop) if asker.is_member else []
    return Put(
        ShownAir(temperature, humidity, typed["good_to"] or USUAL_RH_TOLERANCE, typed["wish"] or USUAL_WISH),
        {
            "others": [(place.name, read.temperature_c, read.relative_humidity) for place, read in latest if read],
            "keep_in": list(air.places(asker.workshop)) if asker.membership.may_record else [],
            "fields": {name: form[name].value() for name in ("temperature", "humidity")},
        },
    )


def work(shown: ShownAir) -> WoodInAir:
    """The equilibrium moisture of it.

    Raises:
        OutOfRange.
    """
    temperature, humidity = shown.temperature_c, shown.relative_humidity
    hottest, most = sorption.TEMPERATURE_C[1], float(sorption.emc(temperature, 1.0))
    can_hold = shown.wish < most and temperature <= hottest
    return WoodInAir(
        sorption.measured_emc(temperature, humidity, shown.rh_tolerance),
        sorption.hysteresis_band(temperature, humidity),
        float(sorption.relative_humidity_for(temperature, shown.wish)) if can_hold else None,
    )


def gist(wood: WoodInAir) -> Gist:
    """The level with its bounds, and the humidity for the wish."""
    level = wood.level
    return Gist(
        "no air holds it" if wood.holds is None else "holds",
        {"moisture": Bound(level.emc, level.emc - level.tolerance, level.emc + level.tolerance), "relative_humidity": Bound(wood.holds)},
    )


def present(put: Put[ShownAir], wood: WoodInAir, reader: Reader) -> Presentation:
    """The level, what the instrument leaves open, and how to hold wood at the wish."""
    shown, level, settles = put.question, wood.level, wood.settles
    holds = (
        f"No air at this temperature holds wood at {percent(shown.wish)}."
        if wood.holds is None
        else f"To hold wood at {percent(shown.wish)}, keep this air at {percent(wood.holds)} relative humidity."
    )
    parts: list[Part] = [Says(holds, Manner.NEXT)]
    if level.extrapolated:
        parts.append(Says("Below −1°C the equation is carried on beyond the table it was fitted to.", Manner.HINT))
    if reader.asker.is_member and put.tells["keep_in"]:
        slug = reader.asker.workshop.slug
        ways = [(place.name, reverse("place", args=[slug, place.pk])) for place in put.tells["keep_in"]]
        parts.append(Keep(ways, tuple(put.tells["fields"].items()), "Save as read in"))
    parts += [*into_a_workshop(reader, "air"), Drawn("chart")]
    return Presentation(
        Lead(points(level.emc), f"± {percent(level.tolerance)}"),
        f"Wood left in this air settles at {percent(level.emc)} moisture; the hygrometer’s tolerance (±"
        f" {points(shown.rh_tolerance, 0)}% RH) is worth {points(level.tolerance)} points. Wood that dries down stays nearer"
        f" {points(settles.drying)}, wood that takes up moisture nearer {percent(settles.regaining)}.",
        parts,
    )


def chart(put: Put[ShownAir], wood: WoodInAir, reader: Reader, narrow: bool) -> AirChart:
    """The air on the chart, a member's places beside it."""
    shown = put.question
    points_of_air = [("here", shown.temperature_c, shown.relative_humidity), *put.tells["others"]]
    return drawings.air_chart(points_of_air, reader.system, width=NARROW)
