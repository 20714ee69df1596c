"""``./heron cases``: work the everyday cases through the screens and write what they say into docs/science.md."""

import argparse
import re
import sys

from command.application import point_at
from command.cluster import Cluster
from command.machine import ROOT
from command.trouble import Trouble

DOCS = ROOT / "docs" / "science.md"
DATABASE = "cases"
BEGINS, ENDS = "<!-- everyday cases -->", "<!-- end of the everyday cases -->"


def run(options: argparse.Namespace) -> int:
    with Cluster("test", durable=False) as cluster:
        cluster.drop_database(DATABASE)
        cluster.create_database(DATABASE)
        point_at(cluster, database=DATABASE, settings="calm_heron.settings.testing", as_owner=True)
        table, wrong = _worked()
    text = DOCS.read_text()
    if BEGINS not in text:
        raise Trouble(f"docs/science.md has no place for the cases: {BEGINS}")
    DOCS.write_text(re.sub(f"{BEGINS}.*?{ENDS}", lambda _: f"{BEGINS}\n{table}\n{ENDS}", text, flags=re.DOTALL))
    print(table)
    for line in wrong:
        print(f"Practice would not accept: {line}", file=sys.stderr)
    return 1 if wrong else 0


def _worked() -> tuple[str, list[str]]:
    """The table, and the cases whose answer practice would not accept."""
    import django

    django.setup()
    from django.core.management import call_command
    from django.test.utils import setup_test_environment

    setup_test_environment()
    call_command("migrate", verbosity=0)
    from tests import everyday
    from tests.factories import make_owner

    rows = list(everyday.worked(lambda: make_owner(units="inch")))
    return everyday.table(iter(rows)), [f"{case.what}: {answer.word}" for case, answer in rows if not everyday.holds(case, answer)]
