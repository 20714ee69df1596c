"""Journeys through the demo workshop begin here."""

from django.conf import settings
from django.test import Client
from django.utils import timezone
from playwright.sync_api import expect

from calm_heron.demo import copies
from calm_heron.workshops.models import Membership
from tests import databases
from tests.browser.case import Journey


class DemoJourney(Journey):
    """``shop`` is the address of the visitor's own demo, once they are in; ``rows`` is the way to its rows."""

    database = databases.DEMO
    shop = ""

    def enter(self, page=None):
        """As a visitor does: by the front page, to the first page of a demo workshop of their own."""
        page = page or self.page
        page.goto("/")
        page.get_by_role("button", name="Step into the demo workshop").click()
        expect(page.get_by_role("heading", name="What is ready today?")).to_be_visible()
        page.wait_for_load_state()
        self.shop = "/" + "/".join(page.url.split("/")[3:])
        return page

    def inside(self, page=None):
        """A visitor who is in already, and has opened no page yet."""
        page = page or self.page
        self.let_in(page, copies.for_visitor(timezone.now()))
        return page

    def let_in(self, page, member):
        """Whose session the page has from now on; ``shop`` is their workshop's."""
        client = Client()
        client.force_login(member.person)
        name = settings.SESSION_COOKIE_NAME
        page.context.add_cookies([{"name": name, "value": client.cookies[name].value, "url": self.live_server_url}])
        self.shop = f"/w/{member.workshop.slug}/"

    def rows(self, model):
        return model.objects.of(Membership.objects.get(workshop__slug=self.shop.split("/")[2], person__is_visitor=True).workshop)
