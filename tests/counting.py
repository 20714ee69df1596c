"""How many queries a page asks."""

from django.db import connection
from django.test import Client
from django.test.utils import CaptureQueriesContext


def query_count(client: Client, address: str) -> int:
    with CaptureQueriesContext(connection) as queries:
        answer = client.get(address)
    assert answer.status_code == 200, answer.status_code
    return len(queries)
