"""The protocol by which a site tells search engines what changed (indexnow.org/documentation).

A key stands in a file at the site's root; a list of at most 10,000 addresses goes to the search engine as JSON.
"""

from __future__ import annotations

import json
import re
from collections.abc import Iterator, Sequence
from typing import NamedTuple
from urllib.parse import urlsplit

MOST_ADDRESSES = 10_000
CONTENT_TYPE = "application/json; charset=utf-8"
_KEY = re.compile(r"[A-Za-z0-9-]{8,128}")
_LOOPBACK = ("localhost", "127.0.0.1", "::1")


class Answer(NamedTuple):
    """What a status means."""

    is_taken: bool
    may_pass: bool  # whether asking again may help
    words: str


ANSWERS = {
    200: Answer(True, False, "taken"),
    202: Answer(True, False, "taken; the key file is still to be read"),
    400: Answer(False, False, "refused: it does not understand the list"),
    403: Answer(False, False, "refused: the key file is not there, or does not hold the key"),
    422: Answer(False, False, "refused: addresses are not on the site's host, or the key is not of the form it takes"),
    429: Answer(False, True, "refused for now: too many requests"),
}


def answer_of(status: int) -> Answer:
    """What a status of HTTP means.

    Example
    -------
    >>> answer_of(202).is_taken, answer_of(503).may_pass, answer_of(404).words
    (True, True, 'refused: it answers 404, which the protocol does not know')
    """
    if status >= 500:
        return Answer(False, True, f"not taken: the search engine has a fault of its own ({status})")
    return ANSWERS.get(status) or Answer(
        False, False, f"refused: it answers {status}, which the protocol does not know"
    )


def is_key(text: str) -> bool:
    """Whether a text can be a key: 8 to 128 letters, digits and hyphens."""
    return _KEY.fullmatch(text) is not None


def why_no_endpoint(address: str) -> str:
    """Why a list cannot be sent to an address; empty if it can: by https, or to this machine itself."""
    try:
        parts = urlsplit(address)
    except ValueError:
        return "it is no address"
    if parts.scheme not in ("http", "https") or not parts.hostname:
        return "it is no address that begins with https://"
    if parts.scheme == "http" and parts.hostname not in _LOOPBACK:
        return "whatever is sent by http can be read on the way"
    return ""


def message(site: str, key: str, addresses: Sequence[str]) -> bytes:
    """The list as it is sent.

    `site`: the site's address, under whose root the key file stands. `addresses`: at most 10,000.

    Example
    -------
    >>> message("https://garden.example", "quillmere-1", ["https://garden.example/a"]).decode()[:42]
    '{"host": "garden.example", "key": "quillme'
    """
    told = {"host": urlsplit(site).netloc, "key": key, "keyLocation": key_address(site, key)}
    return json.dumps({**told, "urlList": list(addresses)}).encode()


def key_address(site: str, key: str) -> str:
    """Where the key file stands: it speaks for all addresses in its folder."""
    return f"{site}/{key}.txt"


def in_batches(addresses: Sequence[str]) -> Iterator[Sequence[str]]:
    """The addresses, as many at a time as a list may hold."""
    for begin in range(0, len(addresses), MOST_ADDRESSES):
        yield addresses[begin : begin + MOST_ADDRESSES]
