"""Effective settings: what every page ends up with, and from where."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from typing import Any, TypeVar

import numpy as np
from numpy.typing import NDArray

from ..arrays.codebooks import Codes, Mask
from ..faults import UnknownName
from ..fixed import Fixed
from ..site.model import SiteModel
from ..site.settings.values import Plain, Value
from ..site.source import Source, source_of
from ..site.statements.scope_pages import ScopePages
from .exceptions import PageExceptions, exceptions
from .fold import FoldObserver, FoldStages, Resolved, fold_stages, resolve_setting
from .paint import winners
from .trace import Trace, trace

Shared = TypeVar("Shared")


class EffectiveModel(Fixed, Mapping[str, "PageSettings"]):
    """The effective settings of a site: a mapping from a page's path to its settings.

    Settings are resolved as they are asked for, each for all pages at once.
    """

    def __init__(self, site: SiteModel) -> None:
        self.site = site
        self._resolved: dict[int, Resolved] = {}
        self._shared: dict[object, object] = {}

    def __getstate__(self) -> dict[str, Any]:
        return {**super().__getstate__(), "_resolved": {}, "_shared": {}}

    def shared(self, model: Callable[[Any], Shared]) -> Shared:
        """The model of this class for these values. It is made once, so that all callers share what it has worked out.

        Example
        -------
        >>> import davlo
        >>> from davlo.core.outcomes.page_outcomes import Outcomes
        >>> effective = davlo.open_demo().resolve()
        >>> effective.shared(Outcomes) is effective.shared(Outcomes)
        True
        """
        if model not in self._shared:
            self._shared[model] = model(self)
        return self._shared[model]  # type: ignore[return-value]

    def __repr__(self) -> str:
        return f"<{type(self).__name__}: {len(self)} pages of {self.site.name!r}>"

    def __len__(self) -> int:
        return len(self.site.tree)

    def __iter__(self) -> Iterator[str]:
        return iter(self.site.tree.paths)

    def __getitem__(self, path: str) -> PageSettings:
        return PageSettings(self, self.page_number(path))

    def resolved(self, setting: int, keep: bool = True) -> Resolved:
        """One setting of every page, as codes; kept for the next question unless `keep` is false.

        A page that does not have the setting counts as having the built-in value.
        """
        found = self._resolved.get(setting)
        if found is None:
            found = self.resolved_part(setting, self.site.scope_pages)
            if keep:
                self._resolved[setting] = found
        return found

    def resolved_part(self, setting: int, part: ScopePages) -> Resolved:
        """One setting of a part of the pages (`site.scope_pages.part` or `.sampled`), as codes; nothing is kept.

        A page that does not have the setting counts as having the built-in value.
        """
        found = resolve_setting(self.site.statements, setting, part, self.is_for_new_pages(setting))
        by_type = self.site.has_by_type[setting]
        if not by_type.all():
            has, built_in = by_type[part.type_of], found.words.index(self.site.catalogue[setting].built_in)
            found = found._replace(value=np.where(has, found.value, built_in).astype(np.int32))
            found = found._replace(source=np.where(has, found.source, -1).astype(np.int32))
        return found

    def resolved_branch(self, setting: int, part: ScopePages) -> Resolved:
        """One setting of pages that lie side by side (`site.scope_pages.part`), as codes.

        It is cut from the values of all pages if these are there already, or if the part is most of the site.
        """
        if setting not in self._resolved and part.size < len(self) // 2:
            return self.resolved_part(setting, part)
        found, some = self.resolved(setting), slice(part.begin, part.begin + part.size)
        return Resolved(found.value[some], found.source[some], found.words)

    def winners_part(self, setting: int, part: ScopePages) -> NDArray[np.intp]:
        """Which statement won on each of them: see `winners`."""
        return winners(self.site.statements, setting, part, self.is_for_new_pages(setting))

    def fold_stages(self, setting: int, observer: FoldObserver | None = None) -> FoldStages:
        """One setting of every page with the stages of its fold, worked out again; `observer` receives every step."""
        return fold_stages(
            self.site.statements, setting, self.site.scope_pages, self.is_for_new_pages(setting), observer
        )

    def page_number(self, name: str) -> int:
        """The number of a page."""
        return self.site.page_number(name)

    def setting_number(self, name: str) -> int:
        """The number of a setting."""
        return self.site.setting_number(name)

    def column(self, setting: str) -> Resolved:
        """One setting of every page by its name."""
        return self.resolved(self.site.setting_number(setting))

    def where(self, setting: str, holds: Callable[[Value], bool]) -> Mask:
        """The pages that have a setting, and whose value of it meets a test. bool[pages]

        Example
        -------
        >>> import davlo
        >>> effective = davlo.open_demo().resolve()
        >>> int(effective.where("heading.show", lambda value: value is False).sum())
        48
        """
        number = self.site.setting_number(setting)
        return self.resolved(number).where(holds) & self.site.has(number)

    def is_for_new_pages(self, setting: int) -> bool:
        """Whether a setting's default is for new pages."""
        return self.site.catalogue[setting].default_for == "new-pages"

    def codes(self, setting: str) -> tuple[Codes, Sequence[Plain]]:
        """The values of a setting as codes, int32[pages], and the words they mean."""
        found = self.resolved(self.setting_number(setting))
        return found.value, found.words  # type: ignore[return-value]

    def value(self, page: int, setting: int) -> Plain:
        """What a page ends up with, by numbers."""
        return self.resolved(setting).at(page)

    def source(self, path: str, setting: str) -> Source:
        """The statement that won."""
        page, number = self.page_number(path), self.setting_number(setting)
        return source_of(self.site, int(self.resolved(number).source[page]))

    def why(self, path: str, setting: str) -> Trace:
        """Every candidate for a page and a setting, weakest first, with the reason it counted or did not.

        Example
        -------
        >>> import davlo
        >>> found = davlo.open_demo().resolve().why("/visit/tickets", "sidebar.right")
        >>> found.value, str(found.winner.scope)
        ('visit-planning', 'below /visit')
        """
        return trace(self.site, self.page_number(path), self.setting_number(setting))

    def exceptions(self, setting: str) -> PageExceptions:
        """The pages whose value is another than they would inherit: by a rule, a stamp, or what they say themselves.

        Example
        -------
        >>> import davlo
        >>> found = davlo.open_demo().resolve().exceptions("menu.show").records()
        >>> found[0].path, found[0].value, found[0].inherited, found[0].because
        ('/visit/thanks', False, True, 'Only people who booked come here')
        """
        number = self.setting_number(setting)
        return exceptions(self.site, number, self.fold_stages(number))


class PageSettings(Fixed, Mapping[str, Plain]):
    """The effective settings of one page: a mapping from a setting's name to its value."""

    def __init__(self, effective: EffectiveModel, page: int, settings: Iterable[int] | None = None) -> None:
        self._effective = effective
        self._page = page
        site = effective.site
        kind = int(site.details.type_of[page])
        chosen = range(len(site.catalogue)) if settings is None else settings
        self._numbers = {site.catalogue[n].name: n for n in chosen if site.has_by_type[n, kind]}

    def __repr__(self) -> str:
        return f"<PageSettings of {self._effective.site.tree.paths[self._page]}: {len(self)} settings>"

    def __len__(self) -> int:
        return len(self._numbers)

    def __iter__(self) -> Iterator[str]:
        return iter(self._numbers)

    def __getitem__(self, name: str) -> Plain:
        if name not in self._numbers:
            raise UnknownName("setting", name, tuple(self._numbers))
        return self._effective.value(self._page, self._numbers[name])
