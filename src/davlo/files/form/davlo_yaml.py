"""The keys of davlo.yaml. The reader takes its keys, bounds and words from here; so do the schema and the docs."""

from __future__ import annotations

from davlo.core.site.declarations import ALL_SCREENS, BLOCK_KEYS
from davlo.core.site.finding_names import KIND_NAMES
from davlo.core.site.pages.details import STATUSES
from davlo.core.site.people import SIGNED_IN, VISITOR
from davlo.core.site.settings.names import PROGRAM
from davlo.core.site.settings.setting import DEFAULT_FOR, KINDS, STATED_SCOPES, WIDTHS
from davlo.css.properties import PROPERTIES

from .shapes import (
    ActionList,
    Either,
    Entries,
    Field,
    Fields,
    Flag,
    ListOf,
    NameOf,
    Number,
    Settings,
    SettingValue,
    Text,
    Word,
    Words,
    ends_in,
)

PAGE_LIST_ENDINGS = (".csv", ".jsonl", ".parquet")
"""The files that a page list may be in, in letters of either case."""
PATH = Text("^/", names="page")
BLOCKS = Words(NameOf(("block",)))
ACTIONS = Words(NameOf(("action", "role")))
LABEL = Field(Text(), "what people call it", "label: Event")
NOTE = Field(Text(), "what it is for", "note: The usual one")
TOLD = {"label": LABEL, "note": NOTE}
BECAUSE = Field(Text(), "the reason, shown wherever the values are explained", "because: One call to action")


def _told(fields: dict[str, Field], required: tuple[str, ...] = ()) -> Fields:
    """A declaration: its own keys, `label` and `note`."""
    return Fields({**fields, **TOLD}, required)


PAGE_LIST = Fields(
    {
        "database": Field(
            Text(), "its name; the environment holds its address, as DAVLO_DATABASE_NAME", "database: garden"
        ),
        "query": Field(Text(), "one select that gives the columns", "query: select path, title from pages"),
        "seconds": Field(Number(1, 86_400), "how long the query may take (default: 300)", "seconds: 60"),
    },
    ("database", "query"),
)
PROOF = Fields(
    {
        "file": Field(Text(), "a file to publish", "file: quillmere-5d1c0a9e.txt"),
        "tag": Field(Text(), "or the name of a tag in the head of the home page", "tag: quillmere-proof"),
        "text": Field(Text(), "what the file holds, or the tag's content", "text: quillmere-5d1c0a9e"),
    },
    ("text",),
    ("file", "tag"),
)
SITE = Fields(
    {
        "name": Field(Text(), "what the site is called; `{site}` in titles", "name: Quillmere Botanic Garden"),
        "url": Field(Text("^https?://"), "the address of its home page", "url: https://quillmere.example"),
        "index": Field(Words(Text()), "names of index files (default: index.html)", "index: [index.html, index.htm]"),
        "languages": Field(Words(Text()), "the languages of its pages, the main one first", "languages: [en, fr]"),
        "language_paths": Field(Text(), "the address of a page in a language", 'language_paths: "/{language}{path}"'),
        "for_other_languages": Field(
            Text(), "the language for readers of all others (`x-default`)", "for_other_languages: en"
        ),
        "home": Field(Text(names="page"), "which page is the home page (default: /)", "home: /welcome"),
        "page_list": Field(
            Either((Text(ends_in(PAGE_LIST_ENDINGS)), PAGE_LIST)),
            "where the pages are: a file, or a database and a query (default: pages.csv)",
            "page_list: pages.csv",
        ),
        "values": Field(Words(Text()), "CSV files with statements in bulk", "values: [values.csv]"),
        "ownership_proofs": Field(
            Either((PROOF, ListOf(PROOF))),
            "what proves to search engines who owns the site",
            "ownership_proofs: [{file: quillmere-5d1c0a9e.txt, text: quillmere-5d1c0a9e}]",
        ),
    },
    ("name", "url"),
)
MENU = Fields({"max_entries": Field(Number(1, 1000), "how many entries fit the top menu", "max_entries: 7")})
LEAVE_OUT = Fields(
    {
        "menu_hidden": Field(Flag(), "leave out pages that are hidden from the menu", "menu_hidden: yes"),
        "priority_under": Field(
            Number(0, 1, whole=False), "leave out pages under this priority", "priority_under: 0.2"
        ),
    }
)
SITEMAP = Fields(
    {
        "leave_out": Field(
            LEAVE_OUT,
            "pages that the sitemap leaves out, besides those with sitemap.include: no",
            "leave_out: {menu_hidden: yes}",
        ),
        "stale_after_days": Field(
            Number(0, 100_000), "days after which a written sitemap is stale", "stale_after_days: 3"
        ),
        "add_addresses_from": Field(
            Words(Text()),
            "files with addresses of pages that other programs make",
            "add_addresses_from: [shop-urls.csv]",
        ),
    }
)
PEOPLE = Fields(
    {
        "names": Field(Words(Text(names="person")), "the people", "names: [rowan.pike, ida.marsh]"),
        "admins": Field(Words(NameOf(("person",))), "people who may do everything", "admins: [rowan.pike]"),
        "groups": Field(
            Entries(Words(NameOf(("person", "group"))), "group"),
            "groups of people; a group may hold groups",
            "groups: {editors: [ida.marsh]}",
        ),
    }
)
LAYOUT = _told(
    {
        "areas": Field(Words(Text()), "its areas, from top to bottom", "areas: [masthead, content, right, footer]"),
        "width": Field(Word(WIDTHS[1:]), "how wide its content is (default: medium)", "width: full"),
        "own_content": Field(Flag(), "whether it shows the page's own content (default: yes)", "own_content: no"),
        "blocks": Field(
            Entries(
                Either(
                    (BLOCKS, Fields({step: Field(BLOCKS, f"blocks to {step}") for step in ("add", "first", "remove")}))
                ),
                "area",
            ),
            "blocks that stand in an area of each page; with a base also {add: […]}",
            "blocks: {content: [facts-box]}",
        ),
        "filled_elsewhere": Field(
            Words(Text()),
            "areas that the site's program fills by itself: Davlo neither decides nor checks what shows there",
            "filled_elsewhere: [toc]",
        ),
        "based_on": Field(NameOf(("layout",)), "the layout that it changes", "based_on: plain"),
    }
)
THEME = _told(
    {
        "areas": Field(
            Words(Text()), "the areas that it has a place for, by the theme's own names", "areas: [masthead, content]"
        ),
        "area_names": Field(
            Entries(Text(), "area"), "the theme's own name of an area, as ours: theirs", "area_names: {menu: top-links}"
        ),
        "if_missing": Field(
            Entries(Text(names="block"), "area"),
            "what it shows instead of an area that it has no place for: none, an area of its own, or a block",
            "if_missing: {footer: none}",
        ),
    }
)
SIDEBAR = _told(
    {
        "blocks": Field(BLOCKS, "its blocks, from top to bottom", "blocks: [search, opening-times]"),
        "blank": Field(Flag(), "whether it is meant to be empty", "blank: yes"),
    }
)
BAND = _told(
    {
        "fits": Field(Words(NameOf(("area",))), "the areas that it fits", "fits: [footer]"),
        "blocks": Field(BLOCKS, "its blocks", "blocks: [legal-line]"),
    }
)
LOOK_PART = Fields(
    {name: Field(Text(), f"takes {one.told}", f"{name}: {one.example}") for name, one in PROPERTIES.items()}
)
LOOK = _told(
    {
        "shows_on": Field(
            Words(Word(ALL_SCREENS, "screen")),
            "the screens that show it (default: all three)",
            "shows_on: [wide, tablet]",
        ),
        "whole": Field(LOOK_PART, "CSS for the whole sidebar or band", "whole: {width: 28%, border: 1px solid}"),
        "each_block": Field(LOOK_PART, "CSS for each block in it", "each_block: {padding: 16px}"),
        "headings": Field(LOOK_PART, "CSS for the headings of its blocks", "headings: {font-size: 18px}"),
        "based_on": Field(NameOf(("look",)), "the look of which it changes single properties", "based_on: usual"),
    }
)
BLOCK = _told(
    {
        "kind": Field(Word((*BLOCK_KEYS,)), "what kind of block it is", "kind: text"),
        "provides": Field(
            Words(Word(("heading",), "thing to supply")),
            "heading: the block holds the page's heading",
            "provides: heading",
        ),
        "text": Field(Text(), "what a text block says", "text: Open daily 10 to 17"),
        "under": Field(Text(names="page"), "the page that a menu or a list begins from", "under: /visit"),
        "levels": Field(Number(1, 100), "how many levels a menu or a list has (default: 1)", "levels: 2"),
        "sort": Field(
            Word(("order", "title", "path", "created", "modified")),
            "what a branch-links block sorts by (default: order)",
            "sort: title",
        ),
        "leave_out": Field(
            Words(Text(names="page")),
            "pages that a branch-links block leaves out, with their branches",
            "leave_out: [/visit/thanks]",
        ),
        "languages": Field(Word(("all",)), "all: a branch-links block lists every language", "languages: all"),
        "links": Field(
            Entries(Text(r"^(/|https?://|mailto:|tel:)", names="page")),
            "the links of a links block: the text, and the path or address",
            "links: {Tickets: /visit/tickets}",
        ),
        "blocks": Field(BLOCKS, "the blocks of which a one-of block shows one", "blocks: [offer-members, offer-tea]"),
    },
    ("kind",),
)
SUBJECTS = Entries(ActionList(), "subject")
_GRANTS = {
    "access": Field(SUBJECTS, "who may do what: a subject and its actions", "access: {editors: [view, edit]}"),
    "deny": Field(SUBJECTS, "what a subject may not do, whoever gives it", "deny: {guests: [edit]}"),
}
LOCK = Settings(_GRANTS)
SCOPE_KEYS = {
    "use": Field(Words(NameOf(("preset",))), "presets whose values it sets", "use: bare"),
    "lock": Field(LOCK, "values that stronger scopes may not change", "lock: {band.footer: footer-legal}"),
    **_GRANTS,
    "fresh_access": Field(Flag(), "whether to drop the access that weaker scopes give", "fresh_access: yes"),
    "because": BECAUSE,
}
BODY = Settings(SCOPE_KEYS)
HERE = Settings({key: field for key, field in SCOPE_KEYS.items() if key != "lock"})
"""Nothing is stronger than what a page says itself, so it locks nothing."""
PRESET = Settings({**_GRANTS, **TOLD})
TYPE = _told(
    {
        "based_on": Field(NameOf(("type",)), "the type whose values it inherits", "based_on: page"),
        "give": Field(BODY, "what its pages get", "give: {sidebar.right: whats-on}"),
        "without": Field(
            Words(Text(names="setting")), "settings that its pages do not have", "without: [sidebar.left]"
        ),
    }
)
PAGE = Fields(
    {
        "below": Field(BODY, "what all pages below it get", "below: {sidebar.right: visit-planning}"),
        "here": Field(HERE, "what the page itself gets", "here: {heading.show: no}"),
        "here_and_below": Field(BODY, "what the page and all pages below it get", "here_and_below: {menu.show: no}"),
    }
)
DEPTH = Text(r"^[0-9]{1,6}(\s*-\s*[0-9]{1,6})?$", integers=True)
CONDITION = Fields(
    {
        "path": Field(
            Words(Text(r"^[/*]", names="page")), "the path, or a glob: `*` for one part, `**` for any", "path: /news/*"
        ),
        "in_branch": Field(Words(PATH), "a page and all below it", "in_branch: /press"),
        "below": Field(Words(PATH), "all below a page", "below: /visit"),
        "type": Field(Words(NameOf(("type",))), "a type and those based on it", "type: event"),
        "only_type": Field(Words(NameOf(("type",))), "a type alone", "only_type: article"),
        "tag": Field(Words(Text()), "a tag", "tag: prices"),
        "language": Field(Words(Text()), "a language", "language: fr"),
        "status": Field(Words(Word(STATUSES)), "live, draft or folder", "status: draft"),
        "depth": Field(Words(DEPTH), "how many pages are above it", "depth: 2-4"),
        "home": Field(Flag(), "whether it is the home page", "home: no"),
        "details": Field(
            Entries(Words(Text())), "columns of the page list: values", "details: {made_with: potting-bench}"
        ),
    }
)
EXCEPTS = Either((CONDITION, ListOf(CONDITION)))
WHEN = Field(CONDITION, "the pages that it matches", "when: {type: event}")
EXCEPT = Field(EXCEPTS, "pages to exclude; one of several conditions is enough", "except: {in_branch: /press}")
RULE = Fields(
    {
        "name": Field(Text(names="rule"), "what it is for", "name: Campaign pages run edge to edge"),
        "when": WHEN,
        "except": EXCEPT,
        "give": Field(BODY, "what the pages get", "give: {use: bare}"),
        "because": BECAUSE,
        "note": NOTE,
    },
    ("name", "when", "give"),
)
GUARANTEE = Fields(
    {
        "name": Field(Text(names="guarantee"), "what must hold", "name: Staff pages stay private"),
        "when": WHEN,
        "except": EXCEPT,
        "has": Field(
            Settings(changes_too=False), "values that the pages must have", "has: {band.footer: footer-legal}"
        ),
        "may": Field(Entries(ACTIONS, "subject"), "who may do what there", "may: {editors: [edit]}"),
        "may_not": Field(Entries(ACTIONS, "subject"), "who may not", "may_not: {everyone: [view]}"),
    },
    ("name",),
    ("has", "may", "may_not"),
)
ACCEPT = Fields(
    {
        "kind": Field(Word(KIND_NAMES), "the kind of finding", "kind: no-heading"),
        "setting": Field(Text(names="setting"), "the setting of the finding", "setting: heading.show"),
        "when": WHEN,
        "declaration": Field(
            Text(names="declaration"), "a declaration that the finding names", "declaration: call-to-action"
        ),
        "because": Field(Text(), "why it is meant", "because: The picture carries the name"),
    },
    ("because",),
    ("kind", "setting", "when", "declaration"),
)
VIEWPOINT = Fields(
    {
        "page": Field(Text(names="page"), "the page to look at", "page: /staff/rota"),
        "as": Field(NameOf(("person", "group"), (VISITOR, SIGNED_IN)), "who looks (default: a visitor)", "as: visitor"),
    },
    ("page",),
)
ADJUSTED = Fields(
    {
        "default_for": Field(
            Word(DEFAULT_FOR),
            "all-pages; or new-pages: a page keeps what was the default when it was made",
            "default_for: new-pages",
        ),
        "default": Field(SettingValue(), "what pages have where nothing is set", "default: none"),
        "scopes": Field(
            Words(Word(STATED_SCOPES, "scope")), "where it may be set (default: anywhere)", "scopes: [type, here]"
        ),
        "label": LABEL,
        "help": Field(Text(), "what it is for", "help: Played under the heading"),
    }
)
OWN_SETTING = Fields(
    {
        "kind": Field(Word((*KINDS,)), "what it holds", "kind: text"),
        **ADJUSTED.fields,
        "for_types": Field(Words(NameOf(("type",))), "only pages of these types have it", "for_types: [plant-record]"),
        "required": Field(Flag(), "whether each page that has it should say something", "required: yes"),
        "used_by": Field(
            Words(NameOf(("layout", "band", "block"), (PROGRAM,))),
            "what shows it, or the word program",
            "used_by: [record-page]",
        ),
        "choices": Field(Words(Text()), "the words that a choice or a list takes", "choices: [spring, summer]"),
        "least": Field(Number(-1e15, 1e15, whole=False), "the least that a number may be", "least: 0"),
        "most": Field(Number(-1e15, 1e15, whole=False), "the most that a number may be", "most: 100"),
    },
    ("kind",),
)
DAVLO_YAML = Fields(
    {
        "davlo": Field(Word(("1",)), "the version of the format", "davlo: 1"),
        "site": Field(SITE, "the website as a whole", "site: {name: My site, url: https://www.example}"),
        "include": Field(Words(Text()), "more files with the same keys", "include: [people.yaml]"),
        "settings": Field(
            Entries(Either((OWN_SETTING, ADJUSTED)), "setting"),
            "the site's own settings, and changes of Davlo's",
            "settings: {audio-guide: {kind: text}}",
        ),
        "presets": Field(Entries(PRESET, "preset"), "values that go together", "presets: {bare: {heading.show: no}}"),
        "everywhere": Field(BODY, "what every page gets", "everywhere: {sidebar.right: main}"),
        "types": Field(Entries(TYPE, "type"), "page types, and what their pages get", "types: {event: {label: Event}}"),
        "pages": Field(
            Entries(PAGE, "page"), "what single pages and branches get", "pages: {/visit: {below: {menu.show: no}}}"
        ),
        "rules": Field(
            ListOf(RULE),
            "what pages get that match a condition; the first is the strongest",
            "rules: [{name: Wide, when: {type: event}, give: {layout.width: full}}]",
        ),
        "layouts": Field(
            Entries(LAYOUT, "layout"), "layouts and their areas", "layouts: {plain: {areas: [content, footer]}}"
        ),
        "themes": Field(
            Entries(THEME, "theme"),
            "themes, and the areas that they have a place for",
            "themes: {day: {areas: [content]}}",
        ),
        "sidebars": Field(
            Entries(SIDEBAR, "sidebar"), "sidebars and their blocks", "sidebars: {main: {blocks: [search]}}"
        ),
        "looks": Field(Entries(LOOK, "look"), "how sidebars and bands look", "looks: {usual: {whole: {width: 28%}}}"),
        "bands": Field(Entries(BAND, "band"), "strips across the page", "bands: {footer-legal: {fits: [footer]}}"),
        "blocks": Field(
            Entries(BLOCK, "block"),
            "the pieces of content that sidebars, bands and areas hold",
            "blocks: {hours: {kind: text, text: Open daily}}",
        ),
        "people": Field(PEOPLE, "who works on the site", "people: {names: [ida.marsh]}"),
        "roles": Field(
            Entries(Words(NameOf(("action",))), "role"), "names for several actions", "roles: {tending: [view, edit]}"
        ),
        "actions": Field(
            Words(Text()), "the site's own list of actions, view and edit among them", "actions: [view, edit, print]"
        ),
        "menu": Field(MENU, "the top menu", "menu: {max_entries: 7}"),
        "sitemap": Field(SITEMAP, "what the sitemap leaves out and adds", "sitemap: {stale_after_days: 3}"),
        "robots": Field(
            Words(Text()),
            "the site's own lines for robots.txt (RFC 9309)",
            'robots: ["User-agent: *", "Disallow: /search?"]',
        ),
        "guarantees": Field(
            ListOf(GUARANTEE),
            "what must hold; check proves it, or names the pages where it does not hold",
            "guarantees: [{name: Private, when: {in_branch: /staff}, may_not: {everyone: [view]}}]",
        ),
        "viewpoints": Field(
            ListOf(VIEWPOINT), "what to look at after every change", "viewpoints: [{page: /staff/rota, as: visitor}]"
        ),
        "accept": Field(
            ListOf(ACCEPT),
            "findings that are known and meant",
            "accept: [{kind: no-heading, because: The picture carries the name}]",
        ),
    },
    ("davlo", "site"),
)
"""The whole file."""
INCLUDED_YAML = Fields({key: field for key, field in DAVLO_YAML.fields.items() if key not in ("davlo", "site")})
"""A file that davlo.yaml includes."""
SECTIONS = tuple(key for key in INCLUDED_YAML.keys if key != "include")

DECLARED = {
    **{"layout": LAYOUT, "theme": THEME, "sidebar": SIDEBAR, "look": LOOK, "band": BAND, "block": BLOCK},
    **{"type": TYPE, "setting": OWN_SETTING},
}
"""The form of each kind of declaration that has keys of its own; a preset has settings, a group and a role a list."""
