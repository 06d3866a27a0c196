"""People and groups, and the subjects of access that cover them."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import cached_property

from ..faults import Place, UnknownName

VISITOR = "visitor"
OWNING = ("owner", "owner-group")
"""Subjects that cover a person on some pages alone."""


@dataclass(frozen=True)
class People:
    """Who there is: people, admins, groups (members by name, groups among them); where each is declared."""

    names: tuple[str, ...] = ()
    admins: tuple[str, ...] = ()
    groups: Mapping[str, tuple[str, ...]] = field(default_factory=dict)
    places: Mapping[str, Place] = field(default_factory=dict)

    def has(self, name: str) -> bool:
        """Whether this is the name of a person."""
        return name in self._names

    @cached_property
    def _names(self) -> frozenset[str]:
        return frozenset(self.names)

    def groups_of(self, person: str) -> tuple[str, ...]:
        """Every group a person is in, groups of groups included."""
        return self._groups_by_person.get(person, ())

    def members_of(self, group: str) -> tuple[str, ...]:
        """Every person in a group, or in a group of it."""
        return self._people_by_group.get(group, ())

    def is_admin(self, who: str) -> bool:
        """Whether everything is open to somebody."""
        return who in self.admins

    def covering(self, who: str) -> tuple[str, ...]:
        """The subjects that cover a person, or a visitor; `owner` and `owner-group` depend on the page.

        Raises
        ------
        UnknownName
            If there is no such person.

        Example
        -------
        >>> People(("ida.marsh",), groups={"editors": ("ida.marsh",)}).covering("ida.marsh")
        ('everyone', 'signed-in', 'ida.marsh', 'editors', 'owner', 'owner-group')
        """
        if who == VISITOR:
            return ("everyone",)
        if not self.has(who):
            raise UnknownName("person", who, (*self.names, VISITOR))
        return ("everyone", "signed-in", who, *self.groups_of(who), *OWNING)

    def ever_covered(self, subject: str) -> tuple[str, ...]:
        """Everyone whom a subject can cover on some page; `everyone` is a visitor."""
        if subject == "everyone":
            return (VISITOR,)
        if subject in self.groups:
            return self.members_of(subject)
        return self.names if subject in ("signed-in", *OWNING) else (subject,)

    @cached_property
    def _groups_by_person(self) -> dict[str, tuple[str, ...]]:
        """The groups of each person, in their order; worked out once for all people of the same groups."""
        direct: dict[str, list[str]] = {}
        for group, members in self.groups.items():
            for member in members:
                direct.setdefault(member, []).append(group)
        order = {group: i for i, group in enumerate(self.groups)}
        known: dict[tuple[str, ...], tuple[str, ...]] = {}
        found = {}
        for person in self.names:
            begin = tuple(direct.get(person, ()))
            if begin not in known:
                seen, seek = set(begin), list(begin)
                while seek:
                    new = [group for group in direct.get(seek.pop(), ()) if group not in seen]
                    seen.update(new)
                    seek += new
                known[begin] = tuple(sorted(seen, key=order.__getitem__))
            found[person] = known[begin]
        return found

    @cached_property
    def _people_by_group(self) -> dict[str, tuple[str, ...]]:
        found: dict[str, list[str]] = {}
        for person in self.names:
            for group in self.groups_of(person):
                found.setdefault(group, []).append(person)
        return {group: tuple(people) for group, people in found.items()}
