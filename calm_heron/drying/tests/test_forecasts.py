"""One answer to “when” on every page, forecasts that are kept, renewed and held against what came, and wood carried from place to place."""

import re
from datetime import timedelta
from unittest import mock

from django.db import DatabaseError, transaction
from django.test import TestCase, override_settings
from django.utils import timezone

from calm_heron.air.kinds import PlaceKind
from calm_heron.drying import forecasts, words
from calm_heron.drying.forecasts import of_piece
from calm_heron.drying.models import Forecast
from calm_heron.judging import actions as judging
from calm_heron.judging.purposes import Purposes
from calm_heron.judging.queries import chosen
from calm_heron.judging.targets import Purpose
from calm_heron.judging.tests.test_purposes import SEASONS, give_year
from calm_heron.measuring.models import PieceMoisture
from calm_heron.stock import actions as stock
from calm_heron.stock.kinds import PieceKind
from calm_heron.stock.models import LotPart, Piece
from tests.cases import Committing
from tests.counting import query_count
from tests.factories import make_aired_place, make_board, make_lot, make_shop, read_board
from tests.pages import text_of
from tests.queue import work_off
from wood.judging.readiness import State
from wood.uses import FINE, GENERAL


class ForecastCase(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.owner, cls.place, cls.meter, cls.board = make_shop()
        give_year(cls.place, SEASONS)
        cls.yard = make_aired_place(cls.owner, name="Yard", kind=PlaceKind.YARD, temperature_c=12, relative_humidity=0.75)
        give_year(cls.yard, 0.75, 11.0)
        cls.shop = f"/w/{cls.owner.workshop.slug}/"

    def setUp(self):
        self.client.force_login(self.owner.person)

    def page(self, piece, tail="", **question) -> str:
        return text_of(self.client.get(f"{self.shop}stock/{piece.tag}/{tail}", question))

    def worked_out(self, piece):
        return of_piece(piece, chosen(self.owner.workshop, {}, piece), self.owner)


class OneTruth(ForecastCase):
    """Every page that speaks of a piece gives it one verdict, one date and one aim."""

    def pieces(self) -> list[Piece]:
        lot = make_lot(self.owner, 30)
        made = [
            make_board(self.owner),
            make_board(self.owner, "white_ash", thickness_m=0.054),
            make_board(self.owner, kind=PieceKind.BOWL, thickness_m=0.03),
            make_board(self.owner, kind=PieceKind.SLAB, thickness_m=0.07, width_m=0.5),
            make_board(self.owner, kind=PieceKind.LOG, width_m=0.4, place=self.yard),
            stock.add_sample(self.owner, lot, LotPart.DEEP),
            make_board(self.owner),
            make_board(self.owner, "white_ash", place=self.yard),
        ]
        for piece, values in zip(made, ((16,), (16.3,), (17,), (19,), (45,), (15,), (6.1,), (40,)), strict=True):
            read_board(self.owner, piece, *values, values[0] + 0.1, values[0], meter=self.meter)
        judging.set_piece_purpose(self.owner, made[1], Purpose(self.place, GENERAL))
        return [*made, lot]

    def test_verdict_date_and_aim_are_the_same_on_all_of_them(self):
        pieces = self.pieces()
        forecasts.renew(self.owner.workshop, [piece.pk for piece in pieces])
        rows = {
            piece.pk: {column.key: value for column, value in cells}
            for piece, cells in self.client.get(f"{self.shop}stock/").context["rows"]
        }
        for piece in pieces:
            # What is weighed is foretold by its weights (calm_heron/turning).
            if piece.traits.dries_by_weight:
                continue
            with self.subTest(piece.tag):
                verdict = self.client.get(f"{self.shop}stock/{piece.tag}/")
                drying = self.client.get(f"{self.shop}stock/{piece.tag}/drying/")
                question = drying.context["question"]
                self.assertEqual(rows[piece.pk]["verdict"], verdict.context["answer"].state)
                if question.place_target is None:
                    continue
                self.assertEqual(question.state or verdict.context["answer"].state, verdict.context["answer"].state)
                self.assertEqual(question.purpose, verdict.context["about"].purpose)
                lines = [set(re.findall(r"ready to work about ([^;.]+)", text_of(page))) for page in (verdict, drying)]
                self.assertEqual(*lines)
                known = rows[piece.pk]["ready"]["known"]
                answer = drying.context["answer"]
                self.assertEqual(known.forecast.days, answer.days if answer.days < 1e6 else None)
                self.sped_up_from(piece, question, answer)

    def test_the_address_from_before_leads_on(self):
        page = self.client.get(f"{self.shop}stock/{self.board.tag}/hurry/?school=weeks")
        self.assertRedirects(page, f"{self.shop}stock/{self.board.tag}/speed-up/?school=weeks", 301)
        old, new = (self.client.get(f"{self.shop}stock/{self.board.tag}/?{name}=weeks") for name in ("school", "approach"))
        self.assertEqual(old.context["about"].purpose, new.context["about"].purpose)
        self.assertEqual(new.context["about"].purpose.approach, "weeks")

    def sped_up_from(self, piece, question, answer) -> None:
        """What hurrying is held against is the very same day."""
        result = self.client.get(f"{self.shop}stock/{piece.tag}/speed-up/").context["sped_up"]
        usual = [way for way in result.ways if way.is_usual]
        if usual and answer.days < 1e6:
            self.assertEqual(usual[0].when, words.on(question.start_date, answer.days))

    def test_the_fragment_and_the_page_say_the_same_for_another_purpose(self):
        read_board(self.owner, self.board, 16, 16.1, 16, meter=self.meter)
        question = {"place": self.place.pk, "use": "general", "approach": "weeks"}
        fragment = self.page(self.board, fragment="answer", **question)
        text = re.search(r"ready to work about [^.]+", fragment)[0]
        self.assertIn(text, self.page(self.board, **question))
        self.assertIn(text, self.page(self.board, "drying/", **question))


class Questions(ForecastCase):
    def test_wet_wood_dries_outside_first_and_is_carried_in(self):
        wet = make_board(self.owner, "white_ash", place=self.yard)
        read_board(self.owner, wet, 26, 26.2, 26.1, meter=self.meter)
        question = self.client.get(f"{self.shop}stock/{wet.tag}/drying/").context["question"]
        self.assertEqual((question.around.place, question.then.place, question.carried_at), (self.yard, self.place, 0.20))
        page = self.page(wet, "drying/")
        self.assertRegex(page, r"In Yard until about \d+ \w+( \d{4})?, at 20%, then in Bench room, it’s ready to work")
        self.assertRegex(page, "Move it to Bench room once|likely")
        self.assertLess(
            question.carried_on,
            timezone.localdate() + timedelta(days=self.client.get(f"{self.shop}stock/{wet.tag}/drying/").context["answer"].days),
        )
        stays = self.page(wet, "drying/", then="", where=f"place-{self.yard.pk}")
        self.assertNotIn("then in Bench room", stays)

    def test_air_dried_wood_goes_straight_in(self):
        read_board(self.owner, self.board, 16, 16.1, 16, meter=self.meter)
        question = self.client.get(f"{self.shop}stock/{self.board.tag}/drying/").context["question"]
        self.assertEqual((question.around.place, question.then), (self.place, None))

    def test_wood_beyond_the_meter_starts_green_and_a_wet_core_as_wet_as_it_is_at_least(self):
        green, core = make_board(self.owner, place=self.yard), make_board(self.owner, "black_walnut", thickness_m=0.054)
        read_board(self.owner, green, 45, 46, meter=self.meter)
        read_board(self.owner, core, 9.0, 9.1, 9.2, core=34, meter=self.meter)
        self.assertGreater(self.client.get(f"{self.shop}stock/{green.tag}/drying/").context["question"].start, 0.6)
        question = self.client.get(f"{self.shop}stock/{core.tag}/drying/").context["question"]
        self.assertTrue(question.at_least)
        self.assertAlmostEqual(question.start, 0.197, delta=0.001)
        history = self.client.get(f"{self.shop}stock/{core.tag}/drying/").context["answer"].history
        self.assertAlmostEqual(float(history.core[0]), 0.28, delta=0.003)
        self.assertIn("it may take longer", self.page(core, "drying/"))

    def test_ready_wood_is_told_what_the_year_does_with_it(self):
        give_year(self.yard, 0.75, 11.0) if not hasattr(self.yard, "normals") else None
        level = target_of(self)
        read_board(self.owner, self.board, *[level * 100] * 4, meter=self.meter)
        page = self.page(self.board, "drying/")
        self.assertIn("Ready now", page)
        self.assertRegex(page, r"From year to year it follows Bench room between [\d.]+ and [\d.]+%\.")

    def test_a_target_no_air_reaches_is_said_with_how_it_goes_on(self):
        read_board(self.owner, self.board, 16, 16.1, 16, meter=self.meter)
        page = self.page(self.board, "drying/", approach="typed", moisture="4")
        self.assertIn("Not in this air", page)
        self.assertRegex(
            page, r"it keeps moving between [\d.]+ and [\d.]+% from year to year and never comes within 1 of the target of 4.0%"
        )
        self.assertIn("points off", page)

    def test_wood_that_should_gain_is_not_sent_to_a_drier_room(self):
        page = self.page(self.board, "drying/", start="5", target="28")
        self.assertIn("won’t bring it up", page)
        self.assertIn("a damper place", page)
        self.assertNotIn("drier room", page)

    def test_a_date_far_off_or_unreadable_is_said_beside_its_field(self):
        read_board(self.owner, self.board, 16, 16.1, 16, meter=self.meter)
        for question, says in (
            ({"start_date": "2001-01-01"}, "more than 5 years away"),
            ({"carry": "2"}, "when it reaches"),
            ({"then": "place-0"}, "Select a valid choice"),
        ):
            self.assertIn(says, self.page(self.board, "drying/", **question))
        for days in (-700, 1):
            later = (timezone.localdate() + timedelta(days=days)).isoformat()
            self.assertIn("ready to work about", self.page(self.board, "drying/", start_date=later))


def target_of(case) -> float:
    about = chosen(case.owner.workshop, {}, case.board)
    return about.target.moisture


class Saved(ForecastCase):
    @classmethod
    def setUpTestData(cls):
        super().setUpTestData()
        read_board(cls.owner, cls.board, 16, 16.1, 16, meter=cls.meter)

    def test_what_was_shown_is_kept_once_a_day_with_its_rule_and_aim(self):
        for _ in range(3):
            self.page(self.board)
            self.page(self.board, "drying/")
        forecast = Forecast.objects.get()
        self.assertEqual((forecast.piece, forecast.aim.split("|")[:2], forecast.state), (self.board, ["Bench room", "fine"], "wait"))
        self.assertTrue(forecast.rule)
        self.assertTrue(forecast.low <= forecast.days <= forecast.high)
        self.assertEqual(len(forecast.curve_days), len(forecast.curve_mean))

    def test_what_is_only_asked_in_passing_is_not_kept(self):
        self.page(self.board, place=self.place.pk, use="general")
        self.page(self.board, "drying/", thickness_m="50 mm")
        self.assertFalse(Forecast.objects.exists())

    def test_it_is_never_changed(self):
        self.worked_out(self.board)
        for act in (lambda: Forecast.objects.update(days=1), lambda: Forecast.objects.all().delete()):
            with self.assertRaises(DatabaseError), transaction.atomic():
                act()

    def shown_before(self, days: int) -> None:
        """Today's forecast, as if it had been shown so many days ago."""
        with mock.patch.object(type(Forecast.objects), "bulk_create"):
            question, answer = self.worked_out(self.board)
            old = forecasts.keep(self.board, question, answer)
        old.at, old.day = timezone.now() - timedelta(days=days), timezone.localdate() - timedelta(days=days)
        Forecast.objects.bulk_create([old])

    def known(self):
        piece = Piece.objects.select_related(*forecasts.JOINS).get(pk=self.board.pk)
        return forecasts.newest([piece], Purposes(self.owner.workshop)).get(piece.pk)

    def test_it_is_stale_after_a_day_or_another_reading_and_gone_for_another_aim(self):
        self.assertIsNone(self.known())
        self.worked_out(self.board)
        self.assertFalse(self.known().stale)
        read_board(self.owner, self.board, 15, 15.1, 15, meter=self.meter)
        self.assertTrue(self.known().stale)
        self.worked_out(self.board)
        self.assertFalse(self.known().stale)
        judging.set_piece_purpose(self.owner, self.board, Purpose(self.place, GENERAL))
        self.assertIsNone(self.known())

    def test_a_day_later_the_list_says_of_which_day_it_is(self):
        self.shown_before(days=2)
        self.assertRegex(text_of(self.client.get(f"{self.shop}stock/")), r"\d+ \w+ \d{4} as of \d+ \w+")
        self.worked_out(self.board)
        self.assertNotIn("as of", text_of(self.client.get(f"{self.shop}stock/")))

    def test_list_and_today_ask_the_same_queries_however_many_wait(self):
        for address in (self.shop, f"{self.shop}stock/"):
            self.client.get(address)
            few = query_count(self.client, address)
            for _ in range(8):
                read_board(self.owner, make_board(self.owner), 15, 15.2, meter=self.meter)
            self.assertEqual(query_count(self.client, address), few)

    def test_what_came_is_held_against_what_was_forecast(self):
        self.shown_before(days=30)
        came = forecasts.what_came(self.board, PieceMoisture.objects.get(piece=self.board))
        self.assertEqual([(item.days, item.inside) for item in came], [(30, False)])
        read_board(self.owner, self.board, *[came[0].expected * 100] * 3, meter=self.meter)
        page = self.page(self.board)
        self.assertIn("Forecast, and what came", page)
        self.assertIn("as forecast", page)

    def test_a_species_nobody_knows_the_pace_of_and_an_unread_piece_have_none(self):
        wenge = make_board(self.owner, "wenge")
        read_board(self.owner, wenge, 16, 16, meter=self.meter)
        self.assertEqual(forecasts.renew(self.owner.workshop, [wenge.pk, make_board(self.owner).pk]), 0)


class Behind(Committing):
    @override_settings(WORK_BEHIND=True)
    def test_a_list_has_missing_ones_worked_out_behind_the_scenes(self):
        owner, _, meter, board = make_shop()
        read_board(owner, board, 16, 16.1, 16, meter=meter)
        self.client.force_login(owner.person)
        address = f"/w/{owner.workshop.slug}/stock/"
        self.assertContains(self.client.get(address), "being worked out")
        work_off()
        self.assertNotContains(self.client.get(address), "being worked out")
        self.assertEqual(Forecast.objects.get().state, State.WAIT)
        self.assertEqual(FINE.key, Forecast.objects.get().aim.split("|")[1])
