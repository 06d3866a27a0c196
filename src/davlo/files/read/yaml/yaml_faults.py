"""Mistakes of YAML, explained with what was probably meant; the parser's own messages seldom do that."""

from __future__ import annotations

import re

import yaml

from davlo.core.arrays.lines import lines_of
from davlo.core.faults import Fault, Place

MOST_OF_LINE = 300


def yaml_fault(error: yaml.YAMLError, content: str, file: str) -> Fault:
    """A mistake of YAML, in words that say what was probably meant."""
    mark = getattr(error, "problem_mark", None)
    problem = getattr(error, "problem", None) or str(error)
    line = mark.line + 1 if mark is not None else 0
    lines = lines_of(content)
    near = [n for n in (line, line - 1, _start(error)) if 1 <= n <= len(lines)]
    for number in dict.fromkeys(near):
        hint = _hint(lines[number - 1])
        if hint:
            return Fault(Place(file, number), hint[0], hint=hint[1])
    return (
        _opened(error, lines, file)
        or _indented(line, lines, file)
        or Fault(Place(file, line), f"this is not YAML: {problem}")
    )


def _opened(error: yaml.YAMLError, lines: list[str], file: str) -> Fault | None:
    """What is opened and not closed: a quote, a brace or a bracket; at the line where it begins."""
    context, mark = str(getattr(error, "context", "") or ""), getattr(error, "context_mark", None)
    if mark is None or not 0 <= mark.line < len(lines):
        return None
    opened = lines[mark.line][mark.column : mark.column + 1]
    closing = {'"': '"', "'": "'", "{": "}", "[": "]"}.get(opened)
    if closing is None or not any(word in context for word in ("quoted", "flow")):
        return None
    what = "a quote" if opened == closing else f"a {opened}"
    return Fault(Place(file, mark.line + 1), f"{what} is opened here, and not closed", hint=f"end it with {closing}")


def _indented(line: int, lines: list[str], file: str) -> Fault | None:
    """A line that begins at another place than those beside it."""
    if not 1 <= line <= len(lines):
        return None
    mine = _indent(lines[line - 1])
    above = [
        (n, text) for n, text in enumerate(lines[: line - 1], 1) if text.strip() and not text.lstrip().startswith("#")
    ]
    if not above:
        return None
    text = above[-1][1]
    levels = [_indent(one) for _, one in above[-MOST_ABOVE:]]
    holds = re.match(r"\s*(?:-\s+)?[^\s:#'\"]+:\s+[^\s#&|>]", text)
    if mine > levels[-1] and holds:
        wanted = levels[-1]
    elif mine < levels[-1] and mine not in levels:
        wanted = min(set(levels), key=lambda level: (abs(level - mine), -level))
    else:
        return None
    what = f"the line begins with {_spaces(mine)}; those beside it begin with {_spaces(wanted)}"
    return Fault(Place(file, line), what, hint=f"begin it with {_spaces(wanted)}, as line {_like(above, wanted)} does")


MOST_ABOVE = 200
"""How many lines above are looked at."""


def _like(above: list[tuple[int, str]], indent: int) -> int:
    return next(number for number, text in reversed(above) if _indent(text) == indent)


def _indent(text: str) -> int:
    """Where the text of a line begins, after the dash of an entry."""
    begins = re.match(r" *(?:- +)*", text)
    return begins.end() if begins else 0


def _spaces(number: int) -> str:
    return {0: "no space", 1: "1 space"}.get(number, f"{number} spaces")


def _start(error: yaml.YAMLError) -> int:
    mark = getattr(error, "context_mark", None)
    return mark.line + 1 if mark is not None else 0


def _hint(text: str) -> tuple[str, str] | None:
    """What was probably meant by a line that is not YAML, and what to write. Only the start of a long line counts."""
    text = text[:MOST_OF_LINE]
    if re.match(r"\s*\t", text):
        return "a tab stands at the start of the line; YAML indents with spaces", "put two spaces for each tab"
    close = re.match(r"\s*(?:-\s+)?([\w.-]+):([^\s:/][^\s]*)\s*$", text)
    if close:
        return "a colon needs a space after it", f"write {close[1]}: {close[2]}"
    match = re.match(r"\s*(?:-\s+)?([^\s:#'\"]+):\s+(.+?)\s*$", text)
    value = match[2] if match else ""
    listed = re.match(r"\s*-\s+(\S.*?)\s*$", text)
    if listed and not match:
        value = listed[1]
    if re.match(r"\{[^{}]*\}\s*\S", value):
        return "a text that begins with { must stand in quotes", f'write {match[1] + ": " if match else "- "}"{value}"'
    inner = re.search(r"(?:^|[\s\[,{])(\*[^\s,\]}]*|[%@`][^\s,\]}]*)", value)
    if inner:
        return f"a text that begins with {inner[1][0]} must stand in quotes", f'write "{inner[1]}"'
    if ": " in value and value[:1] not in "\"'[{":
        return (
            "a text with a colon and a space in it must stand in quotes",
            f'write {match[1] if match else ""}: "{value}"',
        )
    return None
