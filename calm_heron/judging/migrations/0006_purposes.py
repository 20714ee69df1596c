from django.db import migrations, models


class Migration(migrations.Migration):
    """The same tables under the names that code uses now."""

    dependencies = [("judging", "0005_settled_board"), ("stock", "0004_moved_at")]

    operations = [
        migrations.SeparateDatabaseAndState(
            state_operations=[
                migrations.RenameModel("Aim", "WorkshopPurpose"),
                migrations.RenameModel("PieceAim", "PiecePurpose"),
                migrations.AlterModelTable("workshoppurpose", "judging_aim"),
                migrations.AlterModelTable("piecepurpose", "judging_pieceaim"),
                migrations.AlterField(
                    "piecepurpose",
                    "piece",
                    models.OneToOneField(on_delete=models.CASCADE, related_name="purpose", to="stock.piece"),
                ),
            ]
        )
    ]
