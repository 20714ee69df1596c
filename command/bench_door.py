"""The door for devices: readings of air and of a chamber a second, told in batches, beside a raw COPY of the same rows.

``python -m command.bench_door`` measures in a database of its own and writes one line of JSON; ``./heron bench door`` runs it.
"""

import json
import time
from collections.abc import Callable
from datetime import UTC, datetime, timedelta

from command.bench import with_the_demo

READINGS, BATCH, WANTED = 20_000, 500, 500


def measured() -> dict[str, tuple[str, str]]:
    """Each figure, and what is wanted of it."""
    from django.db import connection, transaction
    from django.test import Client
    from django.utils import timezone

    from calm_heron.air.models import AirReading
    from command import simulated_shop
    from command.bench import is_small

    count = 1_000 if is_small() else READINGS
    begins = timezone.now() - timedelta(days=20)
    tokens = {item.name: item.token for item in simulated_shop.stand(simulated_shop.owner(), begins)}
    result: dict[str, tuple[str, str]] = {}
    client = Client()

    def told(name: str, reading: Callable[[int], dict[str, float]]) -> float:
        """Seconds that the door took for all of them."""
        step = (datetime.now(UTC) - timedelta(minutes=1) - begins) / count
        begun = time.perf_counter()
        for first in range(0, count, BATCH):
            numbers = range(first, min(first + BATCH, count))
            readings = [{"key": str(n), "at": (begins + n * step).isoformat(), **reading(n)} for n in numbers]
            body = json.dumps({"sent_at": datetime.now(UTC).isoformat(), "readings": readings})
            headers = {"authorization": f"Bearer {tokens[name]}"}
            answer = client.post("/devices/v1/readings", body, content_type="application/json", headers=headers)
            assert answer.json()["kept"] == len(readings), answer.content[:500]
        return time.perf_counter() - begun

    took = told("Bench room", lambda n: {"temperature_c": 20 + n % 7 / 10, "humidity": 0.5 + n % 11 / 100})
    result[f"{count:,} readings of air in batches of {BATCH}, a second"] = (f"{count / took:,.0f}", f"wanted: {WANTED}")
    of_kiln = told("Controller", lambda n: {"dry_bulb_c": 43 + n % 7 / 10, "humidity": 0.7 + n % 11 / 100})
    result[f"{count:,} readings of a chamber, a second"] = (f"{count / of_kiln:,.0f}", f"wanted: {WANTED}")
    names = [field.column for field in AirReading._meta.concrete_fields if field.column != "id"]
    rows = list(AirReading.objects.filter(told_by="Bench room").values_list(*names))
    with transaction.atomic():
        begun = time.perf_counter()
        with connection.cursor() as cursor, cursor.copy(f"COPY {AirReading._meta.db_table} ({', '.join(names)}) FROM STDIN") as copy:
            for row in rows:
                copy.write_row(row)
        copied = time.perf_counter() - begun
        transaction.set_rollback(True)
    result["  of air, as many times as long as a raw COPY of the same rows"] = (f"{took / copied:.0f}", "")
    return result


if __name__ == "__main__":
    with_the_demo(measured)
