"""Names of earlier versions: each is refused with the name that it has now, and stands nowhere else."""

from __future__ import annotations

import re
from pathlib import Path

import pytest
import yaml

from davlo.cli.command_list import COMMANDS
from davlo.cli.old_names import NOW
from davlo.files.form import davlo_yaml
from davlo.files.form.shapes import Fields
from tests.conftest import MINIMAL, Run

ROOT = Path(__file__).parents[2]
SITE_KEYS = MINIMAL.splitlines()[1].removesuffix("}")
PLACES = (
    "{old}: x\n",
    "themes: {{t: {{areas: [a], {old}: {{a: b}}}}}}\n",
    "themes: {{t: {{areas: [a], if_missing: {{b: {old}}}}}}}\n",
    "looks: {{l: {{{old}: 12}}}}\n",
    "menu: {{{old}: 3}}\n",
    "sitemap: {{{old}: 3}}\n",
    "blocks: {{b: {{kind: text, {old}: heading}}}}\n",
    "settings: {{s: {{kind: text, {old}: all-pages}}}}\n",
    "settings: {{s: {{kind: text, default_for: {old}}}}}\n",
    "everywhere: {{{old}: yes}}\n",
    "everywhere: {{access: {{everyone: [{old}]}}}}\n",
    "rules: [{{name: r, when: {{{old}: {{a: b}}}}, give: {{menu.show: no}}}}]\n",
    "accept: [{{kind: one-priority, because: x, {old}: x}}]\n",
)
"""Where in davlo.yaml an old name may stand: as a key, a value, a setting or an action."""
UNIQUE = [name for name in NOW if re.search(r"[-_.]", name) and name != "--map"]
"""Old names that are no words of English, and that nothing else has: they must stand nowhere."""
ELSEWHERE = {"name", "width", "padding", "background", "links"}
"""Names that were given up in one place, and are names or CSS properties in another."""
WRITTEN = [
    path
    for folder in ("src", "docs", "tests", "benchmarks", ".ci")
    for path in (ROOT / folder).rglob("*")
    if path.suffix in {".py", ".md", ".yaml", ".csv", ".js", ".html", ".css", ".json"}
] + [ROOT / name for name in ("README.md", "CONTRIBUTING.md", "SECURITY.md", "Makefile", "pyproject.toml")]


@pytest.fixture
def refused(tmp_path: Path, run: Run) -> str:
    """What Davlo says of a site, where each old name stands in each place, one site a place; and of the commands."""
    told = []
    (tmp_path / "pages.csv").write_text("path,title\n/,Home\n")
    for place in PLACES:
        for old in NOW:
            if old.startswith("--"):
                continue
            (tmp_path / "davlo.yaml").write_text(MINIMAL + place.format(old=old))
            told.append(run("tree", "--site", str(tmp_path)).err)
    for old in NOW:
        site_section = SITE_KEYS + f", {old}: x}}\n"
        (tmp_path / "davlo.yaml").write_text("davlo: 1\n" + site_section)
        told.append("" if old.startswith("--") else run("tree", "--site", str(tmp_path)).err)
    (tmp_path / "davlo.yaml").write_text(MINIMAL)
    for old in NOW:
        at = ("--site", str(tmp_path))
        words = [(old,), ("check", "--kind", old, *at)]
        if old.startswith("--"):
            words = [(command, old, "x", *at) for command in COMMANDS]
        told += [run(*one).err for one in words]
    return "\n".join(told)


@pytest.mark.exhaustive
def test_each_old_name_is_refused_with_the_new_one(refused: str) -> None:
    lines = {line.strip() for line in refused.splitlines()}
    untold = [
        old
        for old, new in NOW.items()
        if not all(any(f"{old}: now {one}" in line for line in lines) for one in new.split(" | "))
    ]
    assert untold == []


def test_no_old_name_is_a_name_of_today() -> None:
    keys = {key for form in vars(davlo_yaml).values() if isinstance(form, Fields) for key in form.keys}
    assert (set(NOW) & keys) - ELSEWHERE == set()
    assert set(NOW) & set(COMMANDS) == set()


@pytest.mark.exhaustive
def test_old_names_stand_nowhere_but_in_their_table() -> None:
    own = {ROOT / "src/davlo/cli/old_names.py", Path(__file__)}
    texts = {path: path.read_text(encoding="utf-8") for path in WRITTEN if path not in own}
    assert len(texts) > 500
    found = [
        (str(path.relative_to(ROOT)), old)
        for old in UNIQUE
        for path, text in texts.items()
        if re.search(rf"(?<![\w.-]){re.escape(old)}(?![\w-])", text)
    ]
    commands = "|".join(old for old in NOW if old.isalpha() and old not in COMMANDS)
    found += [
        (str(path.relative_to(ROOT)), match[0])
        for path, text in texts.items()
        for match in re.finditer(rf"(?:\$ |`|^  )davlo ({commands})\b", text, re.MULTILINE)
    ]
    assert found == []


def test_no_site_of_ours_has_an_old_key() -> None:
    gone = set(NOW) - ELSEWHERE
    for path in (ROOT / "src").rglob("*.yaml"):
        stack, keys = [yaml.safe_load(path.read_text(encoding="utf-8"))], set()
        while stack:
            one = stack.pop()
            keys |= set(one) if isinstance(one, dict) else set()
            stack += list(one.values()) if isinstance(one, dict) else one if isinstance(one, list) else []
        assert (path.name, keys & gone) == (path.name, set())
