"""The check of docstrings can fail: each thing that it asks for is missed where it is missing."""

import ast
import doctest
import unittest

from command import docstrings, wording


def said_of(source: str) -> list[str]:
    """What the check says of the only function of a module."""
    module = ast.parse(source)
    (function,) = docstrings.public(module)
    return list(docstrings._lacks(function, ast.get_docstring(function) or "", docstrings.raisers(module)))


class Docstrings(unittest.TestCase):
    def test_a_function_without_one(self):
        self.assertEqual(said_of("def level(moisture): return moisture"), ["has no docstring"])

    def test_a_quantity_without_a_unit(self):
        for text in ("How wet it is, 0…1.", "The usual moisture.", "Method.", "As wanted."):
            with self.subTest(text):
                self.assertIn("says no unit", said_of(f'def level(moisture):\n    """{text}"""'))

    def test_a_quantity_with_its_unit(self):
        for text in ("Moisture as a fraction.", "In percent.", "A length in metres.", "In days.", "Degrees of the rings.", "Of 30°C."):
            with self.subTest(text):
                self.assertNotIn("says no unit", said_of(f'def level(moisture):\n    """{text}"""'))

    def test_no_quantity_needs_no_unit(self):
        self.assertEqual(said_of('def name(species):\n    """What it is called."""'), [])

    def test_what_it_raises(self):
        raising = 'def level(key):\n    """{}"""\n    raise ValueError(key)'
        self.assertIn("does not say what it raises", said_of(raising.format("By its key.")))
        self.assertEqual(said_of(raising.format("By its key. Raises: ValueError.")), [])

    def test_a_range_that_is_checked_raises_too(self):
        checking = 'def level(moisture):\n    """A fraction.{}"""\n    check_range("moisture", moisture, 0, 1)'
        self.assertIn("does not say what it raises", said_of(checking.format("")))
        self.assertEqual(said_of(checking.format(" Raises: OutOfRange.")), [])

    def test_a_source_is_a_name_and_not_a_habit(self):
        for words in ("usual", "as ever", "0…1", "well known", "a rule"):
            self.assertIsNone(docstrings.SOURCE.search(words), words)
        for words in ("Source: geometry", "Wood Handbook ch. 4", "our own judgement", "AH-188", "Siau (1984)"):
            self.assertIsNotNone(docstrings.SOURCE.search(words), words)

    def test_what_is_private_is_not_asked(self):
        module = ast.parse("def _level(moisture): return moisture\nclass Level: pass\nx = 1")
        self.assertEqual(list(docstrings.public(module)), [])

    def test_the_core_is_in_order(self):
        self.assertEqual(docstrings.lacking(), "")


class Words(unittest.TestCase):
    def test_every_refused_phrase_would_be_found_wherever_people_read_it(self):
        refused = wording.refused()
        self.assertGreater(len(refused), 40)
        for phrase, instead in refused.items():
            with self.subTest(phrase):
                said = f"So {phrase.upper()} here."
                self.assertIn(phrase, wording.found_in(said))
                self.assertNotIn(phrase, wording.found_in(f"So {instead} here."))

    def test_what_people_read_is_told_from_what_machines_do(self):
        self.assertEqual(doctest.testmod(wording).failed, 0)
        template = '<a href="{% url \'hurry\' %}" aria-label="Speak"><b>Read</b>{# not this #}</a>\n<script>nor = "this";</script>'
        self.assertEqual([text for _line, text in wording.of_template(template)], ["Speak", "Read"])
        code = 'def f():\n    """Not this."""\n    g("nor/this/", "But this", f"and {this:.1f} too")\n'
        self.assertEqual(sorted(text for _line, text in wording.of_code(code)), ["But this", "and … too"])
