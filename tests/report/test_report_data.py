"""What a report holds: each page with what it gets and from where; for a viewer only what they may view."""

from __future__ import annotations

import copy
import datetime
import json
import re
import subprocess
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import pytest

import davlo
import davlo.report.report_data as report_data
from davlo.core.site.settings.values import format_value
from davlo.report.report_html import as_script
from tests.conftest import Run
from tests.core.resolve.test_fold import open_made_up
from tests.plain import resolution
from tests.sites import SiteDict, of_made_up_sites

Small = Callable[..., Path]
DATA = re.compile(r'<script type="application/json" id="data">(.*?)</script>', re.DOTALL)


def data_of(text: str) -> Any:
    """The data in a report."""
    found = DATA.search(text)
    assert found
    return json.loads(found[1])


def unfolded(runs: list[int]) -> list[int]:
    return [code for code, times in zip(runs[::2], runs[1::2], strict=True) for _ in range(times)]


def strings(value: Any) -> Iterator[str]:
    """Every text in a record."""
    if isinstance(value, str):
        yield value
    elif isinstance(value, list | dict):
        for inner in value.values() if isinstance(value, dict) else value:
            yield from strings(inner)


@of_made_up_sites(3)
def test_each_page_has_its_values_sources_and_candidates(site: SiteDict) -> None:
    opened = open_made_up(site)
    effective, paths = opened.resolve(), opened.tree.paths.tolist()
    data = report_data.report_data(effective, opened.check(), report_data.Asked())
    assert data["pages"]["path"] == paths
    for one in data["settings"]:
        values, sources, groups = (unfolded(runs) for runs in (one["runs"], one["by"], one["candidates"]["runs"]))
        for page, path in enumerate(paths):
            settings = effective[path]
            assert (values[page] >= 0) == (one["name"] in settings) == (groups[page] >= 0)
            if values[page] < 0:
                continue
            assert one["values"][values[page]] == (format_value(settings[one["name"]]) or "(empty)")
            source = effective.source(path, one["name"])
            assert one["sources"][sources[page]][0] == source.words
            rows = [one["candidates"]["rows"][at] for at in one["candidates"]["groups"][groups[page]]]
            trace = effective.why(path, one["name"])
            assert [row[3] for row in rows] == [candidate.verdict for candidate in reversed(trace.candidates)]
            assert [row[0] for row in rows if row[3] == "wins"] == [str(source.scope)]
    access, groups = opened.access(), unfolded(data["access"]["runs"])
    for page, path in enumerate(paths):
        told = {who: tuple(actions) for who, actions in data["access"]["groups"][groups[page]]}
        assert {who: access.actions(who, path) for who in told} == told


@pytest.mark.parametrize("viewer", ["visitor", "signed-in", "ida.marsh", "sefa.moana", "gardeners"])
def test_a_viewers_report_holds_nothing_else(garden: Path, viewer: str) -> None:
    site = davlo.open_site(garden)
    data = data_of(site.report(viewer=viewer))
    seen = site.access().pages(viewer, "view")
    assert data["pages"]["path"] == seen
    hidden = set(site.tree.paths.tolist()) - set(seen)
    titles = set(site.details.title.texts())
    shown = {site.details.title[site.tree.number(path)] for path in seen}
    every = "\n".join(strings(data))
    assert not {path for path in hidden if re.search(rf"(?<!\w){re.escape(path)}(?![\w/-])", every)}
    bare = every
    for title in sorted(shown, key=len, reverse=True):
        bare = bare.replace(title, "")
    assert not {title for title in titles - shown if re.search(rf"\b{re.escape(title)}\b", bare)}
    assert not {name for name in site.people.names if name in every} - {viewer}
    assert set(data) == {"site", "marks", "pages", "settings", "drawings", "menus"}


@of_made_up_sites(3)
def test_what_a_viewer_may_not_view_leaves_no_trace_in_their_report(site: SiteDict) -> None:
    """Whatever hidden pages are called, the report of somebody who may not view them is the same."""
    site = json.loads(json.dumps(site).replace("{branch}/{parent}: ", ""))  # these tell the titles of other pages
    for viewer in ("visitor", "amber.finch", "readers"):
        opened = open_made_up(site)
        seen = set(opened.access().pages(viewer, "view"))
        other = copy.deepcopy(site)
        tree = resolution.Tree(site)
        above = {path for one in seen for path in tree.ancestors(one)}  # their order places what is seen below them
        for number, row in enumerate(other["rows"]):
            if row["path"] not in seen:
                row |= {"title": f"Secret {number}"} | ({} if row["path"] in above else {"order": str(number)})
        before, after = (open_made_up(one).report(viewer=viewer) for one in (site, other))
        assert before == after
        assert "Secret" not in after


def test_declarations_name_the_pages_that_use_them_and_lists_their_viewers(garden: Path) -> None:
    site = davlo.open_site(garden)
    data = data_of(site.report())
    for one in data["declarations"]:
        assert sum(unfolded(one["used"])) == max(one["pages"], 0), one["name"]
    donate = next(one for one in data["declarations"] if one["name"] == "donate")
    assert donate["named"] == ["the sidebar call-to-action (declared.yaml:31)"]
    paths = data["pages"]["path"]
    for viewer in ("visitor", "ida.marsh"):
        made = site.links("quick-links", language="en", viewer=viewer)
        told = next(
            o for o in data["menus"] if (o["what"], o["language"]) == ("quick-links", "en") and viewer in o["viewers"]
        )
        links = [(one.level, one.label, one.page, one.is_closed) for one in made.links()]
        assert [(level, label, paths[p] if p >= 0 else "", bool(c)) for level, label, p, _, c in told["links"]] == links


def test_the_same_site_gives_the_same_file_and_it_is_small(garden: Path, run: Run, tmp_path: Path) -> None:
    for name in ("one.html", "two.html"):
        got = run("report", "--to", str(tmp_path / name), "--today", "2026-11-25", "--site", str(garden))
        assert (got.status, got.err) == (0, f"wrote {tmp_path / name}\nopen it in a browser: it needs no network\n")
    text = (tmp_path / "one.html").read_bytes()
    assert (tmp_path / "two.html").read_bytes() == text
    assert len(text) < 1_000_000
    later = run("report", "--to", str(tmp_path / "two.html"), "--today", "2031-01-01", "--site", str(garden))
    assert later.status == 0
    assert (tmp_path / "two.html").read_bytes().replace(b"As of 2031-01-01", b"As of 2026-11-25") == text


def test_what_changed_is_told_if_it_is_asked(own: Path, run: Run, tmp_path: Path) -> None:
    assert run("set", "title.limit=40", "--below", "/press", "--write", "--site", str(own)).status == 0
    text = davlo.open_site(own).report(since=str(davlo.demo.GARDEN))
    changes = data_of(text)["changes"]
    assert changes["numbers"].startswith("5 pages change")
    why = next(lines for title, lines in changes["sections"] if title == "Why values differ")
    assert why[0].startswith("title.limit: davlo.yaml:")
    target = str(tmp_path / "r.html")
    for words, says in (
        (("--since", "nothing"), "nothing is neither a site folder nor a revision of git"),
        (("--since", "x", "--as", "visitor"), "leave out --as or --since"),
        (("--as", "nobody.here"), "nobody.here"),
        (("--in-branch", "/nowhere"), "/nowhere"),
    ):
        got = run("report", "--to", target, *words, "--site", str(own))
        assert (got.status, says in got.err) == (2, True), got.err
    assert "ends in .html" in run("report", "--to", "report.pdf", "--site", str(own)).err


def test_a_large_site_is_written_a_branch_at_a_time(
    garden: Path, run: Run, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(report_data, "MOST_PAGES", 50)
    got = run("report", "--to", str(tmp_path / "r.html"), "--site", str(garden))
    assert (got.status, "a report holds 50 pages at most, and these are 158" in got.err) == (2, True)
    assert "--in-branch /plants" in got.err
    got = run("report", "--to", str(tmp_path / "r.html"), "--in-branch", "/visit", "--site", str(garden))
    assert got.status == 0
    assert data_of((tmp_path / "r.html").read_text())["pages"]["path"][0] == "/visit"


def test_data_cannot_end_its_script(small: Small) -> None:
    nasty = "</script><script>alert(1)</script><!-- \u2028 &"
    text = davlo.open_site(small(pages=f'path,title\n/,"{nasty}"\n')).report()
    assert text.count("<script") == 2
    assert text.count("</script>") == 2
    assert data_of(text)["pages"]["title"] == [nasty]
    assert json.loads(as_script(nasty)) == nasty


def test_the_report_says_its_date_and_the_revision(own: Path, run: Run) -> None:
    site = davlo.open_site(own)
    assert "<p>As of 2026-11-25. Made by Davlo" in site.report(today=datetime.date(2026, 11, 25))
    git = ["git", "-C", str(own), "-c", "user.name=Ida Marsh", "-c", "user.email=ida@quillmere.example"]
    for words in (["init", "-q"], ["add", "."], ["commit", "-qm", "one"]):
        subprocess.run([*git, *words], check=True)
    short = subprocess.run(
        [*git, "rev-parse", "--short", "HEAD"], capture_output=True, text=True, check=True
    ).stdout.strip()
    assert f"<p>As of 2026-11-25, revision {short}. Made by Davlo" in site.report(today=datetime.date(2026, 11, 25))
