"""The keys of davlo.yaml. The reader takes its keys, bounds and words from here; so do the schema and the docs."""

from __future__ import annotations

from davlo.core.site.declarations import LAYOUT_KEYS, LOOK_KEYS
from davlo.core.site.facts import STATUSES
from davlo.core.site.finding_names import KIND_NAMES
from davlo.core.site.people import SIGNED_IN, VISITOR
from davlo.core.site.settings import FLOWS, KINDS, STATED_SCOPES, WIDTHS

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
)

PATH = Text("^/")
COLOR = Text("^#([0-9a-fA-F]{3}|[0-9a-fA-F]{6})$")
BLOCKS = Words(NameOf(("block",)))
ACTIONS = Words(NameOf(("action", "role")))
LABEL = Field(Text(), "what people call it", "label: Event")
NOTE = Field(Text(), "what it is for", "note: The usual one")
TOLD = {"label": LABEL, "note": NOTE}
BECAUSE = Field(Text(), "the reason, shown wherever the values are explained", "because: One call to action")


def _told(fields: dict[str, Field], required: tuple[str, ...] = ()) -> Fields:
    """A declaration: its own keys, and what it is called and for."""
    return Fields({**fields, **TOLD}, required)


INVENTORY = Fields(
    {
        "database": Field(
            Text(), "its name; the address is in the environment, as DAVLO_DATABASE_NAME", "database: garden"
        ),
        "query": Field(Text(), "one select that gives the columns", "query: select path, title from pages"),
        "seconds": Field(Number(1, 86_400), "how long the query may take (default: 300)", "seconds: 60"),
    },
    ("database", "query"),
)
PROOF = Fields(
    {
        "file": Field(Text(), "a file to publish", "file: quillmere-5d1c0a9e.txt"),
        "tag": Field(Text(), "or a tag in the head of the home page: its name", "tag: quillmere-proof"),
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
        "languages": Field(
            Words(Text()), "the languages of its pages; the first is the main one", "languages: [en, fr]"
        ),
        "language_paths": Field(Text(), "the address of a page in a language", 'language_paths: "/{language}{path}"'),
        "for_other_languages": Field(
            Text(), "the language for readers of all others (`x-default`)", "for_other_languages: en"
        ),
        "home": Field(Text(), "which page is the home page (default: /)", "home: /welcome"),
        "inventory": Field(
            Either((Text(r"\.([cC][sS][vV]|[pP][aA][rR][qQ][uU][eE][tT])$"), INVENTORY)),
            "where the pages are: a file, or a database and a query (default: pages.csv)",
            "inventory: pages.csv",
        ),
        "values": Field(Words(Text()), "CSV files with statements in bulk", "values: [values.csv]"),
        "proofs": Field(
            Either((PROOF, ListOf(PROOF))),
            "what proves to search engines who owns the site",
            "proofs: [{file: quillmere-5d1c0a9e.txt, text: quillmere-5d1c0a9e}]",
        ),
    },
    ("name", "url"),
)
MENU = Fields({"room": Field(Number(1, 1000), "entries that the top menu has room for", "room: 7")})
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
            "pages that the sitemap leaves out, besides those that set so themselves",
            "leave_out: {menu_hidden: yes}",
        ),
        "max_age": Field(Number(0, 100_000), "days after which a written sitemap is stale", "max_age: 3"),
        "join": Field(Words(Text()), "files with addresses that other programs make", "join: [shop-urls.csv]"),
    }
)
PEOPLE = Fields(
    {
        "names": Field(Words(Text()), "the people", "names: [rowan.pike, ida.marsh]"),
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
        "based_on": Field(Words(NameOf(("layout",))), "the layout that it changes", "based_on: plain"),
    }
)
assert set(LAYOUT_KEYS) < set(LAYOUT.keys)
THEME = _told(
    {
        "areas": Field(
            Words(Text()), "the areas that it has a place for, by its own names", "areas: [masthead, content]"
        ),
        "calls": Field(Entries(Text(), "area"), "our name of an area: its name", "calls: {menu: top-links}"),
        "otherwise": Field(
            Entries(Text(), "area"),
            "what it shows for an area it has no place for: nothing, an area of its own, or a block",
            "otherwise: {footer: nothing}",
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
_GAP = Number(0, 500, whole=False)
LOOK = _told(
    {
        "width": Field(Number(10, 50, whole=False), "per cent of the page", "width: 28"),
        "padding": Field(_GAP, "pixels around the blocks", "padding: 16"),
        "column_gap": Field(_GAP, "pixels to the content", "column_gap: 32"),
        "row_gap": Field(_GAP, "pixels between blocks", "row_gap: 24"),
        "line": Field(Word(("none", "between", "around")), "where lines are drawn", "line: around"),
        "background": Field(COLOR, "the colour behind it", "background: '#f4f1e8'"),
        "fill": Field(Word(("none", "blocks", "column")), "what the background fills", "fill: column"),
        "heading_font_size": Field(Number(1, 200, whole=False), "pixels", "heading_font_size: 18"),
        "heading_color": Field(COLOR, "the colour of headings", "heading_color: '#2f6b3c'"),
        "heading_background": Field(COLOR, "the colour behind headings", "heading_background: '#ffffff'"),
        "shows_on": Field(Words(Word(("wide", "tablet", "phone"))), "the devices that show it", "shows_on: [wide]"),
        "follows": Field(Flag(), "whether it stays in view as the reader scrolls", "follows: yes"),
        "based_on": Field(Words(NameOf(("look",))), "the look that it changes", "based_on: usual"),
    }
)
assert set(LOOK_KEYS) < set(LOOK.keys)
BLOCK = _told(
    {
        "kind": Field(
            Word(("text", "branch-links", "menu", "links", "one-of")), "what kind of block it is", "kind: text"
        ),
        "supplies": Field(
            Words(Word(("heading",))), "what it gives the page, so that nothing else must", "supplies: heading"
        ),
        "text": Field(Text(), "of a text: what it says", "text: Open daily 10 to 17"),
        "under": Field(Text(), "of links and menus: the page that they begin from", "under: /visit"),
        "levels": Field(Number(1, 100), "of links and menus: how many levels (default: 1)", "levels: 2"),
        "sort": Field(
            Word(("order", "title", "path", "created", "modified")),
            "of branch-links: by what (default: order)",
            "sort: title",
        ),
        "leave_out": Field(
            Words(Text()), "of branch-links: pages to leave out, with their branches", "leave_out: [/visit/thanks]"
        ),
        "languages": Field(Word(("all",)), "of branch-links: all of them", "languages: all"),
        "links": Field(
            Entries(Text(r"^(/|https?://|mailto:|tel:)")),
            "of links: the text, and the path or address",
            "links: {Tickets: /visit/tickets}",
        ),
        "blocks": Field(BLOCKS, "of one-of: the blocks of which one is shown", "blocks: [offer-members, offer-tea]"),
    },
    ("kind",),
)
BLOCK_KEYS = {
    "text": ("text",),
    "branch-links": ("under", "levels", "sort", "leave_out", "languages"),
    "menu": ("under", "levels"),
    "links": ("links",),
    "one-of": ("blocks",),
}
"""The keys that each kind of block has besides those that all have."""

SUBJECTS = Entries(ActionList(), "subject")
_GRANTS = {
    "access": Field(SUBJECTS, "who may do what: a subject and its actions", "access: {editors: [view, edit]}"),
    "deny": Field(SUBJECTS, "what is taken away from a subject, whoever gives it", "deny: {guests: [edit]}"),
}
LOCK = Settings(_GRANTS)
SCOPE_KEYS = {
    "use": Field(Words(NameOf(("preset",))), "presets whose values it sets", "use: bare"),
    "lock": Field(LOCK, "values that stronger scopes may not change", "lock: {band.footer: footer-legal}"),
    **_GRANTS,
    "fresh_access": Field(Flag(), "whether no access comes through from weaker scopes", "fresh_access: yes"),
    "because": BECAUSE,
}
BODY = Settings(SCOPE_KEYS)
HERE = Settings({key: field for key, field in SCOPE_KEYS.items() if key != "lock"})
"""Nothing is stronger than what a page says itself, so it locks nothing."""
PRESET = Settings({**_GRANTS, **TOLD})
TYPE = _told(
    {
        "based_on": Field(Words(NameOf(("type",))), "the type whose values it begins with", "based_on: page"),
        "give": Field(BODY, "what its pages get", "give: {sidebar.right: whats-on}"),
        "without": Field(Words(Text()), "settings that its pages do not have", "without: [sidebar.left]"),
    }
)
PAGE = Fields(
    {
        "below": Field(BODY, "what all pages below it get", "below: {sidebar.right: visit-planning}"),
        "here": Field(HERE, "what the page itself gets", "here: {title.show: no}"),
        "here_and_below": Field(BODY, "what the page and all pages below it get", "here_and_below: {menu.show: no}"),
    }
)
DEPTH = Text(r"^[0-9]{1,6}(\s*-\s*[0-9]{1,6})?$", integers=True)
CONDITION = Fields(
    {
        "path": Field(Words(Text(r"^[/*]")), "the path, or a glob: `*` for one part, `**` for any", "path: /news/*"),
        "in_branch": Field(Words(PATH), "a page and all below it", "in_branch: /press"),
        "below": Field(Words(PATH), "all below a page", "below: /visit"),
        "type": Field(Words(NameOf(("type",))), "a type and those based on it", "type: event"),
        "only_type": Field(Words(NameOf(("type",))), "a type alone", "only_type: article"),
        "tag": Field(Words(Text()), "a tag", "tag: prices"),
        "language": Field(Words(Text()), "a language", "language: fr"),
        "status": Field(Words(Word(STATUSES)), "live, draft or folder", "status: draft"),
        "depth": Field(Words(DEPTH), "how many pages are above it", "depth: 2-4"),
        "home": Field(Flag(), "whether it is the home page", "home: no"),
        "facts": Field(Entries(Words(Text())), "columns of the inventory: values", "facts: {made_with: potting-bench}"),
    }
)
EXCEPTS = Either((CONDITION, ListOf(CONDITION)))
WHEN = Field(CONDITION, "the pages that it is about", "when: {type: event}")
EXCEPT = Field(EXCEPTS, "pages that are excluded; of several conditions any", "except: {in_branch: /press}")
RULE = Fields(
    {
        "name": Field(Text(), "what it is for", "name: Campaign pages run edge to edge"),
        "when": WHEN,
        "except": EXCEPT,
        "give": Field(BODY, "what the pages get", "give: {use: bare}"),
        "because": BECAUSE,
        "note": NOTE,
    },
    ("name", "when", "give"),
)
PROMISE = Fields(
    {
        "name": Field(Text(), "what must hold", "name: Staff pages stay private"),
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
        "setting": Field(Text(), "the setting that it names", "setting: title.show"),
        "when": WHEN,
        "name": Field(Text(), "the declaration that it names", "name: call-to-action"),
        "because": Field(Text(), "why it is meant", "because: The picture carries the name"),
    },
    ("because",),
    ("kind", "setting", "when", "name"),
)
PROBE = Fields(
    {
        "page": Field(Text(), "the page to look at", "page: /staff/rota"),
        "as": Field(NameOf(("person", "group"), (VISITOR, SIGNED_IN)), "who looks (default: a visitor)", "as: visitor"),
    },
    ("page",),
)
ADJUSTED = Fields(
    {
        "flow": Field(
            Word(FLOWS), "live, or stamped: pages keep what was the default when they were made", "flow: stamped"
        ),
        "default": Field(SettingValue(), "what pages have that nothing is set for", "default: none"),
        "scopes": Field(Words(Word(STATED_SCOPES)), "where it may be set (default: anywhere)", "scopes: [type, here]"),
        "label": LABEL,
        "help": Field(Text(), "what it is for", "help: Played under the heading"),
    }
)
OWN_SETTING = Fields(
    {
        "kind": Field(Word(KINDS), "what it holds", "kind: text"),
        **ADJUSTED.fields,
        "for_types": Field(Words(NameOf(("type",))), "only pages of these types have it", "for_types: [plant-record]"),
        "required": Field(Flag(), "whether each page that has it should say something", "required: yes"),
        "used_by": Field(Words(NameOf(("layout", "band", "block"))), "what shows it", "used_by: [record-page]"),
        "choices": Field(Words(Text()), "of a choice or a list: the words that it takes", "choices: [spring, summer]"),
        "least": Field(Number(-1e15, 1e15, whole=False), "of a number: the least", "least: 0"),
        "most": Field(Number(-1e15, 1e15, whole=False), "of a number: the most", "most: 100"),
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
        "presets": Field(Entries(PRESET, "preset"), "values that go together", "presets: {bare: {title.show: no}}"),
        "everywhere": Field(BODY, "what every page gets", "everywhere: {sidebar.right: main}"),
        "types": Field(Entries(TYPE, "type"), "page types, and what their pages get", "types: {event: {label: Event}}"),
        "pages": Field(
            Entries(PAGE, "page"), "what single pages and branches get", "pages: {/visit: {below: {menu.show: no}}}"
        ),
        "rules": Field(
            ListOf(RULE),
            "what pages get that meet a condition; the first is the strongest",
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
        "looks": Field(Entries(LOOK, "look"), "how a sidebar looks", "looks: {usual: {width: 28}}"),
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
            Words(Text()), "the site's own list of actions; it holds view and edit", "actions: [view, edit, publish]"
        ),
        "menu": Field(MENU, "the top menu", "menu: {room: 7}"),
        "sitemap": Field(SITEMAP, "what the sitemap leaves out and joins", "sitemap: {max_age: 3}"),
        "robots": Field(
            Words(Text()),
            "the site's own lines for robots.txt (RFC 9309)",
            'robots: ["User-agent: *", "Disallow: /search?"]',
        ),
        "promises": Field(
            ListOf(PROMISE),
            "what must hold; check proves it, or says where it is broken",
            "promises: [{name: Private, when: {in_branch: /staff}, may_not: {everyone: [view]}}]",
        ),
        "probes": Field(
            ListOf(PROBE), "what to look at after every change", "probes: [{page: /staff/rota, as: visitor}]"
        ),
        "accept": Field(
            ListOf(ACCEPT),
            "findings that are known and meant",
            "accept: [{kind: no-heading, because: The picture carries the name}]",
        ),
    },
    ("davlo", "site"),
)
"""The whole file. Included files have the same keys but `davlo` and `site`."""
SECTIONS = tuple(key for key in DAVLO_YAML.keys if key not in ("davlo", "site", "include"))
