"""Builds: sixty parts laid on boards, a build of sixty parts with its readiness, dates and drawings, one change of it, and its bench sheet.

``python -m command.bench_builds`` measures the pages in a database of its own and writes one line of JSON; ``./heron bench builds`` runs
both.
"""

from typing import Any

from command.bench import best, row, with_the_demo
from command.bench_yield import PILES, by_hand, by_layout
from wood.builds import cut_order, layout
from wood.builds.glueups import PanelBoard, RingApproach, by_approach, panel
from wood.builds.layout import Board, Need, Rect
from wood.movement import shrinkage
from wood.species import species_named

KERF_M = 0.003
PARTS, BOARDS, WAITING = 60, 40, 8
# Of the boards so many are so thick that thin parts are resawn from them.
THICK = 4


def run() -> None:
    boards = [
        Board(
            f"b{n}", 2.4 + 0.1 * (n % 3), 0.2 + 0.01 * (n % 4), (Rect(1.0, 1.1, 0.05, 0.1), Rect(0, 0.03, 0, 0.2), Rect(0.5, 0.52, 0, 0.02))
        )
        for n in range(15)
    ]
    needs = [Need(f"n{n}", 0.3 + 0.11 * (n % 7), 0.05 + 0.02 * (n % 5), 3) for n in range(20)]
    plan = layout.suggest(boards, needs, KERF_M)
    laid = best(lambda: layout.suggest(boards, needs, KERF_M))
    row("sixty parts of twenty sizes laid on fifteen boards", f"{laid * 1000:.0f} ms", "wanted: at most 500")
    begun = {placement.board for placement in plan.placed}
    used = sum(placement.rect.area_m2 for placement in plan.placed) / sum(board.area_m2 for board in boards if board.key in begun)
    row("  of the wood begun that becomes parts", f"{100 * used:.0f}%")
    cuts = best(lambda: [cut_order.sawn(board, plan.on(board.key), KERF_M) for board in boards])
    row("  their cuts and offcuts, all boards", f"{cuts * 1000:.1f} ms")
    oak = shrinkage.of_species(species_named("white_oak"))
    staves = [PanelBoard(str(n), oak, 0.11, 0.022, 10.0 * n, 0.12) for n in range(6)]
    drawn = best(lambda: [panel(by_approach(staves, approach), 0.10, 0.07) for approach in RingApproach])
    row("a panel of six boards in three schools", f"{drawn * 1000:.1f} ms")


def measured() -> dict[str, tuple[float, int, str]]:
    """Each page's time in ms, how many queries it asks, and what is wanted of it."""
    from django.db import connection
    from django.test import Client
    from django.test.utils import CaptureQueriesContext
    from django.utils import timezone

    from calm_heron.air.demo import BENCH
    from calm_heron.air.models import Place
    from calm_heron.builds import actions
    from calm_heron.builds.layouts import allocation, laying, suggesting
    from calm_heron.builds.models import Build, Cut
    from calm_heron.demo import copies
    from calm_heron.measuring.actions import Taken, record_readings
    from calm_heron.measuring.models import Meter
    from calm_heron.stock.actions import add_piece
    from command.bench import is_small, least_ms

    owner = copies.for_visitor(timezone.now())
    client = Client()
    client.force_login(owner.person)
    meter = Meter.objects.of(owner.workshop).get(name="Blue pin meter")
    room = Place.objects.of(owner.workshop).get(name=BENCH)
    parts, boards = (12, 8) if is_small() else (PARTS, BOARDS)
    for n in range(boards):
        thick = 0.06 if n >= boards - THICK else 0.03
        board = add_piece(owner, "yellow_birch", thickness_m=thick, width_m=0.18 + 0.01 * (n % 5), length_m=2.2 + 0.1 * (n % 4), place=room)
        record_readings(owner, board, meter, [Taken(0.15 if n < WAITING else 0.098) for _ in range(4)], 20.0)
    build = actions.make_build(owner, name="Sixty parts", place=room)
    sizes = [
        {
            "length_m": 0.35 + 0.07 * (n % 11),
            "width_m": 0.05 + 0.012 * (n % 6),
            "thickness_m": 0.018 + 0.001 * (n % 4),
            "figure": "along" if n % 12 == 5 else "",
            "count": 2 if n % 12 == 5 else 1,
        }
        for n in range(parts)
    ]
    actions.add_parts(owner, build, [{"name": f"Part {n + 1}", "species_key": "yellow_birch", **item} for n, item in enumerate(sizes[:-1])])
    actions.add_parts(
        owner,
        build,
        [{"name": "Top", "count": 1, "species_key": "yellow_birch", "staves": 6, "length_m": 0.9, "width_m": 0.6, "thickness_m": 0.02}],
    )
    build.refresh_from_db()
    shop = f"/w/{owner.workshop.slug}/builds/{build.pk}/"
    result: dict[str, tuple[float, int, str]] = {}

    def page(name: str, address: str, wanted: str) -> None:
        with CaptureQueriesContext(connection) as queries:
            assert client.get(address).status_code == 200
        result[name] = (least_ms(lambda: client.get(address)), len(queries), wanted)

    suggested = least_ms(lambda: suggesting.suggested(build, allocation.saw(build), anew=True))
    result["a layout found for 60 parts on 40 boards, some resawn, some in rows"] = (suggested, 0, "wanted: at most 300")
    laying.lay_out(owner, build, build.version)
    client.get(shop)
    page("  the build's page: readiness, dates and sizes", shop, "")
    page("  its boards drawn", f"{shop}boards/", "wanted: at most 150 for one change")
    top = build.parts.get(name="Top")
    order = "[[1,true,false],[0,false,true],[2,true,false],[3,false,false],[4,true,false],[5,false,false]]"
    page("a panel of six boards put in another order", f"{shop}glue/{top.pk}/?fragment=panel&order={order}", "wanted: at most 150")
    cut = Cut.objects.filter(part__build=build).exclude(part=top)[0]

    def moved(more: dict[str, str] | None = None) -> None:
        version = Build.objects.get(pk=build.pk).version
        typed = {
            "piece": f"{cut.part_id}.{cut.nth}",
            "board": cut.board.key,
            "x_m": f"{cut.x_m * 1000} mm",
            "y_m": f"{cut.y_m * 1000} mm",
            "version": version,
        }
        assert client.post(f"{shop}boards/place/", typed | (more or {})).status_code in (200, 302)

    result["a piece laid by hand"] = (least_ms(moved), 0, "")
    dragged = _percentile(95, lambda: moved({"fragment": "boards"}))
    result["a piece dragged, laid and its boards drawn again, 95 times in 100"] = (dragged, 0, "wanted: at most 100")
    page("the bench sheet as PDF", f"{shop}sheet.pdf", "wanted: at most 1000")
    for pile in PILES[: 1 if is_small() else None]:
        share, missing = by_layout(pile, owner, room)
        hand = by_hand(pile)
        said = f"{100 * share:.1f}% of the wood, {100 * hand:.1f} by hand" + (f", {missing} parts missing" if missing else "")
        result[f"pile {pile.name}: {said}"] = (0.0, 0, "wanted: no less, and 5 points more in four of seven")
    return result


def _percentile(percent: float, do: Any) -> float:
    """So many times in a hundred it takes no longer, ms."""
    import time

    import numpy as np

    from command.bench import is_small
    from command.serving import leave_what_is_loaded

    # As the processes do that serve the pages.
    leave_what_is_loaded()
    took = []
    for _ in range(3 if is_small() else 40):
        begun = time.perf_counter()
        do()
        took.append((time.perf_counter() - begun) * 1000)
    return float(np.percentile(took, percent))


if __name__ == "__main__":
    with_the_demo(measured)
