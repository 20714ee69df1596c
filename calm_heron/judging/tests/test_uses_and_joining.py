"""Verdicts for every use, a workshop's own tolerances, lots, two pieces to be joined, and what lies in a place."""

import re
from datetime import timedelta

from django.utils import timezone

from calm_heron.air.actions import keep_year, record_air
from calm_heron.air.models import YearSource
from calm_heron.judging import actions, stock_states
from calm_heron.judging.joining import joined
from calm_heron.judging.models import UseRule, WorkshopPurpose
from calm_heron.judging.purposes import Purposes, uses
from calm_heron.judging.queries import chosen, lot_progress
from calm_heron.judging.stock_states import overview
from calm_heron.judging.targets import Purpose, target
from calm_heron.judging.tests.test_judging import JudgingCase, answer_for
from calm_heron.measuring.actions import Taken, correct_reading, record_readings, strike_reading
from calm_heron.measuring.kinds import MeterKind
from calm_heron.measuring.models import Reading
from calm_heron.stock import actions as stock
from calm_heron.stock.kinds import PieceKind
from calm_heron.stock.models import LotPart, Piece
from tests.factories import make_aired_place, make_board, make_lot, make_meter, make_place, read_board
from tests.pages import text_of
from wood.air.climate import Climate
from wood.judging.readiness import State
from wood.uses import FINE, FRAMING, INSTRUMENT, OUTDOORS, PLANK_FLOOR, STRIP_FLOOR, TURNING, USES


class Uses(JudgingCase):
    def judged(self, use, *values, core=None, kind=PieceKind.BOARD, **sizes):
        board = make_board(self.owner, kind=kind, **sizes)
        read_board(self.owner, board, *values, core=core, meter=self.meter)
        return answer_for(board, self.place, use)

    def subfloor(self, *values, at=None):
        sub = make_board(self.owner, "douglas_fir_coast", kind=PieceKind.SUBFLOOR, place=self.place)
        read_board(self.owner, sub, *values, meter=self.meter, at=at)
        return sub

    def test_floors_are_judged_against_their_subfloor_by_their_width(self):
        missing = self.judged(STRIP_FLOOR, 9, 9.1, 9.2)
        self.assertEqual(missing.state, State.CANNOT_TELL)
        self.assertIn("Add the subfloor", missing.next_step)
        self.subfloor(11, 11.2, 11.1, 11)
        strip, plank = (self.judged(use, *values) for use, values in ((STRIP_FLOOR, [9.4] * 4), (PLANK_FLOOR, [7.9] * 4)))
        self.assertEqual((strip.state, plank.state), (State.READY, State.TOO_DRY))
        self.assertIn("of the subfloor in Bench room", plank.reason)
        self.assertIn("Lay it", strip.next_step)

    def test_an_old_subfloor_reading_is_not_trusted(self):
        self.subfloor(11, 11.2, at=timezone.now() - timedelta(days=60))
        self.assertIn("last read 60 days ago", self.judged(STRIP_FLOOR, 9, 9.1, 9.2).reason)

    def test_framing_has_a_limit_and_needs_no_place(self):
        self.assertEqual(self.judged(FRAMING, 14, 14.2, 13.8).state, State.READY)
        self.assertEqual(self.judged(FRAMING, 24, 24.2, 24).state, State.WAIT)
        self.assertEqual(self.judged(FRAMING, 6, 6.1, 6).state, State.READY)
        board = make_board(self.owner)
        read_board(self.owner, board, 14, 14.2, meter=self.meter)
        answer = answer_for(board, None, FRAMING)
        self.assertEqual(answer.state, State.READY)
        self.assertIn("19%", answer.reason)

    def test_outdoors_turning_and_instruments_each_have_their_closeness(self):
        self.assertEqual(self.judged(OUTDOORS, 11, 11.1, 11, 11).state, State.READY)
        self.assertEqual(self.judged(TURNING, 10.2, 10.2, 10.1, 10.2, kind=PieceKind.BOWL).state, State.READY)
        even = {"core": 9.4}
        self.assertEqual(self.judged(INSTRUMENT, 9.2, 9.2, 9.2, 9.2, **even).state, self.judged(FINE, 9.2, 9.2, 9.2, 9.2, **even).state)
        uneven = {"core": 10.0}
        self.assertEqual(self.judged(INSTRUMENT, 9.2, 9.2, 9.2, 9.2, **uneven).state, State.TOO_UNEVEN)
        self.assertNotEqual(self.judged(FINE, 9.2, 9.2, 9.2, 9.2, **uneven).state, State.TOO_UNEVEN)

    def test_the_page_of_every_use_answers_for_every_kind(self):
        self.subfloor(9, 9.1)
        for kind in PieceKind:
            piece = make_board(self.owner, kind=kind)
            read_board(self.owner, piece, 9.1, 9.2, meter=self.meter)
            for use in uses(self.owner.workshop):
                with self.subTest(f"{kind} {use}"):
                    self.assertEqual(self.client.get(f"{self.shop}stock/{piece.tag}/?use={use}").status_code, 200)

    def test_a_kind_is_judged_for_what_it_is_made_for_unless_asked_otherwise(self):
        floor = make_board(self.owner, kind=PieceKind.FLOORING, width_m=0.06, place=self.place)
        self.assertEqual(chosen(self.owner.workshop, {}, floor).use, STRIP_FLOOR)
        floor.width_m = 0.12
        self.assertEqual(chosen(self.owner.workshop, {}, floor).use, PLANK_FLOOR)
        self.assertEqual(chosen(self.owner.workshop, {"use": "general"}, floor).use.key, "general")


class OwnRules(JudgingCase):
    def send(self, **figures):
        return self.client.post(f"{self.shop}uses/", figures)

    def test_a_workshops_tolerance_goes_everywhere_and_emptied_it_is_usual_again(self):
        read_board(self.owner, self.board, 11.6, 11.7, 11.6, 11.6, meter=self.meter)
        self.assertNotEqual(self.answer(uses(self.owner.workshop)["fine"]).state, State.READY)
        self.assertEqual(self.send(fine_tolerance="2.5", framing_limit="16").status_code, 302)
        changed = uses(self.owner.workshop)
        self.assertEqual((changed["fine"].tolerance, changed["framing"].limit), (0.025, 0.16))
        self.assertEqual(self.answer(changed["fine"]).state, State.READY)
        self.assertEqual(overview(self.owner.workshop, Purposes(self.owner.workshop)).counts[State.READY], 1)
        self.assertIn("fine work, ± 2.5", text_of(self.client.get(self.address)))
        self.send(fine_tolerance="")
        self.assertEqual(uses(self.owner.workshop)["fine"], FINE)
        self.assertFalse(UseRule.objects.exists())

    def test_impossible_ones_are_refused_beside_their_field(self):
        for sent in (
            {"fine_tolerance": "0"},
            {"fine_tolerance": "50"},
            {"general_evenness": "-1"},
            {"framing_limit": "90"},
            {"fine_tolerance": "close"},
        ):
            answer = self.send(**sent)
            self.assertEqual((answer.status_code, list(answer.context["form"].errors)), (422, list(sent)))
        self.assertFalse(UseRule.objects.exists())


class LotVerdicts(JudgingCase):
    @classmethod
    def setUpTestData(cls):
        super().setUpTestData()
        cls.lot = make_lot(cls.owner, 30)

    def read(self, part, *values):
        sample = stock.add_sample(self.owner, self.lot, part)
        read_board(self.owner, sample, *values, meter=self.meter)
        return sample

    def test_reading_on_says_where_next_how_sure_and_when_it_is_enough(self):
        self.assertEqual(lot_progress(self.lot, FINE).next_part, "deep")
        self.read(LotPart.OUTER, 9.1, 9.2)
        self.read(LotPart.MIDDLE, 9.2, 9.3)
        progress = lot_progress(self.lot, FINE)
        self.assertEqual((progress.next_part, progress.mean.unread, progress.enough), ("deep", ("deep",), False))
        widths = [progress.mean.half_width]
        for _ in range(8):
            self.read(LotPart(lot_progress(self.lot, FINE).next_part), 9.2, 9.2)
            widths.append(lot_progress(self.lot, FINE).mean.half_width)
        # From the third on every part is read; before, their differences were not yet told from scatter.
        self.assertEqual(widths[1:], sorted(widths[1:], reverse=True))
        self.assertTrue(lot_progress(self.lot, uses(self.owner.workshop)["general"]).enough)
        self.assertEqual(answer_for(self.lot, self.place, uses(self.owner.workshop)["general"]).state, State.READY)

    def test_the_odd_board_is_named_and_a_lot_of_unlike_boards_is_uneven(self):
        for part, value in ((LotPart.OUTER, 9.1), (LotPart.OUTER, 9.2), (LotPart.MIDDLE, 9.0), (LotPart.MIDDLE, 9.3)):
            self.read(part, value, value)
        odd = self.read(LotPart.DEEP, 12.4, 12.4)
        self.assertEqual(lot_progress(self.lot, FINE).odd, [odd.tag])
        page = self.client.get(f"{self.shop}stock/{self.lot.tag}/")
        self.assertContains(page, f"Odd: {odd.tag}")
        self.assertContains(page, "Separate wet boards from dry")

    def test_boards_without_a_name_keep_the_numbers_that_are_shown_beside_them(self):
        record_readings(self.owner, self.lot, self.meter, [Taken(0.20)], 20, at=timezone.now() - timedelta(days=40))
        record_readings(self.owner, self.lot, self.meter, [Taken(value) for value in (0.091, 0.092, 0.090, 0.093, 0.128)], 20)
        self.assertEqual(lot_progress(self.lot, FINE).odd, ["board 6"])
        page = self.client.get(f"{self.shop}stock/{self.lot.tag}/")
        shown = re.search(r"12\.8 ± [\d.]+ board (\d+)", text_of(page))
        self.assertEqual(shown[1], "6")
        strike_reading(self.owner, Reading.objects.get(raw=0.091))
        self.assertEqual(lot_progress(self.lot, FINE).odd, ["board 6"])
        correct_reading(self.owner, Reading.objects.get(raw=0.128), raw=0.130)
        self.assertEqual(lot_progress(self.lot, FINE).odd, ["board 6"])

    def test_the_overview_counts_a_lot_once_and_leaves_subfloors_and_used_wood_out(self):
        self.read(LotPart.OUTER, 9.2, 9.2)
        make_board(self.owner, kind=PieceKind.SUBFLOOR)
        removed = make_board(self.owner)
        read_board(self.owner, removed, 9.2, 9.3, meter=self.meter)
        stock.set_status(self.owner, [(removed.pk, removed.version)], "used")
        self.assertEqual(overview(self.owner.workshop, Purposes(self.owner.workshop)).total, 2)


class Joining(JudgingCase):
    def joined(self, item, other, use="fine"):
        return joined(item, other, chosen(self.owner.workshop, {"use": use}), self.owner.workshop.system)

    def fresh(self, *values, species="white_oak", meter=None, **sizes):
        board = make_board(self.owner, species, **sizes)
        read_board(self.owner, board, *values, meter=meter or self.meter)
        return board

    def test_one_meter_on_one_species_tells_what_two_cannot(self):
        values = ((9.2, 9.2, 9.3, 9.1, 9.2), (9.4, 9.3, 9.4, 9.3, 9.4))
        first, other = self.fresh(*values[0]), self.fresh(*values[1])
        same = self.joined(first, other)
        self.assertEqual(same.state, State.READY)
        self.assertIn("its own error cancels out", same.reason)
        vague = make_meter(self.owner, tolerance=0.015)
        self.assertEqual(self.joined(first, self.fresh(*values[1], meter=vague)).state, State.CANNOT_TELL)

    def test_apart_is_apart_and_the_wetter_one_waits(self):
        first, other = self.fresh(9.2, 9.2, 9.3, 9.2), self.fresh(13, 13.1, 13, 13.1)
        result = self.joined(first, other)
        self.assertEqual(result.state, State.WAIT)
        self.assertIn(f"Let {other.tag}, the wetter one", result.next_step)

    def test_two_species_move_by_their_own_figures(self):
        # Wood Handbook ch. 4: tangential 11.9% against 4.1%, fibre saturation 30% against 24%; both from 14% to the 9.2% of the room.
        beech, mahogany = (self.fresh(14, 14, 14, species=key, ring_angle_deg=0) for key in ("american_beech", "honduran_mahogany"))
        result = self.joined(beech, mahogany)
        level = target(Purpose(self.place, FINE)).moisture
        for change, shrinkage, saturation in zip(result.moves.settling, (0.119, 0.041), (0.30, 0.24), strict=True):
            green = 1 - shrinkage * (saturation - 0.14) / saturation
            self.assertAlmostEqual(change, -0.6 * shrinkage * (0.14 - level) / saturation / green, places=4)
        self.assertIn("nothing pulls at the joint", result.movement)

    def test_the_page_says_what_it_cannot_compare(self):
        first, unread, wenge = self.fresh(9.2, 9.2), make_board(self.owner), self.fresh(9.2, species="wenge")
        for question, says in (
            ({"one": first.tag, "other": unread.tag}, "has no usable reading"),
            ({"one": first.tag, "other": first.tag}, "one and the same"),
            ({"one": first.tag, "other": "nope-9"}, "has the tag “nope-9”"),
            ({"one": first.tag, "other": wenge.tag}, "no shrinkage figure"),
            ({}, "type both tags"),
            ({"one": "'><b>", "other": "x"}, "&lt;b&gt;"),
        ):
            with self.subTest(question):
                self.assertContains(self.client.get(f"{self.shop}compare/", question), says)

    def test_two_lots_are_compared_by_their_boards(self):
        lots = []
        for value in (9.2, 9.3):
            lot = make_lot(self.owner, 12)
            for part in (LotPart.OUTER, LotPart.MIDDLE, LotPart.DEEP):
                sample = stock.add_sample(self.owner, lot, part)
                read_board(self.owner, sample, value, value, meter=self.meter)
            lots.append(lot)
        self.assertIn(self.joined(*lots, use="general").state, (State.READY, State.CLOSE))


class Places(JudgingCase):
    def test_a_place_shows_what_lies_there_with_its_verdicts(self):
        self.board.place = self.place
        self.board.save()
        read_board(self.owner, self.board, 9.2, 9.2, 9.3, 9.2, meter=self.meter)
        record_readings(self.owner, make_lot(self.owner, 5, place=self.place), self.meter, [Taken(0.15)], 20)
        other = make_board(self.owner, place=make_aired_place(self.owner))
        page = self.client.get(f"{self.shop}air/{self.place.pk}/")
        self.assertContains(page, "What is here")
        self.assertContains(page, self.board.tag)
        self.assertContains(page, "<strong>1</strong> ready")
        self.assertNotContains(page, f"{other.tag}</a>")

    def test_pinless_and_pin_readings_count_alike_in_the_list(self):
        pinless = make_meter(self.owner, kind=MeterKind.PINLESS, density_setting=0.68, depth_m=0.02)
        read_board(self.owner, self.board, 9.2, meter=pinless)
        self.assertEqual(Piece.objects.of(self.owner.workshop).filter(moisture__mean__gt=0.05).count(), 1)


class ChangedMeanwhile(JudgingCase):
    """Settings that two people change at once: the second is told, and what they meant can be kept."""

    def seen(self, page: str) -> str:
        return re.search(r'name="seen" value="([^"]+)"', self.client.get(page).content.decode())[1]

    def test_of_how_close_uses_must_be(self):
        page = f"/w/{self.owner.workshop.slug}/uses/"
        self.client.force_login(self.owner.person)
        seen = self.seen(page)
        actions.set_uses(self.owner, {"general": {"tolerance": 0.03, "evenness": None}})
        form = {"fine_tolerance": "0.8", "once": "a", "seen": seen}
        late = self.client.post(page, form)
        self.assertContains(late, "Someone else has changed how close uses must be since you opened it.", status_code=422)
        self.assertContains(late, 'value="0.8"', status_code=422)
        self.assertFalse(UseRule.objects.of(self.owner.workshop).filter(use_key="fine").exists())
        meant = re.search(r'name="seen" value="([^"]+)"', late.content.decode())[1]
        self.assertEqual(self.client.post(page, form | {"seen": meant}).status_code, 302)
        self.assertAlmostEqual(UseRule.objects.get(use_key="fine").tolerance, 0.008)

    def test_of_where_verdicts_start_from(self):
        bench, hall = make_place(self.owner, name="Bench by the door"), make_place(self.owner, name="Hall")
        self.client.force_login(self.owner.person)
        today = f"/w/{self.owner.workshop.slug}/"
        seen = self.seen(f"{today}?place={hall.pk}&use=general")
        actions.set_workshop_purpose(self.owner, Purpose(bench, USES["fine"]))
        form = {"place": hall.pk, "use": "general", "seen": seen}
        self.assertContains(self.client.post(f"{today}aim/", form, follow=True), "Someone else has changed where verdicts start from")
        self.assertEqual(WorkshopPurpose.objects.get().place, bench)
        self.client.post(f"{today}aim/", form | {"seen": self.seen(f"{today}?place={hall.pk}&use=general")})
        self.assertEqual(WorkshopPurpose.objects.get().place, hall)


class WhatCannotBeTold(JudgingCase):
    def listed(self, board):
        """Its state as lists have it, in which nothing is worked out piece by piece."""
        purposes = Purposes(self.owner.workshop, {"place": str(self.place.pk), "use": FINE.key})
        return stock_states.states_of([board], purposes)[board.pk]

    def test_a_board_that_was_carried_to_other_air_is_read_again_after_a_week(self):
        shed = make_place(self.owner, name="Shed")
        read_board(self.owner, self.board, 9.1, 9.3, 9.2, meter=self.meter, at=timezone.now() - timedelta(days=12))
        self.assertEqual(answer_for(self.board, self.place).state, State.READY)
        stock.move(self.owner, [(self.board.pk, self.board.version)], shed)
        self.board.refresh_from_db()
        self.assertEqual(answer_for(self.board, self.place).state, State.READY)
        Piece.objects.filter(pk=self.board.pk).update(moved_at=timezone.now() - timedelta(days=9))
        self.board.refresh_from_db()
        answer = answer_for(self.board, self.place)
        self.assertEqual((answer.state, self.listed(self.board)), (State.CANNOT_TELL,) * 2)
        self.assertIn("moved 9 days ago", answer.reason)
        read_board(self.owner, self.board, 9.1, 9.3, 9.2, meter=self.meter)
        self.assertEqual((answer_for(self.board, self.place).state, self.listed(self.board)), (State.READY,) * 2)

    def test_no_meter_tells_of_veneer_and_the_air_of_the_last_days_does(self):
        veneer = make_board(self.owner, thickness_m=0.0028)
        read_board(self.owner, veneer, 9.1, 9.3, 9.2, meter=self.meter)
        answer = answer_for(veneer, self.place)
        self.assertEqual((answer.state, self.listed(veneer)), (State.CANNOT_TELL,) * 2)
        low, high = (float(number) for number in re.search(r"between ([\d.]+) and ([\d.]+)%", answer.reason).groups())
        self.assertLess(low, high)
        self.assertLess(high - low, 3.0)
        self.assertEqual(answer_for(veneer, self.place, FRAMING).state, State.READY)

    def test_a_room_that_nobody_lives_in_is_judged_by_the_year_it_will_have(self):
        record_air(self.owner, self.place, 8.0, 0.80)
        read_board(self.owner, self.board, 8.0, 8.1, 8.0, meter=self.meter)
        self.place.change(not_lived_in=True)
        answer = answer_for(self.board, self.place)
        self.assertEqual(answer.state, State.CANNOT_TELL)
        self.assertIn("as it will be heated", answer.next_step)
        year = Climate((20.0,) * 12, (0.42,) * 12, (0.1,) * 12, (2.0,) * 12)
        keep_year(self.owner, self.place, 0, YearSource.TYPED, "", year)
        answer = answer_for(self.board, self.place)
        self.assertEqual(answer.state, State.READY)
        self.assertIn("isn’t on yet", answer.next_step)
        self.place.change(not_lived_in=False)
        self.assertNotIn("does not run yet", answer_for(self.board, self.place).next_step)
