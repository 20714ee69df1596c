"""``./heron shots``: retake docs/screenshots from a freshly made demo workshop, desktop and phone."""

import argparse
import os
from typing import Any

from command.application import forget_prepared, prepare
from command.cluster import Cluster, free_port
from command.machine import ROOT, need_chromium
from command.server import served

FOLDER = ROOT / "docs" / "screenshots"
# What a stranger sees first.
FRONT = "front"
# File name, address inside the demo workshop, and the links that are followed, one after the other, before the picture is taken.
DESKTOP_VIEWS = (
    ("today", "", ""),
    ("stock", "stock/", ""),
    ("is-it-ready", "stock/ash-03/", ""),
    ("rough", "turning/rough/?species_key=sugar+maple&diameter_m=12&height_m=5&where=heated", ""),
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
    ("build", "builds/", "Ferry-house table | When can I begin?"),
    ("boards", "builds/", "Hall bench | Boards"),
    ("glue-up", "builds/", "Hall bench | Glue-ups"),
    ("first-year", "builds/", "Light-room chest | First year"),
)
PHONE_VIEWS = (
    ("phone-today", "", ""),
    ("phone-ask-wood", "ask/wood/?readings=11.2+11.8+12.1+16.4&thickness_m=4/4&species_key=walnut&home=heated", ""),
)


def run(options: argparse.Namespace) -> int:
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
                    page = browser.new_context(
                        viewport={"width": size["width"], "height": size["height"]},
                        base_url=f"http://127.0.0.1:{port}",
                        reduced_motion="reduce",
                    ).new_page()
                    if size is DESKTOP:
                        take(page, FRONT, "/", "")
                    page.goto("/")
                    shop = enter(page)
                    for name, address, first in views:
                        take(page, name, shop + address, first)
            finally:
                browser.close()
                driver.stop()
        cluster.drop_database("shots")
    print(f"{len(list(FOLDER.glob('*.png')))} pictures in docs/screenshots.")
    return 0


def enter(page: Any) -> str:
    """Step into a demo workshop; returns its address."""
    page.get_by_role("button", name="Step into the demo workshop").click()
    page.wait_for_url("**/w/*/")
    return page.url


def take(page: Any, name: str, address: str, first: str) -> None:
    page.goto(address)
    for clicked in filter(None, first.split(" | ")):
        page.wait_for_load_state("networkidle")
        page.get_by_role("main").get_by_role("link", name=clicked).first.click()
    page.wait_for_load_state("networkidle")
    page.screenshot(path=FOLDER / f"{name}.png")
