"""The stock as it is walked, tabled, compared and split in the browser."""

from playwright.sync_api import expect

from calm_heron.stock.models import Piece
from tests.browser.demo import DemoJourney


class Stock(DemoJourney):
    def test_the_list_is_walked_chosen_and_moved_from_the_keyboard(self):
        page = self.inside()
        page.goto(f"{self.shop}stock/?q=cherry+bench+board")
        page.keyboard.press("j")
        expect(page.get_by_role("link", name="cherry-01")).to_be_focused()
        page.keyboard.press("x")
        page.keyboard.press("ArrowDown")
        page.keyboard.press("x")
        expect(page.get_by_role("checkbox", name="Choose cherry", checked=True)).to_have_count(2)
        everything = page.get_by_label("Choose all on this page")
        everything.uncheck()
        everything.check()
        expect(page.get_by_role("checkbox", name="Choose cherry", checked=True)).to_have_count(2)
        page.get_by_label("With selected").select_option("move")
        page.get_by_label("Place to move to").select_option(label="Yard")
        page.get_by_role("button", name="Apply").click()
        self.see("2 moved to Yard.")
        self.assertEqual(self.rows(Piece).filter(tag__in=("cherry-01", "cherry-02"), place__name="Yard").count(), 2)

    def test_a_table_is_pasted_mended_and_added(self):
        page = self.inside()
        page.goto(f"{self.shop}stock/table/")
        page.get_by_label("or pasted").fill("species,thickness,width,length,count\nwhite oak,5/4,8,8 ft,12\noak,4/4,6,7 ft,1\n")
        page.get_by_role("button", name="Show what it says").click()
        self.see("may be any of")
        page.get_by_label("or pasted").fill(page.get_by_label("or pasted").input_value().replace("\noak", "\nnorthern red oak"))
        page.get_by_role("button", name="Look again").click()
        page.get_by_role("button", name="Add 2 pieces").click()
        self.see("2 pieces added")

    def test_the_end_is_compared_by_picture_and_slider_and_kept_with_the_board(self):
        page = self.inside()
        page.goto(f"{self.shop}stock/ash-01/")
        page.get_by_role("link", name="Compare its end with pictures").click()
        page.get_by_role("link", name="Rings at 45 degrees, half way out").click()
        expect(page.locator(".answer-word")).to_contain_text("Rift")
        page.get_by_label("Rings against the wide face").fill("84")
        expect(page.locator(".answer-word")).to_contain_text("Quarter-sawn")
        page.get_by_role("link", name="Use it for ash-01").click()
        expect(page.get_by_label("or the ring angle, degrees")).to_have_value("84")
        page.locator("main").get_by_role("button", name="Save", exact=True).click()
        expect(page.get_by_role("heading", name="Is ash-01 ready?")).to_be_visible()
        self.assertEqual(self.rows(Piece).get(tag="ash-01").ring_angle_deg, 84)

    def test_a_lot_is_read_board_by_board_and_split(self):
        page = self.inside()
        page.goto(f"{self.shop}stock/ash-lot-01/")
        page.get_by_role("button", name="Add sample").click()
        expect(page.get_by_role("heading", name="Is ash-lot-01-s-06 ready?")).to_be_visible()
        page.get_by_label("Quick entry").fill("ash-lot-01-s-06 17 17.2 core 18")
        page.get_by_label("Quick entry").press("Enter")
        page.get_by_role("link", name="ash-lot-01", exact=True).first.click()
        self.see("6 boards read")
        page.get_by_role("link", name="Split the lot").click()
        page.get_by_label("How many go").fill("20")
        page.get_by_role("button", name="Split it").click()
        expect(page.get_by_role("heading", name="Is ash-lot-02 ready?")).to_be_visible()
        self.assertEqual([self.rows(Piece).get(tag=f"ash-lot-0{k}").count for k in (1, 2)], [44, 20])
