"""Builds kept and answered for: parts, boards, cuts, readiness, sizes, and who may do what."""

from datetime import timedelta
from unittest import mock

import numpy as np
from django.core.exceptions import PermissionDenied
from django.db import connection
from django.test import TestCase
from django.test.utils import CaptureQueriesContext
from django.utils import timezone

from calm_heron.air import actions as air
from calm_heron.air.kinds import PlaceKind
from calm_heron.air.models import YearSource
from calm_heron.builds import actions, allocation, beginning, gluing, readiness, words
from calm_heron.builds.models import Build, BuildPart, Cut, Held, Mark, letters
from calm_heron.drying import forecasts, queries
from calm_heron.drying import hurry as hurrying
from calm_heron.judging import queries as judging
from calm_heron.logbook.models import Entry
from calm_heron.measuring.models import PieceMoisture
from calm_heron.stock.models import Piece, Status
from calm_heron.workshops.models import Role
from calm_heron.workshops.refusals import Refused
from calm_heron.workshops.versions import Overtaken
from tests.factories import make_board, make_lot, make_member, make_meter, make_owner, make_place, read_board
from wood.air.climate import pattern
from wood.air.rooms import DWELLING
from wood.builds import layout
from wood.drying.hurrying import Step
from wood.judging.readiness import State
from wood.movement import shrinkage

OAK = "white_oak"


def part(name: str = "Rail", **more) -> dict:
    figures = {"name": name, "count": 2, "length_m": 0.6, "width_m": 0.07, "thickness_m": 0.02, "species_key": OAK}
    return figures | more


class Bench(TestCase):
    """A workshop with a heated room whose year is known, and a good meter."""

    def setUp(self):
        self.owner = make_owner()
        yard = make_place(self.owner, name="Yard", kind=PlaceKind.YARD, rh_tolerance=0.01)
        air.keep_year(self.owner, yard, 0, YearSource.TYPED, "", pattern("mild_coast"))
        self.room = make_place(self.owner, name="Parlour", kind=PlaceKind.ROOM, rh_tolerance=0.01)
        air.keep_room(self.owner, self.room, 0, yard, DWELLING)
        self.meter = make_meter(self.owner, tolerance=0.003)
        self.build = actions.make_build(self.owner, name="Bench", place=self.room)
        self.mean = readiness.Sizing(self.build, readiness.about_of(self.build)).mean

    def board(self, moisture: float | None = None, **more) -> Piece:
        made = make_board(self.owner, more.pop("species", OAK), place=self.room, **more)
        if moisture is not None:
            read_board(self.owner, made, *[100 * moisture] * 5, meter=self.meter)
        return made

    def add(self, *parts: dict) -> list[BuildPart]:
        return actions.add_parts(self.owner, self.build, list(parts))

    def lay(self, **more) -> dict:
        self.build.refresh_from_db()
        return actions.lay_out(self.owner, self.build, self.build.version, **more)

    def stands(self) -> readiness.Stands:
        self.build.refresh_from_db()
        return readiness.stands(allocation.saw(self.build), self.owner)


class Laying(Bench):
    def test_parts_are_laid_on_boards_that_can_give_them(self):
        board, thin, other = self.board(), self.board(thickness_m=0.02), self.board(species="white_ash")
        self.add(part(), part("Top", count=1, length_m=1.2, width_m=0.15))
        self.assertEqual(self.lay(), {})
        saw = allocation.saw(self.build)
        self.assertEqual({held.piece for held in saw.held}, {board})
        self.assertEqual(len(saw.cuts), 3)
        self.assertNotIn(thin, [held.piece for held in saw.held])
        self.assertNotIn(other, [held.piece for held in saw.held])
        for held in saw.held:
            self.assertEqual(layout.faults(saw.planks[held.pk].board, saw.placed_on(held), self.build.kerf_m), {})
            self.assertIsNotNone(saw.sawn(held))

    def test_ends_marks_pith_and_sapwood_are_kept_out(self):
        board = self.board(has_pith=True, has_sapwood=True)
        actions.mark(self.owner, board, 1, "knot", 1.0, 1.1, 0.02, 0.06)
        kept = allocation.plank(self.build, board, 1, board.marks.all()).kept_out
        self.assertEqual([one.kind for one in kept], ["knot", "end", "end", "pith", "sapwood", "sapwood"])
        self.add(part(count=1, width_m=0.03))
        self.lay()
        saw = allocation.saw(self.build)
        for cut in saw.cuts:
            self.assertFalse(any(cut.rect.meets(one.rect) for one in kept))

    def test_pith_and_sapwood_that_were_marked_are_not_assumed_as_well(self):
        board = self.board(has_pith=True)
        actions.mark(self.owner, board, 1, "pith", 0.0, 2.4, 0.0, 0.04)
        kept = allocation.plank(self.build, board, 1, board.marks.all()).kept_out
        self.assertFalse(any(one.assumed for one in kept))

    def test_a_mark_takes_off_what_lay_there_and_says_so(self):
        board = self.board()
        self.add(part(count=1))
        self.lay()
        cut = Cut.objects.get()
        off = actions.mark(self.owner, board, 1, "knot", cut.x_m + 0.1, cut.x_m + 0.2, 0.0, 0.19)
        self.assertEqual(off, ["A"])
        self.assertFalse(Cut.objects.exists())

    def test_ready_wood_is_sawn_up_before_wood_that_must_wait(self):
        wet, dry = self.board(0.17), self.board(self.mean, length_m=2.0)
        self.add(part())
        self.lay()
        self.assertEqual([held.piece for held in self.build.held.all()], [dry])
        self.assertNotEqual(wet, dry)

    def test_a_lot_gives_as_many_boards_as_are_asked(self):
        lot = make_lot(self.owner, count=12, length_m=1.0, width_m=0.1)
        self.add(part(count=5, length_m=0.8, width_m=0.08))
        self.assertEqual(self.lay(), {})
        self.assertEqual(sorted(held.nth for held in self.build.held.all()), [1, 2, 3, 4, 5])
        self.assertTrue(all(held.name.startswith(f"{lot.tag} no. ") for held in self.build.held.select_related("piece")))

    def test_no_board_is_held_twice(self):
        self.board()
        self.add(part(count=4))
        self.lay()
        other = actions.make_build(self.owner, name="Other", place=self.room)
        actions.add_parts(self.owner, other, [part()])
        other.refresh_from_db()
        missing = actions.lay_out(self.owner, other, other.version)
        self.assertEqual(list(missing.values()), [2])
        rail = other.parts.get()
        with self.assertRaisesMessage(Refused, "is held for Bench"):
            other.refresh_from_db()
            actions.place(self.owner, other, other.version, rail, 0, Piece.objects.get(), 1, None, None)

    def test_two_who_lay_at_once_do_not_both_get_the_board(self):
        """The second finds the board free, and is told when it comes to hold it."""
        board = self.board()
        self.add(part())
        other = actions.make_build(self.owner, name="Other", place=self.room)
        seen = allocation.offered(self.build, list(self.build.parts.all()))
        Held.objects.create(workshop=self.owner.workshop, build=other, piece=board, nth=1)
        with mock.patch.object(allocation, "offered", return_value=seen), self.assertRaisesMessage(Refused, "is held for Other"):
            self.lay()
        self.assertFalse(Cut.objects.exists())

    def test_laying_the_rest_leaves_what_is_laid(self):
        self.board()
        self.add(part())
        self.lay()
        before = set(Cut.objects.values_list("pk", "x_m", "y_m"))
        self.board()
        self.add(part("Stile"))
        self.assertEqual(self.lay(), {})
        self.assertTrue(before <= set(Cut.objects.values_list("pk", "x_m", "y_m")))
        self.lay(anew=True)
        self.assertFalse(before & set(Cut.objects.values_list("pk", "x_m", "y_m")))

    def test_another_size_takes_its_pieces_off_and_lets_empty_boards_go(self):
        self.board()
        rail = self.add(part())[0]
        self.lay()
        self.build.refresh_from_db()
        actions.change_part(self.owner, rail, self.build.version, name="Long rail")
        self.assertEqual(Cut.objects.count(), 2)
        self.build.refresh_from_db()
        actions.change_part(self.owner, rail, self.build.version, length_m=0.7)
        self.assertFalse(Cut.objects.exists() or Held.objects.exists())

    def test_names_of_pieces(self):
        self.assertEqual([letters(n) for n in (1, 26, 27, 53)], ["A", "Z", "AA", "BA"])
        rail, top, side = self.add(part(), part("Top", count=1, staves=3, width_m=0.3), part("Side", count=2, staves=2, width_m=0.3))
        self.assertEqual([rail.piece_name(1), top.piece_name(2), side.piece_name(3)], ["A2", "B-3", "C2-2"])


class ByHand(Bench):
    def setUp(self):
        super().setUp()
        self.plank = self.board()
        self.rail = self.add(part())[0]

    def place(self, nth: int, x: float | None, y: float | None, piece: Piece | None = None) -> Cut:
        self.build.refresh_from_db()
        return actions.place(self.owner, self.build, self.build.version, self.rail, nth, piece or self.plank, 1, x, y)

    def test_a_piece_lies_where_it_was_laid_or_on_the_first_clear_place(self):
        first = self.place(0, 1.0, 0.05)
        self.assertEqual((first.x_m, first.y_m), (1.0, 0.05))
        second = self.place(1, None, None)
        self.assertAlmostEqual(second.x_m, self.build.end_m)
        self.assertAlmostEqual(second.y_m, 0.0)

    def test_it_moves_when_it_is_laid_again(self):
        self.place(0, 0.1, 0.0)
        self.place(0, 0.9, 0.0)
        self.assertEqual([cut.x_m for cut in Cut.objects.all()], [0.9])

    def test_each_wrong_place_is_told_beside_its_field(self):
        self.place(0, 0.1, 0.0)
        for x, y, words_of, field in (
            (2.0, 0.0, "over the edge", "x_m"), (0.1, 0.15, "over the edge", "y_m"), (0.0, 0.1, "kept out", "x_m"), (0.2, 0.0, "is cut already", "x_m"),
            (0.1, 0.0775, "that the saw takes", "x_m"),
        ):  # fmt: skip
            with self.subTest((x, y)), self.assertRaisesMessage(Refused, words_of) as told:
                self.place(1, x, y)
            self.assertEqual(told.exception.field, field)
        self.assertEqual(Cut.objects.count(), 1)

    def test_a_part_wider_than_its_board_is_told(self):
        narrow = self.board(width_m=0.05)
        with self.assertRaisesMessage(Refused, "wide; this part needs"):
            self.place(0, None, None, narrow)
        with self.assertRaisesMessage(Refused, "Glue it from several boards") as told:
            self.add(part("Top", width_m=0.5, stock=self.plank))
        self.assertEqual(told.exception.field, "stock")

    def test_nowhere_left_is_told(self):
        short = self.board(length_m=0.68)
        self.place(0, None, None, short)
        self.build.refresh_from_db()
        actions.mark(self.owner, short, 1, "wane", 0.0, 0.68, 0.1, 0.2)
        with self.assertRaisesMessage(Refused, "left clear"):
            self.place(1, None, None, short)

    def test_taken_off_it_frees_its_board(self):
        cut = self.place(0, None, None)
        actions.take_off(self.owner, self.build, cut.pk)
        self.assertFalse(Held.objects.exists())
        with self.assertRaisesMessage(Refused, "on no board any more"):
            actions.take_off(self.owner, self.build, cut.pk)

    def test_whoever_is_second_is_told(self):
        seen = Build.objects.get(pk=self.build.pk).version
        actions.place(self.owner, self.build, seen, self.rail, 0, self.plank, 1, None, None)
        with self.assertRaises(Overtaken):
            actions.place(self.owner, self.build, seen, self.rail, 1, self.plank, 1, None, None)


class Keeping(Bench):
    def test_only_makers_build(self):
        helper = make_member(self.owner, Role.HELPER)
        for act in (
            lambda: actions.make_build(helper, name="x", place=self.room), lambda: actions.add_parts(helper, self.build, [part()]),
            lambda: actions.lay_out(helper, self.build, 1), lambda: actions.delete_build(helper, self.build, let_go=True),
        ):  # fmt: skip
            with self.assertRaises(PermissionDenied):
                act()

    def test_a_day_that_is_past_and_a_name_that_is_taken_are_told(self):
        with self.assertRaisesMessage(Refused, "That day is past") as told:
            actions.make_build(self.owner, name="Late", place=self.room, due=timezone.localdate() - timedelta(days=1))
        self.assertEqual(told.exception.field, "due")
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
        with self.assertRaisesMessage(Refused, "Say that its wood may go back") as told:
            actions.delete_build(self.owner, self.build, let_go=False)
        self.assertEqual(told.exception.field, "let_go")
        actions.delete_build(self.owner, self.build, let_go=True)
        self.assertFalse(Build.objects.exists() or Held.objects.exists())

    def test_once_it_is_made_its_boards_are_used_and_the_others_free(self):
        board = self.board()
        self.add(part())
        self.lay()
        lot = make_lot(self.owner, count=5, length_m=1.0)
        Held.objects.create(workshop=self.owner.workshop, build=self.build, piece=lot, nth=1)
        self.build.refresh_from_db()
        actions.finish_build(self.owner, self.build, self.build.version)
        board.refresh_from_db()
        lot.refresh_from_db()
        self.assertEqual((board.status, lot.status), (Status.USED, Status.IN_STOCK))
        self.assertEqual([held.piece for held in self.build.held.all()], [board])
        with self.assertRaisesMessage(Refused, "is done"):
            self.add(part())

    def test_every_deed_stands_in_the_log_in_words(self):
        from calm_heron.logbook.words import describe

        board = self.board()
        rail = self.add(part())[0]
        self.lay()
        actions.mark(self.owner, board, 1, "knot", 2.2, 2.3, 0.0, 0.1)
        actions.unmark(self.owner, Mark.objects.get().pk)
        actions.take_off(self.owner, self.build, Cut.objects.first().pk)
        actions.delete_part(self.owner, rail)
        told = [describe(entry, self.owner.workshop.system) for entry in Entry.objects.filter(kind="builds")]
        self.assertEqual(len(told), 7)
        self.assertTrue(all(told))

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
        found = self.stands()
        self.assertEqual([one.state for one in found.parts], [State.READY, State.WAIT, None])
        self.assertEqual(words.told(found).word, "Wood is missing")

    def test_a_board_is_judged_as_on_its_own_page(self):
        self.add(part("Rail", stock=self.dry), part("Top", stock=self.wet, count=1))
        found = self.stands()
        for wood in found.woods:
            verdict = judging.judged(wood.piece, found.about.purpose, found.about.target)
            self.assertEqual(wood.state, verdict.state)

    def test_all_ready_is_said(self):
        self.add(part("Rail", stock=self.dry))
        self.assertEqual(words.told(self.stands()).word, "Begin")

    def test_one_board_that_waits_gives_the_build_its_own_day(self):
        self.add(part("Rail", stock=self.dry), part("Top", stock=self.wet, count=1))
        found = self.stands()
        asked, answer = forecasts.of_piece(self.wet, found.about, self.owner)
        self.assertAlmostEqual(found.latest.days, answer.days, 6)
        self.assertGreaterEqual(found.latest.high, answer.high - 1e-6)
        self.assertIsNotNone(asked.aim)

    def test_two_that_wait_are_later_than_the_latest_of_them(self):
        second = self.board(0.15)
        self.add(part("Rail", stock=second), part("Top", stock=self.wet, count=1))
        found = self.stands()
        alone = max(forecasts.of_piece(piece, found.about, self.owner)[1].days for piece in (second, self.wet))
        self.assertGreater(found.latest.days, alone)
        self.assertTrue(found.latest.low <= found.latest.days <= found.latest.high)

    def test_the_day_comes_nearer_as_days_pass(self):
        self.add(part("Top", stock=self.wet, count=1))
        first = self.stands().latest.days
        saw = allocation.saw(self.build)
        with mock.patch.object(forecasts, "_is_stale", return_value=False):
            later = readiness.stands(saw, self.owner, timezone.localdate() + timedelta(days=5))
        self.assertAlmostEqual(first - later.latest.days, 5, 6)

    def test_what_was_not_read_makes_no_day(self):
        unread = self.board()
        self.add(part("Rail", stock=unread))
        found = self.stands()
        self.assertIsNone(found.latest)
        self.assertIn(unread.tag, words.told(found).reason)

    def test_a_board_that_is_gone_is_named(self):
        self.add(part("Rail", stock=self.dry))
        self.lay()
        Piece.objects.filter(pk=self.dry.pk).update(status=Status.SCRAPPED)
        found = self.stands()
        self.assertFalse(found.is_ready)
        self.assertIn(self.dry.tag, words.told(found).reason)

    def test_late_is_said_against_the_day_it_is_due(self):
        self.add(part("Top", stock=self.wet, count=1))
        Build.objects.filter(pk=self.build.pk).update(due=timezone.localdate() + timedelta(days=3))
        found = self.stands()
        self.assertGreater(found.late_days, 0)
        self.assertIn("before its wood will be", words.told(found).reason)

    def test_queries_do_not_grow_with_parts(self):
        self.add(*[part(f"p{n}", count=1, stock=self.dry) for n in range(3)])
        self.stands()
        with CaptureQueriesContext(
            connection,
        ) as few:
            self.stands()
        self.add(*[part(f"q{n}", count=1, stock=self.wet if n % 2 else self.dry) for n in range(40)])
        self.stands()
        with CaptureQueriesContext(connection) as many:
            self.stands()
        self.assertLessEqual(len(many), len(few) + 3)

    def test_forecasts_beyond_those_worked_out_at_once_are_pending(self):
        self.add(part("Top", stock=self.wet, count=1))
        with mock.patch.object(readiness, "AT_ONCE", 0):
            found = self.stands()
        self.assertEqual(found.pending, (self.wet,))
        self.assertEqual(words.told(found).word, "Being worked out")


class Sizes(Bench):
    def test_cut_sizes_return_to_the_wanted_ones_at_the_years_mean(self):
        for moisture in (self.mean - 0.015, self.mean, self.mean + 0.03):
            board = self.board(moisture, ring_angle_deg=0.0)
            one = self.add(part(f"at {moisture:.3f}", stock=board))[0]
            found = next(stands for stands in self.stands().parts if stands.part.pk == one.pk).sized
            read = PieceMoisture.objects.get(piece=board).mean
            figures = shrinkage.of_species(board.species)
            back = found.cut.width_m * shrinkage.size_ratio(figures.tangential, read, self.mean, figures.fibre_saturation)
            self.assertLess(abs(back - 0.07), 0.0254 / 64)

    def test_why_there_is_no_size_is_said(self):
        unread, wenge = self.board(), self.board(0.1, species="wenge")
        rail, odd, none = self.add(part("a", stock=unread), part("b", species_key="wenge", stock=wenge), part("c"))
        by = {one.part.pk: one for one in self.stands().parts}
        self.assertIn("not read yet", by[rail.pk].unsized)
        self.assertIn("No board was chosen", by[none.pk].unsized)
        self.assertTrue(by[odd.pk].sized is not None or "is not known" in by[odd.pk].unsized)

    def test_a_place_without_a_year_gives_no_size(self):
        bare = make_place(self.owner, name="Nowhere", kind=PlaceKind.ROOM)
        other = actions.make_build(self.owner, name="Other", place=bare)
        actions.add_parts(self.owner, other, [part(stock=self.board(0.1))])
        found = readiness.stands(allocation.saw(other), self.owner)
        self.assertIn("The year of Nowhere is not known", found.parts[0].unsized)


class Hurried(Bench):
    def setUp(self):
        super().setUp()
        self.wet = self.board(0.15, thickness_m=0.03)
        self.add(part("Top", stock=self.wet, count=1, length_m=1.0, width_m=0.15))

    def test_the_plans_days_are_those_of_the_acclimation_question(self):
        found = self.stands()
        told = beginning.begun(found, self.owner, 0.0015, 0.05)
        board = told.boards[0]
        asked = forecasts.usual_question(self.wet, PieceMoisture.objects.get(piece=self.wet), found.about, self.owner)
        ways = {way.step: way.days for way in hurrying.hurrying.ways(asked.question, board.skim_m, board.rough_m)}
        self.assertEqual(set(board.days), set(ways))
        for step, days in board.days.items():
            self.assertAlmostEqual(days, ways[step], 6, step)

    def test_a_build_of_one_board_can_be_begun_when_that_board_can(self):
        found = self.stands()
        told = beginning.begun(found, self.owner, 0.0015, 0.05)
        for way in told.ways:
            self.assertAlmostEqual(way.latest.days, told.boards[0].days[way.step], 6)
        usual = next(way for way in told.ways if way.step is Step.STICKERED)
        self.assertAlmostEqual(usual.latest.days, found.latest.days, 6)

    def test_no_more_is_skimmed_than_the_part_can_spare(self):
        found = self.stands()
        board = beginning.begun(found, self.owner, 0.02, 0.05).boards[0]
        self.assertGreaterEqual(board.left_m, board.part_m + beginning.LAST_PASS_M - 1e-9)
        self.assertAlmostEqual(board.rough_m, 1.0 + 0.0254 + 0.1, 6)

    def test_wet_wood_is_not_hurried(self):
        Build.objects.all().delete()
        build = actions.make_build(self.owner, name="Wet", place=self.room)
        actions.add_parts(self.owner, build, [part(stock=self.board(0.24))])
        told = beginning.begun(readiness.stands(allocation.saw(build), self.owner), self.owner, 0.0015, 0.05)
        self.assertEqual((told.word, told.ways), ("Not yet", []))

    def test_a_floor_is_not_cut_nor_skimmed(self):
        Build.objects.filter(pk=self.build.pk).update(use_key="strip")
        subfloor = make_board(self.owner, "douglas_fir_coast", kind="subfloor", place=self.room)
        read_board(self.owner, subfloor, 10, 10, 10, meter=self.meter)
        told = beginning.begun(self.stands(), self.owner, 0.0015, 0.05)
        self.assertIn("level of the house’s year", told.reason)
        self.assertFalse({Step.CUT, Step.SKIMMED} & set(told.boards[0].days))

    def test_nothing_is_hurried_where_nothing_waits(self):
        Build.objects.all().delete()
        build = actions.make_build(self.owner, name="Dry", place=self.room)
        actions.add_parts(self.owner, build, [part(stock=self.board(self.mean))])
        self.assertIsNone(beginning.begun(readiness.stands(allocation.saw(build), self.owner), self.owner, 0.0015, 0.05))

    def test_the_same_answers_are_those_of_the_drying_pages(self):
        """Each way is answered by the very runs that any page of a drying would ask."""
        told = beginning.begun(self.stands(), self.owner, 0.0015, 0.05)
        with mock.patch.object(queries, "answer", side_effect=AssertionError("asked anew")):
            again = beginning.begun(self.stands(), self.owner, 0.0015, 0.05)
        self.assertEqual([way.when for way in told.ways], [way.when for way in again.ways])


class Gluing(Bench):
    def panel(self, *moistures: float, **more) -> tuple[BuildPart, readiness.Stands]:
        for moisture in moistures:
            self.board(moisture, length_m=0.75, width_m=0.12)
        top = self.add(part("Top", count=1, staves=len(moistures), width_m=0.1 * len(moistures), **more))[0]
        self.lay()
        return top, self.stands()

    def told(self, top: BuildPart, found: readiness.Stands) -> gluing.GlueUpTold:
        staves = gluing.staves_of(top, 0, found.saw)
        return gluing.told(top, staves, gluing.usual_order(top, staves), found, self.owner.workshop.system)

    def test_boards_within_a_point_are_alike(self):
        told = self.told(*self.panel(self.mean, self.mean + 0.003, self.mean))
        self.assertEqual(told.word, "Alike")
        self.assertEqual(len(told.schools), 3)
        self.assertTrue(1 <= told.glue_days <= 20)

    def test_wood_that_must_wait_is_not_glued_however_alike(self):
        self.assertEqual(self.told(*self.panel(0.16, 0.16)).word, "Not yet")

    def test_unread_boards_cannot_be_told(self):
        top, found = self.panel(self.mean, self.mean)
        PieceMoisture.objects.filter(piece=found.saw.held[0].piece).delete()
        self.assertEqual(self.told(top, self.stands()).word, "Cannot tell")

    def test_its_order_is_kept_and_whoever_is_second_is_told(self):
        top, _ = self.panel(self.mean, self.mean, self.mean)
        order = [[2, True, False], [0, False, True], [1, True, False]]
        kept = actions.glue(self.owner, top, 0, None, order, [[0, 2]], note="runs on")
        self.assertEqual(kept.order, order)
        again = actions.glue(self.owner, top, 0, kept.version, order[::-1], [])
        with self.assertRaises(Overtaken):
            actions.glue(self.owner, top, 0, again.version - 1, order, [])

    def test_a_bookmatched_pair_stays_side_by_side(self):
        top, _ = self.panel(self.mean, self.mean, self.mean)
        with self.assertRaisesMessage(Refused, "bookmatched pair"):
            actions.glue(self.owner, top, 0, None, [[0, True, False], [1, True, False], [2, True, False]], [[0, 2]])
        with self.assertRaisesMessage(Refused, "lies in it once"):
            actions.glue(self.owner, top, 0, None, [[0, True, False]] * 3, [])

    def test_the_drawn_section_is_that_of_its_boards(self):
        top, found = self.panel(self.mean, self.mean)
        told = self.told(top, found)
        for stave, laid in zip(told.staves, told.section.laid, strict=True):
            core = gluing.core_stave(top, stave, laid.section.bark_side_up, False)
            alone = core.settled(min(told.now, 0.4), told.then)
            self.assertAlmostEqual(float(np.ptp(laid.section.after[:, 0])), float(np.ptp(alone.after[:, 0])), 9)
