"""The looks of a site as a style sheet, for the classes that page records name (CSS 2.2; Media Queries Level 3)."""

from __future__ import annotations

from collections.abc import Iterator, Mapping

from davlo.core.records.area_fields import look_class
from davlo.core.records.page_plan import SCREENS
from davlo.core.site.declarations import LOOK_PARTS, Look

_MEDIA = {
    "phone": f"(max-width: {SCREENS['tablet'] - 1}px)",
    "tablet": f"(min-width: {SCREENS['tablet']}px) and (max-width: {SCREENS['wide'] - 1}px)",
    "wide": f"(min-width: {SCREENS['wide']}px)",
}
"""How wide the window is on each screen."""
_COLUMNS = f"(min-width: {SCREENS['tablet']}px)"
OF_COLUMNS = ("whole", "width")
"""The width of a sidebar counts where it stands in a column; on a phone areas are stacked."""


def looks_css(looks: Mapping[str, Look]) -> str:
    """The style sheet.

    Each part of a look is a class; a screen on which a look is not shown hides it. Widths are for screens with columns.

    Example
    -------
    >>> import davlo
    >>> print(looks_css({"usual": davlo.open_demo().declarations.looks["usual"]}))
    /* The looks of the site, for the classes that page records name. */
    .look-usual {
      margin-inline-start: 32px;
      border: 1px solid;
    }
    @media (min-width: 768px) {
      .look-usual { width: 28%; }
    }
    <BLANKLINE>
    """
    return "\n".join(["/* The looks of the site, for the classes that page records name. */", *_lines(looks), ""])


def _lines(looks: Mapping[str, Look]) -> Iterator[str]:
    for name, look in looks.items():
        for part in LOOK_PARTS:
            said = getattr(look, part)
            inner = {key: value for key, value in said.items() if (part, key) != OF_COLUMNS}
            if inner:
                yield f".{_escaped(look_class(name, part))} {{"
                yield from (f"  {key}: {value};" for key, value in inner.items())
                yield "}"
            if len(inner) < len(said):
                yield f"@media {_COLUMNS} {{"
                yield f"  .{_escaped(look_class(name, part))} {{ width: {said['width']}; }}"
                yield "}"
        for screen, media in _MEDIA.items():
            if screen not in look.shows_on:
                yield f"@media {media} {{"
                yield f"  .{_escaped(look_class(name, 'whole'))} {{ display: none; }}"
                yield "}"


def _escaped(name: str) -> str:
    """A class as a selector has it: a dot in a name is escaped (CSS 2.2, section 4.1.3)."""
    return name.replace(".", "\\.")
