"""The names of all that a site declares, by kind."""

from __future__ import annotations

from ..faults import UnknownName
from .declarations import SECTIONS
from .model import SiteModel

DECLARED_KINDS = (
    *(kind for kind in SECTIONS if kind != "role"),
    *("type", "setting", "rule", "guarantee", "person", "group", "role"),
)
"""The kinds of declarations, in the order in which they are listed."""


def plural_of(kind: str) -> str:
    """The plural of a kind.

    Example
    -------
    >>> plural_of("sidebar"), plural_of("person")
    ('sidebars', 'people')
    """
    return "people" if kind == "person" else f"{kind}s"


def declared_names(site: SiteModel, kind: str) -> tuple[str, ...]:
    """The names of a kind, in the order of the files.

    Example
    -------
    >>> import davlo
    >>> declared_names(davlo.open_demo(), "guarantee")[0]
    'Staff pages stay private'
    """
    if kind == "person":
        return site.people.names
    if kind == "group":
        return tuple(site.people.groups)
    if kind == "setting":
        return site.catalogue.names()
    if kind == "type":
        return tuple(dict.fromkeys([*site.types.declared, *site.types.names]))
    if kind in ("rule", "guarantee"):
        return tuple(one.name for one in (site.rules if kind == "rule" else site.guarantees))
    if kind not in DECLARED_KINDS:
        raise UnknownName("kind of declaration", kind, DECLARED_KINDS)
    return tuple(site.declarations.of(kind))


def kinds_of(site: SiteModel, name: str) -> list[str]:
    """The kinds that have a declaration of this name.

    Raises UnknownName if there is none.
    """
    found = [kind for kind in DECLARED_KINDS if name in declared_names(site, kind)]
    if not found:
        allowed = [name for kind in DECLARED_KINDS for name in declared_names(site, kind)]
        raise UnknownName("declaration", name, [*allowed, *map(plural_of, DECLARED_KINDS)])
    return found
