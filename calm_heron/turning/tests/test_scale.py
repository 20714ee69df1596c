"""A scale at the door for devices: what of its weights is kept, in whose name, and why the others are not."""

from datetime import timedelta

from django.test import TestCase
from django.utils import timezone

from calm_heron.devices import actions as devices
from calm_heron.measuring.models import Reading
from calm_heron.turning import actions, receiver
from calm_heron.workshops.models import Membership, Role
from tests.factories import make_bowl, make_owner


class AtTheDoor(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.owner = make_owner()
        cls.bowl = make_bowl(cls.owner)
        cls.device, _ = devices.let_in(cls.owner, "scale", "scale", 0)

    def tell(self, tag: str = "", mass_kg: float | None = 1.5, days_ago: float = 0.1) -> str:
        at = timezone.now() - timedelta(days=days_ago)
        (said,) = receiver.take(self.device, [({"tag": tag or self.bowl.tag, "mass_kg": mass_kg}, at)])
        return said

    def kept(self) -> int:
        return Reading.objects.filter(piece=self.bowl, wet_mass_kg__isnull=False).count()

    def test_a_weight_is_kept_in_the_name_of_the_owner(self):
        self.assertEqual(self.tell(), "")
        self.assertEqual(Reading.objects.get(piece=self.bowl).by, self.owner.person)

    def test_several_come_in_one_go_and_each_is_told_of_by_itself(self):
        now = timezone.now()
        said = receiver.take(
            self.device,
            [
                ({"tag": self.bowl.tag, "mass_kg": 1.5}, now - timedelta(days=9)),
                ({"tag": "nobody-99", "mass_kg": 1.5}, now - timedelta(days=8)),
                ({"tag": self.bowl.tag, "mass_kg": 1.45}, now - timedelta(days=7)),
            ],
        )
        self.assertEqual([bool(why) for why in said], [False, True, False])
        self.assertEqual(self.kept(), 2)

    def test_what_names_nothing_is_refused(self):
        self.assertIn("names no tag", self.tell(mass_kg=None))
        (said,) = receiver.take(self.device, [({"tag": "", "mass_kg": 1.0}, timezone.now())])
        self.assertIn("names no tag", said)
        self.assertEqual(self.kept(), 0)

    def test_a_weight_that_no_bowl_has_is_refused(self):
        for mass in (1e-6, 19_000.0):
            self.assertEqual(self.tell(mass_kg=mass), "no bowl weighs that")

    def test_a_tag_that_is_none_or_means_several(self):
        self.assertIn("no bowl on the shelf has this tag", self.tell(tag="walnut-77"))
        make_bowl(self.owner)
        self.assertIn("several bowls", self.tell(tag=self.bowl.tag.rsplit("-", 1)[0]))

    def test_a_slip_is_refused_for_nobody_stands_there_to_be_asked(self):
        for days_ago, mass in ((30, 1.60), (20, 1.50), (10, 1.43)):
            self.assertEqual(self.tell(mass_kg=mass, days_ago=days_ago), "")
        self.assertNotEqual(self.tell(mass_kg=14.0), "")
        self.assertEqual(self.kept(), 3)

    def test_a_bowl_that_is_gone_takes_no_weight(self):
        self.bowl.status = "sold"
        self.bowl.save()
        self.assertNotEqual(self.tell(), "")

    def test_without_an_owner_nothing_is_kept(self):
        Membership.objects.filter(pk=self.owner.pk).update(role=Role.VIEWER)
        self.assertEqual(self.tell(), "this workshop has no owner")

    def test_it_is_told_what_to_weigh(self):
        self.assertEqual(receiver.says(self.device), {"weigh": [self.bowl.tag]})
        actions.weigh(self.owner, self.bowl, 1.5, timezone.now())
        self.assertNotIn(self.bowl.tag, receiver.says(self.device)["weigh"])

    def test_it_speaks_for_the_whole_shelf(self):
        self.assertEqual(receiver.offers(self.owner.workshop), [(0, "the shelf of rough bowls")])
