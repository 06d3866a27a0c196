"""A search engine on this machine with scripted answers."""

from __future__ import annotations

import json
import socket
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from http.server import BaseHTTPRequestHandler, HTTPServer

Lists = list[dict[str, object]]


@contextmanager
def answering(*answers: tuple[int, dict[str, str]]) -> Iterator[tuple[str, Lists]]:
    """A server that gives these answers in turn, and then takes all lists; gives its address, and the lists it gets."""
    left, got = iter(answers), Lists()

    class Handler(BaseHTTPRequestHandler):
        def do_POST(self) -> None:
            got.append(json.loads(self.rfile.read(int(self.headers["Content-Length"]))))
            status, headers = next(left, (200, {}))
            self.send_response(status)
            for name, text in {"Content-Length": "0", **headers}.items():
                self.send_header(name, text)
            self.end_headers()

        def log_message(self, format: str, *args: object) -> None: ...

    server = HTTPServer(("127.0.0.1", 0), Handler)
    threading.Thread(target=server.serve_forever, kwargs={"poll_interval": 0.02}, daemon=True).start()
    try:
        yield f"http://127.0.0.1:{server.server_address[1]}/", got
    finally:
        server.shutdown()
        server.server_close()


@contextmanager
def trickling() -> Iterator[str]:
    """A server that sends a header without end, a byte at a time."""
    ended = threading.Event()
    with socket.create_server(("127.0.0.1", 0)) as server:

        def serve() -> None:
            with suppress(OSError):
                connection = server.accept()[0]
                with connection:
                    connection.sendall(b"HTTP/1.1 200 OK\r\nX-More: ")
                    while not ended.is_set():
                        connection.sendall(b"a")
                        time.sleep(0.02)

        threading.Thread(target=serve, daemon=True).start()
        yield f"http://127.0.0.1:{server.getsockname()[1]}/"
        ended.set()
