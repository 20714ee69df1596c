"""Journeys through the demo workshop begin here."""

from django.utils import timezone
from playwright.sync_api import expect

from calm_heron.demo import scenario
from calm_heron.workshops.models import Membership
from tests.browser.case import Journey


class DemoJourney(Journey):
    """``shop`` is the address of the visitor's own demo, once they have entered; ``rows`` is the way to its rows."""

    shop = ""

    def setUp(self):
        super().setUp()
        scenario.renew(timezone.now())

    def enter(self, page=None):
        page = page or self.page
        page.goto("/")
        page.get_by_role("button", name="Step into the demo workshop").click()
        expect(page.get_by_role("heading", name="What is ready today?")).to_be_visible()
        page.wait_for_load_state()
        self.shop = "/" + "/".join(page.url.split("/")[3:])
        return page

    def rows(self, model):
        return model.objects.of(Membership.objects.get(workshop__slug=self.shop.split("/")[2], person__is_visitor=True).workshop)
