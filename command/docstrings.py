"""Whether the public functions of the core say what ``CONTRIBUTING.md`` asks of them."""

import ast
import re
from collections.abc import Iterator

from command.machine import ROOT

# Words by which an argument shows a physical quantity, and how its unit may be told.
QUANTITY = re.compile(r"(_m|_c|_kg|_pa|_s|_m_s|_days|_hours|_deg|moisture|humidity|temperature|thickness|width|length|mass|speed)$")
UNIT = re.compile(
    r"fraction|percent|%|°|metre|\bm\b|mm|kg|kilogram|\bg\b|Pa\b|second|\bs\b|m/s|day|hour|year|degree|SI|share|MΩ|inch|unit|m³|m²|W/|s/m",
    re.I,
)
# What a function or its module names as where its model comes from.
SOURCE = re.compile(
    r"Source|FPL|Wood Handbook|AH-\d|ASHRAE|Greenspan|Pfaff|Simpson|Cochran|Huber|Hailwood|Siau|practice|our own|our"
    r" judgement|Hart|weather file"
)
# Tools of the core that hold no model of wood.
TOOLS = ("wood/errors.py", "wood/tables.py", "wood/units.py", "wood/written.py", "wood/arrays.py")
# The compiled inside and the science's own tables are explained where they are used.
LEFT_OUT = ("wood/drying/kernel.py", "wood/checks/", "wood/arrays.py")
LEAST_EXAMPLES = 0.5


def lacking() -> str:
    """What public functions of ``wood/`` lack, a line each; empty where nothing is."""
    lines, functions, examples = [], 0, 0
    for path in sorted((ROOT / "wood").rglob("*.py")):
        name = path.relative_to(ROOT).as_posix()
        if name.startswith(LEFT_OUT):
            continue
        module = ast.parse(path.read_text(encoding="utf-8"))
        raising, head = raisers(module), ast.get_docstring(module) or ""
        for function in public(module):
            docstring = ast.get_docstring(function) or ""
            where = f"{name}:{function.lineno}: {function.name}"
            functions += 1
            examples += ">>>" in docstring
            lines += [f"{where} {what}" for what in _lacks(function, docstring, raising)]
            if name not in TOOLS and not SOURCE.search(docstring + head):
                lines.append(f"{where} names no source, nor does its module")
    if examples < LEAST_EXAMPLES * functions:
        lines.append(f"{examples} of {functions} public functions have an example that runs; half of them should.")
    return "\n".join(lines)


def public(module: ast.Module) -> Iterator[ast.FunctionDef]:
    """The functions of a module that anybody may call."""
    return (node for node in module.body if isinstance(node, ast.FunctionDef) and not node.name.startswith("_"))


def raisers(module: ast.Module) -> set[str]:
    """Functions of a module that raise, or check a range and so may."""
    result = set()
    for node in module.body:
        if isinstance(node, ast.FunctionDef):
            raises = any(isinstance(inner, ast.Raise) and inner.exc is not None for inner in ast.walk(node))
            checks = any(
                isinstance(inner, ast.Call) and isinstance(inner.func, ast.Name) and inner.func.id == "check_range"
                for inner in ast.walk(node)
            )
            if raises or checks:
                result.add(node.name)
    return result


def _lacks(function: ast.FunctionDef, answer: str, raising: set[str]) -> Iterator[str]:
    if not answer:
        yield "has no docstring"
        return
    arguments = [arg.arg for arg in (*function.args.args, *function.args.kwonlyargs)]
    if any(QUANTITY.search(name) for name in arguments) and not UNIT.search(answer):
        yield "says no unit"
    if function.name in raising and "Raises" not in answer and "errors as" not in answer.lower() and "OutOfRange" not in answer:
        yield "does not say what it raises"
