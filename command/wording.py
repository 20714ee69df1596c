"""Whether any text that people read has a phrase that ``docs/words.md`` lists as not written."""

import ast
import re
from collections.abc import Iterator
from functools import lru_cache
from pathlib import Path

from command.machine import ROOT

LIST = ROOT / "docs" / "words.md"
HEADING = "## What is not written"
ROW = re.compile(r"^\| (?P<refused>[^|]+) \| (?P<instead>[^|]+) \|$", re.MULTILINE)
# What a template says to the machine, and what stands in tags: only the texts of these attributes are read.
TO_THE_MACHINE = re.compile(r"\{%.*?%\}|\{#.*?#\}|\{\{.*?\}\}|<(?:script|style)\b.*?</(?:script|style)>", re.DOTALL)
TAG = re.compile(r"<[^>]*>")
# What programs call things, and addresses.
NAME = re.compile(r"[a-z0-9_./<>:?=-]*")
SPOKEN = re.compile(r'\b(?:aria-label|title|alt|placeholder|data-head|value)="([^"]*)"')


def refused() -> dict[str, str]:
    """The phrases that are not written, each with what is."""
    table = LIST.read_text(encoding="utf-8").partition(HEADING)[2]
    found = {row["refused"].strip().lower(): row["instead"].strip() for row in ROW.finditer(table)}
    return {phrase: instead for phrase, instead in found.items() if phrase not in ("not", "---")}


def lacking() -> str:
    """Every such phrase, a line each; empty where there is none."""
    phrases, lines = refused(), []
    for folder in ("calm_heron", "wood"):
        for path in sorted((ROOT / folder).rglob("*")):
            name = path.relative_to(ROOT).as_posix()
            if "/tests/" in name or "/migrations/" in name:
                continue
            for number, text in texts(path):
                lines += [f"{name}:{number}: “{phrase}”, say “{phrases[phrase]}”" for phrase in found_in(text)]
    return "\n".join(lines)


def found_in(text: str) -> list[str]:
    """The phrases that are not written and yet stand in a text."""
    return [it[0].lower() for it in _pattern().finditer(text)]


@lru_cache(1)
def _pattern() -> re.Pattern[str]:
    longest_first = sorted(map(re.escape, refused()), key=len, reverse=True)
    return re.compile(r"\b(" + "|".join(longest_first) + r")\b", re.IGNORECASE)


def texts(path: Path) -> Iterator[tuple[int, str]]:
    """What a file says to people, with the line where it begins."""
    if path.suffix == ".py":
        yield from of_code(path.read_text(encoding="utf-8"))
    elif path.suffix in (".html", ".txt", ".svg"):
        yield from of_template(path.read_text(encoding="utf-8"))


def of_template(source: str) -> Iterator[tuple[int, str]]:
    """The words between the tags of a template and in the attributes that are read out.

    >>> list(of_template('<p title="Its name">It is <b>dry</b>.{% if x %} Wet.{% endif %}</p>'))
    [(1, 'Its name'), (1, 'It is dry. Wet.')]
    """
    plain = TO_THE_MACHINE.sub(lambda it: "\n" * it[0].count("\n"), source)
    for found in SPOKEN.finditer(plain):
        yield plain.count("\n", 0, found.start()) + 1, found[1]
    for number, line in enumerate(TAG.sub(lambda it: "\n" * it[0].count("\n"), plain).split("\n"), 1):
        if line.strip():
            yield number, " ".join(line.split())


def of_code(source: str) -> Iterator[tuple[int, str]]:
    """The texts of a module but its docstrings; of one that is put together, what stands in it between the values.

    >>> list(of_code('def f(x):\\n    "What it does."\\n    return f"It is {x} wide"'))
    [(3, 'It is … wide')]
    """
    tree = ast.parse(source)
    left_out = {id(node.value) for node in ast.walk(tree) if isinstance(node, ast.Expr) and isinstance(node.value, ast.Constant)}
    for node in ast.walk(tree):
        if isinstance(node, ast.Constant) and isinstance(node.value, str) and NAME.fullmatch(node.value):
            continue
        if isinstance(node, ast.JoinedStr) and id(node) not in left_out:
            left_out |= {id(part) for part in ast.walk(node) if part is not node}
            yield node.lineno, "".join(str(part.value) if isinstance(part, ast.Constant) else "…" for part in node.values)
        elif isinstance(node, ast.Constant) and isinstance(node.value, str) and id(node) not in left_out:
            yield node.lineno, node.value
