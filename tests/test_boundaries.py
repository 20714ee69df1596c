"""Rules of the house that no linter knows."""

import ast
import re
import unittest
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
TEMPLATES = sorted((ROOT / "calm_heron").glob("*/templates/**/*.html"))
MODULES = sorted((ROOT / "calm_heron").glob("**/*.py"))


class Boundaries(unittest.TestCase):
    def test_actions_never_see_a_request(self):
        for file in MODULES:
            if file.name == "actions.py":
                tree = ast.parse(file.read_text(encoding="utf-8"))
                imported = {name.name for node in ast.walk(tree) if isinstance(node, ast.Import) for name in node.names}
                imported |= {node.module or "" for node in ast.walk(tree) if isinstance(node, ast.ImportFrom)}
                arguments = {argument.arg for node in ast.walk(tree) if isinstance(node, ast.FunctionDef) for argument in node.args.args}
                with self.subTest(file.parent.name):
                    self.assertFalse({name for name in imported if name.startswith(("django.http", "django.shortcuts"))})
                    self.assertNotIn("request", arguments)

    def test_templates_have_no_inline_scripts_handlers_or_styles(self):
        for file in TEMPLATES:
            text = file.read_text(encoding="utf-8")
            with self.subTest(str(file.relative_to(ROOT))):
                self.assertNotRegex(text, r"\sstyle=")
                self.assertNotRegex(text, r"\son(abort|blur|change|click|error|focus|input|key\w+|load|mouse\w+|pointer\w+|submit)=")
                self.assertFalse(re.findall(r"<script(?![^>]*\ssrc=)", text))
                self.assertNotIn("|safe", text)

    def test_templates_and_modules_stay_small(self):
        for file in TEMPLATES:
            self.assertLessEqual(len(file.read_text(encoding="utf-8").splitlines()), 120, file.name)
        for file in [*MODULES, *(ROOT / "wood").glob("*.py")]:
            self.assertLessEqual(len(file.read_text(encoding="utf-8").splitlines()), 420, file.name)

    def test_no_unnamed_drawers_for_code(self):
        for folder in ("utils", "helpers", "core", "common"):
            self.assertFalse(list((ROOT / "calm_heron").glob(f"**/{folder}*")) + list((ROOT / "wood").glob(f"{folder}*")))

    def test_public_functions_of_the_core_are_documented(self):
        for file in sorted((ROOT / "wood").glob("*.py")):
            tree = ast.parse(file.read_text(encoding="utf-8"))
            for node in tree.body:
                if isinstance(node, ast.FunctionDef | ast.ClassDef) and not node.name.startswith("_"):
                    with self.subTest(f"{file.name}: {node.name}"):
                        self.assertTrue(ast.get_docstring(node) or node.name == "State")
