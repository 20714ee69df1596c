"""What disturbs a chamber: what it does to air, wood and water, and what is still conserved."""

from unittest import TestCase

import numpy as np

from wood.air import climate
from wood.errors import OutOfRange
from wood.kiln import chambers, following, loads
from wood.kiln.chambers import Kind
from wood.kiln.disturbances import COMPRESSOR, FANS, OPEN, SPRAYS, STUCK, UNDISTURBED, Disturbance, Disturbed, by_hour
from wood.kiln.following import Weighed
from wood.kiln.sharing import Lot, boards_of, program_of
from wood.species import species_named

OAK = Lot("a", species_named("white_oak"), 0.0286, 0.62, 2.5)
OUTDOORS = climate.pattern("mild_inland").year
NOON = 10 * 24 + 12


def run(kind: Kind, *disturbed: Disturbance, days: float = 400.0) -> loads.Ran:
    chamber = chambers.usual(kind, OAK.volume_m3)
    return loads.run(boards_of([OAK]), program_of([OAK], 0.08, chamber), chamber, OUTDOORS, disturbed=disturbed, days=days)


class Rows(TestCase):
    def test_an_hour_is_disturbed_by_its_share_alone(self):
        rows = by_hour([Disturbance(Disturbed.DOOR, 1.25 / 24, 2.5 / 24)], 4)
        self.assertEqual(rows[:, OPEN].round(6).tolist(), [0.0, 0.75, 0.5, 0.0])
        self.assertTrue((rows[:, :OPEN] == 1.0).all())

    def test_without_power_nothing_works(self):
        rows = by_hour([Disturbance(Disturbed.POWER, 0.0, 1.0)], 30)
        for column in (FANS, COMPRESSOR, SPRAYS):
            self.assertEqual(rows[:24, column].max(), 0.0)
        self.assertEqual(rows[24].tolist(), list(UNDISTURBED))

    def test_what_overlaps_is_not_counted_beyond_the_hour(self):
        both = [Disturbance(Disturbed.FANS, 0.0, 0.1), Disturbance(Disturbed.POWER, 0.0, 0.1), Disturbance(Disturbed.SPRAY, -3.0, 0.1)]
        rows = by_hour(both, 2)
        self.assertEqual((rows.min(), rows.max(), rows[0, STUCK]), (0.0, 1.0, 1.0))

    def test_an_end_before_its_beginning_is_refused(self):
        with self.assertRaises(OutOfRange):
            Disturbance(Disturbed.FANS, 2.0, 1.0)


class InTheChamber(TestCase):
    @classmethod
    def setUpClass(cls):
        super().setUpClass()
        cls.usual = {kind: run(kind, days=20.0) for kind in (Kind.DEHUMIDIFIER, Kind.VENTED)}
        cls.ran = {
            (kind, what): run(kind, Disturbance(what, 10.0, 11.0), days=20.0)
            for kind in (Kind.DEHUMIDIFIER, Kind.VENTED)
            for what in Disturbed
        }

    def test_water_balances_whatever_is_disturbed(self):
        for key, ran in self.ran.items():
            with self.subTest(key):
                given, dried, sprayed, out = ran.water_kg_h.sum(axis=0)
                self.assertLess(abs(ran.imbalance), 1e-9)
                self.assertLess(abs(given + sprayed - dried - out), 1e-6 * given)
                self.assertLess(ran.disagreed, 2e-7)

    def test_until_it_begins_nothing_differs(self):
        for (kind, _), ran in self.ran.items():
            self.assertTrue(np.array_equal(ran.means[:, :240], self.usual[kind].means[:, :240]))

    def test_no_power_cools_it(self):
        for kind, usual in self.usual.items():
            cut = self.ran[kind, Disturbed.POWER]
            self.assertLess(cut.temperature_c[NOON], usual.temperature_c[NOON] - 10)
            self.assertEqual(cut.power_w[NOON].sum(), 0.0)

    def test_an_open_door_dries_the_air_unless_steam_makes_up_for_it(self):
        usual, door = self.usual[Kind.DEHUMIDIFIER], self.ran[Kind.DEHUMIDIFIER, Disturbed.DOOR]
        self.assertLess(door.humidity[NOON], usual.humidity[NOON] - 0.3)
        # Which is what checks the faces of wet oak.
        self.assertLess(door.surfaces[:, NOON].max(), usual.surfaces[:, NOON].min())
        usual, door = self.usual[Kind.VENTED], self.ran[Kind.VENTED, Disturbed.DOOR]
        self.assertGreater(door.water_kg_h[NOON, 2], usual.water_kg_h[NOON, 2] + 5.0)
        self.assertGreater(door.power_w[NOON, 0], 3 * usual.power_w[NOON, 0])

    def test_where_fans_stand_still_wood_hardly_dries(self):
        for kind, usual in self.usual.items():
            still = self.ran[kind, Disturbed.FANS]
            lost = [float(ran.water_kg_h[240:264, 0].sum()) for ran in (still, usual)]
            self.assertLess(lost[0], 0.85 * lost[1])
            # What little passes is cooled down to its wet bulb, at most.
            self.assertGreater(still.drop_k(NOON), 5 * usual.drop_k(NOON))

    def test_a_stuck_spray_is_felt_only_where_there_is_one(self):
        dry, steam = self.ran[Kind.DEHUMIDIFIER, Disturbed.SPRAY], self.ran[Kind.VENTED, Disturbed.SPRAY]
        self.assertTrue(np.array_equal(dry.means, self.usual[Kind.DEHUMIDIFIER].means))
        self.assertGreater(steam.water_kg_h[NOON, 2], 0.0)
        self.assertGreaterEqual(steam.humidity[NOON], self.usual[Kind.VENTED].humidity[NOON] - 1e-9)
        self.assertLessEqual(steam.humidity.max(), 1.0)

    def test_cold_coils_ice_up(self):
        cold = chambers.limited(chambers.usual(Kind.DEHUMIDIFIER, 2.5), 20.0)
        taken = {}
        for from_c in (10.0, 30.0):
            chamber = cold.__class__(**{**cold.__dict__, "compressor_from_c": from_c})
            ran = loads.run(boards_of([OAK]), program_of([OAK], 0.10, chamber), chamber, OUTDOORS, days=15.0)
            taken[from_c] = float(ran.water_kg_h[:, 1].sum())
        self.assertGreater(taken[10.0], 1.0)
        self.assertEqual(taken[30.0], 0.0)


class Followed(TestCase):
    def test_a_forecast_runs_through_what_happened(self):
        chamber = chambers.usual(Kind.DEHUMIDIFIER, OAK.volume_m3)
        boards, program = boards_of([OAK]), program_of([OAK], 0.08, chamber)
        cut = [Disturbance(Disturbed.POWER, 3.0, 8.0)]
        truth = loads.run(boards, program, chamber, OUTDOORS, disturbed=cut)
        weighed = [Weighed(board, day, float(truth.means[board, int(day * 24) - 1])) for board in range(8) for day in (5.0, 10.0)]
        knows = following.follow(boards, program, chamber, OUTDOORS, weighed, cut)
        blind = following.follow(boards, program, chamber, OUTDOORS, weighed)
        self.assertAlmostEqual(knows.pace, 1.0, delta=0.01)
        self.assertLess(blind.pace, 0.85)
        self.assertAlmostEqual(knows.ran.days, truth.days, delta=0.5)
