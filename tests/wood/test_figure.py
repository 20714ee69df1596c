"""What rings draw on a board's face."""

import math
import unittest

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from wood.builds import figure
from wood.errors import OutOfRange


class Figure(unittest.TestCase):
    def test_a_quartered_face_is_straight_and_its_lines_drift_with_the_taper_alone(self):
        drawn = figure.lines(2.4, 0.15, 0.027, 90.0)
        self.assertGreaterEqual(len(drawn), 8)
        for line in drawn:
            if np.ptp(line[:, 0]) > 2.3:
                self.assertAlmostEqual(float(np.ptp(line[:, 1])), 0.005 * 2.4, delta=0.004)

    def test_a_flat_face_has_cathedrals_in_its_middle_and_both_their_sides(self):
        drawn = figure.lines(2.4, 0.2, 0.027, 0.0)
        tips = [line[-1] for line in drawn if line[-1, 0] < 2.4 - 1e-9]
        self.assertGreaterEqual(len(tips), 4)
        for tip in tips:
            self.assertAlmostEqual(float(tip[1]), 0.1, 9)
        # As much on the one side of the middle as on the other.
        self.assertAlmostEqual(sum(float((line[:, 1] - 0.1).sum()) for line in drawn), 0.0, 9)

    def test_every_point_lies_on_its_cone(self):
        length, width, thick, angle = 3.0, 0.25, 0.04, 30.0
        x, y = -0.15 * math.sin(math.radians(angle)), -0.15 * math.cos(math.radians(angle))
        for line in figure.lines(length, width, thick, angle):
            at_the_butt = np.hypot(line[:, 1] - width / 2 - x, thick / 2 - y) + 0.005 * line[:, 0]
            self.assertLess(float(np.ptp(at_the_butt)), 1e-9)

    def test_the_pith_in_a_board_lies_along_its_middle(self):
        nearest = min(abs(float(line[0, 1]) - 0.1) for line in figure.lines(2.0, 0.2, 0.05, 10.0, 0.0))
        self.assertLess(nearest, 0.02)

    @given(st.floats(0.01, 20), st.floats(0.005, 2), st.floats(0.001, 2), st.floats(0, 90), st.floats(0, 5))
    def test_lines_stay_on_the_face(self, length, width, thickness, angle, pith):
        for line in figure.lines(length, width, thickness, angle, pith):
            self.assertTrue(np.isfinite(line).all())
            self.assertTrue((line[:, 0] >= -1e-9).all() and (line[:, 0] <= length + 1e-9).all())
            self.assertTrue((line[:, 1] >= -1e-9).all() and (line[:, 1] <= width + 1e-9).all())

    def test_what_no_board_has_is_refused(self):
        for wrong in ((0.0, 0.2, 0.03, 10), (2.0, 0.2, 0.03, 91), (2.0, 3.0, 0.03, 10), (2.0, 0.2, math.nan, 10)):
            with self.assertRaises(OutOfRange):
                figure.lines(*wrong)
