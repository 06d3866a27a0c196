"""What is announced, against a plain reference: two dictionaries, of what the search engine knows and of what is there."""

from __future__ import annotations

import json
import tempfile
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from http.server import BaseHTTPRequestHandler, HTTPServer
from pathlib import Path
from unittest import mock
from urllib.parse import unquote

from hypothesis import given, settings
from hypothesis import strategies as st

import davlo
import davlo.files.announce.protocol as protocol
from tests.conftest import write_small

HOST = "https://small.example"
Pages = dict[str, tuple[str, str]]
"""The title and the day of `modified` of each page, by its path."""

states = st.dictionaries(
    st.sampled_from(["/a", "/b", "/b/c", "/é", "/d"]),
    st.tuples(st.sampled_from(["One", "Two"]), st.sampled_from(["", "2026-01-02", "2026-03-04"])),
    min_size=1,
)


@contextmanager
def engine() -> Iterator[tuple[str, list[int], list[list[str]]]]:
    """A search engine that gives these statuses in turn, then 200; gives its address, and the lists that it took."""
    statuses, taken = list[int](), list[list[str]]()

    class Handler(BaseHTTPRequestHandler):
        def do_POST(self) -> None:
            addresses = json.loads(self.rfile.read(int(self.headers["Content-Length"])))["urlList"]
            status = statuses.pop(0) if statuses else 200
            if status == 200:
                taken.append(addresses)
            self.send_response(status)
            self.send_header("Content-Length", "0")
            self.end_headers()

        def log_message(self, format: str, *args: object) -> None: ...

    server = HTTPServer(("127.0.0.1", 0), Handler)
    threading.Thread(target=server.serve_forever, kwargs={"poll_interval": 0.01}, daemon=True).start()
    try:
        yield f"http://127.0.0.1:{server.server_address[1]}/", statuses, taken
    finally:
        server.shutdown()
        server.server_close()


def written(folder: Path, pages: Pages) -> davlo.Site:
    rows = "".join(f"{path},{title},{day}\n" for path, (title, day) in pages.items())
    return davlo.open_site(write_small(folder, pages=f"path,title,modified\n{rows}"))


@settings(max_examples=25)
@given(st.lists(st.tuples(states, st.lists(st.sampled_from([200, 403, 500]), max_size=3)), min_size=1, max_size=4))
def test_a_search_engine_gets_what_it_does_not_know(days: list[tuple[Pages, list[int]]]) -> None:
    """The site changes from day to day, and the engine refuses some lists; what it took it is not told again."""
    known: Pages = {}
    with (
        tempfile.TemporaryDirectory() as name,
        engine() as (endpoint, statuses, taken),
        mock.patch.object(protocol, "MOST_ADDRESSES", 2),
        mock.patch("davlo.files.announce.announcement.PAUSES", ()),
    ):
        for pages, answers in days:
            plan = written(Path(name), pages).announcement(endpoint)
            paths = {one: unquote(one).removeprefix(HOST) for one in [*plan.new, *plan.changed, *plan.gone]}
            assert {paths[one] for one in plan.new} == set(pages) - set(known)
            assert {paths[one] for one in plan.gone} == set(known) - set(pages)
            both = set(pages) & set(known)
            assert {paths[one] for one in plan.changed} == {path for path in both if pages[path] != known[path]}
            statuses[:], taken[:] = answers, []
            assert len([*plan.send("quillmere-5d1c0a9e")]) >= len(taken)
            for path in (paths[address] for some in taken for address in some):
                known.pop(path, None)
                known |= {path: pages[path]} if path in pages else {}
