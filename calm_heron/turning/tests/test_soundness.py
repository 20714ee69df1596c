"""A crack overrides everything: the same danger on every page and list, the moisture after it."""

from datetime import timedelta

from django.test import TestCase
from django.urls import reverse
from django.utils import timezone

from calm_heron.judging import stock_states
from calm_heron.judging.purposes import Purposes
from calm_heron.logbook.models import Entry
from calm_heron.stock.dangers import dangers
from calm_heron.stock.faults import faults
from calm_heron.turning import actions
from calm_heron.turning.bowls import crack_actions, soundness
from calm_heron.turning.models import CrackFound, LogEnd
from calm_heron.turning.oven.oven_actions import begin_oven
from calm_heron.turning.shelf import weighing
from calm_heron.workshops.refusals import Refused
from tests.factories import make_aired_place, make_board, make_bowl, make_owner, read_board
from tests.pages import text_of
from wood.judging.readiness import State
from wood.turning.weights import State as WeightState

FOOT = {"where": "foot", "depth_m": 0.009, "length_m": 0.05}
RIM = {"where": "rim", "depth_m": 0.0015, "length_m": 0.01}


class Sound(TestCase):
    """A bowl that is at rest, and dry by its reading."""

    @classmethod
    def setUpTestData(cls):
        cls.owner = make_owner()
        cls.room = make_aired_place(cls.owner, name="Parlour")
        cls.bowl = make_bowl(cls.owner, place=cls.room)
        now = timezone.now()
        for days, mass in ((60, 1.30), (45, 1.10), (30, 1.02), (20, 1.001), (10, 1.0), (0, 1.0)):
            actions.weigh(cls.owner, cls.bowl, mass, now - timedelta(days=days), meant=True)
        read_board(cls.owner, cls.bowl, 8.8, 8.9, 8.8)

    def setUp(self):
        self.client.force_login(self.owner.person)

    def at(self, name, *args):
        return reverse(name, args=[self.owner.workshop.slug, *args])

    def pages(self) -> dict[str, str]:
        addresses = {
            "today": self.at("today"),
            "shelf": self.at("turning"),
            "bowl": self.at("bowl", self.bowl.tag),
            "piece": self.at("piece", self.bowl.tag),
            "stock": self.at("stock"),
        }
        return {name: text_of(self.client.get(address)) for name, address in addresses.items()}

    def state(self) -> State:
        return stock_states.states_of([self.bowl], Purposes(self.owner.workshop))[self.bowl.pk]

    def test_the_danger_is_one_on_every_page_and_nothing_else_is_said_first(self):
        before = self.state()
        self.assertIsNot(before, State.CRACKED)
        self.assertNotIn("dangerous", self.pages()["bowl"])
        crack_actions.find_crack(self.owner, self.bowl, **FOOT)
        self.assertIs(self.state(), State.CRACKED)
        (danger,) = dangers(self.owner.workshop).values()
        pages = self.pages()
        for name in ("today", "shelf", "bowl", "piece"):
            with self.subTest(name):
                self.assertIn(danger.reason, pages[name])
        self.assertIn("cracked", pages["stock"].casefold())
        # On its own pages the dangerous word comes before what its weights and its moisture say.
        self.assertLess(pages["bowl"].index("Cracked: dangerous"), pages["bowl"].index(f"{weighed_word(self.bowl)}"))
        self.assertIn("By moisture alone", pages["piece"])
        self.assertNotIn(f"Settled: {self.bowl.tag}", pages["today"])

    def test_it_is_in_no_count_of_what_is_ready_or_at_rest_and_is_found_by_its_word(self):
        whole = stock_states.overview(self.owner.workshop, Purposes(self.owner.workshop)).counts
        self.assertEqual(whole[State.CRACKED], 0)
        flat = self.client.get(self.at("turning")).context["flat"]
        self.assertEqual([bowl.weighed.state for bowl in flat], [WeightState.FLAT] * len(flat))
        crack_actions.find_crack(self.owner, self.bowl, **FOOT)
        counts = stock_states.overview(self.owner.workshop, Purposes(self.owner.workshop)).counts
        self.assertEqual((counts[State.CRACKED], counts[State.READY]), (1, 0))
        self.assertEqual(self.client.get(self.at("turning")).context["flat"], [])
        self.assertEqual(self.client.get(self.at("turning")).context["due"], [])
        found = text_of(self.client.get(self.at("stock"), {"q": "cracked"}))
        self.assertIn(self.bowl.tag, found)
        self.assertNotIn(self.bowl.tag, text_of(self.client.get(self.at("stock"), {"q": "ready"})).split("Verdict")[-1])

    def test_a_crack_that_goes_with_the_shavings_is_no_danger_and_one_that_was_none_leaves_it_sound(self):
        before = self.state()
        shallow = crack_actions.find_crack(self.owner, self.bowl, **RIM)
        self.assertEqual(self.state(), before)
        crack_actions.forget_crack(self.owner, shallow)
        deep = crack_actions.find_crack(self.owner, self.bowl, **FOOT)
        self.assertIs(self.state(), State.CRACKED)
        crack_actions.forget_crack(self.owner, deep)
        self.assertEqual(self.state(), before)
        self.assertEqual(dangers(self.owner.workshop), {})

    def test_who_is_to_be_weighed_is_the_same_on_all_pages_and_for_a_scale(self):
        self.assertFalse(self.bowl.cracks.exists())
        crack_actions.find_crack(self.owner, self.bowl, **FOOT)
        due = [bowl.piece.tag for bowl in self.client.get(self.at("weigh_shelf")).context["due"]]
        self.assertEqual(due, [bowl.piece.tag for bowl in self.client.get(self.at("turning")).context["due"]])
        self.assertEqual(due, [])

    def test_a_judgement_that_is_kept_and_the_page_of_its_drying_say_the_danger(self):
        crack_actions.find_crack(self.owner, self.bowl, **FOOT)
        self.client.post(self.at("keep_judgement", self.bowl.tag), {"place": self.room.pk, "use": "turning", "once": "k"})
        self.assertEqual(Entry.objects.get(what="judged").data["state"], "cracked")
        drying = text_of(self.client.get(self.at("piece_drying", self.bowl.tag), follow=True))
        self.assertIn("Cracked: dangerous", drying)
        self.assertNotIn("Ready now", drying)

    def test_it_goes_into_no_microwave(self):
        crack_actions.find_crack(self.owner, self.bowl, **FOOT)
        with self.assertRaisesMessage(Refused, "may fly apart"):
            begin_oven(self.owner, self.bowl, 800.0, 1.0)
        self.assertFalse(self.bowl.oven_sessions.exists())


def weighed_word(bowl) -> str:
    """What its weights say, as its page has it."""
    from calm_heron.turning.shelf import shelf_words

    return shelf_words.WORDS[weighing.renew(bowl).state]


class LesserFaults(TestCase):
    """What is no danger: said beside the tag on every list, and on its page."""

    @classmethod
    def setUpTestData(cls):
        cls.owner = make_owner()
        cls.shop = f"/w/{cls.owner.workshop.slug}/"
        cls.bowl = make_bowl(cls.owner, tag="maple-bowl-01", thickness_m=0.026, width_m=0.25, length_m=0.1)

    def setUp(self):
        self.client.force_login(self.owner.person)

    def seen(self, tag: str) -> dict[str, str]:
        pages = {"stock": "stock/", "shelf": "turning/", "piece": f"stock/{tag}/", "search": f"stock/?q={tag}"}
        return {name: text_of(self.client.get(f"{self.shop}{page}")) for name, page in pages.items()}

    def test_a_shallow_crack_is_said_everywhere_and_gone_once_it_is_mended_with_what(self):
        crack = crack_actions.find_crack(self.owner, self.bowl, where="outside", depth_m=0.008, length_m=0.03)
        self.assertIn("Cracked", soundness.fault_in(self.bowl).short)
        for name, page in self.seen(self.bowl.tag).items():
            with self.subTest(name):
                self.assertIn("Cracked", page)
                self.assertNotIn("dangerous", page)
        address = f"{self.shop}turning/of/{self.bowl.tag}/crack/{crack.pk}/mended/"
        self.client.post(address, {"how": "glued", "what": "thin glue", "once": "1"})
        for name, page in self.seen(self.bowl.tag).items():
            with self.subTest(name):
                self.assertIn("Glued with thin glue", page)
        # And back again.
        self.client.post(address, {"how": "open", "once": "2"})
        self.assertEqual(soundness.fault_in(self.bowl).short, "Cracked")

    def test_glue_makes_no_dangerous_crack_fit_for_the_lathe(self):
        crack = crack_actions.find_crack(self.owner, self.bowl, **FOOT)
        crack_actions.mend_crack(self.owner, crack, "glued", "epoxy")
        self.assertIsNotNone(soundness.danger_in(self.bowl))
        self.assertIsNone(soundness.fault_in(self.bowl))

    def test_it_is_gone_asks_first_and_has_a_way_back(self):
        crack = crack_actions.find_crack(self.owner, self.bowl, **FOOT)
        crack_actions.mend_crack(self.owner, crack, "glued", "epoxy")
        page = self.client.get(f"{self.shop}turning/of/{self.bowl.tag}/")
        self.assertIn("turned away, or none after all?", text_of(page))
        address = f"{self.shop}turning/of/{self.bowl.tag}/crack/{crack.pk}/gone/"
        self.assertContains(self.client.post(address, {"once": "1"}, follow=True), "Undo")
        self.assertIsNone(soundness.danger_in(self.bowl))
        for _ in range(2):
            self.client.post(address, {"do": "restore"})
        self.assertIsNotNone(soundness.danger_in(self.bowl))
        self.assertEqual((CrackFound.objects.count(), CrackFound.objects.get().mend.what), (1, "epoxy"))

    def test_a_blank_may_be_cracked_and_through_it_is_dangerous(self):
        blank = make_board(self.owner, tag="maple-blank-01", kind="blank", width_m=0.25, thickness_m=0.1, length_m=0.25)
        shallow = crack_actions.find_crack(self.owner, blank, where="rim", depth_m=0.02, length_m=0.05)
        self.assertIn("cut it off", soundness.fault_in(blank).reason)
        self.assertIn("A crack in the rim", text_of(self.client.get(f"{self.shop}turning/of/{blank.tag}/")))
        crack_actions.forget_crack(self.owner, shallow)
        crack_actions.find_crack(self.owner, blank, where="rim", depth_m=0.05, length_m=0.08, through=True)
        self.assertIsNotNone(soundness.danger_in(blank))

    def test_checks_in_a_logs_end_are_said(self):
        log = make_board(
            self.owner, tag="cherry-log-01", kind="log", species_key="black_cherry", width_m=0.4, thickness_m=0.4, length_m=0.9
        )
        strokes = [{"p": [[0.02, 0.02], [0.1, 0.1]], "d": 0.05, "f": "check"}, {"p": [[0.0, -0.05], [0.0, -0.15]], "d": 0.1, "f": "check"}]
        LogEnd.objects.create(workshop=self.owner.workshop, piece=log, width_m=0.4, height_m=0.4, length_m=0.9, strokes=strokes)
        self.assertIn("2 checks in its end, 100 mm deep at most", faults(self.owner.workshop)[log.pk].reason)


class ToldOfABox(TestCase):
    """A bowl that lay in a warm box for a week, told and untold."""

    @classmethod
    def setUpTestData(cls):
        cls.owner = make_owner()
        cls.shop = f"/w/{cls.owner.workshop.slug}/"
        cls.bowl = make_bowl(cls.owner, tag="maple-bowl-01", thickness_m=0.02, width_m=0.2, length_m=0.08)
        now = timezone.now()
        for day, mass in ((30, 0.90), (26, 0.85), (22, 0.81), (18, 0.78), (11, 0.66), (8, 0.655), (4, 0.65)):
            actions.weigh(cls.owner, cls.bowl, mass, now - timedelta(days=day), meant=True)

    def setUp(self):
        self.client.force_login(self.owner.person)

    def test_what_it_was_told_is_in_its_air_and_is_taken_back(self):
        today = timezone.localdate()
        first = today - timedelta(days=30)
        plain = weighing.air_of(self.bowl, first)
        sent = {"kind": "box", "begins": str(today - timedelta(days=18)), "ends": str(today - timedelta(days=12)), "once": "1"}
        page = self.client.post(f"{self.shop}turning/of/{self.bowl.tag}/elsewhere/", sent, follow=True)
        self.assertIn("it lay in a warm box", text_of(page))
        told = weighing.air_of(self.bowl, first)
        within, without = told.at(14.5), told.at(20.5)
        self.assertEqual(told.temperature_c[within], 38.0)
        self.assertLess(told.relative_humidity[within], 0.6 * plain.relative_humidity[plain.at(14.5)])
        self.assertEqual(told.temperature_c[without], plain.temperature_c[plain.at(20.5)])
        spell = self.bowl.spells.get()
        for do, stands in (("strike", False), ("restore", True)):
            self.client.post(f"{self.shop}turning/of/{self.bowl.tag}/elsewhere/{spell.pk}/", {"do": do, "once": do})
            self.assertEqual(bool(weighing.spells_of(self.bowl)), stands)

    def test_days_that_cannot_be_are_refused_beside_their_field(self):
        today = timezone.localdate()
        address = f"{self.shop}turning/of/{self.bowl.tag}/elsewhere/"
        for begins, ends, field in ((today, today - timedelta(days=2), "ends"), (today + timedelta(days=3), "", "begins")):
            answer = self.client.post(address, {"kind": "freezer", "begins": str(begins), "ends": str(ends)})
            self.assertEqual(answer.status_code, 422)
            self.assertIn(field, answer.context["form_elsewhere"].errors)
        self.assertFalse(self.bowl.spells.exists())
