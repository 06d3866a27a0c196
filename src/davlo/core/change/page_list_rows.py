"""The rows that a person must enter in a page list that Davlo does not write."""

from __future__ import annotations

import numpy as np

from .differences.difference import Difference

HEADER = ("path", "to do")
OF_ANY_PAGE = {"type": "page", "status": "live"}
"""What a blank cell means, so that nobody needs to enter it."""


def page_list_rows(difference: Difference) -> list[list[str]]:
    """For each row of the page list that differs, its present path and what to do with it.

    Example
    -------
    >>> import davlo
    >>> site = davlo.open_demo()
    >>> change = davlo.Change().set_details("/visit/maps", title="Maps").drop_page("/visit/thanks")
    >>> page_list_rows(site.difference(site.apply(change)))
    [['/visit/thanks', 'delete the row'], ['/visit/maps', 'set title to Maps']]
    """
    before, after = difference.before.site, difference.after.site
    columns = after.details.columns
    rows = [[path, "delete the row"] for path in difference.gone]
    rows += [[old, f"set path to {new}"] for old, new in difference.moved]
    there = difference.number_after
    for name, mask in difference.differing_details((*before.details.columns, *columns)).items():
        for page in np.flatnonzero(mask).tolist():
            text = after.details.column(name)[int(there[page])]
            blank = not text or text == OF_ANY_PAGE.get(name)
            rows.append([before.tree.paths[page], f"set {name} to {'blank' if blank else text}"])
    for page in difference.new_pages.tolist():
        cells = [(name, column[page]) for name, column in columns.items()]
        told = [f"{name} {text}" for name, text in cells if text not in ("", OF_ANY_PAGE.get(name))]
        rows.append([after.tree.paths[page], f"add a row{': ' if told else ''}{', '.join(told)}"])
    return rows
