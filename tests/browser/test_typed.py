"""What is typed outlives a dead network, Back and a closed tab; it is offered, each person's is their own, and signing out erases it."""

from django.test import Client
from playwright.sync_api import Page, Route, expect

from calm_heron.air.models import AirReading
from calm_heron.workshops.models import Role
from tests.browser.case import Journey
from tests.factories import make_member, make_shop


class Typed(Journey):
    def setUp(self):
        super().setUp()
        self.owner, self.place, self.meter, self.board = make_shop()
        self.here = f"{self.live_server_url}/w/{self.owner.workshop.slug}/air/{self.place.pk}/"
        self.sign_in(self.page, self.owner)
        self.before = AirReading.objects.count()

    def sign_in(self, page: Page, member) -> None:
        client = Client()
        client.force_login(member.person)
        page.context.add_cookies([{"name": "sessionid", "value": client.cookies["sessionid"].value, "url": self.live_server_url}])

    def type_air(self, page: Page, humidity: str = "55") -> None:
        page.goto(self.here)
        page.get_by_label("Temperature, °C").fill("18")
        page.get_by_label("Relative humidity, %").fill(humidity)
        # As long as it takes to be written down.
        page.wait_for_function("() => Object.keys(localStorage).some((key) => key.startsWith('typed:'))")

    def offered(self, page: Page):
        return page.locator("[data-typed-before]")

    def kept(self) -> int:
        return AirReading.objects.count() - self.before

    def stored(self, page: Page) -> str:
        return page.evaluate("() => JSON.stringify(localStorage)")

    def test_after_the_browsers_error_page_it_is_offered_and_kept_once(self):
        page = self.page
        self.type_air(page)
        page.context.set_offline(True)
        page.get_by_role("button", name="Save the reading").click(no_wait_after=True)
        page.wait_for_timeout(500)
        page.context.set_offline(False)
        # What could not be had while the network was away is no complaint about the page.
        page.complaints.clear()
        page.goto(self.here)
        expect(self.offered(page)).to_contain_text("You typed 18, 55 here a moment ago, and it was not kept.")
        self.assertEqual(page.get_by_label("Relative humidity, %").input_value(), "")
        self.assert_accessible(page)
        page.get_by_role("button", name="Use it").click()
        expect(page.get_by_label("Relative humidity, %")).to_have_value("55")
        page.get_by_role("button", name="Save the reading").click()
        page.wait_for_load_state()
        self.assertEqual(self.kept(), 1)
        page.goto(self.here)
        page.wait_for_timeout(400)
        expect(self.offered(page)).to_have_count(0)

    def test_what_was_kept_though_its_answer_never_came_is_not_offered_again(self):
        page = self.page
        self.type_air(page)

        def lost(route: Route) -> None:
            if route.request.method == "POST":
                route.fetch(max_redirects=0)
                route.abort()
            else:
                route.continue_()

        page.route("**/air/**", lost)
        page.get_by_role("button", name="Save the reading").click(no_wait_after=True)
        page.wait_for_timeout(800)
        page.unroute("**/air/**")
        self.assertEqual(self.kept(), 1)
        page.goto(self.here)
        page.wait_for_function("() => !Object.keys(localStorage).some((key) => key.startsWith('typed:'))")
        expect(self.offered(page)).to_have_count(0)

    def test_a_closed_tab_and_the_newest_of_two(self):
        first, second = self.page, self.page.context.new_page()
        self.type_air(first, "51")
        self.type_air(second, "52")
        second.wait_for_timeout(500)
        first.close()
        second.close()
        self.page = self.browser_page_of(first)
        self.page.goto(self.here)
        expect(self.offered(self.page)).to_contain_text("18, 52")
        self.page.get_by_role("button", name="Delete it").click()
        self.page.goto(self.here)
        self.page.wait_for_timeout(300)
        expect(self.offered(self.page)).to_have_count(0)

    def browser_page_of(self, closed: Page) -> Page:
        page = closed.context.new_page()
        page.set_default_timeout(20_000)
        return page

    def test_another_person_is_offered_nothing_and_signing_out_erases_it(self):
        page = self.page
        self.type_air(page)
        other = make_member(self.owner, Role.MAKER)
        self.sign_in(page, other)
        page.goto(self.here)
        page.wait_for_timeout(300)
        expect(self.offered(page)).to_have_count(0)
        self.assertIn("55", self.stored(page))
        self.sign_in(page, self.owner)
        page.goto(self.here)
        expect(self.offered(page)).to_be_visible()
        page.goto(f"{self.live_server_url}/accounts/logout/")
        page.get_by_role("button", name="Sign out").click()
        page.wait_for_load_state()
        self.assertNotIn("typed:", self.stored(page))

    def test_what_a_visitor_typed_goes_with_the_demo(self):
        page = self.page
        page.goto(self.here)
        page.evaluate("() => localStorage.setItem('typed:v7:/w/demo/read/#0', JSON.stringify({at: Date.now(), values: [], once: ''}))")
        page.evaluate("() => localStorage.setItem('typed:p7:/w/shop/read/#0', JSON.stringify({at: Date.now() - 15 * 864e5, values: []}))")
        page.goto(self.here)
        page.wait_for_timeout(300)
        self.assertNotIn("typed:", self.stored(page))
