"""Readings kept one after the other, alone and beside a backup; ``./heron bench backup`` runs it as ``command.bench_backup FILE``."""

import json
import statistics
import sys
import threading
import time
from pathlib import Path

import django

from command.bench import LARGE_DATABASE, is_small
from command.cluster import Cluster


def main(file: Path) -> None:
    django.setup()
    from django.conf import settings
    from django.test import Client

    from calm_heron.demo.scenario import DEMO_SLUG
    from calm_heron.measuring.models import Meter
    from calm_heron.workshops.models import Membership, Person, Role, Workshop
    from command import backup

    settings.ALLOWED_HOSTS = ["testserver"]
    workshop = Workshop.objects.get(slug=DEMO_SLUG)
    person = Person.objects.create(email="bench-backup@saltmarsh.example", name="Wren Hallow")
    Membership.objects.create(workshop=workshop, person=person, role=Role.OWNER)
    client = Client()
    client.force_login(person)
    address = f"/w/{workshop.slug}/stock/ash-01/measure/"
    meter = Meter.objects.of(workshop).get(name="Blue pin meter").pk

    def keep(number: int) -> float:
        begun = time.perf_counter()
        answer = client.post(address, {"meter": meter, "raw": "9.4", "from_end": "40", "once": f"bench-{number}"})
        assert answer.status_code == 302, answer.status_code
        return time.perf_counter() - begun

    alone = [keep(number) for number in range(5 if is_small() else 60)]
    # The cluster that the measuring runs in, which somebody else keeps up.
    with Cluster("test", durable=False).running_or_started() as cluster:
        writing = threading.Thread(target=lambda: backup.write(cluster, file, database=LARGE_DATABASE))
        writing.start()
        beside: list[float] = []
        while writing.is_alive():
            beside.append(keep(1000 + len(beside)))
    print(json.dumps([1000 * statistics.median(alone), 1000 * statistics.median(beside or alone), len(beside)]))


if __name__ == "__main__":
    main(Path(sys.argv[1]))
