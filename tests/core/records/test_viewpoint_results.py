"""What viewpoints see, against a plain reading; and that a difference names what differs and nothing else."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from random import Random

import pytest

import davlo
from davlo.core.change.steps.change import NameInstead
from davlo.core.records.viewpoint_results import viewpoint_differences, viewpoint_results
from davlo.core.site.model import Viewpoint
from davlo.files.rewrite.rewrite import rewrite
from tests.conftest import Ask, Run
from tests.core.resolve.test_fold import open_made_up
from tests.files.rewrite.test_rewrite import make
from tests.plain import outcomes as plain
from tests.plain import resolution as reference
from tests.sites import SiteDict, of_made_up_sites

Small = Callable[..., Path]
NO_PLACE = davlo.Place("")


@of_made_up_sites(4)
def test_a_viewpoint_sees_what_the_reference_tells(site: SiteDict) -> None:
    opened, random = open_made_up(site), Random(str(site["rows"]))
    values = {key: value for key, (value, *_) in reference.long_table(site).items()}
    paths, people = opened.tree.paths.tolist(), opened.people.names
    viewpoints = tuple(
        Viewpoint(path, random.choice(people), NO_PLACE) for path in random.sample(paths, min(4, len(paths)))
    )
    for viewpoint, view in zip(viewpoints, viewpoint_results(opened.resolve(), viewpoints), strict=True):
        may = [action for action in opened.actions if reference.may(site, viewpoint.viewer, action, viewpoint.page)]
        assert list(view.may) == may
        pattern = values.get((viewpoint.page, "title.pattern"), "{title}")
        assert view.record is not None
        assert view.record["title"] == plain.fill(pattern, plain.words_of(site, viewpoint.page))
        menu = [path for language in ("", *opened.languages) for path, _ in plain.menu(site, values, language)]
        assert view.record["menu.shown"] == (viewpoint.page in menu)
        for area, things in plain.areas(values, viewpoint.page)[0].items():
            assert [*view.record[f"areas.{area}"].stands] == things


@of_made_up_sites(4)
def test_a_state_does_not_differ_from_itself_and_a_change_shows_where_values_change(site: SiteDict) -> None:
    opened, random = open_made_up(site), Random(str(site["rows"]))
    viewpoints = tuple(Viewpoint(path, "bruno.wray", NO_PLACE) for path in opened.tree.paths.tolist())
    opened = replace(opened, viewpoints=viewpoints)
    before = opened.resolve()
    path = random.choice(opened.tree.paths.tolist())
    changed = opened.apply(davlo.Change().say("title.pattern", "changed", below=path))
    after = changed.resolve()
    assert viewpoint_differences(before, opened.resolve()) == []
    titles = {
        one.page
        for one in viewpoint_differences(before, after)
        if any(name == "document title" for name, *_ in one.fields)
    }
    expected = {
        page for page in opened.tree.paths.tolist() if opened.page(page)["title"] != changed.page(page)["title"]
    }
    assert titles == expected


def test_the_command_shows_each_in_a_table_and_what_differs(ask: Ask, run: Run, small: Small, garden: Path) -> None:
    told = ask("show", "--viewpoints").splitlines()
    assert told[0].split() == ["page", "as", "what", "value"]
    assert told[1].split() == ["/visit/tickets", "visitor", "may", "view"]
    assert told[2].strip() == "document title      Tickets · Quillmere Botanic Garden"
    assert any(line.strip().startswith("area right          sidebar visit-planning: opening-times ") for line in told)
    assert any(line.split() == ["menu", "shown", "as", '"Tickets"'] for line in told)
    assert ["/staff/rota", "visitor", "may", "nothing"] in [line.split() for line in told]
    assert ask("show", "--viewpoints", "--against", str(garden)) == f"0 of 5 viewpoints differ from {garden}\n"
    nothing = run("show", "--viewpoints", "--site", str(small()))
    assert (nothing.status, "no viewpoints are declared" in nothing.out) == (0, True)


def test_a_difference_from_another_folder(tmp_path: Path, run: Run) -> None:
    one, other = tmp_path / "one", tmp_path / "other"
    for folder in (one, other):
        davlo.write_demo(folder)
    text = (other / "davlo.yaml").read_text(encoding="utf-8")
    text = text.replace("below: {sidebar.right: visit-planning}", "below: {sidebar.right: main}")
    text = text.replace("access: {staff: [view], editors: [tending]}", "access: {everyone: [view], editors: [tending]}")
    (other / "davlo.yaml").write_text(text, encoding="utf-8")
    told = run("show", "--viewpoints", "--against", str(one), "--site", str(other))
    lines = [line.split() for line in told.out.splitlines()]
    assert lines[0] == ["page", "as", "what", "before", "now"]
    assert lines[1][:6] == ["/visit/tickets", "visitor", "area", "right", "sidebar", "visit-planning:"]
    assert ["/staff/rota", "visitor", "may", "nothing", "view"] in lines
    declared = (other / "declared.yaml").read_text(encoding="utf-8")
    (one / "davlo.yaml").write_text(text, encoding="utf-8")
    assert run("show", "--viewpoints", "--against", str(one), "--site", str(other)).out.startswith("0 of 5")
    (other / "declared.yaml").write_text(declared.replace("Open daily 10 to 17", "Open at weekends"), encoding="utf-8")
    assert "Open at weekends" in run("show", "--viewpoints", "--against", str(one), "--site", str(other)).out
    assert run("show", "--viewpoints", "--against", "nowhere", "--site", str(other)).status == 2


@pytest.mark.parametrize(
    ("viewpoints", "says"),
    [
        ("[{page: /a, as: ghost}]", "as: there is no person or group 'ghost'"),
        ("[{as: visitor}]", "the viewpoint has no page"),
        ("[{page: a}]", "page takes a path, which starts with /, not 'a'"),
        ("[{page: /a}, {page: /a/, as: visitor}]", "a second viewpoint looks at /a as visitor"),
        ("[{page: /a, who: visitor}]", "a viewpoint has no key 'who'"),
        ("{page: /a}", "viewpoints takes a list"),
    ],
)
def test_what_a_viewpoint_may_not_be(viewpoints: str, says: str, small: Small) -> None:
    with pytest.raises(davlo.SiteError) as caught:
        davlo.open_site(small(f"viewpoints: {viewpoints}\n"))
    assert any(says in fault.what for fault in caught.value.faults)


def test_a_page_that_is_gone_is_a_finding_and_can_be_named_anew(small: Small) -> None:
    folder = small("viewpoints:\n  - {page: /a/bb, as: visitor}\n")
    site = davlo.open_site(folder)
    assert site.viewpoint_results()[0].missing == "there is no such page"
    found = [one for one in site.check().findings if one.kind == "no-such-page"]
    assert [(one.level, "but the viewpoint (davlo.yaml:4) names it" in one.message) for one in found] == [
        ("warning", True)
    ]
    change = davlo.Change((NameInstead("/a/bb", "/a/b"),))
    make(folder, rewrite(site, folder, change))
    assert davlo.open_site(folder).viewpoints == site.apply(change).viewpoints
    assert davlo.open_site(folder).viewpoints[0].page == "/a/b"
