"""Boards by what the eye sees: rows from one board, cathedrals that point up, straight grain, which face shows, a photograph beneath."""

from calm_heron.builds.kinds import FigureKind, MarkKind, PointsKind
from calm_heron.builds.layouts import eye, laying
from calm_heron.builds.models import Cut, Held, Mark, PhotoFrame
from calm_heron.builds.tests.bench import part
from calm_heron.builds.tests.test_sawing import AtTheBench
from calm_heron.stock.actions import add_photo
from calm_heron.stock.models import Piece
from tests.factories import a_picture
from tests.pages import text_of
from wood.builds import wishes
from wood.units import INCH


class Wishing(AtTheBench):
    def unmet(self) -> list[str]:
        return eye.unmet(self.known(), INCH)

    def thin(self, **more):
        return self.board(thickness_m=0.027, **{"width_m": 0.19, "length_m": 2.4} | more)

    def look(self, board, kind: str, x0: float, x1: float, points: str = ""):
        laying.mark(self.owner, board, 1, kind, x0, x1, 0.0, board.width_m, self.build, points=points)

    def test_fronts_come_from_one_board_in_a_row_and_the_rest_of_it_is_cut_too(self):
        boards = [self.thin() for _ in range(3)]
        self.add(part("Rail", count=6), part("Front", count=3, figure=FigureKind.ALONG, length_m=0.45, width_m=0.12))
        self.assertEqual(self.lay(), {})
        fronts = list(Cut.objects.filter(part__name="Front").select_related("board__piece"))
        self.assertEqual(len({cut.board_id for cut in fronts}), 1)
        self.assertTrue(wishes.lie_in_a_row([cut.rect for cut in fronts], self.build.kerf_m))
        self.assertEqual(sorted(cut.nth for cut in fronts), [cut.nth for cut in sorted(fronts, key=lambda cut: cut.x_m)])
        known = self.known()
        self.assertTrue(all(known.sawn(held) is not None for held in known.held))
        self.assertEqual(self.unmet(), [])
        self.assertLess(len(known.held), len(boards))

    def test_where_no_board_is_long_enough_it_is_laid_apart_and_said_why(self):
        for _ in range(3):
            self.thin(length_m=0.75)
        self.add(part("Front", count=3, figure=FigureKind.ALONG))
        self.assertEqual(self.lay(), {})
        (said,) = self.unmet()
        self.assertIn("not in a row from one board", said)
        self.assertIn("that takes", said)
        self.assertIn("Not as it wishes", text_of(self.client.get(self.at("build_layout"))))

    def test_a_wish_is_no_reason_for_a_part_to_find_no_wood(self):
        # In a row the two fronts would lie along the middle of the board that the rails need.
        board = self.thin(length_m=1.40, width_m=0.165)
        self.look(board, MarkKind.STRAIGHT, 0.3, 1.1)
        self.add(part("Slat", count=1, figure=FigureKind.STRAIGHT), part("Rail", count=3))
        self.assertEqual(self.lay(), {})
        self.assertIn("should show straight grain", self.unmet()[0])

    def test_a_front_stays_off_the_cathedral_where_it_can(self):
        board = self.thin()
        self.look(board, MarkKind.CATHEDRAL, 0.0, 1.2)
        self.add(part("Front", count=2, figure=FigureKind.ALONG, length_m=0.5))
        self.assertEqual(self.lay(), {})
        self.assertGreaterEqual(min(Cut.objects.values_list("x_m", flat=True)), 1.2 - 1e-6)
        self.assertEqual(self.unmet(), [])

    def test_a_door_shows_its_cathedral_and_which_end_is_up(self):
        plain, shown = self.thin(), self.thin(length_m=2.4)
        self.look(shown, MarkKind.CATHEDRAL, 0.9, 2.2, PointsKind.LEFT)
        self.add(part("Panel", count=1, figure=FigureKind.UP, width_m=0.15), part("Rail", count=2))
        self.assertEqual(self.lay(), {})
        cut = Cut.objects.select_related("board__piece").get(part__name="Panel")
        self.assertEqual(cut.board.piece, shown)
        self.assertGreaterEqual(cut.x_m, 0.9 - 1e-6)
        self.assertEqual(eye.top_of(cut, self.known()), "←")
        self.assertEqual(self.unmet(), [])
        page = text_of(self.client.get(self.at("build_layout")))
        self.assertIn("its top left", page)
        self.assertIn("A cathedral, its tip to the left", page)
        # Moved to a board of which nothing is marked, it is said.
        self.build.refresh_from_db()
        laying.place(self.owner, self.build, self.build.version, cut.part_id, 0, plain, 1, None, None)
        self.assertIn("Panel: A should show a cathedral", self.unmet()[0])

    def test_straight_parts_lie_on_straight_grain_and_quartered_wood_is_straight_of_itself(self):
        self.thin()
        self.add(part("Slat", count=1, figure=FigureKind.STRAIGHT))
        self.assertEqual(self.lay(), {})
        self.assertIn("should show straight grain", self.unmet()[0])
        Piece.objects.update(ring_angle_deg=85.0)
        self.assertEqual(self.unmet(), [])

    def test_a_front_on_a_cathedral_runs_out_of_its_line(self):
        board = self.thin()
        self.add(part("Front", count=1, figure=FigureKind.ALONG))
        self.assertEqual(self.lay(), {})
        self.look(board, MarkKind.CATHEDRAL, 0.0, 1.5)
        # What the eye sees takes nothing off the board.
        self.assertEqual(Cut.objects.count(), 1)
        self.assertIn("runs out of its line", self.unmet()[0])
        self.assertIn("its grain runs out of its line", text_of(self.client.get(self.at("build_layout"))))

    def test_squares_for_legs_follow_grain_that_runs_askew(self):
        board = self.thin(width_m=0.3)
        self.look(board, MarkKind.ASKEW, 0.5, 1.5)
        Mark.objects.update(y0_m=0.05, y1_m=0.13)
        self.add(part("Leg", count=2, figure=FigureKind.LEG, width_m=0.045, length_m=0.7))
        self.assertEqual(self.lay(), {})
        known = self.known()
        leg, plank = known.parts[0], known.planks[known.held[0].pk]
        self.assertAlmostEqual(plank.slope, 0.08)
        for cut in known.cuts:
            self.assertAlmostEqual(cut.width_m, leg.rough_m[1] + 0.08 * leg.rough_m[0])
        self.assertIsNotNone(known.sawn(known.held[0]))
        self.assertIn("askew in its blank, along its grain", text_of(self.client.get(self.at("build_layout"))))
        # Where another board's grain runs along it, the legs come from there.
        other = self.thin(width_m=0.3)
        self.build.refresh_from_db()
        self.assertEqual(self.lay(anew=True), {})
        self.assertEqual({cut.board.piece for cut in Cut.objects.select_related("board__piece")}, {other})

    def test_only_a_cathedral_points(self):
        board = self.thin()
        self.add(part())
        self.lay()
        typed = {"board": f"{board.pk}.1", "kind": "figure", "points": "left", "y0_m": "0", "x1_m": "500 mm", "y1_m": "100 mm", "once": "a"}
        page = self.client.post(self.at("mark_board"), typed)
        self.assertContains(page, "Only a cathedral has a tip, and only askew grain rises.", status_code=422)
        self.client.post(self.at("mark_board"), typed | {"kind": "cathedral"})
        self.assertEqual(Mark.objects.get().points, "left")

    def test_which_face_shows_is_kept_with_the_board(self):
        self.thin()
        self.add(part())
        self.lay()
        held = Held.objects.get()
        self.build.refresh_from_db()
        self.client.post(self.at("show_face", held.pk), {"face": "heart", "version": self.build.version, "once": "f"})
        held.refresh_from_db()
        self.assertEqual(held.face, "heart")
        self.assertIn("the pith side shows", text_of(self.client.get(self.at("build_layout"))))
        # Somebody who saw it before is told.
        self.client.post(self.at("show_face", held.pk), {"face": "bark", "version": self.build.version, "once": "g"})
        held.refresh_from_db()
        self.assertEqual(held.face, "heart")

    def test_a_board_lies_on_its_photograph_and_a_piece_is_a_window_on_it(self):
        board = self.thin()
        self.add(part())
        self.lay()
        held = Held.objects.get()
        self.assertContains(self.client.get(self.at("build_layout")), "Photograph it")
        photo = add_photo(self.owner, board, a_picture())
        typed = {"photo": photo.pk, "left": "5", "right": "95", "top": "40", "bottom": "60", "once": "p"}
        self.client.post(self.at("frame_board", held.pk), typed)
        frame = PhotoFrame.objects.get()
        self.assertEqual((frame.x0, frame.x1, frame.y0, frame.y1), (0.05, 0.95, 0.4, 0.6))
        page = self.client.get(self.at("build_layout"))
        self.assertContains(page, "<image href=")
        self.assertContains(page, f'viewBox="{frame.view_box}"')
        self.assertNotContains(page, "ring grain")
        for field, wrong in (("right", "3"), ("top", "x"), ("bottom", "140"), ("photo", "77777")):
            refused = self.client.post(self.at("frame_board", held.pk), typed | {field: wrong, "once": field})
            self.assertEqual(refused.status_code, 422, field)
            self.assertContains(refused, 'class="wrong"', status_code=422)
        self.client.post(self.at("frame_board", held.pk), typed | {"photo": "", "once": "q"})
        self.assertFalse(PhotoFrame.objects.exists())
