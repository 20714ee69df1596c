"""What the kiln brings to the pages that are composed."""

from django.urls import reverse

from calm_heron.drying.own_kilns import OWN_KILNS, KeepsKilns
from calm_heron.kiln import demo, log_words, panels, planning, receiver, sample_scale
from calm_heron.kiln.models import (
    Chamber,
    ChamberHour,
    ChamberReading,
    DegradeFound,
    Load,
    LoadEvent,
    LoadLot,
    Promise,
    Sample,
    SampleSection,
    SampleWeight,
)
from calm_heron.measuring.wood_now import FOLLOWERS, Follower
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

PARTS.add(Part(60, "Kiln", "kiln", key="k", group="Drying it"))
LOG_KINDS.add(LogKind(60, "kiln", "Kiln", log_words.LOG))
DEMO_PARTS.add(
    DemoPart(
        75,
        (SampleSection, SampleWeight, Sample, ChamberReading, ChamberHour, LoadEvent, DegradeFound, Promise, LoadLot, Load, Chamber),
        demo.load,
    )
)
FOLLOWERS.add(Follower(10, panels.wood_now), Follower(30, panels.came_out))
PANELS.add(
    Panel(4, Slot.TODAY_TASKS, "kiln/today_alarms.html", panels.today),
    Panel(20, Slot.TODAY_TASKS, "kiln/today.html", panels.today),
    Panel(56, Slot.PIECE, "kiln/lies_in.html", panels.lies_in),
)
OWN_KILNS.add(KeepsKilns(10, planning.own_kilns))
RECEIVERS.add(
    Receiver(
        60,
        "kiln",
        "Kiln controller",
        receiver.offers,
        receiver.take,
        receiver.says,
        receiver.FIELDS,
        does="asks what to set in a kiln, and reports its air",
        told=receiver.told,
        stand_in=receiver.stand_in,
    ),
    Receiver(
        65,
        "samples",
        "Scale for sample boards",
        sample_scale.offers,
        sample_scale.take,
        sample_scale.says,
        sample_scale.FIELDS,
        does="weighs the samples of a kiln’s load",
        told=sample_scale.told,
        stand_in=sample_scale.stand_in,
    ),
)
PIECE_ACTIONS.add(
    PieceAction(
        56,
        "How do I run it in a kiln?",
        lambda piece: f"{reverse('ask_kiln', args=[piece.workshop.slug])}?piece={piece.tag}",
        applies=lambda piece: piece.traits.is_sawn and piece.is_lot,
        style="link",
    )
)
