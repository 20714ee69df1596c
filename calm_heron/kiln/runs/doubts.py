"""What is said of a load before it begins: more than its chamber holds, or woods that are better kept apart."""

from typing import TYPE_CHECKING

from django.utils import timezone

from calm_heron.kiln import planning
from calm_heron.kiln.models import Chamber
from wood.errors import WoodError
from wood.kiln import sharing
from wood.kiln.programs import Care
from wood.kiln.sharing import Lot, Verdict
from wood.written import sawn_volume

if TYPE_CHECKING:
    from calm_heron.kiln.runs.run_forms import BeginLoadForm

# A chamber takes a little more than it is built for.
OVER = 1.05


def of_a_load(form: "BeginLoadForm") -> list[str]:
    """What speaks against a load as a valid form has it; a sentence each."""
    typed = form.cleaned_data
    chamber: Chamber = typed["chamber"]
    try:
        lots = [planning.lot_of(piece, form.start_of(piece)) for piece in typed["lots"]]
    except WoodError:
        # Its refusal is that of who begins it.
        return []
    volume = sum(lot.volume_m3 for lot in lots)
    said = []
    if volume > OVER * chamber.load_m3:
        said.append(f"That is {sawn_volume(volume, form.system)}, and {chamber} holds {sawn_volume(chamber.load_m3, form.system)}.")
    if len(lots) > 1 and typed["own"] is None and not _together(form, lots, volume):
        said.append("These woods are better dried apart: the quick ones wait long for the slow, or are wetted again.")
    return said


def _together(form: "BeginLoadForm", lots: list[Lot], volume_m3: float) -> bool:
    """Whether woods go together, as the plan of the same load has it; where it is not known nothing speaks against them."""
    typed = form.cleaned_data
    begun = timezone.localdate(typed["began_on"] or timezone.now())
    core = planning.filled(typed["chamber"].core, volume_m3)
    try:
        shared = sharing.together(
            lots,
            typed["wanted"],
            core,
            planning.outdoors_of(form.workshop, begun).setting.series,
            care=Care(typed["care"]),
            equalise=typed["even"],
            condition=typed["condition"],
        )
    except WoodError:
        return True
    return shared.verdict is not Verdict.APART
