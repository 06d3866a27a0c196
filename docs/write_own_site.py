"""Writes docs/own-site.md: from nothing to a site of one's own in ten steps, with what each command prints.

python -m docs.write_own_site
"""

from __future__ import annotations

import io
import os
import shlex
import tempfile
from contextlib import chdir, redirect_stderr, redirect_stdout
from pathlib import Path
from typing import NamedTuple
from unittest import mock

from davlo.cli.main import status_of

FOLDER = "my-site"
HEAD = """# A site of your own

Made by `python -m docs.write_own_site`, which takes these steps and prints what comes back. At the end you have pages
in a tree, a branch with a sidebar of its own, a footer that nothing overrides, and editors for one branch.
"""


class Step(NamedTuple):
    """A step: its heading, what to do, what to change in davlo.yaml (old and new text), what to type."""

    heading: str
    told: str
    edits: tuple[tuple[str, str], ...]
    commands: tuple[str, ...]


STEPS = (
    Step(
        "Begin",
        "The command writes a folder with a few pages and decisions. Nothing else changes on your machine.",
        (),
        (f"davlo start {FOLDER}",),
    ),
    Step(
        "Look at the tree",
        f"From here on you are in the folder: `cd {FOLDER}`. Each row of `pages.csv` is a page; its path says where.",
        (),
        ("davlo tree --columns sidebar.right,band.footer",),
    ),
    Step(
        "Say what the site is called",
        "Open `davlo.yaml` in an editor and change the name and the address.",
        (
            ("name: My website", "name: Thistlemouth Museum"),
            ("https://www.my-website.example", "https://thistlemouth.example"),
        ),
        ("davlo show /about",),
    ),
    Step(
        "Add your pages",
        "One by one, as here; or many from a table: `davlo page add --from FILE.csv`. Without `--write` the command\n"
        "shows what it would do.",
        (),
        ("davlo page add /about/history --title 'Our history' --write --brief",),
    ),
    Step(
        "Give a branch a sidebar of its own",
        "A sidebar is declared once under `sidebars` and named by settings. In `davlo.yaml` take the `# ` away in\n"
        "front of `about: {blocks: …}` and of `sidebar.right: about`.",
        (("# about: {blocks", "about: {blocks"), ("# sidebar.right: about", "sidebar.right: about")),
        ("davlo tree /about --columns sidebar.right",),
    ),
    Step(
        "Ask why",
        "Each value says where it came from, and what it overrode.",
        (),
        ("davlo why /about/team sidebar.right",),
    ),
    Step(
        "Lock the footer",
        "Take the `# ` away in front of `lock:`, and the line above it out. Now try to override it: the lock wins,\n"
        "and the command says so.",
        (("  band.footer: footer-main\n", ""), ("# lock: {band.footer", "lock: {band.footer")),
        ("davlo set band.footer=none --below /news --brief",),
    ),
    Step(
        "See who may edit",
        "`people` names the people and their groups; `access` says who may do what. The group `about-editors` may\n"
        "edit `/about` and what is below it.",
        (),
        ("davlo access /about --as second.editor",),
    ),
    Step(
        "Change a default, and see the reach first",
        "Nothing is written until you say `--write`; `davlo undo --write` takes it back.",
        (),
        ("davlo set menu.show=no --below /news",),
    ),
    Step("Check", "The check reports what contradicts what. Run it after every change.", (), ("davlo check",)),
)
TAIL = """## What next

- [Every key and column](files.md), with an example.
- An editor that knows JSON Schema completes `davlo.yaml` as you type. `davlo schema --site . --to davlo.schema.json`
  adds your own names to what it knows.
- Your own list of pages: save it as `pages.csv`, with a column `path`.
"""


def asked(command: str) -> str:
    """What a command prints, and what it notes."""
    out, note = io.StringIO(), io.StringIO()
    with redirect_stdout(out), redirect_stderr(note):
        status_of(shlex.split(command)[1:])
    return (out.getvalue() + note.getvalue()).rstrip()


def page() -> str:
    """The whole page; the steps are taken in a folder that is gone afterwards."""
    told = [HEAD]
    with tempfile.TemporaryDirectory() as name, chdir(name), mock.patch.dict(os.environ, COLUMNS="100"):
        for number, step in enumerate(STEPS, 1):
            if number == 2:
                os.chdir(FOLDER)
            for old, new in step.edits:
                file = Path("davlo.yaml")
                text = file.read_text(encoding="utf-8")
                assert text.count(old) == 1, old
                file.write_text(text.replace(old, new), encoding="utf-8")
            blocks = [f"```console\n$ {command}\n{asked(command)}\n```" for command in step.commands]
            told.append("\n\n".join([f"## {number}. {step.heading}", step.told, *blocks]) + "\n")
    return "\n".join([*told, TAIL])


if __name__ == "__main__":
    text = page()
    (Path(__file__).parent / "own-site.md").write_text(text, encoding="utf-8")
