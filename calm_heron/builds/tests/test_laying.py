"""Parts laid on boards, all at once and by hand."""

from unittest import mock

from django.urls import reverse

from calm_heron.builds import actions
from calm_heron.builds.layouts import allocation, laying, suggesting
from calm_heron.builds.models import Build, Cut, Held, letters
from calm_heron.builds.tests.bench import Bench, part
from calm_heron.stock.models import Piece
from calm_heron.workshops.refusals import Refused
from calm_heron.workshops.versions import Overtaken
from tests.factories import make_lot
from wood.builds import cut_order


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
            self.assertEqual(cut_order.faults(saw.planks[held.pk].board, saw.placed_on(held), self.build.kerf_m), {})
            self.assertIsNotNone(saw.sawn(held))

    def test_ends_marks_pith_and_sapwood_are_kept_out(self):
        board = self.board(has_pith=True, has_sapwood=True)
        laying.mark(self.owner, board, 1, "knot", 1.0, 1.1, 0.02, 0.06)
        kept_out = allocation.plank(self.build, board, 1, board.sawn_round.all()).kept_out
        self.assertEqual([item.kind for item in kept_out], ["knot", "end", "end", "pith", "sapwood", "sapwood"])
        self.add(part(count=1, width_m=0.03))
        self.lay()
        saw = allocation.saw(self.build)
        for cut in saw.cuts:
            self.assertFalse(any(cut.rect.meets(item.rect) for item in kept_out))

    def test_pith_and_sapwood_that_were_marked_are_not_assumed_as_well(self):
        board = self.board(has_pith=True)
        laying.mark(self.owner, board, 1, "pith", 0.0, 2.4, 0.0, 0.04)
        kept_out = allocation.plank(self.build, board, 1, board.sawn_round.all()).kept_out
        self.assertFalse(any(item.assumed for item in kept_out))

    def test_a_mark_takes_off_what_lay_there_and_says_so(self):
        board = self.board()
        self.add(part(count=1))
        self.lay()
        cut = Cut.objects.get()
        off = laying.mark(self.owner, board, 1, "knot", cut.x_m + 0.1, cut.x_m + 0.2, 0.0, 0.19)
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

    def test_by_hand_those_are_offered_that_nobody_holds(self):
        board, lot = self.board(), make_lot(self.owner, count=12)
        rails = self.add(part())
        self.assertEqual([name for _, name in allocation.names_of_free(self.build, rails, 60)], [board.tag, f"{lot.tag} no. 1"])
        other = actions.make_build(self.owner, name="Other", place=self.room)
        Held.objects.create(workshop=self.owner.workshop, build=other, piece=lot, nth=1)
        Held.objects.create(workshop=self.owner.workshop, build=self.build, piece=lot, nth=2)
        Held.objects.create(workshop=self.owner.workshop, build=other, piece=board, nth=1)
        self.assertEqual([name for _, name in allocation.names_of_free(self.build, rails, 60)], [f"{lot.tag} no. 3"])

    def test_no_board_is_held_twice(self):
        self.board()
        self.add(part(count=4))
        self.lay()
        other = actions.make_build(self.owner, name="Other", place=self.room)
        actions.add_parts(self.owner, other, [part()])
        other.refresh_from_db()
        missing = laying.lay_out(self.owner, other, other.version)
        self.assertEqual(list(missing.values()), [2])
        rail = other.parts.get()
        with self.assertRaisesMessage(Refused, "is held for Bench"):
            other.refresh_from_db()
            laying.place(self.owner, other, other.version, rail.pk, 0, Piece.objects.get(), 1, None, None)

    def test_two_who_lay_at_once_do_not_both_get_the_board(self):
        """The second finds the board free, and is told when it comes to hold it."""
        board = self.board()
        self.add(part())
        other = actions.make_build(self.owner, name="Other", place=self.room)
        seen = allocation.offered(self.build, list(self.build.parts.all()))
        Held.objects.create(workshop=self.owner.workshop, build=other, piece=board, nth=1)
        with mock.patch.object(suggesting, "offered", return_value=seen), self.assertRaisesMessage(Refused, "is held for Other"):
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
        return laying.place(self.owner, self.build, self.build.version, self.rail.pk, nth, piece or self.plank, 1, x, y)[0]

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
            (2.0, 0.0, "over the edge", "x_m"),
            (0.1, 0.15, "over the edge", "y_m"),
            (0.0, 0.1, "marked defect", "x_m"),
            (0.2, 0.0, "is cut already", "x_m"),
            (0.1, 0.0775, "kerf", "x_m"),
        ):
            with self.subTest((x, y)), self.assertRaisesMessage(Refused, words_of) as refusal:
                self.place(1, x, y)
            self.assertEqual(refusal.exception.field, field)
        self.assertEqual(Cut.objects.count(), 1)

    def test_a_part_wider_than_its_board_is_told(self):
        narrow = self.board(width_m=0.05)
        with self.assertRaisesMessage(Refused, "wide; this part needs"):
            self.place(0, None, None, narrow)
        with self.assertRaisesMessage(Refused, "Glue it from several boards") as refusal:
            self.add(part("Top", width_m=0.5, stock=self.plank))
        self.assertEqual(refusal.exception.field, "stock")

    def test_nowhere_left_is_told(self):
        short = self.board(length_m=0.68)
        self.place(0, None, None, short)
        self.build.refresh_from_db()
        laying.mark(self.owner, short, 1, "wane", 0.0, 0.68, 0.1, 0.2)
        with self.assertRaisesMessage(Refused, "left clear"):
            self.place(1, None, None, short)

    def test_taken_off_it_frees_its_board(self):
        cut = self.place(0, None, None)
        laying.take_off(self.owner, self.build, cut.pk)
        self.assertFalse(Held.objects.exists())
        with self.assertRaisesMessage(Refused, "on any board any more"):
            laying.take_off(self.owner, self.build, cut.pk)

    def test_whoever_is_second_is_told(self):
        seen = Build.objects.get(pk=self.build.pk).version
        laying.place(self.owner, self.build, seen, self.rail.pk, 0, self.plank, 1, None, None)
        with self.assertRaises(Overtaken):
            laying.place(self.owner, self.build, seen, self.rail.pk, 1, self.plank, 1, None, None)


class Dragged(Bench):
    """A piece that was dragged: only what changed comes back."""

    def setUp(self):
        self.client.force_login(self.owner.person)
        for _ in range(3):
            self.board(thickness_m=0.027, width_m=0.19, length_m=2.4)
        self.add(part(count=8))
        self.assertEqual(self.lay(), {})
        self.build.refresh_from_db()

    def drag(self, cut: Cut, x_m: float, board: str = "", **more):
        typed = {"piece": f"{cut.part_id}.{cut.nth}", "board": board or cut.board.key, "x_m": f"{x_m * 1000} mm", "y_m": "0"}
        typed |= {"version": Build.objects.get().version, "fragment": "boards", "once": f"{x_m}{board}"}
        address = reverse("place_piece", args=[self.owner.workshop.slug, self.build.pk])
        return self.client.post(address, typed | more)

    def test_the_boards_it_lay_and_lies_on_come_back_and_no_others(self):
        spare = self.board(thickness_m=0.027, width_m=0.19, length_m=2.4)
        cut = Cut.objects.select_related("board__piece").first()
        answer = self.drag(cut, 1.0, f"{spare.pk}.1")
        self.assertEqual(answer.status_code, 200)
        now = Cut.objects.get(part=cut.part_id, nth=cut.nth)
        self.assertEqual((now.board.piece, round(now.x_m, 6)), (spare, 1.0))
        ids = {board["held"].pk for board in answer.context["boards"]}
        self.assertTrue({now.board_id} <= ids <= {now.board_id, cut.board_id})
        self.assertContains(answer, f'data-version="{Build.objects.get().version}"')
        self.assertNotContains(answer, "<html")

    def test_what_cannot_be_is_refused_in_words_and_nothing_moves(self):
        cut = Cut.objects.select_related("board__piece").first()
        beyond = self.drag(cut, 14.0)
        self.assertEqual((beyond.status_code, beyond.headers["Content-Type"]), (422, "text/plain; charset=utf-8"))
        self.assertIn("over the edge", beyond.content.decode())
        stale = self.drag(cut, 1.2, version="1")
        self.assertEqual(stale.status_code, 422)
        for wrong in ({"piece": "x"}, {"board": "1"}, {"piece": "٣.1"}):
            self.assertEqual(self.drag(cut, 1.2, **wrong).status_code, 400)
        self.assertEqual(self.drag(cut, 1.2, piece="999999.0").status_code, 422)
        self.assertEqual(Cut.objects.get(pk=cut.pk).x_m, cut.x_m)
