"""Layouts for people: columns, indented paths, shortened texts."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from davlo.core.outcomes.menus.outline import Outline
from davlo.core.site.pages.tree import Tree
from davlo.core.wording import tail_of


def indented(tree: Tree, shown: Outline) -> Iterator[str]:
    """The ends of an outline's paths, indented, with how many more there are below.

    A path is shown without the path of the page that it is indented under.
    """
    above: list[tuple[int, str]] = []
    columns = (shown.pages.tolist(), tree.paths.take(shown.pages).tolist(), shown.level.tolist(), shown.hidden.tolist())
    for page, path, level, hidden in zip(*columns, strict=True):
        while above and not above[-1][0] < page < int(tree.end[above[-1][0]]):
            above.pop()
        yield "  " * level + tail_of(path, above[-1][1] if above else "") + (f"  (+{hidden:,})" if hidden else "")
        above.append((page, path))


def aligned(lines: Sequence[Sequence[str]]) -> Iterator[str]:
    """Rows as lines in which every column begins at the same place.

    Example
    -------
    >>> list(aligned([["page", "title"], ["/visit/tickets", "Tickets"]]))
    ['page            title', '/visit/tickets  Tickets']
    """
    widths = [max(map(len, column)) for column in zip(*lines, strict=True)]
    for line in lines:
        yield "  ".join(cell.ljust(width) for cell, width in zip(line, widths, strict=True)).rstrip()
