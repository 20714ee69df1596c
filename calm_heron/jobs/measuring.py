"""What every request costs: counted for whoever watches over the installation, and a slow one named in the log with its queries."""

import logging
import time
from collections.abc import Callable
from typing import Any

from django.db import connection
from django.http import HttpRequest, HttpResponse
from prometheus_client import Counter, Histogram

logger = logging.getLogger("calm_heron.slow")
# From here on a page is named in the log, with so many of its slowest queries.
SLOW_S, NAMED = 1.0, 3
MOST_OF_A_QUERY = 300

REQUESTS = Counter("calm_heron_requests", "Requests by page and how they ended.", ["page", "status"])
SECONDS = Histogram("calm_heron_request_seconds", "How long requests took.", buckets=(0.05, 0.1, 0.25, 0.5, 1, 2.5, 5, 10))
QUERIES = Counter("calm_heron_queries", "Queries to the database, by page.", ["page"])


class _Counted:
    """Queries of one request, with their times."""

    def __init__(self) -> None:
        self.taken: list[tuple[float, str]] = []

    def __call__(self, execute: Callable[..., Any], statement: Any, parameters: Any, many: bool, context: Any) -> Any:
        begun = time.perf_counter()
        try:
            return execute(statement, parameters, many, context)
        finally:
            self.taken.append((time.perf_counter() - begun, str(statement)))


def measured(get_response: Callable[..., Any]) -> Callable[..., Any]:
    """Count a request, its time and its queries; what people typed is in neither."""

    def middleware(request: HttpRequest) -> HttpResponse:
        begun, counted = time.perf_counter(), _Counted()
        with connection.execute_wrapper(counted):
            response = get_response(request)
        seconds = time.perf_counter() - begun
        match = request.resolver_match
        page = (match.view_name or "unnamed") if match else "none"
        REQUESTS.labels(page, str(response.status_code)).inc()
        QUERIES.labels(page).inc(len(counted.taken))
        SECONDS.observe(seconds)
        if seconds > SLOW_S:
            slowest = sorted(counted.taken, reverse=True)[:NAMED]
            logger.warning(
                "%s took %.1f s with %d queries; the slowest: %s",
                page,
                seconds,
                len(counted.taken),
                "; ".join(f"{1000 * took:.0f} ms {' '.join(text.split())[:MOST_OF_A_QUERY]}" for took, text in slowest) or "none",
            )
        return response

    return middleware
