"""What the database refuses the application itself, whatever its code does: the tests run with the application's rights."""

from django.db import DatabaseError, connection, transaction
from django.utils import timezone

from calm_heron.demo import copies, scenario
from calm_heron.logbook.models import Entry
from calm_heron.workshops import grants
from calm_heron.workshops.models import Erasure, Workshop
from command.cluster import OWNER, ROLE
from tests.cases import DemoCase
from tests.factories import make_board, make_owner

NEVER_CHANGED = (
    "measuring_reading",
    "measuring_metercheck",
    "measuring_slabtest",
    "logbook_entry",
    "air_airreading",
    "air_hygrometercheck",
    "drying_forecast",
    "kiln_sampleweight",
    "kiln_chamberreading",
    "kiln_loadevent",
    "kiln_degradefound",
    "stacks_stackevent",
    "turning_tracing",
    "turning_crackfound",
    "turning_crackstruck",
    "turning_crackmended",
    "turning_ovenheat",
)


class Refusals(DemoCase):
    def setUp(self):
        self.owner = make_owner()
        make_board(self.owner)

    def refused(self, statement: str, *given) -> None:
        with self.subTest(statement), self.assertRaises(DatabaseError), transaction.atomic(), connection.cursor() as cursor:
            cursor.execute(statement, given)

    def query(self, question: str, *given):
        with connection.cursor() as cursor:
            cursor.execute(question, given)
            return cursor.fetchall()

    def test_the_role_owns_nothing_and_is_nobody(self):
        self.assertEqual(self.query("SELECT current_user"), [(ROLE,)])
        self.assertEqual(self.query("SELECT count(*) FROM pg_class WHERE relowner = %s::regrole", ROLE), [(0,)])
        rights = "rolsuper, rolcreatedb, rolcreaterole, rolreplication, rolbypassrls"
        self.assertEqual(self.query(f"SELECT {rights} FROM pg_roles WHERE rolname = %s", ROLE), [(False,) * 5])

    def test_every_table_that_is_never_changed_is_among_those_tried_here(self):
        result = self.query("SELECT relname::text FROM pg_trigger t JOIN pg_class c ON c.oid = t.tgrelid WHERE tgname = 'never_changed'")
        self.assertEqual({name for (name,) in result}, set(NEVER_CHANGED))
        self.assertEqual(grants.append_only(), set(NEVER_CHANGED))
        emptied = self.query("SELECT relname::text FROM pg_trigger t JOIN pg_class c ON c.oid = t.tgrelid WHERE tgname = 'never_emptied'")
        self.assertEqual({name for (name,) in emptied}, set(NEVER_CHANGED))

    def test_what_was_recorded_is_not_changed_removed_or_emptied_by_any_way(self):
        for table in NEVER_CHANGED:
            for statement in (
                f"UPDATE {table} SET id = id",
                f"DELETE FROM {table}",
                f"SET LOCAL calm_heron.erasing_workshop = '{self.owner.workshop_id}'; DELETE FROM {table}",
                f"TRUNCATE {table} CASCADE",
                f"ALTER TABLE {table} DISABLE TRIGGER never_changed",
                f"DROP TABLE {table} CASCADE",
                f"CREATE TRIGGER other BEFORE INSERT ON {table} FOR EACH ROW EXECUTE FUNCTION suppress_redundant_updates_trigger()",
            ):
                self.refused(statement)
        for statement in (
            "SET session_replication_role = replica",
            "DROP FUNCTION calm_heron_refuse_change() CASCADE",
            "CREATE OR REPLACE FUNCTION calm_heron_refuse_change() RETURNS trigger LANGUAGE plpgsql AS 'BEGIN RETURN OLD; END'",
            "CREATE TABLE mine (id int)",
            "DELETE FROM workshops_workshop",
            "DELETE FROM workshops_erasure",
            "INSERT INTO workshops_erasure (name, slug, by, rows, at) VALUES ('a', 'a', 'a', 0, now())",
            "DELETE FROM django_migrations",
            "COPY logbook_entry TO PROGRAM 'cat'",
            "SELECT pg_read_file('/etc/passwd')",
        ):
            self.refused(statement)
        self.assertTrue(Entry.objects.of(self.owner.workshop).exists())

    def test_the_owner_of_the_tables_does_not_empty_them_by_mistake_either(self):
        with connection.cursor() as cursor:
            cursor.execute("SET CONSTRAINTS ALL IMMEDIATE; SET LOCAL ROLE NONE")
            for table in NEVER_CHANGED:
                with self.subTest(table), self.assertRaisesRegex(DatabaseError, "are added, never changed"), transaction.atomic():
                    cursor.execute(f"TRUNCATE {table} CASCADE")
            cursor.execute("SELECT session_user, current_user")
            self.assertEqual(cursor.fetchone(), (OWNER, OWNER))

    def test_a_workshop_that_people_work_in_is_not_erased_by_the_application(self):
        self.refused("SELECT calm_heron_erase_workshop(%s, 'somebody')", self.owner.workshop_id)
        self.assertTrue(Workshop.objects.filter(pk=self.owner.workshop_id).exists())

    def test_what_is_erased_is_written_down_and_nothing_else_goes(self):
        member = copies.for_visitor(timezone.now())
        before = Entry.objects.of(self.owner.workshop).count()
        scenario.erase(member.workshop)
        last = Erasure.objects.latest("id")
        self.assertEqual((last.name, last.slug, last.by), (member.workshop.name, member.workshop.slug, "demo"))
        self.assertGreater(last.rows, 1000)
        self.assertFalse(Workshop.objects.filter(pk=member.workshop_id).exists())
        self.assertEqual(Entry.objects.of(self.owner.workshop).count(), before)
        self.assertEqual(self.query("SELECT calm_heron_erase_workshop(%s, 'again')", member.workshop_id), [(0,)])
