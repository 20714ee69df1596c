"""The spine taken apart: what tools are and where they lie, what forms make of their fields, and how the parts of an answer fall out."""

from types import SimpleNamespace

from django import forms
from django.http import QueryDict
from django.test import SimpleTestCase, TestCase
from django.urls import reverse

from calm_heron.questions.forms import Group, QuestionForm, in_units
from calm_heron.questions.presentation import Cell, Lead, Pairs, Presentation, Row, Says, Table
from calm_heron.questions.tools import NEIGHBOURS, PART_NAMES, TOOLS, CannotPut, Why, in_both, tool
from calm_heron.questions.views import typed_in
from calm_heron.workshops.askers import Asker, NoWorkshop, Stranger
from calm_heron.workshops.fields import LengthField, MassField, PercentField, TemperatureField
from tests.factories import make_owner
from tests.sentences import Sentences
from wood.units import INCH, METRIC, SYSTEMS


def stranger(system=METRIC) -> Asker:
    return Asker(Stranger(NoWorkshop(system)))


class BoardForm(QuestionForm):
    """A question of a few fields, one of which hangs on a choice."""

    groups = (Group(("where", "width_m", "temperature")), Group(("mass", "moisture"), "More"))
    depends = {"temperature": "where=shed", "mass": "scale=yes"}
    wide = ("where",)
    where = forms.ChoiceField(label="Where", choices=[("", "in a room"), ("shed", "in a shed")], required=False)

    def build(self) -> None:
        self.fields["width_m"] = LengthField(self.system, 0.01, 2.0, label="Width", required=False)
        self.fields["temperature"] = TemperatureField(self.system, -40, 60, label="Temperature", required=False)
        self.fields["mass"] = MassField(self.system, 0.01, 100, label="Weight", required=False)
        self.fields["moisture"] = PercentField(self.system, 0.02, 0.3, label="Moisture", required=False)
        self.fields["moisture"].widget.attrs["placeholder"] = "12"


def form(system=METRIC, **typed) -> BoardForm:
    data = QueryDict(mutable=True)
    data.update(typed)
    made = BoardForm(data, asker=stranger(system))
    made.is_valid()
    return made


class Forms(SimpleTestCase):
    def test_fields_stand_in_their_groups(self):
        plain, folded = form().shown_groups
        self.assertEqual([row[0].name for row in plain["fields"]], ["where", "width_m", "temperature"])
        self.assertEqual((plain["summary"], folded["summary"]), ("", "More"))

    def test_a_field_that_hangs_on_a_choice_says_on_which(self):
        plain, folded = form().shown_groups
        self.assertEqual([row[1] for row in plain["fields"]], ["", "", "where=shed"])
        # A choice that is not asked here makes nothing matter.
        self.assertEqual([row[1] for row in folded["fields"]], ["", ""])

    def test_a_folded_group_that_holds_a_mistake_is_open(self):
        self.assertFalse(form(moisture="12").shown_groups[1]["open"])
        self.assertTrue(form(moisture="90").shown_groups[1]["open"])

    def test_wide_fields_take_a_line_of_their_own(self):
        self.assertEqual([row[3] for row in form().shown_groups[0]["fields"]], [True, False, False])

    def test_paper_says_what_was_typed_and_what_is_usual(self):
        said = {label: (value, usual) for label, value, usual in form(width_m="200", where="shed").inputs}
        self.assertEqual(said["Width"], ("200", False))
        self.assertEqual(said["Where"], ("in a shed", False))
        self.assertEqual(said["Moisture"], ("12", True))

    def test_a_question_carries_no_token(self):
        self.assertNotIn("once", form().fields)

    def test_every_field_may_stay_empty(self):
        self.assertTrue(form().is_valid())


class OtherUnits(SimpleTestCase):
    def test_bare_numbers_take_the_unit_they_were_meant_in(self):
        typed = {"width_m": "8", "temperature": "68", "mass": "12", "moisture": "9", "where": "shed"}
        read = in_units(BoardForm, typed, stranger(METRIC), INCH)
        self.assertEqual((read["width_m"], read["temperature"], read["mass"]), ("8 in", "68 F", "12 oz"))
        self.assertEqual((read["moisture"], read["where"]), ("9", "shed"))

    def test_what_has_its_unit_keeps_it(self):
        typed = {"width_m": "200 mm", "temperature": "20°C", "mass": "2 lb 3 oz"}
        self.assertEqual(in_units(BoardForm, typed, stranger(METRIC), INCH), typed)

    def test_there_and_back_means_the_same(self):
        for first, second in ((INCH, METRIC), (METRIC, INCH)):
            typed = {"width_m": "50", "temperature": "30", "mass": "40"}
            there = in_units(BoardForm, typed, stranger(second), first)
            before, after = form(first, **typed).cleaned_data, form(second, **there).cleaned_data
            for name in typed:
                self.assertAlmostEqual(before[name], after[name], places=6, msg=name)

    def test_an_address_says_in_which_units_it_was_typed(self):
        address = QueryDict("width_m=8&units=inch")
        self.assertEqual(typed_in(address, BoardForm, stranger(METRIC), None)["width_m"], "8 in")
        self.assertEqual(typed_in(address, BoardForm, stranger(INCH), None)["width_m"], "8")

    def test_units_that_are_none_are_the_readers(self):
        self.assertEqual(typed_in(QueryDict("width_m=8&units=cubits"), BoardForm, stranger(METRIC), None)["width_m"], "8")

    def test_what_is_far_too_long_is_cut(self):
        self.assertLessEqual(len(typed_in(QueryDict(f"width_m={'9' * 90_000}"), BoardForm, stranger(), None)["width_m"]), 20_000)


class Presentations(SimpleTestCase):
    TABLE = Table([Row("Yard", ["28 weeks", Cell("70%", is_number=True)]), Row(Cell("Kiln"), ["34 days", "40%"])], ["", "Days", "Chance"])

    def test_a_row_is_its_name_and_its_cells(self):
        self.assertEqual([cell.text for cell in self.TABLE.rows[0].all_cells], ["Yard", "28 weeks", "70%"])
        self.assertEqual([cell.text for cell in self.TABLE.rows[1].all_cells], ["Kiln", "34 days", "40%"])

    def test_a_head_over_figures_stands_over_figures(self):
        self.assertEqual(self.TABLE.columns, [("", False), ("Days", False), ("Chance", True)])

    def test_folded_each_cell_has_its_head(self):
        (_, cells), _ = self.TABLE.folded
        self.assertEqual([(head, cell.text) for head, cell in cells], [("", "Yard"), ("Days", "28 weeks"), ("Chance", "70%")])

    def test_without_heads_rows_name_themselves(self):
        bare = Table([Row("Width", ["8 in"])])
        self.assertEqual(bare.columns, [])
        self.assertEqual([head for head, _ in bare.folded[0][1]], ["", ""])

    def test_an_empty_table_is_one(self):
        self.assertEqual((Table([]).columns, Table([]).folded), ([], []))

    def test_only_a_sheet_is_printed_alone(self):
        slip = Presentation(Lead("x"), "", [Pairs([("a", "b")], is_sheet=True)])
        page = Presentation(Lead("x"), "", [Says("Plainly."), Pairs([("a", "b")])])
        self.assertEqual((slip.has_sheet, page.has_sheet), (True, False))


class Tools(Sentences, TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.owner = make_owner()

    def test_keys_titles_and_addresses_are_each_tools_own(self):
        for name in ("key", "title", "inside"):
            values = [getattr(known, name) for known in TOOLS]
            self.assertEqual(len(values), len(set(values)), name)

    def test_a_title_is_a_question_or_a_name_and_a_short_name_is_short(self):
        for known in TOOLS:
            with self.subTest(known.key):
                self.assert_clean(known.title, known.short)
                self.assertLessEqual(len(known.short), 24)
                self.assertTrue(known.icon.startswith("M"))

    def test_each_is_found_where_it_says(self):
        for known in TOOLS:
            with self.subTest(known.key):
                self.assertIn(self.owner.workshop.slug, reverse(known.inside_name, args=[self.owner.workshop.slug]))
                if known.outside:
                    self.assertNotIn("/w/", reverse(known.outside_name))

    def test_each_stands_among_the_pages_of_a_part_that_has_a_name(self):
        for known in TOOLS:
            for part in (known.part, *known.also):
                self.assertIn(part, PART_NAMES)
        for neighbour in NEIGHBOURS:
            self.assertIn(neighbour.part, PART_NAMES)

    def test_a_family_is_that_of_a_tool(self):
        keys = {known.key for known in TOOLS}
        self.assertLessEqual({known.family for known in TOOLS if known.family}, keys)

    def test_one_that_is_not_there_is_looked_up_in_vain(self):
        self.assertIs(tool("saw").key, tool("saw").key)
        with self.assertRaises(LookupError):
            tool("lathe speed")

    def test_what_is_alike_in_both_systems_is_written_once(self):
        asks = in_both({"species_key": "white oak"})
        self.assertEqual(set(asks), set(SYSTEMS))
        self.assertEqual({value["species_key"] for value in asks.values()}, {"white oak"})

    def test_only_a_figure_that_is_missing_is_called_not_known(self):
        self.assertEqual(CannotPut(Why.NO_FIGURE, "No figure.").word, "Not known")
        self.assertEqual({CannotPut(why, "Say which.").word for why in (Why.STILL_TO_SAY, Why.NO_AIR)}, {""})

    def test_what_is_not_known_of_a_species_is_said_in_a_sentence(self):
        for known in TOOLS:
            self.assert_readable(known.not_known.format(subject="white oak"))

    def test_icons_stay_in_their_frame(self):
        for known in TOOLS:
            shown = SimpleNamespace(numbers=[float(part) for part in known.icon.replace("M", " ").split() if part.isdigit()])
            self.assertTrue(all(0 <= number <= 64 for number in shown.numbers), known.key)
