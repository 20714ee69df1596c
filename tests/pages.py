"""Pages as they are read: without markup, each run of whitespace a single space."""

import re
from collections.abc import Iterator
from typing import Any

from django.urls import reverse

from calm_heron.air.logger_actions import look_at
from calm_heron.air.models import AirReading, Hygrometer, LoggerFile, Place
from calm_heron.builds.models import BuildPart
from calm_heron.kiln.planning import chambers_of
from calm_heron.measuring.models import Meter, Reading
from calm_heron.stock.models import Piece
from calm_heron.workshops.models import Membership, Role, Workshop
from tests.test_doors import OF_A_BOWL, views_inside
from tests.walks import far


def text_of(page: Any) -> str:
    """The words of an answer of the test client."""
    text = re.sub(r"<[^>]+>", " ", page.content.decode())
    return re.sub(r"\s+", " ", text.replace("\u00a0", " "))


def markup_of(page: Any) -> str:
    """Its markup with no whitespace at the edges of elements and no line breaks."""
    return re.sub(r"\s+", " ", page.content.decode()).replace("> ", ">").replace(" <", "<").replace(" >", ">")


# A board, a lot and a bowl, which have all the pages there are; then the kinds whose pages are like those, which the long walks look at.
OF_EACH_KIND = ("ash-04", "ash-lot-01", "ash-bowl-01", "oak-log-01", "oak-floor-01", "elm-01", "fir-subfloor-01", "cherry-blank-01")


# Two hours of a logger.
A_LOGGER = "Time;Temp;RH (%)\n2026-03-01 10:00;18,5;52,0\n2026-03-01 11:00;18,7;51,5\n2026-03-01 12:00;--;51,5\n"


def addresses(shop: Workshop) -> Iterator[str]:
    """Every page of a demo workshop that can be looked at, those of pieces for one piece of each kind."""
    tags = OF_EACH_KIND[: far(3, len(OF_EACH_KIND))]
    pieces = [piece for piece in Piece.objects.of(shop) if piece.tag in tags]
    place = Place.objects.of(shop).first()
    owner = Membership.objects.filter(workshop=shop, role=Role.OWNER).first()
    looked_at = LoggerFile.objects.of(shop).first() or look_at(owner, place, "shop.csv", A_LOGGER, None, "local")
    values = {
        "workshop": shop.slug,
        "meter_id": Meter.objects.of(shop).first().pk,
        "hygrometer_id": Hygrometer.objects.of(shop).first().pk,
        "photo_id": 0,
        "file_id": looked_at.pk,
        "key": "white_oak",
        "thing": "top",
        "stack_tag": "stack-01",
        "load_tag": "load-01",
        "weight_id": 0,
        "event_id": 0,
        "board_id": 0,
        "sample_id": 0,
        "device_id": 0,
        "kind": "air",
        "session_id": 0,
        "crack_id": 0,
        "spell_id": 0,
        "chamber_id": chambers_of(shop)[0].pk,
        "cut_id": 0,
        "mark_id": 0,
        "measured_id": 0,
    }
    panel = BuildPart.objects.of(shop).filter(staves__gt=1).first()
    values |= {"build_id": panel.build_id, "part_id": panel.pk}
    air = AirReading.objects.of(shop).filter(struck=False).latest("at")
    for pattern in views_inside():
        # Where a workshop chooses its units, both have to be named.
        if pattern.name == "people":
            continue
        names = set(pattern.pattern.converters)
        if "tag" not in names:
            yield reverse(
                pattern.name,
                kwargs={name: (values | {"place_id": air.place_id, "air_reading_id": air.pk})[name] for name in ("workshop", *names)},
            )
            continue
        for piece in pieces:
            if (pattern.name in OF_A_BOWL and not piece.traits.dries_by_weight) or pattern.name == "keep_cut":
                continue
            reading = Reading.objects.filter(piece=piece, struck=False).first()
            if "reading_id" in names and reading is None:
                continue
            own = values | {"tag": piece.tag, "reading_id": reading and reading.pk}
            yield reverse(pattern.name, kwargs={name: own[name] for name in ("workshop", *names)})
