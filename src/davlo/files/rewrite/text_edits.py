"""Edits of a site's files: what a way to mend a finding would change in them, as text. Nothing is written."""

from __future__ import annotations

import bisect
import difflib
from collections.abc import Iterator, Sequence
from functools import cached_property
from itertools import pairwise
from pathlib import Path
from typing import NamedTuple

import yaml

from davlo.core.findings.finding import Finding
from davlo.core.findings.mending import MOST_STEPS, Added, Changed, Lifted, Put, Step, Taken
from davlo.core.findings.remedies import remedies
from davlo.core.resolve.effective import EffectiveModel

from ..read.includes import FIRST, inside
from .csv_edits import SheetText
from .yaml_edits import CannotEdit, Splice, YamlText


class Edit(NamedTuple):
    """Lines to replace: the file, the number of the first, and the text before and after, each with its line ends."""

    file: str
    line: int
    old: str
    new: str


class Way(NamedTuple):
    """One way to mend a finding: in words, the edits that it takes, and how many pages would get another value.

    `changes` is None where that cannot be told.
    """

    words: str
    edits: tuple[Edit, ...]
    changes: int | None


class Mender:
    """Tells the edits that mend findings; each file is read once.

    Parameters
    ----------
    effective : EffectiveModel
        What holds.
    folder : Path
        The site folder, as it was when the findings were made.

    Example
    -------
    >>> import davlo, tempfile
    >>> with tempfile.TemporaryDirectory() as name:
    ...     folder = Path(name) / "garden"
    ...     _ = davlo.write_demo(folder)
    ...     site = davlo.open_site(folder)
    ...     ways = Mender(site.resolve(), folder).ways(site.check().findings[0])
    >>> ways[1].words, ways[1].changes, ways[1].edits[0].line
    ('lift the lock', 5, 45)
    """

    def __init__(self, effective: EffectiveModel, folder: Path) -> None:
        self._effective = effective
        self._folder = folder
        self._yaml: dict[str, YamlText] = {}
        self._sheets: dict[str, SheetText] = {}

    def ways(self, finding: Finding) -> list[Way]:
        """The ways to mend a finding; none where somebody must decide, or the edit cannot be made in text.

        Ways of more than 500 steps are left out.
        """
        found = []
        for remedy in remedies(self._effective, finding):
            edits = self.edits(remedy.steps) if len(remedy.steps) <= MOST_STEPS else None
            if edits:
                found.append(Way(remedy.words, tuple(edits), remedy.changes(self._effective)))
        return found

    def edits(self, steps: Sequence[Step]) -> list[Edit] | None:
        """What these steps change in the files, file by file; None where they cannot be made in text."""
        by_file: dict[str, list[Step]] = {}
        try:
            for step in steps:
                by_file.setdefault(self._file(step), []).append(step)
            found: list[Edit] = []
            for file, some in by_file.items():
                found += self._in_sheet(file, some) if file.endswith(".csv") else self._in_yaml(file, some)
        except (CannotEdit, OSError, UnicodeDecodeError, yaml.YAMLError, RecursionError):
            return None
        return found

    def _file(self, step: Step) -> str:
        """The file that a step is about: of a `Put` in the whole site, the one where most of its keys are already."""
        if not isinstance(step, Put):
            return step.file
        if step.place is not None:
            return step.place.file
        return max(self._decisions, key=lambda file: self._text(file).holds(step.keys))

    @cached_property
    def _decisions(self) -> list[str]:
        """davlo.yaml and the files it includes."""
        found = [FIRST]
        for file in found:
            root = self._text(file).root
            pairs = root.value if isinstance(root, yaml.MappingNode) else []
            for value in [value for key, value in pairs if key.value == "include"]:
                items = value.value if isinstance(value, yaml.SequenceNode) else [value]
                found += [one.value for one in items if one.value not in found]
        return found

    def _path(self, file: str) -> Path:
        path = inside(self._folder, file)
        if path is None:
            raise CannotEdit("the file lies outside the site folder")
        return path

    def _text(self, file: str) -> YamlText:
        if file not in self._yaml:
            if not file.endswith((".yaml", ".yml")):
                raise CannotEdit("it is no text that can be edited")
            self._yaml[file] = YamlText(self._path(file).read_bytes().decode("utf-8"))
        return self._yaml[file]

    def _in_yaml(self, file: str, steps: Sequence[Step]) -> Iterator[Edit]:
        text = first = self._text(file)
        splices = sorted((_splice(text, step) for step in steps), key=lambda one: one.begin)
        apart = all(one.end < other.begin for one, other in pairwise(splices))
        if apart and len({id(one.within) for one in splices}) == len(splices):
            return _lines_of(file, text, splices)
        for step in sorted(steps, key=_line, reverse=True):  # from below, so that lines above keep their numbers
            text = YamlText(_splice(text, step).apply(text.content))
        return _differences(file, first.content, text.content)

    def _in_sheet(self, file: str, steps: Sequence[Step]) -> Iterator[Edit]:
        if file not in self._sheets:
            self._sheets[file] = SheetText(self._path(file))
        sheet = self._sheets[file]
        lines: dict[int, str] = {}
        for step in steps:
            number = sheet.count + 1 if isinstance(step, Added) else _line(step)
            line = lines[number] if number in lines else sheet.line(number)
            if isinstance(step, Taken):
                lines[number] = sheet.without(line, step.name)
            elif isinstance(step, Changed):
                lines[number] = sheet.change(line, step.name, step.value)
            elif isinstance(step, Lifted):
                lines[number] = sheet.change(line, sheet.LOCK, "")
            elif isinstance(step, Added):
                lines[number] = line + sheet.row(step.cells)
        return (Edit(file, number, sheet.line(number), lines[number]) for number in sorted(lines))


def _line(step: Step) -> int:
    """The line that a step is about; 0: it is about the whole file."""
    if isinstance(step, Put):
        return step.place.line if step.place else 0
    return 0 if isinstance(step, Added) else step.line


def _splice(text: YamlText, step: Step) -> Splice:
    """What a step replaces in a file's text."""
    if isinstance(step, Taken):
        return text.without(step.line, step.name) if step.name else text.without_item(step.line)
    if isinstance(step, Changed):
        return text.change(step.line, step.name, step.value)
    if isinstance(step, Lifted):
        return text.lift(step.line, step.name)
    if isinstance(step, Put):
        return text.put(_line(step), step.keys, step.value, step.name, step.more)
    raise CannotEdit("YAML has no rows")


def _lines_of(file: str, text: YamlText, splices: Sequence[Splice]) -> Iterator[Edit]:
    """Splices that have nothing to do with each other as edits of lines; those of one line together."""
    runs: list[tuple[int, int, list[Splice]]] = []
    for splice in splices:
        first = bisect.bisect_right(text.starts, splice.begin) - 1
        last = bisect.bisect_left(text.starts, splice.end, lo=first)
        if runs and first < runs[-1][1]:
            runs[-1] = (runs[-1][0], max(last, runs[-1][1]), [*runs[-1][2], splice])
        else:
            runs.append((first, last, [splice]))
    for first, last, some in runs:
        begin = text.starts[first]
        new = old = text.content[begin : text.starts[last]]
        for splice in reversed(some):
            new = new[: splice.begin - begin] + splice.new + new[splice.end - begin :]
        yield Edit(file, first + 1, old, new)


def _differences(file: str, before: str, after: str) -> Iterator[Edit]:
    """The lines that differ, each run of them an edit."""
    old, new = before.splitlines(keepends=True), after.splitlines(keepends=True)
    head = next((i for i, (a, b) in enumerate(zip(old, new, strict=False)) if a != b), min(len(old), len(new)))
    most = min(len(old), len(new)) - head
    pairs = enumerate(zip(reversed(old), reversed(new), strict=False))
    tail = min(most, next((i for i, (a, b) in pairs if a != b), most))
    middle = old[head : len(old) - tail], new[head : len(new) - tail]
    for tag, i, j, k, m in difflib.SequenceMatcher(None, *middle, autojunk=False).get_opcodes():
        if tag != "equal":
            yield Edit(file, head + i + 1, "".join(middle[0][i:j]), "".join(middle[1][k:m]))


def apply_edits(content: str, edits: Sequence[Edit]) -> str:
    """A file's text with its edits made."""
    lines = content.splitlines(keepends=True)
    for edit in sorted(edits, key=lambda one: -one.line):
        count = len(edit.old.splitlines())
        lines[edit.line - 1 : edit.line - 1 + count] = edit.new.splitlines(keepends=True)
    return "".join(lines)
