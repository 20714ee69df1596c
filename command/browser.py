"""Headless Chromium, for the tests and for taking screenshots."""

import os
import tempfile

from playwright.sync_api import Browser, Playwright, sync_playwright

FLAGS = (
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--force-color-profile=srgb",
    "--font-render-hinting=none",
)
DESKTOP = {"width": 1280, "height": 800}
PHONE = {"width": 390, "height": 844}


def open_browser() -> tuple[Playwright, Browser]:
    """A driver and a browser; the caller closes both."""
    from command.machine import need_chromium

    driver = sync_playwright().start()
    program = os.environ.get("CALM_HERON_CHROMIUM") or need_chromium()
    return driver, driver.chromium.launch(executable_path=program, args=list(FLAGS), downloads_path=tempfile.gettempdir())
