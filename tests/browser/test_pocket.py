"""The phone without a network: the page that stays on it, its figures against the core's, and nothing of a workshop left behind."""

from playwright.sync_api import expect

from calm_heron.pocket.woods import woods
from tests.browser.case import Journey
from wood.air import sorption
from wood.movement import shrinkage

READY = "() => navigator.serviceWorker.ready.then(() => caches.keys()).then((names) => names.length)"


class WithoutANetwork(Journey):
    def test_once_opened_it_answers_without_a_network(self):
        page = self.new_page({"width": 390, "height": 844}, service_workers="allow")
        page.goto("/")
        self.assertEqual(page.evaluate(READY), 1)
        page.context.set_offline(True)
        page.goto("/w/some-shop/stock/")
        self.see("Calm Heron can’t be reached just now", page)
        page.get_by_label("Temperature, °C").fill("21,1")
        page.get_by_label("Relative humidity, %").fill("50 %")
        expect(page.locator("[data-region=air] .figure")).to_have_text("9.2 ± 0.5%")
        page.get_by_label("Relative humidity, %").fill("500")
        self.see("Relative humidity lies between 0 and 100%.", page)
        expect(page.locator("[data-region=air] .figure")).to_have_count(0)
        page.get_by_label("Wood").fill("Black cherry")
        page.get_by_label("Width, mm").fill("300")
        page.get_by_label("Moisture now, %").fill("12")
        page.get_by_label("Moisture later, %").fill("8")
        # By the Wood Handbook's coefficient for cherry, 0.00248 a point: 300 × 0.00248 × 4 is 3.0 mm.
        expect(page.locator("[data-region=movement] .figure")).to_have_text("3.0 ± 0.9 mm narrower, flat-sawn")
        page.get_by_label("Inches, Fahrenheit").check()
        page.get_by_label("Width, in").fill("12")
        expect(page.locator("[data-region=movement] .figure")).to_have_text("0.119 ± 0.036 in narrower, flat-sawn")
        page.reload()
        expect(page.get_by_label("Inches, Fahrenheit")).to_be_checked()
        page.context.set_offline(False)
        page.goto("/")
        self.see("Is this board ready to mill?", page)

    def test_nothing_but_its_own_page_is_kept_and_another_version_takes_the_old_ones_place(self):
        page = self.new_page({"width": 1280, "height": 800}, service_workers="allow")
        page.goto("/")
        page.evaluate(READY)
        page.evaluate("() => caches.open('pocket-old')")
        page.goto("/air-and-wood/")
        kept = page.evaluate(
            "async () => { const name = (await caches.keys()).find((one) => one !== 'pocket-old');"
            " return (await (await caches.open(name)).keys()).map((one) => one.url); }"
        )
        self.assertEqual(len(kept), 7)
        self.assertTrue(all("/static/" in address or address.endswith("/pocket/") for address in kept), kept)

    def test_it_is_accessible_and_fits_a_phone(self):
        for page in (self.phone(), self.page):
            page.goto("/pocket/")
            page.get_by_label("Temperature, °C").fill("20")
            page.get_by_label("Relative humidity, %").fill("50")
            self.assert_accessible(page)
            self.assertLessEqual(page.evaluate("document.documentElement.scrollWidth"), page.viewport_size["width"])

    def test_its_formulas_say_number_by_number_what_the_core_says(self):
        self.page.goto("/pocket/")
        grid = [(t, h / 20) for t in (-40, -10, -1, 0, 12.5, 21.1, 38, 60, 100, 132) for h in range(21)]
        told = self.page.evaluate(
            "async (grid) => { const w = await import('/static/pocket/wood.js'); return grid.map(([t, h]) => { const m = w.measured(t, h);"
            " return [m.emc, m.tolerance, m.extrapolated]; }); }",
            grid,
        )
        for (t, h), (emc, tolerance, extrapolated) in zip(grid, told, strict=True):
            meant = sorption.measured_emc(t, h)
            self.assertAlmostEqual(emc, meant.emc, places=12)
            self.assertAlmostEqual(tolerance, meant.tolerance, places=12)
            self.assertEqual(extrapolated, meant.extrapolated)
        moves = [(wood, a / 100, b / 100) for wood in woods()[::9] for a in (0, 6, 12, 28, 60) for b in (0, 8, 15, 40)]
        told = self.page.evaluate(
            "async (moves) => { const w = await import('/static/pocket/wood.js');"
            " return moves.map(([[name, r, t, fs], a, b]) => [w.sizeRatio(r, a, b, fs), w.sizeRatio(t, a, b, fs)]); }",
            moves,
        )
        for ((_, radial, tangential, saturation), a, b), ratios in zip(moves, told, strict=True):
            for way, ratio in zip((radial, tangential), ratios, strict=True):
                self.assertAlmostEqual(ratio, shrinkage.size_ratio(way, a, b, saturation), places=12)

    def test_the_manifest_names_what_is_there(self):
        self.page.goto("/pocket/")
        told = self.page.evaluate("() => fetch(document.querySelector('link[rel=manifest]').href).then((a) => a.json())")
        self.assertEqual((told["display"], told["scope"]), ("standalone", "/"))
        for icon in told["icons"]:
            size = self.page.evaluate(
                "async (src) => { const i = new Image(); i.src = src; await i.decode(); return `${i.width}x${i.height}`; }",
                icon["src"],
            )
            self.assertEqual(size, icon["sizes"])
