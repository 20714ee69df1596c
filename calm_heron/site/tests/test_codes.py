"""Codes that lead from paper back to a page."""

from django.template import Context, Template
from django.test import RequestFactory, SimpleTestCase

from calm_heron.site import codes


class Codes(SimpleTestCase):
    def test_the_address_on_paper_is_the_pages_with_what_was_asked(self):
        request = RequestFactory().get("/w/yard/stacks/plan/?species_key=red+oak&wide=&how_many=100&air=")
        self.assertEqual(codes.address_on_paper(request), "http://testserver/w/yard/stacks/plan/?species_key=red+oak&how_many=100")

    def test_a_code_of_more_squares_is_wider_so_that_none_is_under_half_a_millimetre(self):
        short, long = codes.code_drawing("http://a.test/"), codes.code_drawing("http://a.test/" + "b" * 500)
        self.assertEqual((short.size, short.width_mm), (21, 19))
        self.assertEqual(long.width_mm, round(long.size / 2))
        self.assertGreater(long.size, 80)

    def test_a_page_of_too_many_words_has_its_name_and_no_code(self):
        template = Template('{% load wood_words %}{% paper_code "Stack" "Yard" "" %}')
        asked = {"few": "100", "many": "1" * codes.LONGEST_ADDRESS}
        few, many = (
            template.render(Context({"request": RequestFactory().get("/stacks/", {"boards": boards})})) for boards in asked.values()
        )
        self.assertIn("<svg", few)
        self.assertNotIn("<svg", many)
        self.assertIn("<strong>Stack</strong><br>Yard</p>", many)
