"""A load heated through: its hours, its power against what wood and walls take, resin, colour and checks."""

from dataclasses import replace
from unittest import TestCase

import numpy as np

from wood.air import climate
from wood.drying.defects import Defect, RiskLevel
from wood.kiln import chambers, heat, heat_load
from wood.kiln.chambers import Kind
from wood.kiln.heat_load import Resin, darkens, heated, resin
from wood.kiln.sharing import Lot
from wood.species import species_named

OUTDOORS = climate.pattern("mild_inland").year.starting(280)
PINE, SPRUCE, FIR = (species_named(name) for name in ("eastern_white_pine", "red_spruce", "douglas_fir_coast"))
OLD = tuple(Lot(wood.common_name, wood, 0.0254, 0.13, 0.4) for wood in (PINE, SPRUCE, FIR))
KILN = replace(chambers.usual(Kind.VENTED, 1.2), hottest_c=80.0)


class ReclaimedSoftwoods(TestCase):
    """Several kinds, air-dry, an inch thick, brought to 65°C and left to cool."""

    @classmethod
    def setUpClass(cls):
        super().setUpClass()
        cls.heated = heated(OLD, KILN, OUTDOORS, 12.0, 65.0, 1.0)

    def test_it_is_there_within_a_working_day_or_two_and_cools_slowly(self):
        self.assertTrue(4.0 <= self.heated.to_core_h <= 24.0, self.heated.to_core_h)
        self.assertGreater(self.heated.cooled_h, self.heated.hours + 6)

    def test_its_power_is_what_wood_and_walls_take(self):
        dry = sum(board.share * board.figures.wood.density for board in self.heated.ran.boards) * 1.2
        wood_kwh = dry * (1500 + 0.13 * 4186) * (65.0 - 12.0) / 3.6e6
        walls_kwh = KILN.walls_w_k * (71.0 - 12.0) * self.heated.hours / 1000
        # Leaks and steam come beside; fans give heat, too.
        self.assertGreater(self.heated.energy_kwh, wood_kwh)
        self.assertLess(self.heated.energy_kwh, 1.6 * (wood_kwh + walls_kwh))

    def test_it_hardly_checks_and_hardly_moves(self):
        checks = [risk for _, risk in self.heated.risks if risk.kind in (Defect.FACE_CHECKS, Defect.END_CHECKS, Defect.HONEYCOMB)]
        self.assertTrue(checks)
        self.assertTrue(all(risk.level is RiskLevel.LOW for risk in checks))
        self.assertLess(abs(self.heated.dried), 0.01)

    def test_damp_boards_and_thick_ones_come_later(self):
        damp = heated([replace(lot, start=0.28) for lot in OLD], KILN, OUTDOORS, 12.0, 65.0)
        thick = heated([replace(lot, thickness_m=0.075) for lot in OLD], KILN, OUTDOORS, 12.0, 65.0)
        self.assertGreater(damp.to_core_h, self.heated.to_core_h)
        self.assertGreater(thick.to_core_h, self.heated.to_core_h)

    def test_a_cool_chamber_never_gets_there(self):
        cool = heated(OLD, chambers.usual(Kind.DEHUMIDIFIER, 1.2), OUTDOORS, 12.0, 65.0)
        self.assertFalse(cool.is_reached)
        self.assertTrue(np.isinf(cool.hours))
        self.assertLess(cool.coldest_core_c, 50.1)


class Effects(TestCase):
    def test_pitch_is_set_only_by_the_full_heat_for_the_full_time(self):
        self.assertIs(resin(PINE, 50.0, 48.0), Resin.AS_IT_IS)
        self.assertIs(resin(PINE, 65.0, 48.0), Resin.PARTLY)
        self.assertIs(resin(PINE, 71.0, 2.0), Resin.PARTLY)
        self.assertIs(resin(PINE, 71.0, 24.0), Resin.SET)
        self.assertIs(resin(species_named("eastern_hemlock"), 71.0, 24.0), Resin.NONE)

    def test_pale_wood_darkens_only_while_it_is_wet_and_hot(self):
        maple = species_named("sugar_maple")
        self.assertTrue(darkens(maple, 0.5, 65.0))
        self.assertFalse(darkens(maple, 0.12, 65.0))
        self.assertFalse(darkens(maple, 0.5, 45.0))
        self.assertFalse(darkens(species_named("white_oak"), 0.5, 65.0))

    def test_insects_by_warmth_keep_to_their_rules(self):
        rows = {row.aim.key if row.aim else "powderpost": row.hours for row in heat.compared(0.0254, 0.15, 15.0, 0.12)}
        for aim in heat.AIMS.values():
            for core, hours in zip(heat.CORES_C, rows[aim.key], strict=True):
                self.assertEqual(hours is not None, core >= aim.core_c - 0.05, (aim.key, core))
                if hours is not None:
                    self.assertGreater(hours, aim.hold_min / 60)
        # T404-b-4: 10 hours at 54.4°C and 3 at 60°C for an inch.
        self.assertEqual(rows["powderpost"], (None, 10.0, 3.0, 3.0))
        thick = {row.aim.key if row.aim else "powderpost": row.hours for row in heat.compared(0.0762, 0.15, 15.0, 0.12)}
        self.assertGreater(thick["packing"][1], rows["packing"][1])

    def test_the_load_is_a_load(self):
        with self.assertRaises(ValueError):
            heat_load.heated([], KILN, OUTDOORS, 12.0, 65.0)
