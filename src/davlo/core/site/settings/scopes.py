"""Scopes: where a statement applies."""

from __future__ import annotations

from enum import IntEnum
from typing import NamedTuple


class ScopeKind(IntEnum):
    """The kinds of scope; the weakest first."""

    BUILT_IN = 0
    ESTATE = 1
    EVERYWHERE = 2
    TYPE = 3
    BELOW = 4
    RULE = 5
    STAMP = 6
    HERE = 7

    @property
    def word(self) -> str:
        """Its name in messages: `built-in`, `estate`, `everywhere`, `type`, `below`, `rule`, `stamp` or `here`."""
        return self.name.lower().replace("_", "-")

    def __repr__(self) -> str:
        # short names of findings are made from it, and stay the same: the estate came later than the others
        number = "estate" if self is ScopeKind.ESTATE else self.value - (self > ScopeKind.ESTATE)
        return f"<ScopeKind.{self.name}: {number}>"


FOR_ALL = (ScopeKind.ESTATE, ScopeKind.EVERYWHERE)
"""The kinds that are for all pages."""
SINGLE = (ScopeKind.STAMP, ScopeKind.HERE)
"""The kinds that are for one page alone."""
OF_PAGES = (ScopeKind.BELOW, ScopeKind.STAMP, ScopeKind.HERE)
"""The kinds whose target is a page."""


class Scope(NamedTuple):
    """Where a statement applies, by names that mean the same in every state of a site.

    Attributes
    ----------
    kind : ScopeKind
    name : str
        The type, the path of the page, or the rule; empty for everywhere, the estate and built-in.
    both : bool
        Whether it is a page and everything below it (`here_and_below`): its `parts` are two scopes.

    Example
    -------
    >>> str(Scope.below("/visit")), str(Scope.here("/visit")), str(Scope.everywhere())
    ('below /visit', 'here', 'everywhere')
    >>> [part.sentence for part in Scope.here_and_below("/visit").parts]
    ['below /visit', 'the page itself']
    """

    kind: ScopeKind
    name: str = ""
    both: bool = False

    @classmethod
    def estate(cls) -> Scope:
        return cls(ScopeKind.ESTATE)

    @classmethod
    def everywhere(cls) -> Scope:
        return cls(ScopeKind.EVERYWHERE)

    @classmethod
    def type(cls, name: str) -> Scope:
        return cls(ScopeKind.TYPE, name)

    @classmethod
    def below(cls, path: str) -> Scope:
        return cls(ScopeKind.BELOW, path)

    @classmethod
    def rule(cls, name: str) -> Scope:
        return cls(ScopeKind.RULE, name)

    @classmethod
    def stamp(cls, path: str) -> Scope:
        return cls(ScopeKind.STAMP, path)

    @classmethod
    def here(cls, path: str) -> Scope:
        return cls(ScopeKind.HERE, path)

    @classmethod
    def here_and_below(cls, path: str) -> Scope:
        return cls(ScopeKind.BELOW, path, both=True)

    @property
    def parts(self) -> tuple[Scope, ...]:
        """Its scopes: two for a page and everything below it, else itself."""
        return (Scope.below(self.name), Scope.here(self.name)) if self.both else (self,)

    def __str__(self) -> str:
        """The scope as tables have it: `built-in`, `everywhere`, `type NAME`, `below PATH`, `rule NAME`, …"""
        return f"{self.kind.word} {self.name}" if self.kind in _NAMED else self.kind.word

    @property
    def sentence(self) -> str:
        """The scope within a sentence."""
        if self.both:
            return f"here and below {self.name}"
        if self.kind == ScopeKind.RULE:
            return f'the rule "{self.name}"'
        return _IN_SENTENCES.get(self.kind, str(self))


_NAMED = (ScopeKind.TYPE, ScopeKind.BELOW, ScopeKind.RULE)
_IN_SENTENCES = {ScopeKind.HERE: "the page itself", ScopeKind.STAMP: "the page's stamp", ScopeKind.ESTATE: "the estate"}
BUILT_IN_SCOPE = Scope(ScopeKind.BUILT_IN)
