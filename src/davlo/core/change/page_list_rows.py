"""The rows that a person must enter in a page list that Davlo does not write."""

from __future__ import annotations

from ..site.model import SiteModel
from .page_steps import NAMING, Renames, pages_moved
from .steps import AddPage, Change, DropPage, MovePage, SetDetail

HEADER = ("path", "to do")


def page_list_rows(site: SiteModel, change: Change) -> list[list[str]]:
    """For each row that changes, its present path and what to do with it.

    Example
    -------
    >>> import davlo
    >>> change = Change((SetDetail("/visit/maps", "title", "Maps"), DropPage("/visit/thanks")))
    >>> page_list_rows(davlo.open_demo(), change)
    [['/visit/maps', 'set title to Maps'], ['/visit/thanks', 'delete the row']]
    """
    rows = []
    for step in change.steps:
        if isinstance(step, AddPage):
            details = [f"{name} {text}" for name, text in step.details if text]
            rows.append([step.path, f"add a row{': ' if details else ''}{', '.join(details)}"])
        elif isinstance(step, SetDetail):
            rows.append([step.path, f"set {step.detail} to {step.text or 'blank'}"])
        elif isinstance(step, DropPage):
            page = site.page_number(step.path)
            end = int(site.tree.end[page]) if step.branch else page + 1
            rows += [[path, "delete the row"] for path in site.tree.paths[page:end]]
        elif isinstance(step, MovePage):
            rows += _of_move(site, step, pages_moved(site, step))
    return rows


def _of_move(site: SiteModel, step: MovePage, renames: Renames) -> list[list[str]]:
    rows = [[old, f"set path to {new}"] for old, new in renames.items()]
    if step.parent:
        rows.append([step.path, f"set parent to {step.parent}"])
    for detail in NAMING:
        column = site.details.column(detail)
        pages = column.mask(renames).nonzero()[0].tolist()
        rows += [[site.tree.paths[page], f"set {detail} to {renames[column[page]]}"] for page in pages]
    return rows
