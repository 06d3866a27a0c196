"""JSON Lines: a page list with one JSON object a line (RFC 8259), in UTF-8.

The names in an object are its columns; an object may leave columns out. Davlo reads such a file and never writes it.
"""

from __future__ import annotations

import codecs
import io
import json
from typing import Any

import numpy as np

from davlo.core.arrays.codebooks import Codebook, Codes, Column
from davlo.core.faults import Place, ValueFault
from davlo.frames.intake import cell_text

from ..site_file import KEEP_ONE, conflict_in
from ..yaml.node_reader import Reader
from .large_csv import Content

JSON_LINES = ".jsonl"
MOST_CELLS = 60_000_000
"""Rows times columns: names that differ from line to line make a small file a huge table."""
EXAMPLE = '{"path": "/visit", "title": "Visit"}'


def read_json_lines(content: Content, name: str, reader: Reader) -> tuple[tuple[str, ...], list[Column], Codes] | None:
    """The header, the columns and the line of each row; None where there is none to read, which is noted."""
    line, conflict = conflict_in(content)
    if line:
        reader.fault(Place(name, line), conflict, hint=KEEP_ONE)
        return None
    columns: dict[str, tuple[Codebook[str], list[int]]] = {}
    lines: list[int] = []
    before = len(reader.faults)
    for number, raw in enumerate(io.BytesIO(content), 1):
        raw = raw.removeprefix(codecs.BOM_UTF8) if number == 1 else raw
        if not raw.strip():
            continue
        try:
            row = _row(raw)
            for column, value in row.items():
                words, codes = columns.setdefault(column, (Codebook([""]), []))
                codes += [0] * (len(lines) - len(codes))
                codes.append(words.code(_text(value, column)))
        except ValueFault as error:
            reader.value_fault(Place(name, number), error)
            if not lines and raw.lstrip().startswith(b"["):
                return None  # a list over many lines: one fault says so
        lines.append(number)
        if len(lines) * len(columns) > MOST_CELLS:
            what = f"up to here it has {len(lines):,} rows and {len(columns):,} columns"
            reader.fault(Place(name, number), f"{what}, and Davlo reads {MOST_CELLS:,} cells")
            return None
    if not lines:
        reader.fault(Place(name), "the file is empty", hint=f"write one page a line: {EXAMPLE}")
    if len(reader.faults) > before:
        return None
    for _, codes in columns.values():
        codes += [0] * (len(lines) - len(codes))
    table = [Column(np.array(codes, dtype=np.int32), words.items) for words, codes in columns.values()]
    return tuple(map(str.strip, columns)), table, np.array(lines, dtype=np.int32)


def _row(raw: bytes) -> dict[str, Any]:
    """The object on a line.

    Raises ValueFault if the line holds something else.
    """
    try:
        row = json.loads(str(raw, "utf-8"), object_pairs_hook=_each_once, parse_constant=_no_number)
    except UnicodeDecodeError:
        raise ValueFault("the line is not UTF-8", hint="save the file as UTF-8") from None
    except RecursionError:
        raise ValueFault("the line holds lists in lists, too deep to be read") from None
    except json.JSONDecodeError as error:
        raise ValueFault(f"the line is not JSON: {error.msg} (column {error.colno})", hint=EXAMPLE) from None
    except ValueError as error:  # a number of thousands of digits
        raise error if isinstance(error, ValueFault) else ValueFault("a number on the line is too large") from None
    if not isinstance(row, dict):
        kind = "a list" if isinstance(row, list) else "a single value"
        raise ValueFault(f"the line holds {kind}, not an object", hint=f"write one page a line: {EXAMPLE}")
    return row


def _each_once(pairs: list[tuple[str, Any]]) -> dict[str, Any]:
    row = {_text(name, "a name"): value for name, value in pairs}
    if len(row) < len(pairs):
        names = [name for name, _ in pairs]
        twice = next(name for name in row if names.count(name) > 1)
        raise ValueFault(f"the line says {twice} twice")
    return row


def _no_number(word: str) -> None:
    raise ValueFault(f"{word} is no number in JSON")


def _text(value: Any, column: str) -> str:
    """The value as the text of a cell."""
    if isinstance(value, dict):
        raise ValueFault(f"{column} holds an object; a cell takes a text, a number, a flag or a list")
    text = cell_text(value)
    if "\0" in text:
        raise ValueFault(f"{column} holds a NUL character")
    try:
        text.encode()
    except UnicodeEncodeError:
        raise ValueFault(f"{column} holds half of a character (a lone surrogate)") from None
    return text
