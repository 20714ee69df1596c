"""What is said of stacks: every rule that is broken, every rule of stickers, and how far apart edges and middle are."""

from django.test import SimpleTestCase

from calm_heron.stacks import words
from tests.sentences import Sentences
from wood.stacks.breaches import Breach, FoundBreach
from wood.units import INCH, METRIC, in_system

BOTH = (INCH, METRIC)


class BrokenRules(Sentences, SimpleTestCase):
    def test_every_breach_says_what_comes_of_it_in_both_systems(self):
        said = set()
        for breach in Breach:
            for system in BOTH:
                self.assert_readable(words.breach(FoundBreach(breach, (0.4, 1.2)), system))
            said.add(words.breach(FoundBreach(breach), METRIC))
        self.assertEqual(len(said), len(Breach))

    def test_sizes_are_the_readers(self):
        for breach in (Breach.TOO_LOW, Breach.CHIMNEY, Breach.CLOSE_TO_NEXT):
            metric, inch = (words.breach(FoundBreach(breach), system) for system in (METRIC, INCH))
            with self.subTest(breach):
                self.assertNotEqual(metric, inch)
                self.assertNotRegex(inch, r"\d (?:mm|cm|m)\b")
                self.assertNotRegex(metric, r"\d (?:in|ft)\b")

    def test_places_that_are_marked_are_counted(self):
        self.assertIn("2 lines", words.breach(FoundBreach(Breach.NOT_OVER_A_BEARER, (0.4, 1.2)), METRIC))

    def test_ways_to_build_it_otherwise_can_be_read_in_both(self):
        for text in words.OTHERWISE.values():
            for system in BOTH:
                self.assert_clean(in_system(text, system))

    def test_every_rule_of_stickers_has_its_words(self):
        self.assert_clean(*words.RULES.values())
        self.assertEqual(len(set(words.RULES.values())), len(words.RULES))
