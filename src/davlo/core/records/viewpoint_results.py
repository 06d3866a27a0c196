"""What viewers see on the pages that people check after every change."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from types import MappingProxyType
from typing import NamedTuple

from ..faults import UnknownName
from ..outcomes.access.access_model import AccessModel
from ..resolve.effective import EffectiveModel
from ..site.model import Viewpoint
from .area_fields import NOTHING
from .page_record import page_record
from .record import PageRecord


class ViewpointResult(NamedTuple):
    """What a viewer sees on a page."""

    page: str
    viewer: str
    missing: str = ""
    """Why there is nothing to look at: there is no such page, or no such viewer. Empty otherwise."""
    may: tuple[str, ...] = ()
    """What the viewer may do there; without `view` they do not see the page."""
    record: PageRecord | None = None
    """All that is worked out for the page; None if it is missing."""

    @property
    def is_shown(self) -> bool:
        """Whether the viewer may view the page."""
        return "view" in self.may

    def fields(self) -> dict[str, str]:
        """What to compare, by name: `may`, and if the viewer may view the page the lines of its record.

        Of each area it holds all that the viewer meets there, block by block.
        """
        found = {"missing": self.missing, "may": ", ".join(self.may) or "nothing"}
        if self.record is None or not self.is_shown:
            return found
        found |= {label: words for label, words in self.record.lines() if words != NOTHING}
        for name in self.record:
            things = self.record[name] if name.startswith("shows.") else ()
            if things:
                found[f"area {name.removeprefix('shows.')}"] = ", ".join(one.contents for one in things)
        return found


class ViewpointDifference(NamedTuple):
    """A viewpoint that differs between two states: the fields that differ, before and after (empty: there is none)."""

    page: str
    viewer: str
    fields: tuple[tuple[str, str, str], ...]


def viewpoint_results(
    effective: EffectiveModel, viewpoints: tuple[Viewpoint, ...] | None = None
) -> list[ViewpointResult]:
    """What each viewpoint sees. `Site.viewpoint_results` is the call to use.

    `viewpoints`: those to look at (default: those of the site).

    Example
    -------
    >>> import davlo
    >>> found = viewpoint_results(davlo.open_demo().resolve())
    >>> [(one.page, one.viewer, one.is_shown) for one in found][:2]
    [('/visit/tickets', 'visitor', True), ('/staff/rota', 'visitor', False)]
    """
    return [_seen(effective, one) for one in (effective.site.viewpoints if viewpoints is None else viewpoints)]


def viewpoint_differences(
    before: EffectiveModel,
    after: EffectiveModel,
    moved: Mapping[str, str] = MappingProxyType({}),
    is_same: Callable[[Viewpoint], bool] = lambda viewpoint: False,
) -> list[ViewpointDifference]:
    """The viewpoints of `after` that see something else in `before`.

    `Site.viewpoint_differences` is the call to use. `moved`: the path that a page had before, by the path it has after.
    `is_same`: which viewpoints are known to see the same.
    """
    viewpoints = tuple(one for one in after.site.viewpoints if not is_same(one))
    earlier = tuple(one._replace(page=moved.get(one.page, one.page)) for one in viewpoints)
    found = []
    for one, other in zip(viewpoint_results(before, earlier), viewpoint_results(after, viewpoints), strict=True):
        was, now = one.fields(), other.fields()
        if one.is_shown != other.is_shown or one.missing != other.missing:  # everything else appears or goes with that
            was, now = ({name: fields[name] for name in ("missing", "may")} for fields in (was, now))
        names = dict.fromkeys([*now, *was])
        fields = tuple(
            (name, was.get(name, ""), now.get(name, "")) for name in names if was.get(name, "") != now.get(name, "")
        )
        if fields:
            found.append(ViewpointDifference(other.page, other.viewer, fields))
    return found


def _seen(effective: EffectiveModel, viewpoint: Viewpoint) -> ViewpointResult:
    page = effective.site.tree.find(viewpoint.page)
    if page < 0:
        return ViewpointResult(*viewpoint[:2], "there is no such page")
    try:
        may = effective.shared(AccessModel).actions(viewpoint.viewer, page)
    except UnknownName as error:
        return ViewpointResult(*viewpoint[:2], str(error))
    return ViewpointResult(
        viewpoint.page, viewpoint.viewer, "", may, page_record(effective, page, viewer=viewpoint.viewer)
    )
