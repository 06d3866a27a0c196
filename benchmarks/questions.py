"""What people ask before they change anything, against `show` in the same run, as whole processes.

    python -m benchmarks.questions [--pages 1000000] [--rounds 3]

In each round every command runs once, in turn. The ratios are of medians.
"""

from __future__ import annotations

import argparse
import os
import shutil
from pathlib import Path

from benchmarks.outputs import measured_in
from benchmarks.results import FOLDER, keep
from benchmarks.size import site_of

LIST = "every-branch: {kind: branch-links, under: /, levels: 3}"
VIEWPOINTS = "viewpoints: [{page: /, as: visitor}, {page: /, as: person-1}, {page: /, as: crew}]\n"
QUESTIONS = {
    "list": ["list"],
    "list, a kind": ["list", "sidebars"],
    "list, rules": ["list", "rules"],
    "list, settings": ["list", "settings"],
    "list, one setting": ["list", "sidebar.right"],
    "list, one sidebar": ["list", "side-3"],
    "list --fits": ["list", "--fits", "right"],
    "list --unused": ["list", "--unused"],
    "menus": ["menus"],
    "menus, a list": ["menus", "every-branch"],
    "access --changes": ["access", "--changes"],
    "access --as": ["access", "--as", "crew"],
    "access --new": ["access", "--new", "/new", "--by", "person-1"],
    "show --new": ["show", "--new", "/new", "--detail", "made_with=bench"],
    "tree --having": ["tree", "--having", "sidebar.right=side-3"],
    "tree --not-shown": ["tree", "--not-shown", "sidebar.right"],
    "viewpoints": ["show", "--viewpoints"],
    "picture --map": ["picture", "--map", "may:edit", "--to", str(FOLDER / "may.png")],
    "picture --try": ["picture", "/", "--try", "sidebar.right=side-1,side-2", "--to", str(FOLDER / "try.png")],
}
PRINTS_ALL = {"tree --exceptions": ["tree", "--exceptions"], "menus --all": ["menus", "--all"]}
"""Commands that must look at every exception, or print every link: they have no goal."""


def asked_site(pages: int) -> Path:
    """The made site with a list of links and viewpoints."""
    plain, site = site_of(pages), FOLDER / f"asked-{pages}"
    if not (site / "davlo.yaml").exists():
        site.mkdir(parents=True, exist_ok=True)
        text = (plain / "davlo.yaml").read_text(encoding="utf-8")
        text = text.replace("blocks: {news:", f"blocks: {{{LIST}, news:", 1)
        for name in ("pages.csv", "values.csv", "stamps.csv"):
            if (plain / name).exists():
                try:
                    os.link(plain / name, site / name)
                except OSError:
                    shutil.copy(plain / name, site / name)
        (site / "davlo.yaml").write_text(text + VIEWPOINTS, encoding="utf-8")
    return site


def main(pages: int, rounds: int) -> None:
    """Measure, and print a line for each question."""
    commands = {"show": ["show", "/"], **QUESTIONS, **PRINTS_ALL}
    found = measured_in(asked_site(pages), commands, rounds)
    for name in commands:
        ratio = found[name].seconds / found["show"].seconds
        goal = "no goal" if name in PRINTS_ALL else "goal: 1.5"
        print(f"{name:20} {found[name].seconds:6.2f} s {ratio:5.2f} x show ({goal})", flush=True)
        keep(f"{name} against show, {pages:,} pages", {"x time": ratio})


if __name__ == "__main__":
    parser = argparse.ArgumentParser(description="Measure what people ask against show.")
    parser.add_argument("--pages", type=int, default=1_000_000)
    parser.add_argument("--rounds", type=int, default=3)
    told = parser.parse_args()
    main(told.pages, told.rounds)
