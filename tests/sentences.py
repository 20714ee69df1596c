"""What no text of the application may have in it, whatever it says."""

import re

# Traces of a value that was never meant to be read, and of a word that was left out.
TRACES = re.compile(
    r"\b(None(?! of)|nan|inf|True|False|NaN|Infinity)\b|\{|\}|<[A-Za-z_.]+ object|  |\.\.(?!\.)|,,| ,| \.(?!\d)|\(\)|(?<!\w)[−-]0\b(?!\.)"
)


def faults(text: str) -> list[str]:
    """What is wrong with a sentence or several; empty where they can be read.

    >>> faults("It is at 9.2%, 0.9 points below. Read it again.")
    []
    >>> faults("it is at None %")
    ['“None” in it', 'begins small', 'has no end']
    """
    wrong = [f"“{trace[0]}” in it" for trace in TRACES.finditer(text)]
    if text[:1].isalpha() and text[:1].islower():
        wrong.append("begins small")
    if text.rstrip()[-1:] not in tuple(".?!…") and text:
        wrong.append("has no end")
    return wrong


class Sentences:
    """For tests that read texts: each is a sentence, or several."""

    def assert_readable(self, *texts: str) -> None:
        for text in texts:
            with self.subTest(text):  # type: ignore[attr-defined]
                self.assertEqual(faults(text), [])  # type: ignore[attr-defined]

    def assert_clean(self, *texts: str) -> None:
        """Of words that are no sentences: labels, figures."""
        for text in texts:
            with self.subTest(text):  # type: ignore[attr-defined]
                self.assertIsNone(TRACES.search(text))  # type: ignore[attr-defined]
