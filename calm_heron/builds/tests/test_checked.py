"""Boards on which a check is marked say so on every list and on their own page."""

from django.test import TestCase

from calm_heron.builds.models import Mark
from tests.factories import make_board, make_owner
from tests.pages import text_of


class Checked(TestCase):
    def test_a_check_is_said_with_what_is_clear_of_it(self):
        owner = make_owner()
        self.client.force_login(owner.person)
        board = make_board(owner, tag="ash-09", length_m=2.0)
        shop = f"/w/{owner.workshop.slug}/stock/"
        self.assertNotIn("Checked", text_of(self.client.get(f"{shop}{board.tag}/")))
        for begin, end in ((1.85, 2.0), (0.0, 0.05)):
            Mark.objects.create(
                workshop=owner.workshop, piece=board, kind="check", x0_m=begin, x1_m=end, y0_m=0.0, y1_m=0.1, by=owner.person
            )
        page = text_of(self.client.get(f"{shop}{board.tag}/"))
        self.assertIn("Checked. 2 checks are marked on it; 1800 mm of its length is clear.", page)
        self.assertIn("Checked", text_of(self.client.get(shop)))
