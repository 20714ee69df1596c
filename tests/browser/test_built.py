"""What a thing will do once it is built, in a browser: months slid through and played, a home chosen, a mistake mended, on a desk and a
phone.
"""

from playwright.sync_api import expect

from tests.browser.case import Journey


class OnceBuilt(Journey):
    def test_a_stranger_chooses_a_top_and_slides_through_its_years(self):
        page = self.new_page({"width": 1280, "height": 800}, locale="en-US")
        page.goto("/")
        page.get_by_role("link", name="What will it do once it is built?").click()
        page.get_by_role("link", name="A table top").click()
        expect(page.get_by_role("heading", name="What will this top do?")).to_be_visible()
        self.assert_accessible(page)
        figure = page.locator(".figure").inner_text()
        drawing = page.locator("svg.drawing:visible").first
        built = drawing.inner_html()
        page.get_by_role("button", name="driest").click()
        expect(page.locator("[data-said]")).not_to_contain_text("On the day")
        self.assertNotEqual(page.get_by_label("Through two years").input_value(), "0")
        self.assertNotEqual(drawing.inner_html(), built)
        # The answer is of the whole two years, whichever month is looked at.
        self.assertEqual(page.locator(".figure").inner_text(), figure)
        page.get_by_role("button", name="built").click()
        expect(page.locator("[data-said]")).to_contain_text("On the day")

    def test_it_plays_and_stops(self):
        page = self.page
        page.goto("/movement/of/deck/")
        slider = page.get_by_label("Through two years")
        page.get_by_role("button", name="Play").click()
        expect(slider).not_to_have_value("0")
        page.get_by_role("button", name="Stop").click()
        expect(page.get_by_role("button", name="Play")).to_be_visible()
        stopped = slider.input_value()
        page.wait_for_timeout(900)
        self.assertEqual(slider.input_value(), stopped)

    def test_the_answer_moves_with_what_is_typed_and_a_mistake_is_told_beside_its_field(self):
        page = self.page
        page.goto("/movement/of/panel/")
        figure = page.locator(".figure")
        before = figure.inner_text()
        page.get_by_label("Groove, deep, mm").fill("55")
        expect(page.locator(".field", has_text="Groove, deep").locator(".wrong")).to_contain_text("between")
        expect(page.get_by_label("Groove, deep, mm")).to_have_value("55")
        page.get_by_label("Groove, deep, mm").fill("12")
        expect(page.locator(".wrong")).to_have_count(0)
        expect(figure).not_to_have_text(before)
        self.assertIn("groove_m=12", page.url)

    def test_a_home_asks_for_what_it_needs(self):
        page = self.page
        page.goto("/movement/of/top/")
        expect(page.get_by_label("At its driest, %")).to_be_hidden()
        page.get_by_label("It will live in").select_option("typed")
        expect(page.get_by_label("Climate", exact=True)).to_be_hidden()
        self.see("Give the moistures")
        page.get_by_label("At its driest, %").fill("6")
        page.get_by_label("At its dampest, %").fill("10")
        expect(page.locator("[data-region]")).to_contain_text("6.0 to 10")
        self.assert_accessible()

    def test_without_scripts_it_answers_too(self):
        page = self.new_page({"width": 1280, "height": 800}, java_script_enabled=False)
        page.goto("/movement/of/top/")
        page.get_by_label("Width across the grain").fill("600 mm")
        page.get_by_role("button", name="Work it out").click()
        expect(page.get_by_label("Width across the grain")).to_have_value("600 mm")
        page.get_by_role("button", name="driest").click()
        expect(page.locator("[data-said]")).not_to_contain_text("On the day")
        expect(page.get_by_label("Width across the grain")).to_have_value("600 mm")

    def test_on_a_phone_the_slider_stays_under_the_thumb(self):
        page = self.phone()
        page.goto("/movement/of/top/")
        slider = page.get_by_label("Through two years")
        expect(slider).to_be_in_viewport()
        slider.fill("6")
        expect(page.locator("[data-said]")).not_to_contain_text("On the day")
        for address in ("/movement/", "/movement/season/?species_key=white+oak", "/movement/elsewhere/", "/movement/of/deck/"):
            page.goto(address)
            self.assertFalse(page.evaluate("document.documentElement.scrollWidth > innerWidth"), address)
            self.assert_accessible(page)

    def test_the_season_dial_prints_on_one_page_in_letters_that_are_read_at_arms_length(self):
        page = self.page
        page.goto("/movement/season/?which=all")
        # A hundred and sixty woods are some rows and one click, and no table of many screens.
        self.assertLess(page.evaluate("document.documentElement.scrollHeight"), 3200)
        self.assertEqual(page.locator(".wheel text").count(), 48)
        page.emulate_media(media="print")
        # A sheet of Letter paper, its margins off, is 718 pixels wide, and 12 points are 16 of them.
        page.set_viewport_size({"width": 740, "height": 1000})
        turned = page.locator(".wheel text").first.evaluate("one => Math.hypot(one.getScreenCTM().a, one.getScreenCTM().b)")
        self.assertGreaterEqual(17 * turned, 15.9)
        page.emulate_media(media="null")
        for sheet in ("A4", "Letter"):
            self.assertEqual(page.pdf(format=sheet).count(b"/Type /Page\n"), 1, sheet)
