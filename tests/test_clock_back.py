"""The clock goes back by an hour, as where a time server puts it right: what was recorded lies in the future for a while, and pages,
forecasts and forms bear with it."""

from contextlib import ExitStack
from datetime import timedelta
from unittest import mock

from django.apps import apps
from django.test import TestCase
from django.utils import timezone

from calm_heron.air import actions as air
from calm_heron.air import queries as air_queries
from calm_heron.air.models import AirReading
from calm_heron.demo import copies
from calm_heron.measuring.models import PieceMoisture, Reading
from tests.cases import DemoCase
from tests.factories import make_bowl, make_shop, read_board
from tests.pages import addresses, text_of
from tests.walks import some
from wood.air.hygrometers import tolerance_now

AHEAD = timedelta(hours=1)


def an_hour_ahead() -> ExitStack:
    """While it is entered it is an hour later than it is, for whatever asks the application's clock."""
    ahead, real = ExitStack(), timezone.now
    later = lambda: real() + AHEAD  # noqa: E731
    ahead.enter_context(mock.patch("django.utils.timezone.now", side_effect=later))
    for model in apps.get_models():
        for field in model._meta.concrete_fields:
            if field.default is real:
                ahead.enter_context(mock.patch.object(field, "_get_default", side_effect=later))
    return ahead


class ClockBack(TestCase):
    @classmethod
    def setUpTestData(cls):
        with an_hour_ahead():
            cls.owner, cls.place, cls.meter, cls.board = make_shop()
            read_board(cls.owner, cls.board, 9.1, 9.3, 9.2, meter=cls.meter)
            cls.bowl = make_bowl(cls.owner)
            air.record_air(cls.owner, cls.place, 20.0, 0.5)

    def test_it_was_ahead(self):
        for rows in (Reading.objects, AirReading.objects):
            self.assertGreater(rows.latest("at").at, timezone.now() + AHEAD / 2)

    def test_what_is_recorded_now_counts_and_nothing_of_before_is_lost(self):
        before = Reading.objects.count()
        read_board(self.owner, self.board, 10.1, 10.3, 10.2, meter=self.meter)
        air.record_air(self.owner, self.place, 20.0, 0.6)
        self.assertEqual(Reading.objects.count(), before + 3)
        # The newer by its day is the one that was read before the clock was put right; within one sitting both speak.
        self.assertTrue(0.09 < PieceMoisture.objects.get(piece=self.board).mean < 0.104)
        self.assertIsNotNone(air_queries.level(self.place))
        self.assertGreater(tolerance_now(0.03, -1 / 24), 0)


class EveryPage(DemoCase):
    def test_every_page_bears_with_it(self):
        member = copies.for_visitor(timezone.now())
        self.client.force_login(member.person)
        looked, real = 0, timezone.now
        every = list(addresses(member.workshop))
        with mock.patch("django.utils.timezone.now", side_effect=lambda: real() - AHEAD):
            for address in some(every, 0, 6):
                answer = self.client.get(address)
                self.assertLess(answer.status_code, 500, address)
                if answer.status_code == 200 and "html" in answer.headers["Content-Type"]:
                    looked += 1
                    self.assertNotRegex(text_of(answer), r"[-−]\d+ (?:second|minute|hour|day)s?\b|\bnan\b", address)
        self.assertGreater(looked, 12)
