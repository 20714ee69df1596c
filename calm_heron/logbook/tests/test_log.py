"""The log: what any deed becomes in words, what is shown of it, and what cannot be written into it."""

from datetime import timedelta
from unittest import mock

from django.test import TestCase
from django.urls import reverse
from django.utils import timezone

from calm_heron.logbook import actions, queries
from calm_heron.logbook.models import AS_WRITTEN, Entry
from calm_heron.logbook.words import describe, sentence_of
from calm_heron.plugs import LOG_KINDS
from calm_heron.workshops.models import Role
from tests.cases import DemoCase
from tests.counting import query_count
from tests.factories import make_board, make_member, make_owner
from tests.pages import text_of
from tests.sentences import Sentences
from wood.units import INCH, METRIC


class Words(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.owner = make_owner()

    def entry(self, kind: str, what: str, **data) -> Entry:
        return Entry(workshop=self.owner.workshop, by=self.owner.person, kind=kind, what=what, subject="oak-01", data=data)

    def test_every_kind_has_words_for_each_of_its_codes(self):
        for kind in LOG_KINDS:
            for code, sentence in kind.words.items():
                with self.subTest(f"{kind.key}.{code}"):
                    self.assertTrue(callable(sentence) or sentence.strip())
                    self.assertIs(sentence_of(kind.key, code), sentence)

    def test_kinds_are_told_apart_and_in_an_order(self):
        self.assertEqual(len({kind.key for kind in LOG_KINDS}), len(list(LOG_KINDS)))
        named = [kind.name for kind in LOG_KINDS if kind.name]
        self.assertEqual(len(set(named)), len(named))

    def test_an_entry_from_before_there_were_codes_is_its_text(self):
        self.assertEqual(describe(self.entry("reading", AS_WRITTEN, text="Read by hand: 11%"), METRIC), "Read by hand: 11%")

    def test_one_whose_app_is_gone_is_its_bare_code(self):
        self.assertEqual(describe(self.entry("lathe", "turned"), METRIC), "oak-01: lathe, turned")
        self.assertEqual(describe(self.entry("builds", "unheard_of"), METRIC), "oak-01: builds, unheard_of")

    def test_what_nobody_could_read_again_is_not_written(self):
        for kind, what in (("lathe", "turned"), ("builds", "unheard_of"), ("", "")):
            with self.assertRaises(LookupError):
                actions.write(self.owner, kind, what)
        self.assertFalse(Entry.objects.of(self.owner.workshop).filter(subject="oak-01").exists())

    def test_an_entry_keeps_who_when_and_what(self):
        at = timezone.now() - timedelta(days=3)
        entry = actions.write(self.owner, "device", "let_in", subject="scale", at=at)
        self.assertEqual((entry.by, entry.at, entry.subject, entry.workshop), (self.owner.person, at, "scale", self.owner.workshop))
        self.assertEqual(describe(entry, METRIC), "Device scale let in")

    def test_a_subject_that_is_too_long_is_cut_and_not_refused(self):
        self.assertEqual(len(actions.write(self.owner, "device", "let_in", subject="x" * 300).subject), 60)


class OfTheDemo(Sentences, DemoCase):
    def test_every_entry_of_a_working_year_can_be_read_in_both_systems(self):
        kinds = set()
        entries = Entry.objects.exclude(what=AS_WRITTEN)
        for entry in entries.order_by("kind", "what", "-id").distinct("kind", "what"):
            kinds.add(entry.kind)
            for system in (INCH, METRIC):
                said = describe(entry, system)
                self.assert_clean(said)
                self.assertNotIn("{", said)
        self.assertGreaterEqual(len(kinds), 3)

    def test_units_go_with_the_reader(self):
        for entry in Entry.objects.filter(kind="stock").order_by("-id")[:40]:
            with self.subTest(entry.what):
                self.assertNotRegex(describe(entry, INCH), r"\d mm\b")
                self.assertNotRegex(describe(entry, METRIC), r"\d in\b")


class Page(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.owner = make_owner()
        cls.boards = [make_board(cls.owner) for _ in range(3)]
        actions.write(cls.owner, "device", "let_in", subject="scale")
        actions.write(cls.owner, "device", "shut_out", subject="scale")

    def setUp(self):
        self.client.force_login(self.owner.person)

    def ask(self, workshop=None, **typed):
        return self.client.get(reverse("log", args=[(workshop or self.owner.workshop).slug]), typed)

    def test_newest_first_with_who_did_it(self):
        page = text_of(self.ask())
        self.assertLess(page.index("Device scale shut out"), page.index("Device scale let in"))
        self.assertIn(str(self.owner.person), page)

    def test_one_kind_alone(self):
        page = text_of(self.ask(kind="device"))
        self.assertIn("Device scale let in", page)
        self.assertNotIn(self.boards[0].tag, page)

    def test_about_one_thing_alone(self):
        page = text_of(self.ask(about=self.boards[0].tag))
        self.assertIn(f"What’s been done about {self.boards[0].tag}?", page)
        self.assertNotIn(self.boards[1].tag, page)
        self.assertIn("about everything", page)

    def test_a_kind_that_is_none_shows_everything(self):
        self.assertIn("Device scale let in", text_of(self.ask(kind="'; drop table")))

    def test_a_kind_with_nothing_in_it_says_so(self):
        self.assertIn("Nothing of this kind yet.", text_of(self.ask(kind="kiln")))

    def test_an_empty_log_says_how_it_fills(self):
        other = make_owner()
        self.client.force_login(other.person)
        with mock.patch.object(queries, "entries", return_value=Entry.objects.none()):
            self.assertIn("Nothing yet.", text_of(self.ask(other.workshop)))

    def test_it_is_turned_over_page_by_page(self):
        for number in range(70):
            actions.write(self.owner, "device", "let_in", subject=f"scale {number}")
        first, second = text_of(self.ask()), text_of(self.ask(page="2"))
        self.assertIn("Device scale 69 let in", first)
        self.assertNotIn("Device scale 0 let in", first)
        self.assertIn("Device scale 0 let in", second)
        for page in ("0", "-1", "999", "x", "1e9"):
            self.assertEqual(self.ask(page=page).status_code, 200)

    def test_the_number_of_queries_does_not_grow_with_it(self):
        address = reverse("log", args=[self.owner.workshop.slug])
        few = query_count(self.client, address)
        for number in range(30):
            actions.write(make_member(self.owner, Role.MAKER), "device", "let_in", subject=f"scale {number}")
        self.assertEqual(query_count(self.client, address), few)

    def test_another_workshops_log_is_not_there(self):
        self.assertEqual(self.ask(make_owner().workshop).status_code, 404)
