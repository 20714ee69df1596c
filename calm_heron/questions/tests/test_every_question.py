"""One walk over every question that is registered: each example, in both systems, on its page, as a fragment, by a member and by a
stranger, says one thing; and nonsense in any field brings none of them down."""

import random
import re
from urllib.parse import urlencode

from django.test import TestCase
from django.urls import reverse

from calm_heron.questions.forms import in_units
from calm_heron.questions.tools import PART_NAMES, TOOLS, Gist, Tool
from calm_heron.questions.tools import tool as one_of
from calm_heron.workshops import limits
from calm_heron.workshops.askers import Asker, NoWorkshop, Stranger
from tests.factories import make_owner
from tests.presented import labels, sentences, strays
from tests.sentences import Sentences
from tests.walks import far, some
from wood.units import INCH, METRIC, SYSTEMS, System

NONSENSE = (
    "",
    "9" * 400,
    "-1",
    "nan",
    "1e400",
    "½",
    "x" * 9000,
    "'\";--<script>alert(1)</script>",
    "%00%s{0}{x}",
    "../../etc",
    "[]",
    "0000-00-00",
)


def worked_here() -> list[Tool]:
    """The questions that the spine asks; the others bring their own page."""
    return [tool for tool in TOOLS if tool.view is None]


# Units that a reader of the other system is not to be told in.
OTHER_UNITS = {"inch": r"\d (?:mm|cm|m|kg|g)\b(?!/)|\d °C", "metric": r"\d (?:in|ft|oz|lb)\b|\d °F"}


class EveryQuestion(Sentences, TestCase):
    takes_s = 40

    @classmethod
    def setUpTestData(cls):
        cls.owner = make_owner(units="inch")

    def setUp(self):
        limits.forget()

    def page(self, tool: Tool, *, member: bool = False, **typed: str):
        limits.forget()
        if member:
            self.client.force_login(self.owner.person)
        else:
            self.client.logout()
        address = reverse(tool.inside_name, args=[self.owner.workshop.slug]) if member else reverse(tool.outside_name)
        page = self.client.get(f"{address}?{urlencode(typed)}")
        self.assertEqual(page.status_code, 200)
        return page

    def gist(self, tool: Tool, page) -> Gist:
        return tool.gist(page.context["worked"])

    def same(self, gist: Gist, other: Gist) -> None:
        self.assertEqual(gist.code, other.code)
        for name, bound in gist.figures.items():
            for first, second in zip(
                (bound.usual, bound.low, bound.high), (getattr(other.figures[name], part) for part in ("usual", "low", "high")), strict=True
            ):
                if first is None or first in (float("inf"), -float("inf")):
                    self.assertEqual(first, second)
                else:
                    self.assertAlmostEqual(first, second, delta=1e-6 + 1e-3 * abs(first), msg=name)

    def reads_well(self, page, system: System) -> None:
        """Every text of an answer can be read, in the units of its reader alone, and every drawing stays in its frame."""
        told = page.context["presentation"]
        self.assert_readable(*(text for text in sentences(told) if text))
        self.assert_clean(*(text for text in labels(told) if text))
        other = OTHER_UNITS[system.key]
        for text in (*sentences(told), *labels(told)):
            with self.subTest(text):
                self.assertNotRegex(text, other)
        self.assertEqual(strays(page.content.decode()), [])

    def test_each_example_says_one_thing_however_it_is_asked(self):
        every = [(tool, number, example) for tool in worked_here() for number, example in enumerate(tool.examples)]
        for tool, number, example in some(every, 0, 2):
            with self.subTest(tool.key, example=number):
                results = {}
                for units, typed in example.asks.items():
                    page = self.page(tool, units=units, **typed)
                    if example.why is not None:
                        self.assertEqual(page.context["cannot"].why, example.why)
                        continue
                    results[units] = gist = self.gist(tool, page)
                    self.reads_well(page, SYSTEMS[units])
                    self.assertEqual(gist.code, example.code)
                    self.same(gist, self.gist(tool, self.page(tool, units=units, fragment="answer", **typed)))
                    # A stranger who turns to the other units keeps what was typed, and its meaning.
                    other = self.client.get(f"{reverse(tool.outside_name)}?{page.context['other_units']}")
                    self.same(gist, self.gist(tool, other))
                    # A member of an inch workshop opens the address of either system, and is told the same.
                    self.same(gist, self.gist(tool, self.page(tool, member=True, units=units, **typed)))
                if results:
                    self.same(results["inch"], results["metric"])

    def test_each_example_names_every_field_by_its_form(self):
        for tool in worked_here():
            self.assertGreater(len(tool.examples), 0, tool.key)
            form = tool.form({}, asker=Asker(Stranger(NoWorkshop(INCH))))
            fields = set(form.fields)
            shown = {name for group in form.groups for name in group.fields} | set(form.tells)
            for example in tool.examples:
                self.assertEqual(set(example.asks), set(SYSTEMS))
                for typed in example.asks.values():
                    self.assertLessEqual(set(typed), fields, tool.key)
            self.assertLessEqual(fields, shown, f"{tool.key} has fields that stand in no group")

    def test_what_the_answer_says_reads_the_same_on_the_page_and_alone(self):
        for tool in worked_here():
            page, alone = self.page(tool), self.page(tool, fragment="answer")
            self.assertContains(page, alone.content.decode().strip())
            self.assertNotContains(alone, "<html")

    def test_paper_says_what_was_asked_typed_or_usual_and_screens_do_not(self):
        tool = next(tool for tool in worked_here() if tool.key == "saw")
        page = self.page(tool, units="inch", species_key="white oak", wanted_m="1", width_m="8").content.decode()
        paper = re.search(r'<div class="paper-only">.*?</div>', page, re.DOTALL)[0]
        question = dict(re.findall(r"<dt>(.*?)</dt><dd>(.*?)</dd>", paper))
        self.assertEqual(question["Wanted, dry and planed, in"], "1")
        self.assertEqual(question["Grain"], "flat: rings along the wide face (usual)")
        self.assertEqual(question["Planed at, %"], "8 (usual)")

    def test_nonsense_in_any_field_is_told_or_answered(self):
        chance = random.Random(26)
        for tool in worked_here():
            form = tool.form({}, asker=Asker(Stranger(NoWorkshop(METRIC))))
            names = [*form.fields, "units", "piece", "fragment"]
            for name in chance.sample(names, far(min(len(names), 2), len(names))):
                for nonsense in chance.sample(NONSENSE, far(1, len(NONSENSE))):
                    with self.subTest(tool.key, name=name, nonsense=nonsense[:20]):
                        self.page(tool, **{name: nonsense})

    def test_a_bare_number_of_the_other_system_keeps_its_meaning(self):
        tool = next(tool for tool in worked_here() if tool.key == "saw")
        asker = Asker(Stranger(NoWorkshop(INCH)))
        typed = in_units(
            tool.form, {"wanted_m": "20", "width_m": "8 in", "moisture": "8", "species_key": "oak", "planing_m": "1/32"}, asker, METRIC
        )
        self.assertEqual(typed, {"wanted_m": "20 mm", "width_m": "8 in", "moisture": "8", "species_key": "oak", "planing_m": "1/32"})
        steps = {"own": "40 43 41\n25 50", "volume_m3": "2.5", "litres_a_day": "24"}
        self.assertEqual(
            in_units(one_of("kiln").form, steps, asker, METRIC),
            {"own": "40 109.4 105.8\n25 50", "volume_m3": "2.5 m3", "litres_a_day": "24 l"},
        )
        checks = {"checks": "2 0.3-1 40\n12 0.2-0.9\n3 0-1 2 in"}
        self.assertEqual(in_units(one_of("cut").form, checks, asker, METRIC), {"checks": "2 0.3-1 40 mm\n12 0.2-0.9\n3 0-1 2 in"})
        boards = {"each": "120; 100 quarter;4 in black walnut"}
        self.assertEqual(in_units(one_of("made_top").form, boards, asker, METRIC), {"each": "120 mm;100 mm quarter;4 in black walnut"})


class WhereTheyStand(TestCase):
    def test_each_has_an_address_a_name_of_its_own_and_a_drawing(self):
        keys, places = [tool.key for tool in TOOLS], [tool.place for tool in TOOLS if tool.place]
        self.assertEqual(len(keys), len(set(keys)))
        self.assertEqual(len(places), len(set(places)))
        shorts = [tool.short for tool in TOOLS]
        self.assertEqual(len(shorts), len(set(shorts)))
        for tool in TOOLS:
            self.assertIn(tool.part, PART_NAMES)
            if tool.place:
                self.assertRegex(tool.icon, r"^M[\dA-Za-z ,.\-]+$", tool.key)

    def test_the_front_page_and_ask_show_each_once_with_its_drawing(self):
        owner = make_owner()
        front = self.client.get("/").content.decode()
        self.client.force_login(owner.person)
        ask = self.client.get(reverse("ask", args=[owner.workshop.slug])).content.decode()
        for tool in TOOLS:
            if tool.place:
                self.assertEqual(front.count(f'href="{reverse(tool.outside_name)}"'), 1, tool.key)
                self.assertEqual(ask.count(f"<strong>{tool.short}</strong>"), 1, tool.key)
                self.assertEqual(ask.count(f'd="{tool.icon}"'), 1, tool.key)

    def test_the_front_pages_board_answers_as_its_number_is_typed(self):
        wet, dry = (self.client.get("/", {"fragment": "answer", "reading": reading}) for reading in ("18", "7"))
        self.assertContains(wet, "Not yet")
        self.assertContains(dry, "Yes")
        self.assertNotContains(wet, "<html")
        self.assertContains(self.client.get("/", {"reading": "oak"}), "is not a number")
