"""Names that Davlo had in earlier versions, and what each is now: an error about an old name says the new one."""

from __future__ import annotations

from collections.abc import Collection

NOW = {
    # keys of davlo.yaml
    "promises": "guarantees",
    "probes": "viewpoints | show --viewpoints",
    "inventory": "page_list",
    "proofs": "ownership_proofs",
    "room": "max_entries",
    "max_age": "stale_after_days",
    "join": "add_addresses_from",
    "calls": "area_names",
    "otherwise": "if_missing",
    "nothing": "none",
    "supplies": "provides",
    "facts": "details",
    "flow": "default_for",
    "live": "all-pages",
    "stamped": "new-pages",
    "name": "declaration",
    # keys of looks
    "width": "whole: {width: 28%}",
    "padding": "whole: {padding: 16px}",
    "column_gap": "whole: {margin-inline-start: 32px}",
    "row_gap": "whole: {gap: 16px}",
    "line": "whole: {border: 1px solid}",
    "background": "whole: {background-color: …}",
    "fill": "whole or each_block: {background-color: …}",
    "follows": "whole: {position: sticky}",
    "heading_font_size": "headings: {font-size: 18px}",
    "heading_color": "headings: {color: …}",
    "heading_background": "headings: {background-color: …}",
    # settings and actions
    "title.show": "heading.show",
    "arrange": "move",
    # kinds of finding
    "promise-broken": "guarantee-broken",
    "dead-promise": "guarantee-without-pages",
    "no-effect": "repeats-inherited",
    "behind-default": "outdated-stamp",
    "near-miss": "misspelt-column",
    "idle-default": "redundant-default",
    "idle-stamp": "stray-stamp",
    "idle-accept": "stray-accept",
    "idle-look": "stray-look",
    "dead-rule": "rule-without-pages",
    "empty-type": "type-without-pages",
    "childless-below": "below-without-pages",
    "reset-by-fresh": "access-dropped",
    "sidebar-on-no-device": "sidebar-on-no-screen",
    # commands and options
    "links": "menus",
    "table": "export",
    "publish": "crawler-files",
    "tidy": "condense",
    "spread": "page restamp",
    "--departing": "--exceptions",
    "--met": "--shown",
    "--not-met": "--not-shown",
    "--fact": "--detail",
    "--regions": "--areas",
    "--map": "--column",
}
"""What each old name is now, the ways with `|` between; of a key of looks an example in the new form."""


def now(word: str, allowed: Collection[str]) -> str:
    """What an old name is now, if that may stand in its place; else empty.

    Example
    -------
    >>> now("promises", ("guarantees", "accept")), now("promises", ("accept",)), now("fill", ("whole", "headings"))
    ('promises: now guarantees', '', 'fill: now whole or each_block: {background-color: …}')
    """
    setting, _, first = word.rpartition(":")
    if first == "first" and setting in allowed:
        return f"{word}+=ITEM: now {setting}+=ITEM --first"
    ways = NOW.get(word, "").split(" | ")
    return next((f"{word}: now {new}" for new in ways if new and new.split()[0].rstrip(":") in allowed), "")
