"""Instruments at the door that measure air and wood, what stands of them on their pages, and what is wrong with them on Today."""

from collections.abc import Sequence
from datetime import UTC, datetime, timedelta

from django.test import TestCase
from django.urls import reverse
from django.utils import timezone

from calm_heron.air.models import AirReading
from calm_heron.devices import actions
from calm_heron.devices.models import Device
from calm_heron.measuring import instruments
from calm_heron.measuring import queries as measuring
from calm_heron.measuring.models import PieceMoisture
from calm_heron.stock.actions import set_status
from calm_heron.stock.models import Status
from calm_heron.workshops.models import Role
from tests.at_the_door import DoorHere
from tests.factories import make_board, make_hygrometer, make_lot, make_member, make_meter, make_owner, make_place, read_board
from tests.pages import text_of


def ago(**span: float) -> datetime:
    return datetime.now(UTC).replace(microsecond=0) - timedelta(**span)


class Case(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.owner = make_owner()
        cls.place = make_place(cls.owner, name="Bench room", rh_tolerance=0.03)
        cls.board = make_board(cls.owner, tag="oak-a", place=cls.place)
        cls.meter = make_meter(cls.owner, name="Pins", kind="pin", species_set_on_meter=False, temperature_set_on_meter=False)

    def let_in(self, name: str, kind: str, about: int, instrument: int | None = None) -> DoorHere:
        return DoorHere(self.client, actions.let_in(self.owner, name, kind, about, instrument)[1])

    def told(self, door: DoorHere, *readings: dict) -> list[str]:
        """Why each was refused; empty where it was kept."""
        answer = door.tell(
            datetime.now(UTC), [{"key": f"k{n}", "at": ago(minutes=5).isoformat(), **item} for n, item in enumerate(readings)]
        )
        why = {item["key"]: item["why"] for item in answer["refused"]}
        return [why.get(f"k{n}", "") for n in range(len(readings))]

    def today(self) -> str:
        self.client.force_login(self.owner.person)
        return text_of(self.client.get(reverse("today", args=[self.owner.workshop.slug])))


class Air(Case):
    def test_it_is_kept_as_a_typed_reading_is_and_corrected_by_its_instruments_checks(self):
        checked = make_hygrometer(self.owner, offset=0.04, checked_at=timezone.now() - timedelta(days=3))
        door = self.let_in("Wall", "air", self.place.pk, checked.pk)
        self.assertEqual(door.ask(), {"place": "Bench room"})
        self.assertEqual(self.told(door, {"temperature_c": 20.0, "humidity": 0.5}), [""])
        kept = AirReading.objects.get()
        self.assertEqual((kept.told_by, kept.by, kept.shown_humidity), ("Wall", self.owner.person, 0.5))
        self.assertAlmostEqual(kept.relative_humidity, 0.54)
        # The wood handbook's table: 20°C and 55% is 10.1%, 50% is 9.3%.
        self.assertAlmostEqual(kept.emc, 0.0995, delta=0.001)

    def test_what_cannot_be_kept_says_why(self):
        door = self.let_in("Wall", "air", self.place.pk)
        said = self.told(
            door,
            {"temperature_c": 20.0},
            {"humidity": 0.5},
            {"temperature_c": 75.0, "humidity": 0.1},
            {"temperature_c": 20.0, "humidity": 1.4},
        )
        self.assertIn("no temperature, or no humidity", said[0])
        self.assertIn("no temperature, or no humidity", said[1])
        self.assertIn("never gets so hot", said[2])
        self.assertIn("humidity", said[3])
        self.assertFalse(AirReading.objects.exists())
        self.place.retired = True
        self.place.save()
        self.assertEqual(self.told(door, {"temperature_c": 20.0, "humidity": 0.5}), ["its place is retired"])

    def test_it_speaks_for_who_let_it_in_and_for_an_owner_once_they_are_gone(self):
        maker = make_member(self.owner, Role.MAKER)
        _, token = actions.let_in(maker, "Wall", "air", self.place.pk)
        door = DoorHere(self.client, token)
        self.told(door, {"temperature_c": 20.0, "humidity": 0.5})
        maker.delete()
        door.tell(datetime.now(UTC), [{"key": "later", "at": ago(minutes=1).isoformat(), "temperature_c": 20.0, "humidity": 0.5}])
        self.assertEqual([row.by for row in AirReading.objects.order_by("at")], [maker.person, self.owner.person])

    def test_its_readings_name_it_on_the_page_of_the_place(self):
        self.told(self.let_in("Wall", "air", self.place.pk), {"temperature_c": 20.0, "humidity": 0.5})
        self.client.force_login(self.owner.person)
        page = self.client.get(reverse("place", args=[self.owner.workshop.slug, self.place.pk]))
        self.assertContains(page, ", Wall")


class Wood(Case):
    def test_a_meter_in_the_hand_names_the_piece_and_its_reading_is_corrected(self):
        door = self.let_in("Pins", "pin", self.meter.pk)
        self.assertEqual(self.told(door, {"tag": "OAK-A", "shown": 0.124, "wood_temperature_c": 20.0}), [""])
        reading = self.board.readings.get()
        self.assertEqual((reading.told_by, reading.stays, reading.raw), ("Pins", False, 0.124))
        self.assertNotEqual(reading.moisture, reading.raw)
        self.assertEqual(PieceMoisture.objects.get(piece=self.board).count, 1)

    def test_what_cannot_be_kept_says_why(self):
        door = self.let_in("Pins", "pin", self.meter.pk)
        said = self.told(door, {"shown": 0.12}, {"tag": "elm-99", "shown": 0.12}, {"tag": "oak-a"}, {"tag": "oak-a", "shown": 3.0})
        self.assertEqual(said[:3], ["it names no tag", "no piece here has this tag", "it does not say what it shows"])
        self.assertIn("no meter shows that", said[3])
        set_status(self.owner, [(self.board.pk, self.board.version)], Status.USED)
        again = [{"key": "sold", "at": ago(minutes=1).isoformat(), "tag": "oak-a", "shown": 0.12}]
        self.assertIn("not in stock any more", door.tell(datetime.now(UTC), again)["refused"][0]["why"])
        instruments.retire_meter(self.owner, self.meter, True)
        self.assertIn("its meter is retired", door.tell(datetime.now(UTC), again)["refused"][0]["why"])
        self.assertFalse(self.board.readings.exists())

    def test_a_probes_spot_counts_once_however_often_it_is_read(self):
        door = self.let_in("Probe", "probe", self.board.pk, self.meter.pk)
        self.assertEqual(door.ask(), {"tag": "oak-a"})
        hours = [
            {"key": f"h{h}", "at": ago(hours=h, minutes=1).isoformat(), "shown": 0.15 + h / 1000, "layer": "core"} for h in range(8, -1, -1)
        ]
        self.assertEqual(door.tell(datetime.now(UTC), hours)["kept"], 9)
        by_hand = make_meter(self.owner)
        read_board(self.owner, self.board, 11.0, 11.4, 11.2, meter=by_hand)
        kept = PieceMoisture.objects.get(piece=self.board)
        # Its core beside three spots outside.
        self.assertEqual((kept.count, kept.inside), (3, True))
        self.assertEqual(len(measuring.sitting(self.board)), 4)
        newest = next(reading for reading in measuring.sitting(self.board) if reading.stays)
        self.assertEqual(newest.raw, 0.15)

    def test_a_probe_is_heard_once_an_hour(self):
        door = self.let_in("Probe", "probe", self.board.pk, self.meter.pk)
        often = [{"key": f"m{m}", "at": ago(minutes=m).isoformat(), "shown": 0.15} for m in range(120, -1, -10)]
        answer = door.tell(datetime.now(UTC), often)
        self.assertEqual((answer["kept"], len(answer["refused"])), (3, 10))
        self.assertIn("within the hour", answer["refused"][0]["why"])

    def test_where_a_probe_stays_is_asked_by_tag(self):
        self.client.force_login(self.owner.person)
        lot = make_lot(self.owner)
        address = reverse("new_device", args=[self.owner.workshop.slug, "probe"])
        for tag, said in (("elm-99", "No piece here has the tag"), (lot.tag, "A probe sits in one board"), ("", "")):
            answer = self.client.post(address, {"name": "Probe", "tag": tag, "instrument": self.meter.pk})
            self.assertEqual(answer.status_code, 422)
            self.assertIn(said, text_of(answer))
        answer = self.client.post(address, {"name": "Probe", "tag": " OAK-A ", "instrument": self.meter.pk})
        self.assertTrue(answer.context["token"])
        self.assertEqual(Device.objects.get().about, self.board.pk)
        self.assertIn("probe --board oak-a=white_oak:30:18", text_of(answer))


class OnToday(Case):
    def heard(self, name: str, hours: Sequence[int], **fixed: float) -> None:
        door = self.let_in(name, "air", self.place.pk)
        for some in (list(hours)[i : i + 400] for i in range(0, len(hours), 400)):
            shown = lambda n: fixed or {"temperature_c": 20 + n % 7 / 10, "humidity": 0.5 + n % 5 / 100}  # noqa: E731
            door.tell(datetime.now(UTC), [{"key": f"h{n}", "at": ago(hours=n, minutes=1).isoformat(), **shown(n)} for n in some])

    def test_silent_stuck_and_gap_stand_there_and_a_healthy_one_does_not(self):
        self.heard("Well", range(48, -1, -1))
        self.heard("Gone", range(72, 20, -1))
        self.heard("Stuck", range(48, -1, -1), temperature_c=20.0, humidity=0.5)
        self.heard("Back", [*range(60, 40, -1), *range(20, -1, -1)])
        said = self.today()
        self.assertIn("Gone has said nothing for 21 hours", said)
        self.assertIn("Stuck has shown the very same since", said)
        self.assertIn("Back left a gap of 21 hours from", said)
        self.assertNotIn("Well ", said)

    def test_one_that_was_never_heard_stands_there_after_a_day(self):
        self.let_in("New", "air", self.place.pk)
        self.assertNotIn("never spoken", self.today())
        Device.objects.update(made_at=timezone.now() - timedelta(days=2))
        self.assertIn("New was connected and has never spoken", self.today())
