"""Objects that never change once they are made: a copy is the object itself, and they can be pickled."""

from __future__ import annotations

import copyreg
from collections.abc import Mapping
from types import MappingProxyType
from typing import Any, Self

from .cached import cached_property


class Fixed:
    """What never changes once it is made. Pickling leaves out what can be worked out again.

    Example
    -------
    >>> import copy, davlo, pickle
    >>> site = davlo.open_demo()
    >>> copy.deepcopy(site) is site, len(pickle.loads(pickle.dumps(site)).tree)
    (True, 158)
    """

    def __copy__(self) -> Self:
        return self

    def __deepcopy__(self, memo: object) -> Self:
        return self

    def __getstate__(self) -> dict[str, Any]:
        cached = {name for kind in type(self).__mro__ for name, one in vars(kind).items() if _is_cached(one)}
        return {name: value for name, value in self.__dict__.items() if name not in cached}


def _is_cached(one: object) -> bool:
    return isinstance(one, cached_property)


def _proxy(entries: Mapping[Any, Any]) -> MappingProxyType[Any, Any]:
    return MappingProxyType(dict(entries))


def _reduced(proxy: MappingProxyType[Any, Any]) -> tuple[Any, ...]:
    return _proxy, (dict(proxy),)


copyreg.pickle(MappingProxyType, _reduced)  # read-only mappings, which the declarations hold
