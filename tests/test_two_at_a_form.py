"""Every form that changes what is there is opened by two people and sent by both: the second is told, and what they typed is not lost."""

import re
from html import unescape
from unittest import mock

from django.db import OperationalError, transaction
from psycopg.errors import DiskFull

from calm_heron.workshops.models import Role
from tests.factories import make_member
from tests.test_doors import Fields, Walk
from tests.walks import far, some

# What a form carries of what it was opened on.
SEEN = ("version", "seen")
# What says to the second that somebody else was first.
TOLD = re.compile(r"[Ss]ome(?:body|one) else has| was first: |since you opened it")
# What two people type otherwise: words, and a size.
WORDS, SIZES = ("note", "name", "source", "words", "whom"), ("pith_m", "width_m", "strip_percent", "tolerance")


class TwoAtAForm(Walk):
    def forms(self):
        """Every form of every page that names what it was opened on: its page, its address and its fields."""
        results = {}
        for _, address in some(list(self.addresses()), 1, 2):
            page = self.client.get(address)
            if page.status_code == 200 and page.headers["Content-Type"].startswith("text/html"):
                for action, method, fields in Fields(page.content.decode()).forms:
                    # A form for something new names nothing that it was opened on.
                    if method.lower() == "post" and any(fields.get(name) for name in SEEN):
                        results.setdefault((action.split("?")[0] or address, tuple(sorted(fields))), (address, fields))
        return [(address, action, fields) for (action, _), (address, fields) in results.items()]

    def sent(self, action: str, fields: dict[str, str], word: str):
        """The form as it stands, but with a word or a size of one's own; what was typed so."""
        own = {name: value for name, value in fields.items() if name not in ("once", "csrfmiddlewaretoken") and value is not None}
        typed = {name: f"{own[name]} {word}".strip() for name in WORDS if name in own}
        typed |= {name: f"{210 + len(word)} mm" for name in SIZES if name in own}
        return typed, self.client.post(action, own | typed, follow=True)

    def test_the_second_of_two_is_told_and_loses_nothing(self):
        self.client.force_login(self.owner.person)
        other = make_member(self.owner, Role.OWNER)
        tried = []
        for address, action, fields in self.forms():
            with self.subTest(action), transaction.atomic():
                self.client.force_login(self.owner.person)
                typed, first = self.sent(action, fields, "first")
                # Where both send the same nothing is lost; where it stands incomplete nobody was first.
                if typed and first.redirect_chain and not TOLD.search(unescape(first.content.decode())):
                    self.client.force_login(other.person)
                    typed, second = self.sent(action, fields, "the second")
                    page = unescape(second.content.decode())
                    self.assertRegex(page, TOLD, f"{action} from {address}")
                    if second.status_code == 422:
                        for text in typed.values():
                            self.assertIn(text, page)
                    tried.append(action)
                transaction.set_rollback(True)
        self.assertGreater(len(tried), far(3, 7), tried)


class WithoutRoom(Walk):
    def test_where_the_disk_is_full_that_is_said_and_what_was_typed_is_sent_again(self):
        self.client.force_login(self.owner.person)
        self.client.raise_request_exception = False
        full = OperationalError("could not extend file")
        full.__cause__ = DiskFull("could not extend file")
        strip = f"/w/{self.owner.workshop.slug}/read/"
        with mock.patch("calm_heron.measuring.views.StripForm", side_effect=full):
            answer = self.client.post(strip, {"strip": "oak-01 9.2", "meter": "1"})
        self.assertContains(answer, "There is no room left on the disk.", status_code=503)
        self.assertContains(answer, 'value="oak-01 9.2"', status_code=503)
