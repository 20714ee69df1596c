"""The demo workshop: whole, repeatable, one for each visitor, renewed and swept without touching anybody else's."""

from datetime import timedelta
from unittest.mock import patch

from django.core.management import call_command
from django.test import Client, override_settings
from django.utils import timezone

from calm_heron.demo import copies, scenario, tasks
from calm_heron.logbook.models import Entry
from calm_heron.measuring.models import Reading
from calm_heron.people import actions as people
from calm_heron.plugs import DEMO_PARTS
from calm_heron.stock.models import Piece
from calm_heron.workshops import quota
from calm_heron.workshops.models import Invitation, Membership, Person, Role, Workshop
from calm_heron.workshops.refusals import Refused
from tests.cases import DemoCase
from tests.factories import make_shop, read_board
from wood.judging.readiness import State


@override_settings(DEMO=True)
class Demo(DemoCase):
    takes_s = 35

    @classmethod
    def setUpTestData(cls):
        cls.pattern = scenario.pattern()

    def enter(self) -> tuple[Client, Membership]:
        visitor = Client()
        visitor.post("/demo/")
        return visitor, Membership.objects.select_related("workshop", "person").get(person=visitor.session["_auth_user_id"])

    def test_the_demo_holds_every_kind_of_answer(self):
        page = self.client.post("/demo/", follow=True)
        counts = page.context["overview"].counts
        for state in (State.READY, State.CLOSE, State.WAIT, State.TOO_UNEVEN, State.CANNOT_TELL):
            self.assertGreater(counts[state], 0, state)
        self.assertGreater(len(self.tags(self.pattern)), 25)

    @staticmethod
    def tags(workshop: Workshop) -> list[str]:
        return list(Piece.objects.of(workshop).order_by("tag").values_list("tag", flat=True))

    def test_every_visitor_gets_a_person_and_a_workshop_of_their_own(self):
        (ann, anns), (_, bobs) = self.enter(), self.enter()
        self.assertNotEqual(anns.person, bobs.person)
        self.assertNotEqual(anns.workshop, bobs.workshop)
        self.assertEqual(ann.get(f"/w/{bobs.workshop.slug}/").status_code, 404)
        self.assertEqual(ann.get(f"/w/{self.pattern.slug}/").status_code, 404)
        answer = ann.post(f"/w/{anns.workshop.slug}/read/", {"strip": "ash-01 9.2", "meter": self.meter_of(anns)})
        self.assertEqual(answer.status_code, 302)
        self.assertEqual(self.readings(anns.workshop), self.readings(self.pattern) + 1)
        self.assertEqual(self.readings(bobs.workshop), self.readings(self.pattern))

    @staticmethod
    def meter_of(member: Membership) -> int:
        return Reading.objects.of(member.workshop).exclude(meter=None).first().meter_id

    @staticmethod
    def readings(workshop: Workshop) -> int:
        return Reading.objects.of(workshop).count()

    def test_a_copy_has_all_rows_of_the_pattern_and_names_none_outside_itself(self):
        _, member = self.enter()
        for part in DEMO_PARTS:
            for model in part.rows:
                if model in copies.NOT_COPIED:
                    continue
                rows = model.objects.of(member.workshop)
                with self.subTest(model=model.__name__):
                    self.assertEqual(rows.count(), model.objects.of(self.pattern).count())
                    for field in model._meta.concrete_fields:
                        if field.related_model and hasattr(field.related_model, "workshop"):
                            strangers = rows.filter(**{f"{field.name}__isnull": False}).exclude(
                                **{f"{field.name}__workshop": member.workshop}
                            )
                            self.assertFalse(strangers.exists(), field.name)
        self.assertFalse(Membership.objects.of(member.workshop).filter(person__email=scenario.DEMO_EMAIL).exists())
        self.assertFalse(Entry.objects.of(member.workshop).filter(by__email=scenario.DEMO_EMAIL).exists())

    def test_the_answers_of_a_copy_are_those_of_the_pattern(self):
        visitor, member = self.enter()
        owner = Client()
        person = Person.objects.create(email="someone@workshop.example", name="Somebody")
        Membership.objects.create(workshop=self.pattern, person=person, role=Role.OWNER)
        owner.force_login(person)
        pages = [
            client.get(f"/w/{shop.slug}/").context["overview"].counts
            for client, shop in ((visitor, member.workshop), (owner, self.pattern))
        ]
        self.assertEqual(*pages)

    def test_who_comes_back_within_the_day_finds_their_own(self):
        visitor, member = self.enter()
        self.assertEqual(visitor.post("/demo/").url, f"/w/{member.workshop.slug}/")
        self.assertEqual(Person.objects.filter(is_visitor=True).count(), 1)

    def test_after_a_day_a_copy_is_gone_with_its_visitor_and_nobody_else(self):
        owner, _, meter, board = make_shop()
        read_board(owner, board, 9, meter=meter)
        before = Entry.objects.of(owner.workshop).count()
        visitor, member = self.enter()
        Person.objects.filter(pk=member.person_id).update(date_joined=timezone.now() - timedelta(hours=25))
        _, fresh = self.enter()
        self.assertFalse(Workshop.objects.filter(pk=member.workshop_id).exists())
        self.assertFalse(Person.objects.filter(pk=member.person_id).exists())
        self.assertEqual(visitor.get(f"/w/{member.workshop.slug}/").status_code, 302)
        self.assertTrue(Workshop.objects.filter(pk=fresh.workshop_id).exists())
        self.assertEqual(Entry.objects.of(owner.workshop).count(), before)

    def test_an_old_pattern_is_renewed_by_the_first_who_comes_and_is_the_same_each_time(self):
        before = self.tags(self.pattern)
        Workshop.objects.filter(pk=self.pattern.pk).update(created_at=timezone.now() - timedelta(days=1))
        self.enter()
        self.assertGreater(scenario.pattern().created_at, timezone.now() - scenario.FRESH_FOR)
        self.assertEqual(self.tags(scenario.pattern()), before)

    def test_where_there_is_no_room_the_unused_give_way_and_the_used_do_not(self):
        (_, idle), (busy, used) = self.enter(), self.enter()
        Person.objects.filter(is_visitor=True).update(date_joined=timezone.now() - timedelta(hours=2))
        busy.post(f"/w/{used.workshop.slug}/read/", {"strip": "ash-01 9.2", "meter": self.meter_of(used)})
        with patch.object(copies, "MOST", 2):
            self.enter()
            self.assertFalse(Workshop.objects.filter(pk=idle.workshop_id).exists())
            self.assertTrue(Workshop.objects.filter(pk=used.workshop_id).exists())
            answer = self.client.post("/demo/", follow=True)
        # One who has just come in is left alone for half an hour, and so much is said.
        self.assertContains(answer, "As many people are in the demo as it holds. Come back in 30 minutes.")

    @staticmethod
    def few_rows(pattern: Workshop, workshop: Workshop, visitor: Person) -> None:
        """As much of a copy as the room for it goes by."""
        Membership.objects.create(workshop=workshop, person=visitor, role=Role.OWNER)
        Entry.objects.create(workshop=workshop, by=visitor, kind=scenario.SET_UP, what="set_up")

    def test_one_address_is_let_in_thirty_times_an_hour_and_leaves_room_for_the_next(self):
        now, flood = timezone.now(), "198.51.100.7"
        with patch.multiple(copies, AN_HOUR=3, MOST=4, _copy_rows=self.few_rows):
            for _ in range(3):
                copies.for_visitor(now, flood)
            for _ in range(20):
                with self.assertRaisesMessage(Refused, "3 times from this address within an hour. Come back in 60 minutes."):
                    copies.for_visitor(now, flood)
            self.assertEqual(self.client.post("/demo/", REMOTE_ADDR="198.51.100.8").url[:3], "/w/")
            # An hour later it may come again; the copies of before, full as it was, had been left alone.
            copies.for_visitor(now + timedelta(minutes=61), flood)
        self.assertEqual(copies.visitors().count(), 1)

    def test_this_machine_is_let_in_as_often_as_it_likes_and_gives_up_its_own(self):
        now = timezone.now()
        with patch.multiple(copies, AN_HOUR=1, HELD_BY_ONE=2, _copy_rows=self.few_rows):
            for _ in range(4):
                copies.for_visitor(now, "127.0.0.1")
            self.assertEqual(copies.visitors().count(), 2)

    def test_what_a_visitor_adds_has_a_limit_in_sum_by_form_and_by_device_and_a_workshop_has_none(self):
        visitor, member = self.enter()
        strip = f"/w/{member.workshop.slug}/read/"
        sent = {"strip": "ash-01 9.2", "meter": self.meter_of(member)}
        rows, taken = quota.held(member.workshop)
        self.assertGreater(quota.MOST_ROWS, 2 * rows)
        self.assertGreater(quota.MOST_BYTES, taken)
        with patch.object(quota, "MOST_ROWS", rows):
            visitor.post(strip, sent)
            answer = visitor.post(strip, sent)
            self.assertContains(answer, "holds all that it can", status_code=422)
            self.assertEqual(visitor.get(strip).status_code, 200)
            owner, *_ = make_shop()
            self.assertFalse(quota.is_full(owner.workshop))
            with patch.object(quota, "MOST_ROWS", 0):
                self.assertFalse(quota.is_full(owner.workshop))

    def test_a_start_is_not_refused_where_the_demo_is_full(self):
        self.enter()
        with patch.object(copies, "MOST", 1):
            call_command("load_demo")
        self.assertEqual(copies.visitors().count(), 1)
        call_command("load_demo", "--again")
        self.assertEqual(copies.visitors().count(), 0)
        self.assertNotEqual(scenario.pattern(), self.pattern)

    def test_nobody_signs_in_as_one_of_the_co_operative(self):
        wren = Person.objects.get(email=scenario.DEMO_EMAIL)
        self.client.force_login(wren)
        self.assertEqual(self.client.get(f"/w/{self.pattern.slug}/").status_code, 302)
        # Nor with a session from long ago, when visitors did.
        Person.objects.filter(pk=wren.pk).update(is_active=True)
        self.client.force_login(wren)
        self.assertEqual(self.client.get(f"/w/{self.pattern.slug}/").status_code, 200)
        self.enter()
        self.assertEqual(self.client.get(f"/w/{self.pattern.slug}/").status_code, 302)

    @override_settings(DEMO=False)
    def test_without_the_demo_its_door_is_closed(self):
        self.assertEqual(self.client.post("/demo/").status_code, 404)
        self.assertNotContains(self.client.get("/"), "demo workshop")


@override_settings(DEMO=True)
class Closed(DemoCase):
    """What a visitor may not do: anything outside their demo."""

    def setUp(self):
        self.client.post("/demo/")
        self.member = Membership.objects.get(person__is_visitor=True)

    def test_account_pages_lead_back_with_a_word_and_signing_out_works(self):
        for page in ("login/", "signup/", "password/change/", "email/", "password/reset/"):
            with self.subTest(page=page):
                for answer in (
                    self.client.get(f"/accounts/{page}", follow=True),
                    self.client.post(f"/accounts/{page}", {"x": "1"}, follow=True),
                ):
                    self.assertContains(answer, "The demo has no account")
        self.assertEqual(self.client.post("/accounts/logout/").status_code, 302)
        self.assertEqual(self.client.get("/accounts/login/").status_code, 200)

    def test_no_real_workshop_is_joined(self):
        owner, *_ = make_shop()
        invitation = people.invite(owner, Role.MAKER)
        answer = self.client.post(f"/join/{invitation.token}/")
        self.assertContains(answer, "This is not for visitors of the demo", status_code=404)
        self.assertEqual(Membership.objects.of(owner.workshop).count(), 1)
        invitation.refresh_from_db()
        self.assertTrue(invitation.is_open)

    def test_nobody_is_invited_and_no_workshop_founded(self):
        shop = f"/w/{self.member.workshop.slug}/"
        answer = self.client.post(f"{shop}people/invite/", {"role": Role.MAKER.value}, follow=True)
        self.assertContains(answer, "This is not for visitors of the demo")
        self.assertNotContains(answer, "Make a link")
        self.assertFalse(Invitation.objects.of(self.member.workshop).exists())
        before = Workshop.objects.count()
        self.assertContains(
            self.client.post("/workshops/new/", {"name": "Mine", "units": "metric"}), "This is not for visitors of the demo"
        )
        self.assertEqual(Workshop.objects.count(), before)
        with self.assertRaises(Refused):
            people.found_workshop(self.member.person, "Mine", "metric")


class Behind(DemoCase):
    def test_the_queue_takes_out_copies_whose_day_is_over_and_only_where_the_demo_is(self):
        now = timezone.now()
        copies.for_visitor(now)
        copies.visitors().update(date_joined=now - copies.LASTS - timedelta(hours=1))
        with override_settings(DEMO=False):
            tasks.sweep.func()
        self.assertEqual(copies.visitors().count(), 1)
        with override_settings(DEMO=True):
            tasks.sweep.func()
        self.assertEqual(copies.visitors().count(), 0)
