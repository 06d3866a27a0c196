"""What a declaration says, laid out for people: on one line, or a line a key."""

from __future__ import annotations

from collections.abc import Iterator, Mapping

from davlo.core.outcomes.declaration_details import Detail, Details


def on_one_line(detail: Detail) -> str:
    """A detail on one line.

    Example
    -------
    >>> on_one_line({"type": ("event",), "facts": {"made_with": ("potting-bench", "spade")}})
    'type: event; facts: made_with: potting-bench or spade'
    >>> on_one_line(("main", "quiet"))
    'main, quiet'
    """
    if isinstance(detail, str):
        return detail
    if isinstance(detail, Mapping):
        return "; ".join(
            f"{key}: {' or '.join(inner) if isinstance(inner, tuple) else on_one_line(inner)}"
            for key, inner in detail.items()
        )
    return ", ".join(detail)


def line_by_line(details: Details, indent: str = "  ") -> Iterator[str]:
    """Details as lines, those within one under it.

    Example
    -------
    >>> list(line_by_line({"kind": "links", "links": {"Tickets": "/visit/tickets"}}))
    ['  kind: links', '  links:', '    Tickets: /visit/tickets']
    """
    for key, detail in details.items():
        if isinstance(detail, Mapping):
            yield f"{indent}{key}:"
            yield from line_by_line(detail, indent + "  ")
        else:
            yield f"{indent}{key}: {on_one_line(detail)}"
