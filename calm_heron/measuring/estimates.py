"""What the newest readings say about a piece, and sample boards about their lot: kept, so that lists need not recompute it."""

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any

from django.dispatch import receiver

from calm_heron.measuring.models import KEPT_OF_AN_ESTIMATE, PieceMoisture, Reading
from calm_heron.stock import actions as stock
from calm_heron.stock.models import Piece, Status
from wood.measuring import estimates
from wood.sizes import Shape

# Readings belong to one sitting when they lie within a day of the newest.
SITTING = timedelta(hours=24)
# Boards of a lot are one picture when they were read within this time; a lot hardly moves in it once it is below fibre saturation.
LOT_SITTING = timedelta(days=14)
MOST_LOOSE = 200


def renew_moisture(piece: Piece) -> PieceMoisture | None:
    """Bring the kept estimate up to date with the newest sitting, and that of the lot the piece stands for; without any reading
    that tells something there is none."""
    if piece.is_lot:
        return renew_lot(piece)
    standing = Reading.objects.standing().filter(piece=piece).select_related("meter", "piece")
    newest = standing.filter(counts=True).order_by("-at").first()
    saved = None
    if newest is None:
        PieceMoisture.objects.filter(piece=piece).delete()
    else:
        sitting = one_a_spot(standing.filter(at__gt=newest.at - SITTING, at__lte=newest.at).order_by("at", "id"))
        estimate = estimates.estimate([reading.spot() for reading in sitting], is_round=piece.traits.shape is Shape.LOG)
        saved = _keep_estimate(piece, estimate, newest.at) if estimate else None
    if piece.lot is not None:
        renew_lot(piece.lot)
    return saved


def one_a_spot(sitting: Iterable[Reading]) -> list[Reading]:
    """Readings, oldest first, without those that a probe gave of its spot before its newest: a spot that is read ten times is one spot."""
    rows = list(sitting)
    newest = {(reading.told_by, reading.layer): reading for reading in rows if reading.stays}
    return [reading for reading in rows if not reading.stays or newest[reading.told_by, reading.layer] is reading]


@receiver(stock.lot_changed)
def _other_boards_stand_for_it(lot: Piece, **_: Any) -> None:
    renew_moisture(lot)


def renew_lot(lot: Piece) -> PieceMoisture | None:
    """The estimate of a lot: its sample boards and the boards read in it without a name, each of them one board."""
    boards = lot_boards(lot)
    estimate = estimates.estimate_lot([estimates.Board(board.estimate, board.part) for board in boards], lot.count)
    if estimate is None:
        PieceMoisture.objects.filter(piece=lot).delete()
        return None
    return _keep_estimate(lot, estimate, max(board.at for board in boards))


@dataclass(frozen=True)
class LotBoard:
    """One board read in a lot: a sample board by its tag, or one without a name."""

    name: str
    part: str
    estimate: estimates.Estimate
    at: datetime

    @property
    def mean(self) -> float:
        return self.estimate.mean


def lot_boards(lot: Piece) -> list[LotBoard]:
    """The boards read in a lot within two weeks of the newest, sample boards first."""
    rows = PieceMoisture.objects.filter(piece__lot=lot, piece__status=Status.IN_STOCK).select_related("piece").order_by("piece__tag")
    boards = [LotBoard(row.piece.tag, row.piece.part, row.estimate(), row.at) for row in rows]
    loose = Reading.objects.standing().filter(piece=lot, counts=True).select_related("meter", "piece").order_by("-at")[:MOST_LOOSE]
    numbers = board_numbers(lot)
    for reading in reversed(loose):
        if estimate := estimates.estimate([reading.spot()]):
            boards.append(LotBoard(f"board {numbers[reading.pk]}", reading.part, estimate, reading.at))
    if not boards:
        return []
    newest = max(board.at for board in boards)
    return [board for board in boards if board.at > newest - LOT_SITTING]


def board_numbers(lot: Piece) -> dict[int, int]:
    """The numbers of the boards that were read in a lot without a name, by reading: counted as they were entered, kept by what corrects a
    reading, and not given again where one is taken out."""
    numbers: dict[int, int] = {}
    count = 0
    for pk, before in Reading.objects.filter(piece=lot).order_by("id").values_list("id", "supersedes"):
        if before not in numbers:
            count += 1
        numbers[pk] = numbers.get(before, count)
    return numbers


def _keep_estimate(piece: Piece, estimate: estimates.Estimate, at: datetime) -> PieceMoisture:
    values = {name: getattr(estimate, name) for name in KEPT_OF_AN_ESTIMATE} | {"at": at}
    saved, _ = PieceMoisture.objects.update_or_create(
        piece=piece, defaults=values, create_defaults={**values, "workshop_id": piece.workshop_id}
    )
    return saved
