"""Chambers as their owners describe them, and the routes through them: the very days that the kiln's own plan says."""

from django.test import TestCase
from django.urls import reverse

from calm_heron.kiln.models import Chamber
from tests.factories import make_lot, make_owner
from tests.pages import text_of

KEPT = {"name": "Shed kiln", "kind": "dehumidifier", "hottest_c": "50", "baffles": "on", "once": "a"}


class Owned(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.owner = make_owner()

    def setUp(self):
        self.client.force_login(self.owner.person)

    def at(self, name, *args):
        return reverse(name, args=[self.owner.workshop.slug, *args])

    def keep(self, **fields):
        return self.client.post(self.at("new_chamber"), KEPT | fields)

    def test_it_is_kept_by_its_inside_its_fans_and_its_plate(self):
        self.keep(
            long_m="3600",
            deep_m="2400",
            high_m="2400",
            fans_m3_h="8000",
            plate_litres="30",
            plate_air="27/60",
            works_from_c="12",
            works_to_c="45",
        )
        chamber = Chamber.objects.get()
        self.assertAlmostEqual(chamber.load_m3, 4.17, delta=0.01)
        core = chamber.core
        self.assertAlmostEqual(core.litres_a_day, 39.6, delta=0.3)
        self.assertAlmostEqual(core.air_speed_m_s, 0.92, delta=0.01)
        self.assertEqual((core.compressor_from_c, core.compressor_to_c), (12.0, 45.0))
        page = text_of(self.client.get(self.at("chamber", chamber.pk)))
        self.assertIn("By its inside it holds about 4.17 m³ of 4/4 on stickers of 19 mm", page)
        self.assertIn("for 4.17 m³, 50°C at most", text_of(self.client.get(self.at("kiln"))))

    def test_what_was_kept_before_plates_were_asked_for_stays_what_it_was(self):
        chamber = Chamber.objects.create(
            workshop=self.owner.workshop, name="Old", kind="dehumidifier", load_m3=1.0, hottest_c=50.0, heat_kw=2.0, litres_a_day=24.0
        )
        page = self.client.get(self.at("chamber", chamber.pk))
        fields = page.context["form"].initial
        sent = {name: "" if value is None else value for name, value in fields.items()} | {"baffles": "on", "once": "b"}
        sent["hottest_c"], sent["load_m3"] = "50", "1"
        self.client.post(self.at("chamber", chamber.pk), {name: value for name, value in sent.items() if value not in (False,)})
        before, after = chamber.core, Chamber.objects.get().core
        self.assertAlmostEqual(before.litres_a_day, after.litres_a_day, delta=0.5)

    def test_what_cannot_be_is_said_beside_its_field(self):
        for fields, said in (
            ({}, "what it measures inside"),
            ({"long_m": "3600"}, "Type all three"),
            ({"load_m3": "2", "fans_m3_h": "4000"}, "type that too"),
            ({"load_m3": "2", "works_from_c": "40", "works_to_c": "20"}, "changed about"),
            ({"load_m3": "2", "plate_litres": "0.1"}, "0.1 l is out of range"),
        ):
            with self.subTest(said):
                self.assertContains(self.keep(**fields, name="Shed kiln"), said, status_code=422)
        self.assertFalse(Chamber.objects.exists())

    def test_routes_offer_it_with_the_days_of_the_kilns_plan_for_the_quantity_asked(self):
        self.keep(load_m3="2.5", plate_litres="55", plate_air="38/60")
        make_lot(self.owner, 10)
        asked = {
            "species_key": "white oak",
            "thickness_m": "28.6",
            "start": "70",
            "target": "8",
            "where": "four_seasons",
            "start_date": "2027-04-15",
        }
        roads = self.client.get(self.at("ask_roads"), asked | {"volume_m3": "2.5"})
        chamber = Chamber.objects.get()
        own = next(item for item in roads.context["worked"].routes if item.route.key == f"chamber-{chamber.pk}")
        load = self.client.get(
            self.at("ask_kiln"),
            {
                "species_key": "white oak",
                "thickness_m": "28.6",
                "volume_m3": "2.5",
                "start": "70",
                "wanted": "8",
                "chamber": f"chamber-{chamber.pk}",
                "where": "four_seasons",
                "start_date": "2027-04-15",
            },
        )
        self.assertEqual(own.answer.days, load.context["worked"].planned.ran.days)
        words = text_of(roads)
        self.assertIn("Shed kiln from the saw", words)
        self.assertIn("Yard, then Shed kiln", words)
        more = text_of(self.client.get(self.at("ask_roads"), asked | {"volume_m3": "7"}))
        self.assertIn("in 3 turns", more)
        self.assertNotIn("in 3 turns", words)
