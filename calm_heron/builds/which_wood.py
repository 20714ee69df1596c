"""Which wood suits a use, from the tables: the question, its answer, and how it is told."""

import re
from dataclasses import dataclass

from django import forms

from calm_heron.questions.forms import Group, QuestionForm
from calm_heron.questions.presentation import Caution, Lead, Manner, Part, Presentation, Row, Says, Table
from calm_heron.questions.tools import Bound, Gist, Put, Reader
from calm_heron.site.numbers import percent
from calm_heron.stock import queries as stock
from calm_heron.stock import woods
from calm_heron.stock.models import Piece
from calm_heron.workshops.askers import Asker
from calm_heron.workshops.fields import WrittenField
from wood import units
from wood.builds import choosing
from wood.builds.choosing import Choice, Durability, Exposure, Look, Style, Suits
from wood.species import Species
from wood.units import System

EXPOSURES = {
    Exposure.RAIN: "outdoors, in the rain, off the ground",
    Exposure.INDOORS: "indoors",
    Exposure.ROOF: "outdoors, under a roof",
    Exposure.GROUND: "on or in wet ground",
}
DRY = (Exposure.INDOORS, Exposure.ROOF)
DURABILITY = {
    Durability.VERY_RESISTANT: "very resistant",
    Durability.RESISTANT: "resistant",
    Durability.MODERATE: "moderate",
    Durability.SLIGHT: "slight or none",
    Durability.NOT_KNOWN: "not known",
}
STYLES = {
    Style.COUNTRY: "plain country work",
    Style.FORMAL: "formal cabinet work, dark and polished",
    Style.QUARTERED: "square and sturdy, of quartered wood",
    Style.LIGHT: "light northern work, soaped or oiled",
    Style.MODERN: "modern, plain surfaces, oiled",
    Style.OUTDOOR: "for the garden",
}
SUITS = {Suits.YES: "yes", Suits.WITH_CARE: "with care", Suits.NO: "no", Suits.NOT_KNOWN: "not known"}
UNITS_N = {"n": 1.0, "lbf": 4.4482216}
HARDEST_N = 30_000.0
SHOWN = 40


class HardnessField(WrittenField):
    """A side hardness, kept in newtons."""

    @staticmethod
    def unit_in(system: System) -> str:
        return "lbf" if system.is_inch else "N"

    def read(self, text: str) -> float:
        result = re.fullmatch(r"(.*?)\s*(lbf|n)?", text.strip(), re.IGNORECASE)
        amount, unit = (result[1], result[2]) if result else (text, None)
        return units.number(amount, "hardness") * UNITS_N[unit.casefold() if unit else self.unit_in(self.system).casefold()]

    def write(self, number: float) -> str:
        unit = self.unit_in(self.system)
        return f"{number / UNITS_N[unit.casefold()]:,.0f} {unit}"


class WoodForm(QuestionForm):
    """What the wood is for."""

    groups = (Group(("stands", "hard", "style", "stock")),)
    stands = forms.ChoiceField(label="It stands", choices=[(key.value, words) for key, words in EXPOSURES.items()], required=False)

    def build(self) -> None:
        self.fields["hard"] = HardnessField(
            self.system,
            0.0,
            HARDEST_N,
            required=False,
            label=f"At least so hard, {HardnessField.unit_in(self.system)}",
            too_far="No wood is so hard.",
        )
        self.fields["hard"].widget.attrs["placeholder"] = "no matter"
        styles = [("", "no matter"), *((style.value, words) for style, words in STYLES.items())]
        self.fields["style"] = forms.ChoiceField(label="Its style", choices=styles, required=False)
        if self.asker.is_member:
            self.fields["stock"] = forms.BooleanField(label="Only what is in stock", required=False)


@dataclass(frozen=True)
class WoodWanted:
    """A use: where it stands, how hard the wood must be, and which woods there are to choose from."""

    exposure: Exposure
    hard_n: float
    among: tuple[Species, ...]
    style: Style | None = None


@dataclass(frozen=True)
class WoodsChosen:
    """Woods for a use, those that suit it best first."""

    exposure: Exposure
    choices: list[Choice]
    style: Style | None = None
    # What is customary for that style, among them: each with what is seen of it.
    looks: tuple[tuple[Species, Look], ...] = ()

    def count(self, suits: Suits) -> int:
        return sum(choice.suits is suits for choice in self.choices)


def put(form: WoodForm, asker: Asker, subject: Piece | None) -> Put[WoodWanted]:
    """A valid form as a question."""
    typed = form.cleaned_data
    book = [species for species in woods.of_workshop(asker.workshop.pk).values() if species.is_wood]
    in_stock = bool(typed.get("stock"))
    if in_stock:
        there = stock.species_in_stock(asker.workshop)
        book = [species for species in book if species.key in there]
    style = Style(typed["style"]) if typed["style"] else None
    wanted = WoodWanted(Exposure(form.chosen("stands")), typed["hard"] or 0.0, tuple(book), style)
    return Put(wanted, {"in stock": in_stock})


def work(wanted: WoodWanted) -> WoodsChosen:
    """The woods, best first."""
    chosen, noted = choosing.choices(list(wanted.among), wanted.exposure, wanted.hard_n), choosing.looks()
    species = sorted((choice.species for choice in chosen if choice.species.key in noted), key=lambda one: one.common_name.casefold())
    looks = tuple((one, noted[one.key]) for one in species if wanted.style in noted[one.key].styles)
    return WoodsChosen(wanted.exposure, chosen, wanted.style, looks)


def gist(choice: WoodsChosen) -> Gist:
    """How many suit."""
    return Gist(
        "some" if choice.choices else "none", {"suit": Bound(choice.count(Suits.YES)), "with care": Bound(choice.count(Suits.WITH_CARE))}
    )


def present(put: Put[WoodWanted], result: WoodsChosen, reader: Reader) -> Presentation:
    """How many suit, by what, and the woods side by side."""
    if not result.choices:
        stock = "in stock " if put.tells["in stock"] else ""
        return Presentation(Lead("No wood", is_word=True), f"No wood {stock}is so hard, as far as the tables know.")
    count, care = result.count(Suits.YES), result.count(Suits.WITH_CARE)
    dry = result.exposure in DRY
    reason = (
        "Kept dry no wood rots, so any will do; those that move least stand first."
        if dry
        else (
            f"By the resistance of their heartwood to decay; {care} more will do with care. Those that move least stand first. Sapwood of"
            " no species lasts outdoors."
        )
    )
    always = (
        "Heartwood only; end grain sealed before it goes out; feet off the wet ground, on a shoe or a stone; joints that shed water and dry"
        " again."
    )
    rows = [
        Row(
            choice.species.common_name,
            (
                SUITS[choice.suits],
                DURABILITY[choice.durability],
                "not known" if choice.moves is None else percent(choice.moves),
                f"{choice.ratio:.1f}" if choice.ratio else "–",
                _hard(choice.hardness_n, reader.system),
            ),
        )
        for choice in result.choices[:SHOWN]
    ]
    heads = (
        "Wood",
        "Suits",
        "Heartwood resists decay",
        "Moves, flat",
        "Flat over quarter",
        f"Hardness, {HardnessField.unit_in(reader.system)}",
    )
    more = max(len(result.choices) - SHOWN, 0)
    return Presentation(
        Lead(str(count), f"{'wood suits' if count == 1 else 'woods suit'} {EXPOSURES[result.exposure]}"),
        reason,
        (
            *(() if dry else (Says(always, Manner.NEXT, "Always."), Caution("bears_people"))),
            Table(rows, heads),
            *((Says(f"And {more} more.", Manner.HINT),) if more else ()),
            *_looks(result),
            Says(
                "Movement is that of a flat-sawn width between 8 and 12%. Decay classes are those of heartwood (Wood Handbook, ch. 14),"
                " hardness is its side hardness at 12% (ch. 5). Of tropical woods the classes are less sure. What looks well is yours to"
                " say.",
                Manner.HINT,
            ),
        ),
    )


def _looks(result: WoodsChosen) -> tuple[Part, ...]:
    """What is customary for the style that was chosen, and how it ages."""
    if result.style is None:
        return ()
    if not result.looks:
        return (Says("Of these woods none is noted for that style.", Manner.HINT),)
    rows = [Row(species.common_name, (look.colour, look.ages)) for species, look in result.looks]
    return (
        Table(rows, ("Customary for it", "Colour when fresh", "With age")),
        Says(f"Notes for {STYLES[result.style]}: what makers have used, not a rule. Colours vary from tree to tree.", Manner.HINT),
    )


def _hard(newtons: float | None, system: System) -> str:
    return "not known" if newtons is None else f"{newtons / UNITS_N[HardnessField.unit_in(system).casefold()]:,.0f}"
