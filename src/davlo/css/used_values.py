"""What the properties of a look come to when they are drawn: longhands, pixels, colours.

Shorthands and logical forms become the physical longhands of a page that is read from left to right and from top to
bottom (CSS Logical Properties 1, section 4); what is said later overrides what is said earlier.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping

from tinycss2 import color4

from .properties import AXES, PROPERTIES, SIDES, Token, tokens_of

PHYSICAL = ("top", "right", "bottom", "left")
_OF_LOGICAL = {"block-start": "top", "block-end": "bottom", "inline-start": "left", "inline-end": "right"}
_OF_AXIS = {"block": ("top", "bottom"), "inline": ("left", "right")}
_PIXELS = {
    **{"px": 1.0, "in": 96.0, "cm": 96 / 2.54, "mm": 9.6 / 2.54, "q": 2.4 / 2.54, "pt": 96 / 72, "pc": 16.0},
    **{"ex": 0.5, "ch": 0.5, "em": 1.0, "rem": 1.0, "lh": 1.2, "rlh": 1.2},
    **dict.fromkeys(("vw", "vh", "vi", "vb", "vmin", "vmax"), 12.8),
}
"""How many pixels a unit has: for the units of fonts, how many times the size of the font."""
_OF_FONT = ("ex", "ch", "em", "rem", "lh", "rlh")
_WORDS = {"thin": 1.0, "medium": 3.0, "thick": 5.0, "normal": 0.0, "auto": 0.0}
FONT = 16.0
"""The pixels of a font that nobody sets."""
_FONTS = {
    **{"xx-small": 9.0, "x-small": 10.0, "small": 13.0, "medium": 16.0, "large": 18.0, "x-large": 24.0},
    **{"xx-large": 32.0, "xxx-large": 48.0, "larger": 19.2, "smaller": 13.3},
}
_WEIGHTS = {"normal": 400.0, "bold": 700.0, "bolder": 700.0, "lighter": 100.0}


def longhands(said: Mapping[str, str]) -> dict[str, Token]:
    """The physical longhands that declarations come to, each with its component value.

    `said`: properties and their values, in the order in which they are said.

    Example
    -------
    >>> found = longhands({"margin": "0 1em", "margin-inline-start": "32px", "border": "1px solid"})
    >>> pixels(found["margin-left"]), pixels(found["margin-right"]), found["border-top-style"].value
    (32.0, 16.0, 'solid')
    """
    found: dict[str, Token] = {}
    for name, value in said.items():
        found |= dict(_expanded(name, tokens_of(value)))
    return found


def _expanded(name: str, tokens: list[Token]) -> Iterator[tuple[str, Token]]:
    """The longhands of one declaration."""
    family, _, rest = name.partition("-")
    if name == "gap":
        yield from (("row-gap", tokens[0]), ("column-gap", tokens[-1]))
    elif family == "border" and rest in ("", *AXES, *SIDES):
        for side in _sides_of(rest):
            yield from ((f"border-{side}-{part}", token) for part, token in _border(tokens).items())
    elif family == "border":
        where, _, part = f"-{rest}".rpartition("-")
        yield from ((f"border-{side}-{part}", token) for side, token in _on_sides(where.strip("-"), tokens))
    elif family in ("padding", "margin"):
        yield from ((f"{family}-{side}", token) for side, token in _on_sides(rest, tokens))
    else:
        yield {"inline-size": "width"}.get(name, name), tokens[0]


def _sides_of(where: str) -> tuple[str, ...]:
    """The sides that a part of a property's name means."""
    return PHYSICAL if not where else _OF_AXIS.get(where, (_OF_LOGICAL.get(where, where),))


def _on_sides(where: str, tokens: list[Token]) -> Iterator[tuple[str, Token]]:
    """What each side gets: of four sides the second value is for right and left, the third for the bottom."""
    sides = _sides_of(where)
    for at, side in enumerate(sides):
        place = at if at < len(tokens) else at - 2 if at - 2 < len(tokens) and at > 1 else 0
        yield side, tokens[place]


def _border(tokens: list[Token]) -> dict[str, Token]:
    """The width, style and colour of a border; what it leaves out is as CSS begins: medium, none, the text's colour."""
    takes = dict(zip(("width", "style", "color"), PROPERTIES["border"].one, strict=True))
    start = dict(zip(takes, tokens_of("medium none currentcolor"), strict=True))
    return {part: next((token for token in tokens if one(token)), start[part]) for part, one in takes.items()}


def pixels(token: Token | None, font: float = FONT, whole: float = 0.0) -> float:
    """The pixels of a length; `whole` is what a percentage is of. Nothing, `auto` and `normal` are 0.

    Example
    -------
    >>> pixels(tokens_of("1.5em")[0]), pixels(tokens_of("1in")[0]), pixels(tokens_of("5%")[0], whole=400)
    (24.0, 96.0, 20.0)
    """
    if token is None:
        return 0.0
    if token.type == "percentage":
        return float(token.value) / 100 * whole
    if token.type == "dimension":
        times = font if token.lower_unit in _OF_FONT else 1.0
        return float(token.value) * _PIXELS[token.lower_unit] * times
    return _WORDS.get(token.lower_value, 0.0) if token.type == "ident" else 0.0


def font_pixels(token: Token | None, around: float = FONT) -> float:
    """The pixels of a `font-size`; `around` is the size of the font around it."""
    if token is None:
        return around
    if token.type == "ident":
        return _FONTS[token.lower_value]
    return pixels(token, around, around)


def is_bold(token: Token | None, usual: bool) -> bool:
    """Whether a `font-weight` is drawn bold; `usual` where nobody sets it."""
    if token is None:
        return usual
    weight = _WEIGHTS[token.lower_value] if token.type == "ident" else float(token.value)
    return weight >= 600


def color_of(token: Token | None, behind: str = "#ffffff") -> str:
    """A colour as `#rrggbb`, a translucent one upon what is behind it; empty where nobody sets one that can be drawn.

    `currentcolor` is not drawn as a colour of its own, nor is one that sRGB does not have.

    Example
    -------
    >>> color_of(tokens_of("rgb(0 0 0 / 50%)")[0]), color_of(tokens_of("green")[0]), color_of(None)
    ('#808080', '#008000', '')
    """
    found = None if token is None else color4.parse_color(token)
    if found is None or isinstance(found, str):
        return ""
    try:
        *channels, alpha = found.to("srgb")
    except NotImplementedError:
        return ""
    if not alpha:
        return ""
    back = (int(behind[at : at + 2], 16) / 255 for at in (1, 3, 5))
    mixed = (one * alpha + other * (1 - alpha) for one, other in zip(channels, back, strict=True))
    return "#" + "".join(f"{round(min(max(one, 0.0), 1.0) * 255):02x}" for one in mixed)
