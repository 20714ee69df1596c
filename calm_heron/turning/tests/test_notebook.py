"""A notebook of past weights: three styles of day, any order, what is asked, what is kept once."""

from datetime import timedelta

from django.test import TestCase
from django.utils import timezone

from calm_heron.measuring.models import Reading
from calm_heron.site import dates
from calm_heron.turning import actions
from calm_heron.turning.shelf import notebook, weighing
from tests.factories import make_bowl, make_owner
from tests.pages import markup_of, text_of
from wood.units import METRIC

YEAR = timezone.localdate().year - 1


class Read(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.owner = make_owner()
        cls.bowl = make_bowl(cls.owner)
        cls.other = make_bowl(cls.owner, "black_cherry", tag="cherry-bowl-07")

    def read(self, text, alone=None):
        return notebook.read(text, weighing.bowls_in_stock(self.owner.workshop), METRIC, alone)

    def test_every_style_of_day_and_every_order_says_the_same(self):
        for text in (
            f"{YEAR}-11-03 maple-bowl-01 1320 g",
            f"maple-bowl-01, 3 Nov {YEAR}, 1320",
            f"1.32 kg maple-bowl-01 3.11.{YEAR}",
            f"1,32 kg; {YEAR}/11/3; maple-bowl-01",
            f"November 3rd, {YEAR}\t1320 g\tMAPLE-BOWL-01",
            f"3/11/{YEAR % 100} maple 1320",
            f"{YEAR}-11-03,maple-bowl-01,1320.0 g",
            f'"{YEAR}-11-03","maple-bowl-01","1320"',
        ):
            (line,) = self.read(text)
            self.assertEqual(line.wrong, "", text)
            self.assertEqual((line.piece, timezone.localdate(line.at).isoformat()), (self.bowl, f"{YEAR}-11-03"), text)
            self.assertAlmostEqual(line.mass_kg, 1.32, msg=text)

    def test_an_american_shop_writes_the_month_first(self):
        with dates.as_in(dates.AMERICAN, "UTC"):
            (line,) = self.read(f"3/11/{YEAR} maple 1320")
        self.assertEqual(timezone.localdate(line.at).month, 3)
        # With thirteen no month can be meant.
        (line,) = self.read(f"3/13/{YEAR} maple 1320")
        self.assertEqual((timezone.localdate(line.at).month, line.wrong), (3, ""))

    def test_a_day_without_a_year_is_the_last_such_day(self):
        tomorrow, yesterday = (timezone.localdate() + timedelta(days=days) for days in (1, -1))
        for day, year in ((tomorrow, tomorrow.year - 1), (yesterday, yesterday.year)):
            (line,) = self.read(f"{day.day} {day:%b} maple 1320")
            self.assertEqual(timezone.localdate(line.at).year, year, line)

    def test_what_cannot_be_told_is_said_beside_its_line_and_headings_are_not(self):
        lines = self.read(
            "day, bowl, weight\n"
            "maple 1320\n"
            f"31.2.{YEAR} maple 1320\n"
            f"1.1.{YEAR + 5} maple 1320\n"
            f"1.2.{YEAR} oak-99 1320\n"
            f"1.2.{YEAR} bowl 1320\n"
            f"1.2.{YEAR} maple heavy\n"
            f"1.2.{YEAR}\n"
            f"1.2.{YEAR} maple 0\n"
        )
        self.assertEqual([line.number for line in lines], [2, 3, 4, 5, 6, 7, 8, 9])
        said = ("names no day", "isn’t a date", "in the future", "No bowl", "", "", "names no weight", "")
        for line, part in zip(lines, said, strict=True):
            self.assertTrue(line.wrong, line)
            self.assertIn(part, line.wrong)

    def test_turned_digits_rises_and_slips_are_asked_about_and_the_same_day_twice_is_kept_once(self):
        day = timezone.localdate() - timedelta(days=60)
        rows = [(0, 1000), (5, 900), (10, 830), (15, 770), (20, 702), (25, 690), (30, 1900), (35, 640), (35, 640), (40, 680), (45, 622)]
        lines = self.read("\n".join(f"{day + timedelta(days=days)} maple {grams}" for days, grams in rows))
        doubts = {round(1000 * line.mass_kg): line.doubt for line in lines if line.doubt}
        self.assertIn("Beside the others", doubts[1900])
        self.assertIn("before that", doubts[680])
        self.assertEqual(set(doubts), {1900, 680})
        self.assertEqual([line.known for line in lines].count(True), 1)
        turned = self.read(
            "\n".join(f"{day + timedelta(days=days)} maple {grams}" for days, grams in ((0, 700), (5, 640), (10, 690), (15, 590)))
        )
        self.assertIn("609 g?", turned[2].doubt)

    def test_a_line_may_leave_out_the_only_bowl_that_is_meant(self):
        (line,) = self.read(f"3.11.{YEAR} 1320", alone=self.other)
        self.assertEqual((line.piece, line.mass_kg), (self.other, 1.32))

    def test_hostile_and_huge_texts_are_read_in_no_time(self):
        for text in ("9" * 40_000, "1.1.1\n" * 500, "<script>1</script>", "1 " * 10_000, "٣.١١.٢٠٢٥ maple 3"):
            self.assertTrue(all(line.wrong for line in self.read(text)), text[:20])


class Pasted(TestCase):
    def setUp(self):
        self.owner = make_owner()
        self.bowl = make_bowl(self.owner)
        self.client.force_login(self.owner.person)
        self.at = f"/w/{self.owner.workshop.slug}/turning/weigh/past/"
        first = timezone.localdate() - timedelta(days=30)
        self.text = "\n".join(
            f"{first + timedelta(days=days)} maple {grams}" for days, grams in ((0, 1300), (7, 1210), (14, 1150), (21, 1115))
        )

    def test_it_is_looked_at_then_kept_and_taken_back(self):
        looked = self.client.post(self.at, {"text": self.text})
        self.assertIn("Save what is sound", text_of(looked))
        self.assertFalse(Reading.objects.exists())
        kept = self.client.post(self.at, {"text": self.text, "keep": "1", "once": "a"}, follow=True)
        self.assertIn("4 weights kept.", text_of(kept))
        self.assertEqual(weighing.renew(self.bowl).count, 4)
        # Sent twice, pasted again, it is kept once.
        self.client.post(self.at, {"text": self.text, "keep": "1", "once": "a"})
        again = self.client.post(self.at, {"text": self.text, "keep": "1", "once": "b"})
        self.assertIn("kept already", text_of(again))
        self.assertEqual(len(weighing.entries_of(self.bowl)), 4)
        back = {"reading": [str(pk) for pk in Reading.objects.values_list("pk", flat=True)], "do": "strike"}
        page = self.client.post(f"/w/{self.owner.workshop.slug}/turning/weigh/back/", back, follow=True)
        self.assertIn("Struck out: 4 weights", text_of(page))
        self.assertEqual(weighing.entries_of(self.bowl), [])

    def test_what_is_wrong_or_doubted_stays_to_be_put_right(self):
        text = self.text + f"\n{timezone.localdate() - timedelta(days=5)} maple 1800\n1.2.{YEAR} nobody-9 800"
        page = self.client.post(self.at, {"text": text, "keep": "1", "once": "a"})
        said = text_of(page)
        self.assertIn("4 weights kept. 2 lines were not.", said)
        self.assertIn("maple 1800", markup_of(page))
        self.assertIn("nobody-9", said)
        again = self.client.post(self.at, {"text": text, f"mean-{page.context['lines'][0].number}": "on", "once": "c"})
        self.assertIn(" checked>", markup_of(again))
        self.assertIn("500 go at once", text_of(self.client.post(self.at, {"text": "1.1.24 maple 3\n" * 501})))
        # Said to be meant it is kept.
        line = next(line for line in page.context["lines"] if line.doubt)
        left = self.client.post(self.at, {"text": line.text, "keep": "1", "mean-1": "on", "once": "b"}, follow=True)
        self.assertIn("1 weight kept.", text_of(left))

    def test_a_helper_may_and_a_guest_may_not(self):
        self.client.logout()
        self.assertEqual(self.client.get(self.at).status_code, 302)

    def test_the_table_reads_back(self):
        actions.weigh(self.owner, self.bowl, 1.3, timezone.now() - timedelta(days=3))
        table = self.client.get(f"/w/{self.owner.workshop.slug}/turning/weights.csv").getvalue().decode()
        (line,) = notebook.read(table, weighing.bowls_in_stock(self.owner.workshop), METRIC)
        self.assertTrue(line.known, line)
