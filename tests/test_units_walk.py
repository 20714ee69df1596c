"""Every page in both systems: an inch workshop meets no metric unit, a metric one no inch."""

import re

from django.utils import timezone

from calm_heron.demo import copies
from calm_heron.stock.actions import keep_species
from tests.cases import DemoCase
from tests.pages import addresses, text_of

# A number with a unit after it, and a label that names one.
METRIC = r"(?<![\w/])[\d.,]+\s?(?:mm|cm|m|kg|g|l|litres|m³|°C|C)(?![\w°/³])|°C\b"
INCH = (
    r"(?<![\w/])[\d./]+\s?(?:inch|inches|ft|lb|oz|bd ft|cu ft|°F)(?![\w])|(?<![\w/])[\d./]+[ -]in(?=[.,;)×]| ×| thick| wide| long|"
    r" boards)|°F\b|board feet|\d″|\d′"
)
LABELS = {"inch": r"<label[^>]*>[^<]*, (?:mm|kg|g|cm|°C)\b", "metric": r"<label[^>]*>[^<]*, (?:in|lb|oz|°F)\b"}


class Units(DemoCase):
    takes_s = 40

    @classmethod
    def setUpTestData(cls):
        cls.owner = copies.for_visitor(timezone.now())
        cls.shop = cls.owner.workshop
        keep_species(cls.owner, None, 0, key="white_oak", common_name="White oak", specific_gravity_12=0.7)

    def test_no_page_speaks_in_the_other_system(self):
        self.client.force_login(self.owner.person)
        looked = 0
        for units, foreign in (("inch", METRIC), ("metric", INCH)):
            self.shop.units = units
            self.shop.save()
            for address in addresses(self.shop):
                answer = self.client.get(address)
                if answer.status_code != 200 or "html" not in answer.headers["Content-Type"]:
                    continue
                looked += 1
                page, markup = text_of(answer), answer.content.decode()
                results = [page[max(0, item.start() - 30) : item.end() + 20] for item in re.finditer(foreign, page)]
                results += re.findall(LABELS[units], markup)
                with self.subTest(f"{units} {address}"):
                    self.assertEqual(results, [])
        self.assertGreater(looked, 150)
