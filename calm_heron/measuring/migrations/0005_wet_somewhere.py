"""Where wood lies that is wetter than a meter can measure is kept with the estimate, and what was kept before is judged anew by it."""

from datetime import timedelta

from django.db import migrations, models

from wood.measuring.estimates import Spot, estimate

SITTING, LOT_SITTING = timedelta(hours=24), timedelta(days=14)


def _standing(readings, piece):
    found = readings.filter(piece=piece, struck=False, superseded_by=None, counts=True)
    newest = found.order_by("-at").first()
    return found, newest


def judge_anew(apps, _) -> None:
    readings, kept = apps.get_model("measuring", "Reading").objects, apps.get_model("measuring", "PieceMoisture").objects
    wet = set(readings.filter(struck=False, superseded_by=None, counts=True, bound="above").values_list("piece", flat=True))
    lots = {}
    for row in kept.filter(piece__in=wet).select_related("piece"):
        found, newest = _standing(readings, row.piece)
        if row.piece.count > 1 and row.piece.lot_id is None:
            last = found.filter(bound="above").order_by("-at").first()
            lots.setdefault(row.piece_id, []).append((last.at, last.moisture))
            continue
        sitting = found.filter(at__gt=newest.at - SITTING)
        answer = estimate(
            [Spot(one.moisture, one.uncertainty, one.layer, one.near_end, one.counts, one.bound) for one in sitting],
            is_round=row.piece.kind == "log",
        )
        for name in (
            "mean",
            "instrument",
            "sampling",
            "spread",
            "count",
            "reach",
            "gradient",
            "bound",
            "left_out",
            "by_weight",
            "wet",
            "least",
        ):
            setattr(row, name, getattr(answer, name))
        row.save()
        if row.piece.lot_id and row.bound == "above":
            lots.setdefault(row.piece.lot_id, []).append((row.at, row.mean))
    for lot, boards in lots.items():
        for row in kept.filter(piece=lot):
            fresh = [mean for at, mean in boards if at > row.at - LOT_SITTING]
            if fresh:
                row.mean, row.bound, row.wet, row.gradient, row.count = max(fresh), "above", "boards", None, len(fresh)
                row.save()


class Migration(migrations.Migration):
    dependencies = [("measuring", "0004_checks_never_changed")]

    operations = [
        migrations.AddField("piecemoisture", "wet", models.CharField(max_length=6, blank=True, default="")),
        migrations.AddField("piecemoisture", "least", models.FloatField(null=True)),
        migrations.RunPython(judge_anew, migrations.RunPython.noop, elidable=True),
    ]
