"""From numbers in hand to the answer: a phone's browser that was never here, a thumb, and somebody who types at a usual pace."""

import time

from playwright.sync_api import expect

from command.browser import PHONE
from tests.browser.case import Journey

MOST_TAPS, MOST_SECONDS = 8, 30
# Between two keys, and before a thumb finds the next place to tap.
KEY_MS, THUMB_MS = 150, 700


class Asking(Journey):
    def setUp(self):
        super().setUp()
        self.thumb = self.new_page(PHONE, has_touch=True, is_mobile=True, locale="en-US")
        self.taps = 0

    def tap(self, place):
        self.thumb.wait_for_timeout(THUMB_MS)
        place.tap()
        self.taps += 1

    def type(self, label, text):
        self.tap(self.thumb.get_by_label(label))
        self.thumb.keyboard.type(text, delay=KEY_MS)

    def asks(self, question, typed, answer, words):
        """One journey from the front page; the answer must stand there in time, and nothing was asked but what was typed."""
        page, begun = self.thumb, time.monotonic()
        page.goto("/")
        self.tap(page.get_by_role("link", name=question))
        expect(page.get_by_role("heading", name=question)).to_be_visible()
        there = page.locator("main input:visible:not([type=date])").evaluate_all("all => all.map((one) => one.value).filter(Boolean)")
        self.assertEqual(there, self.filled)
        for label, text in typed:
            self.type(label, text)
        expect(page.locator(answer)).to_contain_text(words)
        seconds = time.monotonic() - begun
        print(f"{question} {self.taps} taps, {seconds:.0f} s")
        self.assertLessEqual(self.taps, MOST_TAPS)
        self.assertLess(seconds, MOST_SECONDS)
        # Said once, shortly, for who cannot see it.
        expect(page.locator("#said")).to_contain_text(words)
        self.assertLess(len(page.locator("#said").inner_text()), 80)
        self.assert_accessible(page)
        self.assertEqual(page.evaluate("document.documentElement.scrollWidth > innerWidth"), False)

    filled: list = []

    def test_the_air(self):
        self.asks(
            "What will wood settle at in this air?", [("Temperature, °F", "68"), ("Humidity, %", "55")], "[data-region] .figure", "10."
        )

    def test_this_wood(self):
        typed = [("It reads, %", "11.2 11.8 12.1"), ("Thickness, in", "4/4")]
        self.asks("Take it, wait, or walk away?", typed, "[data-region] .figure", "Take it")

    def test_its_movement(self):
        typed = [("Species", "red oak"), ("Width, in", "8"), ("It is at, %", "12"), ("It goes to, %", "8")]
        self.asks("How much will it move?", typed, "[data-region] .figure", "in width")

    def test_its_drying(self):
        self.filled = ["20"]
        typed = [("Species", "red oak"), ("Thickness, in", "4/4")]
        self.asks("How long will it take to dry?", typed, "[data-region] .figure", "weeks")

    def test_what_is_typed_wrong_is_told_beside_its_field_and_goes_when_it_is_right(self):
        page = self.thumb
        page.goto("/ask/air/")
        self.type("Temperature, °F", "68")
        self.type("Humidity, %", "155")
        wrong = page.locator(".field:has(#f-humidity) .wrong")
        expect(wrong).to_contain_text("is out of range")
        page.get_by_label("Humidity, %").fill("55")
        expect(wrong).to_have_count(0)
        expect(page.locator(".figure")).to_contain_text("10.")

    def test_the_button_beside_the_readings_makes_room_for_the_next(self):
        page = self.thumb
        page.goto("/ask/wood/")
        self.type("It reads, %", "11.2")
        self.tap(page.get_by_role("button", name="and"))
        page.keyboard.type("11.8")
        expect(page.get_by_label("It reads, %")).to_have_value("11.2 11.8")

    def test_a_server_that_is_away_loses_nothing(self):
        page = self.thumb
        page.goto("/ask/wood/")
        page.context.set_offline(True)
        self.type("It reads, %", "11.2 11.8")
        page.wait_for_timeout(500)
        self.assertEqual(page.get_by_label("It reads, %").input_value(), "11.2 11.8")
        page.context.set_offline(False)
        expect(page.locator("[data-region] .figure")).to_contain_text("Take it")

    def test_pages_read_without_any_script(self):
        page = self.new_page({"width": 390, "height": 844}, java_script_enabled=False)
        page.goto("/ask/wood/")
        page.get_by_label("It reads, %").fill("11 12 11.5")
        page.get_by_role("button", name="Work it out").click()
        expect(page.locator(".figure")).to_contain_text("Take it")

    def test_the_first_page_is_light(self):
        """Everything a stranger's phone fetches for its first question, beside the fonts, as it travels."""
        for path in ("/", "/ask/air/", "/ask/wood/"):
            page = self.new_page({"width": 390, "height": 844})
            sizes = {}
            page.on("response", lambda answer, sizes=sizes: sizes.update({answer.url: answer.request.sizes()["responseBodySize"]}))
            page.goto(path)
            page.wait_for_load_state("networkidle")
            total = sum(size for url, size in sizes.items() if not url.endswith("woff2"))
            self.assertLess(total, 60_000, sizes)
