"""Findings about layouts and what stands in their areas."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from ..wording import count
from .record import Finding, Inquiry, groups

STANDING = ("sidebar", "band", "blocks")


def no_such_area(inquiry: Inquiry) -> Iterator[Finding]:
    """Something is set for an area that the page's layout lacks, in a scope at least as strong as the layout's."""
    site, statements = inquiry.site, inquiry.statements
    layout_number = site.setting_number("layout.name")
    layout = inquiry.effective.resolved(layout_number)
    names = statements.words[layout_number].items
    chosen = statements.strength(layout.source)
    for setting in inquiry.settings_said():
        declared = site.catalogue[setting]
        if declared.family not in STANDING:
            continue
        found = inquiry.effective.resolved(setting)
        full = np.array([word not in (None, ()) for word in statements.words[setting].items], dtype=bool)
        lacks = np.array(
            [isinstance(n, str) and declared.member not in site.declared.layouts[n].areas for n in names], dtype=bool
        )
        wrong = (
            full[found.value]
            & lacks[layout.value]
            & (statements.strength(found.source) >= chosen)
            & (found.source >= 0)
            & site.has(setting)
            & site.has(layout_number)
        )
        at = np.flatnonzero(wrong)
        at = at[inquiry.looked_at("no-such-area", declared.name, at)]
        for (source, by, name), rows in groups(found.source[at], layout.source[at], layout.value[at]):
            pages = inquiry.paths(at[rows])
            value = inquiry.word(setting, int(found.value[at[rows[0]]]))
            chooser = "as it is built in" if by < 0 else f"chosen by {inquiry.where(by)}"
            having = [n for n, piece in site.declared.layouts.items() if declared.member in piece.areas]
            yield Finding(
                "no-such-area",
                "warning",
                declared.name,
                pages,
                inquiry.said([source, by]),
                f"{inquiry.where(source)} sets {declared.name} to {value}, "
                f"but the layout {names[name]}, {chooser}, has no area {declared.member}: "
                f"nobody will see it on {count(len(pages), 'page')}",
                f"set {declared.name} to none there, or choose a layout that has the area: {', '.join(having)}",
            )
