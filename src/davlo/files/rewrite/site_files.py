"""The files of a site while a change is written into them: their text before, and their text so far."""

from __future__ import annotations

import datetime
from collections.abc import Callable, Collection, Iterable, Iterator, Mapping
from contextlib import contextmanager
from pathlib import Path
from typing import Any, TypeAlias

from davlo.core.change.steps.page_steps import written_path
from davlo.core.change.steps.step import Step
from davlo.core.site.model import SiteModel
from davlo.core.site.pages.details import STANDARD
from davlo.core.site.settings.values import Raw

from ..read.digests import digest
from ..read.site_file import open_site_file, read_site_file
from .cannot_rewrite import CannotRewrite, ChangedSince
from .csv_text import SheetText, is_csv, value_cell
from .line_edits import Edit, line_edits
from .waiting_splices import WaitingSplices
from .yaml_entries import Keys, raw_of_node
from .yaml_text import Splice, YamlText

STAMPS, VALUES = "stamps.csv", "values.csv"
NEW_SHEETS = {STAMPS: "path,setting,value,on,source\n", VALUES: "where,setting,value,lock,because\n"}
"""Sheets that Davlo makes where they are missing, with their first lines."""
ByStep: TypeAlias = Mapping[type[Step], Callable[[Any], None]]
"""What writes each kind of step."""
Before: TypeAlias = Callable[[Step], SiteModel]
"""The site before a step of the change."""


class SiteFiles:
    """The YAML files and sheets of a site, each read once; changes gather until `made` gives them as edits.

    `lines`: for each sheet the lines that changed, by number. `rows`: for each sheet the rows to stand after the last.
    `today`: the date of stamps that are written.
    """

    def __init__(self, site: SiteModel, folder: Path, today: datetime.date | None = None) -> None:
        self.site, self._folder = site, folder
        self.today = today or datetime.datetime.now().astimezone().date()
        self._before: dict[str, YamlText] = {}
        self._sheets: dict[str, SheetText] = {}
        self._now: dict[str, YamlText] = {}
        self._waiting = WaitingSplices()
        self.lines: dict[str, dict[int, str]] = {}
        self.rows: dict[str, list[str]] = {}

    def forget(self) -> None:
        """Begin anew with the files as they were read."""
        self._now, self.lines, self.rows = {}, {}, {}
        self._waiting = WaitingSplices()

    def check_yaml(self) -> None:
        """Make sure that each YAML file is still YAML.

        Raises yaml.YAMLError if one is not.
        """
        self.make_waiting()
        for file, text in self._now.items():
            if text is not self._before[file]:
                text.parse()

    def made(self) -> list[Edit]:
        """What changed, as edits."""
        self.make_waiting()
        return [*self._yaml_edits(), *self._sheet_edits()]

    def _check(self, file: str, now: str) -> None:
        if self.site.file_notes.digests.get(file, now) != now:
            raise ChangedSince(f"somebody else changed {file} since Davlo read it: run this again")

    def text(self, file: str) -> YamlText:
        """A YAML file as it is so far."""
        if not self._waiting.about:
            self.make_waiting()
        if file not in self._now:
            if file not in self._before:
                if not file.endswith((".yaml", ".yml")):
                    raise CannotRewrite(f"{file} is no text that can be edited")
                content = read_site_file(self._folder, file)
                self._check(file, digest(content))
                self._before[file] = YamlText(content.decode("utf-8"))
            self._now[file] = self._before[file]
        return self._now[file]

    def sheet(self, file: str) -> SheetText:
        if file not in self._sheets:
            try:
                sheet = SheetText(lambda: open_site_file(self._folder, file))
                self._check(file, sheet.digest)
                self._sheets[file] = sheet
            except FileNotFoundError:
                if file not in NEW_SHEETS:
                    raise
                self._sheets[file] = SheetText.of(NEW_SHEETS[file])
        return self._sheets[file]

    def decisions(self) -> list[str]:
        """davlo.yaml and the files it includes; of an estate its shared files."""
        found = [*self.site.file_notes.first]
        for file in found:
            include = self.text(file).find(("include",))
            names = raw_of_node(include.node) if include else []
            found += [name for name in ([names] if isinstance(names, str) else names) if name not in found]  # type: ignore[misc]
        return found

    def values_sheet(self) -> str:
        """The first sheet of statements that the site names; `values.csv`, which is made and named, if it names none.

        Raises CannotRewrite if there is a `values.csv` that the site does not name.
        """
        keys = ("site", "values")
        for file in self.decisions():
            found = self.text(file).find(keys)
            names = raw_of_node(found.node) if found else []
            for name in [names] if isinstance(names, str) else names:
                if is_csv(str(name)):
                    return str(name)
        if (self._folder / VALUES).exists():
            raise CannotRewrite(f"there is a {VALUES} that site: {{values: …}} does not name")
        self.make_waiting()  # what waits is about other keys
        self.put(keys, [VALUES])
        return VALUES

    def splice(self, file: str, make: Callable[[YamlText], Splice]) -> None:
        """Make a splice from the present text of a YAML file, and apply it; in `beside_others` it may wait."""
        about = self._waiting.about
        text = self.text(file)
        splice = make(text)
        if not about:
            self.splice_all(file, [splice])
            return
        if self._waiting.meets(file, text, splice):
            self.make_waiting()
            text = self.text(file)
            splice = make(text)
        is_new = text.find(about[:1]) is None
        self._waiting.add(file, splice, about[:1] if is_new else about)

    @contextmanager
    def beside_others(self, about: Keys) -> Iterator[None]:
        """Look at the files without the splices that wait, as long as none of them is about the same keys.

        The first splice made inside waits too: many at once take much less time, as each file is parsed once.
        """
        if self._waiting.concerns(about):
            self.make_waiting()
        self._waiting.about = about
        try:
            yield
        finally:
            self._waiting.about = ()

    def make_waiting(self) -> None:
        """Apply the splices that wait."""
        waiting, self._waiting = self._waiting, WaitingSplices()
        for file, splices in waiting.splices.items():
            self.splice_all(file, splices)

    def splice_all(self, file: str, splices: Iterable[Splice]) -> None:
        """Apply splices of a YAML file that do not overlap; of those at one place, the first stays the first."""
        self.make_waiting()
        content, parts, at = self.text(file).content, list[str](), 0
        for splice in sorted(splices, key=lambda one: one.begin):
            parts += [content[at : splice.begin], splice.new]
            at = splice.end
        self._now[file] = YamlText("".join([*parts, content[at:]]))

    def put(self, keys: Keys, value: Raw, more: bool = False) -> None:
        """Put a value into the file that has the most of its keys already."""
        file = max(self.decisions(), key=lambda one: self.text(one).holds(keys))
        self.splice(file, lambda text: text.put(keys, value, more))

    def put_beside(self, keys: Keys, value: Raw, is_after: bool) -> None:
        """Put an item into a list, before or after the one that the keys lead to."""
        file = next((one for one in self.decisions() if self.text(one).find(keys)), None)
        if file is None:
            raise CannotRewrite("it is not there")
        self.splice(file, lambda text: text.beside(text.at(keys), value, is_after))

    def move_beside(self, keys: Keys, other: Keys, is_after: bool) -> None:
        """Move an item of a list, as it is written, before or after another one.

        Raises CannotRewrite if they are not in one list, or that is written in one line.
        """
        file = next((one for one in self.decisions() if self.text(one).find(keys)), None)
        if file is None or not self.text(file).find(other):
            raise CannotRewrite("the two are in different files")
        text = self.text(file)
        self.splice_all(file, text.moved(text.at(keys), text.at(other), is_after))

    def remove(self, keys: Keys) -> None:
        file = next((one for one in self.decisions() if self.text(one).find(keys)), None)
        if file is None:
            raise CannotRewrite("it is not there")
        self.splice(file, lambda text: text.without(keys, lambda path: False))

    def is_gone(self, file: str, line: int, setting: str) -> bool:
        """Whether a row that is there no longer says a setting."""
        sheet = self.sheet(file)
        now = self.lines.get(file, {}).get(line)
        return now is not None and not sheet.says(now, setting)

    def drop_row(self, file: str, line: int, setting: str) -> None:
        sheet, lines = self.sheet(file), self.lines.setdefault(file, {})
        for one in self._alike(file, line):
            lines[one] = sheet.without(lines.get(one, sheet.line(one)), setting)

    def move_line(self, file: str, line: int, old: str, new: str) -> None:
        """Give the row of a page, and all others that name it, another path, each in the form that it has."""
        sheet, lines = self._csv(file), self.lines.setdefault(file, {})
        for one in self.site.file_notes.lines_naming(line):
            text = lines.get(one, sheet.line(one))
            lines[one] = sheet.change(text, "path", written_path(sheet.cell(text, "path"), old, new))

    def drop_line(self, file: str, line: int) -> None:
        """Drop the row of a page from the page list, and all others that name it."""
        sheet = self._csv(file)
        for one in self.site.file_notes.lines_naming(line):
            text = sheet.line(one)
            if text.count('"') % 2:
                raise CannotRewrite("a cell goes on in the next line")
            self.lines.setdefault(file, {})[one] = ""

    def new_row(self, file: str, cells: dict[str, Raw]) -> None:
        """A row more, after the last of a sheet."""
        for column in cells:
            self._need_column(file, column)
        self.rows.setdefault(file, []).append(self._csv(file).row(cells))

    def drop_new_rows(self, paths: Collection[str]) -> None:
        """Leave out the rows that earlier steps wrote about pages which are dropped."""
        for file, rows in self.rows.items():
            sheet = self.sheet(file)
            self.rows[file] = [row for row in rows if self.site.page_names.path(sheet.page_of(row)) not in paths]

    def _alike(self, file: str, line: int) -> tuple[int, ...]:
        """The lines of a sheet that change together: rows of one page, which must agree."""
        return self.site.file_notes.lines_of(line) if file == self.site.page_list else (line,)

    def change_cell(self, file: str, line: int, column: str, value: Raw, by_name: bool = False) -> None:
        """Another value in a row; with `by_name` in the cell of that very column, also in a sheet of statements."""
        self._need_column(file, column)
        sheet, lines = self._csv(file), self.lines.setdefault(file, {})
        for one in self._alike(file, line):
            lines[one] = sheet.change(lines.get(one, sheet.line(one)), column, value, by_name)

    def _need_column(self, file: str, column: str) -> None:
        """Make sure that the page list has a column for a detail: each row gets a cell more where it has none yet."""
        sheet = self._csv(file)
        if file == self.site.page_list and column in STANDARD and column not in sheet.columns:
            self.add_column(column)

    def add_column(self, column: str) -> None:
        """A column more in the page list: each row gets a cell."""
        file = self.site.page_list
        sheet = self._csv(file)
        lines, is_open = self.lines.setdefault(file, {}), False
        for number, text in enumerate(sheet.lines(), 1):
            is_open ^= text.count('"') % 2 == 1
            now = lines.get(number, text)
            if not is_open and now.strip():  # a row may take several lines: its last one gets the cell
                lines[number] = sheet.widened(now, column if number == 1 else "")
        self.rows[file] = [sheet.widened(row) for row in self.rows.get(file, [])]
        sheet.add_column(column)

    def _csv(self, file: str) -> SheetText:
        """A sheet that can be edited."""
        if not is_csv(file):
            raise CannotRewrite(f"{file} is no text that can be edited")
        return self.sheet(file)

    def stamp_row(self, path: str, setting: str, value: Raw, source: str) -> None:
        """A new row of stamps.csv, with today's date and what the value came from."""
        sheet = self.sheet(STAMPS)
        cells: dict[str, Raw] = {"path": path, "setting": setting, "value": value_cell(value)}
        dated = {"on": self.today.isoformat(), "source": source}
        cells |= {name: text for name, text in dated.items() if name in sheet.columns}
        self.rows.setdefault(STAMPS, []).append(sheet.row(cells))

    def change_stamp(self, line: int, setting: str, value: Raw, source: str) -> None:
        """Another value in a row of stamps.csv, with today's date and what the value came from."""
        self.change_cell(STAMPS, line, setting, value_cell(value))
        for name, text in (("on", self.today.isoformat()), ("source", source)):
            if name in self.sheet(STAMPS).columns:
                self.change_cell(STAMPS, line, name, text)

    def _yaml_edits(self) -> Iterator[Edit]:
        for file, text in self._now.items():
            before = self._before[file].content
            if text.content != before:
                yield from line_edits(file, before, text.content)

    def _sheet_edits(self) -> Iterator[Edit]:
        for file in dict.fromkeys([*self.lines, *self.rows]):
            sheet, lines = self.sheet(file), self.lines.get(file, {})
            rows = "".join(self.rows.get(file, []))
            if rows and sheet.is_new:
                yield Edit(file, 1, "", f"{sheet.line(1)}{rows}")
                continue
            if rows and sheet.is_open:
                lines = {
                    **lines,
                    sheet.count: f"{lines.get(sheet.count, sheet.line(sheet.count))}{sheet.newline}{rows}",
                }
                rows = ""
            for number in sorted(lines):
                if lines[number] != sheet.line(number):
                    yield Edit(file, number, sheet.line(number), lines[number])
            if rows:
                yield Edit(file, sheet.count + 1, "", rows)
