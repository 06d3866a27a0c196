"""What `write` and `undo` do to any made-up site, and that what `why` says to type does what it says."""

from __future__ import annotations

import json
import shlex
import tempfile
from contextlib import suppress
from pathlib import Path
from random import Random
from typing import Any

import pytest

import davlo
from davlo.core.change.differences.list_changes import said_before
from davlo.core.change.differences.same_state import what_differs
from davlo.core.change.steps.change import CHANGED, Change, ChangeError
from davlo.core.site.settings.parse_values import read_value
from davlo.core.site.settings.values import ListChange, format_value, raw_of
from davlo.files.rewrite.cannot_rewrite import CannotRewrite
from tests.conftest import Run, contents
from tests.files.rewrite.test_rewrite import step_of
from tests.sites import LISTS, WORDS, SiteDict, of_made_up_sites, write_site


@of_made_up_sites(3)
def test_undo_after_any_writes_gives_the_old_bytes(site: SiteDict) -> None:
    random = Random(str(site["rows"]))
    with tempfile.TemporaryDirectory() as name:
        folder = write_site(site, Path(name))
        now, states = davlo.open_site(folder), [contents(folder)]
        for _ in range(4):
            step = step_of(now, random) if len(now.tree) else None
            change = Change((step,)) if step is not None else Change()
            if random.random() < 0.3 and now.check().findings:
                ways = now.ways(random.choice(now.check().findings))
                change = random.choice(ways).change if ways else change
            with suppress(ChangeError, CannotRewrite):
                reach, written = now.reach(change), None
                if now.edits(change):
                    written = now.write(reach, even_so=True)
                if written is None:
                    continue
                assert what_differs(reach.after.site, written.site) == ""
                now = davlo.open_site(folder)
                assert what_differs(written.site, now) == ""
                states.append(contents(folder))
        assert len(now.writes()) == len(states) - 1
        for state in reversed(states[:-1]):
            undoing = now.undoing()
            back = now.undo()
            assert contents(folder) == state
            assert what_differs(undoing.reach.after.site, back.site) == ""
            now = back.site


@of_made_up_sites(3)
def test_typing_what_why_says_gives_the_page_that_value(site: SiteDict) -> None:
    """Ten pairs of a page and a setting on each of ten sites; every way that says it changes this page too."""
    from davlo.core.change.ways_to_change import ways_to_change

    random = Random(str(site["rows"]))
    with tempfile.TemporaryDirectory() as name:
        folder = write_site(site, Path(name))
        opened = davlo.open_site(folder)
        effective = opened.resolve()
        names = [name for name in (*WORDS, *LISTS) if opened.catalogue.find(name) is not None]
        for _ in range(10):
            path, setting = random.choice(opened.tree.paths.tolist()), random.choice(names)
            number = opened.setting_number(setting)
            if not opened.has(number)[opened.page_number(path)]:
                continue
            have = effective[path][setting]
            wanted = [raw_of(value) for value in ([[LISTS[setting][0]], []] if setting in LISTS else WORDS[setting])]
            for way in ways_to_change(effective, opened.page_number(path), number):
                value = random.choice(wanted)
                with suppress(ChangeError):
                    lock = said_before(opened, way.scope, setting)[0]  # `davlo set` keeps a lock that is there
                    change = Change().say(setting, value, lock=lock, **where_of(way.scope))
                    resolved = opened.apply(change).resolve()
                    after, candidates = resolved[path][setting], resolved.why(path, setting).candidates
                    asked = read_value(opened.catalogue.setting(setting), raw_of(value))
                    reached = [one for one in way.reaches if one.value is None or one.value == asked]
                    if not isinstance(value, str) or not value.startswith("<"):
                        is_new = after != have
                        assert not is_new or any(one.this_too for one in reached), (path, setting, way)
                        mine = [one.verdict for one in candidates if one.place and one.place.file == CHANGED.file]
                        stronger = [one.says for one in candidates if one.verdict in ("wins", "counts")]
                        is_list_change = any(isinstance(says, ListChange) for says in stronger)
                        # something stronger changes the list further; of the empty list no item counts
                        is_changed = setting in LISTS and ("counts" in mine or (value == [] and is_list_change))
                        assert not all(one.this_too for one in reached) or after == asked or is_changed, (
                            path,
                            way,
                            value,
                        )


def where_of(scope: davlo.Scope) -> dict[str, Any]:
    """A scope as `Change.say` takes it."""
    if scope.both:
        return {"here_and_below": scope.name}
    return {scope.kind.word: scope.name or True}


PAIRS = [
    ("/visit/tickets", "sidebar.right", "quiet"),
    ("/events/2026/seed-swap", "sidebar.right", "main"),
    ("/staff/rota", "access.editors", "view"),
    ("/campaigns/spring", "layout.name", "plain"),
]


@pytest.mark.parametrize(("path", "setting", "value"), PAIRS)
def test_the_commands_that_why_prints_can_be_typed(
    path: str, setting: str, value: str, garden: Path, run: Run, tmp_path: Path
) -> None:
    told = json.loads(run("why", path, setting, "--format", "json", "--site", str(garden)).out)
    typed = 0
    for way in told["ways to change it"]:
        if all(one["this page too"] for one in way["changes"] if one["value"] in (None, False)):
            folder = tmp_path / f"way-{typed}"
            davlo.write_demo(folder)
            words = [
                word.replace("VALUE", value).replace(str(garden), str(folder)) for word in shlex.split(way["type"])
            ]
            assert words[0] == "davlo"
            got = run(*words[1:], "--write", "--even-so")
            if "can" not in got.err:
                assert got.status == 0, got.err
                assert format_value(davlo.open_site(folder).resolve()[path][setting]) == value, words
                typed += 1
    assert typed
