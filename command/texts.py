"""``./heron texts FILE``: everything that people read in the demo workshop, page by page, in one file to be read in one go."""

import argparse
import re
import sys
from collections.abc import Iterator
from html import unescape

from command.application import point_at
from command.cluster import Cluster
from command.machine import called_from
from command.trouble import Trouble

DATABASE = "texts"
# What a page says of itself and not of the workshop's other pages; what only moves or measures is no text.
MAIN = re.compile(r"<main\b.*?</main>", re.DOTALL)
LEFT_OUT = re.compile(r"<(script|style|template|svg)\b.*?</\1>", re.DOTALL)
HEADING = re.compile(r"<h1\b[^>]*>(.*?)</h1>", re.DOTALL)
# What begins a line of its own.
BLOCK = re.compile(
    r"</?(?:p|li|ul|ol|dl|dt|dd|div|section|table|tr|h[1-6]|form|label|details|summary|option|select|button|figcaption)\b[^>]*>"
)


def run(options: argparse.Namespace) -> int:
    file = called_from(options.file)
    with Cluster("test", durable=False) as cluster:
        cluster.drop_database(DATABASE)
        cluster.create_database(DATABASE)
        point_at(cluster, database=DATABASE, settings="calm_heron.settings.testing", as_owner=True)
        parts = list(_read())
    try:
        file.write_text("\n".join(parts), encoding="utf-8")
    except OSError as error:
        raise Trouble(f"{file} could not be written: {error.strerror}.") from None
    print(f"{len(parts)} pages in {file}.", file=sys.stderr)
    return 0


def _read() -> Iterator[str]:
    """Each page of a visitor's workshop that can be looked at, as text."""
    import django

    django.setup()
    from django.core.management import call_command
    from django.test import Client
    from django.test.utils import setup_test_environment
    from django.utils import timezone

    setup_test_environment()
    call_command("migrate", verbosity=0)
    call_command("load_demo", verbosity=0)
    from calm_heron.demo import copies
    from tests.pages import addresses

    owner = copies.for_visitor(timezone.now())
    client = Client()
    client.force_login(owner.person)
    for address in addresses(owner.workshop):
        answer = client.get(address)
        if answer.status_code == 200 and "html" in answer.headers["Content-Type"] and not answer.streaming:
            yield page_text(answer.content.decode(), address)


def page_text(markup: str, address: str) -> str:
    """A page's own words under its heading and address, a line for each block.

    >>> page_text('<h1>Is it ready?</h1><main><h1>Is it ready?</h1><p>It is <b>dry</b>.</p><ul><li>Oak</li></ul></main>', "/w/shop/")
    '# Is it ready?\\\\n  /w/shop/\\\\nIt is dry.\\\\nOak\\\\n'
    """
    heading = HEADING.search(markup)
    main = MAIN.search(markup)
    inside = LEFT_OUT.sub(" ", HEADING.sub(" ", main[0] if main else markup))
    lines = [" ".join(unescape(re.sub(r"<[^>]+>", "", part)).split()) for part in BLOCK.split(inside)]
    name = " ".join(unescape(re.sub(r"<[^>]+>", " ", heading[1])).split()) if heading else "(no heading)"
    return "\n".join([f"# {name}", f"  {address}", *(line for line in lines if line), ""])
