"""Declarations as the files declare them: what is read, what a derived one takes from its base, what may not stand."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import pytest

import davlo
from davlo.core.change.steps.change import Declare
from davlo.core.site.declarations import Instead
from davlo.core.site.mentions import Mentions
from davlo.core.site.settings.values import ListChange
from davlo.files.rewrite.rewrite import rewrite
from tests.files.rewrite.test_rewrite import make

Small = Callable[..., Path]
DECLARED = """
layouts:
  plain: {areas: [masthead, content], width: narrow, blocks: {content: [clock]}, note: The usual one}
  wide: {based_on: plain, areas: [masthead, content, right]}
  open: {based_on: wide, width: full, own_content: no, label: Open, filled_elsewhere: [right, toc]}
themes:
  day: {areas: [masthead, main, right]}
  evening: {areas: [top], area_names: {masthead: top}, if_missing: {content: clock, right: top}}
sidebars: {quiet: {blank: yes}, main: {blocks: [clock, list]}}
looks:
  usual: {shows_on: [wide, phone], whole: {width: 28%, border-width: 3px, border: 1px  solid}, headings: {color: green}}
  pinned: {based_on: usual, whole: {border: thick dotted RED, width: 33.5%, position: sticky}, each_block: {gap: 0}}
bands: {top: {fits: [masthead], blocks: [clock]}}
blocks:
  clock: {kind: text, text: Noon, provides: heading}
  list: {kind: branch-links, under: /a, levels: 2, sort: title, leave_out: [/a/b]}
  shop: {kind: links, links: {Shop: "https://shop.example", Home: /}}
  either: {kind: one-of, blocks: [clock, shop]}
"""


def test_what_is_declared(small: Small) -> None:
    declarations = davlo.open_site(small(DECLARED)).declarations
    plain, wide, open_ = declarations.layouts.values()
    assert (wide.areas, wide.width, wide.blocks) == (
        ("masthead", "content", "right"),
        "narrow",
        {"content": ("clock",)},
    )
    assert (open_.areas, open_.width, open_.own_content, open_.label) == (wide.areas, "full", False, "Open")
    assert (plain.own_content, plain.note, wide.note, str(plain.place)) == (True, "The usual one", "", "davlo.yaml:5")
    assert (open_.filled_elsewhere, open_.decided_areas) == (("right", "toc"), ("masthead", "content"))
    assert declarations.areas() == ("masthead", "content", "right")
    day, evening = declarations.themes.values()
    assert [day.name_of(area) for area in declarations.areas()] == ["masthead", "", "right"]
    assert [evening.name_of(area) for area in declarations.areas()] == ["top", "", ""]
    assert evening.if_missing == {"content": Instead(block="clock"), "right": Instead(area="top")}
    assert (declarations.sidebars["quiet"].blank, declarations.sidebars["main"].blocks) == (True, ("clock", "list"))
    pinned = declarations.looks["pinned"]
    assert list(pinned.whole.items()) == [
        *(("border-width", "3px"), ("border", "thick dotted RED"), ("width", "33.5%"), ("position", "sticky"))
    ]
    assert (pinned.each_block, pinned.headings, pinned.shows_on) == (
        {"gap": "0"},
        {"color": "green"},
        ("wide", "phone"),
    )
    assert (pinned.width, declarations.looks["usual"].whole["border"]) == (33.5, "1px solid")
    assert (declarations.bands["top"].fits, declarations.bands["top"].blocks) == (("masthead",), ("clock",))
    listed = declarations.blocks["list"]
    assert (listed.kind, listed.under, listed.levels, listed.sort, listed.leave_out) == (
        "branch-links",
        "/a",
        2,
        "title",
        ("/a/b",),
    )
    assert declarations.blocks["clock"].provides == ("heading",)
    assert declarations.blocks["shop"].links == {"Shop": "https://shop.example", "Home": "/"}
    assert declarations.blocks["either"].blocks == ("clock", "shop")


def test_a_derived_layout_changes_the_blocks_of_its_base(small: Small) -> None:
    folder = small("""
layouts:
  plain: {areas: [content, footer], blocks: {content: [a, b], footer: [c]}}
  more: {based_on: plain, blocks: {content: {add: [c], remove: [a]}}}
  most: {based_on: more, blocks: {content: {first: [d]}, footer: [a]}}
  bare: {based_on: plain, areas: [footer]}
blocks: {a: {kind: text}, b: {kind: text}, c: {kind: text}, d: {kind: text}}
everywhere: {layout.name: most}
""")
    site = davlo.open_site(folder)
    blocks = {name: dict(layout.blocks) for name, layout in site.declarations.layouts.items()}
    assert blocks["more"] == {"content": ("b", "c")}
    assert blocks["most"] == {"content": ("d", "b", "c"), "footer": ("a",)}
    assert blocks["bare"] == {"footer": ("c",)}
    content = site.page("/")["areas.content"]
    assert content.stands == (("layout block", "d"), ("layout block", "b"), ("layout block", "c"), ("own content", ""))
    # the base changes: what is derived from it follows, in the files as in memory
    plain = site.declarations.layouts["plain"]
    with pytest.raises(davlo.ChangeError, match=r"what it says itself stands in own: own=.'blocks': …"):
        site.apply(davlo.Change((Declare(plain._replace(blocks={"content": ("b", "d")})),)))
    change = davlo.Change((Declare(plain._replace(own={**plain.own, "blocks": {"content": ("b", "d")}})),))
    after = site.apply(change)
    assert after.declarations.layouts["most"].blocks["content"] == ("b", "d", "c")
    make(folder, rewrite(site, folder, change))
    assert (
        dict(davlo.open_site(folder).declarations.layouts["most"].blocks) == after.declarations.layouts["most"].blocks
    )
    most = site.declarations.layouts["most"]
    change = davlo.Change((Declare(most._replace(own={**most.own, "blocks": {"content": ListChange(remove=("b",))}})),))
    make(folder, rewrite(davlo.open_site(folder), folder, change))
    assert davlo.open_site(folder).declarations.layouts["most"].blocks["content"] == ("d", "c")
    assert [one.by for one in Mentions(site).of("block", "a")] == [
        "the layout plain",
        "the layout more",
        "the layout most",
    ]


WRONG = {
    "layouts: {a: {}}": "the layout a has no areas, of its own or of a base",
    "layouts: {a: {areas: [x], based_on: b}}": "there is no layout 'b'",
    "layouts: {a: {areas: [x], based_on: b}, b: {areas: [x], based_on: a}}": "the layouts go round in a circle",
    "layouts: {a: {areas: [x], blocks: {y: []}}}": "the layout a has no area 'y'",
    "layouts: {a: {areas: [x], filled_elsewhere: [x], blocks: {x: []}}}": "blocks in the area x, which it leaves to",
    "layouts: {a: {areas: [x], blocks: {x: {add: []}}}}": "the layout a is based on no other, so it has no blocks of x",
    "layouts: {a: {areas: [x]}, b: {based_on: a, blocks: {x: {}}}}": "the change of the blocks of x says nothing",
    "layouts: {a: {areas: [x]}, b: {based_on: a, blocks: {x: {add: [clok]}}}}": "add of x: there is no block 'clok'",
    "layouts: {a: {areas: [x]}, b: {based_on: a, blocks: {x: {plus: []}}}}": "the change of the blocks of x has no key",
    "layouts: {a: {areas: [x], width: huge}}": "width takes one of narrow, medium, full, not 'huge'",
    "layouts: {a: {areas: [x], own_content: maybe}}": "own_content takes yes or no, not 'maybe'",
    "layouts: {a: {areas: [X]}}": "'X' is no name",
    "layouts: {a: {areas: [x]}, '': {based_on: a}}": "'' is no name",
    "looks: {'': {whole: {width: 28%}}}": "'' is no name",
    "layouts: {a: [x]}": "the layout a takes keys with values, not a list",
    "layouts: {a: {areas: [x]}}\nthemes: {t: {areas: [x], area_names: {y: x}}}": "no layout has an area 'y'",
    "layouts: {a: {areas: [x]}}\nthemes: {t: {areas: [x], area_names: {x: z}}}": "area_names of x takes one of x, not 'z'",
    "layouts: {a: {areas: [x]}}\nbands: {b: {fits: [z]}}": "there is no area 'z'",
    "sidebars: {s: {blocks: [clok]}}": "there is no block 'clok'",
    "sidebars: {none: {}}": "no sidebar may be called none",
    "sidebars: {s: {color: red}}": "the sidebar s has no key 'color'",
    "looks: {l: {whole: {width: 60}}}": "width takes a percentage of the page, from 1% to 100%, not '60'",
    "looks: {l: {whole: {border: under}}}": "border takes a width, a style and a colour, such as 1px solid green, not",
    "looks: {l: {whole: {border: 1px solid red red}}}": "border takes a width, a style and a colour",
    "looks: {l: {headings: {background-color: bleu}}}": "background-color takes a colour such as green or '#2f6b3c', not",
    "looks: {l: {whole: {background-color: 'url(https://spy.example/)'}}}": "background-color takes a colour",
    "looks: {l: {each_block: {padding: '1px; } body { color: red'}}}": "padding takes one to four lengths",
    "looks: {l: {each_block: {paddding: 1px}}}": "each_block has no key 'paddding'",
    "looks: {l: {whole: {color: 'var(--x)'}}}": "color takes a colour",
    "looks: {l: {shows_on: [observer]}}": "there is no screen 'observer'",
    "looks: {l: {based_on: m}, m: {based_on: l}}": "the looks go round in a circle",
    "blocks: {b: {text: x}}": "the block b has no kind",
    "blocks: {b: {kind: clock}}": "kind takes one of text, branch-links, menu, links, one-of, not 'clock'",
    "blocks: {b: {kind: text, links: {a: /}}}": "a block of the kind text has no key 'links'",
    "blocks: {b: {kind: links, links: {a: shop}}}": "a link goes to a path of the site or to an address, not 'shop'",
    "blocks: {b: {kind: links, links: {a: 'javascript:1'}}}": "a link goes to a path of the site or to an address",
    "blocks: {a: {kind: one-of, blocks: [b]}, b: {kind: one-of, blocks: [a]}}": "the one-of blocks go round in a circle",
    "blocks: {b: {kind: branch-links, under: /, levels: none}}": "levels takes an integer from 1 to 100, not 'none'",
    "presets: {p: {lock: {menu.show: no}}}": "a preset holds settings, access, deny, label and note, not lock",
    "presets: {p: {because: x}}": "a preset holds settings, access, deny, label and note, not because",
    "presets: {p: {menu.show: no, menu.show: yes}}": "menu.show is set twice",
    "people: {names: [crew], groups: {crew: []}}": "a person and a group share the name crew",
    "people: {names: [owner]}": "no person may be called owner",
    "people: {groups: {crew: [ghost]}}": "there is no person or group 'ghost'",
    "people: {admins: [ghost]}": "there is no person 'ghost'",
    "roles: {view: [edit]}": "no role may be called view: there is an action of that name",
    "roles: {reading: [tending], tending: [view]}": "there is no action 'tending'",
    "actions: [view, read]": "actions lacks edit, which every site has",
    "menu: {max_entries: many}": "max_entries takes an integer from 1 to 1000, not 'many'",
    "sitemap: {leave_out: {menu_hidden: 3}}": "menu_hidden takes yes or no, not '3'",
    "guarantees: [{when: {}}]": "the guarantee has no name",
    "guarantees: [{name: p}]": "the guarantee 'p' guarantees nothing",
    "guarantees: [{name: p, has: {menu.show: often}}]": "menu.show takes yes or no, not 'often'",
    "guarantees: [{name: p, may: {ghost: [view]}}]": "there is no person or group 'ghost'",
    "accept: [{kind: repeats-inherited}]": "the accept has no because",
    "accept: [{because: x}]": "the accept would silence everything",
    "accept: [{kind: no-efect, because: x}]": "kind takes one of lock-overrules",
    "rules: [{name: r, when: {tpye: page}, give: {menu.show: no}}]": "when has no key 'tpye'",
    "rules: [{name: r, when: {type: pgae}, give: {menu.show: no}}]": "there is no type 'pgae'",
    "rules: [{name: r, when: {depth: deep}, give: {menu.show: no}}]": "depth takes a number or a range",
    "rules: [{name: r, when: {in_branch: visit}, give: {menu.show: no}}]": "in_branch takes a path, which starts with /",
    "rules: [{name: r, when: {status: old}, give: {menu.show: no}}]": "status takes live, draft or folder, not 'old'",
    "rules: [{when: {}, give: {menu.show: no}}]": "the rule has no name",
    "rules: [{name: r, give: {menu.show: no}}]": "the rule 'r' has no when",
    "rules: [{name: r, when: {}}]": "the rule 'r' gives nothing",
    "pages: {visit: {here: {menu.show: no}}}": "a page is named by its path, which starts with /, not 'visit'",
    "pages: {/a: {hear: {menu.show: no}}}": "the page /a has no key 'hear'",
    "everywhere: {use: [bare, bold]}": "there is no preset 'bare'",
    "everywhere: {sitemap.priority: {by_depth: {top: 1, floor: 0}}}": "by_depth takes top, step and floor",
    "everywhere: {sitemap.priority: {by_depth: {top: 1, step: -1, floor: 0}}}": "step takes a number that is not negative",
    "everywhere: {sitemap.priority: {by_depth: {top: 7, step: 1, floor: 0}}}": "sitemap.priority takes a number from 0 to 1, not 7",
    "everywhere: {sitemap.priority: .inf}": "sitemap.priority takes a number from 0 to 1, not '.inf'",
    "everywhere: {title.limit: 1.5}": "title.limit takes an integer, at least 0, not '1.5'",
    "everywhere: {access: {everyone: {plus: [view]}}}": "a change of access.everyone takes add, first and remove, not 'plus'",
    "everywhere: {access: {everyone: {add: view}}}": "add takes a list",
    "everywhere: {access: {everyone: [veiw]}}": "action or role 'veiw' is not known",
    "everywhere: {menu.label: [a, b]}": "menu.label takes a text, not a list",
}


@pytest.mark.parametrize("decisions", WRONG)
def test_what_may_not_stand(decisions: str, small: Small) -> None:
    with pytest.raises(davlo.SiteError) as caught:
        davlo.open_site(small(decisions + "\n"))
    told = [fault for fault in caught.value.faults if WRONG[decisions] in fault.what]
    assert told
    assert all(fault.place.file == "davlo.yaml" and fault.place.line >= 3 for fault in told)
