"""What a declaration says, laid out for people: on one line, or a line a key."""

from __future__ import annotations

from collections.abc import Iterator, Mapping

from davlo.core.outcomes.declaration_contents import Content, Contents


def on_one_line(content: Content) -> str:
    """What a declaration says under a key, on one line.

    Example
    -------
    >>> on_one_line({"type": ("event",), "details": {"made_with": ("potting-bench", "spade")}})
    'type: event; details: made_with: potting-bench or spade'
    >>> on_one_line(("main", "quiet"))
    'main, quiet'
    """
    if isinstance(content, str):
        return content
    if isinstance(content, Mapping):
        return "; ".join(
            f"{key}: {' or '.join(inner) if isinstance(inner, tuple) else on_one_line(inner)}"
            for key, inner in content.items()
        )
    return ", ".join(content)


def line_by_line(contents: Contents, indent: str = "  ") -> Iterator[str]:
    """What a declaration says, as lines; nested keys are indented.

    Example
    -------
    >>> list(line_by_line({"kind": "links", "links": {"Tickets": "/visit/tickets"}}))
    ['  kind: links', '  links:', '    Tickets: /visit/tickets']
    """
    for key, content in contents.items():
        if isinstance(content, Mapping):
            yield f"{indent}{key}:"
            yield from line_by_line(content, indent + "  ")
        else:
            yield f"{indent}{key}: {on_one_line(content)}"
