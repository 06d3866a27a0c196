"""Sending one list to a search engine, within a bound of time."""

from __future__ import annotations

import queue
import threading
from typing import NamedTuple

from .protocol import CONTENT_TYPE, Answer, answer_of

SECONDS = 20.0
"""How long a search engine may take for its whole answer."""
MOST_LETTERS = 300
"""The most letters of an answer that are shown."""
NO_ANSWER = Answer(False, True, "not taken: no answer comes")


class Reply(NamedTuple):
    """What a search engine answers."""

    answer: Answer
    told: str = ""  # what it wrote with it, in one line
    after: float = 0.0  # the pause that it asks for. Unit: seconds.


def post(endpoint: str, content: bytes, seconds: float = SECONDS) -> Reply:
    """Send a list once; an answer that takes longer than some seconds, however it trickles in, is none.

    `endpoint`: the address of the search engine. `content`: the list.
    """
    import httpx

    replies: queue.SimpleQueue[Reply] = queue.SimpleQueue()
    client = httpx.Client(timeout=seconds, follow_redirects=False)

    def ask() -> None:
        try:
            with client.stream("POST", endpoint, content=content, headers={"Content-Type": CONTENT_TYPE}) as got:
                told = _line(next(got.iter_bytes(MOST_LETTERS), b""))
                replies.put(Reply(answer_of(got.status_code), told, _seconds(got.headers.get("Retry-After", ""))))
        except Exception as error:  # also whatever comes of the connection being closed below
            replies.put(Reply(NO_ANSWER, _line(str(error).encode("utf-8", "replace"))))

    threading.Thread(target=ask, daemon=True).start()
    try:
        return replies.get(timeout=seconds)
    except queue.Empty:
        return Reply(NO_ANSWER, f"the answer takes longer than {seconds:g} seconds")
    finally:
        client.close()


def _line(content: bytes) -> str:
    return " ".join(content.decode("utf-8", "replace").split())[:MOST_LETTERS]


def _seconds(text: str) -> float:
    """The pause that a search engine asks for, in seconds (RFC 9110, section 10.2.3); a date counts as none."""
    return float(text) if text.isdecimal() and len(text) < 6 else 0.0
