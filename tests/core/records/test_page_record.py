"""Pages whole, and pages that are not there yet."""

from __future__ import annotations

import tempfile
from copy import deepcopy
from pathlib import Path
from random import Random

import pytest

import davlo
from davlo.core.change.steps.new_page import with_page
from davlo.core.records.settings_of_page import ORDER
from davlo.core.site.source import source_of
from tests.core.resolve.test_fold import open_made_up
from tests.sites import TYPES, SiteDict, of_made_up_sites, write_site


@of_made_up_sites(7)
def test_a_new_page_gets_what_it_gets_when_it_is_there(site: SiteDict) -> None:
    opened, random = open_made_up(site), Random(str(site["rows"]))
    above = random.choice(opened.tree.paths.tolist()).rstrip("/")
    path, kind = random.choice(["/gone", f"{above}/new"]), random.choice(TYPES)
    grown, page = with_page(opened, path, {"type": kind, "title": "New"})
    row = {"path": path, "type": kind, "title": "New", "language": "", "tags": "", "status": "", "made_with": ""}
    row["order"] = ""
    changed = deepcopy(site)
    changed["rows"].append(row)
    changed["stamps"] = [stamp for stamp in changed["stamps"] if stamp["path"] != path]
    with tempfile.TemporaryDirectory() as folder:
        there = davlo.open_site(write_site(changed, Path(folder)))
    assert grown.tree.paths.tolist() == there.tree.paths.tolist()
    assert (grown.tree.parent.tolist(), grown.details.home) == (there.tree.parent.tolist(), there.details.home)
    assert grown.details.title.texts() == there.details.title.texts()
    one, other = grown.resolve(), there.resolve()
    for number, setting in enumerate(opened.catalogue.settings):
        name = setting.name
        if setting.default_for == "all-pages":
            same = there.setting_number(name)
            assert one.codes(name)[0].shape == other.codes(name)[0].shape
            for at, place in enumerate(there.tree.paths):
                assert one.value(at, number) == other.value(at, same)
                sources = [
                    source_of(s, int(e.resolved(n).source[at]))
                    for s, e, n in ((grown, one, number), (there, other, same))
                ]
                assert sources[0] == sources[1], (place, name)
        elif path != "/gone":  # which may say something itself
            live = other.fold_stages(there.setting_number(name))
            word = live.words[int(live.live_value[page])]
            assert one.value(page, number) == word


def test_a_page_whole() -> None:
    page = davlo.open_demo().page("/visit/tickets")
    assert (page.parent, page.type, page.details["tags"]) == ("/visit", "Page", "prices")
    assert [one.name for one in page.said()][:2] == ["title.pattern", "layout.name"]
    groups = list(dict.fromkeys(one.group for one in page.settings))
    assert groups == [group for group in ORDER if group in groups]
    assert "details" not in page.details
    with pytest.raises(davlo.UnknownName):
        davlo.open_demo().page("/nowhere")


def test_a_page_that_cannot_be_is_refused() -> None:
    site = davlo.open_demo()
    for path, details, says in (
        ("/visit", {}, "is there twice"),
        ("visit/x", {}, "starts with /"),
        ("/x", {"parent": "/nowhere"}, "is not in the page list"),
    ):
        with pytest.raises(davlo.SiteError) as error:
            site.new_page(path, **details)
        assert says in error.value.faults[0].what
    with pytest.raises(davlo.UnknownName):
        site.new_page("/x", type="evnt")
    with pytest.raises(davlo.UnknownName, match="no detail 'typ'"):
        site.new_page("/x", typ="event")
    with pytest.raises(davlo.SiteError) as error:
        site.new_page("/x", order="first", status="done")
    assert [fault.what for fault in error.value.faults] == [
        "status takes live, draft or folder, not 'done'",
        "order takes a number, not 'first'",
    ]
    assert site.new_page("/x", order="2.5", status="draft")["menu.reason"] == "it is a draft"
