"""Movement: exact there and back, closed forms for sections, and refusals."""

import math
import unittest

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from wood.errors import OutOfRange
from wood.movement import section, shrinkage
from wood.movement.section import disc, rectangle, settle_outline, settled_board
from wood.movement.shrinkage import Shrinkage, change_by_coefficient, remaining, size_ratio
from wood.species import all_species, species_named

MOISTURES = st.floats(0, 0.6)
SHRINKAGES = st.floats(0.01, 0.13)
KR, KT = 0.96, 0.91


class Linear(unittest.TestCase):
    @given(SHRINKAGES, MOISTURES, MOISTURES)
    def test_going_there_and_back_returns_exactly(self, whole, start, end):
        self.assertAlmostEqual(size_ratio(whole, start, end) * size_ratio(whole, end, start), 1.0, places=14)

    @given(SHRINKAGES, MOISTURES, MOISTURES, MOISTURES)
    def test_a_stop_on_the_way_changes_nothing(self, whole, start, stop, end):
        self.assertAlmostEqual(size_ratio(whole, start, stop) * size_ratio(whole, stop, end), size_ratio(whole, start, end), places=14)

    def test_ends_of_the_line_are_the_published_ones(self):
        self.assertEqual(remaining(0.105, 0.30), 1.0)
        self.assertEqual(remaining(0.105, 0.9), 1.0)
        self.assertAlmostEqual(remaining(0.105, 0.0), 0.895)

    def test_ring_angle_runs_from_tangential_to_radial(self):
        cherry = shrinkage.of_species(species_named("black_cherry"))
        self.assertEqual(cherry.at_ring_angle(0), cherry.tangential)
        self.assertAlmostEqual(cherry.at_ring_angle(90), cherry.radial)
        self.assertAlmostEqual(cherry.at_ring_angle(45), (cherry.radial + cherry.tangential) / 2)

    def test_both_forms_agree_within_five_percent_where_the_coefficient_is_the_species_own(self):
        for species in all_species().values():
            if species.coefficient_basis != "own" or species.shrinkage_tangential is None:
                continue
            by_ratio = size_ratio(species.shrinkage_tangential, 0.12, 0.08, species.fibre_saturation) - 1
            by_coefficient = change_by_coefficient(1.0, species.coefficient_tangential, 0.12, 0.08)
            with self.subTest(species.key):
                self.assertAlmostEqual(by_coefficient / by_ratio, 1, delta=0.05)

    def test_the_handbook_example_of_a_flat_sawn_board(self):
        # Wood Handbook ch. 13: ΔD = D·C_T·ΔM. Northern red oak, C_T = 0.00369, 9 in (228.6 mm), from 8 to 11%.
        self.assertAlmostEqual(change_by_coefficient(0.2286, 0.00369, 0.08, 0.11) * 1000, 2.53, delta=0.01)

    def test_moistures_outside_the_coefficient_form_are_refused(self):
        with self.assertRaises(OutOfRange):
            change_by_coefficient(0.2, 0.003, 0.20, 0.08)

    def test_a_species_with_coefficients_only_is_worked_back_and_marked(self):
        oak = species_named("swamp_white_oak")
        self.assertIsNone(oak.shrinkage_radial)
        result = shrinkage.of_species(oak)
        self.assertEqual(result.source, "coefficient")
        self.assertAlmostEqual(shrinkage.coefficient_from_shrinkage(result.tangential), oak.coefficient_tangential)


class ClosedForms(unittest.TestCase):
    def test_a_flat_sawn_board_far_from_the_pith_shrinks_by_the_tangential_figure(self):
        board = settled_board(0.2, 0.025, 0.0, -5.0, KR, KT)
        self.assertAlmostEqual(board.width_m, 0.2 * KT, delta=0.2 * KT * 1e-3)
        self.assertAlmostEqual(board.thickness_m, 0.025 * KR, places=9)

    def test_a_quarter_sawn_board_shrinks_in_width_by_the_radial_figure(self):
        board = settled_board(0.2, 0.025, -0.4, 0.0, KR, KT)
        self.assertAlmostEqual(board.width_m, 0.2 * KR, places=9)
        self.assertAlmostEqual(board.ring_angle_deg, 90)

    def test_a_square_with_slanting_rings_becomes_a_diamond(self):
        side, far = 0.1, 3.5
        square = settled_board(side, side, -far, -far, KR, KT)
        # Far from the pith one diagonal lies along the radius, the other along the rings.
        self.assertAlmostEqual(square.diamond_m, side * math.sqrt(2) * (KR - KT), delta=side * 0.002)

    def test_cup_is_the_sagitta_of_the_turned_face(self):
        # The bark face of a board at radius r, as wide as 2a: its corners and middle in closed form.
        width, thickness, below = 0.2, 0.025, 0.1
        board = settled_board(width, thickness, 0.0, -below, KR, KT)
        corner, angle = math.hypot(width / 2, below + thickness / 2), math.atan2(width / 2, below + thickness / 2)
        expected = KR * (corner * math.cos(angle * KT / KR) - (below + thickness / 2))
        self.assertAlmostEqual(board.cup_m, expected, places=9)
        self.assertGreater(board.cup_m, 0)

    def test_a_round_with_its_pith_opens_the_published_split(self):
        # From green: 2π (s_T − s_R)/(1 − s_R).
        radial, tangential = 0.04, 0.09
        after, split = settle_outline(disc(0.3), 1e-9, 0.0, 1 - radial, 1 - tangential)
        self.assertAlmostEqual(split, 2 * math.pi * (tangential - radial) / (1 - radial), places=9)
        # The outline's two lips stand that far apart as seen from the pith.
        lips = [complex(*after[0]), complex(*after[-2])]
        pith = complex(*after[-1])
        between = abs(np.angle((lips[0] - pith) / (lips[1] - pith)))
        self.assertAlmostEqual(between, split, places=6)

    def test_a_board_that_holds_the_pith_splits_to_its_nearest_face(self):
        board = settled_board(0.2, 0.05, 0.0, -0.01, KR, KT)
        self.assertTrue(board.encloses_pith)
        self.assertAlmostEqual(board.split_rad, section.total_split_rad(KR, KT))
        self.assertEqual(settled_board(0.2, 0.05, 0.0, -0.1, KR, KT).split_rad, 0.0)

    def test_swelling_closes_instead_of_splitting(self):
        for x, y in ((0.0, -0.01), (0.03, 0.012), (0.0, 0.0)):
            board = settled_board(0.2, 0.05, x, y, 1.02, 1.05)
            self.assertTrue(board.encloses_pith)
            self.assertEqual(board.split_rad, 0.0)
            # It stays where it lay, does not overlap itself, and grows by both figures in area.
            np.testing.assert_allclose(board.after, board.green * np.sqrt(1.02 * 1.05), atol=1e-9)
            self.assertAlmostEqual(area(board.after) / area(board.green), 1.02 * 1.05, delta=1e-9)

    @given(st.floats(0.02, 0.4), st.floats(0.01, 0.1), st.floats(-0.5, 0.5), st.floats(-0.5, 0.5))
    def test_nothing_moves_when_nothing_dries(self, width, thickness, x, y):
        board = settled_board(width, thickness, x, y, 1.0, 1.0)
        if not board.encloses_pith:
            np.testing.assert_allclose(board.after, board.green, atol=1e-12)
            self.assertAlmostEqual(board.cup_m, 0, places=12)

    @given(st.floats(0.05, 0.3), st.floats(0.01, 0.05), st.floats(0.06, 0.6), st.floats(0, 90))
    def test_area_shrinks_by_both_figures_wherever_the_board_lay(self, width, thickness, distance, angle):
        # Locally every small square shrinks by k_R along the radius and k_T along the ring: so does the whole area.
        x, y = section.pith_for(angle, distance)
        board = settled_board(width, thickness, x, y, KR, KT)
        if not board.encloses_pith:
            self.assertAlmostEqual(area(board.after) / area(board.green), KR * KT, delta=2e-3)

    @given(st.floats(0.05, 0.3), st.floats(0.01, 0.05), st.floats(0.08, 0.6), st.floats(0, 90))
    def test_the_mirror_image_moves_as_the_mirror_image(self, width, thickness, distance, angle):
        x, y = section.pith_for(angle, distance)
        first, other = settled_board(width, thickness, x, y, KR, KT), settled_board(width, thickness, -x, y, KR, KT)
        self.assertAlmostEqual(first.width_m, other.width_m, places=12)
        self.assertAlmostEqual(first.cup_m, other.cup_m, places=12)

    def test_rings_keep_their_count_and_lie_in_the_board(self):
        board = settled_board(0.2, 0.03, -0.02, -0.12, 1.0, 1.0)
        for ring in board.rings:
            self.assertLessEqual(np.abs(ring[:, 0]).max(), 0.1 + 1e-9)
            self.assertLessEqual(np.abs(ring[:, 1]).max(), 0.015 + 1e-9)
        self.assertGreater(len(board.rings), 10)

    def test_impossible_boards_are_refused(self):
        for sizes in ((0, 0.02), (0.2, -1), (9, 0.02), (float("nan"), 0.02)):
            with self.assertRaises(OutOfRange):
                settled_board(*sizes, 0.0, -0.1, KR, KT)
        with self.assertRaises(OutOfRange):
            settle_outline(rectangle(0.2, 0.02), 0, -0.1, 0.2, KT)

    def test_size_ratios_come_from_the_species_figures(self):
        k_radial, k_tangential = section.size_ratios(Shrinkage(0.04, 0.09, 0.30, "published"), 0.30, 0.0)
        self.assertAlmostEqual(k_radial, 0.96)
        self.assertAlmostEqual(k_tangential, 0.91)


def area(outline: np.ndarray) -> float:
    x, y = outline[:, 0], outline[:, 1]
    return abs(float(np.sum(x * np.roll(y, -1) - y * np.roll(x, -1)))) / 2
