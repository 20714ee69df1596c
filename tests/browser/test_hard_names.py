"""Names as long as they may be, in any alphabet; five hundred pieces; a workshop with nothing in it: every page reads and holds."""

import re

from django.urls import reverse

from calm_heron.air.models import Hygrometer, Place
from calm_heron.builds.models import Build, BuildPart
from calm_heron.kiln.models import Chamber, Load
from calm_heron.measuring.models import Meter
from calm_heron.stacks.models import Stack
from calm_heron.stock.models import Piece
from calm_heron.workshops.models import Membership, Person
from command.browser import DESKTOP
from tests.browser import eyes
from tests.browser.demo import DemoJourney
from tests.factories import make_owner
from tests.test_doors import views_inside
from tests.walks import far, some

# What is no page, and what is printed.
FILES = r"\.(csv|pdf|svg|json|png)/?$|/(labels/print|photos?|table/out|export|found)/?$"
NARROWEST = {"width": 320, "height": 640}
# One word without a place to break, spaces, another alphabet, and marks above and below letters.
LONG = "Donaudampfschifffahrtsgesellschaftskapitänswerkstatt für Möbel 木工房さくらの板乾燥小屋 Ğışḑ"
TAGS = ("Eichenkernholzbohle-Süd-ß-0", "桜の板-壱-0", "ÆBLETRÆ-langtømmer-til-bord-0", "WERKBANKPLATTE-MIT-ÜBERLÄNGE")
NAMED = (Place, Hygrometer, Meter, Build, BuildPart, Chamber)


class HardNames(DemoJourney):
    takes_s = 40

    def look_at(self, page, found: list[str]) -> None:
        """Every one of the pages, on the narrowest phone and at a desk."""
        looked, wrong = 0, []
        for address in found:
            if re.search(FILES, address):
                continue
            answer = page.goto(address)
            if answer is None or "html" not in answer.headers.get("content-type", ""):
                continue
            self.assertLess(answer.status, 500, address)
            looked += 1
            for size in (NARROWEST, DESKTOP):
                page.set_viewport_size(size)
                wrong += [f"{address} at {size['width']}: {what}: {which}" for what, which in eyes.seen(page).items() if which]
        self.assertGreater(looked, 2)
        self.assertEqual(wrong, [], "\n".join(wrong))

    def test_every_page_holds_names_as_long_as_they_may_be_and_five_hundred_pieces(self):
        page = self.phone()
        self.inside(page)
        shop = Membership.objects.get(workshop__slug=self.shop.split("/")[2], person__is_visitor=True).workshop
        shop.name = LONG[: shop._meta.get_field("name").max_length]
        shop.save()
        Person.objects.filter(memberships__workshop=shop).update(name=LONG[:80])
        for model in NAMED:
            most = model._meta.get_field("name").max_length
            for number, row in enumerate(self.rows(model)):
                model.objects.filter(pk=row.pk).update(name=LONG[: most - 3] + f" {number}")
        for model in (Piece, Stack, Load):
            for number, row in enumerate(self.rows(model)):
                model.objects.filter(pk=row.pk).update(tag=TAGS[number % len(TAGS)][:28] + f"-{number}")
        like = self.rows(Piece).filter(kind="board").first()
        for number in range(500):
            like.pk, like.tag = None, f"{TAGS[number % len(TAGS)][:24]}-x-{number}"
            like._state.adding = True
            like.save()
        named = dict.fromkeys(self.pages_of(shop))
        self.look_at(page, list(some(list(named), 1, 10)))

    def pages_of(self, shop) -> list[str]:
        """Its pages; those of single things under the names that these have now."""
        tags = {model: [row.tag for row in self.rows(model)[:3]] for model in (Piece, Stack, Load)}
        own = {"place_id": Place, "meter_id": Meter, "hygrometer_id": Hygrometer, "chamber_id": Chamber, "build_id": Build}
        values: dict = {name: self.rows(model).first().pk for name, model in own.items()}
        values |= {"workshop": shop.slug, "stack_tag": tags[Stack][0], "load_tag": tags[Load][0], "thing": "top", "key": "white_oak"}
        made = []
        for pattern in views_inside():
            names = {"workshop", *pattern.pattern.converters}
            for tag in tags[Piece][: far(1, 3)]:
                known = values | {"tag": tag}
                if names <= known.keys() and pattern.name != "people":
                    made.append(reverse(pattern.name, kwargs={name: known[name] for name in names}))
        return made

    def test_every_page_of_a_workshop_with_nothing_in_it_reads_and_holds(self):
        page = self.phone()
        owner = make_owner(name="Nothing in it yet", units="inch")
        self.let_in(page, owner)
        plain = [pattern for pattern in views_inside() if not pattern.pattern.converters and pattern.name != "people"]
        self.look_at(page, [reverse(pattern.name, args=[owner.workshop.slug]) for pattern in some(plain, 0, 6)])
