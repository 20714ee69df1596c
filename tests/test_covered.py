"""The shares of ``./heron check --coverage``: counted by line and branch, and what is short is named with the files that lack most."""

import contextlib
import io
import unittest

from command import covered


def file(lines: int, of_lines: int, branches: int = 0, of_branches: int = 0) -> dict:
    counts = {"covered_lines": lines, "num_statements": of_lines, "covered_branches": branches, "num_branches": of_branches}
    return {"summary": counts}


class Judged(unittest.TestCase):
    def judged(self, folder: str, least: float, files: dict) -> tuple[str, list[str]]:
        with contextlib.redirect_stdout(io.StringIO()) as said:
            lacking = covered.judged(folder, least, files)
        return said.getvalue(), lacking

    def test_what_is_whole_lacks_nothing(self):
        said, lacking = self.judged("wood", 0.95, {"wood/a.py": file(20, 20, 4, 4)})
        self.assertEqual(lacking, [])
        self.assertIn("100.0%", said)

    def test_branches_count_as_lines_do(self):
        _, lacking = self.judged("wood", 0.95, {"wood/a.py": file(20, 20, 0, 4)})
        self.assertIn("83.3%", lacking[0])

    def test_what_lacks_most_is_named_first_and_what_lacks_nothing_is_not(self):
        files = {"wood/a.py": file(10, 20), "wood/b.py": file(5, 30), "wood/c.py": file(9, 9)}
        (said,) = self.judged("wood", 0.95, files)[1]
        self.assertLess(said.index("wood/b.py (25)"), said.index("wood/a.py (10)"))
        self.assertNotIn("wood/c.py", said)

    def test_another_folder_is_none_of_its_business(self):
        self.assertEqual(self.judged("wood", 0.95, {"wood/a.py": file(9, 9), "calm_heron/b.py": file(0, 90)})[1], [])

    def test_nothing_at_all_is_not_a_fault(self):
        self.assertEqual(self.judged("wood", 0.95, {})[1], [])

    def test_the_core_is_held_higher_than_the_apps(self):
        self.assertGreater(covered.LEAST["wood"], covered.LEAST["calm_heron"])
