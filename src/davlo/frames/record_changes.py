"""The page records that differ between two states of a site, for programs that apply changes."""

from __future__ import annotations

import hashlib
from collections.abc import Iterator
from dataclasses import replace
from typing import Any

import numpy as np

from davlo.core.records.forms import VERSION
from davlo.core.records.page_record import record_form
from davlo.core.records.record import Field, Group, RecordPages
from davlo.core.resolve.effective import EffectiveModel
from davlo.core.site.people import VISITOR
from davlo.core.site.source import Source

from .json_text import json_text
from .record_lines import record_lines, records_as_lines


def changed_record_lines(before: EffectiveModel, after: EffectiveModel, viewer: str = VISITOR) -> Iterator[bytes]:
    """The records of `after` that are new or differ, as JSON lines; then a line for each page that is gone.

    A statement that only stands on another line, or in another file, makes no difference.

    Example
    -------
    >>> import davlo
    >>> site = davlo.open_demo()
    >>> after = site.apply(davlo.Change().say("sidebar.right", "main", here="/visit/tickets")).resolve()
    >>> lines = b"".join(changed_record_lines(site.resolve(), after)).splitlines()
    >>> len(lines), b'"path": "/visit/tickets"' in lines[0]
    (1, True)
    """
    old, new = (_digests(effective, viewer) for effective in (before, after))
    gone = [path for path in old if path not in new]
    differs = [number for number, (path, digest) in enumerate(new.items()) if old.get(path) != digest]
    yield from record_lines(after, pages=np.array(differs, dtype=np.int64), viewer=viewer)
    for path in gone:
        yield f"{json_text({'version': VERSION, 'path': path, 'gone': True})}\n".encode()


def _digests(effective: EffectiveModel, viewer: str) -> dict[str, bytes]:
    """A digest of the record of each page, in the order of the tree."""
    records = RecordPages(effective, viewer=viewer)
    found, rest = list[bytes](), b""
    for chunk in records_as_lines(records, _without_places(record_form(records))):
        *lines, rest = (rest + chunk).split(b"\n")
        found += (hashlib.blake2b(line, digest_size=12).digest() for line in lines)
    return dict(zip(effective.site.tree.paths, found, strict=True))


def _without_places(form: Group) -> Group:
    """The form of a record in which a source is its scope, and whether it is locked."""

    def bare(member: Field[Any] | Group) -> Field[Any] | Group:
        if isinstance(member, Group) and member.name == "sources":
            every = (replace(one, as_json=_scope) for one in member.members if isinstance(one, Field))
            return member._replace(members=tuple(every))
        return member

    return form._replace(members=tuple(map(bare, form.members)))


def _scope(source: Source) -> list[object]:
    return [str(source.scope), source.locked]
