"""Steps that declare something, change it, or take it away, drawn at random for a made-up site."""

from __future__ import annotations

from random import Random

import davlo
from davlo.core.change.steps.change import DropViewpoint, Step, Undeclare, UndeclareEverywhere
from davlo.core.site.declared_names import declared_names
from davlo.core.site.pages.conditions import Condition
from davlo.files.form.typed_forms import FORMS
from davlo.files.rewrite.typed_declarations import declared_by_words

BLOCKS = ("search", "clock", "map", "news", "search, clock")
WORDS: dict[str, tuple[str, ...]] = {
    "layout": (
        "areas=content",
        "areas+=right",
        "based_on=plain",
        "width=full",
        "blocks.content+=map",
        "own_content=no",
        "filled_elsewhere=right",
        "filled_elsewhere+=left",
    ),
    "theme": ("areas=content,footer", "area_names.right=content", "if_missing.footer=none", "if_missing.right=map"),
    "sidebar": ("blocks=search, clock", "blocks+=map", "blocks-=search", "blank=yes", "blank=", "note=Quiet: it, is"),
    "look": ("shows_on=wide", "whole.width=20%", "whole.width=", "based_on=usual", "headings.color=#fff"),
    "band": ("fits=footer", "fits+=content", "blocks=map", "blocks+=clock", "blocks-=map"),
    "block": ("kind=text", "text=Open daily: 10 to 17", "kind=links", "links.To a place=/a", "provides=heading"),
    "preset": ("heading.show=no", "sidebar.right=main", "topics+=t1", "heading.show=", "access.keepers=view", "note=N"),
    "type": ("based_on=note", "based_on=", "label=Some type", "without=sidebar.right", "without+=menu.show"),
    "setting": ("kind=text", "kind=list", "default=x", "choices=x,y", "label=Some", "default_for=new-pages"),
    "guarantee": ("has.heading.show=yes", "may.everyone=view", "may_not.keepers=edit", "may.everyone="),
    "person": ("admin=yes", "admin=no"),
    "group": ("members=celia.dunn", "members+=ben.ode", "members-=celia.dunn", "members="),
    "role": ("actions=view", "actions=view, edit", "actions+=delete", "actions-=edit"),
    "rule": ("note=As agreed", "note="),
    "viewpoint": ("as=keepers", "as=visitor", "as=celia.dunn"),
    "site": (
        "languages=en, fr",
        "languages+=de",
        "languages=",
        "menu.max_entries=5",
        "sitemap.menu_hidden=yes",
        "name=B",
        "url=https://other.example",
        "home=/a1",
        "home=/",
        "actions+=translate",
        "actions-=grant",
        "robots=User-agent: *; Disallow: /x",
        "robots+=Disallow: /y",
        "robots-=Disallow: /x",
        "sitemap.add_addresses_from+=shop.csv",
        "ownership_proofs.file.known/a.txt=a",
        "ownership_proofs.file.b-1.txt=b",
        "ownership_proofs.tag.proof=c",
        "ownership_proofs.file.known/a.txt=",
        "ownership_proofs.tag.proof=",
    ),
}
"""Words for each kind of declaration, some of which made-up sites refuse."""


def declaring(site: davlo.Site, random: Random) -> Step | None:
    """A step about some declaration, which may or may not be possible."""
    kind = random.choice([*FORMS])
    names = [*declared_names(site, kind)] if kind not in ("viewpoint", "site") else []
    name = random.choice([*names, "a-new.one"])
    if kind == "viewpoint":
        name = random.choice(site.tree.paths.tolist())
    if kind != "site" and random.random() < 0.3:
        if kind == "viewpoint":
            one = random.choice(site.viewpoints) if site.viewpoints else None
            return DropViewpoint(one.page, one.viewer) if one else None
        return random.choice([Undeclare, UndeclareEverywhere])(kind, name)
    words = [random.choice(WORDS[kind]) for _ in range(random.choice([1, 1, 2, 3]))]
    when = Condition(type=("note",)) if kind == "guarantee" else None
    try:
        steps = declared_by_words(site, kind, name, words, random.random() < 0.3, when)
    except (davlo.UnknownName, davlo.ValueFault, davlo.SiteError):
        return None
    return steps[0] if steps else None
