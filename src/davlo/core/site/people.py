"""People and groups, and the subjects of access that cover them."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

from ..arrays.closure import closure
from ..cached import cached_property
from ..faults import Place, UnknownName

VISITOR, SIGNED_IN = "visitor", "signed-in"
OWNING = ("owner", "owner-group")
"""Subjects that cover a person on some pages alone."""


@dataclass(frozen=True)
class People:
    """People, admins and groups (with members by name, groups among them), and where each is declared."""

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
        """Whether somebody is an admin."""
        return who in self.admins

    def in_words(self, who: str) -> str:
        """A viewer as a sentence has it.

        Example
        -------
        >>> people = People(("ida.marsh",), groups={"staff": ("ida.marsh",)})
        >>> people.in_words("visitor"), people.in_words("staff"), people.in_words("ida.marsh")
        ('a visitor', 'somebody in the group staff alone', 'ida.marsh')
        """
        if who in self.groups:
            return f"somebody in the group {who} alone"
        return {SIGNED_IN: "somebody who is signed in", VISITOR: "a visitor"}.get(who, who)

    def covering(self, who: str) -> tuple[str, ...]:
        """The subjects that cover a viewer; `owner` and `owner-group` depend on the page.

        A viewer is a person, `visitor`, `signed-in` (somebody in no group), or a group: somebody who is in it and in
        nothing else.

        Example
        -------
        >>> people = People(("ida.marsh",), groups={"editors": ("ida.marsh",), "staff": ("editors",)})
        >>> people.covering("ida.marsh")
        ('everyone', 'signed-in', 'ida.marsh', 'editors', 'staff', 'owner', 'owner-group')
        >>> people.covering("editors"), people.covering("visitor")
        (('everyone', 'signed-in', 'editors', 'staff', 'owner-group'), ('everyone',))
        """
        if who == VISITOR:
            return ("everyone",)
        if who == SIGNED_IN:
            return ("everyone", SIGNED_IN)
        if self.has(who):
            return ("everyone", SIGNED_IN, who, *self.groups_covering(who), *OWNING)
        if who in self.groups:
            return ("everyone", SIGNED_IN, *self.groups_covering(who), "owner-group")
        raise UnknownName("person or group", who, (*self.names, *self.groups, VISITOR, SIGNED_IN))

    def groups_covering(self, who: str) -> tuple[str, ...]:
        """The groups that a person, or somebody who is in one group alone, is in; groups of groups included."""
        if who not in self.groups:
            return self.groups_of(who)
        found = closure([who], self._groups_holding)
        return tuple(group for group in self.groups if group in found)

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
        order = {group: i for i, group in enumerate(self.groups)}
        known: dict[tuple[str, ...], tuple[str, ...]] = {}
        found = {}
        for person in self.names:
            begin = tuple(self._groups_holding.get(person, ()))
            if begin not in known:
                known[begin] = tuple(sorted(closure(begin, self._groups_holding), key=order.__getitem__))
            found[person] = known[begin]
        return found

    @cached_property
    def _groups_holding(self) -> dict[str, list[str]]:
        """The groups that name each member."""
        found: dict[str, list[str]] = {}
        for group, members in self.groups.items():
            for member in members:
                found.setdefault(member, []).append(group)
        return found

    @cached_property
    def _people_by_group(self) -> dict[str, tuple[str, ...]]:
        found: dict[str, list[str]] = {}
        for person in self.names:
            for group in self.groups_of(person):
                found.setdefault(group, []).append(person)
        return {group: tuple(people) for group, people in found.items()}
