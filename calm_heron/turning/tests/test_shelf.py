"""A shelf of bowls by nothing but their weights: what they say, what slips are asked about, who may weigh what."""

from dataclasses import replace
from datetime import timedelta

import numpy as np
from django.test import TestCase
from django.urls import reverse
from django.utils import timezone

from calm_heron.measuring.models import PieceMoisture, Reading
from calm_heron.stock.models import Piece, Status
from calm_heron.turning import actions
from calm_heron.turning.shelf import weighing
from calm_heron.workshops.models import Role
from calm_heron.workshops.refusals import Refused
from simulators.scale import Hidden
from tests.factories import make_bowl, make_member, make_owner, make_shop
from tests.pages import markup_of, text_of
from wood.air.climate import constant
from wood.turning.bowls import Bowl
from wood.turning.weights import State

TRUTH = Hidden("", "sugar_maple", Bowl(0.25, 0.10, 0.025))


def weigh_over(by, bowl: Piece, days: list[float], masses=None) -> np.ndarray:
    """Weighings of a bowl over days, the last one now."""
    masses = TRUTH.masses_kg(days, constant(19, 0.5)) if masses is None else masses
    begins = timezone.now() - timedelta(days=days[-1])
    for day, mass in zip(days, masses, strict=True):
        actions.weigh(by, bowl, round(float(mass), 3), begins + timedelta(days=day), meant=True)
    return masses


class FuzzyNumber(int):
    """A number of queries that is any up to a limit."""

    def __eq__(self, other) -> bool:
        return other <= int(self)

    __hash__ = int.__hash__


class Shelf(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.owner, *_ = make_shop()
        cls.shop = f"/w/{cls.owner.workshop.slug}/"
        cls.bowl = make_bowl(cls.owner, tag="maple-bowl-01")

    def setUp(self):
        self.client.force_login(self.owner.person)

    def line(self, text: str, **more):
        return self.client.post(f"{self.shop}turning/weigh/", {"line": text, "once": text, **more}, follow=True)

    def test_a_bowl_has_no_second_forecast(self):
        for page in ("drying", "speed-up"):
            answer = self.client.get(f"{self.shop}stock/{self.bowl.tag}/{page}/")
            self.assertRedirects(answer, f"{self.shop}stock/{self.bowl.tag}/")

    def test_nothing_but_a_weight_is_needed_and_one_already_says_when(self):
        self.client.post(f"{self.shop}turning/of/maple-bowl-01/weigh/", {"mass_kg": "1620 g"})
        page = self.client.get(f"{self.shop}turning/of/maple-bowl-01/")
        self.assertIn("One weighing tells little yet", text_of(page))
        weighed = weighing.renew(self.bowl)
        self.assertGreater(weighed.moisture[1], 0.3)
        self.assertGreater(weighed.rest_kg[2] - weighed.rest_kg[1], 0.05)
        self.assertEqual(PieceMoisture.objects.get(piece=self.bowl).count, 1)
        self.assertGreater(PieceMoisture.objects.get(piece=self.bowl).mean, 0.3)

    def test_more_weighings_narrow_it_and_the_shelf_says_the_same_as_the_bowl(self):
        weigh_over(self.owner, self.bowl, [0, 2, 5, 9, 14, 20])
        weighed = weighing.renew(self.bowl)
        self.assertEqual(weighed.state, State.FALLING)
        self.assertLess((weighed.rest_kg[2] - weighed.rest_kg[1]) / weighed.rest_kg[0], 0.08)
        saved = weighing.shelf(self.owner.workshop)[0].weighed
        # The shelf leaves the single weighings out, which it does not draw.
        self.assertEqual(saved, replace(weighed, dots=[]))
        shelf = text_of(self.client.get(f"{self.shop}turning/"))
        self.assertIn("0 of 1 bowl settled", shelf)
        # Its verdict under stock says it by the same weights.
        self.assertIn("By its weights: still falling", text_of(self.client.get(f"{self.shop}stock/maple-bowl-01/")))

    def test_a_weight_that_was_kept_or_taken_out_is_taken_back_in_the_notice(self):
        weigh_over(self.owner, self.bowl, [0, 2, 5, 9])
        before = weighing.renew(self.bowl)
        reading = Reading.objects.standing().filter(piece=self.bowl).order_by("-at").first()
        strike = reverse("strike_weight_of_bowl", args=[self.owner.workshop.slug, self.bowl.tag, reading.pk])
        page = self.client.post(strike, follow=True)
        self.assertIn("counts no more", text_of(page))
        self.assertIn('name="do" value="restore"', markup_of(page))
        self.assertEqual(weighing.renew(self.bowl).count, 3)
        self.assertIn("Put back", text_of(self.client.post(strike, {"do": "restore"}, follow=True)))
        self.assertEqual(weighing.shelf(self.owner.workshop)[0].weighed.rest, before.rest)
        self.assertIn("put back already", text_of(self.client.post(strike, {"do": "restore"}, follow=True)))
        kept = self.client.post(f"{self.shop}turning/of/{self.bowl.tag}/weigh/", {"mass_kg": "1230 g"}, follow=True)
        self.assertIn('name="do" value="strike"', markup_of(kept))
        self.assertEqual(weighing.renew(self.bowl).count, 5)

    def test_flat_it_is_at_rest_on_shelf_bowl_and_today(self):
        weigh_over(self.owner, self.bowl, [0, 3, 8, 15, 25, 40, 60, 80, 95, 105])
        self.assertEqual(weighing.renew(self.bowl).state, State.FLAT)
        self.assertIn("1 of 1 bowl settled", text_of(self.client.get(f"{self.shop}turning/")))
        bowl = text_of(self.client.get(f"{self.shop}turning/of/maple-bowl-01/"))
        self.assertIn("dry for that place", bowl)
        self.assertIn("1 bowl has settled: maple-bowl-01", text_of(self.client.get(self.shop)))
        self.assertIn("May it be finish-turned? Yes", bowl)

    def test_a_slipped_decimal_is_asked_back_kept_if_meant_and_nothing_typed_is_lost(self):
        weigh_over(self.owner, self.bowl, [0, 2, 5])
        before = Reading.objects.count()
        line = self.line("maple-bowl-01 15000")
        self.assertEqual(line.status_code, 422)
        self.assertIn("Has the point slipped?", text_of(line))
        self.assertIn('value="maple-bowl-01 15000"', markup_of(line))
        self.assertEqual(Reading.objects.count(), before)
        # What no wood could hold is not kept even then; what only looks wrong is.
        self.assertIn("can hold about", text_of(self.line("maple-bowl-01 15000", meant="on")))
        self.assertIn("the tare forgotten", text_of(self.line("maple-bowl-01 2100")))
        saved = self.line("maple-bowl-01 2100 g", meant="on")
        self.assertIn("kept", text_of(saved))
        self.assertEqual(Reading.objects.count(), before + 1)
        # It is named and does not count.
        weighed = weighing.renew(self.bowl)
        self.assertEqual(len(weighed.absurd), 1)
        self.assertIn("left out: nothing explains it", text_of(self.client.get(f"{self.shop}turning/of/maple-bowl-01/")))

    def test_grams_in_an_ounce_shop_and_a_forgotten_tare_are_asked_about(self):
        owner = make_owner(units="inch")
        bowl = make_bowl(owner)
        actions.weigh(owner, bowl, 1.6)
        with self.assertRaisesRegex(actions.LooksWrong, "another unit"):
            actions.weigh(owner, bowl, 1.6 * 28.35)
        with self.assertRaisesRegex(actions.LooksWrong, "tare"):
            actions.weigh(owner, bowl, 2.4)

    def test_a_rise_turned_digits_and_a_year_long_gone_are_asked_about_and_kept_when_meant(self):
        now = timezone.now()
        for days, mass in ((40, 1.30), (30, 1.0), (20, 0.80), (10, 0.70), (4, 0.64)):
            actions.weigh(self.owner, self.bowl, mass, now - timedelta(days=days), meant=True)
        with self.assertRaisesRegex(actions.LooksWrong, r"629 g\?"):
            actions.weigh(self.owner, self.bowl, 0.692)
        with self.assertRaisesRegex(actions.LooksWrong, "Last it weighed 640 g"):
            actions.weigh(self.owner, self.bowl, 0.664)
        with self.assertRaisesRegex(actions.LooksWrong, "Is the year mistyped"):
            actions.weigh(self.owner, self.bowl, 0.62, now - timedelta(days=6 * 365))
        Piece.objects.filter(pk=self.bowl.pk).update(felled_on=timezone.localdate() - timedelta(days=60))
        self.bowl.refresh_from_db()
        with self.assertRaisesRegex(actions.LooksWrong, "felled"):
            actions.weigh(self.owner, self.bowl, 1.4, now - timedelta(days=90))
        self.assertEqual(len(weighing.entries_of(self.bowl)), 5)
        actions.weigh(self.owner, self.bowl, 0.664, meant=True)
        self.assertEqual(len(weighing.entries_of(self.bowl)), 6)

    def test_of_two_weights_on_one_day_the_slip_is_left_out_and_not_the_true_one(self):
        now = timezone.now()
        noon = now - timedelta(days=10)
        for at, mass in ((now - timedelta(days=30), 1.0), (now - timedelta(days=20), 0.9), (noon, 1.5), (noon, 0.86), (now, 0.84)):
            actions.weigh(self.owner, self.bowl, mass, at, meant=True)
        entries = weighing.entries_of(self.bowl)
        self.assertEqual([entries[position].mass_kg for position in weighing.renew(self.bowl).absurd], [1.5])

    def test_the_very_first_weight_is_held_against_its_size(self):
        with self.assertRaisesRegex(actions.LooksWrong, "for its size and wood"):
            actions.weigh(self.owner, self.bowl, 16.0)
        actions.weigh(self.owner, self.bowl, 1.4)

    def test_twenty_weights_go_in_by_the_end_of_a_tag(self):
        other = make_bowl(self.owner, "black_cherry", tag="cherry-bowl-07")
        for text in ("7 1320", "maple 1550 g", "cherry-bowl-07 1.31 kg", "MAPLE-BOWL-01 1545"):
            self.assertContains(self.line(text), "kept.")
        self.assertEqual(len(weighing.entries_of(other)), 2)
        self.assertEqual(len(weighing.entries_of(self.bowl)), 2)

    def test_what_cannot_be_read_says_so_beside_the_line(self):
        make_bowl(self.owner, tag="maple-bowl-02")
        for text, said in (
            ("maple-bowl-01", "a space, and what it weighs"),
            ("bowl 800", "No bowl on the shelf is called “bowl”."),
            ("maple 800", "“maple” may mean maple-bowl-01, maple-bowl-02. Write the whole tag."),
            ("maple heavy", ""),
        ):
            answer = self.line(text)
            self.assertEqual(answer.status_code, 422)
            self.assertIn(said, text_of(answer))
        self.assertEqual(Reading.objects.count(), 0)

    def test_two_people_weighing_keep_both_and_the_same_form_twice_keeps_one(self):
        helper = make_member(self.owner, Role.HELPER)
        actions.weigh(self.owner, self.bowl, 1.6)
        actions.weigh(helper, self.bowl, 1.59)
        self.assertEqual(len(weighing.entries_of(self.bowl)), 2)
        sent = {"mass_kg": "1580 g", "once": "the-same"}
        for _ in range(2):
            self.client.post(f"{self.shop}turning/of/maple-bowl-01/weigh/", sent)
        self.assertEqual(len(weighing.entries_of(self.bowl)), 3)

    def test_a_bowl_that_was_sold_or_broke_half_way_is_weighed_no_more_and_leaves_the_shelf(self):
        weigh_over(self.owner, self.bowl, [0, 3])
        Piece.objects.filter(pk=self.bowl.pk).update(status=Status.SCRAPPED)
        with self.assertRaisesRegex(Refused, "not in stock"):
            actions.weigh(self.owner, self.bowl, 1.5)
        self.assertEqual(weighing.shelf(self.owner.workshop), [])
        # Its log is still to be seen.
        self.assertContains(self.client.get(f"{self.shop}turning/of/maple-bowl-01/"), "Weighings")

    def test_a_weight_taken_out_counts_no_more(self):
        weigh_over(self.owner, self.bowl, [0, 3, 7])
        newest = weighing.entries_of(self.bowl)[-1]
        self.client.post(f"{self.shop}turning/of/maple-bowl-01/weight/{newest.id}/strike/")
        self.assertEqual(len(weighing.entries_of(self.bowl)), 2)
        self.assertEqual(weighing.renew(self.bowl).count, 2)

    def test_a_shelf_of_any_size_takes_as_many_queries(self):
        weigh_over(self.owner, self.bowl, [0, 3])
        self.client.get(f"{self.shop}turning/")
        with self.assertNumQueries(FuzzyNumber(30)) as few:
            self.client.get(f"{self.shop}turning/")
        for number in range(12):
            more = make_bowl(self.owner, tag=f"more-bowl-{number:02d}")
            actions.weigh(self.owner, more, 1.6)
        self.client.get(f"{self.shop}turning/")
        with self.assertNumQueries(FuzzyNumber(30)) as many:
            self.client.get(f"{self.shop}turning/")
        self.assertEqual(len(few), len(many))

    def test_a_species_without_figures_is_weighed_all_the_same(self):
        bowl = make_bowl(self.owner, "wenge")
        actions.weigh(self.owner, bowl, 1.2, meant=True)
        self.assertEqual(self.client.get(f"{self.shop}turning/of/{bowl.tag}/").status_code, 200)


class TakenIn(TestCase):
    def test_a_bowl_leads_to_its_scale_a_log_to_its_page_and_a_board_to_its_meter(self):
        owner = make_owner()
        self.client.force_login(owner.person)
        for kind, leads in (("bowl", "/turning/of/"), ("log", "/stock/"), ("board", "/measure/")):
            form = self.client.get(f"/w/{owner.workshop.slug}/stock/new/?kind={kind}").context["form"]
            sent = {name: field.initial for name, field in form.fields.items() if field.initial not in (None, "")}
            sent |= {"species_key": "sugar maple", "thickness_m": "25 mm", "width_m": "250 mm", "length_m": "100 mm"}
            answer = self.client.post(f"/w/{owner.workshop.slug}/stock/new/?kind={kind}", sent | {"once": kind})
            self.assertEqual(answer.status_code, 302, kind)
            self.assertIn(leads, answer.url)
            if kind == "log":
                self.assertNotIn("measure", answer.url)
