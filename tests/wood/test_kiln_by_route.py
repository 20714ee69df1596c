"""Routes through a chamber of one's own: they say what the kiln's plan says, keep to its limits, and count its turns."""

from dataclasses import replace
from unittest import TestCase

import numpy as np

from wood.air import climate
from wood.drying.diffusivity import of_species
from wood.drying.insects import Level
from wood.drying.methods import YARD, setting
from wood.drying.questions import Question
from wood.errors import NotKnown
from wood.kiln import chambers, plans
from wood.kiln.by_route import OwnRoute, travel
from wood.kiln.chambers import Inside, Kind
from wood.kiln.sharing import Lot
from wood.species import species_named

YEAR = climate.pattern("four_seasons").year.starting(105)
OAK = species_named("white_oak")
ASKED = Question(of_species(OAK), 0.0286, 0.70, 0.08, setting(YARD, YEAR))
KILN = chambers.usual(Kind.DEHUMIDIFIER, 2.5)


def plan(start: float, volume: float = 2.5, chamber=KILN, day: float = 0.0):
    outdoors = YEAR.starting(YEAR.start_day + day)
    return plans.plan([Lot("a", OAK, 0.0286, start, volume)], 0.08, replace(chamber, load_m3=volume), outdoors)


class Own(TestCase):
    def test_from_the_saw_it_is_the_plan_of_the_kiln(self):
        travelled, planned = travel(OwnRoute("k", KILN, YEAR, 2.5), OAK, ASKED), plan(0.70)
        self.assertEqual(travelled.answer.days, planned.ran.days)
        self.assertEqual((travelled.answer.low, travelled.answer.high), (planned.low_days, planned.high_days))
        self.assertEqual(travelled.kiln_days, planned.ran.days)
        self.assertAlmostEqual(travelled.energy_kwh_m3[0] * 2.5, sum(planned.ran.energy_kwh))

    def test_from_the_yard_its_kiln_days_are_those_of_the_plan_of_that_day(self):
        travelled = travel(OwnRoute("k", KILN, YEAR, 2.5, 0.25), OAK, ASKED)
        moved = travelled.moved[0]
        self.assertEqual((moved.moisture, moved.where), (0.25, "kiln"))
        self.assertAlmostEqual(travelled.kiln_days, plan(0.25, day=moved.day).ran.days)
        days = travelled.answer.history.days
        self.assertTrue((np.diff(days) > 0).all())
        self.assertAlmostEqual(float(np.interp(moved.day, days, travelled.answer.history.mean)), 0.25, delta=0.02)

    def test_what_it_does_not_hold_at_once_takes_turns(self):
        once, thrice = (travel(OwnRoute("k", KILN, YEAR, volume), OAK, ASKED) for volume in (2.5, 7.0))
        self.assertEqual(OwnRoute("k", KILN, YEAR, 7.0).turns, 3)
        self.assertAlmostEqual(thrice.answer.days, 3 * once.answer.days)
        self.assertEqual(OwnRoute("k", KILN, YEAR, 2.6).turns, 1)

    def test_a_weaker_or_a_cooler_chamber_takes_longer(self):
        weak = replace(KILN, litres_a_day=8.0, compressor_kw=0.13)
        cool = chambers.limited(KILN, 32.0)
        usual = travel(OwnRoute("k", KILN, YEAR, 2.5), OAK, ASKED).answer.days
        for chamber in (weak, cool):
            self.assertGreater(travel(OwnRoute("k", chamber, YEAR, 2.5), OAK, ASKED).answer.days, usual + 2)

    def test_what_nobody_knows_is_no_route(self):
        for asked in (replace(ASKED, target=0.22), replace(ASKED, thickness_m=0.2), replace(ASKED, start=0.06)):
            with self.assertRaises(NotKnown):
                travel(OwnRoute("k", KILN, YEAR, 2.5), OAK, asked)

    def test_insects_meet_it_in_the_yard_and_not_in_the_kiln(self):
        self.assertIs(travel(OwnRoute("k", KILN, YEAR, 2.5), OAK, ASKED).attack.level, Level.LOW)


class Described(TestCase):
    """Chambers by what their owners know; published plates and sizes are bounds, nothing was fitted to them."""

    def test_a_plate_of_damp_air_says_less_than_one_of_mild_air(self):
        # Household units rated 50 pints at 80°F and 60% are sold as some 90 to 110 at 90°F and 90%.
        for litres in (12.0, 50.0):
            mild, damp = chambers.rated(litres, 26.7, 0.60), chambers.rated(litres, 32.2, 0.90)
            self.assertTrue(1.8 <= mild / damp <= 2.2, mild / damp)
        self.assertAlmostEqual(chambers.rated(24.0, 38.0, 0.60), 24.0, delta=0.01)

    def test_a_small_room_holds_what_such_rooms_are_known_to_hold(self):
        # Eight by twelve by eight feet: 1,000 to 2,000 board feet of 4/4.
        feet = Inside(3.66, 2.44, 2.44).holds_m3(0.0286) / 0.00236
        self.assertTrue(1000 <= feet <= 2000, feet)
        self.assertGreater(Inside(3.66, 2.44, 2.44).holds_m3(0.0572), Inside(3.66, 2.44, 2.44).holds_m3(0.0286))

    def test_baffles_and_fewer_openings_speed_the_air(self):
        room = Inside(3.6, 2.4, 2.4)
        with_baffles, without = (room.speed_m_s(8000.0, 0.0286, baffles=given) for given in (True, False))
        self.assertGreater(with_baffles, 1.5 * without)
        self.assertGreater(room.speed_m_s(8000.0, 0.0572), with_baffles)
