"""The axis of weights goes up by what the workshop's own scale shows."""

from django.test import SimpleTestCase

from calm_heron.site.drawing import Scale
from calm_heron.turning.shelf.weight_drawings import MOST_TICKS, _masses, mass_step_kg
from wood.units import INCH, METRIC, SCALES, mass_kg


class MassAxes(SimpleTestCase):
    def test_every_label_is_round_on_the_scale_in_use_and_stands_where_it_says(self):
        for key in SCALES:
            system = (INCH if key in ("oz", "lb", "lb_oz") else METRIC).as_set(key, 64)
            for low, high in ((0.31, 0.37), (0.9, 1.62), (2.0, 7.5), (11.0, 48.0)):
                with self.subTest(key, low=low, high=high):
                    y = Scale(low, high, 100.0, 0.0)
                    ticks = _masses(low, high, y, system)
                    self.assertTrue(1 <= len(ticks) <= MOST_TICKS + 1)
                    for tick in ticks:
                        self.assertAlmostEqual(y(mass_kg(tick.label, system)), tick.at, places=6)

    def test_steps_are_the_scales_own(self):
        for key, span, step in (
            ("g", 0.7, 0.2),
            ("kg", 0.7, 0.2),
            ("oz", 0.7, 8 * 0.028349523125),
            ("lb", 2.0, 0.45359237),
            ("lb_oz", 6.0, 5 * 0.45359237),
        ):
            system = (INCH if key in ("oz", "lb", "lb_oz") else METRIC).as_set(key, 64)
            self.assertAlmostEqual(mass_step_kg(span, system), step, places=6, msg=key)
