"""The website of examples/build_the_garden.py in a real browser: what the records say is there, and looks as they say.

`make test-browser` runs these: they need Debian's Chromium, whose path is in DAVLO_TEST_CHROMIUM.
"""

from __future__ import annotations

import functools
import http.server
import json
import subprocess
import sys
import threading
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest

from tests.conftest import Run
from tests.examples.test_applying import EXAMPLE

from .conftest import CHROMIUM

pytestmark = pytest.mark.skipif(not CHROMIUM, reason="needs a browser: make test-browser")
SCREENS = {"wide": (1280, 800), "phone": (360, 740)}
PAGES = ("/", "/visit/tickets", "/fr/visiter/billets", "/plants", "/stories", "/campaigns/spring", "/about")


class Silent(http.server.SimpleHTTPRequestHandler):
    """Serves the folder, and prints nothing."""

    def log_message(self, format: str, *args: Any) -> None:
        pass


@pytest.fixture
def records(own: Path, run: Run, tmp_path: Path) -> dict[str, Any]:
    """The records of the garden, whose website is built beside them, in `public`."""
    run("export", "--records", "--to", str(tmp_path / "records.jsonl"), "--site", str(own))
    run("export", "--to", str(tmp_path / "looks.css"), "--site", str(own))
    words = [str(EXAMPLE), *(str(tmp_path / name) for name in ("records.jsonl", "looks.css", "public"))]
    subprocess.run([sys.executable, *words], check=True, capture_output=True)
    lines = (tmp_path / "records.jsonl").read_text(encoding="utf-8").splitlines()
    return {record["path"]: record for record in map(json.loads, lines)}


@pytest.fixture
def address(records: dict[str, Any], tmp_path: Path) -> Iterator[str]:
    """Where the website is served."""
    handler = functools.partial(Silent, directory=str(tmp_path / "public"))
    with http.server.ThreadingHTTPServer(("127.0.0.1", 0), handler) as server:
        threading.Thread(target=server.serve_forever, daemon=True).start()
        yield f"http://127.0.0.1:{server.server_address[1]}"
        server.shutdown()


@pytest.mark.parametrize("screen", SCREENS)
def test_a_screen_shows_what_the_records_say(browser: Any, records: dict[str, Any], address: str, screen: str) -> None:
    width, height = SCREENS[screen]
    page = browser.new_page(viewport={"width": width, "height": height})
    for path in PAGES:
        outcomes = records[path]["outcomes"]
        page.goto(address + outcomes["address"].removeprefix("https://quillmere.example"))
        assert page.title() == outcomes["title"]
        shown = {area: things for area, things in outcomes["shows"].items() if outcomes["theme"]["areas"].get(area)}
        places = {area: page.locator(f".areas > .{area}") for area in shown}
        for area, things in shown.items():
            text = " ".join((places[area].inner_text() if places[area].is_visible() else "").split())
            for thing in things:
                is_here = screen in thing.get("screens", SCREENS)
                for block in thing.get("blocks", []):
                    words = [link["label"] for link in block.get("links", [])] or [block.get("text", "")]
                    assert all((" ".join(word.split()) in text) == is_here for word in words), (path, area, block)
        if screen == "phone":
            tops = [places[area].bounding_box()["y"] for area in outcomes["phone"] if shown.get(area)]
            assert tops == sorted(tops), path
        assert page.evaluate("document.documentElement.scrollWidth") <= width, path
    page.close()


def test_looks_are_as_the_records_say(browser: Any, records: dict[str, Any], address: str) -> None:
    page = browser.new_page(viewport={"width": 1280, "height": 800})
    for path in PAGES:
        outcomes = records[path]["outcomes"]
        page.goto(address + outcomes["address"].removeprefix("https://quillmere.example"))
        for area, look in outcomes["looks"].items():
            whole = page.locator(f".areas > .{area}.{look['classes']['whole']}")
            style = "(one, name) => getComputedStyle(one).getPropertyValue(name)"
            for name in ("position", "border-top-width", "margin-inline-start"):
                if name in look["whole"]:
                    assert whole.evaluate(style, name) == look["whole"][name], (path, area, name)
            if look["whole"].get("width", "").endswith("%"):
                share = float(look["whole"]["width"].rstrip("%")) / 100
                inner = page.locator(".areas").evaluate("one => one.clientWidth - 32")
                assert abs(whole.bounding_box()["width"] - share * inner) < 2, (path, area)
    page.close()
