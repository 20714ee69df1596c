"""Weighing bowls, cutting logs, heating, tracing and judging: as a member does it, with what goes wrong."""

import json
from datetime import timedelta

import numpy as np
from django.test import TestCase
from django.utils import timezone

from calm_heron.stock.models import Piece, Status
from calm_heron.turning import actions
from calm_heron.turning.actions import weigh
from calm_heron.turning.models import LogEnd, OvenSession, Tracing, Turned, turned
from calm_heron.turning.oven import heating
from calm_heron.turning.oven.oven_actions import begin_oven
from calm_heron.turning.shelf import weighing
from calm_heron.turning.tests.test_shelf import weigh_over
from calm_heron.workshops.refusals import Refused
from simulators.scale import Hidden, run
from tests.at_the_door import DoorHere
from tests.factories import make_board, make_bowl, make_owner, make_place, make_shop
from tests.pages import markup_of, text_of
from wood.turning.bowls import Bowl
from wood.turning.weights import State


class FromTheLog(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.owner = make_owner()
        cls.shop = f"/w/{cls.owner.workshop.slug}/"
        cls.log = make_board(
            cls.owner, "black_cherry", kind="log", tag="cherry-log-01", width_m=0.4, length_m=0.5, thickness_m=0.4, seasoning="green"
        )

    def setUp(self):
        self.client.force_login(self.owner.person)

    STATE = (
        "piece=cherry-log-01&species_key=black+cherry&width_m=400+mm&length_m=500+mm&felled_days=0"
        "&strokes=20.20*72.77*123.133*d30&rim=pith&shape=bowl"
    )

    def test_blanks_go_into_stock_with_their_place_in_the_log_and_the_log_is_used(self):
        page = self.client.get(f"{self.shop}turning/cut/?{self.STATE}")
        self.assertContains(page, "2 bowls")
        self.client.post(f"{self.shop}turning/cut/cherry-log-01/keep/", {"do": "cut", "state": self.STATE, "once": "a"})
        blanks = Turned.objects.filter(log=self.log)
        self.assertEqual(blanks.count(), 2)
        self.assertTrue(all(blank.pith_m > 0.005 for blank in blanks))
        self.log.refresh_from_db()
        self.assertEqual(self.log.status, Status.USED)
        self.assertTrue(LogEnd.objects.filter(piece=self.log).exists())
        # Once more is refused, and nothing is doubled.
        self.client.post(f"{self.shop}turning/cut/cherry-log-01/keep/", {"do": "cut", "state": self.STATE, "once": "b"})
        self.assertEqual(Turned.objects.filter(log=self.log).count(), 2)

    def test_a_drawing_that_is_kept_is_there_again(self):
        self.client.post(f"{self.shop}turning/cut/cherry-log-01/keep/", {"do": "draw", "state": self.STATE})
        again = self.client.get(f"{self.shop}turning/cut/?piece=cherry-log-01")
        self.assertIn("20.20*72.77*123.133*d30", markup_of(again))

    def test_of_two_who_drew_an_empty_end_the_second_is_told_and_keeps_the_drawing(self):
        page = self.client.get(f"{self.shop}turning/cut/?{self.STATE}")
        self.assertContains(page, '<input type="hidden" name="version" value="0">')
        keep = f"{self.shop}turning/cut/cherry-log-01/keep/"
        self.client.post(keep, {"do": "draw", "state": self.STATE, "version": "0", "once": "a"})
        other = self.STATE.replace("20.20", "30.30")
        second = self.client.post(keep, {"do": "draw", "state": other, "version": "0", "once": "b"}, follow=True)
        self.assertContains(second, "meanwhile")
        self.assertIn("30.30*72.77", markup_of(second))
        self.assertEqual(LogEnd.objects.get(piece=self.log).strokes[0]["p"][0], [0.02, 0.02])

    def test_a_blank_is_roughed_and_then_weighed(self):
        made = actions.keep_blanks(self.owner, self.log, cutting_plan(self.log))
        blank = made[0]
        self.assertContains(self.client.get(f"{self.shop}turning/of/{blank.tag}/"), "Roughed?")
        blank.refresh_from_db()
        self.client.post(
            f"{self.shop}turning/of/{blank.tag}/roughed/",
            {"diameter_m": "300 mm", "height_m": "120 mm", "wall_m": "30 mm", "version": blank.version},
        )
        blank.refresh_from_db()
        self.assertEqual((blank.kind, blank.thickness_m, blank.length_m), ("bowl", 0.03, 0.12))
        actions.weigh(self.owner, blank, 2.6, meant=True)
        self.assertEqual(turned(blank).log, self.log)

    def test_what_was_drawn_cannot_lie_outside_and_says_so(self):
        for wrong, said in (
            ("pith_x_m=300+mm", "The pith lies outside the log"),
            ("strokes=10.10*900.10", "A check lies outside the log"),
            ("strokes=%3Cscript", "cannot be read"),
            ("strokes=10.10*50.50*d900", "deeper than the log"),
            ("checks=13+0-1", "hours go from 0 to 12"),
            ("checks=2+0.3-1+9+m", ""),
            ("width_m=", ""),
        ):
            page = self.client.get(f"/turning/cut/?species_key=black+cherry&width_m=400+mm&length_m=500+mm&{wrong}")
            self.assertEqual(page.status_code, 200, wrong)
            self.assertIn(said, text_of(page), wrong)

    def test_checks_by_numbers_and_by_hand_are_the_same(self):
        base = "/turning/cut/?species_key=black+cherry&width_m=400+mm&length_m=500+mm&fragment=answer&"
        typed = text_of(self.client.get(f"{base}checks=12+0.2-0.9"))
        drawn = text_of(self.client.get(f"{base}strokes=0.40*0.180"))
        self.assertEqual(typed.split("What was asked")[0], drawn.split("What was asked")[0])

    def test_a_line_that_is_moved_says_what_it_costs(self):
        page = self.client.get(
            "/turning/cut/?species_key=black+cherry&width_m=400+mm&length_m=500+mm&angle=0&upper=0.09&lower=0.015&fragment=answer"
        )
        self.assertRegex(text_of(page), "These lines (cost|give)")

    def test_a_ruined_log_is_firewood_and_a_size_insisted_on_is_called_dangerous(self):
        star = "_".join(
            f"{round(8 * c)}.{round(8 * s)}*{round(110 * c)}.{round(110 * s)}"
            for c, s in ((np.cos(a), np.sin(a)) for a in np.arange(0, 6.28, 0.22))
        )
        page = self.client.get(f"/turning/cut/?width_m=240+mm&length_m=300+mm&strokes={star}&fragment=answer")
        self.assertIn("Firewood", text_of(page))
        forced = self.client.get(
            "/turning/cut/?width_m=400+mm&length_m=500+mm&strokes=-150.60*150.90&diameter_m=330+mm&angle=0&upper=0.015&lower=0.015&fragment=answer"
        )
        self.assertIn("Dangerous", text_of(forced))


def cutting_plan(log: Piece):
    from wood.turning.cuts import plans
    from wood.turning.logs import LogEnd as Core

    return plans(Core(log.width_m, log.width_m, log.length_m))[0].blanks


class BackOnTheLathe(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.owner, cls.place, *_ = make_shop()
        cls.shop = f"/w/{cls.owner.workshop.slug}/"
        cls.bowl = make_bowl(cls.owner, tag="maple-bowl-01")
        cls.page = f"{cls.shop}turning/of/maple-bowl-01/"

    def setUp(self):
        self.client.force_login(self.owner.person)

    def test_an_unweighed_bowl_is_to_be_weighed_first_and_a_wet_one_waits(self):
        self.assertIn("Weigh it first", text_of(self.client.get(self.page)))
        weigh_over(self.owner, self.bowl, [0, 2, 4])
        self.assertIn("May it be finish-turned? Wait", text_of(self.client.get(self.page)))

    def test_a_crack_in_the_foot_is_never_turned(self):
        weigh_over(self.owner, self.bowl, [0, 3, 8, 15, 25, 40, 60, 80, 95, 105])
        self.client.post(f"{self.page}crack/", {"where": "foot", "depth_m": "8 mm", "length_m": "40 mm"})
        said = text_of(self.client.get(self.page))
        self.assertIn("No: dangerous", said)
        self.assertIn("never turned: it may fly apart", said)
        result = self.bowl.cracks.get()
        self.client.post(f"{self.page}crack/{result.pk}/gone/")
        self.assertIn("May it be finish-turned? Yes", text_of(self.client.get(self.page)))

    def test_a_tracing_of_two_diameters_and_one_of_points_are_kept_with_what_was_predicted(self):
        self.client.post(f"{self.page}trace/", {"along_m": "249 mm", "across_m": "238 mm", "stage": "dry"})
        first = Tracing.objects.get()
        self.assertAlmostEqual(first.along_m - first.across_m, 0.011)
        self.assertGreater(first.predicted_m, 0.004)
        rim = [[0.5 + 0.4 * np.cos(a), 0.4 + 0.38 * np.sin(a)] for a in np.arange(0, 6.2, 0.6)]
        points = json.dumps([[0.1, 0.9], [0.5, 0.9], *rim])
        self.client.post(f"{self.page}trace/", {"points": points, "known_m": "125 mm", "once": "b"})
        second = Tracing.objects.latest("pk")
        self.assertAlmostEqual(second.along_m, 0.25, places=3)
        self.assertAlmostEqual(second.across_m, 0.2375, places=3)

    def test_three_points_are_no_oval_and_say_so(self):
        answer = self.client.post(f"{self.page}trace/", {"points": "[[0,0],[1,0],[0.2,0.2],[0.4,0.4],[0.1,0.3]]", "known_m": "100 mm"})
        self.assertEqual(answer.status_code, 422)
        self.assertIn("do not make an oval", text_of(answer))
        for wrong in ({"along_m": "240 mm"}, {"points": "[[1,2]", "known_m": "1"}, {"points": "[[0,0],[0,0]]", "known_m": "100 mm"}, {}):
            self.assertEqual(self.client.post(f"{self.page}trace/", wrong).status_code, 422, wrong)
        self.assertEqual(Tracing.objects.count(), 0)

    def test_what_it_is_is_kept_and_the_second_to_change_it_is_told(self):
        sent = {"form": "enclosed", "way": "bag", "rim": "bark", "grain": "across", "pith_m": "30 mm", "end_wall_m": "7 mm", "version": "1"}
        self.client.post(f"{self.page}say/", sent)
        self.assertEqual(Turned.objects.get().form, "enclosed")
        self.client.post(f"{self.page}say/", sent | {"way": "shelf", "version": Turned.objects.get().version, "once": "b"})
        late = self.client.post(f"{self.page}say/", sent | {"way": "box", "version": "1", "once": "c"})
        self.assertEqual(late.status_code, 422)
        self.assertEqual(Turned.objects.get().way, "shelf")

    def test_a_place_without_a_year_still_gives_an_answer(self):
        bare = make_place(self.owner)
        Piece.objects.filter(pk=self.bowl.pk).update(place=bare)
        actions.weigh(self.owner, self.bowl, 1.6)
        self.assertEqual(self.client.get(self.page).status_code, 200)


BEGUN = {"watts": "800", "level": "1.0", "mass_kg": "260 g", "oven_m": "300 mm"}


class EverythingTurned(TestCase):
    """Boxes, spindles and what is left to move, on the same shelf."""

    @classmethod
    def setUpTestData(cls):
        cls.owner = make_owner()
        cls.shop = f"/w/{cls.owner.workshop.slug}/"
        cls.piece = make_bowl(cls.owner, tag="cherry-box-01", thickness_m=0.012, width_m=0.1, length_m=0.1)

    def setUp(self):
        self.client.force_login(self.owner.person)

    def say(self, **said) -> str:
        known = turned(Piece.objects.get(pk=self.piece.pk))
        sent = {
            "form": "box",
            "way": "shelf",
            "rim": "pith",
            "grain": "along",
            "pith_m": "80 mm",
            "end_wall_m": "5 mm",
            "version": known.seen,
        }
        answer = self.client.post(f"{self.shop}turning/of/{self.piece.tag}/say/", {**sent, **said}, follow=True)
        return text_of(answer)

    def test_a_box_is_weighed_and_told_like_a_bowl(self):
        self.say()
        for day, mass in ((9, 0.30), (5, 0.27), (0, 0.25)):
            actions.weigh(self.owner, self.piece, mass, timezone.now() - timedelta(days=day), meant=True)
        page = text_of(self.client.get(f"{self.shop}turning/of/{self.piece.tag}/"))
        self.assertIn("at rest", page)
        self.assertIn("It dries", page)

    def test_a_spindle_is_solid_whatever_its_wall(self):
        self.say(form="solid")
        bowl = turned(Piece.objects.get(pk=self.piece.pk)).bowl()
        self.assertAlmostEqual(bowl.volume_m3, np.pi / 4 * 0.1**2 * 0.1, delta=1e-9)

    def test_how_it_is_held_and_what_that_has_become(self):
        self.assertIn("It is held by a tenon of 50 mm, by now", self.say(held="tenon", held_m="50 mm"))
        self.assertIn("It turns between centres", self.say(held="centres"))

    def test_what_is_turned_once_is_left_as_it_goes(self):
        self.assertIn("Left as it goes", self.say(turned_once="on"))

    def test_tracings_are_laid_over_each_other(self):
        for across in (0.098, 0.097, 0.096):
            sizes = {"along_m": 0.1, "across_m": across, "predicted_m": 0.003, "by": self.owner.person}
            Tracing.objects.create(workshop=self.owner.workshop, piece=self.piece, **sizes)
        self.assertIn("thin: 2 tracings before it", markup_of(self.client.get(f"{self.shop}turning/of/{self.piece.tag}/")))


class InTheOven(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.owner = make_owner()
        cls.shop = f"/w/{cls.owner.workshop.slug}/"
        cls.bowl = make_bowl(cls.owner, tag="maple-bowl-01", thickness_m=0.012, width_m=0.15, length_m=0.06)
        cls.page = f"{cls.shop}turning/of/maple-bowl-01/oven/"

    def setUp(self):
        self.client.force_login(self.owner.person)

    def test_a_session_begins_goes_heat_by_heat_and_ends_in_the_log(self):
        self.assertContains(self.client.get(self.page), "never the kitchen")
        self.client.post(self.page, BEGUN)
        session = OvenSession.objects.get()
        self.assertContains(self.client.get(self.page), "most of the water leaves while it rests")
        for number, mass in enumerate((252, 245, 239)):
            sent = {"seconds": "60", "level": "0.3", "mass_kg": f"{mass} g", "felt": "warm", "once": str(number)}
            self.client.post(f"{self.shop}turning/oven/{session.pk}/heat/", sent)
        self.assertEqual(session.heats.count(), 3)
        hot = {"seconds": "60", "level": "0.3", "mass_kg": "236 g", "felt": "steam", "once": "x"}
        self.client.post(f"{self.shop}turning/oven/{session.pk}/heat/", hot)
        self.assertContains(self.client.get(self.page), "steam inside bursts wood")
        self.client.post(f"{self.shop}turning/oven/{session.pk}/end/")
        session.refresh_from_db()
        self.assertIsNotNone(session.ended_at)
        self.assertAlmostEqual(weighing.entries_of(self.bowl)[-1].mass_kg, 0.236)

    def test_a_weight_that_rose_or_is_below_dry_is_refused_beside_its_field(self):
        session = begin_oven(self.owner, self.bowl, 800, 0.26)
        for mass, said in (("300 g", "takes up no water in an oven"), ("60 g", "Ovendry it should weigh")):
            answer = self.client.post(
                f"{self.shop}turning/oven/{session.pk}/heat/", {"seconds": "60", "level": "0.3", "mass_kg": mass, "felt": "warm"}
            )
            self.assertEqual(answer.status_code, 422)
            self.assertIn(said, text_of(answer))
        self.assertEqual(session.heats.count(), 0)

    def test_what_is_coming_is_told_before_it_begins(self):
        weigh(self.owner, self.bowl, 0.26)
        page = text_of(self.client.get(self.page))
        self.assertRegex(page, r"About \d\d heats over [2-5] days")
        self.assertIn("an hour apart", page)

    def test_what_does_not_fit_or_takes_weeks_is_refused_beside_its_field(self):
        big = make_bowl(self.owner, tag="maple-bowl-09", thickness_m=0.03, width_m=0.29, length_m=0.12)
        heavy = {**BEGUN, "mass_kg": "2.5 kg"}
        for other, field, said in (
            ({"oven_m": "220 mm"}, "oven_m", "does not turn"),
            ({"watts": "300", "level": "0.2"}, "level", "heats over"),
        ):
            answer = self.client.post(f"{self.shop}turning/of/{big.tag}/oven/", {**heavy, **other})
            self.assertEqual(answer.status_code, 422)
            self.assertIn(said, str(answer.context["form"].errors[field]))
        self.assertFalse(OvenSession.objects.exists())

    def test_a_pen_blank_may_be_asked_about_too(self):
        pen = make_bowl(self.owner, tag="pen-01", thickness_m=0.005, width_m=0.02, length_m=0.13)
        weigh(self.owner, pen, 0.04, meant=True)
        self.assertEqual(self.client.get(f"{self.shop}turning/of/{pen.tag}/oven/").status_code, 200)

    def test_heats_carry_their_clock_and_the_setting_is_kept(self):
        self.client.post(self.page, {**BEGUN, "level": "0.6"})
        session = OvenSession.objects.get()
        self.assertEqual(session.level, 0.6)
        sent = {"seconds": "60", "level": "0.6", "mass_kg": "252 g", "felt": "warm", "once": "1"}
        self.client.post(f"{self.shop}turning/oven/{session.pk}/heat/", sent)
        core = heating.session_of(session)
        self.assertAlmostEqual(core.heats[0].hours, (session.heats.get().at - session.began_at).total_seconds() / 3600)
        self.assertContains(self.client.get(self.page), "Weighed")

    def test_only_one_session_of_a_bowl_runs(self):
        begin_oven(self.owner, self.bowl, 800, 0.26)
        with self.assertRaisesRegex(Refused, "in a session already"):
            begin_oven(self.owner, self.bowl, 800, 0.26)


class ThroughTheDoor(TestCase):
    """A simulated scale at the door for devices."""

    @classmethod
    def setUpTestData(cls):
        from calm_heron.devices.actions import let_in

        cls.owner = make_owner()
        cls.bowl = make_bowl(cls.owner, tag="maple-bowl-01")
        cls.device, cls.token = let_in(cls.owner, "bench scale", "scale", 0)

    def setUp(self):
        self.door = DoorHere(self.client, self.token)

    def test_it_is_told_whom_to_weigh_and_its_weights_are_kept_once(self):
        self.assertEqual(self.door.ask(), {"weigh": ["maple-bowl-01"]})
        hidden = Hidden("maple-bowl-01", "sugar_maple", Bowl(0.25, 0.1, 0.025), pace=0.9)
        begins = timezone.now() - timedelta(days=20, minutes=2)
        for _ in range(2):
            run(self.door, [hidden], days=[0, 2, 5, 9, 14, 20], begins=begins)
        self.assertEqual(len(weighing.entries_of(self.bowl)), 6)
        self.assertEqual(weighing.renew(self.bowl).state, State.FALLING)

    def test_a_slip_a_strange_tag_and_nonsense_are_refused(self):
        begins = timezone.now() - timedelta(days=5, minutes=2)
        said: list[str] = []
        run(
            self.door,
            [Hidden("maple-bowl-01", "sugar_maple", Bowl(0.25, 0.1, 0.025))],
            days=[0, 2, 5],
            begins=begins,
            slip="maple-bowl-01",
            say=said.append,
        )
        self.assertIn("Has the point slipped?", said[-1])
        at = timezone.now().isoformat()
        answer = self.door.tell(
            timezone.now(),
            [
                {"key": "a", "at": at, "tag": "nobody", "mass_kg": 1.0},
                {"key": "b", "at": at, "mass_kg": 1.0},
                {"key": "c", "at": at, "tag": "maple-bowl-01", "mass_kg": 9000},
            ],
        )
        self.assertEqual(answer["kept"], 0)
        self.assertEqual(len(weighing.entries_of(self.bowl)), 2)


class AskedByAnybody(TestCase):
    def test_how_thick_is_answered_without_an_account_in_either_units(self):
        for units, said in (("metric", "mm"), ("inch", "in")):
            page = self.client.get(f"/turning/rough/?units={units}")
            self.assertContains(page, "of wall")
            self.assertIn(f" {said} ", text_of(page))

    def test_a_wall_that_somebody_wants_is_told_its_risk(self):
        """Three inches of maple on an open shelf are nothing to be calm about."""
        asked = {"species_key": "sugar maple", "diameter_m": "300 mm", "height_m": "140 mm", "wall_m": "75 mm", "way": "shelf"}
        self.assertIn("Of this wall the risk of cracks on an open shelf is very high", text_of(self.client.get("/turning/rough/", asked)))

    def test_a_wall_that_is_too_thin_says_what_would_be_left(self):
        page = text_of(
            self.client.get(
                "/turning/rough/?species_key=sugar+maple&diameter_m=300+mm&height_m=120+mm&end_wall_m=8+mm&wall_m=10+mm&fragment=answer"
            )
        )
        self.assertIn("Too thin", page)

    def test_absurd_sizes_say_so_beside_their_fields(self):
        for wrong in (
            "diameter_m=9+m",
            "diameter_m=0",
            "end_wall_m=400+mm",
            "wall_m=300+mm&diameter_m=200+mm",
            "species_key=unobtainium",
            "start=900",
            "pith_m=-1+mm",
        ):
            page = self.client.get(f"/turning/rough/?{wrong}")
            self.assertEqual(page.status_code, 200, wrong)
            self.assertIn('class="wrong"', markup_of(page), wrong)

    def test_a_species_without_shrinkage_is_not_known(self):
        page = text_of(self.client.get("/turning/rough/?species_key=wenge&fragment=answer"))
        self.assertIn("Not known", page)
