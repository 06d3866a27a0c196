"""Edits of a site's files: what taking a statement away would change in them, as text. Nothing is written.

A statement is found by its line; in YAML with the marks of PyYAML's parser, so that comments and order survive.
"""

from __future__ import annotations

import csv
import difflib
import io
from collections.abc import Iterator, Sequence
from pathlib import Path
from typing import NamedTuple

import yaml

from davlo.core.effective import EffectiveModel
from davlo.core.findings import Finding
from davlo.core.findings.remedies import Dropped, Remedy, remedies

try:
    from yaml import CSafeLoader as _Loader
except ImportError:  # a PyYAML that was built without its C parser
    from yaml import SafeLoader as _Loader  # type: ignore[assignment]

GOES_WHEN_EMPTY = ("access", "deny", "lock", "here", "below", "here_and_below", "everywhere", "give")
"""Keys that mean nothing once nothing is in them; so does the path of a page."""
SEPARATORS = ",;\t"


class Edit(NamedTuple):
    """Lines to replace: the file, the number of the first, and the text before and after, each with its line ends."""

    file: str
    line: int
    old: str
    new: str


class CannotEdit(Exception):
    """A statement that cannot be taken away by an edit of text."""


class Way(NamedTuple):
    """One way to mend a finding: in words, the edits that it takes, and how many pages would get another value."""

    words: str
    edits: tuple[Edit, ...]
    changes: int


def ways_to_mend(effective: EffectiveModel, folder: Path, finding: Finding) -> list[Way]:
    """The ways to mend a finding by taking something out of the files; none where that would not do.

    Example
    -------
    >>> import davlo, tempfile
    >>> with tempfile.TemporaryDirectory() as name:
    ...     folder = Path(name) / "garden"
    ...     _ = davlo.write_demo(folder)
    ...     site = davlo.open_site(folder)
    ...     ways = ways_to_mend(site.resolve(), folder, site.check().findings[0])
    >>> ways[1].words, ways[1].changes, ways[1].edits[0].line
    ('take away the lock and its value', 158, 45)
    """
    found = []
    for remedy in remedies(effective.site, finding):
        edits = edits_of(folder, remedy)
        if edits:
            found.append(Way(remedy.words, tuple(edits), remedy.changes(effective)))
    return found


def edits_of(folder: Path, remedy: Remedy) -> list[Edit] | None:
    """The edits that a remedy makes, file by file; None where it cannot be made in text.

    Parameters
    ----------
    folder : Path
        The site folder, as it was when the finding was made.
    remedy : Remedy
    """
    found: list[Edit] = []
    by_file: dict[str, list[Dropped]] = {}
    for drop in remedy.drops:
        by_file.setdefault(drop.file, []).append(drop)
    for file, drops in by_file.items():
        try:
            content = (folder / file).read_bytes().decode("utf-8")
            new = content
            for drop in sorted(drops, key=lambda one: -one.line):  # from below, so that lines above keep their numbers
                new = _without_row(new, drop) if file.endswith(".csv") else _without_entry(new, drop)
        except (CannotEdit, OSError, UnicodeDecodeError, yaml.YAMLError):
            return None
        found += _differences(file, content, new)
    return found


def _differences(file: str, before: str, after: str) -> Iterator[Edit]:
    """The lines that differ, each run of them an edit."""
    old, new = before.splitlines(keepends=True), after.splitlines(keepends=True)
    for tag, i, j, k, m in difflib.SequenceMatcher(None, old, new, autojunk=False).get_opcodes():
        if tag != "equal":
            yield Edit(file, i + 1, "".join(old[i:j]), "".join(new[k:m]))


def apply_edits(content: str, edits: Sequence[Edit]) -> str:
    """A file's text with its edits made."""
    lines = content.splitlines(keepends=True)
    for edit in sorted(edits, key=lambda one: -one.line):
        count = len(edit.old.splitlines())
        lines[edit.line - 1 : edit.line - 1 + count] = edit.new.splitlines(keepends=True)
    return "".join(lines)


def _without_row(content: str, drop: Dropped) -> str:
    """A sheet without a row; or, where it has a column of the setting, with that cell of the row blank."""
    lines = content.splitlines(keepends=True)
    head, line = lines[0].lstrip("\ufeff"), lines[drop.line - 1]
    between = max(SEPARATORS, key=head.count)
    columns = next(csv.reader([head], delimiter=between))
    cells = next(csv.reader([line], delimiter=between))
    if line.count('"') % 2:
        raise CannotEdit("a cell goes on in the next line")
    if "setting" in columns:
        return "".join([*lines[: drop.line - 1], *lines[drop.line :]])
    if drop.setting not in columns or columns.index(drop.setting) >= len(cells):
        raise CannotEdit("the row has no such cell")
    cells[columns.index(drop.setting)] = ""
    row = io.StringIO()
    csv.writer(row, delimiter=between, lineterminator=line[len(line.rstrip("\r\n")) :]).writerow(cells)
    lines[drop.line - 1] = row.getvalue()
    return "".join(lines)


class _Entry(NamedTuple):
    """An entry of a mapping, and the entries that it stands in, the outermost first."""

    mapping: yaml.MappingNode
    place: int
    around: tuple[tuple[yaml.MappingNode, int], ...]

    @property
    def key(self) -> yaml.Node:
        key: yaml.Node = self.mapping.value[self.place][0]
        return key

    @property
    def value(self) -> yaml.Node:
        value: yaml.Node = self.mapping.value[self.place][1]
        return value


def _without_entry(content: str, drop: Dropped) -> str:
    """A YAML file without one entry, and without what then is empty around it."""
    root = yaml.compose(content, Loader=_Loader)
    found = list(_entries(root, drop, ())) if root is not None else []
    if len(found) != 1:
        raise CannotEdit("the line does not say it once")
    entry = found[0]
    while _is_alone(entry) and entry.around and _goes_when_empty(entry):
        mapping, place = entry.around[-1]
        entry = _Entry(mapping, place, entry.around[:-1])
    if "when" in [key.value for key, _ in entry.mapping.value]:
        raise CannotEdit("a rule gives something")
    starts = [0]
    for line in content.splitlines(keepends=True):
        starts.append(starts[-1] + len(line))
    return _cut(content, entry, starts)


def _entries(node: yaml.Node, drop: Dropped, around: tuple[tuple[yaml.MappingNode, int], ...]) -> Iterator[_Entry]:
    """The entries that stand at a line and say a setting."""
    if isinstance(node, yaml.SequenceNode):
        for item in node.value:
            yield from _entries(item, drop, ())
    if not isinstance(node, yaml.MappingNode):
        return
    above = str(around[-1][0].value[around[-1][1]][0].value) if around else ""
    for place, (key, value) in enumerate(node.value):
        if key.start_mark.line + 1 == drop.line and drop.setting in (key.value, f"{above}.{key.value}"):
            yield _Entry(node, place, around)
        yield from _entries(value, drop, (*around, (node, place)))


def _is_alone(entry: _Entry) -> bool:
    """Whether nothing is left of its mapping but a reason."""
    others = [key.value for i, (key, _) in enumerate(entry.mapping.value) if i != entry.place]
    return all(key == "because" for key in others)


def _goes_when_empty(entry: _Entry) -> bool:
    """Whether the key that holds the mapping means nothing without it."""
    names = [str(mapping.value[place][0].value) for mapping, place in entry.around]
    return names[-1] in GOES_WHEN_EMPTY or (len(names) == 2 and names[0] == "pages")


def _cut(content: str, entry: _Entry, starts: Sequence[int]) -> str:
    """The text without an entry."""

    def at(mark: yaml.Mark) -> int:
        return starts[mark.line] + mark.column

    entries, place = entry.mapping.value, entry.place
    if _is_alone(entry):  # the mapping stays, with nothing in it
        begin, end = at(entry.mapping.start_mark), at(_end(entry.mapping))
        return f"{content[:begin]}{{}}{content[end:]}"
    if entry.mapping.flow_style:
        begin, end = at(entry.key.start_mark), at(_end(entry.value))
        if place + 1 < len(entries):
            return content[:begin] + content[at(entries[place + 1][0].start_mark) :]
        return content[: at(_end(entries[place - 1][1]))] + content[end:]
    return content[: starts[entry.key.start_mark.line]] + content[starts[_end(entry.value).line + 1] :]


def _end(node: yaml.Node) -> yaml.Mark:
    """Where the text of a node ends: of what is written in lines, where its last word does."""
    if isinstance(node, yaml.CollectionNode) and not node.flow_style and node.value:
        last = node.value[-1]
        return _end(last[1] if isinstance(node, yaml.MappingNode) else last)
    return node.end_mark
