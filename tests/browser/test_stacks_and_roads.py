"""Routes compared, a stack planned, kept and followed, in a browser on a desk and on a phone."""

from playwright.sync_api import expect

from tests.browser.case import Journey
from tests.browser.demo import DemoJourney


class Questions(Journey):
    def test_a_stranger_compares_routes_and_looks_at_another_ones_months(self):
        page = self.page
        page.goto("/")
        page.get_by_role("link", name="Which is the best way to dry it?").click()
        expect(page.locator(".figure")).to_be_visible()
        self.assert_accessible()
        page.get_by_label("Species").fill("sugar maple")
        expect(page.locator(".reason").first).to_contain_text("sugar maple")
        page.locator("tr", has_text="Yard, then a heated room").get_by_role("button").click()
        expect(page.get_by_role("heading", name="Yard, then a heated room, started in each month")).to_be_visible()
        expect(page.get_by_label("Species")).to_have_value("sugar maple")

    def test_a_ring_is_dragged_and_moved_by_the_keyboard(self):
        page = self.page
        page.goto("/roads/?species_key=white+oak&where=four_seasons")
        ring = page.locator(".wide-only [data-moves=carry]").first
        # The script of the page is there once the drawing is.
        page.wait_for_load_state("networkidle")
        box = ring.bounding_box()
        page.mouse.move(box["x"] + 5, box["y"] + 5)
        page.mouse.down()
        page.mouse.move(box["x"] + 5, box["y"] + 30, steps=4)
        page.mouse.up()
        expect(page.get_by_label("Moved indoors at")).not_to_have_value("")
        dragged = int(page.get_by_label("Moved indoors at").input_value())
        self.assertLess(dragged, 20)
        expect(page.locator(".wide-only [data-moves=carry]").first).to_have_attribute("aria-valuenow", f"{dragged}.0")
        page.locator(".wide-only [data-moves=to_kiln]").first.press("ArrowUp")
        expect(page.get_by_label("Into a kiln at")).to_have_value("26")

    def test_a_bearer_too_few_is_marked_at_once(self):
        page = self.page
        page.goto("/stack/")
        expect(page.locator(".broken")).to_have_count(0)
        page.get_by_text("Built otherwise than usual").click()
        page.get_by_label("Bearers, apart, mm").fill("1200")
        expect(page.locator(".breach")).to_contain_text("over no bearer")
        expect(page.locator(".wide-only .broken").first).to_be_visible()
        self.assert_accessible()

    def test_on_a_phone_nothing_runs_over_the_edge(self):
        page = self.phone()
        for address in ("/roads/", "/roads/log/", "/stack/", "/stack/saw/"):
            page.goto(address)
            expect(page.locator(".figure")).to_be_visible()
            self.assertFalse(page.evaluate("document.documentElement.scrollWidth > innerWidth"), address)
            self.assert_accessible(page)


class Saved(DemoJourney):
    def test_the_yard_leads_to_a_stack_and_a_stack_is_turned(self):
        page = self.enter()
        page.get_by_role("link", name="Stacks", exact=True).click()
        expect(page.get_by_role("heading", name="Which stack is ready to move?")).to_be_visible()
        self.assert_accessible()
        page.locator("table a.tag", has_text="stack-01").click()
        expect(page.get_by_role("heading", name="How is stack-01 doing?")).to_be_visible()
        self.assert_accessible()
        page.get_by_text("It was turned, covered").click()
        page.get_by_label("The wind blows").select_option("across")
        page.get_by_role("button", name="Save the change").click()
        self.see("Kept.")
        page.get_by_role("link", name="Journal", exact=True).click()
        self.see("stack-01 turned: the wind blows through the stickers")
