"""A database from before: what an older state of the application wrote is brought up to date, and its pages still answer.

``before/2026-11-30.backup`` holds the demo as it was then, before five steps of the tables. Whoever renames a table or a column, or gives a
kind or a code another meaning, puts a backup of the state before in its place.
"""

import tempfile
from pathlib import Path

from django.core.management import call_command
from django.db import connection
from django.db.migrations.recorder import MigrationRecorder
from django.test import TestCase

from calm_heron.demo import scenario
from calm_heron.workshops import grants
from calm_heron.workshops.models import Membership, Role
from command import archive
from command.cluster import ROLE
from tests import databases
from tests.keeping.case import cluster_of_this_run
from tests.pages import addresses
from tests.walks import far, some

BACKUP = Path(__file__).parent / "before" / "2026-11-30.backup"


class FromBefore(TestCase):
    takes_s = 30

    @classmethod
    def setUpClass(cls):
        cls.addClassCleanup(databases.use, databases.EMPTY)
        cls.enterClassContext(databases.brought_in(cls.bring_in))
        cls.steps_before = set(MigrationRecorder(connection).applied_migrations())
        call_command("migrate", verbosity=0, interactive=False)
        with connection.cursor() as cursor:
            grants.settle(cursor, ROLE)
        databases.act_as(ROLE)
        super().setUpClass()

    @classmethod
    def bring_in(cls, name):
        with tempfile.TemporaryDirectory() as folder:
            dump = Path(folder) / archive.DUMP
            looked = archive.look(BACKUP)
            cls.about = looked.about
            dump.write_bytes(b"".join(looked.pieces()))
            client = cluster_of_this_run().client
            client("pg_restore", "--exit-on-error", "--no-owner", "--no-privileges", f"--dbname={name}", str(dump)).check_returncode()

    def test_its_tables_are_moved_on_and_keep_their_rows(self):
        self.assertGreater(set(MigrationRecorder(connection).applied_migrations()), self.steps_before)
        self.assertIn(("workshops", "0008_clock_and_english"), self.steps_before)
        self.assertNotIn(("workshops", "0009_scale_and_cutting"), self.steps_before)
        for table in ("stock_piece", "measuring_reading", "kiln_sampleweight", "builds_held", "turning_turned", "logbook_entry"):
            with self.subTest(table), connection.cursor() as cursor:
                cursor.execute(f"SELECT count(*) FROM {table}")
                self.assertEqual(cursor.fetchone(), (self.about.rows[table],))

    def test_its_pages_answer(self):
        workshop = scenario.pattern()
        owner = Membership.objects.get(workshop=workshop, role=Role.OWNER).person
        # Nobody signs in as somebody of the pattern; here it is walked itself, for a copy would be of a demo made anew.
        owner.is_active = True
        owner.save()
        self.client.force_login(owner)
        # An address that is only posted to, or is of a row that is not there, is no page; an error of ours is raised by the client.
        pieces = (f"stock/{tag}/" for tag in ("ash-04", "ash-lot-01", "ash-bowl-01"))
        composed = ("", "stock/", "log/", "drying/", "stacks/", "kiln/of/load-01/", "builds/", "turning/", *pieces)
        for address in composed:
            self.assertEqual(self.client.get(f"/w/{workshop.slug}/{address}").status_code, 200, address)
        looked = [address for address in some(list(addresses(workshop)), 0, 6) if self.client.get(address).status_code == 200]
        self.assertGreater(len(looked), far(15, 90))
