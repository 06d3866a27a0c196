"""The CSS properties that a look may set, and what each takes.

The names and the values are those of the standards: CSS Box Model 3 (padding, margin), CSS Backgrounds and Borders 3,
CSS Box Alignment 3 (gap), CSS Color 4, CSS Fonts 4, CSS Text 3, CSS Positioned Layout 3, and CSS Logical Properties 1
for the logical forms. tinycss2 parses the values. Davlo takes no `calc()`, `var()` or `url()`, and no keyword that
every property has (`inherit`, `initial`): a look says what it is, and nothing is fetched.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any, NamedTuple

_UNITS = {
    *("px", "em", "rem", "ex", "ch", "lh", "rlh", "vw", "vh", "vi", "vb", "vmin", "vmax"),
    *("cm", "mm", "q", "in", "pt", "pc"),
}
_STYLES = ("none", "hidden", "dotted", "dashed", "solid", "double", "groove", "ridge", "inset", "outset")
_WIDTHS = ("thin", "medium", "thick")
_SIZES = ("xx-small", "x-small", "small", "medium", "large", "x-large", "xx-large", "xxx-large", "larger", "smaller")

MOST = 10_000.0
"""The largest number in a value."""

Token = Any
"""A component value, as tinycss2 gives it."""
Takers = tuple[Callable[[Token], bool], ...]
"""What one component may be: each says whether it takes a token."""


class Takes(NamedTuple):
    """What a property takes."""

    told: str  # in words, after "takes"
    example: str  # a value
    one: Takers  # what one component may be: each says whether it takes a token
    most: int = 1  # how many components at most
    each_once: bool = False  # whether each kind of component may stand once, in any order, as in a border

    def accepts(self, tokens: Sequence[Token]) -> bool:
        """Whether these components are a value of the property."""
        if not 0 < len(tokens) <= self.most:
            return False
        if not self.each_once:
            return all(any(takes(token) for takes in self.one) for token in tokens)
        found = [next((at for at, takes in enumerate(self.one) if takes(token)), -1) for token in tokens]
        return -1 not in found and len(set(found)) == len(found)


def _length(least: float = 0.0) -> Callable[[Token], bool]:
    """A length of at least this many units; zero needs none."""

    def takes(token: Token) -> bool:
        if token.type == "dimension":
            return token.lower_unit in _UNITS and least <= token.value <= MOST
        return bool(token.type == "number" and token.value == 0)

    return takes


def _per_cent(least: float = 0.0, most: float = MOST) -> Callable[[Token], bool]:
    return lambda token: token.type == "percentage" and least <= token.value <= most


def _number(least: float, most: float) -> Callable[[Token], bool]:
    return lambda token: token.type == "number" and least <= token.value <= most


def _word(*words: str) -> Callable[[Token], bool]:
    return lambda token: token.type == "ident" and token.lower_value in words


def _color(token: Token) -> bool:
    from tinycss2 import color4  # a site without looks needs no parser of CSS

    return color4.parse_color(token) is not None


_PADDING = (_length(), _per_cent())
_MARGIN = (_length(-MOST), _per_cent(-MOST), _word("auto"))
_GAP = (*_PADDING, _word("normal"))
_BORDER_WIDTH = (_length(), _word(*_WIDTHS))
_BORDER_STYLE = (_word(*_STYLES),)
_BORDER_COLOR = (_color,)
_BORDER = (lambda token: any(takes(token) for takes in _BORDER_WIDTH), *_BORDER_STYLE, *_BORDER_COLOR)
SIDES = ("top", "right", "bottom", "left", "block-start", "block-end", "inline-start", "inline-end")
AXES = ("block", "inline")


def _sides(name: str, one: Takers, what: str, more: str, example: str, part: str = "") -> dict[str, Takes]:
    """A property of the four sides of a box, with its longhands and logical forms.

    `what` is one component in words, and `more` what follows it; `part` ends the names, as in `border-top-width`.
    """
    end = f"-{part}" if part else ""
    found = {name + end: Takes(f"one to four {what}s {more}", example, one, 4)}
    found |= {f"{name}-{axis}{end}": Takes(f"one or two {what}s {more}", example, one, 2) for axis in AXES}
    return found | {f"{name}-{side}{end}": Takes(f"a {what} {more}", example, one) for side in SIDES}


_WIDTH = Takes("a percentage of the page, from 1% to 100%", "28%", (_per_cent(1, 100),))
_SUCH = "such as 16px, 1em or 5%"
_COLOR = Takes("a colour such as green or '#2f6b3c'", "'#2f6b3c'", _BORDER_COLOR)
PROPERTIES: dict[str, Takes] = {
    "width": _WIDTH,
    "inline-size": _WIDTH,
    **_sides("padding", _PADDING, "length", _SUCH, "16px"),
    **_sides("margin", _MARGIN, "length", f"{_SUCH}, or auto", "32px"),
    "gap": Takes(f"one or two lengths {_SUCH}", "16px", _GAP, 2),
    "row-gap": Takes(f"a length {_SUCH}", "16px", _GAP),
    "column-gap": Takes(f"a length {_SUCH}", "16px", _GAP),
    **{
        name: Takes("a width, a style and a colour, such as 1px solid green", "1px solid", _BORDER, 3, True)
        for name in ("border", *(f"border-{side}" for side in (*AXES, *SIDES)))
    },
    **_sides("border", _BORDER_WIDTH, "width", "such as 1px or thin", "1px", "width"),
    **_sides("border", _BORDER_STYLE, "style", f"({', '.join(_STYLES)})", "solid", "style"),
    **_sides("border", _BORDER_COLOR, "colour", "such as green or '#2f6b3c'", "green", "color"),
    "background-color": _COLOR,
    "color": _COLOR,
    "font-size": Takes(f"a length {_SUCH}, or a word such as small or large", "18px", (*_PADDING, _word(*_SIZES))),
    "font-weight": Takes(
        "normal, bold, bolder, lighter or a number from 1 to 1000",
        "bold",
        (_word("normal", "bold", "bolder", "lighter"), _number(1, 1000)),
    ),
    "text-align": Takes(
        "start, end, left, right, center or justify",
        "center",
        (_word("start", "end", "left", "right", "center", "justify"),),
    ),
    "position": Takes("static or sticky", "sticky", (_word("static", "sticky"),)),
}
"""The properties of a look, in the order in which the docs list them."""


def tokens_of(value: str) -> list[Token]:
    """The components of a value; comments and spaces aside.

    Example
    -------
    >>> [token.type for token in tokens_of("1px solid #2f6b3c /* green */")]
    ['dimension', 'ident', 'hash']
    """
    import tinycss2

    found = tinycss2.parse_component_value_list(value, skip_comments=True)
    return [token for token in found if token.type != "whitespace"]


def checked(name: str, value: str) -> str | None:
    """A value as CSS spells it, or None where the property does not take it.

    `name`: a property of `PROPERTIES`.

    Example
    -------
    >>> checked("border", "1px  solid RED"), checked("padding", "16"), checked("padding", "0 1em")
    ('1px solid RED', None, '0 1em')
    """
    tokens = tokens_of(value)
    return " ".join(token.serialize() for token in tokens) if PROPERTIES[name].accepts(tokens) else None
