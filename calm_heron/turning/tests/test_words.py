"""What is said of bowls: of their weights, before the lathe, and in the oven; each state in words of its own."""

from dataclasses import replace
from datetime import timedelta
from types import SimpleNamespace

from django.test import SimpleTestCase
from django.utils import timezone

from calm_heron.turning.bowls import lathe_words
from calm_heron.turning.bowls.finishing import Finish
from calm_heron.turning.kinds import WhereKind
from calm_heron.turning.oven import oven_words
from calm_heron.turning.shelf import shelf_words
from calm_heron.turning.shelf.weighing import NEVER, WeighedBowl
from tests.sentences import Sentences
from wood.turning import microwave
from wood.turning.lathe import May, Remedy, Verdict
from wood.turning.microwave import Felt, Heat, Next, Session, Step, Why
from wood.turning.tracing import Learnt
from wood.turning.weights import State
from wood.units import INCH, METRIC


def bowl(days_ago: float = 20.0, **changed) -> WeighedBowl:
    """A bowl first weighed some days ago, which is at rest 60 days after that."""
    weighed = WeighedBowl(
        first_at=timezone.now() - timedelta(days=days_ago),
        state=State.FALLING,
        absurd=(),
        curve=[[day, kg, kg - 0.05, kg + 0.05] for day, kg in ((0.0, 1.60), (20.0, 1.30), (60.0, 1.10), (100.0, 1.09))],
        dots=[],
        rest=(60.0, 50.0, 80.0),
        rest_kg=(1.10, 1.06, 1.14),
        dry_kg=(1.00, 0.97, 1.03),
        start=(0.60, 0.55, 0.65),
        moisture=(0.30, 0.27, 0.33),
        pace=(1.0, 0.8, 1.3),
        next_day=27.0,
        last_day=20.0,
        last_kg=1.30,
        count=6,
        level=0.09,
        reckonings={},
    )
    return replace(weighed, **changed)


class OnTheShelf(Sentences, SimpleTestCase):
    def test_every_state_has_a_word_a_shape_a_reason_and_a_line(self):
        words, lines = set(), set()
        for state in State:
            for system in (INCH, METRIC):
                word, rest, reason = shelf_words.answer(bowl(state=state), "Kitchen shelf", system)
                self.assert_readable(reason)
                self.assert_clean(word, rest)
                self.assertIn(state, shelf_words.SHAPES)
                self.assertIn("once settled", rest)
            words.add(word)
            lines.add(shelf_words.in_list(bowl(state=state), METRIC))
        self.assertEqual(len(words), len(State))
        self.assertEqual(len(lines), len(State))

    def test_it_names_the_place_where_it_has_one(self):
        for state in (State.FLAT, State.RISING, State.STALLED):
            self.assertIn("the loft", shelf_words.answer(bowl(state=state), "the loft", METRIC)[2])
            self.assertIn("its room", shelf_words.answer(bowl(state=state), "", METRIC)[2])

    def test_it_speaks_in_the_units_of_the_scale(self):
        self.assertIn("g", shelf_words.answer(bowl(), "", METRIC)[1])
        self.assertIn("oz", shelf_words.answer(bowl(), "", INCH)[1])
        self.assertNotIn(" g", shelf_words.answer(bowl(), "", INCH)[1])

    def test_few_weighings_are_said_to_be_few(self):
        self.assertIn("One weighing tells little", shelf_words.answer(bowl(count=1), "", METRIC)[2])
        self.assertIn("2 weighings tell little", shelf_words.answer(bowl(count=2), "", METRIC)[2])
        self.assertNotIn("little", shelf_words.answer(bowl(count=3), "", METRIC)[2])

    def test_one_that_should_have_come_to_rest_is_to_be_weighed(self):
        self.assertIn("should have settled by now", shelf_words.answer(bowl(days_ago=61.0), "", METRIC)[2])

    def test_when_is_a_day_with_its_band_from_now_on(self):
        said = shelf_words.when(bowl())
        self.assertRegex(said, r"^about .+ \(.+ to .+\)$")
        late = shelf_words.when(bowl(days_ago=70.0))
        self.assertRegex(late, r"^about .+ \(.+ to .+\)$")
        self.assertEqual(shelf_words.when(bowl(days_ago=90.0)).count("("), 0)

    def test_what_nobody_can_say_is_not_said(self):
        self.assertIn("too far off to say", shelf_words.when(bowl(rest=(60.0, 50.0, NEVER))))
        self.assertEqual(shelf_words.when(bowl(rest=(NEVER, NEVER, NEVER))), "not within four years")
        self.assertEqual(shelf_words.in_list(bowl(rest=(NEVER, 50.0, NEVER)), METRIC), "settled not within four years")

    def test_days_that_are_left_run_down(self):
        self.assertAlmostEqual(shelf_words.days_left(bowl(days_ago=20.0)), 40.0, delta=0.01)
        self.assertLess(shelf_words.days_left(bowl(days_ago=70.0)), 0)

    def test_water_is_told_as_bands(self):
        said = shelf_words.water(bowl(), METRIC)
        self.assert_readable(said)
        for edge in ("55", "65", "27", "33"):
            self.assertIn(edge, said)

    def test_pace_is_compared_with_its_species(self):
        for share, expected in ((1.0, "the usual pace"), (0.9, "the usual pace"), (1.8, "180% of the usual"), (0.5, "50% of the usual")):
            said = shelf_words.pace(bowl(pace=(share, 0.4, 2.0)))
            self.assert_readable(said)
            self.assertIn(expected, said)

    def test_by_whose_air_it_is_told_where_not_by_its_own(self):
        self.assertEqual(shelf_words.by_whose_air("Brick store", None), "")
        for place, whose, part in (
            ("Brick store", "", "a usual heated room"),
            ("", "Bench room", "the air in Bench room"),
            ("", "", "Nobody"),
        ):
            said = shelf_words.by_whose_air(place, whose)
            self.assert_readable(said)
            self.assertIn(part, said)

    def test_reckonings_are_told_the_weightiest_first_and_small_ones_not(self):
        said = shelf_words.reckoned(bowl(reckonings={"single": 0.30, "field": 0.66, "slab": 0.04}))
        self.assertEqual(said, "66% by the moisture field and the shell of this bowl; 30% by one exponential")
        for many in ([], [{}], [{}, {}]):
            self.assert_readable(shelf_words.counted_bowls(many))

    def test_the_next_weighing_is_today_a_day_or_before_the_lathe(self):
        self.assertEqual(shelf_words.next_weighing(bowl(next_day=18.0)), "Weigh it today.")
        self.assertRegex(shelf_words.next_weighing(bowl(next_day=40.0)), r"^Weigh it again on \d+ \w+\.$")
        self.assertIn("before it goes on the lathe", shelf_words.next_weighing(bowl(state=State.FLAT)))

    def test_the_list_says_what_is_due(self):
        self.assertEqual(shelf_words.due(None), "now")
        self.assertEqual(shelf_words.due(bowl(state=State.FLAT)), "–")
        self.assertEqual(shelf_words.due(bowl(next_day=18.0)), "now")
        self.assertNotEqual(shelf_words.due(bowl(next_day=40.0)), "now")
        self.assertEqual(shelf_words.in_list(None, METRIC), "not weighed yet")

    def test_a_word_that_may_mean_several_names_some(self):
        self.assertIn("No bowl", shelf_words.which("oak", []))
        self.assertNotIn("more", shelf_words.which("oak", ["oak-1", "oak-2"]))
        many = shelf_words.which("oak", [f"oak-{n}" for n in range(9)])
        self.assertIn("and 5 more", many)
        self.assert_readable(many)

    def test_what_it_should_weigh_is_read_off_its_curve(self):
        weighed = bowl(days_ago=0.0)
        self.assertEqual([round(kg, 3) for kg in weighed.expected_kg(weighed.first_at + timedelta(days=20))], [1.3, 1.25, 1.35])
        self.assertAlmostEqual(weighed.expected_kg(weighed.first_at + timedelta(days=10))[0], 1.45, places=3)
        self.assertAlmostEqual(weighed.expected_kg(weighed.first_at + timedelta(days=400))[0], 1.09, places=3)


def finish(may: May = May.YES, cracks=(), remedies=(), **changed) -> Finish:
    """A maple bowl before the lathe."""
    settled = Finish(
        piece=SimpleNamespace(species=SimpleNamespace(spoken_name="sugar maple")),
        known=SimpleNamespace(end_wall_m=0.008, turned_once=False, held="", held_m=None),
        weighed=None,
        shape=None,
        fits=None,
        verdict=Verdict(may, tuple(remedies), 0.012, 250, 500),
        tracings=[],
        cracks=list(cracks),
        learnt=Learnt(1.0, 0.1, 0),
        predicted_m=None,
    )
    return replace(settled, **changed)


def crack(where=WhereKind.RIM, depth_m: float = 0.004, length_m: float = 0.02) -> SimpleNamespace:
    return SimpleNamespace(where=where, depth_m=depth_m, length_m=length_m, mend=SimpleNamespace(how="filled", what="epoxy"))


class BeforeTheLathe(Sentences, SimpleTestCase):
    def test_every_verdict_has_its_word_and_its_reason(self):
        words = set()
        for may in May:
            for system in (INCH, METRIC):
                said = lathe_words.describe(finish(may), system)
                self.assert_readable(said.reason, said.speeds)
                words.add(said.word)
        self.assertEqual(len(words), len(May))

    def test_danger_is_called_so(self):
        self.assertIn("dangerous", lathe_words.describe(finish(May.NEVER), METRIC).word)

    def test_every_crack_is_told_with_what_becomes_of_it(self):
        for where in WhereKind:
            for remedy in Remedy:
                said = lathe_words.describe(finish(cracks=[crack(where)], remedies=[remedy]), METRIC)
                ((_, place, becomes, _fillable),) = said.cracks
                self.assertIn("4 mm deep", place)
                self.assertIn("20 mm long", place)
                self.assert_clean(place, becomes)
                self.assertEqual(becomes, "filled with epoxy" if remedy is Remedy.MENDED else lathe_words.REMEDIES[remedy])

    def test_speeds_defer_to_the_lathe(self):
        said = lathe_words.describe(finish(), METRIC).speeds
        self.assertIn("250", said)
        self.assertIn("500", said)
        self.assertIn("own limits come first", said)

    def test_a_shape_that_is_not_known_gives_no_verdict_but_keeps_the_cracks(self):
        said = lathe_words.describe(finish(cracks=[crack()], verdict=None), INCH)
        self.assertEqual((said.word, said.speeds, len(said.cracks)), ("Not known", "", 1))
        self.assert_readable(said.reason)

    def test_what_tracings_taught_is_told_once_there_are_some(self):
        self.assertEqual(lathe_words.describe(finish(), METRIC).learnt, "")
        about = lathe_words.describe(finish(learnt=Learnt(1.02, 0.1, 3)), METRIC).learnt
        self.assertIn("3 traced bowls of sugar maple went out of round about as predicted", about)
        more = lathe_words.describe(finish(learnt=Learnt(1.25, 0.1, 4)), METRIC).learnt
        self.assertIn("25% more out of round", more)
        less = lathe_words.describe(finish(learnt=Learnt(0.8, 0.1, 1)), METRIC).learnt
        self.assertIn("20% less out of round", less)
        self.assert_readable(about, more, less)


def session(*heats: Heat) -> Session:
    return Session(watts=800, first_kg=0.60, dry_kg=0.40, rest_kg=0.44, heats=heats)


class InTheOven(Sentences, SimpleTestCase):
    def test_every_step_says_what_to_do(self):
        for step in Step:
            for why in Why:
                said = oven_words.describe(session(), Next(step, why, 45.0, 0.3, 40.0, 12, 2.5), METRIC)
                self.assert_readable(said.reason, said.ahead)
                self.assert_clean(said.figure, said.beside)
                self.assertEqual(said.figure == "Stop", step in (Step.STOP_FLAT, Step.STOP_THERE))

    def test_steam_is_let_cool_first(self):
        said = oven_words.describe(session(), Next(Step.COOL_DOWN, Why.SHORTER, 30.0, 0.3, 90.0, 9, 2.0), METRIC)
        self.assertTrue(said.reason.startswith("It steamed"))

    def test_heats_left_are_counted_in_english(self):
        def ahead(left: int) -> str:
            return oven_words.describe(session(), Next(Step.HEAT, Why.SAME, 30.0, 0.3, 40.0, left, 0.5), METRIC).ahead

        self.assertIn("About 1 more heat:", ahead(1))
        self.assertIn("About 2 more heats,", ahead(2))
        self.assertIn("Nearly there", ahead(0))

    def test_rests_longer_than_a_day_are_told_in_days(self):
        said = oven_words.describe(session(), Next(Step.HEAT, Why.SAME, 30.0, 0.3, 3000.0, 4, 9.0), METRIC)
        self.assertNotIn("3000", said.beside)

    def test_a_clock_has_two_figures_for_seconds(self):
        self.assertEqual([oven_words.clock(seconds) for seconds in (5, 60, 95, 600)], ["0:05", "1:00", "1:35", "10:00"])

    def test_it_is_drawn_heat_by_heat_down_to_its_waterline(self):
        heats = tuple(Heat(40.0, 0.3, mass) for mass in (0.58, 0.55, 0.53))
        drawing = oven_words.drawing(session(*heats), METRIC)
        self.assertEqual(len(drawing.dots), 4)
        heights = [y for _, y in drawing.dots]
        self.assertEqual(heights, sorted(heights))
        self.assertGreater(drawing.rest, heights[-1])
        self.assertTrue(all(0 <= x <= drawing.width and 0 <= y <= drawing.height for x, y in drawing.dots))
        self.assertIn("3 heats", drawing.summary)

    def test_what_the_plan_itself_says_is_said_well(self):
        heats: tuple[Heat, ...] = ()
        for loss, felt in ((0.02, Felt.WARM), (0.02, Felt.STEAM), (0.001, Felt.COOL), (0.0, Felt.COOL), (0.0, Felt.COOL), (0.0, Felt.COOL)):
            now = session(*heats)
            step = microwave.next_step(now)
            said = oven_words.describe(now, step, INCH)
            self.assert_readable(said.reason, said.ahead)
            heats = (*heats, Heat(max(step.seconds, 10.0), max(step.level, 0.1), now.now_kg - loss, felt))
        self.assertIs(microwave.next_step(session(*heats)).step, Step.STOP_FLAT)

    def test_one_that_is_lighter_than_its_room_brings_it_to_is_stopped(self):
        now = session(Heat(40.0, 0.3, 0.43))
        said = oven_words.describe(now, microwave.next_step(now), METRIC)
        self.assertEqual((said.figure, said.beside), ("Stop", "it is dry enough"))
        self.assertIn("chars", said.reason)
