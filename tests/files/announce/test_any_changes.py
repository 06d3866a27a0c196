"""What is announced, against a plain reference: two dictionaries, of what the search engine knows and of what is there."""

from __future__ import annotations

import tempfile
from pathlib import Path
from unittest import mock
from urllib.parse import unquote

from hypothesis import given, settings
from hypothesis import strategies as st

import davlo
import davlo.files.announce.protocol as protocol
from tests.conftest import write_small

from .search_engine import answering

HOST = "https://small.example"
Pages = dict[str, tuple[str, str]]
"""The title and the day of `modified` of each page, by its path."""

states = st.dictionaries(
    st.sampled_from(["/a", "/b", "/b/c", "/é", "/d"]),
    st.tuples(st.sampled_from(["One", "Two"]), st.sampled_from(["", "2026-01-02", "2026-03-04"])),
    min_size=1,
)


def written(folder: Path, pages: Pages) -> davlo.Site:
    rows = "".join(f"{path},{title},{day}\n" for path, (title, day) in pages.items())
    return davlo.open_site(write_small(folder, pages=f"path,title,modified\n{rows}"))


@settings(max_examples=25)
@given(st.lists(states, min_size=1, max_size=4), st.lists(st.sampled_from([200, 403, 500]), max_size=8))
def test_a_search_engine_gets_what_it_does_not_know(days: list[Pages], statuses: list[int]) -> None:
    """The site changes from day to day, and the engine refuses some lists; what it took it is not told again."""
    known: Pages = {}
    with (
        tempfile.TemporaryDirectory() as name,
        mock.patch.object(protocol, "MOST_ADDRESSES", 2),
        mock.patch("davlo.files.announce.announcement.PAUSES", ()),
        answering(*((status, {}) for status in statuses)) as (endpoint, _),
    ):
        for pages in days:
            plan = written(Path(name), pages).announcement(endpoint)
            paths = {one: unquote(one).removeprefix(HOST) for one in [*plan.new, *plan.changed, *plan.gone]}
            assert {paths[one] for one in plan.new} == set(pages) - set(known)
            assert {paths[one] for one in plan.gone} == set(known) - set(pages)
            both = set(pages) & set(known)
            assert {paths[one] for one in plan.changed} == {path for path in both if pages[path] != known[path]}
            for sent in plan.send("quillmere-5d1c0a9e"):
                for path in (paths[one] for one in sent.addresses if sent.answer.is_taken):
                    known.pop(path, None)
                    known |= {path: pages[path]} if path in pages else {}
