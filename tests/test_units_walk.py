"""Every page in both systems: an inch workshop meets no metric unit, a metric one no inch; and every page can be read."""

import io
import re

from django.db import transaction
from django.utils import timezone
from django.utils.html import escape
from pypdf import PdfReader

from calm_heron.demo import copies
from calm_heron.stock.actions import keep_species
from tests.cases import DemoCase
from tests.pages import addresses, text_of
from tests.presented import strays
from tests.test_doors import Fields
from tests.walks import far, some

# A number with a unit after it, and a label that names one.
METRIC = r"(?<![\w/])[\d.,]+\s?(?:mm|cm|m|kg|g|l|litres|m³|°C|C)(?![\w°/³])|°C\b"
INCH = (
    r"(?<![\w/])[\d./]+\s?(?:inch|inches|ft|lb|oz|bd ft|cu ft|°F)(?![\w])|(?<![\w/])[\d./]+[ -]in(?=[.,;)×]| ×| thick| wide| long|"
    r" boards)|°F\b|board feet|\d″|\d′"
)
# What no page says, and a single thing in the plural.
NEVER = re.compile(r"\b(?:None(?! of| yet)|nan|NaN|inf|undefined)\b|\{[{%]|[%}]\}|−0\b(?![.,]\d)|&amp;amp;")
ONE_OF_MANY = re.compile(
    r"(?<![\d./,-])1 (?:boards|pieces|readings|days|weeks|months|courses|heats|weighings|parts|samples|lots|stacks|loads)\b"
)
# What stands in fields, and the title that every page has of the workshop's name.
FILLED = {
    "inch": r'(?:value|placeholder)="[-−\d./ ]*\d\s?(?:mm|cm|m|kg|g|°C)"',
    "metric": r'(?:value|placeholder)="[-−\d./ ]*\d\s?(?:in|ft|lb|oz|°F)"',
}
# Degrees as they stand along an axis or in a sentence that is not a reading: round ones of a reader's own scale.
CROOKED = re.compile(r"<text[^>]*>\s*(?:32|68|86|104|122|140|158|176)\s*(?:°F)?\s*</text>")
LABELS = {"inch": r"<label[^>]*>[^<]*, (?:mm|kg|g|cm|°C)\b", "metric": r"<label[^>]*>[^<]*, (?:in|lb|oz|°F)\b"}


class Units(DemoCase):
    takes_s = 40

    @classmethod
    def setUpTestData(cls):
        cls.owner = copies.for_visitor(timezone.now())
        cls.shop = cls.owner.workshop
        keep_species(cls.owner, None, 0, key="white_oak", common_name="White oak", specific_gravity_12=0.7)

    def reads_well(self, page: str, markup: str) -> None:
        """No trace of a value that was never meant to be read, one thing in its singular, drawings in their frames, one heading, a title,
        and no two elements of one id."""
        around = [page[max(0, trace.start() - 30) : trace.end() + 20] for trace in NEVER.finditer(page)]
        self.assertEqual(around, [])
        self.assertEqual([found[0] for found in ONE_OF_MANY.finditer(page)], [])
        self.assertEqual(strays(markup), [])
        if "<html" in markup:
            self.assertEqual(len(re.findall(r"<h1\b", markup)), 1)
            self.assertRegex(markup, rf"<title>\s*[^<\s][^<]*· {re.escape(escape(self.shop.name))}")
        ids = re.findall(r'\sid="([^"]+)"', markup)
        self.assertEqual({name for name in ids if ids.count(name) > 1}, set())
        self.assertNotIn('aria-valuetext=""', markup)
        self.assertEqual(re.findall(r"<th(?![^>]*\bscope=)[^>]*>", markup.replace("<thead>", "")), [])

    def test_no_page_speaks_in_the_other_system(self):
        self.client.force_login(self.owner.person)
        looked = 0
        # In the suite half of the pages, each in one of the two; in a long walk all of them in both.
        for nth, (units, foreign) in enumerate((("inch", METRIC), ("metric", INCH))):
            self.shop.units = units
            self.shop.save()
            for address in some(list(addresses(self.shop)), nth, 4):
                answer = self.client.get(address)
                if answer.status_code == 200 and "pdf" in answer.headers["Content-Type"]:
                    sheet = " ".join(page.extract_text() for page in PdfReader(io.BytesIO(b"".join(answer))).pages)
                    with self.subTest(f"{units} {address}"):
                        self.assertEqual([item[0] for item in re.finditer(foreign, sheet)], [])
                if answer.status_code != 200 or "html" not in answer.headers["Content-Type"]:
                    continue
                looked += 1
                page, markup = text_of(answer), answer.content.decode()
                results = [page[max(0, item.start() - 30) : item.end() + 20] for item in re.finditer(foreign, page)]
                if units == "inch":
                    # One of them can be meant; an axis has several.
                    results += found if len(found := CROOKED.findall(markup)) > 2 else []
                results += re.findall(LABELS[units], markup) + re.findall(FILLED[units], markup)
                with self.subTest(f"{units} {address}"):
                    self.assertEqual(results, [])
                    self.reads_well(page, markup)
        self.assertGreater(looked, far(37, 150))

    def test_no_error_speaks_in_the_other_system(self):
        """Every form of the pages, each field of it in turn far out of its range: what is wrong is said in the reader's units."""
        self.client.force_login(self.owner.person)
        asked, refused = 0, 0
        for nth, (units, foreign) in enumerate((("inch", METRIC), ("metric", INCH))):
            self.shop.units = units
            self.shop.save()
            forms = {}
            for address in some(list(addresses(self.shop)), nth + 2, 8):
                answer = self.client.get(address)
                if answer.status_code == 200 and "html" in answer.headers["Content-Type"]:
                    for action, method, fields in Fields(answer.content.decode()).forms:
                        forms[action.split("?")[0] or address, method.lower(), *sorted(fields)] = fields
            for (address, method, *names), fields in forms.items():
                if not address.startswith("/w/") or ("csrfmiddlewaretoken" not in names and method == "post"):
                    continue
                send = self.client.post if method == "post" else self.client.get
                wrong = {name: "99999999" for name in names if re.fullmatch(r"-?[\d./ ]*", fields[name])}
                for tried in some([{name: value} for name, value in wrong.items()], asked, 4) or [wrong]:
                    with self.subTest(f"{units} {address} {tried}"), transaction.atomic():
                        answer = send(address, fields | tried)
                        asked += 1
                        page = text_of(answer) if "html" in answer.headers["Content-Type"] else ""
                        refused += "Not kept" in page or answer.status_code == 422
                        self.assertEqual([page[max(0, item.start() - 40) : item.end() + 20] for item in re.finditer(foreign, page)], [])
                        transaction.set_rollback(True)
        self.assertGreater(asked, far(60, 600))
        self.assertGreater(refused, far(10, 150))
