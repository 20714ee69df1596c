"""Founding, inviting, joining, roles."""

from django.test import TestCase

from calm_heron.logbook.models import Entry
from calm_heron.logbook.words import describe
from calm_heron.people import actions
from calm_heron.workshops.models import Invitation, Membership, Role, Workshop
from calm_heron.workshops.refusals import Refused
from tests.factories import make_member, make_owner, make_person
from wood.units import METRIC


class People(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.owner = make_owner(name="Reed & Co")

    def test_signing_up_asks_for_name_email_and_password_and_leads_to_a_workshop(self):
        answer = self.client.post(
            "/accounts/signup/", {"name": "Ebb Lowater", "email": "ebb@example.org", "password1": "sedge-and-samphire"}, follow=True
        )
        self.assertContains(answer, "What is the workshop called?")
        self.client.post("/workshops/new/", {"name": "<b>The Shed</b>", "units": "inch"})
        workshop = Workshop.objects.get(name="<b>The Shed</b>")
        self.assertEqual(Membership.objects.get(workshop=workshop).person.name, "Ebb Lowater")
        # A name with markup is shown as it was typed and never becomes markup.
        self.assertContains(self.client.get(f"/w/{workshop.slug}/"), "&lt;b&gt;The Shed&lt;/b&gt;")
        self.assertNotContains(self.client.get(f"/w/{workshop.slug}/"), "<b>The Shed</b>")

    def test_two_workshops_may_share_a_name_but_not_an_address(self):
        other = actions.found_workshop(make_person(), "Reed & Co", "metric")
        self.assertNotEqual(other.slug, self.owner.workshop.slug)

    def test_a_name_without_letters_still_gets_an_address(self):
        self.assertEqual(actions.found_workshop(make_person(), "木", "metric").slug, "workshop")

    def test_a_link_makes_one_person_a_member_once(self):
        invitation = actions.invite(self.owner, Role.HELPER)
        first, second = make_person(), make_person()
        self.client.force_login(first)
        self.assertContains(self.client.get(f"/join/{invitation.token}/"), "invites you to Reed &amp; Co")
        self.client.post(f"/join/{invitation.token}/")
        self.assertEqual(Membership.objects.get(person=first).role, Role.HELPER)
        with self.assertRaises(Refused):
            actions.join(second, invitation.token)
        self.assertEqual(actions.join(first, invitation.token).role, Role.HELPER)

    def test_unknown_and_old_links_say_so(self):
        self.assertEqual(self.client.get("/join/nonsense/").status_code, 404)
        invitation = actions.invite(self.owner, Role.VIEWER)
        Invitation.objects.filter(pk=invitation.pk).update(expires_at="2020-01-01T00:00Z")
        self.assertContains(self.client.get(f"/join/{invitation.token}/"), "older than two weeks", status_code=404)

    def test_the_last_owner_stays_owner(self):
        with self.assertRaises(Refused):
            actions.change_role(self.owner, self.owner.pk, Role.VIEWER)
        with self.assertRaises(Refused):
            actions.change_role(self.owner, self.owner.pk, None)
        second = make_member(self.owner, Role.MAKER)
        actions.change_role(self.owner, second.pk, Role.OWNER)
        actions.change_role(self.owner, self.owner.pk, None)
        self.assertFalse(Membership.objects.filter(pk=self.owner.pk).exists())

    def test_owners_invite_and_change_units_on_the_page(self):
        self.client.force_login(self.owner.person)
        slug = self.owner.workshop.slug
        self.assertContains(self.client.post(f"/w/{slug}/people/invite/", {"role": Role.HELPER, "once": "a"}, follow=True), "/join/")
        self.client.post(f"/w/{slug}/people/invite/", {"role": Role.HELPER, "once": "a"})
        self.assertEqual(Invitation.objects.count(), 1)
        self.client.post(f"/w/{slug}/people/units/", {"name": "Reed & Co", "units": "inch"})
        self.assertEqual(Workshop.objects.get(slug=slug).units, "inch")
        self.assertEqual(self.client.post(f"/w/{slug}/people/units/", {"name": "", "units": "cubits"}).status_code, 422)
        self.assertContains(self.client.post(f"/w/{slug}/people/role/", {"member": 1, "role": 9}, follow=True), "not a role")

    def test_the_theme_is_kept_and_nobody_is_sent_elsewhere(self):
        answer = self.client.post("/appearance/", {"theme": "dark", "back": "https://example.org/"})
        self.assertEqual(answer.headers["Location"], "/")
        self.assertContains(self.client.get("/accounts/login/"), 'data-theme="dark"')
        self.client.post("/appearance/", {"theme": "<script>", "back": "/"})
        self.assertContains(self.client.get("/accounts/login/"), 'data-theme="auto"')

    def entries(self) -> list[str]:
        entries = Entry.objects.of(self.owner.workshop).filter(kind="people").order_by("id")
        return [describe(entry, METRIC) for entry in entries]

    def test_what_is_done_with_people_stands_in_the_log(self):
        invitation = actions.invite(self.owner, Role.HELPER)
        person = make_person(name="Ebb Lowater")
        helper = actions.join(person, invitation.token)
        actions.join(person, invitation.token)
        actions.change_role(self.owner, helper.pk, Role.MAKER)
        actions.change_role(self.owner, helper.pk, Role.MAKER)
        actions.change_role(self.owner, helper.pk, None)
        actions.set_units(self.owner, "Reed and Daughters", "metric")
        actions.set_units(self.owner, "Reed and Daughters", "metric")
        texts = self.entries()
        self.assertEqual(
            texts[:5],
            [
                "Reed & Co was founded",
                "An invitation was made, as helper",
                "Ebb Lowater joined as helper",
                "Ebb Lowater is now maker, helper before",
                "Ebb Lowater, maker, is no longer a member",
            ],
        )
        self.assertEqual(texts[5], "Reed & Co is now called Reed and Daughters")
        self.assertEqual(len([text for text in texts if "called" in text]), 1)
        self.assertNotIn(invitation.token, str(list(Entry.objects.values_list("subject", "data"))))
        self.client.force_login(self.owner.person)
        self.assertContains(self.client.get(f"/w/{self.owner.workshop.slug}/log/", {"kind": "people"}), "Ebb Lowater joined as helper")

    def test_a_kind_of_entry_that_is_not_there_yet_says_only_that(self):
        self.client.force_login(self.owner.person)
        self.assertContains(self.client.get(f"/w/{self.owner.workshop.slug}/log/", {"kind": "meter"}), "Nothing of this kind yet.")

    def test_what_was_refused_does_not_stand_there(self):
        before = self.entries()
        with self.assertRaises(Refused):
            actions.change_role(self.owner, self.owner.pk, None)
        with self.assertRaises(Refused):
            actions.join(make_person(), "nonsense")
        self.assertEqual(self.entries(), before)

    def test_an_owner_who_leaves_is_named_by_their_own_hand(self):
        second = make_member(self.owner, Role.OWNER)
        actions.change_role(second, second.pk, None)
        self.assertEqual(Entry.objects.of(self.owner.workshop).latest("id").by, second.person)
