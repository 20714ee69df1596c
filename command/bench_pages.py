"""Measure the pages on one database: ``python -m command.bench_pages demo|large``, called by ``./heron bench``."""

import itertools
import json
import random
import sys
from datetime import timedelta

import django


def main(size: str) -> None:
    django.setup()
    from django.core.management import call_command

    call_command("migrate", verbosity=0, interactive=False)
    call_command("load_demo", verbosity=0)
    if size == "large":
        enlarge()
    print(json.dumps(measure()))


def enlarge() -> None:
    """Grow the demo to 5,000 pieces with 200,000 readings, copied from its own with a little scatter."""
    from django.db import connection, transaction
    from django.utils import timezone

    from calm_heron.measuring.actions import renew_moisture
    from calm_heron.measuring.models import PieceMoisture, Reading
    from calm_heron.stock.models import Piece
    from command.bench import LARGE_PIECES, READINGS_EACH

    chance, now = random.Random(1), timezone.now()
    patterns = list(Piece.objects.filter(moisture__isnull=False))
    readings = {piece.pk: list(Reading.objects.filter(piece=piece)) for piece in patterns}
    with transaction.atomic():
        made = []
        for number, pattern in zip(range(LARGE_PIECES - Piece.objects.count()), itertools.cycle(patterns), strict=False):
            copy = Piece.objects.get(pk=pattern.pk)
            copy.pk, copy.tag = None, f"lot{number:05d}"
            copy._state.adding = True
            made.append((copy, pattern))
        Piece.objects.bulk_create([copy for copy, _ in made], batch_size=1000)
        rows = []
        for copy, pattern in made:
            for number, model in zip(range(READINGS_EACH), itertools.cycle(readings[pattern.pk]), strict=False):
                fields = {field.attname: getattr(model, field.attname) for field in Reading._meta.concrete_fields if field.attname != "id"}
                fields |= {
                    "piece_id": copy.pk,
                    "at": now - timedelta(days=(number // 4) * 16, hours=1),
                    "moisture": max(0.05, model.moisture + chance.gauss(0, 0.004)),
                }
                rows.append(Reading(**fields))
            if len(rows) > 20_000:
                Reading.objects.bulk_create(rows, batch_size=2000)
                rows = []
        Reading.objects.bulk_create(rows, batch_size=2000)
    for copy, _ in made:
        renew_moisture(copy)
    with connection.cursor() as cursor:
        cursor.execute("ANALYZE")
    print(f"{Piece.objects.count()} pieces, {Reading.objects.count()} readings, {PieceMoisture.objects.count()} moistures", file=sys.stderr)


def measure() -> dict[str, tuple[float, int]]:
    from django.conf import settings
    from django.contrib.auth import get_user_model
    from django.db import connection
    from django.test import Client
    from django.test.utils import CaptureQueriesContext

    from calm_heron.demo.scenario import DEMO_EMAIL, DEMO_SLUG
    from command.bench import typical

    settings.ALLOWED_HOSTS = ["testserver"]
    client = Client()
    client.force_login(get_user_model().objects.get(email=DEMO_EMAIL))
    shop, piece = f"/w/{DEMO_SLUG}/", f"/w/{DEMO_SLUG}/stock/ash-01/"
    found = {}
    for name, address in (
        ("Today", shop),
        ("piece page", piece),
        ("verdict fragment", f"{piece}?use=general&fragment=answer"),
        ("movement fragment", f"{piece}movement/?pith_x=40+mm&fragment=moved"),
        ("stock list", f"{shop}stock/"),
    ):
        with CaptureQueriesContext(connection) as asked:
            assert client.get(address).status_code == 200
        found[name] = (typical(lambda address=address: client.get(address)), len(asked))
    return found


if __name__ == "__main__":
    main(sys.argv[1])
