"""The readers of texts and drawings that tests use are tried themselves: what they must catch, and what they must let pass."""

import unittest

from calm_heron.questions.presentation import Cell, Folded, Heading, Lead, Pairs, Presentation, Risk, Row, Says, Steps, Table
from tests.presented import labels, sentences, strays
from tests.sentences import faults


class Faults(unittest.TestCase):
    def test_what_can_be_read_passes(self):
        for text in (
            "It is at 9.2%, 0.9 points below. Read it again.",
            "Is it ready?",
            "−1.5 mm, +3 mm: that is its swing.",
            "None of these readings can be used.",
            "5/4 × 8 in × 8 ft, of white oak.",
            "0.5 to −0.25 points.",
            "",
        ):
            with self.subTest(text):
                self.assertEqual(faults(text), [])

    def test_traces_of_values_are_caught(self):
        for text in (
            "It is at None %.",
            "Ready in nan days.",
            "It takes inf days.",
            "Is it True.",
            "At {moisture}%.",
            "It lies −0 mm off.",
        ):
            with self.subTest(text):
                self.assertTrue(faults(text))

    def test_words_that_were_left_out_leave_a_gap_that_is_caught(self):
        for text in ("It waits for .", "At  9%.", "Oak, , and pine.", "Yard () is dry.", "It ends here.. Then more."):
            with self.subTest(text):
                self.assertTrue(faults(text))

    def test_a_sentence_begins_large_and_ends(self):
        self.assertEqual(faults("it is dry."), ["begins small"])
        self.assertEqual(faults("It is dry"), ["has no end"])


class Presented(unittest.TestCase):
    ANSWER = Presentation(
        Lead("28 weeks", "24 to 33"),
        "It dries.",
        [
            Says("Read it."),
            Heading("Then"),
            Steps(["Stack it.", "Seal it."]),
            Risk("Stain", "likely, 1.2", "It is warm.", "Sticker it."),
            Table([Row("Yard", [Cell("28", "weeks")])], ["", "Time"], "By route"),
            Folded("Working", ["By the field."], [("Pace", "as usual")], Table([Row("a", ["b"])])),
            Pairs([("Wood", "oak")], "The slip"),
        ],
    )

    def test_every_sentence_is_found(self):
        found = ["It dries.", "Read it.", "Stack it.", "Seal it.", "It is warm.", "Sticker it.", "By the field."]
        self.assertEqual(list(sentences(self.ANSWER)), found)

    def test_every_label_is_found(self):
        found = [text for text in labels(self.ANSWER) if text]
        for text in ("28 weeks", "24 to 33", "Then", "Stain", "likely, 1.2", "By route", "Time", "Yard", "28", "weeks", "Working", "Pace"):
            self.assertIn(text, found)
        for text in ("as usual", "a", "b", "The slip", "Wood", "oak"):
            self.assertIn(text, found)


class Strays(unittest.TestCase):
    def drawing(self, inside: str) -> str:
        return f'<svg class="drawing" viewBox="0 0 100 50">{inside}</svg>'

    def test_what_lies_in_its_frame_passes(self):
        for inside in ('<text x="3" y="40">a</text>', '<path d="M0.0 1.0L100.0 50.0Z"/>', '<rect x="0" y="0" width="100%"/>', ""):
            self.assertEqual(strays(self.drawing(inside)), [], inside)

    def test_what_lies_far_outside_is_caught(self):
        for inside in ('<text x="400" y="10">a</text>', '<circle cx="5" cy="-300" r="2"/>', '<path d="M0 0L900 10"/>'):
            self.assertTrue(strays(self.drawing(inside)), inside)

    def test_what_is_no_place_is_caught(self):
        for inside in ('<text x="None" y="10">a</text>', '<path d="MnanL1 1"/>', '<circle cx="nan" cy="3" r="2"/>', '<path d="M0 inf"/>'):
            self.assertTrue(strays(self.drawing(inside)), inside)

    def test_what_is_moved_as_a_group_lies_elsewhere_than_it_says(self):
        self.assertEqual(strays(self.drawing('<g transform="translate(-400 0)"><text x="450" y="10">a</text></g>')), [])

    def test_each_drawing_has_its_own_frame(self):
        two = self.drawing('<text x="90" y="10">a</text>') + '<svg viewBox="0 0 10 10"><text x="90" y="1">b</text></svg>'
        self.assertEqual(strays(two), ["90"])
