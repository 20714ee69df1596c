"""Parts out of boards of their thickness, boards sawn, what is left of them kept, and a build that ends: asked first, and taken back."""

from django.urls import reverse

from calm_heron.builds import actions
from calm_heron.builds.layouts import allocation, laying, layout_words, sawing
from calm_heron.builds.models import Cut, Held, Mark, Offcut, Sawing
from calm_heron.builds.tests.bench import Bench, part
from calm_heron.measuring.wood_now import of_piece
from calm_heron.stock import actions as stock
from calm_heron.stock.models import Piece, Status
from calm_heron.workshops.refusals import Refused
from tests.factories import make_lot, read_board
from tests.pages import text_of
from wood.units import INCH, INCH_M


class AtTheBench(Bench):
    def setUp(self):
        self.client.force_login(self.owner.person)

    def at(self, name, *args):
        return reverse(name, args=[self.owner.workshop.slug, self.build.pk, *args])

    def known(self) -> allocation.Saw:
        self.build.refresh_from_db()
        return allocation.saw(self.build)

    def boards_of(self, name: str) -> set[str]:
        return {cut.board.piece.tag for cut in Cut.objects.filter(part__name=name).select_related("board__piece")}


class Thickness(AtTheBench):
    def test_thin_parts_come_from_thin_boards_and_not_from_the_slab(self):
        slab = self.board(thickness_m=2.5 * INCH_M, width_m=0.5, length_m=2.4)
        thin = [self.board(thickness_m=1.0 * INCH_M, width_m=0.18, length_m=2.4) for _ in range(3)]
        self.add(part("Apron", thickness_m=0.75 * INCH_M, count=4), part("Leg", thickness_m=0.05, width_m=0.05, count=4))
        self.assertEqual(self.lay(), {})
        self.assertTrue(self.boards_of("Apron") <= {board.tag for board in thin})
        self.assertEqual(self.boards_of("Leg"), {slab.tag})

    def test_where_nothing_else_fits_the_slab_is_resawn_and_no_leaf_is_lost(self):
        slab = self.board(thickness_m=2.5 * INCH_M, width_m=0.2, length_m=2.4)
        self.add(part("Apron", thickness_m=0.75 * INCH_M, count=5))
        self.assertEqual(self.lay(), {})
        cuts = list(Cut.objects.order_by("nth"))
        self.assertEqual({(cut.leaves, cut.board.piece) for cut in cuts}, {(2, slab)})
        self.assertEqual(sorted(cut.nth for cut in cuts), [0, 1, 2, 3, 4])
        known = self.known()
        blanks = known.blanks_on(known.held[0])
        self.assertEqual(sorted(len(blank) for blank in blanks), [1, 2, 2])
        # Leaves of one blank have one place, and no saw cut lies between them.
        self.assertIsNotNone(known.sawn(known.held[0]))
        lines = layout_words.resaws(known, known.held[0], INCH)
        self.assertEqual(len(lines), 3)
        self.assertIn("into 2 leaves of 1 3/16 in", lines[0])
        page = text_of(self.client.get(self.at("build_layout")))
        self.assertIn("Resaw the blank of", page)
        self.assertIn("By volume", page)

    def test_a_thicker_board_is_planed_away_only_in_the_end(self):
        thick = self.board(thickness_m=1.75 * INCH_M, width_m=0.2, length_m=2.4)
        self.add(part("Apron", thickness_m=0.75 * INCH_M, count=1))
        self.assertEqual(self.lay(), {})
        self.assertEqual((self.boards_of("Apron"), Cut.objects.get().leaves), ({thick.tag}, 1))

    def test_the_thickest_piece_that_the_stock_may_hold_stops_no_layout(self):
        beam = self.board()
        Piece.objects.filter(pk=beam.pk).update(thickness_m=2.0)
        self.add(part(count=1, width_m=0.05))
        self.lay()
        page = self.client.get(self.at("build_layout"))
        self.assertContains(page, beam.tag)

    def test_volume_and_face_are_told_apart(self):
        self.board(thickness_m=2.5 * INCH_M, width_m=0.2, length_m=1.4)
        self.add(part("Apron", thickness_m=0.75 * INCH_M, count=2, stock=Piece.objects.get()))
        self.lay()
        known = self.known()
        said = layout_words.describe(known, [known.sawn(held) for held in known.held], INCH).reason
        volume = sum(cut.rect.area_m2 for cut in known.cuts) * known.parts[0].rough_m[2] / (2.5 * INCH_M * 0.2 * 1.4)
        self.assertIn(f"By volume {volume * 100:.0f}% of the wood", said)

    def test_what_is_missing_becomes_a_list_for_the_rack(self):
        self.board(thickness_m=1.0 * INCH_M, width_m=0.09, length_m=0.8)
        self.add(part("Apron", thickness_m=0.75 * INCH_M, count=3))
        self.lay()
        bought = layout_words.to_buy(self.known(), INCH)
        self.assertEqual([(item.size, item.wood, item.pieces) for item in bought], [("4/4", "white oak", 2)])
        rough = self.known().parts[0].rough_m
        self.assertAlmostEqual(bought[0].volume_m3, 2 * rough[0] * rough[1] * INCH_M * 1.3)
        page = self.client.get(self.at("build_layout"))
        self.assertContains(page, "To buy for it")
        self.assertEqual(self.client.get(bought[0].rack).status_code, 200)


class Sawn(AtTheBench):
    def laid(self, **more) -> Piece:
        board = self.board(thickness_m=0.027, width_m=0.19, length_m=2.4, **more)
        self.add(part())
        self.assertEqual(self.lay(), {})
        self.build.refresh_from_db()
        return board

    def test_sawn_as_planned_is_one_tap_and_its_offcuts_are_pieces_of_the_stock(self):
        board = self.laid(moisture=0.091)
        held = Held.objects.get()
        left = sawing.left_of(self.known(), held)
        answer = self.client.post(self.at("board_sawn", held.pk), {"version": self.build.version, "once": "a"}, follow=True)
        board.refresh_from_db()
        self.assertEqual(board.status, Status.USED)
        offcuts = [offcut.piece for offcut in Offcut.objects.select_related("piece").order_by("pk")]
        self.assertEqual(len(offcuts), len(left))
        self.assertGreater(len(offcuts), 0)
        first, rect = offcuts[0], left[0].rect
        self.assertAlmostEqual(first.length_m, rect.x1 - rect.x0)
        self.assertAlmostEqual(first.width_m, rect.y1 - rect.y0)
        self.assertEqual((first.species_key, first.thickness_m, first.place), (board.species_key, board.thickness_m, board.place))
        self.assertEqual(first.source, f"left of {board.tag}")
        # As wet as its board was, until somebody reads it.
        self.assertAlmostEqual(of_piece(first).moisture, 0.091, delta=0.002)
        self.assertIn(f"{first.tag}", text_of(answer))
        self.assertContains(answer, "Their labels")
        self.assertIn("sawn", text_of(self.client.get(reverse("log", args=[self.owner.workshop.slug]))))
        # Its parts are cut: the build does not ask after the board any more.
        self.assertEqual(self.stands().sold_or_used, [])

    def test_it_is_sawn_once_however_often_it_is_said(self):
        self.laid()
        held = Held.objects.get()
        sawing.saw_board(self.owner, self.build, held.pk, self.build.version)
        self.build.refresh_from_db()
        with self.assertRaisesMessage(Refused, "is sawn already"):
            sawing.saw_board(self.owner, self.build, held.pk, self.build.version)

    def test_sawn_otherwise_says_what_was_cut_and_what_is_kept(self):
        self.laid()
        held, cuts = Held.objects.get(), list(Cut.objects.order_by("pk"))
        page = self.client.get(self.at("board_sawn_otherwise", held.pk))
        names = [field.html_name for field in page.context["form"].rows]
        sent = dict.fromkeys(names, "on") | {"version": self.build.version, "note": "it split", "once": "b"}
        sent.pop(f"cut{cuts[0].pk}")
        sent.pop("left0")
        self.client.post(self.at("board_sawn_otherwise", held.pk), sent)
        self.assertEqual([cut.pk for cut in Cut.objects.all()], [cuts[1].pk])
        self.assertEqual(len(self.known().unlaid), 1)
        row = Sawing.objects.get()
        self.assertEqual((row.as_planned, row.note), (False, "it split"))
        self.assertEqual(row.offcuts.count(), len([name for name in names if name.startswith("left")]) - 1)
        # What lies on no board is laid on another one; what is sawn stays.
        self.board(thickness_m=0.027, width_m=0.19, length_m=2.4)
        self.assertEqual(self.lay(anew=True), {})
        self.assertEqual(Cut.objects.filter(pk=cuts[1].pk).count(), 1)

    def test_it_was_not_sawn_after_all(self):
        board = self.laid()
        held = Held.objects.get()
        sawing.saw_board(self.owner, self.build, held.pk, self.build.version)
        self.client.post(self.at("not_sawn", held.pk), {"do": "back"})
        board.refresh_from_db()
        self.assertEqual((board.status, Piece.objects.count(), Sawing.objects.count()), (Status.IN_STOCK, 1, 0))
        self.build.refresh_from_db()
        sawing.saw_board(self.owner, self.build, held.pk, self.build.version)
        read_board(self.owner, Offcut.objects.first().piece, 9.0)
        with self.assertRaisesMessage(Refused, "it stays sawn"):
            sawing.take_back(self.owner, self.build, held.pk)

    def test_a_board_of_a_lot_leaves_it_and_the_others_keep_being_held(self):
        lot = make_lot(self.owner, 3, "white_oak", thickness_m=0.027, width_m=0.19, length_m=0.7)
        self.add(part(count=6))
        self.assertEqual(self.lay(), {})
        self.assertEqual(Held.objects.count(), 3)
        laying.mark(self.owner, lot, 3, "knot", 0.0, 0.01, 0.0, 0.01)
        self.build.refresh_from_db()
        sawing.saw_board(self.owner, self.build, Held.objects.get(nth=1).pk, self.build.version)
        lot.refresh_from_db()
        self.assertEqual(lot.count, 2)
        self.assertEqual(sorted(Held.objects.filter(piece=lot).values_list("nth", flat=True)), [1, 2])
        # The mark went with its board.
        self.assertEqual(Mark.objects.get().nth, 1)
        with self.assertRaisesMessage(Refused, "are held for Bench"):
            stock.split_lot(self.owner, lot, lot.version, 1)


class Made(AtTheBench):
    def test_it_asks_first_says_what_is_laid_and_is_taken_back(self):
        board = self.board(thickness_m=0.027, width_m=0.08, length_m=0.8)
        spare = self.board(thickness_m=0.027, width_m=0.19, length_m=1.0, species="sugar_maple")
        self.add(part())
        self.assertEqual(sum(self.lay().values()), 1)
        Held.objects.create(workshop=self.owner.workshop, build=self.build, piece=spare, nth=1)
        page = text_of(self.client.get(self.at("finish_build")))
        self.assertIn("1 of 2 parts still to place", page)
        self.assertIn("counts as sawn", page)
        self.assertIn("goes back to the others", page)
        self.build.refresh_from_db()
        self.assertIsNone(self.build.done_on)
        answer = self.client.post(self.at("finish_build"), {"version": self.build.version, "keep": "on", "once": "a"}, follow=True)
        board.refresh_from_db()
        self.assertEqual(board.status, Status.USED)
        self.assertFalse(Held.objects.filter(piece=spare).exists())
        self.assertContains(answer, f'value="{spare.pk}.1"')
        self.client.post(self.at("build_not_made"), {"held": [f"{spare.pk}.1", "nonsense", "99999.1"]})
        self.build.refresh_from_db()
        board.refresh_from_db()
        self.assertIsNone(self.build.done_on)
        self.assertEqual((board.status, Offcut.objects.count()), (Status.IN_STOCK, 0))
        self.assertTrue(Held.objects.filter(piece=spare).exists())

    def test_two_who_end_it_at_once_are_told(self):
        self.add(part())
        sent = {"version": self.build.version + 7, "once": "a"}
        self.assertEqual(self.client.post(self.at("finish_build"), sent).status_code, 422)

    def test_marking_for_one_build_names_whose_piece_comes_off_for_another(self):
        board = self.board(thickness_m=0.027, width_m=0.19, length_m=2.4)
        self.add(part())
        self.lay()
        other = actions.make_build(self.owner, name="Other", place=self.room)
        cut = Cut.objects.first()
        off = laying.mark(self.owner, board, 1, "knot", cut.x_m + 0.01, cut.x_m + 0.02, 0.0, 0.19, other)
        self.assertTrue(any("of Bench" in name for name in off))


class Read(AtTheBench):
    def test_a_part_on_two_boards_of_which_one_is_unread_says_so(self):
        read = self.board(moisture=0.09, thickness_m=0.027, width_m=0.08, length_m=0.75)
        unread = self.board(thickness_m=0.027, width_m=0.08, length_m=0.75)
        self.add(part())
        self.assertEqual(self.lay(), {})
        state = self.stands().parts[0]
        self.assertIsNotNone(state.sized)
        self.assertIn(unread.tag, state.unsized)
        self.assertNotIn(read.tag, state.unsized)
        self.assertIn(f"{unread.tag} was not read yet: read before you cut.", text_of(self.client.get(self.at("build"))))
