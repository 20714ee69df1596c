"""What wood is for: asked once, kept for the piece, and the same on every page; by each approach; and what stands in the way of keeping
it.
"""

import re

from django.utils import timezone

from calm_heron.air.models import Normals, YearSource
from calm_heron.judging import actions, queries, stock_states
from calm_heron.judging.models import PiecePurpose, UseRule
from calm_heron.judging.purposes import Purposes, uses
from calm_heron.judging.queries import chosen
from calm_heron.judging.settled import sized
from calm_heron.judging.targets import Purpose, target
from calm_heron.judging.tests.test_judging import JudgingCase, answer_for
from calm_heron.logbook.models import Entry
from calm_heron.logbook.words import describe
from calm_heron.measuring.actions import Taken, record_readings
from calm_heron.stock import actions as stock
from calm_heron.stock.kinds import PieceKind
from calm_heron.stock.models import LotPart, Piece
from calm_heron.workshops.refusals import Refused
from calm_heron.workshops.versions import Overtaken
from tests.factories import make_aired_place, make_board, make_lot, make_meter, make_place, read_board
from tests.pages import text_of
from wood.judging.readiness import Cause, State
from wood.uses import FINE, GENERAL, PLANK_FLOOR, Approach

# A heated room by the month: dry in winter, damp in summer.
SEASONS = [0.36, 0.36, 0.40, 0.46, 0.52, 0.58, 0.62, 0.62, 0.58, 0.50, 0.44, 0.38]


def give_year(place, humidity, temperature_c=20.0):
    """Twelve months of a place: its humidity, the same all year or one for each month."""
    months = [humidity] * 12 if isinstance(humidity, float) else list(humidity)
    return Normals.objects.create(
        workshop=place.workshop,
        place=place,
        source=YearSource.TYPED,
        temperature_c=[temperature_c] * 12,
        relative_humidity=months,
        wind_m_s=[0.3] * 12,
        daily_swing_c=[2.0] * 12,
    )


class Schools(JudgingCase):
    def test_the_mean_of_a_known_year_goes_before_the_last_four_weeks(self):
        self.assertIs(target(Purpose(self.place, FINE, Approach.YEAR)).approach, Approach.WEEKS)
        give_year(self.place, 0.40, 21.0)
        year, weeks = (target(Purpose(self.place, FINE, approach)) for approach in (Approach.YEAR, Approach.WEEKS))
        self.assertAlmostEqual(year.moisture, 0.077, delta=0.002)
        self.assertAlmostEqual(weeks.moisture, 0.092, delta=0.002)
        read_board(self.owner, self.board, 9.2, 9.3, 9.1, 9.2, meter=self.meter)
        self.assertIn("that wood like this averages in Bench room over the year", answer_for(self.board, self.place).reason)
        self.assertEqual(answer_for(self.board, self.place, approach=Approach.WEEKS).state, State.READY)

    def test_a_year_is_enough_where_the_air_was_never_read(self):
        hall = make_place(self.owner, name="Hall")
        give_year(hall, 0.5)
        read_board(self.owner, self.board, 9.2, 9.3, 9.1, 9.2, meter=self.meter)
        self.assertNotEqual(answer_for(self.board, hall).state, State.CANNOT_TELL)

    def test_a_moisture_that_somebody_names_has_no_doubt_of_its_own(self):
        read_board(self.owner, self.board, 8.0, 8.1, 7.9, 8.0, meter=self.meter)
        page = self.client.get(self.address, {"approach": "typed", "moisture": "8"})
        self.assertContains(page, "the target of 8.0%")
        self.assertContains(page, 'value="8"')
        self.assertEqual(page.context["answer"].state, State.READY)

    def test_a_moisture_nobody_works_wood_at_is_said_so_and_stays_typed(self):
        read_board(self.owner, self.board, 8.0, 8.1, meter=self.meter)
        for typed in ("", "90", "nine", "-1", "8" * 300):
            page = self.client.get(self.address, {"approach": "typed", "moisture": typed})
            self.assertContains(page, "Set one between 3 and 30%")
        self.assertContains(self.client.get(self.address, {"approach": "typed", "moisture": "90"}), 'value="90"')

    def test_a_place_a_use_or_an_approach_that_there_is_not_is_not_found(self):
        for question in ({"approach": "guess"}, {"place": "999999"}, {"use": "sculpture"}):
            self.assertEqual(self.client.get(self.address, question).status_code, 404)


class WithTheSeason(JudgingCase):
    """Wood that has settled with its room as that is today, whatever day it is."""

    @classmethod
    def setUpTestData(cls):
        super().setUpTestData()
        give_year(cls.place, SEASONS)
        # So close that the average of the year alone never covers what the season does.
        UseRule.objects.create(workshop=cls.owner.workshop, use_key="fine", tolerance=0.003)
        cls.sharp = make_meter(cls.owner, tolerance=0.001)

    def edges(self):
        purpose = Purpose(self.place, uses(self.owner.workshop)["fine"])
        return target(purpose).edges(purpose.use, sized(self.board), timezone.localtime())

    def read(self, moisture: float):
        read_board(self.owner, self.board, *[moisture * 100] * 6, meter=self.sharp)
        return answer_for(self.board, self.place, uses(self.owner.workshop)["fine"])

    def test_it_works_now_on_every_page_and_is_never_called_ready(self):
        edges = self.edges()
        average = (edges.low + edges.high) / 2
        there = max((edges.now_low + 0.0005, edges.now_high - 0.0005), key=lambda edge: abs(edge - average))
        answer = self.read(there)
        self.assertEqual((answer.state, answer.word[:9]), (State.WORKS_NOW, "Works now"))
        self.assertIn("it has settled in Bench room as it is today", answer.reason)
        self.assertIn("so it will still move with the seasons", answer.reason)
        page = text_of(self.client.get(self.address))
        self.assertRegex(page, r"Through the year it then goes between [\d.]+% in \w+ and [\d.]+% in \w+")
        self.assertRegex(page, r"on its width of 200 mm leave [\d.]+ mm to (shrink|swell)")
        self.assertEqual(stock_states.states_of([self.board], Purposes(self.owner.workshop))[self.board.pk], State.WORKS_NOW)
        counts = self.client.get(self.shop).context["overview"].counts
        self.assertEqual((counts[State.READY], counts[State.WORKS_NOW]), (0, 1))
        self.assertContains(self.client.get(f"{self.shop}stock/?q=works-now"), self.board.tag)
        self.assertIn("Works now", text_of(self.client.get(f"{self.address}drying/")))

    def test_drier_wood_may_be_worked_down_to_what_thin_wood_gets_there(self):
        edges = self.edges()
        answer = self.read(edges.driest + 0.002)
        self.assertEqual((answer.state, answer.word), (State.DRY, "Dry, ready to work"))
        self.assertIn("Dry, ready to work", text_of(self.client.get(f"{self.address}drying/")))
        self.board = make_board(self.owner)
        self.assertEqual(self.read(edges.driest - 0.004).state, State.TOO_DRY)


class OfAPiece(JudgingCase):
    @classmethod
    def setUpTestData(cls):
        super().setUpTestData()
        cls.hall = make_aired_place(cls.owner, name="Hall", relative_humidity=0.2)
        read_board(cls.owner, cls.board, 9.2, 9.3, 9.1, 9.2, meter=cls.meter)

    def keep(self, piece=None, **form):
        return self.client.post(
            f"{self.shop}stock/{(piece or self.board).tag}/aim/", {"place": self.hall.pk, "use": "general", **form}, follow=True
        )

    def state_in_list(self, piece) -> State:
        rows = self.client.get(f"{self.shop}stock/").context["rows"]
        return next(value for row, cells in rows if row == piece for column, value in cells if column.key == "verdict")

    def test_what_is_said_once_is_on_every_page(self):
        self.assertEqual(self.state_in_list(self.board), State.READY)
        self.assertContains(self.keep(), f"{self.board.tag} is for Hall and general work")
        aim = PiecePurpose.objects.get()
        self.assertEqual((aim.place, aim.use_key), (self.hall, "general"))
        page = self.client.get(self.address)
        self.assertEqual((page.context["about"].place, page.context["about"].use.key), (self.hall, "general"))
        self.assertEqual(page.context["answer"].state, State.WAIT)
        self.assertEqual(self.state_in_list(self.board), State.WAIT)
        today = self.client.get(self.shop).context
        self.assertEqual(today["overview"].counts[State.READY], 0)
        self.assertEqual([piece for piece, _ in self.client.get(f"{self.shop}stock/?q=ready").context["rows"]], [])
        self.assertEqual(self.client.get(f"{self.address}drying/").context["question"].purpose.place, self.hall)
        self.assertIn("is for Hall, general work", describe(Entry.objects.latest("id"), self.owner.workshop.system))

    def test_a_page_may_be_asked_for_another_and_the_piece_keeps_its_own(self):
        self.keep()
        question = self.client.get(self.address, {"place": self.place.pk, "use": "fine"})
        self.assertEqual(question.context["answer"].state, State.READY)
        self.assertEqual(PiecePurpose.objects.get().place, self.hall)
        self.assertEqual(self.client.get(self.address).context["about"].place, self.hall)

    def test_it_can_be_as_usual_again(self):
        self.keep()
        self.assertContains(self.keep(usual="1"), "is for the usual purpose here")
        self.assertFalse(PiecePurpose.objects.exists())
        self.assertEqual(self.client.get(self.address).context["about"].place, self.place)

    def test_two_people_who_change_it_at_once_are_told(self):
        seen = re.search(r'name="seen" value="([^"]+)"', self.client.get(self.address).content.decode())[1]
        actions.set_piece_purpose(self.owner, self.board, Purpose(self.place, GENERAL))
        self.assertContains(self.keep(seen=seen), f"Someone else has changed what {self.board.tag} is for since you opened it")
        self.assertEqual(PiecePurpose.objects.get().place, self.place)
        with self.assertRaises(Overtaken):
            actions.set_piece_purpose(self.owner, self.board, None, seen)

    def test_a_named_moisture_is_kept_and_one_that_cannot_be_is_refused(self):
        self.keep(approach="typed", moisture="8.5")
        self.assertEqual((PiecePurpose.objects.get().approach, PiecePurpose.objects.get().moisture), ("typed", 0.085))
        self.assertContains(self.keep(approach="typed", moisture="nothing"), "Set its target moisture")
        self.assertEqual(PiecePurpose.objects.get().moisture, 0.085)

    def test_sample_boards_are_for_what_their_lot_is_for(self):
        lot = make_lot(self.owner, 20)
        sample = stock.add_sample(self.owner, lot, LotPart.DEEP)
        self.keep(lot)
        self.assertEqual(chosen(self.owner.workshop, {}, sample).place, self.hall)
        with self.assertRaises(Refused):
            actions.set_piece_purpose(self.owner, sample, Purpose(self.place, FINE))
        read_board(self.owner, sample, 9.2, 9.2, meter=self.meter)
        purposes = Purposes(self.owner.workshop)
        self.assertEqual(
            stock_states.states_of([sample], purposes)[sample.pk],
            self.client.get(f"{self.shop}stock/{sample.tag}/").context["answer"].state,
        )

    def test_every_piece_is_judged_in_the_list_as_on_its_page_whatever_it_is_for(self):
        floor = make_board(self.owner, kind=PieceKind.FLOORING, width_m=0.12, place=self.hall)
        sub = make_board(self.owner, "douglas_fir_coast", kind=PieceKind.SUBFLOOR, place=self.hall)
        bowl, named = make_board(self.owner, kind=PieceKind.BOWL), make_board(self.owner)
        for piece, value in ((floor, 8), (sub, 8), (bowl, 11), (named, 9.2)):
            read_board(self.owner, piece, value, value + 0.1, value, value, meter=self.meter)
        self.keep(named, approach="weeks")
        states = stock_states.states_of(list(Piece.objects.all()), Purposes(self.owner.workshop))
        for piece in (floor, bowl, named, self.board):
            about = chosen(self.owner.workshop, {}, piece)
            self.assertEqual(states[piece.pk], queries.judged(piece, about.purpose, about.target).state, piece.tag)


class ThickAndLaid(JudgingCase):
    def test_thick_wood_is_not_ready_before_its_inside_is_known(self):
        thick = make_board(self.owner, "black_walnut", thickness_m=0.054)
        read_board(self.owner, thick, 9.1, 9.2, 9.3, 9.2, meter=self.meter)
        outside = answer_for(thick, self.place)
        self.assertEqual((outside.state, outside.verdict.cause), (State.CLOSE, Cause.INSIDE))
        self.assertIn("wet inside", outside.reason)
        self.assertIn("weigh it twice", outside.next_step)
        self.assertEqual(stock_states.states_of([thick], Purposes(self.owner.workshop))[thick.pk], State.CLOSE)
        read_board(self.owner, thick, 9.1, 9.2, 9.3, 9.2, core=9.5, meter=self.meter)
        self.assertEqual(answer_for(thick, self.place).state, State.READY)

    def test_a_fresh_cut_tells_of_the_inside(self):
        thick = make_board(self.owner, thickness_m=0.054)
        record_readings(self.owner, thick, self.meter, [Taken(0.092, condition="fresh"), Taken(0.093), Taken(0.092), Taken(0.091)], 20.0)
        self.assertEqual(answer_for(thick, self.place).state, State.READY)

    def test_a_floor_that_suits_its_subfloor_and_not_its_room_is_not_ready(self):
        flat = make_aired_place(self.owner, name="Flat", relative_humidity=0.30)
        sub = make_board(self.owner, "douglas_fir_coast", kind=PieceKind.SUBFLOOR, place=flat)
        read_board(self.owner, sub, 10.0, 10.1, 10.0, meter=self.meter, at=timezone.now())
        floor = make_board(self.owner, kind=PieceKind.FLOORING, width_m=0.12, place=flat, thickness_m=0.019)
        read_board(self.owner, floor, 9.6, 9.7, 9.6, 9.6, meter=self.meter)
        answer = answer_for(floor, flat, PLANK_FLOOR)
        self.assertEqual(answer.state, State.WAIT)
        self.assertIn("averages in Flat", answer.reason)
        self.assertEqual(stock_states.states_of([floor], Purposes(self.owner.workshop))[floor.pk], State.WAIT)

    def test_a_doubt_never_hides_a_difference_larger_than_itself(self):
        vague = make_aired_place(self.owner, rh_tolerance=0.08, days=2)
        read_board(self.owner, self.board, 12.9, 13.0, 12.9, 13.0, meter=self.meter)
        answer = answer_for(self.board, vague)
        self.assertGreater(answer.verdict.uncertainty, 0.015)
        self.assertEqual(answer.state, State.WAIT)
