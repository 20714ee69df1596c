"""A kiln planned by a stranger, a load weighed at its door, prongs read, in a browser on a desk and on a phone."""

from playwright.sync_api import expect

from tests.browser.case import Journey
from tests.browser.demo import DemoJourney


class Questions(Journey):
    def test_a_stranger_plans_a_load_and_changes_its_chamber(self):
        page = self.page
        page.goto("/")
        page.get_by_role("link", name="How do I run this load?").click()
        expect(page.locator(".figure")).to_contain_text("days")
        self.assert_accessible()
        slow = page.locator(".figure").inner_text()
        page.get_by_role("combobox", name="Kiln", exact=True).select_option("vented")
        expect(page.locator(".figure")).not_to_have_text(slow)
        page.get_by_text("Another wood in the same load").click()
        page.get_by_label("Together with").fill("black cherry")
        expect(page.get_by_text("Apart: the load is run for")).to_be_visible()

    def test_prongs_are_read_by_a_tap(self):
        page = self.phone()
        page.goto("/kiln/prongs/")
        expect(page.get_by_text("Cut a section, and look")).to_be_visible()
        page.get_by_role("group", name="after a day").get_by_text("They lean out").click()
        expect(page.get_by_text("can’t be undone")).to_be_visible()
        page.get_by_label("Shell, %").fill("6")
        page.get_by_label("Core, %").fill("10")
        expect(page.get_by_text("Not yet: its core is wet")).to_be_visible()
        page.get_by_label("Shell, %").fill("8")
        page.get_by_label("Core, %").fill("8.5")
        page.get_by_role("group", name="after a day").get_by_text("They stand straight").click()
        expect(page.get_by_text("It is done")).to_be_visible()
        self.assert_accessible(page)

    def test_on_a_phone_nothing_runs_over_the_edge(self):
        page = self.phone()
        for address in ("/kiln/", "/kiln/heat/", "/kiln/prongs/", "/kiln/dried-by-others/"):
            page.goto(address)
            self.assertFalse(page.evaluate("document.documentElement.scrollWidth > innerWidth"), address)
            self.assert_accessible(page)


class AtWork(DemoJourney):
    def test_samples_are_weighed_and_the_forecast_moves(self):
        page = self.enter()
        page.get_by_role("link", name="Kiln", exact=True).click()
        expect(page.get_by_role("heading", name="What’s in the kiln?")).to_be_visible()
        self.assert_accessible()
        page.locator("h2 a.tag", has_text="load-01").click()
        expect(page.get_by_role("heading", name="What do I set for load-01?")).to_be_visible()
        self.assert_accessible()
        rings = page.locator(".wide-only circle.arrival")
        before = rings.count()
        for sample, mass in (("A", "2.55 kg"), ("B", "2.62 kg")):
            page.get_by_label(f"{sample}, oz").fill(mass)
        page.get_by_role("button", name="Save the weights").click()
        self.see("2 weights kept.")
        expect(rings).to_have_count(before + 2)
