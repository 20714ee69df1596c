"""How many queries a page asks."""

from django.db import connection
from django.test import Client
from django.test.utils import CaptureQueriesContext


def query_count(client: Client, address: str) -> int:
    """The queries of a page whose answers are saved, as they are once somebody, or the queue, has worked them out."""
    client.get(address)
    with CaptureQueriesContext(connection) as queries:
        answer = client.get(address)
    assert answer.status_code == 200, answer.status_code
    return len(queries)
