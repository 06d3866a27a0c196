"""For each kind of finding a small site on which it happens, and the same site without it."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import NamedTuple

import numpy as np

from davlo.core.outcomes.sitemap.sitemap_marks import Told
from davlo.files.store.last_sitemap import RECORD, record_of
from davlo.files.store.own_folder import own_folder

PIECES = """
layouts: {plain: {areas: [content, footer]}, wide: {based_on: plain, areas: [content, left, footer]}}
sidebars: {main: {}, slim: {}}
bands: {legal: {fits: [footer]}, loud: {fits: [footer]}}
blocks: {form: {kind: text}, link: {kind: text}}
people: {names: [amber.finch, bruno.wray], admins: [bruno.wray], groups: {keepers: [amber.finch]}}
"""
OPEN = "access: {keepers: [view, edit]}"


class Case(NamedTuple):
    """A site on which a kind happens; `mended` is the same without it."""

    decisions: str
    mended: str
    pages: tuple[str, ...]
    setting: str | None
    says: str
    page_list: str = "path,title,type\n/,Home,\n/a,A,note\n/a/b,B,note\n"
    stamps: str = ""
    published: str = ""
    mended_page_list: str = ""
    declarations: str = ""

    def write(self, small: Callable[..., Path], mended: bool = False, more: str = "") -> Path:
        """The site, with or without what is wrong, as `small` writes one."""
        decisions = (self.mended if mended else self.decisions) + more
        types = "" if "types:" in decisions else "\ntypes: {note: {label: Note}}"
        page_list = self.mended_page_list if mended and self.mended_page_list else self.page_list
        beside = {"stamps.csv": self.stamps} if self.stamps else {}
        folder = small((self.declarations or PIECES) + decisions + types + "\n", page_list, beside)
        if self.published:
            nothing = Told(np.zeros(0, dtype=np.uint64), np.zeros(0, dtype=np.uint64))
            record = record_of(folder, folder / "sitemap.xml", {}, (), nothing, self.published, "sitemap")
            (own_folder(folder) / RECORD).write_bytes(record)
        return folder


CASES = {
    "lock-overrules": Case(
        f"everywhere: {{{OPEN}, lock: {{band.footer: legal}}}}\npages: {{/a: {{here: {{band.footer: loud}}}}}}",
        f"everywhere: {{{OPEN}, lock: {{band.footer: legal}}}}\npages: {{/a: {{here: {{band.footer: legal}}}}}}",
        ("/a",),
        "band.footer",
        "locked to legal by everywhere (davlo.yaml:",
    ),
    "lock-clash": Case(
        f"everywhere: {{{OPEN}, lock: {{band.footer: legal}}}}\npages: {{/a: {{below: {{lock: {{band.footer: loud}}}}}}}}",
        f"everywhere: {{{OPEN}, lock: {{band.footer: legal}}}}\npages: {{/a: {{below: {{lock: {{band.footer: legal}}}}}}}}",
        ("/a/b",),
        "band.footer",
        "so 1 other lock has no effect on 1 page",
    ),
    "type-below-clash": Case(
        f"everywhere: {{{OPEN}}}\ntypes: {{note: {{give: {{title.limit: 40}}}}}}\npages: {{/a: {{below: {{title.limit: 50}}}}}}",
        f"everywhere: {{{OPEN}}}\ntypes: {{note: {{give: {{title.limit: 40}}}}}}\npages: {{/a: {{below: {{title.limit: 50}}}}}}\n"
        "rules: [{name: which holds, when: {type: note, below: /a}, give: {title.limit: 50}}]",
        ("/a/b",),
        "title.limit",
        "sets title.limit to 40, below /a",
    ),
    "rules-overlap": Case(
        f"everywhere: {{{OPEN}}}\nrules:\n  - {{name: upper, when: {{type: note}}, give: {{title.limit: 40, menu.label: x}}}}\n"
        "  - {name: lower, when: {in_branch: /a}, give: {title.limit: 50, menu.label: x}}",
        f"everywhere: {{{OPEN}}}\nrules:\n  - {{name: upper, when: {{type: note}}, give: {{title.limit: 40, menu.label: x}}}}\n"
        "  - {name: lower, when: {in_branch: /a}, except: {type: note}, give: {title.limit: 50, menu.label: x}}",
        ("/a", "/a/b"),
        "title.limit",
        'the rule "upper" (davlo.yaml:11) gives 40 and wins; the rule "lower" (davlo.yaml:12) gives 50',
    ),
    "repeats-inherited": Case(
        f"everywhere: {{{OPEN}, title.limit: 40}}\npages: {{/a: {{here: {{title.limit: 40}}}}}}",
        f"everywhere: {{{OPEN}, title.limit: 40}}\npages: {{/a: {{here: {{title.limit: 41}}}}}}",
        ("/a",),
        "title.limit",
        "1 page sets title.limit: 40 and would get the same from everywhere",
    ),
    "outdated-stamp": Case(
        f"everywhere: {{{OPEN}}}\nsettings: {{blocks.content: {{default_for: new-pages}}}}\ntypes: {{note: {{give: {{blocks.content: [link]}}}}}}",
        f"everywhere: {{{OPEN}}}\nsettings: {{blocks.content: {{default_for: new-pages}}}}\n"
        "types: {note: {give: {blocks.content: [link]}}}\npages: {/a: {here: {blocks.content: [link]}}, "
        "/a/b: {here: {blocks.content: none}}}",
        ("/a", "/a/b"),
        "blocks.content",
        "1 page has an older stamp and 1 page has no stamp",
        stamps="path,setting,value\n/a,blocks.content,form\n",
    ),
    "no-such-area": Case(
        f"everywhere: {{{OPEN}, layout.name: plain, sidebar.left: main}}",
        f"everywhere: {{{OPEN}, layout.name: wide, sidebar.left: main}}",
        ("/", "/a", "/a/b"),
        "sidebar.left",
        "the layout plain, chosen by everywhere (davlo.yaml:9), has no area left",
    ),
    "cut-off-in-menu": Case(
        f"everywhere: {{{OPEN}}}\npages: {{/a: {{here: {{menu.show: no}}}}}}",
        f"everywhere: {{{OPEN}}}\npages: {{/a: {{here_and_below: {{menu.show: no}}}}}}",
        ("/a/b",),
        "menu.show",
        "/a above it is hidden from the menu by the page itself (davlo.yaml:10)",
    ),
    "duplicate-title": Case(
        f"everywhere: {{{OPEN}}}",
        f'everywhere: {{{OPEN}, title.pattern: "{{title}}, {{parent}}"}}',
        ("/a", "/a/b"),
        "title.pattern",
        '2 live pages share a document title, by the built-in value: "Tea" (2)',
        page_list="path,title,type\n/,Home,\n/a,Tea,\n/a/b,tea,\n",
    ),
    "nobody-may-edit": Case(
        f"everywhere: {{{OPEN}}}\npages: {{/a: {{below: {{fresh_access: yes, access: {{keepers: [view]}}}}}}}}",
        f"everywhere: {{{OPEN}}}\npages: {{/a: {{below: {{fresh_access: yes, access: {{keepers: [view, edit]}}}}}}}}",
        ("/a/b",),
        None,
        "no one but an admin may edit 1 page",
    ),
    "open-below-closed": Case(
        f"everywhere: {{{OPEN}}}\npages: {{/a: {{here: {{access: {{everyone: none}}}}}}}}",
        f"everywhere: {{{OPEN}}}\npages: {{/a: {{here_and_below: {{access: {{everyone: none}}}}}}}}",
        ("/a/b",),
        "access.everyone",
        "anyone may view 1 page, by the built-in value, but not /a above",
    ),
    "private-with-priority": Case(
        f"everywhere: {{{OPEN}, sitemap.priority: 0.4}}\npages: {{/a: {{here_and_below: {{access: {{everyone: none}}}}, "
        "below: {sitemap.priority: 0.9}}}",
        f"everywhere: {{{OPEN}, sitemap.priority: 0.4}}\npages: {{/a: {{here_and_below: {{access: {{everyone: none}}}}}}}}",
        ("/a/b",),
        "sitemap.priority",
        "below /a (davlo.yaml:10) gives a sitemap priority (0.9) to 1 page that no visitor may view",
    ),
    "guarantee-broken": Case(
        f"everywhere: {{{OPEN}, title.limit: 40}}\nguarantees: [{{name: short titles, when: {{type: note}}, has: {{title.limit: 60}}}}]",
        f"everywhere: {{{OPEN}}}\nguarantees: [{{name: short titles, when: {{type: note}}, has: {{title.limit: 60}}}}]",
        ("/a", "/a/b"),
        "title.limit",
        'the guarantee "short titles" (davlo.yaml:10) does not hold on 2 pages: title.limit should be 60 and is 40 from everywhere',
    ),
    "guarantee-without-pages": Case(
        f"everywhere: {{{OPEN}}}\nguarantees: [{{name: closed, when: {{below: /aa}}, may_not: {{everyone: [edit]}}}}]",
        f"everywhere: {{{OPEN}}}\nguarantees: [{{name: closed, when: {{below: /a}}, may_not: {{everyone: [edit]}}}}]",
        (),
        None,
        'the guarantee "closed" (davlo.yaml:10) proves nothing: there is no page /aa',
    ),
    "no-such-page": Case(
        "everywhere: {access: {keepers: [view, edit]}}\npages: {/gone: {here: {title.limit: 9}}}",
        "everywhere: {access: {keepers: [view, edit]}}\npages: {/a: {here: {title.limit: 9}}}",
        (),
        None,
        "there is no page /gone, but a statement (davlo.yaml:10) names it",
    ),
    "odd-path": Case(
        f"everywhere: {{{OPEN}}}",
        f"everywhere: {{{OPEN}}}",
        ("/a", "/A"),
        None,
        "/a, /A differ only in letter case, or in %2F or %25: some servers take them for one page",
        page_list="path,title\n/,Home\n/a,A\n/A,Other\n",
        mended_page_list="path,title\n/,Home\n/a,A\n/b,Other\n",
    ),
    "stray-stamp": Case(
        "everywhere: {access: {keepers: [view, edit]}}",
        "everywhere: {access: {keepers: [view, edit]}}\nsettings: {title.limit: {default_for: new-pages}}",
        ("/a",),
        "title.limit",
        "1 stamp of title.limit (stamps.csv:2) does nothing",
        stamps="path,setting,value\n/a,title.limit,9\n",
    ),
    "misspelt-column": Case(
        "everywhere: {access: {keepers: [view, edit]}}",
        "everywhere: {access: {keepers: [view, edit]}}\n",
        (),
        "title.limit",
        "the column title-limit of pages.csv is nearly named as the setting title.limit, and is not read as that",
        page_list="path,title,title-limit\n/,Home,\n/a,A,9\n",
        mended_page_list="path,title,title.limit\n/,Home,\n/a,A,9\n",
    ),
    "undeclared-type": Case(
        "everywhere: {access: {keepers: [view, edit]}}",
        "everywhere: {access: {keepers: [view, edit]}}\ntypes: {leaf: {label: Leaf}}",
        ("/a",),
        None,
        "1 page has the type leaf that nobody declared",
        page_list="path,title,type\n/,Home,\n/a,A,leaf\n",
    ),
    "unknown-language": Case(
        "everywhere: {access: {keepers: [view, edit]}}",
        "everywhere: {access: {keepers: [view, edit]}}\n",
        ("/a",),
        None,
        "1 page is in the language de, which the site does not list (en, fr)",
        page_list="path,title,language\n/,Home,\n/a,A,de\n",
        mended_page_list="path,title,language\n/,Home,\n/a,A,fr\n",
    ),
    "not-applicable": Case(
        "everywhere: {access: {keepers: [view, edit]}}\nsettings: {motto: {kind: text, for_types: [note]}}\ntypes: {note: {label: N}, page: {give: {motto: x}}}",
        "everywhere: {access: {keepers: [view, edit]}}\nsettings: {motto: {kind: text, for_types: [note]}}\ntypes: {note: {give: {motto: x}}}",
        ("/",),
        "motto",
        "1 statement of motto (davlo.yaml:11) reaches only pages that do not have it",
    ),
    "missing-value": Case(
        "everywhere: {access: {keepers: [view, edit]}}\nsettings: {motto: {kind: text, for_types: [note], required: yes}}\ntypes: {note: {label: N}}",
        "everywhere: {access: {keepers: [view, edit]}}\nsettings: {motto: {kind: text, for_types: [note], required: yes}}\ntypes: {note: {give: {motto: x}}}",
        ("/a", "/a/b"),
        "motto",
        "2 live pages have no motto, which is required",
    ),
    "rule-without-pages": Case(
        "everywhere: {access: {keepers: [view, edit]}}\nrules: [{name: lost, when: {path: /zzz}, give: {title.limit: 9}}]",
        "everywhere: {access: {keepers: [view, edit]}}\nrules: [{name: lost, when: {path: /a}, give: {title.limit: 9}}]",
        (),
        None,
        'the rule "lost" (davlo.yaml:10) does nothing: it matches no page',
    ),
    "hidden-rule": Case(
        "everywhere: {access: {keepers: [view, edit]}}\nrules:\n  - {name: upper, when: {type: note}, give: {title.limit: 40}}\n  - {name: lower, when: {below: /a}, give: {title.limit: 50}}",
        "everywhere: {access: {keepers: [view, edit]}}\nrules:\n  - {name: lower, when: {below: /a}, give: {title.limit: 50}}\n  - {name: upper, when: {type: note}, give: {title.limit: 40}}",
        ("/a/b",),
        None,
        'the rule "lower" (davlo.yaml:12) matches 1 page and changes none',
    ),
    "type-without-pages": Case(
        "everywhere: {access: {keepers: [view, edit]}}\ntypes: {note: {label: N}, memo: {label: M}}",
        "everywhere: {access: {keepers: [view, edit]}}\ntypes: {note: {label: N}}",
        (),
        None,
        "the type memo (davlo.yaml:10) has no page",
    ),
    "below-without-pages": Case(
        "everywhere: {access: {keepers: [view, edit]}}\npages: {/a/b: {below: {title.limit: 9}}}",
        "everywhere: {access: {keepers: [view, edit]}}\npages: {/a/b: {here: {title.limit: 9}}}",
        ("/a/b",),
        None,
        "1 statement below /a/b (davlo.yaml:10): there is no page below it",
    ),
    "redundant-default": Case(
        "everywhere: {access: {keepers: [view, edit]}, title.limit: 60}",
        "everywhere: {access: {keepers: [view, edit]}, title.limit: 50}",
        ("/", "/a", "/a/b"),
        "title.limit",
        "1 statement (davlo.yaml:9) sets title.limit: 60 and changes nothing: its pages have the built-in value anyway",
    ),
    "unused-declaration": Case(
        "everywhere: {access: {keepers: [view, edit]}}",
        "everywhere: {access: {keepers: [view, edit]}, use: bare}",
        (),
        None,
        "the preset bare (davlo.yaml:3) is named by no statement and no other declaration",
        declarations="presets: {bare: {heading.show: no}}\npeople: {names: [amber.finch, bruno.wray], admins: [bruno.wray], groups: {keepers: [amber.finch]}}\n",
    ),
    "unused-setting": Case(
        "everywhere: {access: {keepers: [view, edit]}}\nsettings: {motto: {kind: text}}",
        "everywhere: {access: {keepers: [view, edit]}, motto: x}\nsettings: {motto: {kind: text}}",
        (),
        "motto",
        "motto (davlo.yaml:10) is declared, and no statement sets it",
    ),
    "unread-setting": Case(
        "everywhere: {access: {keepers: [view, edit]}, motto: x, layout.name: plain, blocks.content: [form]}\nsettings: {motto: {kind: text, used_by: [link]}}",
        "everywhere: {access: {keepers: [view, edit]}, motto: x, layout.name: plain, blocks.content: [form]}\nsettings: {motto: {kind: text, used_by: [form]}}",
        ("/", "/a", "/a/b"),
        "motto",
        "motto is set on 3 pages, but not shown there: link shows on none of them",
    ),
    "menu-too-long": Case(
        "everywhere: {access: {keepers: [view, edit]}}\nmenu: {max_entries: 1}",
        "everywhere: {access: {keepers: [view, edit]}}\nmenu: {max_entries: 2}",
        ("/a",),
        "menu.show",
        "the top menu has 2 entries, and 1 fit",
    ),
    "unlinked-page": Case(
        "everywhere: {access: {keepers: [view, edit]}}\npages: {/a: {here_and_below: {menu.show: no, sitemap.include: no}}}",
        "everywhere: {access: {keepers: [view, edit]}}\npages: {/a: {here_and_below: {sitemap.include: no}}}",
        ("/a", "/a/b"),
        "menu.show",
        "2 pages are live, hidden from the menu by what /a sets for itself and below (davlo.yaml:10)",
    ),
    "listed-but-unlinked": Case(
        "everywhere: {access: {keepers: [view, edit]}}\npages: {/a: {here_and_below: {menu.show: no}}}",
        "everywhere: {access: {keepers: [view, edit]}}",
        ("/a", "/a/b"),
        "menu.show",
        "2 pages stand in the sitemap, hidden from the menu by what /a sets for itself and below",
    ),
    "long-title": Case(
        "everywhere: {access: {keepers: [view, edit]}, title.limit: 3}",
        "everywhere: {access: {keepers: [view, edit]}, title.limit: 4}",
        ("/",),
        "title.limit",
        'the document title of 1 page is longer than 3 characters; the longest, of /, has 4: "Home"',
    ),
    "empty-title": Case(
        "everywhere: {access: {keepers: [view, edit]}}",
        'everywhere: {access: {keepers: [view, edit]}, title.pattern: "{path} of the garden"}',
        ("/a",),
        "title.pattern",
        "1 page has no title in the page list, which title.pattern asks for, by the built-in value",
        page_list="path,title\n/,Home\n/a,\n",
    ),
    "empty-heading": Case(
        'everywhere: {access: {keepers: [view, edit]}, heading.text: "{tags}"}',
        'everywhere: {access: {keepers: [view, edit]}, heading.text: "{title}"}',
        ("/", "/a", "/a/b"),
        "heading.text",
        "the heading of 3 pages is empty, by everywhere (davlo.yaml:9)",
    ),
    "unknown-placeholder": Case(
        'everywhere: {access: {keepers: [view, edit]}, title.pattern: "{title}, {town}"}',
        'everywhere: {access: {keepers: [view, edit]}, title.pattern: "{title}, {site}"}',
        ("/", "/a", "/a/b"),
        "title.pattern",
        "title.pattern of 3 pages is {title}, {town}, by everywhere (davlo.yaml:9), but {town} is no word of a pattern",
    ),
    "heading-twice": Case(
        f"everywhere: {{{OPEN}, layout.name: plain}}\npages: {{/a: {{here: {{blocks.content: [carries]}}}}}}",
        f"everywhere: {{{OPEN}, layout.name: plain}}\npages: {{/a: {{here: {{blocks.content: [carries], heading.show: no}}}}}}",
        ("/a",),
        "heading.show",
        "1 page shows its heading, and the block carries provides a second one",
        declarations=PIECES.replace(
            "link: {kind: text}", "link: {kind: text}, carries: {kind: text, provides: heading}"
        ),
    ),
    "no-heading": Case(
        "everywhere: {access: {keepers: [view, edit]}, layout.name: plain}\npages: {/a: {here: {heading.show: no}}}",
        "everywhere: {access: {keepers: [view, edit]}, layout.name: plain}\npages: {/a: {here: {heading.show: no, blocks.content: [plate]}}}",
        ("/a",),
        "heading.show",
        "1 page shows no heading by the page itself (davlo.yaml:7)",
        declarations="layouts: {plain: {areas: [content]}}\nblocks: {plate: {kind: text, provides: heading}}\npeople: {names: [amber.finch, bruno.wray], admins: [bruno.wray], groups: {keepers: [amber.finch]}}\n",
    ),
    "area-missing-in-theme": Case(
        "everywhere: {access: {keepers: [view, edit]}, layout.name: plain, layout.theme: bare, band.footer: legal}",
        "everywhere: {access: {keepers: [view, edit]}, layout.name: plain, layout.theme: bare}",
        ("/", "/a", "/a/b"),
        "layout.theme",
        "the theme bare (davlo.yaml:3) does not show the area footer, which is filled on 3 pages: it shows nothing",
        declarations="themes: {bare: {areas: [content]}}\nlayouts: {plain: {areas: [content, footer]}}\nbands: {legal: {fits: [footer]}}\npeople: {names: [amber.finch, bruno.wray], admins: [bruno.wray], groups: {keepers: [amber.finch]}}\n",
    ),
    "band-does-not-fit": Case(
        "everywhere: {access: {keepers: [view, edit]}, layout.name: plain, band.content: legal}",
        "everywhere: {access: {keepers: [view, edit]}, layout.name: plain, band.footer: legal}",
        ("/", "/a", "/a/b"),
        "band.content",
        "puts the band legal into content on 3 pages, but it says it fits footer",
    ),
    "empty-sidebar": Case(
        "everywhere: {access: {keepers: [view, edit]}, layout.name: wide, sidebar.left: main}",
        "everywhere: {access: {keepers: [view, edit]}, layout.name: wide}",
        ("/", "/a", "/a/b"),
        "sidebar.left",
        "the sidebar main (davlo.yaml:5) has no blocks, and 3 pages have it",
    ),
    "sidebar-on-no-screen": Case(
        "everywhere: {access: {keepers: [view, edit]}, layout.name: two, sidebar.left: main, look.left: 'off'}",
        "everywhere: {access: {keepers: [view, edit]}, layout.name: two, sidebar.left: main, look.left: slim}",
        ("/", "/a", "/a/b"),
        "look.left",
        "but its look off, by everywhere (davlo.yaml:8), shows it on no screen",
        declarations="layouts: {two: {areas: [left, content, right]}}\nsidebars: {main: {blocks: [form]}}\nlooks: {'off': {shows_on: []}, broad: {whole: {width: 40%}}, slim: {whole: {width: 20%}}}\nblocks: {form: {kind: text}}\npeople: {names: [amber.finch, bruno.wray], admins: [bruno.wray], groups: {keepers: [amber.finch]}}\n",
    ),
    "phone-order-incomplete": Case(
        "everywhere: {access: {keepers: [view, edit]}, layout.name: plain, layout.phone-order: [footer]}",
        "everywhere: {access: {keepers: [view, edit]}, layout.name: plain, layout.phone-order: [footer, content]}",
        ("/", "/a", "/a/b"),
        "layout.phone-order",
        "leaves out content, which is filled, on 3 pages",
    ),
    "sidebars-too-wide": Case(
        "everywhere: {access: {keepers: [view, edit]}, layout.name: two, sidebar.left: main, sidebar.right: main, look.left: broad, look.right: broad}",
        "everywhere: {access: {keepers: [view, edit]}, layout.name: two, sidebar.left: main, sidebar.right: main, look.left: broad, look.right: slim}",
        ("/", "/a", "/a/b"),
        None,
        "the sidebars of 3 pages take 80 per cent of the width: left 40, right 40",
        declarations="layouts: {two: {areas: [left, content, right]}}\nsidebars: {main: {blocks: [form]}}\nlooks: {broad: {whole: {width: 40%}}, slim: {whole: {width: 20%}}}\nblocks: {form: {kind: text}}\npeople: {names: [amber.finch, bruno.wray], admins: [bruno.wray], groups: {keepers: [amber.finch]}}\n",
    ),
    "same-sidebar-twice": Case(
        "everywhere: {access: {keepers: [view, edit]}, layout.name: two, sidebar.left: main, sidebar.right: main}",
        "everywhere: {access: {keepers: [view, edit]}, layout.name: two, sidebar.left: main}",
        ("/", "/a", "/a/b"),
        "sidebar.right",
        "the sidebar main is shown twice on 3 pages: in left (by everywhere (davlo.yaml:8)) and in right",
        declarations="layouts: {two: {areas: [left, content, right]}}\nsidebars: {main: {blocks: [form]}}\nlooks: {broad: {whole: {width: 40%}}, slim: {whole: {width: 20%}}}\nblocks: {form: {kind: text}}\npeople: {names: [amber.finch, bruno.wray], admins: [bruno.wray], groups: {keepers: [amber.finch]}}\n",
    ),
    "blank-page": Case(
        "everywhere: {access: {keepers: [view, edit]}, layout.name: bare}",
        "everywhere: {access: {keepers: [view, edit]}, layout.name: bare, blocks.content: [form]}",
        ("/", "/a", "/a/b"),
        "layout.name",
        "3 pages show nothing in content: the layout bare",
        declarations="layouts: {bare: {areas: [content], own_content: no}}\nblocks: {form: {kind: text}}\npeople: {names: [amber.finch, bruno.wray], admins: [bruno.wray], groups: {keepers: [amber.finch]}}\n",
    ),
    "stray-look": Case(
        "everywhere: {access: {keepers: [view, edit]}, layout.name: two, look.left: slim}",
        "everywhere: {access: {keepers: [view, edit]}, layout.name: two, look.left: slim, sidebar.left: main}",
        ("/", "/a", "/a/b"),
        "look.left",
        "1 statement of look.left (davlo.yaml:8) sets a look where no sidebar and no band stands",
        declarations="layouts: {two: {areas: [left, content, right]}}\nsidebars: {main: {blocks: [form]}}\nlooks: {broad: {whole: {width: 40%}}, slim: {whole: {width: 20%}}}\nblocks: {form: {kind: text}}\npeople: {names: [amber.finch, bruno.wray], admins: [bruno.wray], groups: {keepers: [amber.finch]}}\n",
    ),
    "edit-without-view": Case(
        "everywhere: {access: {everyone: none, keepers: [edit]}}",
        "everywhere: {access: {everyone: none, keepers: [view, edit]}}",
        ("/", "/a", "/a/b"),
        "access.keepers",
        "access.keepers holds edit on 3 pages, by everywhere (davlo.yaml:9), but amber.finch may not view them",
    ),
    "unreachable-grant": Case(
        "pages: {/a: {here_and_below: {access: {everyone: none}}}, /a/b: {here: {access: {amber.finch: [view]}}}}",
        "pages: {/a: {here_and_below: {access: {everyone: none, amber.finch: [view]}}}}",
        ("/a/b",),
        None,
        "amber.finch may see or edit 1 page by the page itself (davlo.yaml:9), but may not view /a above",
    ),
    "access-dropped": Case(
        "everywhere: {access: {keepers: [view, edit]}}\npages: {/a: {below: {fresh_access: yes}}}",
        "everywhere: {access: {keepers: [view, edit]}}\npages: {/a: {below: {fresh_access: yes, access: {keepers: [view, edit]}}}}",
        ("/a/b",),
        None,
        "fresh_access by below /a (davlo.yaml:10) drops what weaker scopes give on 1 page: access.keepers (view; edit)",
    ),
    "drops-actions": Case(
        "everywhere: {access: {keepers: [view, edit]}}\npages: {/a: {here: {access: {keepers: [view]}}}}",
        "everywhere: {access: {keepers: [view, edit]}}\npages: {/a: {here: {access: {keepers: {add: [move]}}}}}",
        ("/a",),
        "access.keepers",
        "gives access.keepers view, which takes edit away from what weaker scopes give on 1 page",
    ),
    "owner-gone": Case(
        "everywhere: {access: {keepers: [view, edit]}}",
        "everywhere: {access: {keepers: [view, edit]}}\n",
        ("/a",),
        "page.owner",
        "page.owner of 1 page is zed.gone (pages.csv:3), and there is no such person",
        page_list="path,title,page.owner\n/,Home,\n/a,A,zed.gone\n",
        mended_page_list="path,title,page.owner\n/,Home,\n/a,A,amber.finch\n",
    ),
    "group-empty": Case(
        "everywhere: {access: {keepers: [view, edit], idlers: [move]}}",
        "everywhere: {access: {keepers: [view, edit]}}",
        (),
        "access.idlers",
        "access.idlers is said by 1 statement (davlo.yaml:4), but the group idlers covers nobody",
        declarations="people: {names: [amber.finch, bruno.wray], admins: [bruno.wray], groups: {idlers: [], keepers: [amber.finch]}}\n",
    ),
    "person-beside-group": Case(
        "everywhere: {access: {keepers: [view, edit], amber.finch: [move]}}",
        "everywhere: {access: {keepers: [view, edit], amber.finch: [edit, view]}}",
        ("/", "/a", "/a/b"),
        "access.amber.finch",
        "everywhere gives amber.finch move and the group keepers, which amber.finch is in, view; edit",
    ),
    "noindex-with-priority": Case(
        "everywhere: {access: {keepers: [view, edit]}}\npages: {/a: {here: {robots.index: no, sitemap.priority: 0.9}}}",
        "everywhere: {access: {keepers: [view, edit]}}\npages: {/a: {here: {robots.index: no}}}",
        ("/a",),
        "sitemap.priority",
        "gives a sitemap priority (0.9) to 1 page that search engines may not index",
    ),
    "left-out-by-priority": Case(
        "everywhere: {access: {keepers: [view, edit]}}\nsitemap: {leave_out: {priority_under: 0.2}}\npages: {/a: {here: {sitemap.priority: 0.1}}}",
        "everywhere: {access: {keepers: [view, edit]}}\nsitemap: {leave_out: {priority_under: 0.2}}",
        ("/a",),
        "sitemap.priority",
        "1 page is left out of the sitemap by priority alone, set by the page itself (davlo.yaml:11): it is under 0.2",
    ),
    "one-priority": Case(
        f"everywhere: {{{OPEN}, sitemap.priority: 0.4}}",
        f"everywhere: {{{OPEN}, sitemap.priority: {{by_depth: {{top: 1.0, step: 0.15, floor: 0.3}}}}}}",
        ("/", "/a", "/a/b"),
        "sitemap.priority",
        "all 3 pages in the sitemap have the priority 0.4",
    ),
    "child-above-parent": Case(
        "everywhere: {access: {keepers: [view, edit]}}\npages: {/a/b: {here: {sitemap.priority: 0.9}}}",
        "everywhere: {access: {keepers: [view, edit]}}\npages: {/a/b: {here: {sitemap.priority: 0.4}}}",
        ("/a/b",),
        "sitemap.priority",
        "than the page above: /a/b 0.9, /a 0.5",
    ),
    "sitemap-stale": Case(
        f"everywhere: {{{OPEN}}}",
        f"everywhere: {{{OPEN}, sitemap.include: no}}",
        ("/", "/a", "/a/b"),
        None,
        "sitemap.xml, written on 2026-01-05, is stale: 3 pages would be new",
        published="2026-01-05",
    ),
    "bad-alternate": Case(
        "everywhere: {access: {keepers: [view, edit]}}",
        "everywhere: {access: {keepers: [view, edit]}}\n",
        ("/a",),
        None,
        "1 page says in the column translates /gone, which is not in the page list",
        page_list="path,title,language,translates\n/,Home,en,\n/a,A,fr,/gone\n",
        mended_page_list="path,title,language,translates\n/,Home,en,\n/a,A,fr,/\n",
    ),
    "language-breaks-off": Case(
        "everywhere: {access: {keepers: [view, edit]}}",
        "everywhere: {access: {keepers: [view, edit]}}\n",
        ("/fr/b", "/fr/b/c"),
        None,
        "2 pages without a language lie below pages in fr: readers see the menu of en there",
        page_list="path,title,language\n/,Home,\n/fr,F,fr\n/fr/a,A,fr\n/fr/b,B,\n/fr/b/c,C,\n/d,D,\n",
        mended_page_list="path,title,language\n/,Home,\n/fr,F,fr\n/fr/a,A,fr\n/fr/b,B,fr\n/fr/b/c,C,fr\n/d,D,\n",
    ),
    "links-to-closed": Case(
        f"everywhere: {{{OPEN}, layout.name: plain, blocks.content: [list]}}\n"
        "pages: {/a: {below: {access: {everyone: none}}}}",
        f"everywhere: {{{OPEN}, layout.name: plain}}\npages: {{/a: {{below: {{access: {{everyone: none}}}}}}}}",
        ("/a/b",),
        None,
        "visitors see the list list (davlo.yaml:7) on 2 pages; it links to 1 page that they may not view",
        declarations=PIECES.replace("blocks: {", "blocks: {list: {kind: branch-links, under: /, levels: 2}, "),
    ),
    "stray-accept": Case(
        f"everywhere: {{{OPEN}}}\naccept: [{{kind: no-heading, because: as ever}}]",
        f"everywhere: {{{OPEN}, heading.show: no}}\naccept: [{{kind: no-heading, because: as ever}}]",
        (),
        None,
        "the accept at davlo.yaml:10 (no-heading) matches no finding",
    ),
}
