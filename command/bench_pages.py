"""Measure the pages on one database: ``python -m command.bench_pages demo|large``, or only ``fill`` it; called by ``./heron bench``."""

import json
import random
import sys
from typing import Any

import django

LARGE_PHOTOS = 500


def main(size: str) -> None:
    django.setup()
    from django.core.management import call_command

    call_command("migrate", verbosity=0, interactive=False)
    call_command("load_demo", verbosity=0)
    if size != "demo":
        enlarge()
    if size == "fill":
        photograph()
        return
    print(json.dumps(measure()))


def enlarge() -> None:
    """Grow the demo to 5,000 pieces with 200,000 readings: copies of its own boards, spread over time, with a little scatter."""
    from django.db import connection

    from calm_heron.measuring.models import PieceMoisture, Reading
    from calm_heron.stock.models import Piece
    from command.bench import large_pieces, readings_each

    def columns(model: Any, *changed: str) -> str:
        return ", ".join(field.column for field in model._meta.concrete_fields if field.column not in ("id", *changed))

    piece, reading, moisture = (
        columns(Piece, "tag"),
        columns(Reading, "piece_id", "at", "moisture"),
        columns(PieceMoisture, "piece_id", "mean", "at"),
    )
    with connection.cursor() as cursor:
        cursor.execute("SELECT setseed(0.5)")
        for statement, values in (
            (
                """
                CREATE TEMP TABLE pattern AS SELECT p.id, row_number() OVER (ORDER BY p.id) - 1 AS n, count(*) OVER () AS of
                  FROM stock_piece p JOIN measuring_piecemoisture m ON m.piece_id = p.id
                  WHERE p.lot_id IS NULL AND p.count = 1
                """,
                [],
            ),
            (
                f"""
                INSERT INTO stock_piece (tag, {piece})
                  SELECT 'lot' || lpad(g::text, 5, '0'), {piece} FROM generate_series(1, %s) g
                  JOIN pattern t ON t.n = g %% t.of JOIN stock_piece s ON s.id = t.id
                """,
                [large_pieces() - Piece.objects.count()],
            ),
            (
                """
                CREATE TEMP TABLE copy AS SELECT p.id, t.id AS of
                  FROM stock_piece p JOIN pattern t ON t.n = substr(p.tag, 4)::int %% t.of WHERE p.tag LIKE 'lot0%%'
                """,
                [],
            ),
            (
                f"""
                INSERT INTO measuring_reading (piece_id, at, moisture, {reading})
                  SELECT c.id, now() - (k / 4) * interval '16 days' - interval '1 hour',
                      greatest(0.05, r.moisture + 0.01 * (random() - 0.5)), {reading}
                  FROM copy c JOIN generate_series(0, %s - 1) k ON true
                  JOIN LATERAL (SELECT * FROM measuring_reading WHERE piece_id = c.of ORDER BY id LIMIT 1) r ON true
                """,
                [readings_each()],
            ),
            (
                f"""
                INSERT INTO measuring_piecemoisture (piece_id, mean, at, {moisture})
                  SELECT c.id, greatest(0.05, m.mean + 0.02 * (random() - 0.5)), now() - random() * interval '20 days', {moisture}
                  FROM copy c JOIN measuring_piecemoisture m ON m.piece_id = c.of
                """,
                [],
            ),
        ):
            cursor.execute(statement, values)
        cursor.execute("ANALYZE")
    print(f"{Piece.objects.count()} pieces, {Reading.objects.count()} readings, {PieceMoisture.objects.count()} moistures", file=sys.stderr)


def photograph() -> None:
    """A photograph for each tenth piece, of the size that photographs come to once they are made small (300 kB)."""
    from calm_heron.stock.models import Photo, Piece
    from calm_heron.workshops.models import Person
    from command.bench import is_small

    chance, by = random.Random(5), Person.objects.order_by("id")[0]
    for piece in Piece.objects.order_by("id")[: 5 if is_small() else LARGE_PHOTOS]:
        Photo.objects.create(workshop_id=piece.workshop_id, piece=piece, jpeg=chance.randbytes(300_000), width=1600, height=1200, by=by)


def measure() -> dict[str, tuple[float, int]]:
    from django.conf import settings
    from django.contrib.auth import get_user_model
    from django.db import connection
    from django.test import Client
    from django.test.utils import CaptureQueriesContext

    from calm_heron.demo.scenario import DEMO_SLUG
    from calm_heron.workshops.models import Membership, Role, Workshop
    from command.bench import least_ms

    settings.ALLOWED_HOSTS = ["testserver"]
    client = Client()
    person = get_user_model().objects.create(email="bench@saltmarsh.example", name="Wren Hallow")
    Membership.objects.create(workshop=Workshop.objects.get(slug=DEMO_SLUG), person=person, role=Role.OWNER)
    client.force_login(person)
    shop, piece = f"/w/{DEMO_SLUG}/", f"/w/{DEMO_SLUG}/stock/ash-01/"
    result = {}
    from calm_heron.builds.models import Build

    build = Build.objects.filter(workshop__slug=DEMO_SLUG).order_by("pk")[0]
    for name, address in (
        (NOTHING_WORKED_OUT, "/ask/"),
        ("Today", shop),
        ("piece page", piece),
        ("build page", f"{shop}builds/{build.pk}/"),
        ("load page", f"{shop}kiln/of/load-01/"),
        ("log", f"{shop}log/"),
        ("verdict fragment", f"{piece}?use=general&fragment=answer"),
        ("movement fragment", f"{piece}movement/?pith_x=40+mm&fragment=moved"),
        ("stock list", f"{shop}stock/"),
        ("stock list, oak >12 ready wait", f"{shop}stock/?q=oak+%3E12+ready+wait"),
        ("stock list, ready, by moisture", f"{shop}stock/?q=ready&sort=-moisture"),
        ("drying fragment", f"{shop}drying/?thickness_m=8/4&fragment=drying&frame=wide"),
        ("drying fragment of a piece", f"{shop}stock/oak-04/drying/?fragment=drying&frame=wide"),
    ):
        with CaptureQueriesContext(connection) as counted:
            assert client.get(address).status_code == 200
        queries = len(counted)
        result[name] = (least_ms(lambda address=address: client.get(address)), queries)
    result |= timings(client, shop)
    result |= entry(client, piece)
    result |= heavy(client, shop)
    return result


# The page that all others are compared with: it works nothing out.
NOTHING_WORKED_OUT = "what can be asked"
TEN_CHECKS = "_".join(f"{20 + k}.{-10 * k}*{60 + 9 * k}.{90 - 20 * k}" + ("*d40" if k % 2 else "") for k in range(10))


def timings(client: Any, shop: str) -> dict[str, tuple[float, int]]:
    """Answers of Ask and of Movement, each to a question that was not asked before but for the slider, which is moved under one answer."""
    import itertools

    from command.bench import is_small, least_ms

    number = itertools.count()
    top = "movement/of/top/?species_key=white+oak&width_m=36&boards=6&home=heated&climate=cold_winter&fragment=answer"
    questions = {
        "a top's year, a month slid to": top + "&stop={0:d}",
        "a top of six boards, its year run anew": top + "&thickness_m=22.{0:02d}+mm",
        "a drawer, its year run anew": "movement/of/drawer/?species_key=maple+sugar&home=heated&thickness_m=12.{0:02d}+mm&fragment=answer",
        "the season of every wood, one really": "movement/season/?home=heated&species_key=white+oak&width_m=300.{0:02d}+mm&fragment=answer",
        "a piece moved elsewhere": (
            "movement/elsewhere/?species_key=white+oak&to_home=heated&to_climate=cold_winter&thickness_m=22.{0:02d}+mm&fragment=answer"
        ),
        "seven roads with their bands, all anew": (
            "drying/roads/?species_key=white+oak&where=four_seasons&thickness_m=27.{0:02d}+mm&fragment=answer"
        ),
        "seven roads, one stage moved": (
            "drying/roads/?species_key=white+oak&where=four_seasons&thickness_m=27+mm&carry=16.{0:02d}&fragment=answer"
        ),
        "a stack of 2,000 boards": (
            "stacks/plan/?species_key=white+oak&thickness_m=27+mm&count=2000&width_m=1200.{0:02d}+mm&fragment=answer"
        ),
        "a kiln load, anew with its band": (
            "kiln/plan/?species_key=red+oak&thickness_m=28.{0:02d}+mm&chamber=vented&wanted=8&fragment=answer"
        ),
        "where do I cut, a log with ten checks, anew": (
            "turning/cut/?width_m=420.{0:02d}+mm&length_m=900+mm&fragment=answer&strokes=" + TEN_CHECKS
        ),
        "  a line of it moved": (
            "turning/cut/?width_m=420+mm&length_m=900+mm&angle=52.{0:02d}&upper=0.03&lower=0.03&fragment=answer&strokes=" + TEN_CHECKS
        ),
        "how thick do I rough it, anew": "turning/rough/?species_key=sugar+maple&diameter_m=250.{0:02d}+mm&fragment=answer",
        "ask the air": "ask/air/?temperature=68&humidity=50.{0:02d}&fragment=answer",
        "ask this wood": "ask/wood/?readings=12+12.4+11.{0:02d}&thickness_m=27.{0:02d}+mm&species_key=red+oak&fragment=answer",
        "ask movement": "ask/movement/?species_key=red+oak&width_m=200.{0:02d}+mm&from_moisture=12&fragment=answer",
        "ask drying": "ask/drying/?species_key=red+oak&thickness_m=27.{0:02d}+mm&fragment=answer",
    }
    result = {
        "a load at work, 2.5 million readings": (a_season_of_readings(client, shop), 0),
        "a shelf of 200 bowls, 6,000 weighings": a_shelf(client, shop),
    }
    for name, question in list(questions.items())[:: 4 if is_small() else 1]:

        def ask(question: Any = question) -> None:
            answer = client.get(f"{shop}{question.format(next(number) % (25 if 'stop' in question else 97))}")
            assert answer.status_code == 200

        result[name] = (least_ms(ask), 0)
    return result


def a_season_of_readings(client: Any, shop: str) -> float:
    """A running load whose controller has reported two and a half million times since it began, and what its page then takes, ms."""
    from django.db import connection

    from calm_heron.kiln.models import Load
    from command.bench import is_small, least_ms

    load = Load.objects.filter(workshop__slug=shop.rstrip("/").rsplit("/", 1)[-1], tag="load-01").get()
    with connection.cursor() as cursor:
        cursor.execute(
            """
            INSERT INTO kiln_chamberreading (workshop_id, load_id, at, dry_bulb_c, humidity, fault)
              SELECT %s, %s, began + k * (now() - began) / many, 43 + random(), 0.8 + 0.05 * random(), ''
              FROM (SELECT %s::timestamptz AS began, %s AS many) AS of, generate_series(1, many) k
            """,
            [load.workshop_id, load.pk, load.began_at, 2_000 if is_small() else 2_500_000],
        )
        cursor.execute(
            """
            INSERT INTO kiln_chamberhour (workshop_id, load_id, hour, count, dry_bulb_sum, humidity_sum, power_kwh, water_kg)
              SELECT %s, %s, date_trunc('hour', at), count(*), sum(dry_bulb_c), sum(humidity), 0, 0 FROM kiln_chamberreading
              WHERE load_id = %s GROUP BY 3 ON CONFLICT DO NOTHING
            """,
            [load.workshop_id, load.pk, load.pk],
        )
        cursor.execute("ANALYZE kiln_chamberreading")
        cursor.execute("ANALYZE kiln_chamberhour")
    return least_ms(lambda: client.get(f"{shop}kiln/of/{load.tag}/"))


def a_shelf(client: Any, shop: str) -> tuple[float, int]:
    """Two hundred bowls of thirty weighings each, and what the shelf then takes, ms and queries."""
    from datetime import timedelta

    from django.db import connection
    from django.test.utils import CaptureQueriesContext
    from django.utils import timezone

    from calm_heron.measuring.models import Reading
    from calm_heron.stock.models import Piece
    from calm_heron.turning.models import WeightForecast
    from command.bench import is_small, least_ms

    model = Piece.objects.get(workshop__slug=shop.rstrip("/").rsplit("/", 1)[-1], tag="maple-bowl-02")
    saved, begins = WeightForecast.objects.get(piece=model), timezone.now() - timedelta(days=60)
    first = Reading.objects.filter(piece=model).earliest("at")
    for number in range(3 if is_small() else 200):
        piece = Piece.objects.get(pk=model.pk)
        piece.pk, piece.tag = None, f"bench-bowl-{number:03d}"
        piece.save()
        WeightForecast.objects.create(workshop=piece.workshop, piece=piece, digest=saved.digest, said=saved.said)
        rows: list[Any] = []
        for day in range(30):
            reading = Reading.objects.get(pk=first.pk) if not rows else rows[0]
            rows.append(
                Reading(
                    **{
                        name: getattr(reading, name)
                        for name in ("workshop_id", "by_id", "method", "layer", "dry_mass_kg", "moisture", "uncertainty", "rule")
                    },
                    piece=piece,
                    at=begins + timedelta(days=2 * day),
                    wet_mass_kg=1.9 - 0.02 * day,
                )
            )
        Reading.objects.bulk_create(rows)
    with CaptureQueriesContext(connection) as queries:
        client.get(f"{shop}turning/")
    return least_ms(lambda: client.get(f"{shop}turning/")), len(queries)


def entry(client: Any, piece: str) -> dict[str, tuple[float, int]]:
    """A reading typed at the bench: sent, corrected, kept, and the page with its new mark drawn."""
    from django.db import connection
    from django.test.utils import CaptureQueriesContext

    from calm_heron.measuring.models import Meter
    from command.bench import least_ms

    address = f"{piece}measure/"
    sent = {"meter": Meter.objects.filter(name="Blue pin meter")[0].pk, "raw": "9.4", "from_end": "40", "from_edge": "4"}

    def keep() -> None:
        assert client.post(address, sent, follow=True).redirect_chain

    with CaptureQueriesContext(connection) as counted:
        keep()
    queries = len(counted)
    return {"reading saved and redrawn": (least_ms(keep), queries)}


def heavy(client: Any, shop: str) -> dict[str, tuple[float, int]]:
    """What is done seldom and with much: a sheet of labels for 200 pieces, a table of 5,000."""
    import time

    from command.bench import is_small

    result = {}

    def timed(name: str, act: Any) -> None:
        begun = time.perf_counter()
        act()
        result[name] = ((time.perf_counter() - begun) * 1000, 0)

    rows = "".join(f"white oak,5/4,{6 + k % 7},{60 + k % 50},Yard,row {k}\n" for k in range(20 if is_small() else 5000))
    text = f"species,thickness,width,length,place,note\n{rows}"

    def post(**more: Any) -> None:
        assert client.post(f"{shop}stock/table/", {"text": text, **more}).status_code in (200, 302)

    timed("table of 5,000 pieces, previewed", lambda: post(look="1"))
    timed("table of 5,000 pieces, kept", lambda: post(keep="1"))
    tags = "&".join(f"tag=oak-{k:02d}" for k in range(20, 24 if is_small() else 220))
    assert client.get(f"{shop}stock/labels/labels.pdf?tag=oak-20").status_code == 200
    timed("labels for 200 pieces, PDF", lambda: client.get(f"{shop}stock/labels/labels.pdf?{tags}"))
    return result


if __name__ == "__main__":
    main(sys.argv[1])
