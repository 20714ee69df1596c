"""What the documents say of the project is so: what it is built with, the files they name, and the pictures they show."""

import re
import subprocess
import unittest

from command.machine import ROOT

DOCUMENTS = [*(ROOT / name for name in ("README.md", "CONTRIBUTING.md", "THIRD-PARTY.md")), *sorted((ROOT / "docs").glob("*.md"))]
PICTURES = ROOT / "docs" / "screenshots"
RECIPES = sorted((ROOT / "docs" / "recipes").glob("*.diff"))


def packages(lock: str) -> set[str]:
    return set(re.findall(r"^([A-Za-z0-9_.-]+)==", (ROOT / lock).read_text(encoding="utf-8"), re.M))


class Documents(unittest.TestCase):
    def test_every_package_that_is_installed_to_run_is_named_with_its_licence(self):
        said = (ROOT / "THIRD-PARTY.md").read_text(encoding="utf-8").lower()
        self.assertEqual({name for name in packages("requirements.lock") if name.lower() not in said}, set())

    def test_so_is_every_package_that_tests_and_checks_ask_for(self):
        said = (ROOT / "THIRD-PARTY.md").read_text(encoding="utf-8").lower()
        self.assertEqual({name for name in packages("requirements-dev.in") if name.lower() not in said}, set())

    def test_every_file_they_name_is_there(self):
        for document in DOCUMENTS:
            text = document.read_text(encoding="utf-8")
            named = set(re.findall(r"(?<!/)\b(?:calm_heron|wood|command|tests|simulators)/[\w/]+\.(?:py|html|css|js|csv|md|sh)\b", text))
            missing = {name for name in named if not (ROOT / name).exists()}
            with self.subTest(document.name):
                self.assertEqual(missing, set())

    def test_every_recipe_still_applies_and_is_linked_from_where_it_is_told(self):
        told = (ROOT / "CONTRIBUTING.md").read_text(encoding="utf-8")
        self.assertEqual(set(re.findall(r"docs/recipes/([\w-]+\.diff)\)", told)), {file.name for file in RECIPES})
        for recipe in RECIPES:
            with self.subTest(recipe.name):
                applied = subprocess.run(["git", "apply", "--check", str(recipe)], cwd=ROOT, capture_output=True, text=True, check=False)
                self.assertEqual(applied.stderr, "")

    def test_every_picture_is_linked_from_the_readme_and_every_link_has_its_picture(self):
        readme = (ROOT / "README.md").read_text(encoding="utf-8")
        self.assertEqual(set(re.findall(r"docs/screenshots/([\w-]+\.png)", readme)), {file.name for file in PICTURES.glob("*.png")})

    def test_links_between_them_lead_somewhere(self):
        for document in DOCUMENTS:
            for target in re.findall(r"\]\((?!https?:|#|mailto:)([^)#]+)", document.read_text(encoding="utf-8")):
                with self.subTest(f"{document.name}: {target}"):
                    self.assertTrue((document.parent / target).exists())

    def test_every_name_that_the_glossary_gives_is_a_name_of_the_code(self):
        modules = [*(ROOT / "wood").rglob("*.py"), *(ROOT / "calm_heron").rglob("*.py")]
        words = set(re.findall(r"\w+", " ".join(file.read_text(encoding="utf-8") + " " + file.name for file in modules)))
        words |= {part for file in modules for part in file.parts}
        for line in (ROOT / "docs" / "glossary.md").read_text(encoding="utf-8").splitlines()[4:]:
            *_, in_the_code, _, _ = line.split("|")
            for name in re.findall(r"`([^`]+)`", in_the_code):
                with self.subTest(name):
                    self.assertLessEqual(set(re.findall(r"\w+", name)), words)
