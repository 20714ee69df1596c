"""Verdicts as a person meets them: each state in words, for each place and use, and the whole workshop at once."""

import re
from datetime import timedelta

from django.test import TestCase
from django.utils import timezone

from calm_heron.air.actions import record_air
from calm_heron.judging import queries, stock_states, words
from calm_heron.judging.drawings import gauge
from calm_heron.judging.models import WorkshopPurpose
from calm_heron.judging.purposes import Purposes
from calm_heron.judging.targets import Purpose, target
from calm_heron.logbook.models import Entry
from calm_heron.logbook.words import describe
from calm_heron.stock.models import Piece
from tests.counting import query_count
from tests.factories import make_aired_place, make_board, make_meter, make_owner, make_place, make_shop, read_board
from tests.pages import text_of
from wood.judging.readiness import State
from wood.uses import FINE, GENERAL


def answer_for(piece, place, use=FINE, **approach):
    purpose = Purpose(place, use, **approach)
    return words.answer(queries.judged(piece, purpose, target(purpose)))


def purpose(place, use=FINE) -> dict:
    """The address of a page that asks for a place and a use."""
    return {"place": str(place.pk), "use": use.key}


class JudgingCase(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.owner, cls.place, cls.meter, cls.board = make_shop()
        cls.shop = f"/w/{cls.owner.workshop.slug}/"
        cls.address = f"{cls.shop}stock/{cls.board.tag}/"

    def setUp(self):
        self.client.force_login(self.owner.person)

    def answer(self, use=FINE, place=None):
        return answer_for(self.board, place or self.place, use)


class States(JudgingCase):
    def test_a_board_at_the_level_is_ready_and_says_what_to_do(self):
        read_board(self.owner, self.board, 9.1, 9.3, 9.2, 9.4, meter=self.meter)
        page = self.client.get(self.address)
        self.assertContains(page, "Ready")
        self.assertContains(page, "where such wood settles in Bench room")
        self.assertContains(page, "Mill it.")

    def test_wet_dry_and_uneven_boards_each_get_their_sentence(self):
        for values, core, state, says in (
            ((17, 17.4, 17.2), None, State.WAIT, "Sticker it"),
            ((6.2, 6.3, 6.1), None, State.TOO_DRY, "swell"),
            ((7.9, 7.9, 7.8), None, State.READY, "Mill it"),
            ((9.0, 9.2, 9.1), 11.6, State.TOO_UNEVEN, "core is"),
            ((8.0, 9.2, 10.6), None, State.TOO_UNEVEN, "differ by 2.6 points"),
            ((11.2, 11.3, 11.2, 11.2), None, State.CLOSE, "the chance that it’s inside is"),
        ):
            self.board = make_board(self.owner)
            read_board(self.owner, self.board, *values, core=core, meter=self.meter)
            answer = self.answer()
            with self.subTest(state):
                self.assertEqual(answer.state, state)
                self.assertIn(says, f"{answer.reason} {answer.next_step}")

    def test_a_core_beyond_the_meter_is_named_and_never_left_out(self):
        walnut = self.board = make_board(self.owner, "black_walnut", thickness_m=0.054)
        read_board(self.owner, walnut, 9.0, 9.1, 9.2, core=34, meter=self.meter)
        answer = self.answer()
        self.assertEqual(answer.state, State.WAIT)
        self.assertIn("core is wetter than the meter can measure, over 28.0%", answer.reason)
        page = self.client.get(f"{self.shop}stock/{walnut.tag}/")
        self.assertRegex(text_of(page), r"at least [\d.]+ kg now")
        table = b"".join(self.client.get(f"{self.shop}stock/table/stock.csv").streaming_content).decode()
        self.assertIn(">28.0", table)
        self.assertEqual(stock_states.overview(self.owner.workshop, Purposes(self.owner.workshop)).counts[State.READY], 0)

    def test_two_wet_places_among_dry_ones_keep_a_board_waiting(self):
        read_board(self.owner, self.board, 9.2, 9.1, 9.0, 9.2, 34, 36, meter=self.meter)
        answer = self.answer()
        self.assertEqual(answer.state, State.WAIT)
        self.assertIn("Some places on it", answer.reason)

    def test_a_sodden_board_is_not_sent_into_the_warm_room(self):
        read_board(self.owner, self.board, 27, 27.4, 27.2, meter=self.meter)
        self.assertIn("Too wet to bring into Bench room at once", self.answer().next_step)

    def test_the_use_decides_how_close_is_close_enough(self):
        read_board(self.owner, self.board, 11.3, 11.4, 11.2, 11.3, meter=self.meter)
        self.assertNotEqual(self.answer(FINE).state, State.READY)
        self.assertEqual(self.answer(GENERAL).state, State.READY)

    def test_the_place_decides_what_the_board_is_held_against(self):
        read_board(self.owner, self.board, 9.2, 9.3, 9.1, meter=self.meter)
        dry = make_aired_place(self.owner, relative_humidity=0.25)
        self.assertEqual(self.answer(place=dry).state, State.WAIT)

    def test_poor_instruments_leave_it_just_inside_and_the_weaker_one_is_named(self):
        vague = make_place(self.owner, rh_tolerance=0.09)
        record_air(self.owner, vague, 21.1, 0.5)
        read_board(self.owner, self.board, 10.7, 10.8, 10.6, 10.7, meter=make_meter(self.owner, tolerance=0.01))
        answer = self.answer(place=vague)
        self.assertEqual((answer.state, answer.word), (State.READY, "Ready, just inside"))
        self.assertRegex(
            answer.reason,
            r"The chance that it’s so is about [3-6] in 10, with ±[\d.]+ points for meter, spots and air\. Check it over saturated salt\.",
        )

    def test_one_reading_near_the_edge_says_what_more_of_them_would_do(self):
        read_board(self.owner, self.board, 10.5, meter=self.meter)
        answer = self.answer()
        self.assertEqual(answer.word, "Ready, just inside")
        self.assertRegex(answer.reason, "more readings? would make it surer")


class Missing(JudgingCase):
    def test_without_readings_or_air_it_cannot_tell_and_says_what_to_do(self):
        self.assertIn("Read it in three places", self.answer().next_step)
        self.assertIn("hasn’t been read", self.answer(place=make_place(self.owner)).reason)
        alone = make_owner()
        self.assertIn("No place is set", answer_for(make_board(alone), None).reason)
        self.assertContains(self.client.get(self.address), "Cannot tell")

    def test_old_readings_and_old_air_are_not_trusted(self):
        read_board(self.owner, self.board, 9.2, 9.3, 9.1, meter=self.meter, at=timezone.now() - timedelta(days=100))
        self.assertIn("100 days ago", self.answer().reason)
        stale = make_place(self.owner)
        record_air(self.owner, stale, 21, 0.5, at=timezone.now() - timedelta(days=50))
        self.assertIn("last read 50 days ago", self.answer(place=stale).reason)

    def test_readings_of_a_month_ago_are_judged_but_asked_again(self):
        read_board(self.owner, self.board, 9.2, 9.3, 9.1, 9.2, meter=self.meter, at=timezone.now() - timedelta(days=30))
        self.assertEqual(self.answer().state, State.READY)
        self.assertIn("read it again first", self.answer().next_step)


class Page(JudgingCase):
    def test_the_fragment_is_the_answer_alone_for_the_asked_place_and_use(self):
        read_board(self.owner, self.board, 10.3, 10.4, 10.2, 10.3, meter=self.meter)
        fragment = self.client.get(self.address, {"place": self.place.pk, "use": "general", "fragment": "answer"})
        self.assertContains(fragment, "Ready")
        self.assertNotContains(fragment, "<html")

    def test_nonsense_in_the_question_falls_back_to_the_aim(self):
        for question in ({"place": "0", "use": "sculpture"}, {"place": "x" * 300}, {"use": "<b>"}):
            self.assertEqual(self.client.get(self.address, question).context["place"], self.place)

    def test_a_judgement_is_kept_once_with_its_rule(self):
        read_board(self.owner, self.board, 9.2, 9.3, 9.1, 9.2, meter=self.meter)
        for _ in range(2):
            self.client.post(f"{self.address}judge/", {"place": self.place.pk, "use": "fine", "once": "j"})
        entry = Entry.objects.get(kind="judgement")
        self.assertIn("ready", describe(entry, self.owner.workshop.system))
        self.assertEqual(entry.data["state"], "ready")
        self.assertTrue(entry.data["rule"])
        self.assertContains(self.client.get(f"{self.shop}log/?kind=judgement"), "oak-01 for Bench room")

    def test_one_that_was_judged_by_an_older_rule_keeps_its_words_and_says_so(self):
        read_board(self.owner, self.board, 9.2, 9.3, 9.1, 9.2, meter=self.meter)
        self.client.post(f"{self.address}judge/", {"place": self.place.pk, "use": "fine", "once": "j"})
        entry = Entry.objects.get(kind="judgement")
        self.assertNotIn("replaced since", describe(entry, self.owner.workshop.system))
        entry.data |= {"rule": "2026-11d", "state": "cannot tell"}
        said = describe(entry, self.owner.workshop.system)
        self.assertIn("fine work: cannot tell. Judged by the rule 2026-11d, since replaced.", said)

    def test_the_aim_is_kept_for_the_workshop(self):
        other = make_aired_place(self.owner)
        self.client.post(f"{self.shop}aim/", {"place": other.pk, "use": "general"})
        aim = WorkshopPurpose.objects.get(workshop=self.owner.workshop)
        self.assertEqual((aim.place, aim.use_key), (other, "general"))
        self.assertEqual(self.client.post(f"{self.shop}aim/", {"place": other.pk, "back": "//evil.example"}).headers["Location"], self.shop)

    def test_the_page_asks_the_same_number_of_queries_however_much_was_read(self):
        read_board(self.owner, self.board, 9, meter=self.meter)
        # What is remembered of the air's year is worked out by the first look.
        self.client.get(self.address)
        few = query_count(self.client, self.address)
        for _ in range(10):
            read_board(self.owner, self.board, 9, 9.1, 9.2, 9.3, meter=self.meter)
        self.assertEqual(query_count(self.client, self.address), few)

    def test_the_gauge_holds_level_board_and_doubt_within_its_frame(self):
        for value in (3, 9.2, 25):
            board = self.board = make_board(self.owner)
            read_board(self.owner, board, value, value, value, meter=self.meter)
            answer = self.answer()
            if answer.verdict:
                drawn = gauge(answer.verdict, answer.estimate)
                for height in (drawn.water, drawn.board, drawn.board_high, drawn.board_low, drawn.tolerance_high, drawn.tolerance_low):
                    self.assertTrue(0 <= height <= drawn.height)


class Overview(JudgingCase):
    def test_the_whole_workshop_is_judged_as_each_board_would_be(self):
        for values, core in (
            ((9.2, 9.1, 9.3, 9.2), None),
            ((16, 17), None),
            ((6, 6.1), None),
            ((45, 46), None),
            ((9, 9.1, 9.2), 12),
            ((10, 10.1, 9.9), None),
            ((9,), None),
        ):
            read_board(self.owner, make_board(self.owner), *values, core=core, meter=self.meter)
        for use in (FINE, GENERAL):
            overview = stock_states.overview(self.owner.workshop, Purposes(self.owner.workshop, purpose(self.place, use)))
            one_by_one = [answer_for(piece, self.place, use).state for piece in Piece.objects.of(self.owner.workshop)]
            for state in State:
                self.assertEqual(overview.counts[state], one_by_one.count(state), state)

    def test_without_a_level_nothing_is_claimed(self):
        read_board(self.owner, self.board, 9.2, meter=self.meter)
        overview = stock_states.overview(self.owner.workshop, Purposes(self.owner.workshop, purpose(make_place(self.owner))))
        self.assertEqual({state: count for state, count in overview.counts.items() if count}, {State.CANNOT_TELL: 1})

    def test_unread_boards_come_first_in_what_to_read_next(self):
        read_board(self.owner, self.board, 11.2, 11.3, 11.2, 11.2, meter=self.meter)
        unread = make_board(self.owner)
        overview = stock_states.overview(self.owner.workshop, Purposes(self.owner.workshop))
        wanted = queries.read_next(self.owner.workshop, overview)
        self.assertEqual([(entry.piece, entry.why) for entry in wanted[:2]], [(unread, "never read"), (self.board, "undecided")])


class ReadyBy(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.owner, cls.place, cls.meter, cls.board = make_shop()

    def setUp(self):
        self.client.force_login(self.owner.person)

    def page(self, board):
        return self.client.get(f"/w/{self.owner.workshop.slug}/stock/{board.tag}/")

    def test_a_board_that_must_wait_is_told_until_when(self):
        read_board(self.owner, self.board, 16, 16, 16, meter=self.meter)
        page = self.page(self.board)
        said = text_of(page)
        self.assertRegex(said, r"When\? In Bench room it’s ready to work about \d+ \w+")
        # The page of its drying says the very same.
        text = re.search(r"ready to work about [^.]*", said)[0]
        self.assertIn(text, text_of(self.client.get(f"/w/{self.owner.workshop.slug}/stock/{self.board.tag}/drying/")))

    def test_an_uneven_board_is_told_when_core_and_shell_would_be_alike(self):
        days = []
        for inch in (1, 2):
            board = make_board(self.owner, thickness_m=inch * 0.0254)
            read_board(self.owner, board, 9.2, 9.2, 9.3, core=12, meter=self.meter)
            days.append(self.client.get(f"/w/{self.owner.workshop.slug}/stock/{board.tag}/drying/").context["answer"].days)
            self.assertIn("core is", text_of(self.page(board)))
            self.assertIn("ready to work about", text_of(self.page(board)))
        # Inside the wood alone time goes with the square of the thickness; the air at its faces takes its share.
        self.assertTrue(2 < days[1] / days[0] < 6, days)

    def test_a_ready_one_and_one_of_unknown_pace_are_not(self):
        read_board(self.owner, self.board, 9.2, 9.2, 9.3, meter=self.meter)
        self.assertNotContains(self.page(self.board), "ready to work about")
        wenge = make_board(self.owner, "wenge")
        read_board(self.owner, wenge, 16, 16, 16, meter=self.meter)
        self.assertNotContains(self.page(wenge), "ready to work about")
