"""What is worked out when it is first asked for, and kept: without the lock that Python 3.11 holds meanwhile."""

from __future__ import annotations

import functools
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from functools import cached_property
else:
    _MISSING = object()

    class cached_property(functools.cached_property):
        """The library's `cached_property`, but two threads may work out the same for two objects side by side.

        Until Python 3.12 the library's holds one lock for all objects of a class. Where two threads ask the same
        object, both may work it out; they get the same.
        """

        def __get__(self, instance, owner=None):
            if instance is None:
                return self
            kept = instance.__dict__
            found = kept.get(self.attrname, _MISSING)
            if found is _MISSING:
                found = kept[self.attrname] = self.func(instance)
            return found


__all__ = ["cached_property"]
