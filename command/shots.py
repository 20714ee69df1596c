"""``./heron shots``: retake docs/screenshots from a freshly made demo workshop, desktop and phone."""

import os

from command.application import forget_prepared, prepare
from command.cluster import Cluster, free_port
from command.machine import ROOT, need_chromium
from command.server import served

FOLDER = ROOT / "docs" / "screenshots"
# File name, address inside the demo workshop, and what to do before the picture is taken.
DESKTOP_VIEWS = (
    ("today", "", ""),
    ("air", "air/", ""),
    ("stock", "stock/", ""),
    ("is-it-ready", "stock/ash-03/", ""),
    ("measure", "stock/ash-03/measure/", ""),
    ("rough", "turning/rough/?species_key=sugar+maple&diameter_m=12&height_m=5&where=heated", ""),
    ("what-will-it-do", "stock/oak-04/movement/", ""),
    ("how-long", "stock/elm-01/drying/", ""),
    ("roads", "drying/roads/?species_key=white+oak&thickness_m=4/4&where=four_seasons&home=heated", ""),
    (
        "stack",
        "stacks/plan/?species_key=white+oak&thickness_m=4/4&board_m=8&length_m=8+ft&count=100&width_m=48&bearers_m=30&where=four_seasons",
        "",
    ),
    (
        "top",
        "movement/of/top/?species_key=white+oak&width_m=36&length_m=60&boards=6&thickness_m=7/8&built=10&finish=urethane_varnish&coats=3&stop=4",
        "",
    ),
    ("kiln", "kiln/plan/?species_key=white+oak&thickness_m=4/4&volume_m3=1000&wanted=8&chamber=dehumidifier&where=four_seasons", ""),
    ("load", "kiln/of/load-01/", ""),
    ("cut", "turning/cut/?piece=cherry-log-01", ""),
    ("shelf", "turning/", ""),
)
PHONE_VIEWS = (
    ("phone-today", "", ""),
    ("phone-is-it-ready", "stock/ash-03/", ""),
    ("phone-ask-wood", "ask/wood/?readings=11.2+11.8+12.1+16.4&thickness_m=4/4&species_key=walnut&home=heated", ""),
)
STRIP = "ash-03 11.2 11.8 12.1 core 14\noak-04 18.4 18.1 17.9\ncherry-01 9.7 9.9 end 8.8"


def run(arguments: list[str]) -> int:
    from command.browser import DESKTOP, PHONE, open_browser

    os.environ["CALM_HERON_CHROMIUM"] = need_chromium()
    FOLDER.mkdir(parents=True, exist_ok=True)
    with Cluster("bench") as cluster:
        cluster.drop_database("shots")
        cluster.create_database("shots")
        os.environ["CALM_HERON_DEMO"] = "1"
        forget_prepared(cluster, "shots")
        prepare(cluster, database="shots", demo=True)
        port = free_port()
        with served(port):
            driver, browser = open_browser()
            try:
                for size, views in ((DESKTOP, DESKTOP_VIEWS), (PHONE, PHONE_VIEWS)):
                    page = browser.new_context(viewport=size, base_url=f"http://127.0.0.1:{port}", reduced_motion="reduce").new_page()
                    page.goto("/")
                    shop = enter(page)
                    for name, address, first in views:
                        take(page, name, shop + address, first)
                page = browser.new_context(viewport=DESKTOP, base_url=f"http://127.0.0.1:{port}", color_scheme="dark").new_page()
                page.goto("/")
                take(page, "today-at-dusk", enter(page), "")
            finally:
                browser.close()
                driver.stop()
        cluster.drop_database("shots")
    print(f"{len(list(FOLDER.glob('*.png')))} pictures in docs/screenshots.")
    return 0


def enter(page) -> str:
    """Step into a demo workshop; returns its address."""
    page.get_by_role("button", name="Step into the demo workshop").click()
    page.wait_for_url("**/w/*/")
    return page.url


def take(page, name: str, address: str, first: str) -> None:
    page.goto(address)
    if first == "strip":
        page.get_by_label("Readings", exact=True).fill(STRIP)
        page.wait_for_selector(".strip-preview table")
    elif first:
        page.locator(first).first.click()
    page.wait_for_load_state("networkidle")
    page.screenshot(path=FOLDER / f"{name}.png")
