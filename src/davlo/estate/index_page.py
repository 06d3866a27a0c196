"""The page that lists the reports of an estate's sites."""

from __future__ import annotations

import datetime
from collections.abc import Sequence
from urllib.parse import quote

from jinja2 import Environment, StrictUndefined

from .site_answers import Told

_PAGE = """<!doctype html>
<html lang="en">
<head>
<meta charset="utf-8">
<meta name="viewport" content="width=device-width, initial-scale=1">
<meta http-equiv="Content-Security-Policy" content="default-src 'none'; style-src 'unsafe-inline'">
<title>{{ name }}: reports</title>
<style>
:root { color-scheme: light dark; }
body { font: 1rem/1.5 system-ui, sans-serif; margin: 2rem auto; max-width: 60rem; padding: 0 1rem; }
table { border-collapse: collapse; width: 100%; }
th, td { border-bottom: 1px solid; padding: .4rem .6rem; text-align: left; }
td.number, th.number { text-align: right; font-variant-numeric: tabular-nums; }
</style>
</head>
<body>
<h1>{{ name }}</h1>
<p>{{ sites|length }} {{ "site" if sites|length == 1 else "sites" }}, as of {{ today }}.</p>
<table>
<thead><tr><th scope="col">Site</th><th scope="col">Folder</th><th scope="col" class="number">Pages</th>
<th scope="col" class="number">Errors</th><th scope="col" class="number">Warnings</th></tr></thead>
<tbody>
{% for folder, title, pages, errors, warnings in sites -%}
<tr><td><a href="{{ link(folder) }}">{{ title }}</a></td><td>{{ folder }}</td><td class="number">{{ pages }}</td>
<td class="number">{{ errors }}</td><td class="number">{{ warnings }}</td></tr>
{% endfor -%}
</tbody>
</table>
{% if unread %}<h2>Sites that cannot be read</h2>
<ul>
{% for one in unread %}<li>{{ one.name }}: {{ one.faults[0] }}</li>
{% endfor %}</ul>{% endif %}
</body>
</html>
"""


def index_page(
    name: str, sites: Sequence[tuple[str, str, int, int, int]], unread: Sequence[Told], today: datetime.date
) -> str:
    """The page as HTML, which fetches nothing.

    `sites`: for each its folder, name, pages, errors and warnings. `unread`: the sites that cannot be read.

    Example
    -------
    >>> page = index_page("<Gardens>", [("garden", "Quillmere", 158, 0, 3)], [], datetime.date(2026, 12, 2))
    >>> "&lt;Gardens&gt;" in page, 'href="garden.html"' in page
    (True, True)
    """
    template = Environment(autoescape=True, undefined=StrictUndefined).from_string(_PAGE)
    return template.render(
        name=name, sites=sites, unread=unread, today=today.isoformat(), link=lambda one: quote(f"{one}.html")
    )
