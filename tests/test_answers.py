"""Saved answers: read while true, worked out again after any change, whatever hand made it, and never needed."""

import random
import re
from datetime import timedelta
from threading import Event, Thread
from unittest import mock

from django.apps import apps
from django.db import connection, transaction
from django.test import TestCase, override_settings
from django.test.utils import CaptureQueriesContext
from django.utils import timezone

from calm_heron.air.actions import record_air
from calm_heron.air.queries import LEVELS, level, levels, saved_levels
from calm_heron.answers import changes, saved, tasks
from calm_heron.answers.models import Change, SavedAnswer
from calm_heron.answers.saved import KINDS, AnswerKind, Saved, answers_of, read_once
from calm_heron.builds.models import Build
from calm_heron.demo.scenario import DEMO_SLUG
from calm_heron.judging import actions as judging
from calm_heron.judging.purposes import Purposes
from calm_heron.judging.stock_states import _judged_now, overview, states_of
from calm_heron.judging.targets import Purpose
from calm_heron.kiln.models import Load
from calm_heron.measuring.actions import strike_reading
from calm_heron.measuring.models import PieceMoisture, Reading
from calm_heron.site.memory import RowMemory
from calm_heron.stock import actions as stock
from calm_heron.stock.models import Piece, Status
from calm_heron.workshops.models import Membership, Role, Workshop
from tests import databases
from tests.cases import Committing, DemoCase
from tests.factories import make_aired_place, make_board, make_person, make_shop, read_board
from tests.pages import text_of
from tests.queue import work_off
from wood.uses import FINE, GENERAL

EVERY_APP = frozenset(app.label for app in apps.get_app_configs())
KIND = AnswerKind(1, "tried", "1", timedelta(hours=1), EVERY_APP, lambda workshop, saved: None)


class Revision(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.owner, cls.place, cls.meter, cls.board = make_shop()
        cls.shop = cls.owner.workshop

    def get(self, value):
        """The answer as it is read, worked out to be ``value`` where it is not true any more."""
        return Saved(self.shop.pk).get(KIND, 0, lambda: value)

    def another(self) -> Piece:
        sizes = {"thickness_m": 0.02, "width_m": 0.1, "length_m": 1.0}
        return Piece(workshop=self.shop, tag="x-1", species_key="white_oak", added_by=self.owner.person, **sizes)

    def test_what_is_true_is_read_and_not_worked_out(self):
        self.assertEqual(self.get("first"), "first")
        self.assertEqual(self.get("second"), "first")

    def test_every_hand_that_changes_something_makes_it_stale(self):
        def by_sql():
            with connection.cursor() as cursor:
                cursor.execute("UPDATE stock_piece SET note = 'x' WHERE id = %s", [self.board.pk])

        for number, change in enumerate(
            (
                lambda: read_board(self.owner, self.board, 9, 9.1, meter=self.meter),
                lambda: record_air(self.owner, self.place, 20, 0.5),
                lambda: Piece.objects.filter(pk=self.board.pk).update(width_m=0.2),
                lambda: Piece.objects.bulk_create(
                    [
                        Piece(
                            workshop=self.shop,
                            tag="x-1",
                            species_key="white_oak",
                            thickness_m=0.02,
                            width_m=0.1,
                            length_m=1,
                            added_by=self.owner.person,
                        )
                    ]
                ),
                lambda: Piece.objects.filter(tag="x-1").delete(),
                by_sql,
                lambda: Workshop.objects.filter(pk=self.shop.pk).update(units="inch"),
            )
        ):
            self.get(f"before {number}")
            change()
            with self.subTest(number):
                self.assertEqual(self.get(f"after {number}"), f"after {number}")

    def test_another_workshop_and_what_no_answer_stands_on_change_nothing(self):
        self.get("mine")
        make_shop(name="Next door")
        self.owner.workshop.refresh_from_db()
        from calm_heron.logbook import actions as log

        log.write(self.owner, "stock", "added", subject="x", kind_of_piece="board", count=1, species="oak")
        self.assertEqual(self.get("other"), "mine")

    def test_another_day_another_rule_and_an_hour_make_it_stale(self):
        self.get("old")
        for changed in ({"day": timezone.localdate() - timedelta(days=1)}, {"rule": "0"}, {"at": timezone.now() - timedelta(hours=2)}):
            SavedAnswer.objects.update(day=timezone.localdate(), rule="1", at=timezone.now())
            self.assertEqual(self.get("new"), "old")
            SavedAnswer.objects.update(**changed)
            with self.subTest(changed):
                self.assertEqual(self.get("old"), "old")
                self.assertEqual(SavedAnswer.objects.get().day, timezone.localdate())

    def test_one_from_a_clock_that_was_ahead_is_not_believed(self):
        self.get("ahead")
        SavedAnswer.objects.update(at=timezone.now() + timedelta(days=3))
        self.assertEqual(self.get("now"), "now")

    def test_what_was_worked_out_from_before_a_change_is_never_read_after_it(self):
        slow = Saved(self.shop.pk)
        record_air(self.owner, self.place, 20, 0.5)
        self.get("newer")
        slow.get(KIND, 0, lambda: "older")
        self.assertEqual(self.get("newest"), "newest")

    def test_what_it_does_not_stand_on_leaves_it_as_it_is(self):
        of_air = AnswerKind(1, "of air", "1", timedelta(hours=1), frozenset({"air"}), lambda workshop, saved: None)
        Saved(self.shop.pk).get(of_air, 0, lambda: "first")
        read_board(self.owner, self.board, 9, 9.1, meter=self.meter)
        self.assertEqual(Saved(self.shop.pk).get(of_air, 0, lambda: "second"), "first")
        record_air(self.owner, self.place, 20, 0.5)
        self.assertEqual(Saved(self.shop.pk).get(of_air, 0, lambda: "third"), "third")

    def test_what_stands_on_some_pieces_is_stale_when_these_change_or_what_belongs_to_none(self):
        # Ids one after another are counted apart.
        boards = [make_board(self.owner, tag=f"b-{number}") for number in range(3)]

        def got(value, pieces):
            return Saved(self.shop.pk).get_of_pieces(KIND, 0, lambda: (value, pieces))

        held = {boards[0].pk, boards[1].pk}
        self.assertEqual(got("first", held), "first")
        read_board(self.owner, boards[2], 9, 9.1, meter=self.meter)
        self.assertEqual(got("other", held), "first")
        read_board(self.owner, boards[1], 9, 9.1, meter=self.meter)
        self.assertEqual(got("second", {boards[2].pk}), "second")
        read_board(self.owner, boards[1], 9, 9.1, meter=self.meter)
        self.assertEqual(got("other", held), "second")
        record_air(self.owner, self.place, 20, 0.5)
        self.assertEqual(got("third", held), "third")

    def test_a_row_that_goes_from_one_piece_to_another_is_counted_for_both(self):
        other = make_board(self.owner, tag="b-1")
        read_board(self.owner, self.board, 9, 9.1, meter=self.meter)
        before = changes.counts_of(self.shop.pk)
        PieceMoisture.objects.filter(piece=self.board).update(piece=other)
        after = changes.counts_of(self.shop.pk)
        raised = {key for key in after if after[key] != before.get(key)}
        self.assertEqual(raised, {("measuring", self.board.pk % changes.PARTS), ("measuring", other.pk % changes.PARTS)})

    def test_bringing_counts_together_leaves_every_revision_as_it_was(self):
        before = changes.counts_of(self.shop.pk)
        Change.objects.create(workshop_id=99_999_999, transaction=7, source="air", part=changes.NO_PIECE, weight=3)
        changes.bring_together()
        self.assertEqual(changes.counts_of(self.shop.pk), before)
        self.assertEqual(Change.objects.filter(workshop_id=self.shop.pk).count(), len(before))
        self.assertFalse(Change.objects.filter(workshop_id=99_999_999).exists())
        record_air(self.owner, self.place, 20, 0.5)
        self.assertEqual(changes.counts_of(self.shop.pk)["air", changes.NO_PIECE], before["air", changes.NO_PIECE] + 1)

    def test_within_one_request_that_reads_they_are_read_once(self):
        with read_once():
            self.assertIs(answers_of(self.shop.pk), answers_of(self.shop.pk))
        self.assertIsNot(answers_of(self.shop.pk), answers_of(self.shop.pk))

    def test_nothing_is_remembered_beside_the_rows_inside_a_transaction(self):
        memory = RowMemory(4)
        self.assertEqual(saved.remembered(memory, self.shop.pk, 1, lambda: "first"), "first")
        self.assertEqual(saved.remembered(memory, self.shop.pk, 1, lambda: "second"), "second")

    def test_old_ones_are_deleted(self):
        self.get("x")
        SavedAnswer.objects.update(at=timezone.now() - timedelta(days=40))
        tasks.tidy.func()
        self.assertEqual(SavedAnswer.objects.count(), 0)

    def test_every_table_of_a_workshop_is_watched_but_those_that_say_no(self):
        with connection.cursor() as cursor:
            cursor.execute(
                "SELECT c.relname, count(*) FROM pg_trigger t JOIN pg_class c ON c.oid = t.tgrelid"
                " WHERE t.tgname LIKE 'notes_%%' GROUP BY 1"
            )
            watched = dict(cursor.fetchall())
        self.assertEqual(watched.keys(), changes.tables().keys())
        self.assertEqual(set(watched.values()), {3})
        self.assertNotIn("logbook_entry", watched)


class Committed(Committing):
    def test_a_change_that_commits_late_makes_stale_what_was_worked_out_meanwhile(self):
        owner, place, _, board = make_shop()
        begun, go_on = Event(), Event()

        def slowly():
            with transaction.atomic():
                Piece.objects.filter(pk=board.pk).update(note="late")
                begun.set()
                go_on.wait(10)
            connection.close()

        late = Thread(target=slowly)
        late.start()
        begun.wait(10)
        record_air(owner, place, 20, 0.5)
        self.assertEqual(Saved(owner.workshop.pk).get(KIND, 0, lambda: "since you opened it"), "since you opened it")
        go_on.set()
        late.join()
        self.assertEqual(Saved(owner.workshop.pk).get(KIND, 0, lambda: "after"), "after")

    @override_settings(WORK_BEHIND=True)
    def test_after_a_change_the_queue_works_answers_out_before_anybody_asks(self):
        owner, _, meter, board = make_shop()
        self.client.force_login(owner.person)
        form = {"strip": f"{board.tag} 9.1 9.2 9.3", "meter": meter.pk}
        self.client.post(f"/w/{owner.workshop.slug}/read/", form)
        work_off()
        there = Saved(owner.workshop.pk)
        self.assertTrue(there.has(LEVELS))
        with mock.patch("calm_heron.judging.stock_states._judged_now", side_effect=AssertionError):
            self.assertEqual(states_of([board], Purposes(owner.workshop))[board.pk], _fresh(owner.workshop)[board.pk])


def _fresh(workshop):
    from wood.judging.readiness import CODES

    now = _judged_now(workshop, Purposes(workshop))
    return {int(pk): CODES[code] for pk, code in zip(now.ids, now.code, strict=True)}


class KeptAgainstFresh(TestCase):
    """After any history of events what is saved is what would be worked out now."""

    @classmethod
    def setUpTestData(cls):
        cls.owner, cls.place, cls.meter, cls.board = make_shop()
        cls.hall = make_aired_place(cls.owner, name="Hall", relative_humidity=0.6)

    def setUp(self):
        self.client.force_login(self.owner.person)

    def do(self, chance: random.Random) -> None:
        pieces = list(Piece.objects.of(self.owner.workshop).in_stock())
        piece = chance.choice(pieces) if pieces else make_board(self.owner)
        chance.choice(
            [
                lambda: read_board(self.owner, piece, *(chance.uniform(6, 20) for _ in range(3)), meter=self.meter),
                lambda: make_board(self.owner, chance.choice(("white_oak", "white_ash")), thickness_m=chance.choice((0.002, 0.027, 0.054))),
                lambda: record_air(self.owner, chance.choice((self.place, self.hall)), chance.uniform(12, 25), chance.uniform(0.3, 0.8)),
                lambda: judging.set_piece_purpose(self.owner, piece, Purpose(self.hall, chance.choice((FINE, GENERAL)))),
                lambda: stock.move(self.owner, [(piece.pk, piece.version)], chance.choice((self.place, self.hall))),
                lambda: stock.set_status(self.owner, [(piece.pk, piece.version)], Status.USED),
                lambda: self.strike(chance),
            ]
        )()

    def strike(self, chance: random.Random) -> None:
        standing = list(Reading.objects.standing().filter(workshop=self.owner.workshop))
        if standing:
            strike_reading(self.owner, chance.choice(standing))

    def test_states_levels_and_counts_are_those_worked_out_anew(self):
        chance = random.Random(29)
        for step in range(25):
            self.do(chance)
            workshop = self.owner.workshop
            with self.subTest(step):
                fresh = _fresh(workshop)
                self.assertEqual(states_of(list(Piece.objects.of(workshop).in_stock()), Purposes(workshop)), fresh)
                self.assertEqual(saved_levels(workshop.pk), levels(workshop.pk))
                counted = overview(workshop, Purposes(workshop)).counts
                self.assertEqual(sum(counted.values()), len(fresh))
                self.assertEqual(level(self.hall), levels(workshop.pk)[self.hall.pk])


class StandsOn(DemoCase):
    def test_every_kind_says_all_that_working_it_out_reads(self):
        """Its queries are looked at: what they read belongs to the apps that the kind names."""
        workshop = Workshop.objects.get(slug=DEMO_SLUG)
        counted = {model._meta.db_table: model._meta.app_label for model in apps.get_models() if model._meta.db_table in changes.tables()}
        for kind in KINDS:
            databases._forget_rows()
            SavedAnswer.objects.all().delete()
            own = Saved(workshop.pk)
            with CaptureQueriesContext(connection) as queries, read_once():
                kind.renew(workshop, own)
            read = {table for query in queries for table in re.findall(r'(?:FROM|JOIN) "(\w+)"', query["sql"])}
            with self.subTest(kind.name):
                self.assertTrue(own.has(kind) or any(own.has(kind, pk) for pk in range(50)))
                self.assertLessEqual({counted[table] for table in read if table in counted}, kind.stands_on or EVERY_APP)


class NotNeeded(DemoCase):
    def test_with_every_saved_answer_deleted_all_pages_say_the_same(self):
        workshop = Workshop.objects.get(slug=DEMO_SLUG)
        member = Membership.objects.create(workshop=workshop, person=make_person(), role=Role.OWNER)
        self.client.force_login(member.person)
        build, load = Build.objects.order_by("pk").first(), Load.objects.order_by("pk").first()
        pages = ("", "stock/", "stock/ash-03/", "builds/", f"builds/{build.pk}/", f"kiln/of/{load.tag}/", "air/", "turning/")
        addresses = [f"/w/{workshop.slug}/{page}" for page in pages]
        for address in addresses:
            self.assertEqual(self.client.get(address).status_code, 200)

        def words_of(address: str) -> str:
            # How long ago something was goes on while this is tried.
            return re.sub(r"\b\d+ (min|h|d|w|mo|minutes?|hours?|days?)\b", "", text_of(self.client.get(address)))

        words = [words_of(address) for address in addresses]
        self.assertGreater(SavedAnswer.objects.count(), 3)
        SavedAnswer.objects.all().delete()
        for address, before in zip(addresses, words, strict=True):
            with self.subTest(address):
                self.assertEqual(words_of(address), before)
