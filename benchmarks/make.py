"""Make a large site: a realistic tree with skewed fan-out, and decisions in every scope.

    python -m benchmarks.make --pages 100000 --seed 1 --to DIR

24 settings are in use: 12 types, 10,000 `below` statements, 200 rules, 50,000 statements on single pages in values.csv
and 5,000 pages entries in YAML, each fewer where there are fewer pages. The same seed gives the same files.
"""

from __future__ import annotations

import argparse
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

TYPES = (
    "page",
    "article",
    "event",
    "record",
    "listing",
    "landing",
    "notice",
    "gallery",
    "report",
    "form",
    "faq",
    "story",
)
BASES = {
    "article": "page",
    "event": "article",
    "record": "page",
    "landing": "page",
    "notice": "article",
    "story": "article",
}
LANGUAGES = ("en", "fr", "")
SIDEBARS = tuple(f"side-{i}" for i in range(20))
WORDS = ("garden", "rose", "stone", "river", "lamp", "orchard", "north", "paper", "glass", "winter", "moss", "lantern")
VALUES: dict[str, tuple[str, ...]] = {
    "heading.show": ("yes", "no"),
    "title.pattern": ("{title}", "{title} at {site}", "{branch}: {title}"),
    "title.limit": ("40", "60", "80"),
    "menu.show": ("yes", "no"),
    "menu.label": ("{title}", "To {title}"),
    "layout.name": ("plain", "wide", "open"),
    "layout.theme": ("day", "evening"),
    "layout.width": ("narrow", "medium", "full"),
    "sidebar.left": (*SIDEBARS, "none"),
    "sidebar.right": (*SIDEBARS, "none"),
    "look.right": ("calm", "bold"),
    "band.masthead": ("head-a", "head-b"),
    "band.footer": ("foot-a", "foot-b", "none"),
    "robots.index": ("yes", "no"),
    "sitemap.include": ("yes", "no"),
    "sitemap.priority": ("0.2", "0.4", "0.6", "0.8", "1"),
    "sitemap.changefreq": ("daily", "weekly", "monthly"),
    "page.owner": tuple(f"person-{i}" for i in range(40)),
    "promo": ("yes", "no"),
    "audio": tuple(f"track {i}" for i in range(200)),
    "topics": ("trees", "roses", "moss", "none"),
    "blocks.content": ("news", "map", "offer", "none"),
    "access.editors": ("view; edit", "view", "view; edit; create"),
    "access.crew": ("view", "view; edit", "none"),
}
"""The 24 settings in use, and what is said of them."""
LISTS = ("topics", "blocks.content", "access.editors", "access.crew")


def tree_of(pages: int, random: np.random.Generator) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """The parent of each page and its depth (0 the home page): depth 2 to 8, a few pages with very many children."""
    parent = np.full(pages, -1, dtype=np.int64)
    depth = np.zeros(pages, dtype=np.int64)
    shares = np.array([0.0005, 0.01, 0.08, 0.25, 0.3, 0.2, 0.1, 0.0595])
    edges = np.minimum(pages, 1 + np.round(np.cumsum(shares) * (pages - 1)).astype(np.int64))
    edges[-1] = pages
    start, above = 1, np.array([0])
    for level, stop in enumerate(edges.tolist(), start=1):
        level_pages = np.arange(start, stop)
        if len(level_pages) == 0:
            continue
        skewed = (random.random(len(level_pages)) ** 3 * len(above)).astype(np.int64)  # a hundredth has a fifth
        parent[level_pages] = above[skewed]
        depth[level_pages] = level
        start, above = stop, level_pages
    return parent, depth


def paths_of(parent: NDArray[np.int64], random: np.random.Generator) -> list[str]:
    """A path for each page, below its parent's."""
    paths = ["/"]
    words = random.integers(0, len(WORDS), len(parent)).tolist()
    for page, above in enumerate(parent.tolist()[1:], start=1):
        paths.append(f"{paths[above] if above else ''}/{WORDS[words[page]]}-{page}")
    return paths


def make(pages: int, seed: int, folder: Path) -> None:
    """Write the files of a site into a folder."""
    random = np.random.default_rng(seed)
    parent, _ = tree_of(pages, random)
    paths = paths_of(parent, random)
    folder.mkdir(parents=True, exist_ok=True)
    order = random.permutation(pages)
    kinds = random.choice(len(TYPES), pages, p=np.r_[0.4, 0.25, 0.1, np.full(9, 0.25 / 9)])
    languages = random.choice(3, pages, p=[0.7, 0.2, 0.1])
    drafts, marks, owned = random.random(pages) < 0.05, random.random(pages) < 0.03, random.random(pages) < 0.1
    with (folder / "pages.csv").open("w", encoding="utf-8") as file:
        file.write("path,title,type,language,status,made_with,modified,sidebar.right\n")
        for page in order.tolist():
            words = paths[page].rsplit("/", 1)[1].replace("-", " ") or "Home"
            status, made_with = "draft" if drafts[page] else "", "bench" if marks[page] else ""
            modified, side = f"2026-0{1 + page % 9}-1{page % 9}", SIDEBARS[page % 20] if owned[page] else ""
            kind, language = TYPES[kinds[page]], LANGUAGES[languages[page]]
            file.write(f"{paths[page]},The {words},{kind},{language},{status},{made_with},{modified},{side}\n")
    _values(folder / "values.csv", paths, random)
    (folder / "davlo.yaml").write_text(
        "\n".join([*_declared(), *_pages(parent, paths, random), *_rules(paths, random), ""])
    )


def _values(path: Path, paths: list[str], random: np.random.Generator) -> None:
    """A row for each of many single pages, no page and setting twice."""
    names = [name for name in VALUES if name != "sidebar.right"]
    wanted = min(50_000, len(paths) // 4)
    pairs = random.choice(len(paths) * len(names), wanted, replace=False)
    with path.open("w", encoding="utf-8") as file:
        file.write("where,setting,value,lock,because\n")
        for pair in pairs.tolist():
            name = names[pair % len(names)]
            value = VALUES[name][pair // 7 % len(VALUES[name])]
            change = "+ " if name in LISTS and value != "none" and pair % 3 == 0 else ""
            file.write(f"here {paths[pair // len(names)]},{name},{change}{value},,\n")


def _declared() -> list[str]:
    sides = ", ".join(f"{name}: {{blocks: [news]}}" for name in SIDEBARS)
    people = ", ".join(f"person-{i}" for i in range(40))
    lines = [
        "davlo: 1",
        "site: {name: Large, url: 'https://large.example', languages: [en, fr], values: [values.csv]}",
        "layouts:",
        "  plain: {areas: [masthead, content, footer]}",
        "  wide: {areas: [masthead, left, content, right, footer]}",
        "  open: {based_on: wide, width: full}",
        "themes: {day: {areas: [masthead, left, content, right, footer]}, evening: {areas: [masthead, content]}}",
        f"sidebars: {{{sides}}}",
        "looks: {calm: {whole: {width: 28%}}, bold: {whole: {width: 34%}}}",
        "bands: {head-a: {fits: [masthead]}, head-b: {fits: [masthead]}, foot-a: {fits: [footer]}, foot-b: {}}",
        "blocks: {news: {kind: text, text: News}, map: {kind: text, text: Map}, offer: {kind: text, text: Offer}}",
        f"people: {{names: [{people}], groups: {{editors: [person-1, person-2], crew: [person-3]}}}}",
        "settings:",
        "  promo: {kind: flag}",
        "  audio: {kind: text}",
        "  topics: {kind: list, choices: [trees, roses, moss]}",
        "everywhere:",
        "  title.pattern: '{title} at {site}'",
        "  layout.name: wide",
        "  layout.theme: day",
        "  sidebar.right: side-0",
        "  sitemap.priority: {by_depth: {top: 1.0, step: 0.1, floor: 0.2}}",
        "  access: {editors: [view, edit]}",
        "  lock: {band.footer: foot-a}",
        "types:",
    ]
    for number, name in enumerate(TYPES):
        base = f"based_on: {BASES[name]}, " if name in BASES else ""
        give = f"{{sidebar.left: side-{number}, audio: track {number}, title.limit: {40 + number}}}"
        lines.append(f"  {name}: {{{base}give: {give}}}")
    return lines


def _said(name: str, value: str) -> str:
    if name in LISTS:
        value = "none" if value == "none" else f"[{value.replace(';', ',')}]"
    return f"{name}: {value!r}" if "{" in value else f"{name}: {value}"


def _pages(parent: NDArray[np.int64], paths: list[str], random: np.random.Generator) -> list[str]:
    """5,000 pages entries with two `below` statements each."""
    inner = np.unique(parent[parent > 0])
    chosen = random.choice(inner, min(5_000, len(inner)), replace=False)
    names = [name for name in VALUES if name not in ("band.footer", "page.owner")]
    lines = ["pages:"]
    for page in chosen.tolist():
        first, second = random.choice(len(names), 2, replace=False).tolist()
        said = ", ".join(_said(names[n], VALUES[names[n]][page % len(VALUES[names[n]])]) for n in (first, second))
        lines.append(f"  {paths[page]}:\n    below: {{{said}}}")
    return lines


def _rules(paths: list[str], random: np.random.Generator) -> list[str]:
    """200 rules: on a type in a branch, on a detail, on a language at a depth."""
    lines = ["rules:"]
    names = [name for name in VALUES if name not in ("band.footer", "page.owner")]
    for number in range(200):
        name = names[number % len(names)]
        branch = paths[int(random.integers(1, max(2, len(paths) // 20)))]
        when = (
            f"{{type: {TYPES[number % 12]}, in_branch: {branch}}}",
            f"{{details: {{made_with: bench}}, in_branch: {branch}}}",
            f"{{language: fr, depth: {2 + number % 6}, in_branch: {branch}}}",
        )[number % 3]
        give = _said(name, VALUES[name][number % len(VALUES[name])])
        lines.append(f"  - {{name: rule {number}, when: {when}, give: {{{give}}}}}")
    return lines


if __name__ == "__main__":
    parser = argparse.ArgumentParser(description="Make a large site.")
    parser.add_argument("--pages", type=int, default=100_000)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--to", type=Path, required=True)
    told = parser.parse_args()
    make(told.pages, told.seed, told.to)
    print(f"wrote {told.to}: {told.pages} pages")
