"""Estates: a site begins with what is shared; the estate's answers are those of its sites put together."""

from __future__ import annotations

import datetime
import os
import pickle
import tempfile
from collections.abc import Callable
from pathlib import Path
from random import Random
from typing import Any

import pyarrow.parquet as pq
import pytest
import yaml

import davlo
from davlo.core.change.differences.same_state import what_differs
from davlo.core.change.steps.change import Change
from davlo.estate import workers
from davlo.files.read.estate.estate_above import is_strange
from tests.conftest import Run, contents
from tests.hostile.mutations import mutate
from tests.hostile.test_mutated import ACTS
from tests.plain import resolution as reference
from tests.rows import long_rows
from tests.sites import SiteDict, of_made_up_sites, write_site

TODAY = datetime.date(2026, 12, 2)
SHARED = ("settings", "presets", "people")


@pytest.fixture
def gardens(tmp_path: Path) -> Path:
    """The estate of the demo, in a folder that the test may change."""
    davlo.write_demo_estate(tmp_path / "gardens")
    return tmp_path / "gardens"


@pytest.fixture
def made(tmp_path: Path) -> Callable[..., Path]:
    """Makes an estate of small sites: what is shared, and what each site says besides its name."""

    def make(shared: str, *sites: str, names: str = "[a, b]") -> Path:
        (tmp_path / "estate.yaml").write_text(
            f"davlo: 1\nestate: {{name: E}}\nsites: {names}\nshared: [shared.yaml]\n", encoding="utf-8"
        )
        (tmp_path / "shared.yaml").write_text(shared, encoding="utf-8")
        for name, says in zip("abc", sites, strict=False):
            (tmp_path / name).mkdir()
            begin = "davlo: 1\nsite: {name: Small, url: 'https://small.example'}\n"
            (tmp_path / name / "davlo.yaml").write_text(begin + says, encoding="utf-8")
            (tmp_path / name / "pages.csv").write_text("path,type\n/,\n/x,talk\n", encoding="utf-8")
        return tmp_path

    return make


def without_references(body: Any) -> Any:
    """A scope body without values that refer to other scopes: they may not stand in the weakest one."""
    if not isinstance(body, dict):
        return body
    kept = {
        key: without_references(value)
        for key, value in body.items()
        if not str(value).startswith(("<ev", "<ty", "<be"))
    }
    return {key: value for key, value in kept.items() if value != {} or body[key] == {}}


@of_made_up_sites(7)
def test_a_site_resolves_as_with_a_weaker_scope_of_its_own(site: SiteDict) -> None:
    random = Random(str(site["rows"]))
    bodies = [type_.get("give", {}) for type_ in site["types"].values()]
    bodies += [rule["give"] for rule in site["rules"]]
    estate = without_references(random.choice(bodies))
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        (folder / "deep").mkdir()
        site_folder = write_site(site, folder / "deep")
        said = yaml.safe_load((site_folder / "davlo.yaml").read_text(encoding="utf-8-sig"))
        shared = yaml.safe_load((site_folder / "declared.yaml").read_text(encoding="utf-8-sig"))
        shared |= {key: said.pop(key) for key in SHARED if key in said} | {"everywhere": estate}
        del said["include"]
        for file, content in ((folder / "house.yaml", shared), (site_folder / "davlo.yaml", said)):
            file.write_text(yaml.safe_dump(content, allow_unicode=True, sort_keys=False), encoding="utf-8")
        (folder / "estate.yaml").write_text('davlo: 1\nestate: {name: E}\nsites: ["d*"]\nshared: [house.yaml]\n')
        opened = davlo.open_site(site_folder)
        rows = long_rows(opened.resolve())
        found = {(path, setting): (value, source, locked) for path, setting, value, source, locked, _, _ in rows}
        wanted = reference.long_table({**site, "estate": estate})
        assert {
            key: (found.get(key), wanted.get(key)) for key in found | wanted if found.get(key) != wanted.get(key)
        } == {}
        assert {file for _, _, _, source, _, file, _ in rows if source == "estate"} <= {"../house.yaml"}
        alone = [one.as_json() for one in opened.check(TODAY).findings]
        (told,) = davlo.open_estate(folder).check(TODAY)
        assert told.answer.findings == alone


def test_the_estates_answers_are_those_of_its_sites_put_together(gardens: Path, tmp_path: Path) -> None:
    estate = davlo.open_estate(gardens)
    assert estate.sites == ("branches/fernhurst", "branches/saltmarsh", "garden")
    assert [one.name for one in estate.export(tmp_path / "values")] == [*estate.sites]
    overview = {one.name: one.answer for one in estate.overview(TODAY)}
    for name in estate.sites:
        site = davlo.open_site(gardens / name)
        report = site.check(TODAY)
        assert (overview[name].pages, overview[name].errors) == (len(site.tree), report.count("error"))
        table = pq.read_table(tmp_path / "values" / f"{name}.parquet").to_pylist()
        assert {row["site"] for row in table} == {name}
        effective = site.resolve()
        assert [(row["path"], row["title.limit"]) for row in table] == [
            (path, effective[path]["title.limit"]) for path in site.tree.paths
        ]
    found = [*estate.check(TODAY)]
    across = estate.across([one.answer for one in found])
    assert [(one.kind, one.setting) for one in across] == [
        ("overridden-by-all", "sitemap.changefreq"),
        ("unused-by-all", None),
    ]


def test_workers_of_dask_give_the_same_answers_in_the_same_order(
    gardens: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    pytest.importorskip("distributed")
    alone = [*davlo.open_estate(gardens).check(TODAY)]
    monkeypatch.setattr(workers, "LARGE", 0)
    assert [*davlo.open_estate(gardens).check(TODAY)] == alone


def test_a_change_of_shared_files_has_the_reach_that_reading_them_gives(gardens: Path) -> None:
    estate = davlo.open_estate(gardens)
    before = {name: estate.site(name) for name in estate.sites}
    change = Change().say("title.limit", 30, lock=True, estate=True).say("menu.show", False, estate=True)
    reach = estate.reach(change)
    assert {edit.file for edit in reach.edits} == {"house-style.yaml"}
    shared = (gardens / "house-style.yaml").read_bytes()
    record = estate.write(reach, even_so=True)
    for name, told in zip(estate.sites, reach, strict=True):
        after = estate.site(name)
        assert before[name].difference(after).numbers == told.answer.numbers
        assert what_differs(before[name].apply(change), after) == ""
    assert [one.name for one in record.files] == ["house-style.yaml"]
    assert estate.undo().sentence == record.sentence
    assert (gardens / "house-style.yaml").read_bytes() == shared
    assert all(what_differs(before[name], estate.site(name)) == "" for name in estate.sites)


def test_a_site_adds_to_what_is_shared_and_declares_nothing_again(made: Callable[..., Path]) -> None:
    folder = made(
        "types: {talk: {label: Talk}}\nsidebars: {main: {blank: yes}}\n",
        "types: {talk: {give: {title.limit: 40}}, lecture: {based_on: talk}}\n",
        "sidebars: {main: {blank: yes}}\n",
    )
    assert davlo.open_site(folder / "a").resolve()["/x"]["title.limit"] == 40
    with pytest.raises(davlo.SiteError) as caught:
        davlo.open_site(folder / "b")
    (fault,) = caught.value.faults
    assert (str(fault.place), fault.what) == (
        "davlo.yaml:3",
        "main is named twice under sidebars; the first is at ../shared.yaml:2",
    )


@pytest.mark.parametrize(
    ("shared", "line", "what"),
    [
        ("rules: []\n", 1, "a shared file holds declarations and everywhere, not rules"),
        ("include: [x.yaml]\n", 1, "a shared file holds declarations and everywhere, not include"),
        ("types: {talk: {give: {menu.show: no}}}\n", 1, "a shared file declares the type talk; what its pages get is"),
        ("sidebarz: {}\n", 1, "a shared file has no key 'sidebarz'"),
        ("everywhere: {no.such: 1}\n", 1, "there is no setting 'no.such'"),
    ],
)
def test_what_a_shared_file_may_not_say_is_one_clear_fault(
    made: Callable[..., Path], shared: str, line: int, what: str
) -> None:
    with pytest.raises(davlo.SiteError) as caught:
        davlo.open_site(made(shared, "") / "a")
    told = [(str(fault.place), fault.what) for fault in caught.value.faults]
    assert [place for place, _ in told] == [f"../shared.yaml:{line}"]
    assert told[0][1].startswith(what)


@pytest.mark.parametrize("names", ['["../a"]', "[/etc]", '["**"]', "[.]", "[a/../../b]", "['']"])
def test_an_estate_names_no_folder_outside(made: Callable[..., Path], names: str) -> None:
    with pytest.raises(davlo.SiteError):
        davlo.open_estate(made("everywhere: {}\n", "", names=names))


def test_no_link_leads_out_of_an_estate(made: Callable[..., Path], tmp_path_factory: pytest.TempPathFactory) -> None:
    outside = tmp_path_factory.mktemp("outside")
    folder = made("everywhere: {title.limit: 9}\n", "", "", names='["*"]')
    (outside / "davlo.yaml").write_text((folder / "a" / "davlo.yaml").read_text())
    (outside / "pages.csv").write_text("path\n/\n")
    (folder / "c").symlink_to(outside)
    (folder / "d").symlink_to(folder)
    told = {one.name: one for one in davlo.open_estate(folder).overview(TODAY)}
    assert told["c"].faults == ("its folder is a link that leads out of the estate",)
    assert {name for name, one in told.items() if one.answer} == {"a", "b"}
    assert davlo.open_site(outside).file_notes.shared == ()
    (folder / "shared.yaml").unlink()
    (folder / "shared.yaml").symlink_to(outside / "davlo.yaml")
    with pytest.raises(davlo.SiteError, match=r"shared\.yaml lies outside"):
        davlo.open_site(folder / "a")


def test_a_site_reads_neither_its_sisters_files_nor_an_estate_that_does_not_count_it(made: Callable[..., Path]) -> None:
    folder = made("everywhere: {title.limit: 9}\n", "include: [../b/davlo.yaml]\n", "", names="[a]")
    with pytest.raises(davlo.SiteError, match="lies outside the site folder"):
        davlo.open_site(folder / "a")
    assert davlo.open_site(folder / "b").resolve()["/"]["title.limit"] == 60
    (folder / "estate.yaml").write_text("davlo: 1\nestate: {name: E}\nsites: [b]\nshared: [a/davlo.yaml]\n")
    with pytest.raises(davlo.SiteError, match=r"a/davlo\.yaml belongs to the site a"):
        davlo.open_site(folder / "b")


@pytest.mark.skipif(not hasattr(os, "getuid") or os.getuid() != 0, reason="only root may give files away")
def test_an_estate_of_another_user_is_told_and_not_read(made: Callable[..., Path], run: Run) -> None:
    folder = made("everywhere: {title.limit: 9}\n", "")
    os.chown(folder / "estate.yaml", 12345, -1)
    assert is_strange(folder, folder / "a")
    site = davlo.open_site(folder / "a")
    assert site.resolve()["/"]["title.limit"] == 60
    assert site.notes == ("../estate.yaml belongs to another user than this site, so Davlo does not read it",)


def test_a_site_that_cannot_be_read_is_one_line_and_the_others_are_answered(
    made: Callable[..., Path], run: Run
) -> None:
    folder = made("everywhere: {title.limit: 9}\n", "", "nosuch: 1\n", names="[a, b, gone]")
    got = run("estate", "sites", "--estate", str(folder), "--format", "csv")
    assert (got.status, got.out.splitlines()[1:]) == (2, ["a,2,0,3,0,"])
    assert "the site b is left out" in got.err
    assert "the site gone is left out" in got.err
    for words in (["check"], ["export", "--to", str(folder / "values")], ["report", "--to", str(folder / "reports")]):
        assert run("estate", *words, "--estate", str(folder)).status == 2
    assert (folder / "values" / "a.parquet").exists()
    got = run("estate", "set", "title.limit=8", "--write", "--estate", str(folder))
    assert got.status == 1
    assert (folder / "shared.yaml").read_text() == "everywhere: {title.limit: 9}\n"


def test_a_single_site_changes_nothing_that_is_shared(gardens: Path, run: Run) -> None:
    site = str(gardens / "branches/saltmarsh")
    for words in (
        ["declare", "block", "sister-gardens", "--drop", "--everywhere-named"],
        ["rename", "block", "sister-gardens", "sisters"],
        ["rename", "type", "walk", "tour"],
        ["declare", "block", "sister-gardens", "note=Hello"],
    ):
        got = run(*words, "--site", site)
        assert (got.status, "for all sites of the estate" in got.err) == (1, True), words
    assert run("set", "title.limit=40", "--type", "walk", "--write", "--even-so", "--site", site).status == 0
    assert "walk: {give: {title.limit: 40}}" in (gardens / "branches/saltmarsh/davlo.yaml").read_text()


def test_why_says_how_to_change_what_the_estate_says(gardens: Path, run: Run) -> None:
    got = run("why", "/news/new-house", "title.limit", "--site", str(gardens / "branches/fernhurst"))
    assert got.out.splitlines()[-2:] == [
        "The estate says it for every site. To change it there:",
        "  davlo estate set title.limit=VALUE",
    ]
    got = run("set", "title.limit=40", "--below", "/news", "--site", str(gardens / "branches/fernhurst"))
    assert "--estate" not in got.out
    got = run("export", "--long", "--site", str(gardens / "branches/fernhurst"))
    assert "/news/new-house,title.limit,65,estate,yes,../../house-style.yaml,7" in got.out.splitlines()


def test_ten_thousand_empty_folders_are_no_sites(made: Callable[..., Path]) -> None:
    folder = made("everywhere: {}\n", "", names='["*"]')
    for number in range(10_000):
        (folder / f"n{number}").mkdir()
    assert davlo.open_estate(folder).sites == ("a",)


@pytest.mark.parametrize("form", ["text", "csv", "json"])
def test_a_new_error_in_some_site_stops_the_write_in_every_format(
    made: Callable[..., Path], run: Run, form: str
) -> None:
    folder = made("everywhere: {title.limit: 60}\n", "pages: {/x: {here: {title.limit: 9}}}\n", "")
    words = ("estate", "set", "title.limit", "--lock", "--estate", str(folder), "--format", form)
    before = contents(folder)
    got = run(*words, "--write")
    assert (got.status, contents(folder)) == (1, before)
    assert "it would bring about an error in a: " in got.err
    assert run(*words, "--write", "--even-so").status == 0
    assert "lock" in (folder / "shared.yaml").read_text()


def test_a_site_that_does_not_let_the_estate_say_it_stops_the_write(made: Callable[..., Path], run: Run) -> None:
    folder = made("everywhere: {menu.show: yes}\n", "settings: {title.limit: {scopes: [everywhere]}}\n", "")
    got = run("estate", "set", "title.limit=40", "--write", "--even-so", "--estate", str(folder))
    assert (got.status, "the site a: " in got.err) == (1, True), got.err
    assert (folder / "shared.yaml").read_text() == "everywhere: {menu.show: yes}\n"


def test_a_reach_gives_the_same_answers_again_and_keeps_little(gardens: Path) -> None:
    reach = davlo.open_estate(gardens).reach(Change().say("menu.show", False, estate=True), "json")
    first = next(iter(reach))
    assert first.answer.record["values"]
    again = [*reach]
    assert again[0] == first
    assert [one.name for one in again] == [one.name for one in reach] == [name for name, _ in reach.changed]
    assert all(change.record is None and not change.lines for _, change in reach.changed)
    assert reach.unread == []
    copied = pickle.loads(pickle.dumps(reach))
    assert ([*copied], copied.edits) == (again, reach.edits)


@pytest.mark.exhaustive
@pytest.mark.parametrize("seed", range(60))
def test_an_estate_with_mistakes_and_malice_in_it_answers_or_reports(gardens: Path, run: Run, seed: int) -> None:
    """The shared files, estate.yaml, or a site in it: whatever they hold, each question has an answer or faults."""
    done = mutate(gardens if seed % 3 else gardens / "branches" / "saltmarsh", seed)
    for words in (
        ("sites",),
        ("check", "--format", "json"),
        ("export", "--to", str(gardens / "values")),
        ("set", "title.limit=40", "--write", "--even-so"),
        ("unset", "title.limit", "--format", "csv"),
        ("declare", "block", "sisters", "kind=text", "text=Hello", "--write"),
        ("undo", "--write"),
    )[seed % 2 :: 2]:
        got = run("estate", *words, "--estate", str(gardens))
        acting = ACTS.search(got.err if "csv" in words else got.out + got.err)
        assert got.status in (0, 1, 2), (done, words, got.err)
        assert not acting, (done, words)
        assert got.status != 2 or got.err.strip(), (done, words)


def test_a_fault_of_davlos_own_in_one_site_stops_no_other(gardens: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    def broken(estate: object, name: str) -> int:
        if name == "garden":
            raise RuntimeError("as planned")
        return 1

    estate = davlo.open_estate(gardens)
    told = [*estate._ask(broken)]
    assert [one.answer for one in told] == [1, 1, None]
    assert told[2].faults == ("a fault of Davlo's own: RuntimeError: as planned",)
