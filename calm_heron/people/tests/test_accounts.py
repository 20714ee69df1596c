"""Getting in: mail where there is a server and plain words where not, links made by hand, a second step, and nobody found out by trying."""

import re
import time
from unittest import mock

from allauth.mfa.models import Authenticator
from allauth.mfa.totp.internal import auth as totp
from django.core import mail, signing
from django.core.cache import cache
from django.test import Client, TestCase, override_settings
from django.urls import reverse

from calm_heron.logbook.models import Entry
from calm_heron.people import accounts, actions, known_devices
from calm_heron.workshops.models import Invitation, Membership, Person, Role
from calm_heron.workshops.refusals import Refused
from tests.factories import make_member, make_owner, make_person

NEW = "marram-and-sea-lavender"
WITH_MAIL = override_settings(
    HAS_MAIL=True,
    ACCOUNT_EMAIL_VERIFICATION="mandatory",
    ACCOUNT_EMAIL_VERIFICATION_BY_CODE_ENABLED=True,
    DEFAULT_FROM_EMAIL="a@heron.example",
)


class Accounts(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.owner = make_owner(name="Reed & Co")
        cls.slug = cls.owner.workshop.slug

    def sign_in(self, person: Person, password: str = "sedge-and-rush", **how):
        return self.client.post("/accounts/login/", {"login": person.email, "password": password}, **how)

    def choose_password(self, link: str, password: str = NEW):
        page = self.client.get(link, follow=True)
        self.assertContains(page, "A new password")
        return self.client.post(page.request["PATH_INFO"], {"password1": password, "password2": password}, follow=True)


class WithoutMail(Accounts):
    def test_a_forgotten_password_is_answered_in_plain_words_and_nothing_is_sent(self):
        self.assertContains(self.client.get("/accounts/login/"), "Forgot the password?")
        self.assertContains(self.client.get("/accounts/password/reset/"), "sends no mail")
        answer = self.client.post("/accounts/password/reset/", {"email": self.owner.person.email}, follow=True)
        self.assertContains(answer, "No mail was sent.")

    def test_signing_in_says_the_same_of_a_wrong_password_and_of_nobody(self):
        lines = []
        for address in (self.owner.person.email, "nobody@example.org"):
            answer = self.client.post("/accounts/login/", {"login": address, "password": "not-the-password"})
            lines.append(re.findall(r'class="wrong"[^>]*>([^<]+)<', answer.content.decode()))
        self.assertEqual(lines[0], lines[1])
        self.assertTrue(lines[0])

    def test_where_only_the_invited_sign_up_a_link_is_needed_and_leads_in(self):
        invitation = actions.invite(self.owner, Role.HELPER)
        form = {"name": "Ebb Lowater", "email": "ebb@example.org", "password1": NEW}
        with override_settings(SIGN_UP="invited"):
            self.assertContains(self.client.get("/accounts/signup/"), "made by invitation here")
            for next_page in ("", "/join/nonsense/", "/workshops/", "//example.org/join/x/", "\x00"):
                self.client.post("/accounts/signup/", form | {"next": next_page})
            self.assertFalse(Person.objects.filter(email="ebb@example.org").exists())
            joining = f"/join/{invitation.token}/"
            self.assertContains(self.client.get("/accounts/signup/", {"next": joining}), "Your name")
            self.assertContains(self.client.post("/accounts/signup/", form | {"next": joining}, follow=True), "Join as Ebb Lowater")

    def test_an_owner_makes_a_link_that_works_once_and_stands_nowhere(self):
        member = make_member(self.owner, Role.HELPER)
        self.client.force_login(self.owner.person)
        page = self.client.post(f"/w/{self.slug}/people/new-password/", {"which": member.pk})
        link = re.search(r'id="new-password" readonly value="([^"]+)"', page.content.decode())[1]
        self.assertNotContains(self.client.get(f"/w/{self.slug}/people/"), 'new-password" readonly')
        self.assertContains(self.client.get(f"/w/{self.slug}/log/"), f"A link was made by which {member.person} chooses a new password")
        self.assertNotIn(link.rstrip("/").rpartition("/")[2], str(list(Entry.objects.values_list("subject", "data"))))
        self.client.logout()
        self.assertContains(self.choose_password(link), "Your new password is kept.")
        self.assertContains(self.client.get(link, follow=True), "This link does not open.")
        self.assertEqual(self.sign_in(member.person, NEW).status_code, 302)

    def test_a_link_is_not_made_for_whoever_works_elsewhere_too(self):
        elsewhere = make_owner(name="Another shop")
        member = Membership.objects.create(workshop=self.owner.workshop, person=elsewhere.person, role=Role.OWNER)
        for which in (member.pk, self.owner.pk, 2**40):
            with self.subTest(which), self.assertRaises(Refused):
                actions.new_password_link(self.owner, which)
        self.client.force_login(self.owner.person)
        response = self.client.post(f"/w/{self.slug}/people/new-password/", {"which": member.pk}, follow=True)
        self.assertContains(response, "works in another workshop, too")

    def test_only_owners_make_links_and_only_for_their_own_members(self):
        maker = make_member(self.owner, Role.MAKER)
        self.client.force_login(maker.person)
        self.assertEqual(self.client.post(f"/w/{self.slug}/people/new-password/", {"which": self.owner.pk}).status_code, 403)
        with self.assertRaises(Refused):
            actions.new_password_link(make_owner(), maker.pk)


@WITH_MAIL
class WithMail(Accounts):
    def code(self) -> str:
        return re.search(r"is\n\n  (\S+)\n", mail.outbox[-1].body)[1]

    def test_an_address_is_confirmed_by_a_code_and_an_invitation_is_not_lost_on_the_way(self):
        invitation = actions.invite(self.owner, Role.HELPER)
        form = {"name": "Ebb Lowater", "email": "ebb@example.org", "password1": NEW, "next": f"/join/{invitation.token}/"}
        self.assertContains(self.client.post("/accounts/signup/", form, follow=True), "What code did we email you?")
        answer = self.client.post(reverse("account_email_verification_sent"), {"code": self.code()}, follow=True)
        self.assertContains(answer, "Join as Ebb Lowater")
        self.assertIn("@heron.example", mail.outbox[-1].from_email)

    def test_nobody_finds_out_by_trying_who_has_an_account(self):
        lines = []
        for new, forgotten in ((self.owner.person.email, self.owner.person.email), ("new@example.org", "nobody@example.org")):
            self.client.logout()
            up = self.client.post("/accounts/signup/", {"name": "A Stranger", "email": new, "password1": NEW}, follow=True)
            self.client.logout()
            reset = self.client.post("/accounts/password/reset/", {"email": forgotten}, follow=True)
            lines.append([re.sub(r'value="[^"]*"|' + re.escape(new), "", item.content.decode()) for item in (up, reset)])
        self.assertEqual(lines[0], lines[1])
        subjects = [message.subject for message in mail.outbox]
        self.assertIn("You have an account with Calm Heron already", subjects)
        self.assertIn("No account with Calm Heron", subjects)

    def test_a_link_for_a_new_password_goes_to_the_address_and_works_once(self):
        self.client.post("/accounts/password/reset/", {"email": self.owner.person.email})
        link = re.search(r"http\S+", mail.outbox[-1].body)[0]
        self.assertContains(self.choose_password(link), "Your new password is kept.")
        self.assertContains(self.client.get(link, follow=True), "This link does not open.")


class SecondStep(Accounts):
    def add_step(self, person: Person) -> str:
        """As a person does it, on the pages; returns the secret in the app on their phone."""
        self.sign_in(person)
        activate = "/accounts/second-step/totp/activate/"
        self.assertContains(self.client.get(activate, follow=True), "Confirm it’s you")
        page = self.client.post("/accounts/reauthenticate/", {"password": "sedge-and-rush", "next": activate}, follow=True)
        secret = page.context["form"].secret
        self.assertContains(page, "<svg")
        answer = self.client.post("/accounts/second-step/totp/activate/", {"code": self.shown(secret)}, follow=True)
        self.assertContains(answer, "Spare codes")
        return secret

    def shown(self, secret: str) -> str:
        return totp.format_hotp_value(totp.hotp_value(secret, int(time.time()) // 30))

    def test_after_the_password_a_code_is_asked_for_and_nothing_is_open_before(self):
        self.add_step(self.owner.person)
        self.client.post("/accounts/logout/")
        self.assertContains(self.sign_in(self.owner.person, follow=True), "Which code does your app show?")
        self.assertEqual(self.client.get(f"/w/{self.slug}/").status_code, 302)
        wrong = self.client.post("/accounts/second-step/authenticate/", {"code": "000000"})
        self.assertContains(wrong, "wrong")
        self.assertEqual(self.client.get(f"/w/{self.slug}/").status_code, 302)
        spare = Authenticator.objects.get(user=self.owner.person, type=Authenticator.Type.RECOVERY_CODES).wrap().get_unused_codes()[0]
        self.client.post("/accounts/second-step/authenticate/", {"code": spare})
        self.assertEqual(self.client.get(f"/w/{self.slug}/").status_code, 200)
        self.client.post("/accounts/logout/")
        self.sign_in(self.owner.person)
        self.assertContains(self.client.post("/accounts/second-step/authenticate/", {"code": spare}), "wrong")

    def test_a_new_password_does_not_take_the_second_step_away_and_the_keeper_can(self):
        member = make_member(self.owner, Role.HELPER)
        self.add_step(member.person)
        self.client.post("/accounts/logout/")
        _, path = actions.new_password_link(self.owner, member.pk)
        self.choose_password(path)
        self.assertContains(self.sign_in(member.person, NEW, follow=True), "Which code does your app show?")
        accounts.take_second_step_away(member.person)
        self.client = self.client_class()
        self.sign_in(member.person, NEW)
        self.assertEqual(self.client.get(f"/w/{self.slug}/").status_code, 200)

    def test_it_can_be_seen_and_taken_away_again(self):
        self.assertEqual(self.client.get("/accounts/second-step/").status_code, 302)
        self.sign_in(self.owner.person)
        self.assertContains(self.client.get("/accounts/second-step/"), "Signing in by password only.")
        self.add_step(self.owner.person)
        self.assertContains(self.client.get("/accounts/second-step/"), "There are 10 spare codes left")
        self.assertContains(self.client.get("/accounts/second-step/totp/deactivate/"), "Sign in by password only?")
        self.client.post("/accounts/second-step/totp/deactivate/")
        self.assertFalse(Authenticator.objects.filter(user=self.owner.person, type=Authenticator.Type.TOTP).exists())


class Invitations(Accounts):
    def test_open_ones_are_seen_with_who_made_them_and_can_be_taken_back(self):
        invitation = actions.invite(self.owner, Role.MAKER)
        self.client.force_login(self.owner.person)
        page = self.client.get(f"/w/{self.slug}/people/")
        self.assertContains(page, invitation.token)
        self.assertContains(page, f"by {self.owner.person}, until")
        self.client.post(f"/w/{self.slug}/people/withdraw/", {"which": invitation.pk})
        self.assertContains(self.client.get(f"/join/{invitation.token}/"), "not known", status_code=404)
        again = self.client.post(f"/w/{self.slug}/people/withdraw/", {"which": invitation.pk}, follow=True)
        self.assertContains(again, "no such open invitation")
        for odd in ("", "x", "-1", str(2**70)):
            self.assertEqual(self.client.post(f"/w/{self.slug}/people/withdraw/", {"which": odd}).status_code, 302)

    def test_they_go_with_the_owner_who_made_them(self):
        second = make_member(self.owner, Role.OWNER)
        third = make_member(self.owner, Role.OWNER)
        theirs, others = actions.invite(second, Role.OWNER), actions.invite(third, Role.VIEWER)
        actions.change_role(self.owner, second.pk, None)
        self.assertEqual(list(Invitation.objects.all()), [others])
        actions.change_role(self.owner, third.pk, Role.MAKER)
        self.assertFalse(Invitation.objects.exists())
        with self.assertRaises(Refused):
            actions.join(make_person(), theirs.token)

    def test_nobody_takes_back_what_another_workshop_sent(self):
        invitation = actions.invite(self.owner, Role.MAKER)
        with self.assertRaises(Refused):
            actions.withdraw(make_owner(), invitation.pk)
        self.assertTrue(Invitation.objects.filter(pk=invitation.pk).exists())


class ChangedMeanwhile(Accounts):
    def test_two_owners_who_change_the_units_at_once_do_not_lose_each_others_unseen(self):
        self.client.force_login(self.owner.person)
        page = self.client.get(f"/w/{self.slug}/people/")
        seen = re.search(r'name="seen" value="([^"]+)"', page.content.decode())[1]
        actions.set_units(self.owner, "Reed & Daughters", "metric")
        form = {"name": "Reed & Sons", "units": "inch", "seen": seen}
        late = self.client.post(f"/w/{self.slug}/people/units/", form)
        self.assertContains(late, "Someone else has changed the name, the units or the clock since you opened it.", status_code=422)
        self.assertContains(late, 'value="Reed &amp; Sons"', status_code=422)
        meant = re.search(r'name="seen" value="([^"]+)"', late.content.decode())[1]
        self.client.post(f"/w/{self.slug}/people/units/", form | {"seen": meant})
        self.owner.workshop.refresh_from_db()
        self.assertEqual(self.owner.workshop.name, "Reed & Sons")


@override_settings(ACCOUNT_RATE_LIMITS={})
class Guessing(Accounts):
    """A stranger guesses; the person whose account it is signs in all the same."""

    def setUp(self):
        cache.clear()
        self.addCleanup(cache.clear)
        self.person = make_person()

    def gets_in(self, client: Client, address: str = "198.51.100.1") -> bool:
        how = {"login": self.person.email, "password": "sedge-and-rush"}
        return client.post("/accounts/login/", how, REMOTE_ADDR=address).status_code == 302

    def guess(self, times: int, *addresses: str) -> int:
        """How many guesses were looked at, and not turned away."""
        looked = 0
        for number in range(times):
            how = {"login": self.person.email, "password": f"guess-{number}"}
            answer = self.client.post("/accounts/login/", how, REMOTE_ADDR=addresses[number % len(addresses)])
            looked += "Too many" not in answer.content.decode()
        return looked

    def test_guessing_from_one_place_is_stopped_and_the_person_signs_in_from_another(self):
        self.assertEqual(self.guess(20, "203.0.113.1"), 5)
        self.assertFalse(self.gets_in(Client(), "203.0.113.1"))
        self.assertTrue(self.gets_in(Client()))

    def test_from_very_many_places_it_is_stopped_as_well_and_a_known_browser_or_a_second_step_lets_in(self):
        known = Client()
        self.assertTrue(self.gets_in(known))
        known.post("/accounts/logout/")
        places = [f"203.0.113.{number}" for number in range(1, 30)]
        with mock.patch.object(accounts, "EVERYBODY", "12/d/key"):
            self.assertEqual(self.guess(40, *places), 12)
            self.assertFalse(self.gets_in(Client()))
            self.assertTrue(self.gets_in(known))
            # Even from the very place that a stranger guesses from.
            known.post("/accounts/logout/")
            self.guess(10, "198.51.100.1")
            self.assertTrue(self.gets_in(known))
            Authenticator.objects.create(user=self.person, type=Authenticator.Type.TOTP, data={"secret": "x"})
            self.assertTrue(self.gets_in(Client(), "198.51.100.9"))

    def test_a_known_browser_does_not_guess_for_ever_nor_for_others_and_a_forged_mark_is_none(self):
        known = Client()
        self.assertTrue(self.gets_in(known))
        known.post("/accounts/logout/")
        self.client = known
        self.assertEqual(self.guess(30, *(f"203.0.113.{number}" for number in range(1, 30))), 10)
        self.person = make_person()
        self.assertEqual(self.guess(20, "203.0.113.77"), 5)
        self.client = Client()
        for forged in ("x", "a:b:c", signing.dumps("x", salt=known_devices.SALT), signing.dumps(["m", 3], salt=known_devices.SALT)):
            self.client.cookies[known_devices.COOKIE] = forged
            self.assertEqual(self.client.post("/accounts/login/", {"login": "a@b.example", "password": "x"}).status_code, 200, forged)
