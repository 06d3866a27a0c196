"""Sites and their settings as a notebook shows them: small HTML tables, everything from a file escaped."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from html import escape

import numpy as np
from numpy.typing import NDArray

from davlo.core.resolve.effective import EffectiveModel
from davlo.core.site.model import SiteModel
from davlo.core.site.settings.values import format_value

MOST_PAGES, MOST_SETTINGS = 10, 6


def site_html(site: SiteModel) -> str:
    """The site in a few lines."""
    counts = {
        "pages": len(site.tree),
        "types": len(site.types),
        "settings": len(site.catalogue),
        "statements": len(site.statements),
        "rules": len(site.rules),
    }
    rows = [("address", site.url), ("page_list", site.page_list), *((name, f"{n:,}") for name, n in counts.items())]
    return _html(f"{site.name}", ("", ""), rows)


def effective_html(effective: EffectiveModel, settings: Sequence[int], pages: NDArray[np.int64]) -> str:
    """The first pages, with the first settings that have a statement."""
    site = effective.site
    spoken = [n for n in settings if len(site.statements.of_setting(n))] or list(settings)
    shown = spoken[:MOST_SETTINGS]
    rows = []
    for page in pages[:MOST_PAGES].tolist():
        kind = int(site.details.type_of[page])
        cells = [format_value(effective.value(page, n)) if site.has_by_type[n, kind] else "" for n in shown]
        rows.append((site.tree.paths[page], *cells))
    title = f"{site.name}: {len(pages):,} pages, {len(settings)} settings"
    if len(pages) > len(rows) or len(settings) > len(shown):
        title += f"; {len(rows)} and {len(shown)} of them"
    return _html(title, ("path", *(site.catalogue[n].name for n in shown)), rows)


def _html(title: str, header: Sequence[str], rows: Iterable[Sequence[str]]) -> str:
    def row(tag: str, cells: Sequence[str]) -> str:
        told = "".join(f'<{tag} style="text-align: left">{escape(cell)}</{tag}>' for cell in cells)
        return f"<tr>{told}</tr>"

    head = f"<thead>{row('th', header)}</thead>" if any(header) else ""
    body = "".join(row("td", cells) for cells in rows)
    caption = f'<caption style="text-align: left"><b>{escape(title)}</b></caption>'
    return f"<table>{caption}{head}<tbody>{body}</tbody></table>"
