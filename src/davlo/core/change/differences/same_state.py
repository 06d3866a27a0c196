"""What is the same in two sites that were read or made apart from each other."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Any, TypeVar

import numpy as np
from numpy.typing import NDArray

from ...arrays.codebooks import Codes, Column
from ...arrays.texts import Texts
from ...faults import Place
from ...site.file_notes import RolePlace
from ...site.model import SiteModel
from ...site.statements.statement_table import Statements

Model = TypeVar("Model", bound=SiteModel)
_TABLES = ("tree", "details", "statements", "catalogue")
OF_READING = ("file_notes", "folder", "notes", "page_list")
"""What describes the files and not the site."""


def what_differs(one: SiteModel, other: SiteModel) -> str:
    """The first part in which two sites differ, in words; empty if they are the same.

    Files, lines, and the reasons of statements may differ.

    Example
    -------
    >>> import davlo
    >>> site = davlo.open_demo()
    >>> what_differs(site, davlo.open_demo())
    ''
    >>> what_differs(site, site.apply(davlo.Change().say("sidebar.right", "main", below="/visit")))
    'the statements of sidebar.right'
    """
    if not _same_texts(one.tree.paths, other.tree.paths) or not np.array_equal(one.tree.parent, other.tree.parent):
        return "the tree of pages"
    for name in dict.fromkeys([*one.details.columns, *other.details.columns]):
        if not _same_column(one.details.column(name), other.details.column(name)):
            return f"the detail {name}"
    for name in one.__dataclass_fields__:
        if name not in (*_TABLES, *OF_READING) and placeless(getattr(one, name)) != placeless(getattr(other, name)):
            return name.replace("_", " ")
    if placeless(tuple(one.catalogue.settings)) != placeless(tuple(other.catalogue.settings)):
        return "the settings"
    if placeless(one.types.declared) != placeless(other.types.declared):
        return "the types"
    return _statements(one, other)


def with_shared_pages(one: SiteModel, other: Model) -> Model:
    """The second site with the pages and the details of the first, where both page lists have the same lines.

    What is shared is known to be the same without another look. A detail that differs stays that of the second site.

    Example
    -------
    >>> import davlo
    >>> site = davlo.open_demo()
    >>> with_shared_pages(site, davlo.open_demo()).tree is site.tree
    True
    """
    if one.tree is other.tree or len(one.tree) != len(other.tree):
        return other
    numbers = ("line", "parent")
    if not all(np.array_equal(getattr(one.tree, name), getattr(other.tree, name)) for name in numbers):
        return other
    if not _same_texts(one.tree.paths, other.tree.paths) or one.details.home != other.details.home:
        return other
    columns = dict(other.details.columns)
    for name, column in one.details.columns.items():
        if (
            name in columns
            and np.array_equal(column.codes, columns[name].codes)
            and _same_column(column, columns[name])
        ):
            columns[name] = column
    shared = {
        name: getattr(one.details, name)
        for name in ("type_of", "order")
        if np.array_equal(getattr(one.details, name), getattr(other.details, name))
    }
    if _same_texts(one.details.written, other.details.written):
        shared["written"] = one.details.written
    return replace(other, tree=one.tree, details=other.details._replace(columns=columns, **shared))


def _statements(one: SiteModel, other: SiteModel) -> str:
    gone = sorted({*one.statements.gone, *other.statements.gone})
    for number, setting in enumerate(one.catalogue.settings):
        (*mine, value), (*theirs, other_value) = (_rows(site.statements, number, gone) for site in (one, other))
        codes = {word: code for code, word in enumerate(other.statements.words[number].items)}
        table = np.array([codes.get(word, -1) for word in one.statements.words[number].items], dtype=np.int32)
        pairs = zip([*mine, table[value]], [*theirs, other_value], strict=True)
        if not all(np.array_equal(first, second) for first, second in pairs):
            return f"the statements of {setting.name}"
    return ""


def _rows(said: Statements, setting: int, gone: Sequence[str]) -> list[NDArray[Any]]:
    """Target, scope, form, lock and value of each statement of a setting. Each [statements of the setting]"""
    order, target = _order(said, setting, gone)
    return [target, *(getattr(said, name)[order] for name in ("scope", "form", "locked", "value"))]


def _order(said: Statements, setting: int, gone: Sequence[str]) -> tuple[NDArray[np.int64], Codes]:
    """The statements of a setting by scope and target, and these targets: pages that are gone by their place in `gone`.

    Those of one scope and target stay in the order of the fold.
    """
    span = said.of_setting(setting)
    number = np.array([0, *(-1 - gone.index(path) for path in said.gone)], dtype=np.int32)
    target = said.target[span.start : span.stop]
    target = np.where(target < 0, number[np.maximum(-target, 0)], target)
    order = np.lexsort((target, said.scope[span.start : span.stop]))
    return order + span.start, target[order]


def _same_column(one: Column, other: Column) -> bool:
    words = one.words, other.words
    if np.array_equal(one.codes, other.codes):
        if isinstance(words[0], Texts) and isinstance(words[1], Texts):
            return _same_texts(words[0], words[1])
        if list(words[0]) == list(words[1]):
            return True
    return _same_texts(Texts.of_column(one), Texts.of_column(other))  # a word can have several codes


def _has_same_codes(one: Column, other: Column) -> bool:
    return np.array_equal(one.codes, other.codes) and _same_column(one, other)


def _same_texts(one: Texts, other: Texts) -> bool:
    if not np.array_equal(one.end - one.start, other.end - other.start):
        return False
    return bool(one.same(np.arange(len(one)), other, other.end).all())


def placeless(value: Any) -> Any:
    """A value without the files and lines in it."""
    if isinstance(value, Place | RolePlace):
        return None
    if isinstance(value, Mapping):
        return {key: placeless(inner) for key, inner in value.items()}
    if isinstance(value, tuple):
        return tuple(placeless(inner) for inner in value)
    if hasattr(value, "__dataclass_fields__"):
        return {name: placeless(getattr(value, name)) for name in value.__dataclass_fields__}
    return value
