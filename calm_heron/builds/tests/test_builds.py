"""Builds kept, and how ready they are."""

from datetime import timedelta
from unittest import mock

from django.core.exceptions import PermissionDenied
from django.db import connection
from django.test.utils import CaptureQueriesContext
from django.urls import reverse
from django.utils import timezone

from calm_heron.air.kinds import PlaceKind
from calm_heron.answers.saved import read_once
from calm_heron.builds import actions, readiness, words
from calm_heron.builds.bench import beginning
from calm_heron.builds.layouts import allocation, laying, sawing
from calm_heron.builds.models import Build, BuildPart, Cut, Held, Mark
from calm_heron.builds.readiness import about_of
from calm_heron.builds.tests.bench import Bench, part
from calm_heron.drying import forecasts
from calm_heron.judging import queries as judging
from calm_heron.logbook.models import Entry
from calm_heron.measuring.models import PieceMoisture
from calm_heron.stock.models import Piece, Status
from calm_heron.workshops.models import Role
from calm_heron.workshops.refusals import Refused
from tests.factories import make_lot, make_member, make_place
from tests.pages import text_of
from wood.drying.speeding_up import Step
from wood.judging.readiness import State
from wood.movement import shrinkage


class Keeping(Bench):
    def test_only_makers_build(self):
        helper = make_member(self.owner, Role.HELPER)
        for act in (
            lambda: actions.make_build(helper, name="x", place=self.room),
            lambda: actions.add_parts(helper, self.build, [part()]),
            lambda: laying.lay_out(helper, self.build, 1),
            lambda: actions.delete_build(helper, self.build, let_go=True),
        ):
            with self.assertRaises(PermissionDenied):
                act()

    def test_a_day_that_is_past_and_a_name_that_is_taken_are_told(self):
        with self.assertRaisesMessage(Refused, "That day is past") as refusal:
            actions.make_build(self.owner, name="Late", place=self.room, due=timezone.localdate() - timedelta(days=1))
        self.assertEqual(refusal.exception.field, "due")
        with self.assertRaisesMessage(Refused, "called “Bench” already"):
            actions.make_build(self.owner, name="Bench", place=self.room)

    def test_a_build_whose_day_has_passed_can_still_be_changed(self):
        Build.objects.filter(pk=self.build.pk).update(due=timezone.localdate() - timedelta(days=3))
        self.build.refresh_from_db()
        actions.change_build(self.owner, self.build, self.build.version, name="Late bench", due=self.build.due)
        self.assertEqual(Build.objects.get().name, "Late bench")

    def test_it_is_not_deleted_with_its_wood_unless_that_is_meant(self):
        self.board()
        self.add(part())
        self.lay()
        with self.assertRaisesMessage(Refused, "Say that its wood may go back") as refusal:
            actions.delete_build(self.owner, self.build, let_go=False)
        self.assertEqual(refusal.exception.field, "let_go")
        actions.delete_build(self.owner, self.build, let_go=True)
        self.assertFalse(Build.objects.exists() or Held.objects.exists())

    def test_once_it_is_made_its_boards_are_used_and_the_others_free(self):
        board = self.board()
        self.add(part())
        self.lay()
        lot = make_lot(self.owner, count=5, length_m=1.0)
        Held.objects.create(workshop=self.owner.workshop, build=self.build, piece=lot, nth=1)
        self.build.refresh_from_db()
        sawing.finish(self.owner, self.build, self.build.version)
        board.refresh_from_db()
        lot.refresh_from_db()
        self.assertEqual((board.status, lot.status), (Status.USED, Status.IN_STOCK))
        self.assertEqual([held.piece for held in self.build.held.all()], [board])
        with self.assertRaisesMessage(Refused, "is done"):
            self.add(part())

    def test_a_board_that_is_put_back_after_all_may_be_held_again(self):
        board = self.board()
        self.add(part())
        self.lay()
        self.build.refresh_from_db()
        sawing.finish(self.owner, self.build, self.build.version)
        Piece.objects.filter(pk=board.pk).update(status=Status.IN_STOCK)
        other = actions.make_build(self.owner, name="Other", place=self.room)
        actions.add_parts(self.owner, other, [part()])
        other.refresh_from_db()
        self.assertEqual(laying.lay_out(self.owner, other, other.version), {})

    def test_of_many_parts_the_one_that_cannot_be_had_is_named(self):
        thin = self.board(thickness_m=0.01)
        with self.assertRaisesMessage(Refused, "Stile: "):
            self.add(part(), part("Stile", stock=thin))

    def test_every_deed_stands_in_the_log_in_words(self):
        from calm_heron.logbook.words import describe

        board = self.board()
        rail = self.add(part())[0]
        self.lay()
        laying.mark(self.owner, board, 1, "knot", 2.2, 2.3, 0.0, 0.1)
        laying.unmark(self.owner, Mark.objects.get().pk)
        laying.take_off(self.owner, self.build, Cut.objects.first().pk)
        actions.delete_part(self.owner, rail)
        lines = [describe(entry, self.owner.workshop.system) for entry in Entry.objects.filter(kind="builds")]
        self.assertEqual(len(lines), 7)
        self.assertTrue(all(lines))

    def test_too_much_is_told_and_nothing_is_kept_of_it(self):
        with self.assertRaisesMessage(Refused, "Make two builds of it"):
            self.add(*[part(f"p{n}", count=1) for n in range(201)])
        with self.assertRaisesMessage(Refused, "pieces in all"):
            self.add(part(count=400), part("b", count=300))
        self.assertFalse(BuildPart.objects.exists())

    def test_parts_move_up_when_one_is_taken_out(self):
        first, _, third = self.add(part("a"), part("b"), part("c"))
        actions.delete_part(self.owner, first)
        third.refresh_from_db()
        self.assertEqual(third.letter, "B")


class Ready(Bench):
    def setUp(self):
        super().setUp()
        self.dry = self.board(self.mean)
        self.wet = self.board(0.15)

    def test_parts_are_as_ready_as_their_boards(self):
        self.add(part("Rail", stock=self.dry), part("Top", stock=self.wet, count=1), part("Shelf"))
        state = self.stands()
        self.assertEqual([part.state for part in state.parts], [State.READY, State.WAIT, None])
        self.assertEqual(words.build_words(state).word, "Wood is missing")

    def test_a_board_is_judged_as_on_its_own_page(self):
        self.add(part("Rail", stock=self.dry), part("Top", stock=self.wet, count=1))
        state = self.stands()
        for wood in state.woods:
            verdict = judging.judged(wood.piece, state.about.purpose, state.about.target)
            self.assertEqual(wood.state, verdict.state)

    def test_all_ready_is_said(self):
        self.add(part("Rail", stock=self.dry))
        self.assertEqual(words.build_words(self.stands()).word, "Start")

    def test_one_board_that_waits_gives_the_build_its_own_day(self):
        self.add(part("Rail", stock=self.dry), part("Top", stock=self.wet, count=1))
        state = self.stands()
        question, answer = forecasts.of_piece(self.wet, state.about, self.owner)
        self.assertAlmostEqual(state.latest.days, answer.days, 6)
        self.assertGreaterEqual(state.latest.high, answer.high - 1e-6)
        self.assertIsNotNone(question.place_target)

    def test_a_close_board_has_one_day_everywhere(self):
        about, boards = about_of(self.build), (self.board(self.mean + more) for more in (0.008, 0.010, 0.012, 0.014, 0.016))
        close = next(board for board in boards if judging.judged(board, about.purpose, about.target).state is State.CLOSE)
        self.add(part("Rail", stock=close))
        state = self.stands()
        _, answer = forecasts.of_piece(close, state.about, self.owner)
        self.assertIs(state.parts[0].state, State.CLOSE)
        self.assertAlmostEqual(state.latest.days, answer.days, 6)
        day = words.when_of(state.parts[0], state.today).removeprefix("about ")
        start = beginning.begun(state, self.owner, 0.0015, 0.05)
        self.assertEqual([way.when for way in start.ways if way.step is Step.STICKERED], [day])
        self.client.force_login(self.owner.person)
        for name, more in (("build", ""), ("piece", f"?{state.about.question}"), ("piece_drying", f"?{state.about.question}")):
            which = self.build.pk if name == "build" else close.tag
            page = text_of(self.client.get(reverse(name, args=[self.owner.workshop.slug, which]) + more))
            self.assertIn(day, page, name)

    def test_two_that_wait_are_later_than_the_latest_of_them(self):
        second = self.board(0.15)
        self.add(part("Rail", stock=second), part("Top", stock=self.wet, count=1))
        state = self.stands()
        alone = max(forecasts.of_piece(piece, state.about, self.owner)[1].days for piece in (second, self.wet))
        self.assertGreater(state.latest.days, alone)
        self.assertTrue(state.latest.low <= state.latest.days <= state.latest.high)

    def test_the_day_comes_nearer_as_days_pass(self):
        self.add(part("Top", stock=self.wet, count=1))
        first = self.stands().latest.days
        saw = allocation.saw(self.build)
        with mock.patch.object(forecasts, "_is_stale", return_value=False):
            later = readiness.state_of(saw, self.owner, timezone.localdate() + timedelta(days=5))
        self.assertAlmostEqual(first - later.latest.days, 5, 6)

    def test_what_was_not_read_makes_no_day(self):
        unread = self.board()
        self.add(part("Rail", stock=unread))
        state = self.stands()
        self.assertIsNone(state.latest)
        self.assertIn(unread.tag, words.build_words(state).reason)

    def test_a_board_that_is_gone_is_named(self):
        self.add(part("Rail", stock=self.dry))
        self.lay()
        Piece.objects.filter(pk=self.dry.pk).update(status=Status.SCRAPPED)
        state = self.stands()
        self.assertFalse(state.is_ready)
        self.assertIn(self.dry.tag, words.build_words(state).reason)

    def test_late_is_said_against_the_day_it_is_due(self):
        self.add(part("Top", stock=self.wet, count=1))
        Build.objects.filter(pk=self.build.pk).update(due=timezone.localdate() + timedelta(days=3))
        state = self.stands()
        self.assertGreater(state.late_days, 0)
        self.assertIn("before its wood is ready", words.build_words(state).reason)

    def test_queries_do_not_grow_with_parts(self):
        self.add(*[part(f"p{n}", count=1, stock=self.wet if n % 2 else self.dry) for n in range(3)])
        self.stands()
        # As in a request that only reads.
        with read_once(), CaptureQueriesContext(connection) as few:
            self.stands()
        self.add(*[part(f"q{n}", count=1, stock=self.wet if n % 2 else self.dry) for n in range(40)])
        self.stands()
        with read_once(), CaptureQueriesContext(connection) as many:
            self.stands()
        self.assertLessEqual(len(many), len(few))

    def test_forecasts_beyond_those_worked_out_at_once_are_pending(self):
        self.add(part("Top", stock=self.wet, count=1))
        with mock.patch.object(readiness, "AT_ONCE", 0):
            state = self.stands()
        self.assertEqual(state.pending, (self.wet,))
        self.assertEqual(words.build_words(state).word, "Being worked out")


class Sizes(Bench):
    def test_cut_sizes_return_to_the_wanted_ones_at_the_years_mean(self):
        for moisture in (self.mean - 0.015, self.mean, self.mean + 0.03):
            board = self.board(moisture, ring_angle_deg=0.0)
            first = self.add(part(f"at {moisture:.3f}", stock=board))[0]
            sized = next(stands for stands in self.stands().parts if stands.part.pk == first.pk).sized
            read = PieceMoisture.objects.get(piece=board).mean
            figures = shrinkage.of_species(board.species)
            back = sized.cut.width_m * shrinkage.size_ratio(figures.tangential, read, self.mean, figures.fibre_saturation)
            self.assertLess(abs(back - 0.07), 0.0254 / 64)

    def test_why_there_is_no_size_is_said(self):
        unread, wenge = self.board(), self.board(0.1, species="wenge")
        rail, odd, none = self.add(part("a", stock=unread), part("b", species_key="wenge", stock=wenge), part("c"))
        by = {part.part.pk: part for part in self.stands().parts}
        self.assertIn("not read yet", by[rail.pk].unsized)
        self.assertIn("No board was chosen", by[none.pk].unsized)
        self.assertTrue(by[odd.pk].sized is not None or "is not known" in by[odd.pk].unsized)

    def test_a_place_without_a_year_gives_no_size(self):
        bare = make_place(self.owner, name="Nowhere", kind=PlaceKind.ROOM)
        other = actions.make_build(self.owner, name="Other", place=bare)
        actions.add_parts(self.owner, other, [part(stock=self.board(0.1))])
        state = readiness.state_of(allocation.saw(other), self.owner)
        self.assertIn("The year of Nowhere is not known", state.parts[0].unsized)

    def test_outdoors_the_heartwood_of_each_wood_is_named(self):
        self.add(part("Leg"), part("Seat", species_key="american_beech"))
        self.assertEqual(words.outdoor_notes(self.stands()), [])
        Build.objects.filter(pk=self.build.pk).update(use_key="outdoors", sapwood_out=False)
        notes = " ".join(words.outdoor_notes(self.stands()))
        for said in (
            "heartwood of white oak is resistant",
            "beech is hardly resistant",
            "choose another wood",
            "Sapwood isn’t kept out",
            "feet off the wet ground",
        ):
            self.assertIn(said, notes)
