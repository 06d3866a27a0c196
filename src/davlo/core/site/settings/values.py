"""Values of settings: what a statement may say, how it is read by the setting's kind, how it is written."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from decimal import Decimal
from typing import TypeAlias, TypeGuard

from ...wording import EMPTY

Plain: TypeAlias = bool | int | float | str | tuple[str, ...] | None
"""An effective value; `None` is the explicit `none`."""


@dataclass(frozen=True, slots=True)
class Reference:
    """`<everywhere>`, `<type>` or `<below>`: what the page would get if only that scope and the weaker ones spoke."""

    scope: str


@dataclass(frozen=True, slots=True)
class ByDepth:
    """A number that falls with a page's depth: max(floor, top − step × depth), rounded to 4 decimals."""

    top: float
    step: float
    floor: float

    def at(self, depth: int) -> float:
        """The number for a page of this depth (the number of its ancestors)."""
        return round(max(self.floor, self.top - self.step * depth), 4)


@dataclass(frozen=True, slots=True)
class ListChange:
    """A list that changes what weaker scopes gave: remove, then `first` in front, then `add` at the end."""

    first: tuple[str, ...] = ()
    add: tuple[str, ...] = ()
    remove: tuple[str, ...] = ()

    def apply(self, items: tuple[str, ...]) -> tuple[str, ...]:
        """The changed list; nothing appears twice, and what is there stays where it is."""
        kept = [item for item in items if item not in self.remove]
        front = [item for item in dict.fromkeys(self.first) if item not in kept]
        kept = front + kept
        return tuple(dict.fromkeys([*kept, *self.add]))


Value: TypeAlias = Plain | Reference | ByDepth | ListChange
Raw: TypeAlias = "str | list[Raw] | dict[str, Raw]"
"""A value as a file holds it: texts, lists and mappings, nothing typed yet."""

LIST_STEPS = ("add", "first", "remove")
"""What a change of a list may say."""
REFERENCES = {f"<{scope}>": Reference(scope) for scope in ("everywhere", "type", "below")}


def format_number(number: float) -> str:
    """A number without trailing zeros: `1`, `0.5`."""
    text = format(Decimal(repr(number)).normalize(), "f")
    return "0" if text == "-0" else text


def format_value(value: Value) -> str:
    """A value as a CSV cell holds it; references, changes and formulas as a person reads them."""
    if value is None:
        return "none"
    if value is True or value is False:
        return "yes" if value else "no"
    if isinstance(value, str):
        return value
    if isinstance(value, tuple):
        return "; ".join(value)
    if isinstance(value, Reference):
        return f"<{value.scope}>"
    if isinstance(value, ByDepth):
        top, step, floor = (format_number(number) for number in (value.top, value.step, value.floor))
        return f"by depth: {top}, {step} less a level, at least {floor}"
    if isinstance(value, ListChange):
        parts = [("remove", value.remove), ("first", value.first), ("add", value.add)]
        return ", ".join(f"{word} {'; '.join(items)}" for word, items in parts if items) or "change nothing"
    return format_number(value)


def raw_of(value: object) -> Raw:
    """A value as a file would hold it: what `read_value` reads as this value.

    Example
    -------
    >>> raw_of(True), raw_of(0.5), raw_of(("a", "b")), raw_of(ListChange(add=("c",))), raw_of("")
    ('yes', '0.5', ['a', 'b'], {'add': ['c']}, '<empty>')
    """
    if value is None or isinstance(value, bool):
        return format_value(value)
    if isinstance(value, str):
        return value or "<empty>"
    if isinstance(value, int | float):
        return format_number(value)
    if isinstance(value, Reference):
        return f"<{value.scope}>"
    if isinstance(value, ByDepth):
        return {"by_depth": {key: format_number(getattr(value, key)) for key in ("top", "step", "floor")}}
    if isinstance(value, ListChange):
        parts = (("remove", value.remove), ("first", value.first), ("add", value.add))
        return {key: [*items] for key, items in parts if items} or {"add": []}
    if isinstance(value, Mapping):
        return {str(key): raw_of(inner) for key, inner in value.items()}
    if isinstance(value, Sequence) and not isinstance(value, bytes | bytearray | memoryview):
        return [raw_of(item) for item in value]
    kinds = "a text, a number, yes or no, None, a list of these, or a dict that changes a list"
    raise TypeError(f"a value of a setting is {kinds}; not {value!r}")


def marked(value: Value) -> str:
    """A value as a table or a picture has it: an empty one is marked.

    Example
    -------
    >>> marked("main"), marked(()), marked(None)
    ('main', '(empty)', 'none')
    """
    return format_value(value) or EMPTY


def shown(value: Value) -> str:
    """A value as it stands in a sentence."""
    return format_value(value) or "empty"


def is_plain(value: Value) -> TypeGuard[Plain]:
    """Whether a value is one that a page can end up with."""
    return value is None or isinstance(value, bool | int | float | str | tuple)


def json_value(value: Plain) -> bool | int | float | str | list[str] | None:
    """A value as JSON holds it."""
    return list(value) if isinstance(value, tuple) else value


def expand_roles(roles: Mapping[str, Sequence[str]], words: Sequence[str]) -> tuple[str, ...]:
    """Actions and roles, as actions; nothing twice."""
    return tuple(dict.fromkeys(action for word in words for action in roles.get(word, (word,))))


def with_actions(roles: Mapping[str, Sequence[str]], value: Value) -> Value:
    """A value of a list with the actions of roles in place of their names.

    Example
    -------
    >>> with_actions({"tending": ("view", "edit")}, ListChange(add=("tending", "print")))
    ListChange(first=(), add=('view', 'edit', 'print'), remove=())
    """
    if isinstance(value, ListChange):
        return ListChange(**{step: expand_roles(roles, getattr(value, step)) for step in LIST_STEPS})
    return expand_roles(roles, value) if isinstance(value, tuple) else value


def words_of(value: Value) -> tuple[str, ...]:
    """The words in a value that may name something: itself, or its items.

    Example
    -------
    >>> words_of("main"), words_of(ListChange(add=("clock",), remove=("news",))), words_of(0.5)
    (('main',), ('clock', 'news'), ())
    """
    if isinstance(value, ListChange):
        return (*value.add, *value.first, *value.remove)
    if isinstance(value, tuple):
        return value
    return (value,) if isinstance(value, str) else ()
