"""Every page in both systems: an inch workshop meets no metric unit, a metric one no inch."""

import re

from django.test import TestCase
from django.urls import reverse
from django.utils import timezone

from calm_heron.air.models import AirReading, Hygrometer
from calm_heron.demo import copies
from calm_heron.measuring.models import Meter, Reading
from calm_heron.stock.actions import keep_species
from calm_heron.stock.models import Piece
from tests.pages import text_of
from tests.test_doors import views_inside

# A number with a unit after it, and a label that names one.
METRIC = r"(?<![\w/])[\d.,]+\s?(?:mm|cm|m|kg|g|l|litres|m³|°C|C)(?![\w°/³])|°C\b"
INCH = r"(?<![\w/])[\d./]+\s?(?:inch|inches|ft|lb|oz|bd ft|cu ft|°F)(?![\w])|(?<![\w/])[\d./]+[ -]in(?=[.,;)×]| ×| thick| wide| long| boards)|°F\b|board feet|\d″|\d′"
LABELS = {"inch": r"<label[^>]*>[^<]*, (?:mm|kg|g|cm|°C)\b", "metric": r"<label[^>]*>[^<]*, (?:in|lb|oz|°F)\b"}


class Units(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.owner = copies.for_visitor(timezone.now())
        cls.shop = cls.owner.workshop
        keep_species(cls.owner, None, 0, key="white_oak", common_name="White oak", specific_gravity_12=0.7)

    def addresses(self):
        tags = ("ash-04", "ash-lot-01", "ash-bowl-01", "oak-log-01", "oak-floor-01", "elm-01", "fir-subfloor-01", "cherry-blank-01")
        pieces = [piece for piece in Piece.objects.of(self.shop) if piece.tag in tags]
        values = {
            "workshop": self.shop.slug, "meter_id": Meter.objects.of(self.shop).first().pk, "hygrometer_id": Hygrometer.objects.of(self.shop).first().pk,
            "photo_id": 0, "key": "white_oak",
        }  # fmt: skip
        air = AirReading.objects.of(self.shop).filter(struck=False).latest("at")
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
                reading = Reading.objects.filter(piece=piece, struck=False).first()
                if "reading_id" in names and reading is None:
                    continue
                own = values | {"tag": piece.tag, "reading_id": reading and reading.pk}
                yield reverse(pattern.name, kwargs={name: own[name] for name in ("workshop", *names)})

    def test_no_page_speaks_in_the_other_system(self):
        self.client.force_login(self.owner.person)
        looked = 0
        for units, foreign in (("inch", METRIC), ("metric", INCH)):
            self.shop.units = units
            self.shop.save()
            for address in self.addresses():
                answer = self.client.get(address)
                if answer.status_code != 200 or "html" not in answer.headers["Content-Type"]:
                    continue
                looked += 1
                page, markup = text_of(answer), answer.content.decode()
                found = [page[max(0, one.start() - 30) : one.end() + 20] for one in re.finditer(foreign, page)]
                found += re.findall(LABELS[units], markup)
                with self.subTest(f"{units} {address}"):
                    self.assertEqual(found, [])
        self.assertGreater(looked, 150)
