"""Rules of the house that no linter knows."""

import ast
import re
import tomllib
import unittest
from pathlib import Path

from django.apps import apps

ROOT = Path(__file__).resolve().parent.parent
CONTRACTS = tomllib.loads((ROOT / "pyproject.toml").read_text(encoding="utf-8"))["tool"]["importlinter"]["contracts"]
# How high each app stands, as import-linter is told; those on one height know nothing of each other.
HEIGHT = {name: height for height, names in enumerate(reversed(CONTRACTS[1]["layers"])) for name in names.split(" | ")}
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

    def test_templates_can_be_read(self):
        for file in TEMPLATES:
            text = file.read_text(encoding="utf-8")
            with self.subTest(file.name):
                self.assertLessEqual(max(map(len, text.splitlines()), default=0), 160)
                self.assertIsNone(re.search(r'class="[^"]*!\w', text), "a component of the style source, not a utility that must win")

    def test_percentages_are_written_by_one_module(self):
        for file in MODULES:
            if "tests" not in file.parts and file.name != "numbers.py":
                self.assertIsNone(re.search(r"\* ?100:", file.read_text(encoding="utf-8")), file)

    def test_templates_and_modules_stay_small(self):
        for file in TEMPLATES:
            self.assertLessEqual(len(file.read_text(encoding="utf-8").splitlines()), 120, file.name)
        for file in [*MODULES, *(ROOT / "wood").rglob("*.py")]:
            # What is compiled has an argument a line.
            most = 600 if file.name == "kernel.py" else 480
            self.assertLessEqual(len(file.read_text(encoding="utf-8").splitlines()), most, file.name)

    def test_no_two_public_classes_share_a_name(self):
        where: dict[str, list[str]] = {}
        for file in MODULES:
            if not {"tests", "migrations"} & set(file.parts):
                for node in ast.parse(file.read_text(encoding="utf-8")).body:
                    if isinstance(node, ast.ClassDef) and not node.name.startswith("_") and node.name != "Config":
                        where.setdefault(node.name, []).append(str(file.relative_to(ROOT)))
        self.assertEqual({name: files for name, files in where.items() if len(files) > 1}, {})

    def test_no_unnamed_drawers_for_code(self):
        for folder in ("utils", "helpers", "core", "common"):
            self.assertFalse(list((ROOT / "calm_heron").glob(f"**/{folder}*")) + list((ROOT / "wood").glob(f"{folder}*")))

    def test_public_functions_of_the_core_are_documented(self):
        for file in sorted((ROOT / "wood").rglob("*.py")):
            tree = ast.parse(file.read_text(encoding="utf-8"))
            for node in tree.body:
                if isinstance(node, ast.FunctionDef | ast.ClassDef) and not node.name.startswith("_"):
                    with self.subTest(f"{file.name}: {node.name}"):
                        self.assertTrue(ast.get_docstring(node) or node.name == "State")

    def test_templates_do_not_climb_either(self):
        libraries = {file.stem: file.parent.parent.name for file in MODULES if file.parent.name == "templatetags"}
        for file in TEMPLATES:
            app, text = app_of(file), file.read_text(encoding="utf-8")
            used = [name.split("/")[0] for name in re.findall(r"""{% (?:include|extends) ["']([^"']+)["']""", text)]
            used += [libraries[name] for names in re.findall(r"{% load ([\w ]+?) %}", text) for name in names.split() if name in libraries]
            for other in {*used} - {"django"}:
                with self.subTest(str(file.relative_to(ROOT))):
                    self.assertTrue(other == app or HEIGHT[other] < HEIGHT[app], f"{app} reaches up to {other}")

    def test_queries_and_templates_follow_no_relation_upwards(self):
        """A row that hangs on another is known to the app it belongs to, and to those above."""
        for app, accessor, owner in relations_from_above():
            follows = re.compile(rf"""["']{accessor}["']|\b{accessor}__\w+""")
            shown = re.compile(rf"\b(?:piece|one|row|place|workshop|lot|board)\.{accessor}\b")
            below = [file for file in [*MODULES, *TEMPLATES] if HEIGHT[app] <= HEIGHT.get(app_of(file), -1) < HEIGHT[owner]]
            for file in [file for file in below if "tests" not in file.parts]:
                pattern = shown if file.suffix == ".html" else follows
                with self.subTest(f"{file.relative_to(ROOT)} follows {accessor} of {owner}"):
                    self.assertIsNone(pattern.search(file.read_text(encoding="utf-8")))


def app_of(file: Path) -> str:
    return file.relative_to(ROOT / "calm_heron").parts[0]


def relations_from_above() -> list[tuple[str, str, str]]:
    """Of each of our models that others hang on: its app, the name it knows them by, and their app, which is above it."""
    results = []
    for model in apps.get_models():
        for relation in model._meta.related_objects:
            app, owner = model._meta.app_label, relation.related_model._meta.app_label
            if HEIGHT.get(owner, -1) > HEIGHT.get(app, len(HEIGHT)) and relation.related_name not in (None, "+"):
                results.append((app, relation.related_name, owner))
    return results
