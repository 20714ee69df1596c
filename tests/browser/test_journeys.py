"""Journeys through the demo workshop, on desktop and phone, in both themes, each view clean by axe-core."""

import re

from playwright.sync_api import expect

from calm_heron.measuring.models import Reading
from calm_heron.stock.models import Piece
from command.browser import DESKTOP, PHONE
from tests.browser.demo import DemoJourney


def sign_up(page, name: str, email: str) -> None:
    page.get_by_label("Your name").fill(name)
    page.get_by_label("Email").fill(email)
    page.get_by_label("Password").fill("sedge-and-samphire")
    page.get_by_role("button", name="Create your account").click()


class Strangers(DemoJourney):
    def test_pages_for_strangers_are_accessible(self):
        for address in ("/", "/accounts/login/", "/accounts/signup/", "/join/nonsense/", "/nowhere/"):
            self.page.goto(address)
            self.page.complaints = [line for line in self.page.complaints if "404" not in line]
            self.assert_accessible()


class Measuring(DemoJourney):
    def test_tapping_the_board_says_where_and_the_reading_is_drawn_there(self):
        page = self.inside()
        page.goto(f"{self.shop}stock/cherry-01/measure/")
        box = page.locator("[data-board]:visible").bounding_box()
        page.mouse.click(box["x"] + box["width"] * 0.5, box["y"] + box["height"] * 0.5)
        expect(page.get_by_label("Reading, %")).to_be_focused()
        expect(page.get_by_label("From the left end")).to_have_value(re.compile(r"114\d mm"))
        page.keyboard.type("9.7")
        page.keyboard.press("Enter")
        expect(page.get_by_text("Last kept")).to_be_visible()
        latest = self.rows(Reading).latest("id")
        self.assertEqual((latest.raw, latest.piece.tag), (0.097, "cherry-01"))
        self.assertAlmostEqual(latest.along, 0.5, delta=0.01)
        expect(page.get_by_label("Reading, %")).to_be_focused()

    def test_the_board_can_be_walked_with_the_keyboard(self):
        page = self.inside()
        page.goto(f"{self.shop}stock/cherry-01/measure/")
        page.locator("[data-board]:visible").focus()
        for _ in range(5):
            page.keyboard.press("ArrowLeft")
        page.keyboard.press("Enter")
        expect(page.get_by_label("Reading, %")).to_be_focused()
        expect(page.get_by_label("From the left end")).to_have_value("914 mm")

    def test_what_is_typed_after_back_is_kept_beside_what_was_kept_before(self):
        page = self.inside()
        before = self.rows(Reading).filter(piece__tag="ash-02").count()
        page.goto(f"{self.shop}read/")
        for line in ("ash-02 9.4", "ash-02 9.8"):
            page.locator("main textarea").fill(line)
            page.get_by_role("button", name=re.compile("^Save the reading")).last.click()
            expect(page.get_by_role("heading", name="Is ash-02 ready?")).to_be_visible()
            page.go_back()
        self.assertEqual(self.rows(Reading).filter(piece__tag="ash-02").count(), before + 2)

    def test_tapping_works_on_a_phone(self):
        page = self.inside(self.phone())
        page.goto(f"{self.shop}stock/cherry-01/measure/")
        box = page.locator("[data-board]:visible").bounding_box()
        page.touchscreen.tap(box["x"] + box["width"] * 0.5, box["y"] + box["height"] * 0.5)
        page.get_by_label("Reading, %").fill("9.8")
        page.get_by_role("button", name="Save the reading").click()
        expect(page.get_by_text("Last kept")).to_be_visible()

    def test_the_strip_shows_what_it_will_keep_and_names_an_unknown_tag(self):
        page = self.enter()
        page.keyboard.press("/")
        strip = page.get_by_label("Quick entry")
        expect(strip).to_be_focused()
        strip.fill("ash-99 11")
        expect(page.locator("#strip-out")).to_contain_text("No piece here has the tag “ash-99”")
        strip.fill("ash-01 9.4 9.6 core 10")
        expect(page.locator("#strip-out")).to_contain_text("White ash")
        strip.press("Enter")
        expect(page.get_by_role("heading", name="Is ash-01 ready?")).to_be_visible()
        self.assertEqual(self.rows(Reading).latest("id").layer, "core")

    def test_a_bad_humidity_keeps_what_was_typed(self):
        page = self.enter()
        page.get_by_role("link", name="Air", exact=True).click()
        page.get_by_role("link", name="Bench room", exact=True).click()
        page.get_by_label("Temperature, °F").fill("66")
        page.get_by_label("Relative humidity, %").fill("140")
        page.get_by_role("button", name="Save the reading").click()
        expect(page.get_by_text("140% is out of range")).to_be_visible()
        expect(page.get_by_label("Temperature, °F")).to_have_value("66")
        page.complaints.clear()
        self.assert_accessible()


class PlaceYear(DemoJourney):
    def test_a_year_is_drawn_as_it_is_typed_and_worked_out_for_a_room(self):
        page = self.enter()
        page.get_by_role("link", name="Air", exact=True).click()
        page.get_by_role("link", name="Client's flat, inland", exact=True).click()
        page.get_by_role("link", name="Change", exact=True).click()
        expect(page.get_by_role("heading", name="How does Client's flat, inland change")).to_be_visible()
        self.assert_accessible()
        for month in ("Jan", "Feb", "Mar"):
            page.get_by_label(f"{month}, °F").fill("50")
            page.get_by_label(f"{month}, % RH").fill("65")
        expect(page.locator(".wide-only .mark")).to_have_count(3)
        page.get_by_label("a climate pattern").check()
        page.get_by_label("Pattern", exact=True).select_option("high_desert")
        expect(page.locator(".figure")).to_contain_text("% through the year")
        desert = page.locator(".figure").inner_text()
        page.get_by_label("another place of yours outdoors").check()
        page.get_by_label("Heated to, °F").fill("70")
        expect(page.locator(".figure")).not_to_have_text(desert)
        self.assert_accessible()
        page.get_by_role("button", name="Save this year").click()
        expect(page.get_by_role("heading", name="Its year")).to_be_visible()

    def test_a_place_without_air_is_given_a_pattern_and_then_dried_in(self):
        page = self.inside(self.phone())
        page.goto(f"{self.shop}air/new/")
        page.get_by_label("What you call it").fill("Hill farm")
        page.get_by_label("Outdoors, under cover").check()
        page.locator("#main").get_by_role("button", name="Save").click()
        page.get_by_role("link", name="Give it a year").click()
        page.get_by_label("a climate pattern").check()
        page.get_by_label("Pattern", exact=True).select_option("mountain_basin")
        page.get_by_role("button", name="Save this year").click()
        self.see("the pattern “Dry mountain basin”", page)
        page.goto(f"{self.shop}drying/")
        page.get_by_label("Air", exact=True).select_option(label="Hill farm")
        expect(page.locator(".reason").first).to_contain_text("In Hill farm it comes down")
        self.assert_accessible(page)


class Judging(DemoJourney):
    def test_the_answer_moves_at_once_with_place_and_use(self):
        page = self.inside()
        page.goto(f"{self.shop}stock/oak-04/")
        expect(page.locator(".answer-word")).to_contain_text("Wait")
        page.locator("form.aim[data-live] select[name=place]").select_option(label="Yard")
        page.locator("form.aim[data-live] select[name=use]").select_option("general")
        expect(page.locator(".answer-word")).not_to_contain_text("Wait")
        self.assertIn("use=general", page.url)
        page.get_by_role("button", name="Record this verdict").click()
        expect(page.get_by_text("Recorded in the journal.")).to_be_visible()
        page.get_by_role("link", name="Journal", exact=True).click()
        expect(page.get_by_text("oak-04 for Yard, general work")).to_be_visible()

    def test_the_working_is_one_click_away(self):
        page = self.inside()
        page.goto(f"{self.shop}stock/ash-01/")
        page.locator("details.how summary", has_text="How?").first.click()
        for words in ("Uncertainty: meter", "Uncertainty: few spots", "Uncertainty: target", "Combined"):
            expect(page.get_by_text(words, exact=True)).to_be_visible()

    def test_it_reads_without_scripts(self):
        page = self.new_page(DESKTOP, java_script_enabled=False)
        self.inside(page)
        page.goto(f"{self.shop}stock/ash-01/")
        page.locator("form.aim[data-live] select[name=use]").select_option("general")
        page.get_by_role("button", name="Work it out", exact=True).click()
        self.assertIn("use=general", page.url)
        page.goto(f"{self.shop}read/")
        page.get_by_label("Readings", exact=True).fill("ash-01 9.5")
        page.get_by_role("button", name="Save the readings").click()
        expect(page.get_by_role("heading", name="Is ash-01 ready?")).to_be_visible()


class Movement(DemoJourney):
    def test_dragging_the_board_around_the_log_changes_the_section_and_can_be_kept(self):
        page = self.inside()
        page.goto(f"{self.shop}stock/oak-04/movement/")
        before = page.locator(".figure").inner_text()
        held = page.locator("[data-held] .held").bounding_box()
        log = page.locator("[data-log]").bounding_box()
        page.mouse.move(held["x"] + 10, held["y"] + held["height"] / 2)
        page.mouse.down()
        # To the side of the pith: the board becomes quarter-sawn.
        middle = log["y"] + log["height"] / 2
        page.mouse.move(held["x"] + 10 + log["width"] * 0.28, middle, steps=6)
        # It is drawn anew while it is still held.
        expect(page.locator(".figure")).not_to_have_text(before)
        page.mouse.up()
        # What is kept is where the hand let go, not what was last answered.
        page.get_by_role("button", name="Record this place").click()
        expect(page.get_by_text("Kept with the board.")).to_be_visible()
        self.assertGreater(self.rows(Piece).get(tag="oak-04").ring_angle_deg, 60)

    def test_arrow_keys_move_the_board_too(self):
        page = self.inside()
        page.goto(f"{self.shop}stock/oak-04/movement/")
        before = page.locator("[data-moved]").get_attribute("data-angle")
        page.locator("[data-log]").focus()
        for _ in range(4):
            page.keyboard.press("Shift+ArrowDown")
        expect(page.locator("[data-moved]")).not_to_have_attribute("data-angle", before)
        expect(page.locator("[data-log]")).to_be_focused()


class Drying(DemoJourney):
    def test_sliders_move_the_answer_and_the_address_keeps_it(self):
        page = self.enter()
        page.get_by_role("link", name="Drying", exact=True).click()
        expect(page.get_by_role("heading", name="How long will it take to dry?")).to_be_visible()
        before = page.locator(".figure").inner_text()
        slider = page.get_by_label("Thickness, in, slider")
        slider.focus()
        for _ in range(6):
            page.keyboard.press("ArrowRight")
        expect(page.get_by_label("Thickness, in", exact=True)).to_have_value("10/4")
        expect(page.locator(".figure")).not_to_have_text(before)
        page.wait_for_load_state("networkidle")
        thick = page.locator(".figure").inner_text()
        page.reload()
        expect(page.locator(".figure")).to_have_text(thick)
        self.assert_accessible()

    def test_a_start_month_is_chosen_in_the_strip(self):
        page = self.inside()
        page.goto(f"{self.shop}drying/?where=cold_winter")
        page.locator(".wide-only a[data-set]").nth(4).click()
        expect(page.get_by_label("From", exact=True)).to_have_value(re.compile(r"-05-01$"))
        expect(page.locator(".wide-only .chosen")).to_have_count(1)
        expect(page.locator(".reason").first).to_contain_text("In a yard under the pattern")

    def test_ways_put_away_what_they_do_not_ask_for(self):
        page = self.inside()
        page.goto(f"{self.shop}drying/?where=cold_winter")
        expect(page.get_by_label("The yard is")).to_be_visible()
        page.get_by_label("Method").select_option("chamber")
        expect(page.get_by_label("The yard is")).to_be_hidden()
        expect(page.get_by_label("Kiln, % RH")).to_be_visible()
        page.get_by_label("Air", exact=True).select_option(label="Bench room")
        expect(page.get_by_label("Method")).to_be_hidden()
        expect(page.locator(".reason").first).to_contain_text("Bench room")

    def test_a_typing_mistake_stays_and_its_complaint_goes_when_it_is_mended(self):
        page = self.inside()
        page.goto(f"{self.shop}drying/?thickness_m=oak")
        field = page.get_by_label("Thickness, in", exact=True)
        expect(field).to_have_value("oak")
        expect(page.get_by_text("is not a size")).to_be_visible()
        field.fill("5/4")
        expect(page.locator(".figure")).to_be_visible()
        expect(page.get_by_text("is not a size")).to_have_count(0)

    def test_on_a_phone_a_piece_is_asked_from_its_own_page_and_draws_for_the_phone(self):
        page = self.inside(self.phone())
        page.goto(f"{self.shop}stock/oak-04/")
        page.locator(".button", has_text="How long to dry?").click()
        expect(page.get_by_role("heading", name="How long will oak-04 take?")).to_be_visible()
        page.get_by_label("Target, %", exact=True).fill("16")
        expect(page.locator(".narrow-only svg").first).to_be_visible()
        expect(page.locator(".wide-only svg")).to_have_count(0)

    def test_it_reads_without_scripts(self):
        page = self.new_page(DESKTOP, java_script_enabled=False)
        self.inside(page)
        page.goto(f"{self.shop}drying/")
        page.get_by_label("Thickness, in", exact=True).fill("8/4")
        page.get_by_role("button", name="Work it out").click()
        self.assertIn("thickness_m=8%2F4", page.url)
        expect(page.locator(".figure")).to_be_visible()
        page.locator(".wide-only a[data-set]").nth(3).click()
        self.assertIn("-04-01", page.url)


class Walking(DemoJourney):
    def test_keys_lead_through_the_workshop(self):
        page = self.enter()
        page.keyboard.press("g")
        with page.expect_navigation():  # to the end: a heading shows before the script that listens for keys is there
            page.keyboard.press("s")
        expect(page.get_by_role("heading", name="What wood do you have?")).to_be_visible()
        page.keyboard.press("ArrowDown")
        self.assertEqual(page.evaluate("document.activeElement.tagName"), "BODY")
        page.keyboard.press("j")
        page.keyboard.press("ArrowDown")
        expect(page.get_by_role("link", name="ash-02")).to_be_focused()
        with page.expect_navigation():
            page.keyboard.press("Enter")
        expect(page.get_by_role("heading", name="Is ash-02 ready?")).to_be_visible()
        page.keyboard.press("?")
        expect(page.get_by_role("heading", name="Keys")).to_be_visible()
        self.assert_accessible()

    def test_a_second_person_joins_by_link_with_a_role(self):
        page = self.page
        page.goto("/accounts/signup/")
        sign_up(page, "Ebb Lowater", "ebb@workshop.example")
        page.get_by_label("Name of the workshop").fill("The Back Shed")
        page.get_by_role("button", name="Start the workshop").click()
        shop = page.url
        page.get_by_role("link", name="Workshop", exact=True).click()
        page.get_by_role("button", name="Make a link").click()
        address = page.get_by_label("Invitation link").first.input_value()
        other = self.new_page(PHONE)
        other.goto(address)
        other.get_by_role("link", name="Sign up and join").click()
        sign_up(other, "Sorrel Creek", "sorrel@example.org")
        other.get_by_role("button", name="Join as Sorrel Creek").click()
        other.wait_for_url(shop)
        other.goto(f"{shop}stock/new/")
        # A helper is not shown a form that would be refused, but whose it is.
        expect(other.get_by_role("heading", name="You can’t do that here.")).to_be_visible()
