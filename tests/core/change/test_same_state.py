"""`what_differs` finds every change, and nothing where only the files differ."""

from __future__ import annotations

import tempfile
from contextlib import suppress
from pathlib import Path
from random import Random

import davlo
from davlo.core.change.differences.same_state import what_differs
from davlo.core.change.steps.change import Change, ChangeError
from tests.files.rewrite.test_rewrite import findings, state, step_of
from tests.sites import SiteDict, of_made_up_sites, write_site


@of_made_up_sites(3)
def test_it_is_empty_only_where_nothing_differs(site: SiteDict) -> None:
    random = Random(str(site["rows"]))
    with tempfile.TemporaryDirectory() as name:
        folder = write_site(site, Path(name))
        opened, again = davlo.open_site(folder), davlo.open_site(folder)
        assert what_differs(opened, again) == ""
        for _ in range(6):
            step = step_of(opened, random)
            with suppress(ChangeError):
                after = opened.apply(Change((step,)) if step else Change())
                if state(after) != state(opened):
                    assert what_differs(opened, after), step
                    assert what_differs(after, opened), step
                if not what_differs(opened, after):
                    assert findings(after) == findings(opened), step


def test_lines_and_comments_do_not_matter(tmp_path: Path) -> None:
    for folder, more in ((tmp_path / "one", ""), (tmp_path / "two", "# a comment\n\n")):
        davlo.write_demo(folder)
        text = (folder / "davlo.yaml").read_text()
        (folder / "davlo.yaml").write_text(more + text)
    one, two = (davlo.open_site(tmp_path / name) for name in ("one", "two"))
    assert what_differs(one, two) == ""
