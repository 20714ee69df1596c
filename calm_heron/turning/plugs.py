"""What turning brings to the pages that are composed."""

from django.urls import reverse

from calm_heron.plugs import (
    DEMO_PARTS,
    LOG_KINDS,
    PANELS,
    PARTS,
    PIECE_ACTIONS,
    RECEIVERS,
    DemoPart,
    LogKind,
    Panel,
    Part,
    PieceAction,
    Receiver,
    Slot,
)
from calm_heron.stock.dangers import DANGERS, DangerSource
from calm_heron.stock.faults import FAULTS, saved
from calm_heron.turning import demo, log_words, panels, receiver
from calm_heron.turning.bowls import soundness
from calm_heron.turning.models import (
    CrackFound,
    CrackMended,
    CrackStruck,
    LayElsewhere,
    LogEnd,
    OvenHeat,
    OvenSession,
    Tracing,
    Turned,
    WeightForecast,
)

DANGERS.add(DangerSource(10, soundness.found))
FAULTS.add(saved(16, "cracks, no danger", soundness.faults, frozenset({"air", "stock", "measuring", "turning", "workshops"})))
PARTS.add(Part(70, "Turning", "turning", key="b", group="Making"))
LOG_KINDS.add(LogKind(70, "turning", "Turning", log_words.LOG))
TABLES = (OvenHeat, OvenSession, LayElsewhere, CrackMended, CrackStruck, CrackFound, Tracing, WeightForecast, LogEnd, Turned)
DEMO_PARTS.add(DemoPart(80, TABLES, demo.load))
PANELS.add(
    Panel(3, Slot.TODAY_TASKS, "turning/today_dangers.html", panels.today),
    Panel(30, Slot.TODAY_TASKS, "turning/today.html", panels.today),
)
PANELS.add(Panel(52, Slot.VERDICT, "turning/by_weight.html", panels.by_weight))
RECEIVERS.add(
    Receiver(
        70,
        "scale",
        "Scale for bowls",
        receiver.offers,
        receiver.take,
        receiver.says,
        receiver.FIELDS,
        does="weighs the shelf of rough bowls",
        told=receiver.told,
        stand_in=receiver.stand_in,
    )
)
PIECE_ACTIONS.add(
    PieceAction(
        45,
        "Weigh it",
        lambda piece: reverse("bowl", args=[piece.workshop.slug, piece.tag]),
        applies=lambda piece: piece.traits.dries_by_weight,
        door="Read",
    ),
    PieceAction(
        57,
        "How thick should I leave the wall?",
        lambda piece: f"{reverse('ask_rough', args=[piece.workshop.slug])}?piece={piece.tag}",
        applies=lambda piece: piece.traits.is_turned and piece.traits.is_round and not piece.traits.dries_by_weight,
        style="link",
        door="Use",
    ),
    PieceAction(
        57,
        "Where should I cut?",
        lambda piece: f"{reverse('ask_cut', args=[piece.workshop.slug])}?piece={piece.tag}",
        applies=lambda piece: bool(piece.traits.gives),
        style="link",
        door="Use",
    ),
)
