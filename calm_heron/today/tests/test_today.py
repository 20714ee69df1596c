"""Today: counts, the waterline, first steps."""

import re
from datetime import timedelta

from django.test import TestCase
from django.utils import timezone

from calm_heron.air import queries as air
from calm_heron.measuring import queries as measuring
from calm_heron.today.drawings import NARROW, WIDE, TodayScene, waterline
from tests.counting import query_count
from tests.factories import make_board, make_owner, make_shop, read_board
from wood.judging.readiness import State


class Today(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.owner, cls.place, cls.meter, cls.board = make_shop()
        cls.address = f"/w/{cls.owner.workshop.slug}/"

    def setUp(self):
        self.client.force_login(self.owner.person)

    def test_a_new_workshop_is_shown_its_first_three_steps(self):
        newcomer = make_owner()
        self.client.force_login(newcomer.person)
        self.assertContains(self.client.get(f"/w/{newcomer.workshop.slug}/"), "Add the place")

    def test_ready_boards_are_counted_and_listed(self):
        read_board(self.owner, self.board, 9.2, 9.1, 9.3, 9.2, meter=self.meter)
        page = self.client.get(self.address)
        self.assertEqual(page.context["overview"].counts[State.READY], 1)
        self.assertEqual([piece["tag"] for piece in page.context["ready"]], ["oak-01"])

    def test_it_asks_the_same_number_of_queries_for_one_board_and_for_sixty(self):
        read_board(self.owner, self.board, 9.2, 9.1, 9.3, 9.2, meter=self.meter)
        read_board(self.owner, make_board(self.owner), 11.2, 11.3, 11.2, 11.2, meter=self.meter)
        make_board(self.owner)
        # What is remembered of the air's year is worked out by the first look.
        self.client.get(self.address)
        first = query_count(self.client, self.address)
        for i in range(60):
            read_board(self.owner, make_board(self.owner), 9 + i / 20, 9.1, meter=self.meter)
        # Where enough is unread, what was read longest ago is not looked for.
        self.assertLessEqual(query_count(self.client, self.address), first)

    def test_threads_come_down_to_the_water_inside_the_frame(self):
        now, since = timezone.now(), timezone.now() - timedelta(days=180)
        for days, value in ((150, 60), (100, 26), (50, 15), (0, 9.4)):
            read_board(self.owner, self.board, value, value, meter=self.meter, at=now - timedelta(days=days))
        means = measuring.daily_means([self.board], since)
        # A reading beyond the meter's range is no moisture and is not drawn as one.
        self.assertEqual(len(means[self.board.pk]), 3)
        for frame in (WIDE, NARROW):
            chart = waterline(TodayScene(air.weeks(self.place, since), air.level(self.place), 0.01, means, [self.board], since), frame)
            heights = [float(y) for y in re.findall(r'cy="([\d.]+)"', chart.threads[0].marks)]
            self.assertEqual(heights, sorted(heights))
            self.assertAlmostEqual(heights[-1], chart.level_y, delta=8)
            self.assertTrue(all(chart.top <= y <= chart.bottom for y in heights))

    def test_a_long_tag_is_shortened_to_the_room_beside_the_chart(self):
        for tag in ("oak-01", "ash-lot-01-s-07", "a" * 32):
            self.board.tag = tag
            means = {self.board.pk: [(timezone.localdate(), 0.12)]}
            for frame in (WIDE, NARROW):
                label = (
                    waterline(TodayScene([], None, 0.01, means, [self.board], timezone.now() - timedelta(days=30)), frame).threads[0].label
                )
                self.assertLessEqual(len(label) * 6.7, frame.right_margin - 10)
                self.assertTrue(label.startswith(tag[:10]))

    def test_a_chart_of_nothing_can_be_drawn(self):
        chart = waterline(TodayScene([], None, 0.01, {}, [], timezone.now() - timedelta(days=30)))
        self.assertEqual((chart.threads, chart.water), ([], ""))
