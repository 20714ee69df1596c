"""*Find*, and the twelve things that people look for by the labels alone."""

import html
import re

from django.utils import timezone

from calm_heron.demo import copies
from calm_heron.workshops.models import Role
from tests.cases import DemoCase
from tests.factories import make_member
from tests.pages import text_of

# What is looked for: the labels on the way from Today, two at the most, and what stands on the page that it ends at.
PATHS = {
    "a wet core": (("Stock", "ash-03"), "core"),
    "the next load": (("Kiln", "Next in"), "What goes in next?"),
    "how oval a bowl gets": (("Turning", "Rough a bowl"), "oval"),
    "the gap of a drawer": (("Movement", "A drawer, a door, a lid"), "gap"),
    "a sheet of labels": (("Stock", "Labels for these"), "Which label sheet?"),
    "the backup": (("Workshop", "Backup"), "Is it all backed up?"),
    "the units": (("Workshop",), "Name, units and clock"),
    "inviting someone": (("Workshop",), "demo"),
    "a wrong reading": (("Readings",), "Put a reading right"),
    "taking the stock out as a table": (("Stock", "Export CSV"), "ash-03"),
    "a check over salt": (("Air", "Hygrometers"), "salt"),
    "the spacing of stickers": (("Stacks", "Plan a stack"), "sticker"),
}


class InTheDemo(DemoCase):
    @classmethod
    def setUpTestData(cls):
        cls.owner = copies.for_visitor(timezone.now())
        cls.shop = f"/w/{cls.owner.workshop.slug}/"

    def setUp(self):
        self.client.force_login(self.owner.person)


class ByLabels(InTheDemo):
    def links_of(self, page) -> dict[str, str]:
        links = re.findall(r'<a[^>]*?href="([^"]+)"[^>]*>(.*?)</a>', page.content.decode(), re.DOTALL)
        named = {
            " ".join(html.unescape(re.sub(r"<[^>]+>", " ", words)).replace("\u00a0", " ").split()): to for to, words in reversed(links)
        }
        return {name: html.unescape(to) for name, to in named.items()}

    def test_each_is_two_labels_away_at_most(self):
        self.assertEqual(len(PATHS), 12)
        for sought, (labels, there) in PATHS.items():
            with self.subTest(sought):
                page = self.client.get(self.shop)
                for label in labels:
                    links = self.links_of(page)
                    # A link may say more after its label: the question that it leads to.
                    to = links.get(label) or next((address for name, address in links.items() if name.startswith(label)), None)
                    self.assertIsNotNone(to, f"{label} in {sorted(links)}")
                    page = self.client.get(to.partition("#")[0] or self.shop)
                self.assertEqual(page.status_code, 200)
                self.assertIn(there, text_of(page) if "html" in page["Content-Type"] else page.getvalue().decode())


class Find(InTheDemo):
    def found(self, text):
        return self.client.get(f"{self.shop}find/", {"q": text})

    def test_a_tag_leads_to_its_piece_at_once(self):
        self.assertRedirects(self.found("ash-03"), f"{self.shop}stock/ash-03/", fetch_redirect_response=False)
        self.assertRedirects(self.found("  ASH-03 "), f"{self.shop}stock/ash-03/", fetch_redirect_response=False)

    def test_the_beginning_of_a_tag_offers_all_that_begin_so(self):
        page = text_of(self.found("ash-0"))
        for tag in ("ash-01", "ash-03", "ash-04"):
            self.assertIn(tag, page)

    def test_species_places_pages_and_questions_answer(self):
        for text, kinds in (("oak", ["Wood"]), ("bench", ["Places"]), ("label", ["Pages"]), ("drawer", ["Questions"]), ("backup", [])):
            page = self.found(text)
            if page.status_code == 302:
                continue
            self.assertEqual([kind for kind in kinds if kind not in [one.name for one in page.context["kinds"]]], [], text)

    def test_words_that_people_use_lead_to_the_page(self):
        for text, address in (
            ("backup", "people/backup/"),
            ("inches", "people/#units"),
            ("invite", "people/#invite"),
            ("calibrate", "air/h"),
        ):
            with self.subTest(text):
                page = self.found(text)
                self.assertIn(f"{self.shop}{address}", page.url if page.status_code == 302 else page.content.decode())

    def test_typed_letters_are_answered_by_the_list_alone(self):
        page = self.client.get(f"{self.shop}find/", {"q": "oak", "fragment": "found"})
        self.assertNotContains(page, "<main")
        self.assertContains(page, "oak-04")

    def test_nothing_and_nonsense_are_answered_calmly(self):
        for text in ("", "   ", "zzzzzz", "%", "'; drop table", "<script>alert(1)</script>", "木", "x" * 5000, "> 12", "all", "8/4"):
            with self.subTest(text[:20]):
                page = self.found(text)
                self.assertIn(page.status_code, (200, 302))
                if page.status_code == 200:
                    self.assertNotContains(page, "<script>alert")

    def test_what_one_may_not_do_is_not_offered(self):
        self.assertContains(self.found("add"), "Add wood")
        self.client.force_login(make_member(self.owner, Role.VIEWER).person)
        self.assertNotContains(self.found("add"), "Add wood")
