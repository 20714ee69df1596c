"""A build from its first part to the bench sheet, a piece moved on its board, a panel put in order: on a desk and on a phone."""

from urllib.parse import parse_qs

from playwright.sync_api import expect

from calm_heron.builds.models import Build, Cut, GlueUp
from tests.browser.demo import DemoJourney


class Builds(DemoJourney):
    def build(self, page, name: str) -> str:
        """The address of one of the demo's builds, which is open then."""
        page.goto(f"{self.shop}builds/")
        page.get_by_role("link", name=name).first.click()
        page.wait_for_load_state()
        return page.url

    def test_a_build_is_begun_its_parts_pasted_laid_and_taken_to_the_bench(self):
        page = self.enter()
        page.get_by_role("navigation", name="Parts of the work", exact=True).get_by_role("link", name="Builds").click()
        expect(page.get_by_role("heading", name="What can I start?")).to_be_visible()
        self.assert_accessible()
        page.get_by_role("link", name="Start a build").click()
        page.get_by_label("What is it?").fill("Step stool")
        page.get_by_role("button", name="Go on to its parts").click()
        expect(page.get_by_role("heading", name="What is Step stool made of?")).to_be_visible()
        page.get_by_label("or pasted").fill(
            "Side\t2\t10\t8\t3/4\tyellow poplar\nTread\t2\t15\t8\t3/4\tyellow poplar\nBad\t1\tx\t8\t3/4\tyellow poplar"
        )
        page.get_by_role("button", name="Show what it says").click()
        expect(page.get_by_text("cannot be read yet")).to_be_visible()
        page.get_by_label("or pasted").fill("Side\t2\t10\t8\t3/4\tyellow poplar\nTread\t2\t15\t8\t3/4\tyellow poplar")
        page.get_by_role("button", name="Look again").click()
        page.get_by_role("button", name="Add 2 parts").click()
        expect(page.locator(".figure")).to_contain_text("Wood is missing")
        page.get_by_role("button", name="Place 4 parts").click()
        expect(page.get_by_role("heading", name="Where do I cut each board?")).to_be_visible()
        build = self.rows(Build).get(name="Step stool")
        laid = Cut.objects.filter(part__build=build).count()
        self.assertEqual(page.locator(".wide-only [data-piece]").count(), laid)
        self.assert_accessible()

    def test_a_piece_moves_on_its_board_and_not_into_a_knot(self):
        page = self.inside()
        self.build(page, "Hall bench")
        page.get_by_role("link", name="Boards").click()
        piece = page.locator(".wide-only [data-piece]").first
        cut = self.rows(Cut).get(
            part=int(piece.get_attribute("data-piece").split(".")[0]), nth=int(piece.get_attribute("data-piece").split(".")[1])
        )
        where, held = cut.x_m, self.rows(Build).get(name="Hall bench").version

        def drag(by: float):
            # Drawn anew, it is another element each time.
            box = page.locator(f'.wide-only [data-piece="{cut.part_id}.{cut.nth}"] rect').bounding_box()
            with page.expect_response(lambda one: one.request.method == "POST") as answer:
                page.mouse.move(box["x"] + 20, box["y"] + 8)
                page.mouse.down()
                page.mouse.move(box["x"] + 20 + by / 2, box["y"] + 8)
                page.mouse.move(box["x"] + 20 + by, box["y"] + 8)
                page.mouse.up()
            return answer.value

        # Over the end of the board: it says why, and the piece lies where it lay.
        self.assertEqual(drag(-300).status, 422)
        expect(page.locator("[data-refused]")).to_contain_text("There it would")
        self.assertEqual(self.rows(Cut).get(part=cut.part_id, nth=cut.nth).x_m, where)
        # Away from the kerf it was laid with, or refused for what lies there: what is told is what was kept.
        moved = drag(6)
        now = self.rows(Cut).get(part=cut.part_id, nth=cut.nth).x_m
        self.assertEqual(moved.status == 200, now != where)
        self.assertEqual(self.rows(Build).get(name="Hall bench").version, held + (moved.status == 200))
        if moved.status == 200:
            expect(page.locator("[data-refused]")).to_be_hidden()
            expect(page.locator("form[data-place] input[name=version]")).to_have_value(str(held + 1))

    def test_every_press_of_an_arrow_key_moves_a_piece_five_millimetres(self):
        page = self.inside()
        self.build(page, "Hall bench")
        page.get_by_role("link", name="Boards").click()
        piece = page.locator(".wide-only [data-piece]").first
        part, nth = map(int, piece.get_attribute("data-piece").split(".")[:2])
        x_m = self.rows(Cut).get(part=part, nth=nth).x_m
        piece.focus()
        with page.expect_request(lambda one: one.method == "POST") as sent:
            for _ in range(3):
                page.keyboard.press("ArrowRight")
        self.assertAlmostEqual(float(parse_qs(sent.value.post_data)["x_m"][0].removesuffix(" mm")), x_m * 1000 + 15, delta=0.6)

    def test_a_knot_is_drawn_over_the_board(self):
        page = self.inside()
        self.build(page, "Hall bench")
        page.get_by_role("link", name="Boards").click()
        page.get_by_label("Mark", exact=True).check()
        board = page.locator(".wide-only [data-board]").first
        box = board.bounding_box()
        page.mouse.move(box["x"] + box["width"] * 0.7, box["y"] + box["height"] * 0.4)
        page.mouse.down()
        page.mouse.move(box["x"] + box["width"] * 0.75, box["y"] + box["height"] * 0.7)
        page.mouse.up()
        form = page.locator("form[data-mark]").first
        expect(form.get_by_label("Along it, to, in")).not_to_have_value("")
        with page.expect_navigation():
            form.get_by_role("button", name="Mark it").click()
        expect(page.get_by_text("Knot:").first).to_be_attached()

    def test_a_panel_is_put_in_order_and_drawn_at_once(self):
        page = self.inside()
        self.build(page, "Hall bench")
        page.get_by_role("link", name="Glue-ups").click()
        expect(page.locator(".answer-word")).to_have_text("Alike enough")
        self.assert_accessible()
        page.get_by_role("button", name="to the right").first.click()
        expect(page.locator("[data-staves] > li").nth(1)).to_contain_text("1 ash")
        page.get_by_role("button", name="Use this order").first.click()
        expect(page.locator("[data-staves] [data-side]").first).to_contain_text("side up")
        page.get_by_label("What the grain does").fill("runs on from 2 to 3")
        page.get_by_role("button", name="Save order").click()
        expect(page.get_by_text("are kept as they lie")).to_be_visible()
        self.assertEqual(self.rows(GlueUp).get().note, "runs on from 2 to 3")

    def test_hurrying_is_worked_out_as_it_is_typed(self):
        page = self.inside()
        self.build(page, "Ferry-house table")
        page.get_by_role("link", name="When can I begin?").click()
        expect(page.get_by_text("All of it together")).to_be_visible()
        self.assert_accessible()
        page.get_by_label("Skimmed off each face, in").fill("0")
        expect(page.get_by_text("both faces skimmed")).to_have_count(0)

    def test_on_a_phone_nothing_runs_over_the_edge(self):
        page = self.inside(self.phone())
        address = self.build(page, "Ferry-house table")
        top = self.rows(Build).get(name="Ferry-house table").parts.first()
        for part in ("", "begin/", "boards/", "milling/", "parts/", "change/", f"glue/{top.pk}/"):
            page.goto(address + part)
            self.assertFalse(page.evaluate("document.documentElement.scrollWidth > innerWidth"), part)
            self.assert_accessible(page)
        for address in (f"{self.shop}builds/", f"{self.shop}builds/wood/"):
            page.goto(address)
            self.assertFalse(page.evaluate("document.documentElement.scrollWidth > innerWidth"), address)
