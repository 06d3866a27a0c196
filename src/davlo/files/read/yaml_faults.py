"""Mistakes of YAML, in words that say what was probably meant: the parser's own seldom do."""

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
    return Fault(Place(file, line), f"this is not YAML: {problem}")


def _start(error: yaml.YAMLError) -> int:
    mark = getattr(error, "context_mark", None)
    return mark.line + 1 if mark is not None else 0


def _hint(text: str) -> tuple[str, str] | None:
    """What was probably meant by a line that is not YAML, and what to write; of a very long one, by how it begins."""
    text = text[:MOST_OF_LINE]
    if re.match(r"\s*\t", text):
        return "a tab stands at the start of the line; YAML indents with spaces", "put two spaces for each tab"
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
