"""An app plugs itself in: its own folder and one line of the settings, and every composed page shows it."""

import re
import sys
from pathlib import Path

from django.db import transaction
from django.test import TestCase, modify_settings, override_settings
from django.urls import clear_url_caches
from django.utils import timezone

from calm_heron import plugs
from calm_heron.demo import scenario
from calm_heron.logbook.actions import write
from calm_heron.plugs import LOG_KINDS, PARTS, LogKind, Part, Registry, Slot
from calm_heron.questions import tools
from calm_heron.stock import listing, search
from calm_heron.workshops.models import Role
from tests.factories import make_member, make_shop
from tests.pages import markup_of

REGISTRIES = (
    plugs.PARTS,
    plugs.KEYS,
    plugs.LOG_KINDS,
    plugs.PANELS,
    plugs.PIECE_ACTIONS,
    plugs.DEMO_PARTS,
    listing.COLUMNS,
    search.SEARCH_WORDS,
    listing.TABLE_COLUMNS,
    tools.TOOLS,
)


class WithALathe(TestCase):
    takes_s = 20

    def setUp(self):
        self.owner, self.place, _, self.board = make_shop()
        self.client.force_login(self.owner.person)
        self.shop = f"/w/{self.owner.workshop.slug}/"
        before = [list(registry) for registry in REGISTRIES]
        added = modify_settings(INSTALLED_APPS={"append": "tests.lathe_to_be"})
        added.enable()
        self.addCleanup(self.take_out, added, before)
        addressed = override_settings(ROOT_URLCONF="tests.lathe_to_be.whole_house")
        addressed.enable()
        self.addCleanup(addressed.disable)

    def take_out(self, added, before):
        added.disable()
        for registry, plugs_before in zip(REGISTRIES, before, strict=True):
            registry.remove(*[plug for plug in registry if plug not in plugs_before])
        for name in [name for name in sys.modules if name.startswith("tests.lathe_to_be")]:
            del sys.modules[name]
        clear_url_caches()

    def test_its_page_is_mounted_and_stands_in_the_rail_on_the_phone_and_among_the_keys(self):
        page = markup_of(self.client.get(f"{self.shop}lathe/"))
        self.assertIn("Is the lathe oiled?", page)
        self.assertIn(f'<a href="{self.shop}lathe/" data-key="v" aria-current="page">Lathe</a>', page)
        self.assertIn(f'<a href="{self.shop}lathe/">Lathe</a>', page)
        self.assertIn("<kbd>v</kbd>lathe", page)
        self.assertIn("<kbd>w</kbd>wets the samples", page)
        self.assertLess(page.index(">Drying</a>"), page.index(">Lathe</a>"))
        self.assertLess(page.index(">Lathe</a>"), page.index(">Journal</a>"))

    def test_its_question_is_asked_by_members_and_by_anybody_and_stands_among_the_others(self):
        for address in (f"{self.shop}lathe/spin/", "/lathe/spin/"):
            self.assertContains(self.client.get(address), "Say how fast it turns.")
            self.assertContains(self.client.get(address, {"speed": "2"}), "120 a minute")
            self.assertNotContains(self.client.get(address, {"speed": "2", "fragment": "answer"}), "<html")
        ask = markup_of(self.client.get(f"{self.shop}ask/"))
        self.assertIn("<strong>Spin</strong>", ask)
        self.assertIn("<span>How fast does it spin?</span>", ask)
        self.assertIn(f'<a href="{self.shop}lathe/spin/">Spin</a>', markup_of(self.client.get(f"{self.shop}turning/")))

    def test_its_entries_are_found_in_the_log(self):
        write(self.owner, "lathe", "went_in", charge=4)
        page = self.client.get(f"{self.shop}log/", {"kind": "lathe"})
        self.assertContains(page, "Charge 4 went in")
        self.assertContains(page, ">Lathe</a>")

    def test_its_panel_stands_on_a_places_page_escaped_and_only_where_it_has_something_to_show(self):
        page = self.client.get(f"{self.shop}air/{self.place.pk}/").content.decode()
        self.assertEqual(page.count("No charge is drying in Bench room &lt;now&gt;."), 1)

    def test_a_piece_shows_its_panel_and_what_may_be_asked_and_gives_the_panel_alone(self):
        address = f"{self.shop}stock/{self.board.tag}/"
        page = self.client.get(address).content.decode()
        self.assertIn(f"{self.board.tag} dries in charge 4.", page)
        self.assertLess(page.index(">How long to dry?</a>"), page.index(">Into the lathe?</a>"))
        self.assertEqual(self.client.get(address, {"fragment": "charge"}).content.decode(), f"<p>{self.board.tag} dries in charge 4.</p>\n")
        self.client.force_login(make_member(self.owner, Role.HELPER).person)
        self.assertNotContains(self.client.get(address), "Into the lathe?")

    def test_the_stock_list_has_its_column_and_its_word_and_the_table_its_cells(self):
        page = markup_of(self.client.get(f"{self.shop}stock/"))
        self.assertIn(">Charge</th>", page)
        self.assertIn("&lt;four&gt;", page)
        self.assertIn("<strong>charged</strong>asks for what is in the lathe.", page)
        self.assertEqual(self.client.get(f"{self.shop}stock/", {"q": "charged"}).context["rows"], [])
        table = b"".join(self.client.get(f"{self.shop}stock/table/stock.csv").streaming_content).decode()
        self.assertIn(f",of {self.board.tag}", table)

    def test_the_demo_is_loaded_with_it_and_erased(self):
        with transaction.atomic():
            scenario.load(timezone.now())
            scenario.erase(scenario.pattern())
        self.assertIsNone(scenario.pattern())


class WithoutOne(TestCase):
    def test_an_entry_of_a_kind_nobody_registered_is_refused(self):
        owner, *_ = make_shop()
        with self.assertRaises(LookupError):
            write(owner, "lathe", "went_in", charge=4)

    def test_keys_pages_and_kinds_are_each_registered_once(self):
        for names in ([part.key for part in PARTS if part.key], [part.page for part in PARTS], [kind.key for kind in LOG_KINDS]):
            self.assertEqual(len(names), len(set(names)))

    def test_the_architectures_table_names_every_registry_there_is(self):
        root = Path(__file__).resolve().parent.parent
        there = {
            name
            for file in (root / "calm_heron").rglob("*.py")
            for name in re.findall(r"^([A-Z_]+): Registry", file.read_text(), re.MULTILINE)
        }
        table = (root / "docs" / "architecture.md").read_text().split("| what | registry | shown by |")[1].split("\n\n")[0]
        named = {name.rpartition(".")[2] for name in re.findall(r"`([\w.]*[A-Z_]{4,})`", table)}
        self.assertEqual(named, there)

    def test_a_registry_keeps_order_and_refuses_the_same_twice(self):
        registry: Registry = Registry()
        registry.add(LogKind(20, "b"), LogKind(10, "a"), LogKind(20, "c"))
        self.assertEqual([kind.key for kind in registry], ["a", "b", "c"])
        with self.assertRaises(ValueError):
            registry.add(LogKind(10, "a"))

    def test_templates_name_every_slot_and_no_other(self):
        templates = (Path(plugs.__file__).parent).glob("*/templates/**/*.html")
        named = {name for file in templates for name in re.findall(r'{% panels "([^"]*)"', file.read_text(encoding="utf-8"))}
        self.assertEqual(named, {slot.value for slot in Slot})

    def test_parts_lead_to_pages_that_are_there(self):
        owner, *_ = make_shop()
        self.client.force_login(owner.person)
        page = self.client.get(f"/w/{owner.workshop.slug}/")
        for part in PARTS:
            self.assertContains(page, f">{part.name}</a>")
        self.assertIsInstance(part, Part)
