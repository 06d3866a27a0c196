"""Debian's Chromium, for the tests that look at pages in a browser."""

from __future__ import annotations

import os
from collections.abc import Iterator
from typing import Any

import pytest

CHROMIUM = os.environ.get("DAVLO_TEST_CHROMIUM", "")
ARGS = (
    "--no-sandbox",
    "--disable-gpu",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--no-first-run",
)


@pytest.fixture(scope="module")
def browser() -> Iterator[Any]:
    sync_api = pytest.importorskip("playwright.sync_api")
    with sync_api.sync_playwright() as playwright:
        found = playwright.chromium.launch(executable_path=CHROMIUM, args=list(ARGS))
        yield found
        found.close()
