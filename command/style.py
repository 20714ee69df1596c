"""``./heron style``: compile the style sheet. Only developers need it; the compiled one is committed."""

import argparse
import shutil
import subprocess
from pathlib import Path

from command.machine import ROOT
from command.trouble import Trouble

SOURCE = ROOT / "calm_heron" / "site" / "style" / "calm-heron.css"
COMPILED = ROOT / "calm_heron" / "site" / "static" / "site" / "calm-heron.css"


def run(options: argparse.Namespace) -> int:
    compile_to(COMPILED)
    return 0


def compile_to(target: Path) -> None:
    """Compile the style source, installing the pinned compiler first if it is not there."""
    npm = shutil.which("npm")
    if not npm:
        raise Trouble("Compiling the style sheet needs Node.js and npm: install Debian's packages nodejs and npm, then try again.")
    if not (ROOT / "node_modules" / ".bin" / "tailwindcss").exists():
        subprocess.run([npm, "ci", "--ignore-scripts", "--no-audit", "--no-fund", "--loglevel=error"], cwd=ROOT, check=True)
    done = subprocess.run(
        [str(ROOT / "node_modules" / ".bin" / "tailwindcss"), "-i", str(SOURCE), "-o", str(target), "--minify"],
        cwd=ROOT,
        capture_output=True,
        text=True,
    )
    if done.returncode:
        raise Trouble(f"The style sheet does not compile:\n{done.stderr[-2000:]}")
