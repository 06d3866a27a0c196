"""Viewpoints, as files hold them: pages and viewers to look at after every change."""

from __future__ import annotations

from davlo.core.faults import Place
from davlo.core.site.model import Viewpoint
from davlo.core.site.people import SIGNED_IN, VISITOR, People

from ...form.davlo_yaml import VIEWPOINT
from ..yaml.node_reader import Reader
from ..yaml.yaml_nodes import Node


def read_viewpoints(node: Node | None, people: People, reader: Reader) -> tuple[Viewpoint, ...]:
    """The `viewpoints` section. A viewer must be declared; a page need not be there."""
    if node is None:
        return ()
    viewers = (*people.names, *people.groups, VISITOR, SIGNED_IN)
    found: dict[tuple[str, str], Place] = {}
    for item in reader.items(node, "viewpoints"):
        body = reader.mapping(item, "a viewpoint", VIEWPOINT.keys)
        named = reader.text(body.entries.get("page"), "page")
        page = reader.page_path(named)
        if "page" not in body.entries:
            reader.fault(item.place, "the viewpoint has no page", hint="{page: /, as: visitor}")
        elif not page.startswith("/"):
            reader.page_fault(item.place, f"page takes a path, which starts with /, not {named!r}", named)
        viewer = reader.text(body.entries.get("as"), "as") if "as" in body.entries else VISITOR
        if viewer not in viewers:
            reader.fault(item.place, f"as: there is no person or group {viewer!r}", viewer, viewers)
        elif (page, viewer) in found:
            what = f"a second viewpoint looks at {page} as {viewer}; the first is at {found[page, viewer]}"
            reader.fault(item.place, what, hint="take one of them away")
        found.setdefault((page, viewer), item.place)
    return tuple(Viewpoint(page, viewer, place) for (page, viewer), place in found.items())
