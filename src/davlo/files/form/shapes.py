"""The shapes that values have in davlo.yaml: what may stand after a key."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from types import MappingProxyType
from typing import NamedTuple, TypeAlias


def ends_in(endings: Iterable[str]) -> str:
    """The pattern of a text that has one of these endings, in letters of either case.

    Example
    -------
    >>> ends_in((".csv", ".gz"))
    '\\\\.([cC][sS][vV]|[gG][zZ])$'
    """
    either = ("".join(f"[{letter}{letter.upper()}]" for letter in one.removeprefix(".")) for one in endings)
    return rf"\.({'|'.join(either)})$"


class Text(NamedTuple):
    """A text, matching `pattern` (a regular expression) if there is one; with `integers` an integer is accepted too.

    `names` is what the text may name: `page`, `setting`, a kind of declaration, or any `declaration`.
    """

    pattern: str = ""
    integers: bool = False
    names: str = ""


class Flag(NamedTuple):
    """yes or no; true and false are accepted too."""


class Number(NamedTuple):
    """A number within bounds; a whole one unless it may have decimals."""

    least: float
    most: float
    whole: bool = True

    @property
    def bounds(self) -> tuple[float, float, bool]:
        """The least, the most, and whether it is whole."""
        return self.least, self.most, self.whole


class Word(NamedTuple):
    """One of these words. `what` is what they are called where a list may hold several."""

    choices: tuple[str, ...]
    what: str = "word"


class NameOf(NamedTuple):
    """The name of a declaration of one of these kinds, or one of the other words."""

    kinds: tuple[str, ...]
    besides: tuple[str, ...] = ()

    @property
    def words(self) -> str:
        """The kinds in words: `layout, band or block`."""
        *first, last = self.kinds
        return f"{', '.join(first)} or {last}" if first else last


class Words(NamedTuple):
    """One word, or a list of words."""

    of: Text | Word | NameOf


class Fields(NamedTuple):
    """A mapping with these keys, some of them required, and with at least one of `any_of`."""

    fields: Mapping[str, Field]
    required: tuple[str, ...] = ()
    any_of: tuple[str, ...] = ()

    @property
    def keys(self) -> tuple[str, ...]:
        """The keys."""
        return tuple(self.fields)

    def bounds(self, key: str) -> tuple[float, float, bool]:
        """The bounds of a key that takes a number."""
        shape = self.fields[key].shape
        assert isinstance(shape, Number), key
        return shape.bounds

    def choices(self, key: str) -> tuple[str, ...]:
        """The words that a key takes."""
        shape = self.fields[key].shape
        shape = shape.of if isinstance(shape, Words) else shape
        assert isinstance(shape, Word), key
        return shape.choices


class Entries(NamedTuple):
    """A mapping from names to things of one shape. `named`: what the names are; empty if they are any text."""

    of: Shape
    named: str = ""


class ListOf(NamedTuple):
    """A list of things of one shape."""

    of: Shape


class Either(NamedTuple):
    """One of several shapes."""

    shapes: tuple[Shape, ...]


class Settings(NamedTuple):
    """A mapping from settings to values, and with them these keys."""

    beside: Mapping[str, Field] = MappingProxyType({})
    changes_too: bool = True


class ActionList(NamedTuple):
    """Actions or roles: a list that replaces what weaker scopes say, or a change of it."""


class SettingValue(NamedTuple):
    """The value of some setting, of any kind."""


Shape: TypeAlias = (
    "Text | Flag | Number | Word | NameOf | Words | Fields | Entries | ListOf | Either | Settings | ActionList"
    "| SettingValue"
)


class Field(NamedTuple):
    """A key: what may stand after it, what it is for, in one line, and an example of two lines at most."""

    shape: Shape
    help: str
    example: str = ""


def words_offered(shape: Shape, names: Mapping[str, Sequence[str]]) -> tuple[str, ...]:
    """The words that may stand somewhere; empty where any text or number may.

    `names` gives for a kind of declaration its declared names.

    Example
    -------
    >>> words_offered(Words(NameOf(("sidebar",), ("none",))), {"sidebar": ["main", "quiet"]})
    ('main', 'quiet', 'none')
    """
    match shape:
        case Flag():
            return ("yes", "no")
        case Word(choices):
            return choices
        case NameOf(kinds, besides):
            return (*(name for kind in kinds for name in names.get(kind, ())), *besides)
        case Words(of):
            return words_offered(of, names)
        case Either(shapes):
            return tuple(word for one in shapes for word in words_offered(one, names))
        case ActionList():
            return words_offered(NameOf(("action", "role")), names)
    return ()
