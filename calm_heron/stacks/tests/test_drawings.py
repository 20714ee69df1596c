"""Stacks drawn: a yard from above, to scale, and one across from edge to edge."""

from types import SimpleNamespace

import numpy as np
from django.test import SimpleTestCase

from calm_heron.stacks import standing_drawings as drawings
from wood.units import INCH, METRIC


def stack(tag: str = "stack-01", x=None, y=None, long: float = 2.4, wide: float = 1.2, ready: bool = False, progress: bool = True):
    """A stack as it stands, thirty days old."""
    ran = SimpleNamespace(
        days=np.array([0.0, 100.0]),
        whole=np.array([0.60, 0.20]),
        means=np.array([[0.60, 0.60, 0.60], [0.15, 0.25, 0.15]]),
        places=np.array([0.0, 0.5, 1.0]),
    )
    return SimpleNamespace(
        stack=SimpleNamespace(tag=tag, x_m=x, y_m=y, width_m=wide, start_moisture=0.7),
        pile=SimpleNamespace(length_m=long) if long else None,
        days=30,
        slowest=SimpleNamespace(moisture=0.48) if progress else None,
        is_ready=ready,
        progress=SimpleNamespace(by_place=ran, days=30.0, is_ready=ready) if progress else None,
    )


class FromAbove(SimpleTestCase):
    def test_stacks_are_drawn_to_scale_where_they_stand(self):
        yard = drawings.yard([stack("a", 0.0, 0.0), stack("b", 6.0, 3.0, long=4.8, wide=2.4)], METRIC)
        first, second = yard.stacks
        self.assertAlmostEqual(second.width, 2 * first.width)
        self.assertAlmostEqual(second.height, 2 * first.height)
        self.assertGreater(second.x, first.x)
        self.assertLess(second.y, first.y)

    def test_those_that_stand_nowhere_are_set_in_a_row(self):
        yard = drawings.yard([stack(tag) for tag in "abc"], METRIC)
        for before, after in zip(yard.stacks, yard.stacks[1:], strict=False):
            self.assertGreater(after.x, before.x + before.width)
            self.assertAlmostEqual(after.y, before.y)

    def test_all_of_it_lies_on_the_paper_of_either_width(self):
        stacks = [stack("a", 0.0, 0.0), stack("b", 40.0, 25.0), stack("c"), stack("d", long=0.0)]
        for css, yard in drawings.yards(stacks, METRIC):
            with self.subTest(css):
                for drawn in yard.stacks:
                    self.assertTrue(drawn.x >= 0 and drawn.x + drawn.width <= yard.width)
                    self.assertTrue(drawn.y >= 0 and drawn.y + drawn.height <= yard.height)

    def test_one_alone_is_no_bigger_than_among_others(self):
        (alone,) = drawings.yard([stack()], METRIC).stacks
        self.assertLessEqual(alone.width, 2.4 * drawings.MOST_SCALE + 1e-9)

    def test_the_scale_is_round_in_the_readers_unit(self):
        metric, inch = (drawings.yard([stack("a", 0, 0), stack("b", 9, 9)], system) for system in (METRIC, INCH))
        self.assertIn("m", metric.scale_text)
        self.assertIn("ft", inch.scale_text)
        self.assertGreater(metric.scale_width, 50)

    def test_it_says_how_wet_each_is_or_that_it_may_be_moved(self):
        waits, ready = drawings.yard([stack(), stack(ready=True)], METRIC).stacks
        self.assertEqual(waits.said, "48%, day 30")
        self.assertEqual(ready.said, "ready to move")
        self.assertEqual((waits.ready, ready.ready), (False, True))

    def test_without_a_model_it_is_what_it_began_with(self):
        (drawn,) = drawings.yard([stack(progress=False)], METRIC).stacks
        self.assertEqual(drawn.said, "70%, day 30")

    def test_it_can_be_told_to_those_who_do_not_see_it(self):
        self.assertIn("2 stacks", drawings.yard([stack("a"), stack("b")], METRIC).summary)


class Across(SimpleTestCase):
    def test_each_place_has_its_moisture_and_fills_the_width(self):
        drawn = drawings.across(stack())
        self.assertEqual(len(drawn.cells), 3)
        self.assertAlmostEqual(sum(cell.width for cell in drawn.cells), drawn.width)
        self.assertEqual([cell.text for cell in drawn.cells], ["46", "50", "46"])

    def test_the_middle_is_wetter_and_darker_than_the_edges(self):
        edge, middle, _ = drawings.across(stack()).cells
        self.assertGreater(int(middle.text), int(edge.text))
        self.assertNotEqual(middle.fill, edge.fill)

    def test_it_is_told_in_figures_too(self):
        self.assertEqual(drawings.across(stack()).summary, "From edge to edge: 46, 50, 46 percent.")
