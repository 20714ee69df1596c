"""The bare path: start, sign up, one place, one meter, one board, three readings, one verdict."""

from playwright.sync_api import expect

from tests.browser.case import Journey


class FirstBoard(Journey):
    def test_from_sign_up_to_a_verdict(self):
        page = self.page
        page.goto("/")
        page.get_by_role("link", name="Start a workshop of your own").click()
        page.get_by_label("Your name").fill("Ebb Lowater")
        page.get_by_label("Email").fill("ebb@workshop.example")
        page.get_by_label("Password").fill("sedge-and-samphire")
        page.get_by_role("button", name="Create your account").click()
        page.get_by_label("Name of the workshop").fill("The Back Shed")
        page.get_by_label("millimetres, °C, grams").check()
        page.get_by_role("button", name="Start the workshop").click()
        self.see("5 steps to your first answer.")

        page.get_by_role("link", name="Add the place").click()
        page.get_by_label("What you call it").fill("Shop")
        page.get_by_role("button", name="Save", exact=True).click()
        page.get_by_label("Temperature, °C").fill("70 F")
        page.get_by_label("Relative humidity, %").fill("50")
        page.get_by_role("button", name="Save the reading").click()
        # The printed table of equilibrium moisture: 70°F and 50% give 9.2.
        expect(page.locator(".figure")).to_contain_text("9.2")

        page.get_by_role("link", name="Readings", exact=True).click()
        page.get_by_role("link", name="Add a meter").click()
        page.get_by_label("What you call it").fill("Pin meter")
        page.get_by_role("button", name="Save", exact=True).click()

        page.get_by_role("link", name="Stock").first.click()
        page.get_by_role("link", name="Add wood").click()
        page.get_by_label("Species", exact=True).fill("black walnut")
        page.get_by_label("Thickness, mm").fill("5/4")
        page.get_by_label("Width, mm").fill("180")
        page.get_by_label("Length, mm").fill("2.4 m")
        page.get_by_role("button", name="Add it").click()
        self.see("Where did you read walnut-01?")

        strip = page.get_by_label("Quick entry")
        strip.fill("walnut-01 8.7 8.5 8.8 8.6")
        expect(page.locator("#strip-out")).to_contain_text("Black walnut")
        strip.press("Enter")
        self.see("Is walnut-01 ready?")
        expect(page.locator(".answer-word")).to_contain_text("Ready")
        self.assert_accessible()
