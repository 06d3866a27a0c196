"""The report as one HTML file: a page, its style, its program and its data, with nothing from outside.

A content security policy (W3C CSP 3) allows the file's own style and program by their digests, and nothing else.
"""

from __future__ import annotations

import base64
import hashlib
import json
from collections.abc import Mapping
from importlib.resources import files
from typing import Any

from jinja2 import Environment, StrictUndefined

PARTS = files("davlo.report") / "page"
PROGRAM = ("address.js", "search.js", "report.js")


def report_html(data: Mapping[str, Any]) -> str:
    """The report.

    `data`: what `report_data` gives.

    Example
    -------
    >>> text = report_html({"site": {"name": "</script><b>", "url": "", "as": ""}})
    >>> "</script><b>" in text, text.startswith("<!doctype html>")
    (False, True)
    """
    style, page = ((PARTS / name).read_text(encoding="utf-8") for name in ("report.css", "report.html"))
    program = "".join((PARTS / name).read_text(encoding="utf-8") for name in PROGRAM)
    template = Environment(autoescape=True, undefined=StrictUndefined).from_string(page)
    policy = (
        f"default-src 'none'; style-src '{_digest(style)}'; script-src '{_digest(program)}'; base-uri 'none'; "
        "form-action 'none'"
    )
    return template.render(
        name=data["site"]["name"],
        viewer=data["site"]["as"],
        made=data["site"].get("made", ""),
        policy=policy,
        style=style,
        program=program,
        data=as_script(data),
    )


def as_script(data: object) -> str:
    """JSON that can neither end its script nor begin a comment in it (HTML, section 4.12.1.3).

    Example
    -------
    >>> as_script({"a": "</script><!--"})
    '{"a":"\\\\u003c/script\\\\u003e\\\\u003c!--"}'
    """
    text = json.dumps(data, ensure_ascii=False, separators=(",", ":"))
    for letter in "<>&\u2028\u2029":
        text = text.replace(letter, f"\\u{ord(letter):04x}")
    return text


def _digest(text: str) -> str:
    return f"sha256-{base64.b64encode(hashlib.sha256(text.encode()).digest()).decode()}"
