"""The moisture field against series solutions, limits and conservation."""

import unittest
from itertools import pairwise

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.optimize import brentq

from wood.air import climate, sorption
from wood.drying import field, kernel
from wood.errors import OutOfRange
from wood.stacks.air import OpenBoard, Stack

DAY = 86_400.0
HEAVY, LIGHT = field.Wood(0.60, factor=0.8), field.Wood(0.40, factor=1.0, permeability=4.0)


def steady_drive(transfer_m_s: float, equilibrium: float, density: float) -> field.Drive:
    """A drive for the straight sorption line: what leaves the face is transfer · (M_surface − equilibrium)."""
    sums = np.zeros((2, kernel.COLUMNS))
    sums[1, kernel.SATURATED] = transfer_m_s * density
    sums[1, kernel.AMBIENT] = transfer_m_s * density * equilibrium
    return field.Drive(sums, DAY)


def crank(share_of_time: float, biot: float, terms: int = 60) -> float:
    """What is left of a plane sheet's content above equilibrium (Crank 1975, eq. 4.50-4.53): β·tan β = L."""
    left = 0.0
    for n in range(terms):
        beta = brentq(lambda b: b * np.tan(b) - biot, n * np.pi + 1e-9, n * np.pi + np.pi / 2 - 1e-9)
        left += 2 * biot**2 * np.exp(-(beta**2) * share_of_time) / (beta**2 * (beta**2 + biot**2 + biot))
    return left


class SeriesSolutions(unittest.TestCase):
    diffusivity, half = 2e-10, 0.0125
    plain = field.Wood(0.5, constant_diffusivity=2e-10)

    def left(self, days: float, biot: float, **how) -> float:
        drive = steady_drive(biot * self.diffusivity / self.half, 0.10, self.plain.density)
        ran = field.dry(self.plain, 2 * self.half, 0.30, drive, days, out_days=[days], **how)
        return (float(ran.mean[0]) - 0.10) / 0.20

    def test_constant_diffusivity_with_a_surface_resistance_follows_cranks_series_to_a_fifth_of_a_percent(self):
        for biot in (0.3, 3.0, 30.0):
            for days in (1.0, 4.0, 12.0):
                with self.subTest(biot=biot, days=days):
                    exact = crank(self.diffusivity * days * DAY / self.half**2, biot)
                    lost = 1 - self.left(days, biot, cells=60, tolerance=3e-7)
                    self.assertAlmostEqual(lost / (1 - exact), 1.0, delta=0.002)

    def test_halving_the_step_and_the_cells_width_each_quarter_the_error(self):
        exact = crank(self.diffusivity * 4 * DAY / self.half**2, 3.0)
        by_step = [self.left(4, 3.0, cells=400, tolerance=1.0, longest_step_days=step) - exact for step in (0.02, 0.01, 0.005)]
        for coarse, fine in pairwise(by_step):
            self.assertGreater(np.log2(coarse / fine), 1.7)
        finest = self.left(4, 3.0, cells=320, tolerance=1.0, longest_step_days=0.002)
        by_cell = [self.left(4, 3.0, cells=cells, tolerance=1.0, longest_step_days=0.002) - finest for cells in (10, 20, 40)]
        for coarse, fine in pairwise(by_cell):
            self.assertAlmostEqual(np.log2(coarse / fine), 2.0, delta=0.15)

    def test_a_short_piece_with_open_ends_dries_as_the_product_of_both_slabs(self):
        # Newman's product: exact where diffusivity and transfer are constant. Along the grain D is 12 times larger.
        length, days, biot = 0.20, 6.0, 5.0
        transfer = biot * self.diffusivity / self.half
        ran = field.dry(
            self.plain,
            2 * self.half,
            0.30,
            steady_drive(transfer, 0.10, self.plain.density),
            days,
            length_m=length,
            out_days=[days],
            cells=40,
            rows=40,
            tolerance=2e-6,
        )
        across = crank(self.diffusivity * days * DAY / self.half**2, biot)
        along_d = 12 * self.diffusivity
        along = crank(along_d * days * DAY / (length / 2) ** 2, transfer * length / 2 / along_d)
        self.assertAlmostEqual((float(ran.mean[0]) - 0.10) / 0.20, across * along, delta=0.002)
        self.assertLess(abs(ran.imbalance), 1e-9)

    def test_sealed_ends_make_a_short_piece_a_long_one(self):
        drive = field.driven(climate.constant(20, 0.5), OpenBoard())
        short = field.dry(HEAVY, 0.03, 0.5, drive, 40, length_m=0.15, ends_open=False, out_days=[40])
        long = field.dry(HEAVY, 0.03, 0.5, drive, 40, out_days=[40])
        opened = field.dry(HEAVY, 0.03, 0.5, drive, 40, length_m=0.15, out_days=[40])
        self.assertAlmostEqual(short.mean[0], long.mean[0], delta=1e-3)
        self.assertLess(opened.mean[0], long.mean[0] - 0.02)


class Limits(unittest.TestCase):
    def days(self, wood: field.Wood, thickness: float, air: climate.AirSeries, exposure=None, start=0.28, target=0.15) -> float:
        drive = field.driven(air, exposure or OpenBoard(1.0))
        return field.dry(wood, thickness, start, drive, 3000, target=target, out_days=[]).crossed_day

    def test_time_grows_with_the_square_of_thickness_where_diffusion_rules(self):
        windy = climate.constant(30, 0.45, 8.0)
        slow = field.Wood(0.65, factor=0.2)
        self.assertAlmostEqual(self.days(slow, 0.08, windy) / self.days(slow, 0.04, windy), 4.0, delta=0.15)

    def test_time_grows_with_thickness_where_the_surface_rules(self):
        # Thin, very permeable, wet all the time, in a stack with hardly any air: 90% down to 60%.
        open_wood, still = field.Wood(0.35, factor=20.0, permeability=50.0), Stack(0.02)
        air = climate.constant(15, 0.7, 3.0)
        ratio = self.days(open_wood, 0.02, air, still, 0.9, 0.6) / self.days(open_wood, 0.01, air, still, 0.9, 0.6)
        self.assertAlmostEqual(ratio, 2.0, delta=0.05)

    def test_air_speed_matters_while_wet_and_hardly_near_the_end(self):
        slow, fast = climate.constant(45, 0.6, 0.3), climate.constant(45, 0.6, 3.0)
        chamber = Stack(1.0, 1.5, forced=True)
        wet = self.days(LIGHT, 0.027, slow, chamber, 0.9, 0.4) / self.days(LIGHT, 0.027, fast, chamber, 0.9, 0.4)
        thick = field.Wood(0.65, factor=0.5)
        late = self.days(thick, 0.054, slow, chamber, 0.18, 0.14) / self.days(thick, 0.054, fast, chamber, 0.18, 0.14)
        self.assertGreater(wet, 1.8)
        self.assertLess(late, 1.05)

    def test_a_coating_slows_and_does_not_stop(self):
        air = climate.constant(20, 0.8)
        bare, coated = (
            field.dry(HEAVY, 0.02, 0.06, field.driven(air, OpenBoard(), resistance), 2500, out_days=[20, 2500]) for resistance in (0.0, 5e5)
        )
        self.assertLess(coated.mean[0], bare.mean[0] - 0.02)
        self.assertAlmostEqual(coated.mean[1], bare.mean[1], delta=0.01)

    def test_frost_all_but_stops_free_water_and_the_wood_goes_on_when_it_thaws(self):
        frozen = climate.constant(-8, 0.7, 3.0)
        open_wood = field.Wood(0.4, factor=0.3, permeability=8.0)
        exposure = Stack(0.2)
        winter = field.dry(open_wood, 0.054, 0.9, field.driven(frozen, exposure), 60, out_days=[60])
        thawed = field.dry(open_wood, 0.054, 0.9, field.driven(climate.constant(8, 0.7, 3.0), exposure), 60, out_days=[60])
        self.assertLess(0.9 - winter.mean[0], 0.35 * (0.9 - thawed.mean[0]))
        there_and_back = np.concatenate([np.full(480, 6.0), np.full(960, -9.0), np.full(1200, 14.0)])
        air = climate.AirSeries(there_and_back, np.full(2640, 0.65), np.full(2640, 3.0))
        ran = field.dry(open_wood, 0.027, 0.9, field.driven(air, exposure), 110)
        self.assertTrue(np.isfinite(ran.profiles).all())
        self.assertLess(abs(ran.imbalance), 1e-9)
        self.assertLess(ran.mean[-1], 0.3)


class NeverBeyond(unittest.TestCase):
    @settings(max_examples=60, deadline=None)
    @given(
        temperature=st.floats(-20, 90),
        humidity=st.floats(0, 1),
        start=st.floats(0, 1.5),
        thickness=st.floats(0.001, 0.3),
        gravity=st.floats(0.15, 1.0),
        factor=st.floats(0.01, 20),
        coating=st.sampled_from([0.0, 1e4, 1e7]),
    )
    def test_moisture_stays_between_start_and_equilibrium_is_ordered_inwards_and_no_water_is_lost(
        self, temperature, humidity, start, thickness, gravity, factor, coating
    ):
        air = climate.constant(temperature, humidity, 1.0)
        wood = field.Wood(gravity, factor, 3.0)
        start = min(start, wood.greatest_moisture)
        ran = field.dry(wood, thickness, start, field.driven(air, OpenBoard(), coating), 300, longest_step_days=30)
        # Wetter wood comes down to the drying curve, drier wood up to the regaining one, what lies between stays.
        band = sorption.hysteresis_band(temperature, humidity)
        settles = min(max(start, band.regaining), band.drying)
        low, high = min(start, settles) - 1e-9, max(start, settles) + 1e-9
        everything = np.column_stack([ran.profiles, ran.mean])
        self.assertTrue(np.isfinite(everything).all())
        self.assertGreaterEqual(everything.min(), low)
        self.assertLessEqual(everything.max(), high)
        inwards = np.diff(ran.profiles, axis=1) * (1 if start >= settles else -1)
        # A step is settled to a part of its tolerance, not to the last digit: a hundred-thousandth of a point of moisture is order.
        self.assertGreaterEqual(inwards.min(), -1e-7)
        self.assertLess(abs(ran.imbalance), 1e-6)

    def test_water_is_kept_through_a_whole_year_of_weather(self):
        drive = field.driven(climate.pattern("cold_winter").year.starting(300), Stack(0.13))
        for wood in (HEAVY, LIGHT, field.Wood(0.4, 2.0, 10.0)):
            self.assertLess(abs(field.dry(wood, 0.05, 0.9, drive, 365).imbalance), 1e-6)


class BothSidesOfSorption(unittest.TestCase):
    air = climate.constant(21.0, float(sorption.relative_humidity_for(21.0, 0.0843)))

    def after(self, start: float, air: climate.AirSeries, days: float = 600) -> float:
        return float(field.dry(HEAVY, 0.02, start, field.driven(air, OpenBoard(1.0)), days, out_days=[days]).mean[0])

    def test_wood_between_both_curves_stays_and_wood_outside_comes_to_its_own_side(self):
        band = sorption.hysteresis_band(21.0, float(self.air.relative_humidity[0]))
        for start in (0.0840, 0.0843, 0.0845, 0.080, 0.088):
            self.assertAlmostEqual(self.after(start, self.air), start, delta=1e-5)
        self.assertAlmostEqual(self.after(0.14, self.air), band.drying, delta=2e-4)
        self.assertAlmostEqual(self.after(0.03, self.air), band.regaining, delta=2e-4)

    def test_nothing_jumps_with_start_or_air(self):
        starts = np.linspace(0.06, 0.12, 61)
        ends = np.array([self.after(start, self.air, 40) for start in starts])
        self.assertLess(np.abs(np.diff(ends)).max(), 0.0011)
        swings = np.linspace(0.0, 0.1, 21)
        hours = np.arange(24 * 365)
        shares = [
            climate.AirSeries(
                np.full(hours.size, 20.0), 0.5 + swing / 2 * np.sin(hours * np.pi / 12), np.zeros(hours.size)
            ).hysteresis_share
            for swing in swings
        ]
        self.assertLess(np.abs(np.diff(shares)).max(), 0.02)

    def test_the_same_air_takes_the_same_days_as_a_chamber_a_year_and_a_schedule(self):
        from wood.kiln.schedules import Step, run

        air = climate.constant(50.0, 0.45, 1.8)
        long = climate.AirSeries(*(np.full(8760, float(column[0])) for column in (air.temperature_c, air.relative_humidity, air.wind_m_s)))
        stack = Stack(1.0, 2.4, 0.019, forced=True)
        first, other = (
            field.dry(HEAVY, 0.027, 0.5, field.driven(series, stack), 200, target=0.12, out_days=[]).crossed_day for series in (air, long)
        )
        from wood.air.psychrometrics import Air

        wet_bulb = Air(50.0, 0.45).wet_bulb_c
        third = run(HEAVY, 0.027, 0.5, (Step(0.12, 50.0, wet_bulb),)).days
        self.assertAlmostEqual(first / other, 1.0, delta=0.01)
        self.assertAlmostEqual(first / third, 1.0, delta=0.01)


class Kernel(unittest.TestCase):
    def test_the_compiled_sorption_is_that_of_the_core_with_its_slope_and_its_hysteresis(self):
        for t in (-15.0, 5.0, 21.0, 60.0):
            for h in (0.02, 0.3, 0.65, 0.93):
                m, slope = kernel.sorbed(t, h, 0.0)
                self.assertAlmostEqual(m, sorption.emc(t, h), places=12)
                self.assertAlmostEqual(slope, sorption.slope(t, h), places=9)
                band = sorption.hysteresis_band(t, h)
                self.assertAlmostEqual(kernel.sorbed(t, h, 1.0)[0], band.drying, places=12)
                self.assertAlmostEqual(kernel.sorbed(t, h, -1.0)[0], band.regaining, places=12)
                for branch in (-1.0, 1.0):
                    step = (kernel.sorbed(t, h + 1e-6, branch)[0] - kernel.sorbed(t, h - 1e-6, branch)[0]) / 2e-6
                    self.assertAlmostEqual(kernel.sorbed(t, h, branch)[1], step, places=6)

    def test_many_runs_are_single_runs_side_by_side(self):
        drive = field.driven(climate.pattern("mild_coast").year, Stack(0.13))
        shares = np.linspace(0.3, 2.0, 11)
        together = field.dry_many(field.Wood(0.5, 1.0, 2.0), 0.027, 0.8, drive, 200, target=0.25, factor_shares=shares, out_days=[100, 200])
        for k, share in enumerate(shares):
            alone = field.dry(field.Wood(0.5, share, 2.0), 0.027, 0.8, drive, 200, target=0.25, out_days=[100, 200])
            np.testing.assert_allclose(together.means[k], alone.mean, atol=2e-4)
            self.assertAlmostEqual(together.crossed_days[k], alone.crossed_day or np.inf, delta=0.3)

    def test_a_series_goes_round_and_may_be_begun_anywhere(self):
        year = climate.pattern("cold_winter").year
        later = field.dry(HEAVY, 0.02, 0.3, field.driven(year, Stack(0.13)), 100, begin_day=300, out_days=[100])
        turned = field.dry(HEAVY, 0.02, 0.3, field.driven(year.starting(300), Stack(0.13)), 100, out_days=[100])
        self.assertAlmostEqual(later.mean[0], turned.mean[0], places=5)


class BadInput(unittest.TestCase):
    drive = field.driven(climate.constant(20, 0.5), OpenBoard())

    def test_what_cannot_be_is_refused_by_name(self):
        cases = [
            ("thickness_m", lambda: field.dry(HEAVY, 0.0, 0.3, self.drive, 10)),
            ("thickness_m", lambda: field.dry(HEAVY, 9.0, 0.3, self.drive, 10)),
            ("start", lambda: field.dry(HEAVY, 0.02, -0.1, self.drive, 10)),
            ("start", lambda: field.dry(HEAVY, 0.02, float("nan"), self.drive, 10)),
            ("start_values", lambda: field.dry(HEAVY, 0.02, [], self.drive, 10)),
            ("days", lambda: field.dry(HEAVY, 0.02, 0.3, self.drive, -3)),
            ("length_m", lambda: field.dry(HEAVY, 0.02, 0.3, self.drive, 10, length_m=0.0)),
            ("specific_gravity", lambda: field.Wood(0.0)),
            ("specific_gravity", lambda: field.Wood(float("nan"))),
            ("factor", lambda: field.Wood(0.5, 0.0)),
            ("out_days", lambda: field.dry(HEAVY, 0.02, 0.3, self.drive, 10, out_days=[-1.0])),
            ("longest_step_days", lambda: field.dry(HEAVY, 0.02, 0.3, self.drive, 10, longest_step_days=0.0)),
            ("target", lambda: field.dry(HEAVY, 0.02, 0.3, self.drive, 10, target=float("nan"))),
            ("start", lambda: field.dry(HEAVY, 0.02, 2.5, self.drive, 10)),
            ("coating_s_m", lambda: field.driven(climate.constant(20, 0.5), OpenBoard(), -1.0)),
        ]
        for name, act in cases:
            with self.subTest(name), self.assertRaises(OutOfRange) as caught:
                act()
            self.assertEqual(caught.exception.field, name)

    def test_bone_dry_and_dripping_air_have_answers(self):
        for humidity in (0.0, 1.0):
            ran = field.dry(HEAVY, 0.02, 0.2, field.driven(climate.constant(25, humidity), OpenBoard()), 3000)
            self.assertTrue(np.isfinite(ran.profiles).all())
            self.assertAlmostEqual(float(ran.mean[-1]), sorption.emc(25, humidity), delta=0.02)
