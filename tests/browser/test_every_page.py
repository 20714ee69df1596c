"""Every page as hands, eyes and slow connections meet it: nothing scrolls sideways, no target is too small, no text too fine, nothing
jumps, axe-core finds nothing on the main views, on a phone, at a desk and at dusk, and what has the focus shows it."""

import gzip
import re
import time

from django.urls import reverse

from calm_heron.air.models import Place
from calm_heron.workshops.models import Membership
from command.browser import DESKTOP, PHONE
from tests.browser import eyes
from tests.browser.demo import DemoJourney
from tests.pages import addresses
from tests.walks import far, some

NARROWEST, HALF = {"width": 320, "height": 640}, {"width": 640, "height": 800}
# The views that axe-core looks at.
VIEWS = (
    "",
    "air/",
    "air/new/",
    "stock/",
    "stock/new/",
    "stock/ash-03/",
    "stock/ash-03/measure/",
    "stock/ash-03/change/",
    "stock/ash-03/movement/",
    "stock/wenge-01/movement/",
    "stock/elm-01/",
    "read/",
    "meters/",
    "meters/new/",
    "drying/",
    "drying/?by=chamber&temperature_c=60+C&humidity=30",
    "drying/?thickness_m=oak",
    "drying/?species_key=wenge",
    "stock/oak-04/drying/",
    "stock/ash-03/drying/",
    "log/",
    "people/",
    "stock/?q=oak+>12",
    "stock/new/?kind=bowl",
    "turning/weigh/past/",
    "stock/grain/",
    "stock/species/?q=oak",
    "stock/species/new/",
    "stock/species/european_oak/",
    "stock/labels/?tag=ash-01",
    "stock/table/",
    "stock/ash-lot-01/",
    "stock/ash-lot-01/split/",
    "stock/ash-lot-01/measure/",
    "stock/oak-floor-01/",
    "stock/fir-subfloor-01/",
    "stock/oak-log-01/",
    "stock/ash-bowl-01/measure/",
    "compare/?one=ash-01&other=cherry-01",
    "uses/",
)


class EveryPage(DemoJourney):
    takes_s = 50

    def places(self) -> list[str]:
        """The pages of the visitor's workshop and those for everybody; the views that axe-core looks at are among them."""
        shop = Membership.objects.get(workshop__slug=self.shop.split("/")[2], person__is_visitor=True).workshop
        inside = [
            address
            for address in addresses(shop)
            if not re.search(r"/(photos?|labels|table|species/found|read/preview|.*\.(csv|pdf|svg))/?$", address)
        ]
        query = {
            "ask_air": "?temperature=20&humidity=50",
            "ask_wood": "?readings=11+12+11.5+16&thickness_m=27&species_key=walnut",
            "ask_movement": "?species_key=red+oak&width_m=200&from_moisture=12",
            "ask_drying": "?species_key=red+oak&thickness_m=27",
        }
        return list(
            dict.fromkeys(
                [
                    *inside,
                    *(reverse(name, args=[shop.slug]) + question for name, question in query.items()),
                    *(self.shop + view for view in VIEWS),
                ]
            )
        )

    def look_at_every(self, nth: int) -> None:
        """Every second page, in the suite a fifth of those, opened once: on the narrowest phone first, and then, where axe-core looks, on a
        usual one, at a desk and at dusk. A long walk looks at every page with everything, at four widths, by day and at dusk.
        """
        page = self.phone()
        self.inside(page)
        views = {self.shop + view for view in VIEWS}
        looked, result = 0, []
        for address in some(self.places()[nth::2], nth + 1, 5):
            page.set_viewport_size(NARROWEST)
            page.emulate_media(color_scheme="light")
            page.complaints.clear()
            answer = page.goto(address)
            if answer is None or answer.status not in (200, 422) or "html" not in answer.headers.get("content-type", ""):
                self.assertNotIn(address, views)
                continue
            looked += 1
            shift = page.evaluate(eyes.SHIFT)
            complaints = {"jumps": [round(shift, 3)] if shift > eyes.MOST_SHIFT else []} | eyes.seen(page)
            if far(address in views, whole=True):
                for size in far((PHONE, DESKTOP), (NARROWEST, PHONE, HALF, DESKTOP)):
                    page.set_viewport_size(size)
                    complaints |= {f"{what} at {size['width']}": which for what, which in eyes.seen(page).items()}
                    complaints[f"axe at {size['width']}"] = self.found_by_axe(page)
                    if far(size is DESKTOP, whole=True):
                        page.emulate_media(color_scheme="dark")
                        complaints[f"axe at dusk at {size['width']}"] = self.found_by_axe(page, only_colours=True)
                        complaints[f"underlines at dusk at {size['width']}"] = page.evaluate(eyes.UNDERLINES, eyes.LEAST_UNDERLINE)
                        page.emulate_media(color_scheme="light")
                complaints["console"] = page.complaints
            result += [f"{address}: {what}: {which}" for what, which in complaints.items() if which]
        self.assertGreater(looked, far(9, 45))
        self.assertEqual(result, [], "\n".join(result))

    def test_no_page_scrolls_sideways_jumps_is_too_small_or_bars_anybody(self):
        self.look_at_every(0)

    def test_nor_does_the_other_half_of_them(self):
        self.look_at_every(1)

    def test_what_has_the_focus_shows_it_and_is_not_covered(self):
        page = self.phone()
        self.enter(page)
        rings = """() => { const one = document.activeElement, box = one.getBoundingClientRect(), s = getComputedStyle(one);
          const bar = document.querySelector(".tabs").getBoundingClientRect();
          return {outlined: s.outlineStyle !== "none" && parseFloat(s.outlineWidth) >= 2,
            name: one.tagName + one.textContent.trim().slice(0, 20),
                  covered: !one.closest(".tabs") && box.top >= bar.top && box.height > 0 && one !== document.body}; }"""
        for path in ("", "stock/", "air/", "stock/ash-04/", "ask/wood/"):
            page.goto(self.shop + path)
            for _ in range(40):
                page.keyboard.press("Tab")
                result = page.evaluate(rings)
                with self.subTest(path=path, name=result["name"]):
                    self.assertFalse(result["covered"])
                    self.assertTrue(result["outlined"] or result["name"].startswith("BODY"))

    def test_the_ring_on_the_rail_stands_out_and_is_not_clipped(self):
        page = self.enter()
        page.locator(".rail a").nth(2).focus()
        page.keyboard.press("Tab")
        ring = page.evaluate(
            """() => { const s = getComputedStyle(document.activeElement);
            const back = getComputedStyle(document.querySelector(".rail")).backgroundColor;
            const light = (c) => { const [r, g, b] = c.match(/[\\d.]+/g).map((v) => {
              v /= 255; return v <= 0.03928 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4; });
              return 0.2126 * r + 0.7152 * g + 0.0722 * b; };
            const [a, b] = [light(s.outlineColor), light(back)].sort((x, y) => y - x);
            return {contrast: (a + 0.05) / (b + 0.05), offset: parseFloat(s.outlineOffset)}; }"""
        )
        self.assertGreater(ring["contrast"], 3)
        self.assertLess(ring["offset"], 0)

    def test_what_is_printed_is_made_for_paper(self):
        """On A4 and Letter: as few sheets as can be, no controls, letters of 11 points but for hints and drawings, a code that leads
        back, lines where one writes, and black letters at dusk, too.
        """
        page = self.inside()
        place = self.rows(Place).get(name="Bench room")
        one = ("stock/ash-04/", "stock/ash-lot-01/", "stock/maple-bowl-01/", "stock/ash-04/drying/", f"air/{place.pk}/")
        two = ("turning/", "stacks/of/stack-01/", "stacks/plan/", "drying/roads/", "kiln/of/load-01/", "turning/of/cherry-bowl-02/")
        page.emulate_media(media="print", color_scheme="dark")
        small = """() => [...document.querySelectorAll("main *")].filter((one) => {
          const box = one.getBoundingClientRect(), style = getComputedStyle(one);
          return box.height > 1 && !one.closest("svg, .hint, .ramp, .ruled, .quiet, .tag") && style.visibility !== "hidden"
            && [...one.childNodes].some((node) => node.nodeType === 3 && node.textContent.trim())
            && (parseFloat(style.fontSize) < 14.6 || style.color === "rgb(227, 235, 239)");
        }).map((one) => `${one.tagName} ${one.className} ${getComputedStyle(one).fontSize} ${one.textContent.trim().slice(0, 30)}`)"""
        for path in one + two:
            page.goto(self.shop + path)
            for paper in ("A4", "Letter"):
                with self.subTest(path=path, paper=paper):
                    sheet = page.pdf(format=paper)
                    self.assertLessEqual(len(re.findall(rb"/Type\s*/Page[^s]", sheet)), 1 if path in one else 2)
            with self.subTest(path=path):
                self.assertEqual(page.evaluate(small), [])
                for control in ("form", "button", ".rail", ".tabs", ".strip", "select", "input"):
                    self.assertEqual(page.locator(f"{control}:visible").count(), 0, control)
                self.assertEqual(page.locator(".paper-head svg:visible").count(), 1)
                if path not in ("drying/roads/", "kiln/of/load-01/"):
                    self.assertGreater(page.locator(".ruled:visible, .paper-cell:visible").count(), 0)

    def test_fonts_that_come_late_move_nothing(self):
        page = self.enter()
        place = self.rows(Place).get(name="Bench room")
        late = self.new_page(DESKTOP, storage_state=page.context.storage_state())
        late.route("**/*.woff2", lambda route: (time.sleep(0.4), route.continue_()))
        for path in ("", f"air/{place.pk}/", "stock/ash-04/"):
            late.goto(self.shop + path)
            late.wait_for_timeout(900)
            self.assertLessEqual(late.evaluate(eyes.SHIFT), eyes.MOST_SHIFT, path)

    def test_the_first_page_of_a_workshop_is_light(self):
        """All that travels for it on a phone that was never there, fonts included; texts as they travel, compressed."""
        first = self.inside()
        page = self.new_page(PHONE, storage_state=first.context.storage_state())
        bodies = {}
        page.on("response", lambda answer: bodies.update({answer.url: answer.body()}))
        page.goto(self.shop)
        page.wait_for_load_state("networkidle")
        sizes = {url: len(body) if url.endswith("woff2") else len(gzip.compress(body, 6)) for url, body in bodies.items()}
        self.assertGreater(len(sizes), 8)
        self.assertLess(sum(sizes.values()), 100_000, sizes)
