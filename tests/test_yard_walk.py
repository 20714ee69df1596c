"""Histories of stacks and loads, step by step by chance, each step as a form would do it: every page of theirs renders after each, and says
of every lot what all others say."""

import random
import re
from datetime import timedelta

from django.test import TestCase
from django.urls import reverse
from django.utils import timezone

from calm_heron.kiln import actions as kiln
from calm_heron.kiln.kinds import Defect, Happened
from calm_heron.kiln.models import ChamberReading, Load, SampleWeight
from calm_heron.measuring.wood_now import wood_now
from calm_heron.stacks import actions as stacks
from calm_heron.stacks.kinds import StackHappened
from calm_heron.stacks.models import Stack, StackLot
from calm_heron.stock import actions as stock
from calm_heron.stock.models import LotPart, Piece, Status
from calm_heron.workshops.refusals import Refused
from calm_heron.workshops.spells import CHANGES
from calm_heron.workshops.versions import Overtaken
from tests.factories import make_aired_place, make_lot, make_owner, read_board
from tests.walks import far

WOODS = ("sugar_maple", "white_oak", "eastern_white_pine", "black_walnut", "balsa")
CHAMBER = {"load_m3": 3.0, "hottest_c": 60.0, "heat_kw": 3.0, "litres_a_day": 30.0}


class YardAndKiln(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.owner = make_owner()
        cls.shop = cls.owner.workshop
        cls.yard = make_aired_place(cls.owner, name="Yard", kind="yard", temperature_c=14.0, relative_humidity=0.72)
        cls.room = make_aired_place(cls.owner, name="Loft")
        cls.chambers = [
            kiln.keep_chamber(cls.owner, None, 0, name=kind, kind=kind, place=place, sprays=kind == "vented", **CHAMBER)
            for kind, place in (("dehumidifier", None), ("vented", None), ("room", cls.room))
        ]

    def setUp(self):
        self.client.force_login(self.owner.person)

    def test_every_page_renders_after_every_step(self):
        for seed in range(far(1, 60)):
            self.walk(random.Random(f"yard {seed}"), steps=far(10, 30), seed=seed)

    def walk(self, chance: random.Random, steps: int, seed: int) -> None:
        for _ in range(2):
            make_lot(self.owner, chance.randint(2, 80), chance.choice(WOODS), thickness_m=chance.choice((0.019, 0.027, 0.054)))
        for step in range(steps):
            act = chance.choice(self.STEPS)
            try:
                act(self, chance)
            except (Refused, Overtaken):
                continue
            with self.subTest(seed=seed, step=step, act=act.__name__):
                self.look()

    def lots(self) -> list[Piece]:
        return list(Piece.objects.of(self.shop).in_stock().filter(count__gt=1, lot=None).order_by("pk"))

    def some_lots(self, chance: random.Random) -> list[Piece]:
        lots = self.lots()
        return chance.sample(lots, min(len(lots), chance.randint(1, 3)))

    def build(self, chance: random.Random) -> None:
        built = {
            "width_m": chance.uniform(0.4, 3.0),
            "sticker_m": chance.choice((0.01, 0.019, 0.032)),
            "spacing_m": chance.uniform(0.2, 1.9),
            "clear_m": chance.uniform(0.0, 0.5),
            "cover": chance.choice(("roof", "shade", "tarp", "none")),
        }
        day = timezone.localdate() - timedelta(days=chance.randint(0, 400))
        stacks.build_stack(
            self.owner, self.some_lots(chance), chance.choice((self.yard, self.room)), day, chance.uniform(0.1, 1.2), **built
        )

    def take_down(self, chance: random.Random) -> None:
        stack = chance.choice(list(Stack.objects.of(self.shop).filter(standing=True)) or [None])
        if stack:
            self.client.post(self.at("take_down", stack.tag), {"version": stack.version, "once": f"{chance.random()}"})

    def stand_again(self, chance: random.Random) -> None:
        stack = chance.choice(list(Stack.objects.of(self.shop).filter(standing=False)) or [None])
        if stack:
            stacks.stand_again(self.owner, stack)

    def begin(self, chance: random.Random) -> None:
        began = timezone.now() - timedelta(days=chance.uniform(0, 40))
        lots = [(piece, chance.uniform(0.03, 1.2)) for piece in self.some_lots(chance)]
        kiln.begin_load(self.owner, lots, chance.choice(self.chambers), began, wanted=chance.uniform(0.05, 0.15))

    def running(self, chance: random.Random) -> Load | None:
        return chance.choice(list(Load.objects.of(self.shop).filter(ended_at=None)) or [None])

    def sample(self, chance: random.Random) -> None:
        load = self.running(chance)
        if load:
            piece = chance.choice([row.piece for row in load.lots.all()])
            moisture = chance.uniform(0.05, 1.0)
            sections = chance.choice(((), ((0.1 * (1 + moisture), None),), ((0.1 * (1 + moisture), 0.1), (0.2 * (1 + moisture), 0.2))))
            known = None if sections else moisture
            tag = f"S{chance.randrange(10_000)}"
            kiln.add_sample(self.owner, load, tag, piece, 2.0 * (1 + moisture), known, load.began_at, sections=sections)

    def weigh(self, chance: random.Random) -> None:
        load = self.running(chance)
        if load:
            masses = [(sample, (sample.dry_mass_kg or 2.0) * chance.uniform(1.0, 1.9)) for sample in load.samples.all()]
            kiln.weigh(self.owner, load, masses)

    def out_of_the_oven(self, chance: random.Random) -> None:
        load = self.running(chance)
        for sample in load.samples.filter(dry_mass_kg=None)[:1] if load else ():
            kiln.dry_sections(self.owner, sample, [section.wet_kg / chance.uniform(1.1, 2.0) for section in sample.sections.all()])

    def change_event(self, chance: random.Random) -> None:
        load = self.running(chance)
        event = chance.choice(list(load.events.all()) or [None]) if load else None
        if event:
            kiln.change_event(self.owner, load, event, chance.choice(list(CHANGES)))

    def rain(self, chance: random.Random) -> None:
        stack = chance.choice(list(Stack.objects.of(self.shop).filter(standing=True)) or [None])
        if stack:
            began = timezone.now() - timedelta(days=chance.uniform(0, 9))
            span = chance.choice(({"until": began + timedelta(days=chance.uniform(0, 20))}, {"goes_on": True}))
            stacks.note(self.owner, stack, chance.choice(StackHappened.values), "x", began, **span)

    def join(self, chance: random.Random) -> None:
        """A load that is written down in its middle."""
        began = timezone.now() - timedelta(days=chance.uniform(1, 40))
        lots = [(piece, chance.uniform(0.06, 0.4)) for piece in self.some_lots(chance)]
        kiln.begin_load(self.owner, lots, chance.choice(self.chambers), began, wanted=0.08, joined_at=timezone.now())

    def strike(self, chance: random.Random) -> None:
        weight = chance.choice(list(SampleWeight.objects.standing().filter(sample__load__ended_at=None)) or [None])
        if weight:
            kiln.strike_weight(self.owner, weight)

    def air(self, chance: random.Random) -> None:
        load = self.running(chance)
        if load:
            now = timezone.now()
            rows = [
                ChamberReading(
                    workshop=self.shop,
                    load=load,
                    at=now - timedelta(minutes=10 * number + chance.choice((0, 400))),
                    dry_bulb_c=chance.uniform(-10, 100),
                    humidity=chance.uniform(0, 1),
                    leaving_c=chance.choice((None, chance.uniform(-10, 90))),
                    fault=chance.choice(("", "", "no heat")),
                )
                for number in range(chance.randint(1, 12))
            ]
            kiln.keep_readings(rows)

    def happen(self, chance: random.Random) -> None:
        load = self.running(chance)
        if load:
            began = timezone.now() - timedelta(hours=chance.uniform(0, 30))
            span = chance.choice(({"until": began + timedelta(hours=chance.uniform(0, 40))}, {"goes_on": True}, {}))
            kiln.note(self.owner, load, chance.choice(Happened.values), "x", began, **span)
            kiln.find_degrade(self.owner, load, chance.choice(Defect.values), 2, 9, "at the end")

    def end(self, chance: random.Random) -> None:
        load = self.running(chance)
        if load:
            place = chance.choice(("", self.room.pk))
            self.client.post(self.at("end_load", load.tag), {"version": load.version, "once": f"{chance.random()}", "place": place})

    def again(self, chance: random.Random) -> None:
        load = chance.choice(list(Load.objects.of(self.shop).exclude(ended_at=None)) or [None])
        if load:
            kiln.run_again(self.owner, load)

    def read(self, chance: random.Random) -> None:
        lot = chance.choice(self.lots() or [None])
        if lot:
            board = chance.choice((lot, stock.add_sample(self.owner, lot, chance.choice(LotPart.values))))
            read_board(self.owner, board, chance.uniform(6, 40), at=timezone.now() - timedelta(days=chance.uniform(0, 30)))

    def use_up(self, chance: random.Random) -> None:
        lot = chance.choice(self.lots() or [None])
        if lot:
            stock.set_status(self.owner, [(lot.pk, lot.version)], chance.choice((Status.USED, Status.SCRAPPED)))

    def another(self, chance: random.Random) -> None:
        make_lot(self.owner, chance.randint(2, 80), chance.choice(WOODS), thickness_m=chance.choice((0.019, 0.027, 0.054)))

    STEPS = (
        build,
        take_down,
        stand_again,
        begin,
        begin,
        join,
        sample,
        sample,
        out_of_the_oven,
        change_event,
        rain,
        weigh,
        weigh,
        strike,
        air,
        happen,
        end,
        again,
        read,
        use_up,
        another,
    )

    def at(self, name: str, *args: object) -> str:
        return reverse(name, args=[self.shop.slug, *args])

    def look(self) -> None:
        """Every page of stacks and loads, of their lots, and those that show them."""
        addresses = [self.at(name) for name in ("today", "stacks", "kiln", "kiln_season", "kiln_record", "kiln_record_out", "stock")]
        addresses += [self.at("stack", stack.tag) for stack in Stack.objects.of(self.shop)]
        for load in Load.objects.of(self.shop):
            addresses += [self.at(name, load.tag) for name in ("load", "load_record", "load_weights_out")]
        now = wood_now(self.shop)
        for lot in Piece.objects.of(self.shop).filter(count__gt=1):
            page = self.client.get(self.at("piece", lot.tag))
            self.assertEqual(page.status_code, 200, lot.tag)
            if lot.pk in now and lot.status == Status.IN_STOCK:
                self.assertRegex(re.sub(r"[\s\xa0]+", " ", page.content.decode()), rf"About <strong>{now[lot.pk].moisture * 100:.0f}%")
            # In one stack or in one load, never in both.
            places = StackLot.objects.filter(piece=lot, standing=True).count() + lot.in_loads.filter(runs=True).count()
            self.assertLessEqual(places, 1, lot.tag)
        for address in addresses:
            self.assertEqual(self.client.get(address).status_code, 200, address)
