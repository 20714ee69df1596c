"""What a page offers is what its reader may do: no form that would be refused, no link to a page that would be."""

import re

from django.urls import Resolver404, resolve
from django.utils import timezone

from calm_heron.demo import copies
from calm_heron.workshops.models import Role
from tests.cases import DemoCase
from tests.factories import make_member
from tests.pages import addresses
from tests.walks import far, some

# Done to what was chosen: which of it may be done is the list's to say, by role.
SEVERAL = re.compile(r"<form[^>]*several/.*?</form>", re.DOTALL)


class Offered(DemoCase):
    takes_s = 30

    @classmethod
    def setUpTestData(cls):
        cls.owner = copies.for_visitor(timezone.now())

    def refused_to(self, role):
        reader = make_member(self.owner, role)
        self.client.force_login(reader.person)
        result, looked = set(), 0
        for address in some(list(addresses(self.owner.workshop)), int(role == Role.VIEWER), 4):
            page = self.client.get(address)
            if page.status_code != 200 or "html" not in page.headers["Content-Type"]:
                continue
            looked += 1
            markup = page.content.decode()
            for form in re.findall(r"<form[^>]*>", markup):
                if 'method="post"' not in form:
                    continue
                action = re.search(r'action="([^"]*)"', form)
                target = (action[1] if action else address).partition("?")[0]
                try:
                    view = resolve(target).func
                except Resolver404:
                    continue
                if getattr(view, "write_role", Role.VIEWER) > role:
                    result.add(f"{address} offers {target}")
            for several in SEVERAL.findall(markup):
                asks = [value for value in ("used", "scrapped", "stock", "move", "seal") if f'value="{value}"' in several]
                if (asks and role < Role.HELPER) or (role < Role.MAKER and {"used", "scrapped", "stock"} & set(asks)):
                    result.add(f"{address} offers {asks}")
        self.assertGreater(looked, far(15, 60))
        return result

    def test_a_helper_who_records_sees_no_form_that_would_be_refused(self):
        self.assertEqual(self.refused_to(Role.HELPER), set())

    def test_a_viewer_sees_no_form_that_would_be_refused(self):
        self.assertEqual(self.refused_to(Role.VIEWER), set())
