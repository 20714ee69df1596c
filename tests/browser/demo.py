"""Journeys through the demo workshop begin here."""

from django.db import connection, transaction
from django.utils import timezone
from playwright.sync_api import expect

from calm_heron.demo import scenario
from tests.browser.case import Journey

SHOP = f"/w/{scenario.DEMO_SLUG}/"


class DemoJourney(Journey):
    def setUp(self):
        super().setUp()
        with transaction.atomic():
            scenario.erase(connection)
            scenario.load(timezone.now())

    def enter(self, page=None):
        page = page or self.page
        page.goto("/")
        page.get_by_role("button", name="Step into the demo workshop").click()
        expect(page.get_by_role("heading", name="What is ready today?")).to_be_visible()
        page.wait_for_load_state()
        return page
