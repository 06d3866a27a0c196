"""Files that belong together: includes, values.csv, and that where a statement stands changes no value."""

from __future__ import annotations

import copy
import csv
import tempfile
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest
import yaml

import davlo
from davlo.core.site.settings.values import format_value
from tests.sites import SiteDict, of_made_up_sites, write_site

Small = Callable[..., Path]


def test_sections_are_joined_and_the_first_files_rules_are_stronger(small: Small) -> None:
    folder = small(
        "include: [more.yaml, last.yaml]\npeople: {names: [amber.finch], groups: {crew: [bruno.wray]}}\n"
        "types: {note: {}}\nrules: [{name: first, when: {}, give: {title.limit: 1}}]\n",
        files={
            "more.yaml": "people: {names: [bruno.wray], groups: {staff: [crew]}}\ntypes: {memo: {based_on: note}}\n"
            "rules: [{name: second, when: {}, give: {title.limit: 2}}]\ninclude: [deep.yaml]\n",
            "last.yaml": "rules: [{name: fourth, when: {}, give: {title.limit: 4}}]\n",
            "deep.yaml": "rules: [{name: third, when: {}, give: {title.limit: 3}}]\n",
        },
    )
    site = davlo.open_site(folder)
    assert site.people.names == ("amber.finch", "bruno.wray")
    assert site.people.groups_of("bruno.wray") == ("crew", "staff")
    assert [rule.name for rule in site.rules] == ["first", "second", "third", "fourth"]
    trace = site.resolve().why("/", "title.limit")
    assert [str(c.scope) for c in trace.candidates] == [
        "built-in",
        "rule fourth",
        "rule third",
        "rule second",
        "rule first",
    ]
    assert str(trace.candidates[2].place) == "deep.yaml:1"


FAULTS = [
    (
        "types: {note: {}}\n",
        "types: {note: {}}\n",
        "more.yaml:1: note is named twice under types; the first is at davlo.yaml:4",
    ),
    ("", "davlo: 1\n", "more.yaml:1: davlo stands in davlo.yaml alone"),
    ("", "site: {name: x}\n", "more.yaml:1: site stands in davlo.yaml alone"),
    ("", "include: [more.yaml]\n", "more.yaml:1: the includes go round in a circle: more.yaml -> more.yaml"),
    ("types: {note: {}}\n", "types: [note]\n", "more.yaml:1: types holds another kind of thing than at davlo.yaml:4"),
    (
        "people: {groups: {a: []}}\n",
        "people: {groups: {a: []}}\n",
        "a is named twice under groups; the first is at davlo.yaml:4",
    ),
    ("everywhere: {use: []}\n", "everywhere: {use: []}\n", "use is named twice under everywhere"),
    ("", "rulez: []\n", "more.yaml:1: the site has no key 'rulez'"),
    ("", "x: [\n", "more.yaml:2: this is not YAML"),
    ("", "", "more.yaml: the file is empty"),
]


@pytest.mark.parametrize(("first", "more", "expected"), FAULTS)
def test_what_included_files_may_not_do(first: str, more: str, expected: str, small: Small) -> None:
    with pytest.raises(davlo.SiteError) as caught:
        davlo.open_site(small("include: [more.yaml]\n" + first, files={"more.yaml": more}))
    assert expected in str(caught.value)


def test_a_link_out_of_the_folder_is_not_followed(small: Small, tmp_path_factory: pytest.TempPathFactory) -> None:
    outside = tmp_path_factory.mktemp("outside") / "people.yaml"
    outside.write_text("people: {names: [amber.finch]}\n")
    folder = small("include: [people.yaml]\n")
    (folder / "people.yaml").symlink_to(outside)
    with pytest.raises(davlo.SiteError, match=r"people\.yaml lies outside the site folder"):
        davlo.open_site(folder)


def values_of(folder: Path) -> dict[tuple[str, str], str]:
    effective = davlo.open_site(folder).resolve()
    return {(path, name): format_value(value) for path, page in effective.items() for name, value in page.items()}


def moved(site: SiteDict) -> SiteDict:
    """The same decisions, with the rows of values.csv written into the YAML."""
    site = copy.deepcopy(site)
    for row in site["values"]:
        word, _, name = row["where"].partition(" ")
        scopes: dict[str, Any] = {
            "everywhere": lambda: site["everywhere"],
            "type": lambda name=name: site["types"].setdefault(name, {}).setdefault("give", {}),
            "below": lambda name=name: site["pages"].setdefault(name, {}).setdefault("below", {}),
            "here": lambda name=name: site["pages"].setdefault(name, {}).setdefault("here", {}),
        }
        cell, value = row["value"], row["value"]
        is_list = row["setting"].split(".")[0] in ("access", "deny", "topics")
        if is_list and cell != "none" and not cell.startswith("<"):
            items = [item.strip() for item in cell.lstrip("+-").split(";")]
            value = {"add" if cell[0] == "+" else "remove": items} if cell[0] in "+-" else items
        body = scopes[word]()
        target = body.setdefault("lock", {}) if row["lock"] == "yes" else body
        family, _, who = row["setting"].partition(".")
        if family in ("access", "deny"):
            target.setdefault(family, {})[who] = value
        else:
            target[row["setting"]] = value
    site["values"] = []
    return site


@of_made_up_sites(5)
def test_where_statements_stand_changes_no_value(site: SiteDict) -> None:
    with tempfile.TemporaryDirectory() as one, tempfile.TemporaryDirectory() as other:
        folder, changed = write_site(site, Path(one)), write_site(moved(site), Path(other))
        split(changed)
        before, after = values_of(folder), values_of(changed)
    assert {key: (before.get(key), after.get(key)) for key in before | after if before.get(key) != after.get(key)} == {}


def split(folder: Path) -> None:
    """Take what may stand in an include out of davlo.yaml, and the columns of the page list in another order."""
    whole = yaml.safe_load((folder / "davlo.yaml").read_text(encoding="utf-8"))
    more = {key: whole.pop(key) for key in ("types", "pages", "rules", "presets", "settings", "everywhere", "people")}
    whole["include"] = ["declared.yaml", "more.yaml"]
    (folder / "davlo.yaml").write_text(yaml.safe_dump(whole, allow_unicode=True), encoding="utf-8")
    (folder / "more.yaml").write_text(yaml.safe_dump(more, allow_unicode=True), encoding="utf-8")
    with (folder / "pages.csv").open(newline="", encoding="utf-8-sig") as file:
        rows = list(csv.reader(file))
    with (folder / "pages.csv").open("w", newline="", encoding="utf-8") as file:
        csv.writer(file).writerows([row[::-1] for row in rows])
