"""The shapes that every drawing is made of, what is remembered, and the ways back."""

import itertools
import threading
from dataclasses import dataclass

import numpy as np
from django.contrib.messages import get_messages
from django.contrib.messages.storage.cookie import CookieStorage
from django.http import HttpRequest
from django.test import RequestFactory, SimpleTestCase

from calm_heron.site import addresses, drawing, undo
from calm_heron.site.memory import Memory, RequestMemory, digest_of


class Shapes(SimpleTestCase):
    def test_a_scale_is_a_straight_line_through_its_ends(self):
        scale = drawing.Scale(0.05, 0.25, 400, 0)
        self.assertEqual((scale(0.05), scale(0.25)), (400, 0))
        self.assertAlmostEqual(scale(0.15), 200)
        self.assertAlmostEqual(scale(0.30), -100)

    def test_a_path_is_written_to_a_tenth(self):
        self.assertEqual(drawing.path([(0, 1), (2.06, 3)]), "M0.0 1.0L2.1 3.0")
        self.assertEqual(drawing.path([(0, 1), (2, 3)], closed=True), "M0.0 1.0L2.0 3.0Z")
        self.assertEqual(drawing.path([]), "")
        self.assertEqual(drawing.path([], closed=True), "")

    def test_an_area_goes_along_one_line_and_back_along_the_other(self):
        self.assertEqual(drawing.band([(0, 0), (1, 0)], [(0, 5), (1, 6)]), "M0.0 0.0L1.0 0.0L1.0 6.0L0.0 5.0Z")

    def test_labels_keep_apart_in_their_order_and_inside(self):
        for positions in ([50, 50, 50], [10, 12, 90, 91], [95, 96, 97, 98], [3, 1, 2], [50]):
            placed = drawing.spread_labels(positions, 10, 0, 100)
            order = sorted(range(len(positions)), key=lambda k: positions[k])
            with self.subTest(positions):
                for before, after in itertools.pairwise(order):
                    self.assertGreaterEqual(placed[after] - placed[before], 10 - 1e-9)
                self.assertLessEqual(max(placed), 100)

    def test_labels_that_are_apart_stay_where_they_are(self):
        self.assertEqual(drawing.spread_labels([10, 40, 70], 10, 0, 100), [10, 40, 70])

    def test_wet_wood_is_pressed_together_above_fibre_saturation(self):
        y = drawing.MoistureScale(0.05, 1.0, 0, 100)
        self.assertAlmostEqual(y(0.05), 100)
        self.assertAlmostEqual(y(1.0), 0)
        below, above = y(0.20) - y(0.30), y(0.80) - y(0.90)
        self.assertGreater(below, 3 * above)
        self.assertEqual(y(2.0), y(1.0))

    def test_dry_wood_is_drawn_true_to_the_top(self):
        y = drawing.MoistureScale(0.05, 0.20, 0, 100)
        self.assertAlmostEqual(y(0.20), 0)
        self.assertAlmostEqual(y(0.125), 50)

    def test_ticks_are_round_and_on_the_scale(self):
        for lowest, highest in ((0.05, 0.20), (0.06, 0.30), (0.05, 0.8), (0.10, 1.5)):
            y = drawing.MoistureScale(lowest, highest, 0, 100)
            for tick in drawing.moisture_ticks(lowest, highest, y):
                with self.subTest(f"{lowest} {highest} {tick.label}"):
                    self.assertAlmostEqual(tick.at, y(int(tick.label) / 100))
                    self.assertTrue(lowest <= int(tick.label) / 100 <= highest)
                    self.assertTrue(-1e-9 <= tick.at <= 100 + 1e-9)


@dataclass(frozen=True)
class Question:
    name: str
    values: np.ndarray
    further: tuple


@dataclass(frozen=True)
class OtherQuestion:
    name: str
    values: np.ndarray
    further: tuple


class Remembered(SimpleTestCase):
    def setUp(self):
        self.made = []

    def make(self, value):
        def do():
            self.made.append(value)
            return value

        return do

    def test_an_answer_is_made_once(self):
        memory = Memory(10)
        self.assertEqual([memory.get("a", self.make(1)), memory.get("a", self.make(2))], [1, 1])
        self.assertEqual(self.made, [1])

    def test_what_was_not_asked_for_longest_goes_first(self):
        memory = Memory(2)
        for key in ("a", "b", "a", "c", "a", "b"):
            memory.get(key, self.make(key))
        self.assertEqual(self.made, ["a", "b", "c", "b"])

    def test_nothing_is_remembered_of_what_failed(self):
        memory = Memory(2)

        def fail():
            raise ValueError

        with self.assertRaises(ValueError):
            memory.get("a", fail)
        self.assertEqual(memory.get("a", self.make(3)), 3)

    def test_none_is_an_answer_like_any_other(self):
        memory = Memory(2)
        memory.get("a", self.make(None))
        memory.get("a", self.make(None))
        self.assertEqual(len(self.made), 1)

    def test_forgetting_is_of_everything(self):
        memory = Memory(5)
        memory.get("a", self.make(1))
        memory.forget()
        memory.get("a", self.make(2))
        self.assertEqual(self.made, [1, 2])

    def test_many_threads_get_one_answer(self):
        memory, answers = Memory(5), []
        threads = [threading.Thread(target=lambda: answers.append(memory.get("a", lambda: 7))) for _ in range(8)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        self.assertEqual(answers, [7] * 8)

    def test_the_memory_of_a_request_ends_with_it(self):
        memory = RequestMemory()
        self.assertEqual([memory.get("a", self.make(1)), memory.get("a", self.make(2))], [1, 1])
        memory._at_a_request()
        self.assertEqual(memory.get("a", self.make(3)), 3)

    def test_a_key_says_everything_it_is_made_of(self):
        values = np.array([1.0, 2.0])
        base = digest_of(Question("a", values, (1, 2)))
        self.assertEqual(base, digest_of(Question("a", values.copy(), (1, 2))))
        others = [
            Question("b", values, (1, 2)),
            Question("a", values + 1e-12, (1, 2)),
            Question("a", values.astype(np.float32), (1, 2)),
            Question("a", values.reshape(1, 2), (1, 2)),
            Question("a", values, (1, (2,))),
            Question("a", values, (1, 2, 3)),
            Question("a", values, ("1", 2)),
            OtherQuestion("a", values, (1, 2)),
        ]
        keys = {base, *(digest_of(other) for other in others)}
        self.assertEqual(len(keys), 1 + len(others))

    def test_parts_do_not_run_into_each_other(self):
        self.assertNotEqual(digest_of(("ab", "c")), digest_of(("a", "bc")))
        self.assertNotEqual(digest_of(((1,), 2)), digest_of(((1, 2),)))
        self.assertNotEqual(digest_of((1, 23)), digest_of((12, 3)))


class WaysBack(SimpleTestCase):
    OURS = ("/w/shop/", "/w/shop/stock/?q=oak", "/")
    NOT_OURS = (
        "",
        "//elsewhere.example/",
        "https://elsewhere.example/",
        "javascript:alert(1)",
        "w/shop/",
        "/\\elsewhere.example",
        "/" + "a" * 3000,
    )

    def test_only_to_addresses_of_ours(self):
        make = RequestFactory()
        for address in self.OURS:
            self.assertEqual(addresses.back(make.post("/x/", {"back": address}), "/home/")["Location"], address)
            self.assertEqual(addresses.onward(make.get("/x/", {"next": address}), "/home/")["Location"], address)
        for address in self.NOT_OURS:
            with self.subTest(address[:30]):
                self.assertEqual(addresses.back(make.post("/x/", {"back": address}), "/home/")["Location"], "/home/")
                self.assertEqual(addresses.onward(make.get("/x/", {"next": address}), "/home/")["Location"], "/home/")

    def told(self, fields) -> tuple[str, object]:
        request = HttpRequest()
        request._messages = CookieStorage(request)
        undo.tell(request, "Struck out.", "/w/shop/readings/", fields)
        (message,) = get_messages(request)
        return message.message, undo.way_back(message.extra_tags)

    def test_a_notice_carries_its_way_back(self):
        text, way = self.told({"take_out": 7, "piece": ["a", "b"]})
        self.assertEqual(text, "Struck out.")
        self.assertEqual(way, ("/w/shop/readings/", [["take_out", "7"], ["piece", "a"], ["piece", "b"]]))

    def test_one_that_would_be_too_much_to_carry_has_none(self):
        text, way = self.told({"piece": [str(n) for n in range(undo.MOST_FIELDS + 1)]})
        self.assertEqual((text, way), ("Struck out.", None))

    def test_nonsense_is_no_way_back(self):
        for tags in ("", "{", "7", None, "[]", '["a"]'):
            with self.subTest(tags):
                self.assertIsNone(undo.way_back(tags))
