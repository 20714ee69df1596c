"""What wood is for: where it will live, for which use, and by which approach. Asked once, kept for the piece, and taken from there by every
page.

A page may be asked for another (``place``, ``use``, ``approach``, ``moisture`` in its address). What it does not say comes from the piece's
own purpose, or its lot's; then from what its kind is made for; then from the workshop's usual one.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np
from django.http import Http404

from calm_heron.air import queries as air
from calm_heron.air.models import Place
from calm_heron.answers.saved import remembered
from calm_heron.judging.models import NAMED, PiecePurpose, UseRule, WorkshopPurpose
from calm_heron.judging.settled import Woods
from calm_heron.judging.targets import AirOf, Purpose, Target, air_of, target
from calm_heron.site.memory import RowMemory
from calm_heron.stock.kinds import TRAITS
from calm_heron.stock.models import Piece
from calm_heron.workshops.models import Workshop
from wood import units
from wood.errors import WoodError
from wood.uses import GENERAL, PLANK_FLOOR, STRIP_FLOOR, TURNING, USES, Approach, Use

# Flooring from this width on is plank, below it strip.
PLANK_FROM_M = 0.076
LAID = tuple(kind for kind, traits in TRAITS.items() if traits.is_laid_where_it_lies)
TURNED = tuple(kind for kind, traits in TRAITS.items() if traits.is_turned)
# As they stand in columns of numbers; −1 is none.
USE_KEYS, APPROACHES = list(USES), list(Approach)
NONE = -1
# How many numbers say a purpose.
OWN = 4


def usual_use(piece: Piece | None) -> str:
    """The use that a kind of piece is made for, where it says one."""
    if piece is None:
        return ""
    if piece.traits.is_laid_where_it_lies:
        return PLANK_FLOOR.key if piece.width_m >= PLANK_FROM_M else STRIP_FLOOR.key
    return TURNING.key if piece.traits.is_turned else ""


@dataclass(frozen=True)
class Said:
    """A purpose as far as it is said: of a piece, in an address. Empty parts are taken from elsewhere."""

    place_id: int | None = None
    use_key: str = ""
    approach: str = ""
    moisture: float | None = None


def purpose_of(piece: Piece | None) -> PiecePurpose | None:
    """The purpose that was stored for a piece, or for the lot that it stands for."""
    if piece is None:
        return None
    purposes = PiecePurpose.objects.filter(piece__in=[item for item in (piece.pk, piece.lot_id) if item])
    return min(purposes, key=lambda stored: stored.piece_id != piece.pk, default=None)


class Purposes:
    """A workshop's places, uses and usual purpose, read once for a page, what the page is asked for, and what each piece so is for.

    Raises:
        Http404: a place, a use or an approach is asked for that there is not; no other is taken for it.
    """

    def __init__(self, workshop: Workshop, initial: Mapping[str, Any] | None = None) -> None:
        self.workshop = workshop
        everywhere, self.uses, self.usual = _settings_of(workshop)
        self.places = [place for place in everywhere if not place.retired]
        # What was to live in a place that is retired is not silently judged for another.
        self._by_id = {place.pk: place for place in everywhere}
        # The moisture as it was typed, for a form to show again.
        self.typed = (initial or {}).get("moisture", "")[:12]
        self.typed_purpose = self._asked(initial or {})
        self._targets: dict[Purpose, Target | None] = {}
        self._air: dict[int, AirOf] = {}
        self.woods = Woods(workshop)

    def _asked(self, words: Mapping[str, Any]) -> Said:
        place, use, approach = (words.get(name, "") for name in ("place", "use", "approach"))
        # Addresses from before call it so.
        approach = approach or words.get("school", "")
        by_id = {str(pk): pk for pk in self._by_id}
        known = place in ("", *by_id) and use in ("", *self.uses) and approach in ("", *APPROACHES)
        if not known:
            raise Http404
        return Said(by_id.get(place), use, approach, named(self.typed) if approach == Approach.TYPED else None)

    def purpose(self, own: Said = Said(), usual: str = "", lies_in: int | None = None) -> Purpose:
        """What wood is for, of which so much is said (``own``), whose kind has a ``usual`` use, and that will live where it lies
        (``lies_in``).
        """
        question, shop = self.typed_purpose, self.usual
        shop_place = shop.place_id if shop else None
        wanted = next((pk for pk in (question.place_id, own.place_id, lies_in, shop_place) if pk in self._by_id), None)
        place = self._by_id[wanted] if wanted is not None else next(iter(self.places), None)
        key = question.use_key or own.use_key or usual or (shop.use_key if shop else GENERAL.key)
        # An approach goes with the place that it was chosen for.
        approaches: list[Said | WorkshopPurpose] = [question]
        if place is not None and own.place_id == place.pk:
            approaches.append(own)
        elif shop is not None and place is not None and shop_place == place.pk and own.place_id is None:
            approaches.append(shop)
        said = next((approach for approach in approaches if approach.approach), None)
        approach = Approach(said.approach) if said else Approach.SETTLED
        return Purpose(place, self.uses[key], approach, said.moisture if said and approach is Approach.TYPED else None)

    def of(self, piece: Piece | None, own: PiecePurpose | None = None) -> Purpose:
        """What a piece is for; ``own`` is the one stored for it (:func:`purpose_of`)."""
        said = Said(own.place_id, own.use_key, own.approach, own.moisture) if own else Said()
        lies_in = piece.place_id if piece is not None and piece.traits.is_laid_where_it_lies else None
        return self.purpose(said, usual_use(piece), lies_in)

    def target(self, purpose: Purpose) -> Target | None:
        """What is asked of wood for it, worked out once."""
        if purpose not in self._targets:
            self._targets[purpose] = target(purpose, self.air_of)
        return self._targets[purpose]

    @cached_property
    def own(self) -> np.ndarray:
        """The aims that pieces have of their own, a row for each by its piece: piece, place, use, approach and moisture as numbers."""
        purposes = (
            PiecePurpose.objects.of(self.workshop).order_by("piece").values_list("piece_id", "place_id", "use_key", "approach", "moisture")
        )
        rows = [
            (piece, place, USE_KEYS.index(use), APPROACHES.index(Approach(approach)), NONE if moisture is None else moisture)
            for piece, place, use, approach, moisture in purposes
        ]
        return np.array(rows, dtype=float).reshape(-1, 1 + OWN)

    def air_of(self, place: Place) -> AirOf:
        """The level and the year of a place, read once."""
        if place.pk not in self._air:
            self._air[place.pk] = air_of(place)
        return self._air[place.pk]


Settings = tuple[tuple[Place, ...], dict[str, Use], WorkshopPurpose | None]
_settings: RowMemory[Settings] = RowMemory(512)


def _settings_of(workshop: Workshop) -> Settings:
    """A workshop's places, its uses, and what it starts from."""

    def read() -> Settings:
        return tuple(air.all_places(workshop)), uses(workshop), WorkshopPurpose.objects.of(workshop).first()

    return remembered(_settings, workshop.pk, "", read, frozenset({"air", "judging"}), ())


def named(text: str) -> float | None:
    """A moisture as somebody names it (“9.5”, “9.5%”), or None outside the range that wood is worked at."""
    try:
        moisture = units.percent(text[:20])
    except WoodError:
        return None
    return moisture if NAMED[0] <= moisture <= NAMED[1] else None


def uses(workshop: Workshop) -> dict[str, Use]:
    """Every use as this workshop judges it."""
    rules = {rule.use_key: rule for rule in UseRule.objects.of(workshop)}
    return {key: rules[key].applied_to(use) if key in rules else use for key, use in USES.items()}
