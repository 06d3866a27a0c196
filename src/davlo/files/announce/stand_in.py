"""A stand-in for a search engine: a small server on this machine that takes lists of addresses."""

from __future__ import annotations

import json
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path
from typing import NamedTuple
from urllib.parse import unquote, urlsplit

from davlo.core.outcomes.sitemap.addresses import is_web_address

from ..read.site_file import open_site_file
from .protocol import MOST_ADDRESSES, is_key

MOST_BYTES = 64 << 20
"""The longest list that is read."""
LONGEST_KEY = 1024
SECONDS = 20


class Reply(NamedTuple):
    """A status, and a sentence that says why."""

    status: int
    why: str


@contextmanager
def stand_in(root: Path) -> Iterator[str]:
    """A search engine on this machine; gives its address. It reaches nothing: key files are read from a folder.

    `root`: the folder whose files stand at the site's root.
    """

    class Handler(BaseHTTPRequestHandler):
        timeout = SECONDS

        def do_POST(self) -> None:
            length = self.headers.get("Content-Length", "")
            if not length.isdecimal() or int(length) > MOST_BYTES:
                reply = Reply(400, "the list has no length, or is too long")
            elif not self.headers.get("Content-Type", "").lower().startswith("application/json"):
                reply = Reply(400, "the list is no application/json")
            else:
                reply = reply_to(self.rfile.read(int(length)), root)
            body = f"{reply.why}\n".encode()
            self.send_response(reply.status)
            self.send_header("Content-Type", "text/plain; charset=utf-8")
            self.send_header("Content-Length", str(len(body)))
            self.end_headers()
            self.wfile.write(body)

        def log_message(self, format: str, *args: object) -> None:
            """Say nothing."""

    server = ThreadingHTTPServer(("127.0.0.1", 0), Handler)
    thread = threading.Thread(target=server.serve_forever, kwargs={"poll_interval": 0.05}, daemon=True)
    thread.start()
    try:
        yield f"http://127.0.0.1:{server.server_address[1]}/announce"
    finally:
        server.shutdown()
        server.server_close()
        thread.join()


def reply_to(content: bytes, root: Path) -> Reply:
    """What a search engine answers to a list: whether it is of the form that the protocol asks, and the key holds.

    `content`: the list as it was sent. `root`: the folder whose files stand at the site's root.
    """
    try:
        told = json.loads(content)
        host, key, urls = told["host"], told["key"], told["urlList"]
        where = told.get("keyLocation", f"https://{host}/{key}.txt")
        texts = [host, key, where, *urls]
    except (ValueError, TypeError, LookupError, AttributeError, RecursionError):
        return Reply(400, "it is no JSON with host, key and urlList")
    if not isinstance(urls, list) or not all(isinstance(text, str) for text in texts) or not urls:
        return Reply(400, "host, key and the addresses are texts, and there is at least one address")
    if len(urls) > MOST_ADDRESSES:
        return Reply(400, f"a list has at most {MOST_ADDRESSES:,} addresses, not {len(urls):,}")
    if not is_key(key):
        return Reply(422, "a key is 8 to 128 letters, digits and hyphens")
    if not is_web_address(where) or urlsplit(where).netloc != host:
        return Reply(422, "the key file is not on the host")
    speaks_for = where[: where.rindex("/") + 1]
    other = next((url for url in urls if not is_web_address(url) or not url.startswith(speaks_for)), None)
    if other is not None:
        return Reply(422, f"{other} is not where the key file speaks for")
    if not _holds(root, urlsplit(where).path.rpartition("/")[2], key):
        return Reply(403, f"{where} is not there, or does not hold the key")
    return Reply(200, "taken")


def _holds(root: Path, name: str, key: str) -> bool:
    """Whether a file of the folder holds the key."""
    try:
        with open_site_file(root, unquote(name)) as file:
            return file.read(LONGEST_KEY).decode("utf-8-sig", "replace").strip() == key
    except OSError:
        return False
