"""The site record: may a floor be laid here, and what was tested for it."""

from datetime import timedelta
from unittest.mock import patch

from django.test import TestCase
from django.urls import reverse
from django.utils import timezone

from calm_heron.judging import sites
from calm_heron.judging.sites import Standing
from calm_heron.measuring import actions
from calm_heron.measuring.actions import Taken
from calm_heron.stock.kinds import PieceKind
from tests.factories import make_aired_place, make_board, make_meter, make_owner
from tests.pages import text_of


class SiteRecords(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.owner = make_owner()
        cls.room, cls.meter = make_aired_place(cls.owner), make_meter(cls.owner)

    def setUp(self):
        self.client.force_login(self.owner.person)

    def at(self, name, *args):
        return reverse(name, args=[self.owner.workshop.slug, *args])

    def standing(self) -> Standing:
        return sites.record_of(self.room).standing

    def test_a_slab_decides_by_its_newest_test_and_an_old_one_says_nothing(self):
        self.assertIs(self.standing(), Standing.UNKNOWN)
        slab = make_board(self.owner, "concrete", kind=PieceKind.SUBFLOOR, place=self.room, thickness_m=0.1, width_m=1.0)
        self.assertIs(self.standing(), Standing.UNKNOWN)
        actions.record_slab_test(self.owner, slab, "hole", 85, 75)
        self.assertIs(self.standing(), Standing.NOT_FIT)
        actions.record_slab_test(self.owner, slab, "hole", 70, 75)
        self.assertIs(self.standing(), Standing.FIT)
        with patch.object(timezone, "now", return_value=timezone.now() + timedelta(days=40)):
            self.assertIs(self.standing(), Standing.UNKNOWN)
        page = text_of(self.client.get(self.at("site_record", self.room.pk)))
        for said in ("ready for a floor", "85", "70", "75", "dry enough", "too wet"):
            self.assertIn(said, page)

    def test_boards_stand_as_their_own_page_judges_them(self):
        below = make_board(self.owner, "douglas_fir_coast", kind=PieceKind.SUBFLOOR, place=self.room)
        boards = make_board(self.owner, kind=PieceKind.FLOORING, place=self.room, width_m=0.06, thickness_m=0.019)
        self.assertIs(self.standing(), Standing.UNKNOWN)
        actions.record_readings(self.owner, below, self.meter, [Taken(0.10)] * 4, 20.0)
        actions.record_readings(self.owner, boards, self.meter, [Taken(0.17)] * 4, 20.0)
        self.assertIs(self.standing(), Standing.NOT_FIT)
        (first,) = sites.record_of(self.room).boards
        self.assertAlmostEqual(first.differs, boards.moisture.mean - below.moisture.mean, places=6)
        self.assertIn("Not yet", text_of(self.client.get(self.at("site_record", self.room.pk))))

    def test_another_workshop_has_no_such_place(self):
        self.assertEqual(self.client.get(self.at("site_record", 999_999)).status_code, 404)
