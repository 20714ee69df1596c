"""A logger's file of a hundred thousand lines: read, saved beside a raw COPY of the same rows, and the pages of its place afterwards.

``python -m command.bench_logger`` measures in a database of its own and writes one line of JSON; ``./heron bench logger`` runs it.
"""

import math
import time
from datetime import datetime, timedelta

from command.bench import with_the_demo

LINES = 100_000


def a_file(lines: int) -> str:
    """Ten minutes apart, the newest an hour ago: a room's air with its days and its years."""
    begins = datetime.now() - timedelta(hours=1, minutes=10 * lines)
    made = ["Time;Temp (°C);RH (%)"]
    for k in range(lines):
        warm = 19 + 2 * math.sin(k / 144 * 2 * math.pi) + k * 7919 % 11 / 10
        damp = 48 - 9 * math.cos(k / 52_560 * 2 * math.pi) + k * 104_729 % 23 / 10
        made.append(f"{begins + timedelta(minutes=10 * k):%Y-%m-%d %H:%M:%S};{warm:.1f};{damp:.1f}")
    return "\n".join(made)


def measured() -> dict[str, tuple[str, str]]:
    """Each figure, and what is wanted of it."""
    from django.db import connection, transaction
    from django.test import Client
    from django.utils import timezone

    from calm_heron.air import logger_actions as actions
    from calm_heron.air.models import AirReading, Place
    from calm_heron.demo import copies
    from command.bench import is_small, least_ms
    from wood.air import logger_files

    owner = copies.for_visitor(timezone.now())
    place = Place.objects.create(workshop=owner.workshop, name="Logged room")
    text = a_file(2_000 if is_small() else LINES)
    begun = time.perf_counter()
    logger_files.read(text)
    read_s = time.perf_counter() - begun
    file = actions.look_at(owner, place, "year.csv", text, None, "local")
    begun = time.perf_counter()
    count = actions.save_readings(owner, file, file.version)
    saved_s = time.perf_counter() - begun
    names = ", ".join(actions.COLUMNS)
    rows = list(AirReading.objects.filter(file=file).values_list(*actions.COLUMNS))
    with transaction.atomic():
        begun = time.perf_counter()
        with connection.cursor() as cursor, cursor.copy(f"COPY {AirReading._meta.db_table} ({names}) FROM STDIN") as copy:
            for row in rows:
                copy.write_row(row)
        copied_s = time.perf_counter() - begun
        transaction.set_rollback(True)
    client = Client()
    client.force_login(owner.person)
    shop = f"/w/{owner.workshop.slug}/"
    result = {
        f"a logger's file of {len(text.splitlines()):,} lines read": (f"{read_s:.1f} s", ""),
        f"  {count:,} readings saved, read once more": (f"{saved_s:.1f} s", f"wanted: {3 * copied_s + 2:.1f}: 3 × COPY + 2 s"),
        "  a raw COPY of the same rows": (f"{copied_s:.1f} s", ""),
    }
    for what, address in (
        ("the place with all of it", f"{shop}air/{place.pk}/"),
        ("its year", f"{shop}air/{place.pk}/year/"),
        ("Today", shop),
    ):
        client.get(address)
        begun = time.process_time()
        client.get(address)
        spent = 1000 * (time.process_time() - begun)
        result[f"  {what}, own processor time"] = (f"{spent:.0f} ms", "wanted: at most 100" if what == "its year" else "")
        result[f"  {what}, with the database"] = (f"{least_ms(lambda at=address: client.get(at)):.0f} ms", "")
    return result


if __name__ == "__main__":
    with_the_demo(measured)
