"""Stacks that are kept: built, changed, taken down, and how they are doing."""

from datetime import timedelta
from threading import Thread

from django.core.exceptions import PermissionDenied
from django.db import connection
from django.test import TestCase
from django.urls import reverse
from django.utils import timezone

from calm_heron.air.actions import retire_place
from calm_heron.stacks import actions, standing
from calm_heron.stacks.models import Stack, StackLot
from calm_heron.stock import actions as stock
from calm_heron.stock.models import LotPart
from calm_heron.workshops.models import Role
from calm_heron.workshops.refusals import Refused
from calm_heron.workshops.versions import Overtaken
from tests.cases import Committing
from tests.factories import make_aired_place, make_lot, make_member, make_owner, make_place, read_board
from tests.pages import text_of

BUILT = {"width_m": 1.2, "sticker_m": 0.019, "spacing_m": 0.4, "clear_m": 0.3}


class Standing(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.owner = make_owner()
        cls.yard = make_aired_place(cls.owner, name="Yard", temperature_c=14.0, relative_humidity=0.72)
        cls.lot = make_lot(cls.owner, 60)

    def setUp(self):
        self.client.force_login(self.owner.person)

    def at(self, name, *args):
        return reverse(name, args=[self.owner.workshop.slug, *args])

    def build(self, *lots, days: int = 60, **more) -> Stack:
        day = timezone.localdate() - timedelta(days=days)
        return actions.build_stack(self.owner, lots or [self.lot], self.yard, day, 0.60, **(BUILT | more))

    def test_a_stack_is_kept_with_its_lots_which_move_to_its_place(self):
        stack = self.build()
        self.lot.refresh_from_db()
        self.assertEqual((stack.tag, self.lot.place), ("stack-01", self.yard))
        page = text_of(self.client.get(self.at("log")))
        self.assertIn(f"stack-01 built of {self.lot.tag} in Yard", page)

    def test_a_lot_lies_in_one_stack_only_until_that_is_taken_down(self):
        first = self.build()
        with self.assertRaisesMessage(Refused, "is in stack-01 already"):
            self.build()
        actions.take_down(self.owner, first, first.version)
        self.assertEqual(self.build().tag, "stack-02")

    def test_dark_stickers_on_pale_wet_wood_are_told_of_a_kept_stack_as_of_a_planned_one(self):
        maple = make_lot(self.owner, 60, "sugar_maple")
        stack = self.build(maple, days=3, stickers_of="dark")
        page = text_of(self.client.get(self.at("stack", stack.tag)))
        self.assertIn("Stickers of oak or another dark wood mark pale wood", page)
        Stack.objects.filter(pk=stack.pk).update(stickers_of="own")
        self.assertNotIn("Stickers of oak", text_of(self.client.get(self.at("stack", stack.tag))))

    def test_what_cannot_be_built_is_refused(self):
        with self.assertRaises(Refused):
            actions.build_stack(self.owner, [], self.yard, timezone.localdate(), 0.6, **BUILT)
        stock.set_status(self.owner, [(self.lot.pk, self.lot.version)], "used")
        with self.assertRaisesMessage(Refused, "not in stock"):
            self.build()

    def test_the_second_of_two_who_change_it_is_told(self):
        stack = self.build()
        actions.change_stack(self.owner, stack, stack.version, turned="across")
        with self.assertRaises(Overtaken):
            actions.change_stack(self.owner, stack, stack.version, turned="along")
        stack.refresh_from_db()
        self.assertEqual(stack.turned, "across")

    def test_turning_covering_restacking_and_moving_are_events(self):
        stack, indoors = self.build(), make_place(self.owner, name="Barn")
        for changes in ({"turned": "across"}, {"cover": "tarp"}, {"sticker_m": 0.025}, {"place": indoors}):
            stack.refresh_from_db()
            actions.change_stack(self.owner, stack, stack.version, **changes)
        self.lot.refresh_from_db()
        self.assertEqual(self.lot.place, indoors)
        page = text_of(self.client.get(self.at("log")))
        for said in ("turned: the wind blows through the stickers", "under a tarpaulin", "restacked", "stack-01 moved to Barn"):
            self.assertIn(said, page)

    def test_edge_and_middle_dry_from_the_day_it_was_built(self):
        young, old = standing.now(self.build(days=10)), None
        actions.take_down(self.owner, young.stack, 1)
        old = standing.now(self.build(days=200))
        self.assertLess(old.progress.middle, young.progress.middle)
        for item in (young, old):
            self.assertLessEqual(item.progress.edge, item.progress.middle + 1e-9)
        page = self.client.get(self.at("stack", old.stack.tag))
        self.assertContains(page, "in the middle")
        self.assertIn("From edge to edge", text_of(page))

    def test_its_sample_boards_tell_where_they_lie(self):
        stack = self.build()
        deep = stock.add_sample(self.owner, self.lot, LotPart.DEEP)
        outer = stock.add_sample(self.owner, self.lot, LotPart.OUTER)
        read_board(self.owner, deep, 26.0, 25.5)
        read_board(self.owner, outer, 18.0, 18.5)
        read = {item.where: item.moisture for item in standing.now(stack).read}
        self.assertGreater(read["deep inside"], read["outside"])
        self.assertContains(self.client.get(self.at("stack", stack.tag)), "Deep inside")

    def test_the_slowest_lot_governs_and_each_is_told_by_itself(self):
        pine = make_lot(self.owner, 40, "eastern_white_pine", thickness_m=0.027)
        walnut = make_lot(self.owner, 40, "black_walnut", thickness_m=0.054)
        now = standing.now(self.build(pine, walnut, days=75))
        quick, slow = (next(lot for lot in now.lots if lot.piece == piece) for piece in (pine, walnut))
        self.assertTrue(quick.progress.is_ready)
        self.assertFalse(slow.progress.is_ready)
        self.assertEqual((now.slowest, now.is_ready, now.differ), (slow, False, True))
        page = text_of(self.client.get(self.at("stack", now.stack.tag)))
        self.assertIn(f"The slowest lot governs: {walnut.tag}", page)
        self.assertIn(f"about {quick.moisture * 100:.0f}% today", page)
        yard = text_of(self.client.get(self.at("stacks")))
        self.assertIn("None yet", yard)
        # In the question alone, not on the map.
        self.assertEqual(yard.count("ready to move"), 1)

    def test_a_kept_stack_is_warned_of_as_a_planned_one_is(self):
        out = make_aired_place(self.owner, name="Out", kind="yard", temperature_c=14.0, relative_humidity=0.72)
        bad = BUILT | {"spacing_m": 1.8, "clear_m": 0.0, "cover": "none"}
        wrong = actions.build_stack(self.owner, [self.lot], out, timezone.localdate(), 0.60, **bad)
        words = text_of(self.client.get(self.at("stack", wrong.tag)))
        for said in ("farther apart than practice", "Nothing keeps rain and sun off", "lowest courses stay damp"):
            self.assertIn(said, words)
        actions.take_down(self.owner, wrong, wrong.version)
        right = self.build()
        self.assertEqual([item.breach.value for item in standing.now(right).breaches if item.breach.value != "unshaded"], [])

    def test_in_a_heated_room_nobody_is_told_of_roofs_and_shade(self):
        room = make_aired_place(self.owner, name="Loft", kind="room")
        stack = actions.build_stack(self.owner, [self.lot], room, timezone.localdate(), 0.60, **(BUILT | {"cover": "none"}))
        self.assertEqual({item.breach.value for item in standing.now(stack).breaches} & {"no_roof", "unshaded"}, set())

    def test_what_its_boards_read_goes_before_the_model(self):
        stack = self.build(days=200)
        self.assertTrue(standing.now(stack).is_ready)
        for part, moisture in ((LotPart.DEEP, 26.0), (LotPart.OUTER, 18.0)):
            read_board(self.owner, stock.add_sample(self.owner, self.lot, part), moisture, moisture)
        now = standing.now(stack)
        self.assertFalse(now.is_ready)
        self.assertGreater(now.read_across[1] - now.read_across[0], 0.05)
        self.assertIn("leave it standing", text_of(self.client.get(self.at("stack", stack.tag))))

    def test_a_lot_read_since_is_carried_on_by_the_model(self):
        stack = self.build(days=60)
        read_board(self.owner, self.lot, 24.0, at=timezone.now() - timedelta(days=20))
        (lot,) = standing.now(stack).lots
        self.assertTrue(lot.was_read)
        self.assertLess(lot.moisture, 0.24)

    def test_its_own_readings_teach_its_pace(self):
        stack = self.build(days=90)
        usual = standing.now(stack).progress
        self.assertIsNone(usual.pace)
        for days, moisture in ((60, 26.5), (40, 25.6), (20, 24.8), (1, 24.0)):
            read_board(self.owner, self.lot, moisture, at=timezone.now() - timedelta(days=days))
        slow = standing.now(stack).progress
        self.assertLess(slow.pace, 0.8)
        self.assertGreater(slow.middle_in_days, usual.middle_in_days)
        self.assertContains(self.client.get(self.at("stack", stack.tag)), "By its readings")

    def test_it_is_built_changed_and_taken_down_through_its_pages(self):
        self.assertContains(self.client.get(self.at("stacks")), "No stack yet")
        page = self.client.get(f"{self.at('build_stack')}?lots={self.lot.tag}")
        self.assertContains(page, f'value="{self.lot.tag}"')
        sent = {
            "lots": self.lot.tag,
            "place": self.yard.pk,
            "width_m": "1200",
            "sticker_m": "19",
            "spacing_m": "400",
            "clear_m": "300",
            "turned": "all",
            "cover": "roof",
            "x_m": "3000",
            "y_m": "1000",
            "once": "a",
        }
        for _ in range(2):
            self.assertRedirects(self.client.post(self.at("build_stack"), sent), self.at("stack", "stack-01"))
        self.assertEqual(Stack.objects.count(), 1)
        self.assertContains(self.client.get(self.at("stacks")), "stack-01")
        changed = {name: value for name, value in sent.items() if name != "lots"} | {"turned": "along", "version": "1", "once": "b"}
        self.client.post(self.at("change_stack", "stack-01"), changed)
        self.assertEqual(Stack.objects.get().turned, "along")
        again = self.client.post(self.at("change_stack", "stack-01"), changed | {"turned": "across", "once": "c"})
        self.assertContains(again, "Someone else", status_code=422)
        self.client.post(self.at("take_down", "stack-01"), {"version": "2", "once": "d"})
        self.assertFalse(StackLot.objects.filter(standing=True).exists())
        # It stays in the list's second half.
        self.assertRegex(self.client.get(self.at("stacks")).content.decode(), r"(?s)Taken down.*stack-01")

    def test_what_is_wrong_is_told_and_nothing_typed_is_lost(self):
        sent = {
            "lots": f"{self.lot.tag} nothing-01",
            "place": self.yard.pk,
            "width_m": "1200",
            "sticker_m": "0",
            "spacing_m": "400",
            "clear_m": "300",
            "turned": "all",
            "cover": "roof",
            "note": "behind the barn",
            "once": "a",
        }
        page = self.client.post(self.at("build_stack"), sent)
        self.assertContains(page, "behind the barn", status_code=422)
        page = self.client.post(self.at("build_stack"), sent | {"sticker_m": "19"})
        self.assertContains(page, "has the tag nothing-01", status_code=422)
        self.assertEqual(Stack.objects.count(), 0)
        self.assertEqual(self.client.get(self.at("stack", "stack-99")).status_code, 404)

    def test_a_viewer_looks_and_builds_nothing_and_a_place_with_a_stack_stays(self):
        self.build()
        viewer = make_member(self.owner, Role.VIEWER)
        self.client.force_login(viewer.person)
        self.assertNotContains(self.client.get(self.at("stack", "stack-01")), "It was taken down")
        self.assertEqual(self.client.get(self.at("build_stack")).status_code, 403)
        stack = Stack.objects.get()
        with self.assertRaises(PermissionDenied):
            actions.take_down(viewer, stack, stack.version)
        with self.assertRaises(Refused):
            retire_place(self.owner, self.yard, self.yard.version)


class AtOnce(Committing):
    def test_two_who_build_of_one_lot_build_one_stack(self):
        owner = make_owner()
        place, lot = make_aired_place(owner), make_lot(owner, 30)
        lines = []

        def build() -> None:
            try:
                actions.build_stack(owner, [lot], place, timezone.localdate(), 0.6, **BUILT)
            except Refused as refused:
                lines.append(str(refused))
            finally:
                connection.close()

        both = [Thread(target=build) for _ in range(2)]
        for side in both:
            side.start()
        for item in both:
            item.join()
        self.assertEqual((Stack.objects.count(), len(lines)), (1, 1))
