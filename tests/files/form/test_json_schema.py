"""The schema of davlo.yaml and its reader agree, as far as a schema can tell, on sites and on mistakes in them."""

from __future__ import annotations

import copy
import json
import re
import tempfile
from collections.abc import Iterator
from pathlib import Path
from random import Random
from typing import Any

import pytest
import yaml
from jsonschema import Draft202012Validator

import davlo
from davlo.core.faults import SiteError
from davlo.files.form.davlo_yaml import DAVLO_YAML
from davlo.files.form.json_schema import davlo_schema
from davlo.files.form.shapes import Entries, Field, Fields, Settings
from tests.conftest import Ask, Run
from tests.sites import SiteDict, of_made_up_sites, write_site

GENERAL = Draft202012Validator(davlo_schema())
INTEGER = re.compile(r"[-+]?[0-9]+")
FLOAT = re.compile(r"[-+]?(\.[0-9]+|[0-9]+(\.[0-9]*)?)([eE][-+]?[0-9]+)?")
NOTHING = ("", "~", "null", "Null", "NULL")
TOLD = re.compile(
    "has no key|takes keys with values|takes a list, not|takes yes or no|takes one of|takes an? (number|integer) from"
    "|takes a text, not|takes words, not|has no kind|has no when|gives nothing|has no because|has nothing after it"
)
"""Faults that a schema tells, too, whatever the site declares."""
OWN = ("spark", "motto", "rank", "weight", "hue", "topics", "until", "tint", "zzz", "default")
"""Settings of the site's own, of whose kind the general schema knows nothing."""
MISTAKES: list[Any] = ["zzz", 7, -1, 0.5, True, [], ["zzz"], {}, {"zzz": "yes"}, [{"zzz": 1}], {"add": ["zzz"]}, None]
MOST = 20
"""How many mistakes are made in each site, one at a time."""


def as_yaml_reads(node: Any) -> Any:
    """What an editor that reads YAML 1.2 sees (YAML 1.2.2, 10.3: the core schema)."""
    if isinstance(node, yaml.MappingNode):
        return {key.value: as_yaml_reads(value) for key, value in node.value}
    if isinstance(node, yaml.SequenceNode):
        return [as_yaml_reads(item) for item in node.value]
    text = node.value
    if node.style:
        return text
    if text.lower() in ("true", "false"):
        return text.lower() == "true"
    if text in NOTHING:
        return None
    return int(text) if INTEGER.fullmatch(text) else float(text) if FLOAT.fullmatch(text) else text


def instance_of(folder: Path) -> Any:
    """davlo.yaml of a folder as an editor sees it."""
    return as_yaml_reads(yaml.compose((folder / "davlo.yaml").read_text(encoding="utf-8"), Loader=yaml.SafeLoader))


def places(node: Any, way: tuple[Any, ...] = ()) -> Iterator[tuple[Any, ...]]:
    """The way to each thing below."""
    for key, inner in node.items() if isinstance(node, dict) else enumerate(node) if isinstance(node, list) else ():
        yield (*way, key)
        yield from places(inner, (*way, key))


def mistaken(whole: Any, random: Random) -> Any:
    """The same with one thing put in place of another, taken away, renamed or added."""
    whole = copy.deepcopy(whole)
    *way, last = random.choice(list(places(whole)))
    holder = whole
    for key in way:
        holder = holder[key]
    how = random.choice(["replace", "replace", "add", "drop", "rename"])
    inner = holder[last]
    if how == "add" and isinstance(inner, dict):
        inner["zzz"] = random.choice(MISTAKES)
    elif how == "drop":
        del holder[last]
    elif how == "rename" and isinstance(holder, dict):
        holder["zzz"] = holder.pop(last)
    else:
        holder[last] = random.choice(MISTAKES)
    return whole


@of_made_up_sites(3)
def test_the_schema_and_the_reader_agree_on_mistakes(site: SiteDict) -> None:
    random = Random(str(site["rows"]))
    with tempfile.TemporaryDirectory() as name:
        folder = write_site(site, Path(name))
        whole = instance_of(folder)
        assert agree(folder, whole) == set()
        for _ in range(MOST):
            other = mistaken(whole, random)
            (folder / "davlo.yaml").write_text(yaml.safe_dump(other, sort_keys=False, allow_unicode=True), "utf-8")
            agree(folder, instance_of(folder))


def agree(folder: Path, instance: Any) -> set[str]:
    """Ask both, and hold one against the other; gives what the reader finds wrong."""
    told = [f"{list(error.absolute_path)}: {error.message[:200]}" for error in GENERAL.iter_errors(instance)]
    try:
        read = davlo.open_site(folder)
    except SiteError as error:
        faults = {fault.what for fault in error.faults}
        shown = {fault.what for fault in error.faults if fault.place.file == "davlo.yaml"}
        tellable = {what for what in shown if TOLD.search(what) and what.split()[0] not in OWN}
        assert told or not tellable, (tellable, instance)
        return faults
    own = Draft202012Validator(davlo_schema(read))
    told += [f"{list(error.absolute_path)}: {error.message[:200]}" for error in own.iter_errors(instance)]
    assert told == []
    return set()


def test_the_demo_and_a_new_site_are_allowed_and_unknown_names_are_not(garden: Path, tmp_path: Path) -> None:
    davlo.start_site(tmp_path / "mine")
    for folder in (garden, tmp_path / "mine"):
        Draft202012Validator.check_schema(davlo_schema(davlo.open_site(folder)))
        assert agree(folder, instance_of(folder)) == set()
    own, whole = Draft202012Validator(davlo_schema(davlo.open_site(garden))), instance_of(garden)
    assert not list(own.iter_errors(whole))
    steep = {"by_depth": {"top": 7, "step": 0.1, "floor": 0.1}}
    for key, value in (
        *(("sidebar.right", "mian"), ("layout.name", "opne"), ("zzz", "x"), ("title.limit", "long")),
        ("sitemap.priority", steep),
    ):
        other = copy.deepcopy(whole)
        other["everywhere"][key] = value
        assert len(list(own.iter_errors(other))) == 1, key


def test_every_key_has_a_line_of_help_and_an_example() -> None:
    def fields(shape: Any) -> Iterator[tuple[str, Field]]:
        inner = shape.fields if isinstance(shape, Fields) else shape.beside if isinstance(shape, Settings) else {}
        for key, field in inner.items():
            yield key, field
            yield from fields(field.shape.of if isinstance(field.shape, Entries) else field.shape)

    found = list(fields(DAVLO_YAML))
    assert len(found) > 80
    assert not [key for key, field in found if not field.help or len(field.help) > 100 or not field.example]


def test_it_is_printed_and_written(ask: Ask, run: Run, garden: Path, tmp_path: Path) -> None:
    told = json.loads(run("schema").out)
    assert told["$schema"] == "https://json-schema.org/draft/2020-12/schema"
    assert told == davlo_schema()
    assert run("schema", "--to", str(tmp_path / "s.json")).status == 0
    assert json.loads((tmp_path / "s.json").read_text(encoding="utf-8")) == told
    assert json.loads(ask("schema"))["title"] == "davlo.yaml of Quillmere Botanic Garden"
    got = run("schema", "--to", str(tmp_path / "there" / "s.json"))
    assert (got.status, "Traceback" in got.err) == (2, False)


@pytest.mark.parametrize("value", ["yes", "No", True, "TRUE"])
def test_flags_are_flags_however_they_are_written(value: Any) -> None:
    whole = {"davlo": 1, "site": {"name": "S", "url": "https://s.example"}, "everywhere": {"menu.show": value}}
    assert not list(GENERAL.iter_errors(whole))


def test_an_included_file_has_a_form_of_its_own(garden: Path, run: Run) -> None:
    told = json.loads(run("schema", "--included").out)
    Draft202012Validator.check_schema(told)
    included = Draft202012Validator(told)
    assert included.is_valid({"rules": [{"name": "x", "when": {"type": "page"}, "give": {"menu.show": False}}]})
    assert not included.is_valid({"site": {"name": "x", "url": "https://x.example"}})
    assert not included.is_valid({"rulez": []})


def test_the_files_of_an_estate_have_forms_of_their_own(tmp_path: Path, run: Run) -> None:
    davlo.write_demo_estate(tmp_path)
    for option, name, wrong in (
        ("--estate-yaml", "estate.yaml", {"davlo": 1, "estate": {"name": "x"}, "sites": ["a"], "rules": []}),
        ("--shared", "house-style.yaml", {"types": {"talk": {"give": {"menu.show": False}}}}),
    ):
        schema = Draft202012Validator(json.loads(run("schema", option).out))
        node = yaml.compose((tmp_path / name).read_text(encoding="utf-8"), Loader=yaml.SafeLoader)
        assert [*schema.iter_errors(as_yaml_reads(node))] == []
        assert not schema.is_valid(wrong)
