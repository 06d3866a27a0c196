"""Conditions in files: `when` and `except`."""

from __future__ import annotations

import datetime
import re
from collections.abc import Collection, Iterator, Sequence
from typing import NamedTuple

from davlo.core.faults import Place, SiteError
from davlo.core.site.model import SiteModel
from davlo.core.site.pages.conditions import Condition, split_list
from davlo.core.site.pages.details import STANDARD, STATUSES
from davlo.core.site.settings.parse_values import typed_items

from ...form.davlo_yaml import CONDITION
from ..yaml.node_reader import Reader
from ..yaml.yaml_nodes import Items, Mapping, Node, Scalar

DEPTH = re.compile(r"(\d{1,6})(?:\s*-\s*(\d{1,6}))?", re.ASCII)


def read_condition(node: Node, reader: Reader, what: str, types: Collection[str]) -> Condition:
    """A condition; keys and words that may not stand there are faults. `types` are the declared types."""
    body = reader.mapping(node, what, CONDITION.keys, _of_detail)
    plain: dict[str, tuple[str, ...]] = {}
    for key in ("path", "in_branch", "below", "type", "only_type", "tag", "language", "status"):
        if key not in body.entries:
            continue
        words = reader.words(body.entries[key], key)
        if not words:
            reader.fault(body.keys[key], f"{key} is an empty list, so no page could match")
        if key in ("path", "in_branch", "below"):
            words = [(word if "*" in word else reader.page_path(word), place) for word, place in words]
        for word, place in words:
            if key in ("path", "in_branch", "below") and not word.startswith(("/", "*") if key == "path" else "/"):
                reader.page_fault(place, f"{key} takes a path, which starts with /, not {word!r}", word)
            if key in ("type", "only_type") and word not in types:
                reader.fault(place, f"there is no type {word!r}", word, types)
            if key == "status" and word not in STATUSES:
                reader.fault(place, f"status takes live, draft or folder, not {word!r}", word, STATUSES)
        plain[key] = tuple(word for word, _ in words)
    depth = []
    for word, place in reader.words(body.entries.get("depth"), "depth"):
        match = DEPTH.fullmatch(word)
        if match and int(match[1]) <= int(match[2] or match[1]):
            depth.append((int(match[1]), int(match[2] or match[1])))
        else:
            reader.fault(place, f"depth takes a number or a range, as 2 or 2-4, not {word!r}")
    home = reader.flag(body.entries["home"], "home") if "home" in body.entries else None
    details = {}
    if "details" in body.entries:
        for name, _, value in reader.mapping(body.entries["details"], "details"):
            details[name] = tuple(word for word, _ in reader.words(value, name))
    return Condition(depth=tuple(depth), home=home, details=details, **plain)


def _of_detail(key: str) -> str:
    """What to write for a detail that stands where a key of a condition belongs."""
    return f"write details: {{{key}: …}}" if key in STANDARD else ""


def asked_condition(words: Sequence[str], site: SiteModel) -> Condition:
    """The condition that words like `type=event` make: the keys of `when`, or columns of the page list.

    A key takes any of its values, also if it stands twice. A column takes dates, parts of them, and ranges of dates or
    numbers, too: `created=2026-03`, `modified=2026-03..2026-05`, `order=..5`.

    Raises SiteError if they are not understood.
    """
    reader = Reader()
    reader.names = site.page_names
    columns, types = tuple(site.details.columns), tuple(site.types.names)
    place = Place("")
    body, details = Mapping(place), dict[str, list[str]]()
    for word in words:
        key, equals, value = (part.strip() for part in word.partition("="))
        is_key = key in CONDITION.keys and key != "details"
        if not equals:
            reader.fault(place, f"it takes KEY=VALUE, as type=event or below=/visit, not {word!r}")
        elif is_key:
            before = body.entries.get(key)
            said = [Scalar(one, place, bare=True) for one in _listed(key, value)]
            several = [*(() if before is None else reader.items_or_one(before)), *said]
            body.entries[key] = Items(several, place) if len(several) > 1 else several[0]
            body.keys[key] = place
        elif key in columns:
            column = site.details.columns[key].words
            found = details.setdefault(key, [])
            for one in [value] if value in column else _listed(key, value):
                found += _in_column(key, one, column, reader)
        elif site.catalogue.find(key) is not None:
            told = f"{key} is a setting, and a condition looks at details alone"
            reader.fault(place, told, hint=f"choose pages by what they get: --having {key}={value}")
        else:
            names = dict.fromkeys([*(name for name in CONDITION.keys if name != "details"), *columns])
            told = f"{key!r} is no key of a condition, and no column of the page list"
            reader.fault(place, told, key, tuple(names))
    condition = read_condition(body, reader, "the condition", types)
    if reader.faults:
        raise SiteError(reader.faults)
    return condition._replace(details={key: tuple(found) for key, found in details.items()})


class Unmatched(NamedTuple):
    """A value of a condition that no page has: what to say, and what may have been meant."""

    what: str
    word: str = ""
    allowed: Sequence[str] = ()


def unmatched(words: Sequence[str], site: SiteModel) -> Iterator[Unmatched]:
    """The values in words as `asked_condition` takes them that no page of the site has, whatever else is asked."""
    for word in words:
        key, _, value = (part.strip() for part in word.partition("="))
        column = site.details.columns[key].words if key in site.details.columns and key not in _KEYS else ()
        for one in [value] if value in column else _listed(key, value):
            if site.pages(asked_condition([f"{key}={one}"], site)).any():
                continue
            if key in ("in_branch", "below"):
                page = site.tree.find(site.page_names.path(one))
                told = f"nothing is below {one}" if page >= 0 else f"there is no page {one}"
                yield Unmatched(told, one, () if page >= 0 else tuple(site.tree.paths))
            elif key == "path":
                yield Unmatched(f"no path matches {one}")
            elif key == "tag":
                tags = dict.fromkeys(tag for cell in site.details.tags.words for tag in split_list(cell))
                yield Unmatched(f"no page has the tag {one!r}", one, tuple(tags))
            elif key in ("type", "only_type"):
                yield Unmatched(f"no page is of the type {one}")
            else:
                used = column or (site.details.column(key).words if key in ("language", "status") else ())
                days = sorted(day[1] for each in used if (day := _DATED.fullmatch(each)))
                if days and (_is_date(one) or _RANGE.fullmatch(one)):
                    yield Unmatched(f"no page has {key} {one}: it goes from {days[0]} to {days[-1]}")
                else:
                    yield Unmatched(f"no page has {key} {one!r}", one, [each for each in used if each])


_KEYS = tuple(name for name in CONDITION.keys if name != "details")
_RANGE = re.compile(r"(.*?)\s*\.\.\s*(.*)", re.DOTALL)
_NUMBER = re.compile(r"-?\d+(?:\.\d+)?", re.ASCII)
_DATE = re.compile(r"\d{4}(?:-\d\d(?:-\d\d)?)?", re.ASCII)
_LIKE_DATE = re.compile(r"\d{4}-\d\d?(?:-\d\d?)?", re.ASCII)
_DATED = re.compile(r"(\d{4}(?:-\d\d(?:-\d\d)?)?)(?:[T ]\d.*)?", re.ASCII | re.DOTALL)
"""A range, a number, a date or the beginning of one, what looks like one, and a cell with a date, perhaps a time."""


def _listed(key: str, value: str) -> list[str]:
    """The words of a list that was typed; of depths also ranges as columns have them."""
    found = typed_items(value) or [value]
    if key in ("path", "in_branch", "below") and not all(one.startswith(("/", "http")) for one in found):
        return [value]  # a path with a comma in it
    return [_RANGE.sub(r"\1-\2", one) for one in found] if key == "depth" else found


def _in_column(key: str, asked: str, column: Sequence[str], reader: Reader) -> list[str]:
    """The words of a column that a word asks for: itself, what lies in a range, what begins with a date."""
    ends = _RANGE.fullmatch(asked)
    within = _within(key, ends[1], ends[2], column, reader) if ends and any(ends.groups()) else None
    if within is None and _is_date(asked):
        within = [word for word in column if (day := _DATED.fullmatch(word)) and day[1].startswith(asked)]
    elif within is None and _LIKE_DATE.fullmatch(asked) and any(map(_DATED.fullmatch, column)):
        reader.fault(Place(""), f"{key}={asked}: that is no date, which is written as 2026-03-31 or 2026-03")
    return within or [asked]


def _is_date(text: str) -> bool:
    """Whether a text is a day, a month or a year that there is."""
    if not _DATE.fullmatch(text):
        return False
    try:
        datetime.date.fromisoformat(text + "-01-01"[len(text) - 4 :] if len(text) < 10 else text)
    except ValueError:
        return False
    return True


def _within(key: str, least: str, most: str, column: Sequence[str], reader: Reader) -> list[str] | None:
    """The words of a column that lie in a range, its ends included; None if the ends are no dates and no numbers."""
    ends = [end for end in (least, most) if end]
    if all(map(_is_date, ends)):
        days = [(word, day[1]) for word in column if (day := _DATED.fullmatch(word))]
        found = [word for word, day in days if least <= day and (not most or day[: len(most)] <= most)]
        is_empty = len(ends) == 2 and least[: len(most)] > most[: len(least)]
    elif all(map(_NUMBER.fullmatch, ends)):
        low, high = float(least or "-inf"), float(most or "inf")
        found = [word for word in column if _NUMBER.fullmatch(word) and low <= float(word) <= high]
        is_empty = low > high
    else:
        wrong = next((end for end in ends if re.match(r"\d{4}-\d", end) and not _is_date(end)), None)
        if wrong is not None:
            reader.fault(
                Place(""), f"{key}={least}..{most}: {wrong} is no date, which is written as 2026-03-31 or 2026-03"
            )
            return []
        return None
    if is_empty:
        reader.fault(
            Place(""), f"{key}={least}..{most}: the range ends before it begins", hint=f"{key}={most}..{least}"
        )
    return found


def read_excepts(node: Node | None, reader: Reader, types: Collection[str]) -> tuple[Condition, ...]:
    """One mapping or a list of them, any of which excludes."""
    if node is None:
        return ()
    nodes = node.items if isinstance(node, Items) else [node]
    return tuple(read_condition(each, reader, "except", types) for each in nodes)
