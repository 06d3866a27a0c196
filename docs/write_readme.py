"""Runs the commands of README.md on the garden, and writes what they print beneath them: python -m docs.write_readme.

A test runs them again, so the README shows what the commands print.
"""

from __future__ import annotations

import os
import re
import subprocess
import sys
import tempfile
from pathlib import Path

from davlo.demo import write_demo, write_demo_estate

README = Path(__file__).parents[1] / "README.md"
ESTATE = Path(__file__).parent / "estate.md"
CONSOLE = re.compile(r"```console\n\$ (.+)\n((?:.*\n)*?)```")
BROKEN = re.compile(r"## When something is wrong\n(?:.*\n)*?```yaml\n((?:.*\n)*?)```")


def broken_site(folder: Path, text: str) -> None:
    """Write the faulty site of the README below a folder."""
    found = BROKEN.search(text)
    assert found, "the README shows a faulty davlo.yaml"
    (folder / "broken").mkdir(exist_ok=True)
    (folder / "broken" / "davlo.yaml").write_text(found[1], encoding="utf-8")
    (folder / "broken" / "pages.csv").write_text("path,title\n/,Home\n", encoding="utf-8")


def printed(typed: str, folder: Path) -> str:
    """What a command prints in a folder. What it prints on standard error has no place in the README."""
    path = f"{Path(sys.executable).parent}{os.pathsep}{os.environ['PATH']}"
    run = subprocess.run(typed, shell=True, cwd=folder, capture_output=True, text=True, env={"PATH": path})
    assert run.stderr == "", f"{typed}: {run.stderr}"
    return run.stdout.rstrip()


def page(text: str) -> str:
    """The README with what its commands print now."""
    with tempfile.TemporaryDirectory() as holder:
        folder = Path(holder) / "garden"
        write_demo(folder)
        broken_site(folder, text)
        return with_output(text, folder)


def estate_page(text: str) -> str:
    """docs/estate.md with what its commands print now."""
    with tempfile.TemporaryDirectory() as holder:
        write_demo_estate(Path(holder) / "gardens")
        return with_output(text, Path(holder) / "gardens")


def with_output(text: str, folder: Path) -> str:
    """A page with what its commands print in a folder."""
    return CONSOLE.sub(lambda one: f"```console\n$ {one[1]}\n{printed(one[1], folder)}\n```", text)


if __name__ == "__main__":
    README.write_text(page(README.read_text(encoding="utf-8")), encoding="utf-8")
    ESTATE.write_text(estate_page(ESTATE.read_text(encoding="utf-8")), encoding="utf-8")
