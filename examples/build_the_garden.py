"""Build a website's HTML from page records and looks, and from nothing else.

davlo export --format jsonl --to records.jsonl
davlo export --to looks.css
python build_the_garden.py records.jsonl looks.css public
davlo compare public
"""

from __future__ import annotations

import json
import shutil
import sys
from pathlib import Path
from typing import Any
from urllib.parse import unquote, urlsplit

import jinja2

TAGS = {"masthead": "header", "menu": "nav", "top-links": "nav", "content": "main", "footer": "footer"}
TEMPLATE = """\
{%- macro shown(block, area) -%}
{% set one = block["one of"][0] if block["one of"] else block -%}
<div class="{{ looks[area].classes.each_block }}">
{%- if one.links %}<ul>
{% for link in one.links %}<li><a href="{{ leads(link.to) }}">{{ link.label }}</a></li>
{% endfor %}</ul>
{%- elif one.block in page.outcomes.headings %}<h1>{{ one.text }}</h1>
{%- else %}<p>{{ one.text }}</p>{% endif %}</div>
{%- endmacro -%}
<!doctype html>
<html lang="{{ page.details.language or 'en' }}">
<head>
<meta charset="utf-8"><meta name="viewport" content="width=device-width, initial-scale=1">
<title>{{ page.outcomes.title }}</title>
<link rel="stylesheet" href="{{ home }}looks.css">
<link rel="canonical" href="{{ page.outcomes.address }}">
{% for one in page.outcomes.alternates or [] -%}
<link rel="alternate" hreflang="{{ one.language }}" href="{{ one.address }}">
{% endfor -%}
{% if not page.settings["robots.index"] %}<meta name="robots" content="noindex">{% endif %}
{% for tag in page.outcomes.head or [] %}{{ tag | safe }}{% endfor %}
<style>
body { margin: 0 auto; font: 16px/1.5 sans-serif; max-width: {{ widths[page.outcomes.width] }} }
.areas { display: flex; flex-wrap: wrap; gap: 16px 0; padding: 16px }
.areas > * { box-sizing: border-box; padding: 0 16px }
header, nav, footer { width: 100% } main { flex: 1; min-width: 0 } aside { width: 25% }
ul { display: flex; flex-wrap: wrap; gap: 0 16px; list-style: none; padding: 0 } aside ul { display: block }
@media (max-width: 767px) {
  .areas { flex-direction: column } .areas > * { flex: none; order: var(--phone) !important } aside { width: auto }
}
</style>
</head>
<body><div class="areas">
{% for area, things in areas.items() -%}
<{{ tags[area] or "aside" }} class="{{ area }} {{ looks[area].classes.whole }}"
 style="order: {{ loop.index }}; --phone: {{ phone[area] }}">
{% for thing in things -%}
{% if thing.kind == "own content" -%}
{% if "heading.text" in page.outcomes.headings %}<h1>{{ page.outcomes.heading }}</h1>{% endif %}
<p>All that {{ page.details.title }} has to say stands here.</p>
{% else -%}
{% for block in thing.blocks %}{{ shown(block, area) }}
{% endfor -%}
{% endif -%}
{% endfor -%}
</{{ tags[area] or "aside" }}>
{% endfor -%}
</div></body>
</html>
"""
WIDTHS = {None: "none", "full": "none", "medium": "1040px", "narrow": "800px"}
REDIRECT = (
    '<!doctype html><meta charset="utf-8"><title>Moved</title><meta http-equiv="refresh" content="0; url={{ to }}">'
)


def build(records: Path, looks: Path, to: Path) -> int:
    """Write the pages that a visitor may view; gives how many there are."""
    pages = [json.loads(line) for line in records.read_text(encoding="utf-8").splitlines()]
    address = {page["path"]: page["outcomes"]["address"] for page in pages}
    jinja = jinja2.Environment(autoescape=True, undefined=jinja2.ChainableUndefined)
    template, redirect = jinja.from_string(TEMPLATE), jinja.from_string(REDIRECT)
    to.mkdir(parents=True, exist_ok=True)
    shutil.copy(looks, to / "looks.css")
    built = 0
    for page in pages:
        if page["details"]["status"] != "live" or not page["outcomes"]["visitor may view"]:
            continue
        file = to / unquote(urlsplit(page["outcomes"]["address"]).path).strip("/") / "index.html"
        file.parent.mkdir(parents=True, exist_ok=True)
        leads_to = page["details"]["leads_to"]
        if leads_to:
            file.write_text(redirect.render(to=address.get(leads_to, leads_to)), encoding="utf-8")
        else:
            file.write_text(template.render(page=page, **around(page, address)), encoding="utf-8")
        built += 1
    return built


def around(page: dict[str, Any], address: dict[str, str]) -> dict[str, Any]:
    """What the template takes besides the record: the areas that the theme shows, top to bottom, and links."""
    outcomes = page["outcomes"]
    areas = {area: things for area, things in outcomes["shows"].items() if outcomes["theme"]["areas"].get(area)}
    return {
        "areas": areas or {"content": [{"kind": "own content"}]},
        "looks": outcomes["looks"],
        "phone": {area: place for place, area in enumerate(outcomes["phone"], 1)},
        "leads": lambda to: unquote(urlsplit(address[to]).path) if address.get(to) else to,
        "home": "/",
        "tags": TAGS,
        "widths": WIDTHS,
    }


if __name__ == "__main__":
    print(f"built {build(*map(Path, sys.argv[1:4]))} pages in {sys.argv[3]}")
