"""The base of all browser journeys: one Chromium per process, a fresh context per test, console errors are failures."""

import atexit
import threading
from multiprocessing import util
from pathlib import Path

from django.contrib.staticfiles.testing import StaticLiveServerTestCase
from playwright.sync_api import Page, expect

from command.browser import DESKTOP, PHONE, open_browser
from tests.cases import Committing

AXE = (Path(__file__).parent / "vendor" / "axe.min.js").read_text(encoding="utf-8")
STANDARDS = ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa", "best-practice"]
_opened: list = []
# A machine that is busy with something else is slow, not wrong.
expect.set_options(timeout=20_000)


def browser():
    if not _opened:
        driver, opened = open_browser()
        _opened.extend((driver, opened))

        def close() -> None:
            if _opened:
                opened.close()
                driver.stop()
                _opened.clear()

        # Worker processes end through multiprocessing's own finalizers, the only process through atexit.
        util.Finalize(None, close, exitpriority=10)
        atexit.register(close)
    return _opened[1]


class Journey(Committing, StaticLiveServerTestCase):
    """A journey through the application as a person would make it. ``self.page`` is a desktop page; ``self.phone()`` gives a phone."""

    # Each journey may be made by another process.
    apart = True

    def setUp(self) -> None:
        self.page = self.new_page(DESKTOP)

    @classmethod
    def tearDownClass(cls) -> None:
        super().tearDownClass()
        # A page that is closed may have asked something still; what it is answered would count among what the next test renders.
        for answering in threading.enumerate():
            if "process_request_thread" in answering.name:
                answering.join(10)

    def new_page(self, viewport, **options) -> Page:
        # What a worker fetches no test can stand between: only journeys about it have one.
        options = {"service_workers": "block", "reduced_motion": "reduce", **options}
        context = browser().new_context(viewport=viewport, base_url=self.live_server_url, **options)
        self.addCleanup(context.close)
        page = context.new_page()
        page.set_default_timeout(20_000)
        page.complaints = []
        page.on("pageerror", lambda error: page.complaints.append(str(error)))
        page.on("console", lambda line: page.complaints.append(line.text) if line.type == "error" else None)
        return page

    def phone(self) -> Page:
        return self.new_page(PHONE, has_touch=True, is_mobile=True)

    def see(self, text: str, page: Page | None = None) -> None:
        expect((page or self.page).get_by_text(text).first).to_be_visible()

    def assert_accessible(self, page: Page | None = None) -> None:
        """axe-core finds nothing on the page as it stands, and the page did not complain."""
        page = page or self.page
        self.assertEqual(self.found_by_axe(page), [], f"axe-core on {page.url}")
        self.assertEqual(page.complaints, [])

    def found_by_axe(self, page: Page, *, only_colours: bool = False) -> list[str]:
        """What axe-core says against the page as it stands; of the same page in other colours, what it says of colours."""
        if not page.evaluate("'axe' in window"):
            page.evaluate(AXE)
        rules = "{type: 'rule', values: ['color-contrast', 'link-in-text-block']}" if only_colours else f"{STANDARDS}"
        # Asked for nothing but what is wrong, it is several times as quick.
        result = page.evaluate(f"axe.run(document, {{runOnly: {rules}, resultTypes: ['violations']}})")["violations"]
        return [f"{item['id']}: {item['help']}: {[node['target'] for node in item['nodes'][:3]]}" for item in result]
