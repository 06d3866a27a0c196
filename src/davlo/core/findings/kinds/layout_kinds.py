"""Findings about layouts, themes, and the contents of areas."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np
from numpy.typing import NDArray

from ...arrays.grouping import distinct_numbers
from ...change.steps.change import CHANGED, Change, Declare, Say
from ...outcomes.areas import CONTENT
from ...outcomes.shown_things import OF_SHOWN
from ...resolve.item_sources import item_sources
from ...site.declarations import Layout
from ...site.settings.scopes import Scope
from ...site.settings.values import shown
from ...wording import count
from ..bound_kind import MOST_SAID, BoundKind
from ..context import FindingContext
from ..finding import Finding
from ..finding_kind import ALL, FIRST, setting_kind, site_kind
from ..folded_setting import FoldedSetting
from ..mending import Remedy, changed
from .filled_areas import declared_where, filled, is_full

STANDING = ("sidebar", "band", "blocks")


@setting_kind(
    "no-such-area",
    "warning",
    "layouts",
    families=STANDING,
    depends_on=("layout.name", "declarations"),
    of_values=True,
    meaning="something is set for an area that the page's layout lacks",
    why="Nobody will see it, though it was set as closely as the layout, or more so.",
    mend="Choose a layout that has the area, or set it to none there.",
    takes_away=(("what is set for the area", FIRST),),
    has_exception=True,
)
def no_such_area(context: FindingContext, kind: BoundKind, folded: FoldedSetting) -> Iterator[Finding]:
    """Something is set for an area that the page's layout lacks, in a scope at least as strong as the layout's."""
    site, statements, setting, name = context.site, context.statements, folded.setting, folded.name
    declared = site.catalogue[setting]
    layout_number = site.setting_number("layout.name")
    layout, found = context.effective.resolved(layout_number), context.effective.resolved(setting)
    names, layouts = layout.words, site.declarations.layouts
    lacks = layout.where(lambda name: isinstance(name, str) and layouts[name].lacks(declared.member))
    wrong = np.flatnonzero(found.where(is_full) & lacks & (found.source >= 0))
    wrong = wrong[(site.has(setting) & site.has(layout_number))[wrong]]
    wrong = wrong[statements.strength(found.source[wrong]) >= statements.strength(layout.source[wrong])]
    keys = context.source(name), context.source("layout.name"), layout.value
    for (source, by, layout_name), pages in kind.grouped(wrong, *keys):
        value = shown(found.at(int(pages[0])))
        chooser = "the built-in value" if by < 0 else f"chosen by {context.where(by)}"
        having = [n for n, declaration in site.declarations.layouts.items() if declared.member in declaration.areas]
        yield kind.finding(
            pages,
            [source, by],
            f"{context.where(source)} sets {name} to {value}, but the layout {names[layout_name]}, {chooser}, "
            f"has no area {declared.member}: nobody will see it on {count(len(pages), 'page')}",
            f"set {name} to none there, or choose a layout that has the area: {', '.join(having)}",
        )


@site_kind(
    "area-missing-in-theme",
    "warning",
    "layouts",
    depends_on=OF_SHOWN,
    of_values=True,
    setting="layout.theme",
    meaning="an area has content, and the page's theme does not show it (an error if a lock fills it)",
    why="The theme shows nothing there, or something else: readers do not see what was put into the area. A lock says "
    "that it must be there.",
    mend="Say in the theme what it shows instead, or choose another theme.",
    needs_decision=True,
)
def area_missing_in_theme(context: FindingContext, kind: BoundKind) -> Iterator[Finding]:
    """An area has content, and the page's theme does not show it."""
    site, number = context.site, context.site.setting_number("layout.theme")
    theme = context.effective.resolved(number)
    names = theme.words
    for area in site.declarations.areas():
        lacks = np.array(
            [isinstance(name, str) and not site.declarations.themes[name].name_of(area) for name in names], dtype=bool
        )
        if not lacks.any():
            continue
        pages = np.flatnonzero(lacks[theme.value] & site.has(number) & filled(context, area))
        locked = _locked_in(context, area)
        for (code, is_locked), at in kind.grouped(pages, theme.value, locked):
            name, chosen = str(names[code]), distinct_numbers(context.source("layout.theme")[at])
            declared = site.declarations.themes[name]
            yield kind.finding(
                at,
                chosen[:MOST_SAID],
                f"the theme {name} ({declared.place}) does not show the area {area}, which "
                f"{'a lock fills' if is_locked else 'is filled'} on {count(len(at), 'page')}: "
                f"it {declared.instead_of(area).words}",
                f"no single edit mends it: decide what the theme shows instead (if_missing: {{{area}: …}}), "
                f"choose another "
                f"theme, or put nothing into {area}",
                level="error" if is_locked else "",
                about=[f"theme {name}", f"area {area}", "locked" if is_locked else "not locked"],
            )


def _locked_in(context: FindingContext, area: str) -> NDArray[np.int64]:
    """Where a lock fills an area: 1, else 0. int64[pages]"""
    locked = np.zeros(len(context.site.tree), dtype=np.int64)
    for family in STANDING:
        found = context.effective.column(f"{family}.{area}")
        holds = found.where(is_full) & np.append(context.statements.locked, False)[found.source]
        locked |= holds
    return locked


@setting_kind(
    "band-does-not-fit",
    "error",
    "layouts",
    families=("band",),
    depends_on=("layout.name", "declarations"),
    of_values=True,
    meaning="a band stands in an area that it does not say it fits",
    why="It was made for another place and may look broken.",
    mend="Choose a band that fits, or add the area to its `fits`.",
    takes_away=(("the band", ALL),),
    example=Change((Say(Scope.here("/visit/maps"), "band.masthead", "footer-legal"),)),
    has_exception=True,
)
def band_does_not_fit(context: FindingContext, kind: BoundKind, folded: FoldedSetting) -> Iterator[Finding]:
    """A band stands in an area it does not say it fits."""
    site, setting = context.site, context.site.catalogue[folded.setting]
    declared = site.declarations.bands
    bands, wrong = declared_where(context, setting.name, declared, lambda band: setting.member not in band.fits)
    if not wrong.any():
        return
    codes = context.standing(setting.member).band
    for (by, code), pages in kind.grouped(np.flatnonzero(wrong[codes]), context.source(setting.name), codes):
        band = bands[code]
        assert band
        fits = ", ".join(band.fits) or "no area"
        yield kind.finding(
            pages,
            [by],
            f"{context.where(by)} puts the band {band.name} into {setting.member} on {count(len(pages), 'page')}, "
            f"but it says it fits {fits}",
            f"choose a band that fits, or add {setting.member} to fits of {band.name} ({band.place})",
            Remedy(
                f"say that it fits {setting.member}",
                Change((Declare(band._replace(fits=(*band.fits, setting.member))),)),
            ),
        )


@site_kind(
    "phone-order-incomplete",
    "warning",
    "layouts",
    depends_on=OF_SHOWN,
    of_values=True,
    setting="layout.phone-order",
    meaning="layout.phone-order leaves out an area that is filled, or names one that the layout lacks",
    why="On a phone what is left out comes last, in the layout's order.",
    mend="Name every area that is filled.",
    takes_away=(("the order", ALL),),
    example=Change((Say(Scope.everywhere(), "layout.phone-order", ("masthead", "content")),)),
)
def phone_order_incomplete(context: FindingContext, kind: BoundKind) -> Iterator[Finding]:
    """`layout.phone-order` leaves out an area that has content, or names one that the layout lacks."""
    site, setting = context.site, "layout.phone-order"
    number, layout_number = site.setting_number(setting), site.setting_number("layout.name")
    order, layout = context.effective.resolved(number), context.effective.resolved(layout_number)
    orders, names, layouts = order.words, layout.words, site.declarations.layouts
    pages = np.flatnonzero(order.where(bool) & site.has(number) & site.has(layout_number))
    if not len(pages):
        return
    areas = site.declarations.areas()
    wrong = np.zeros((len(areas), len(site.tree)), dtype=bool)
    for i, area in enumerate(areas):
        named = order.where(lambda word, area=area: isinstance(word, tuple) and area in word)  # type: ignore[misc]
        there = layout.where(lambda name, area=area: isinstance(name, str) and not layouts[name].lacks(area))  # type: ignore[misc]
        has_layout = layout.where(lambda name: isinstance(name, str))
        wrong[i] = (named & ~there & has_layout) | (~named & filled(context, area))
    pattern = np.packbits(wrong[:, pages], axis=0).astype(np.int64)
    key = np.zeros(len(site.tree), dtype=np.int64)
    for row in pattern:
        key[pages] = key[pages] * 256 + row
    pages = pages[wrong[:, pages].any(axis=0)]
    for (source, code, _, _), at in kind.grouped(pages, context.source(setting), layout.value, order.value, key):
        given = orders[int(order.value[at[0]])]
        assert isinstance(given, tuple)
        amiss = [area for i, area in enumerate(areas) if wrong[i, at[0]]]
        out, extra = [a for a in amiss if a not in given], [a for a in amiss if a in given]
        told = [f"leaves out {', '.join(out)}, which {'is' if len(out) == 1 else 'are'} filled"] if out else []
        told += [f"names {', '.join(extra)}, which the layout {names[code]} lacks"] if extra else []
        whole = [*(area for area in given if area not in extra), *out]
        better = changed(site, "write the whole order", source, tuple(whole))
        said = source if out else _naming(context, number, extra, at, source)
        yield kind.finding(
            at,
            [said],
            f"the phone order by {context.where(said)} {' and '.join(told)}, on {count(len(at), 'page')}",
            f"write layout.phone-order: [{', '.join(whole)}]",
            better,
        )


def _naming(context: FindingContext, number: int, areas: Sequence[str], pages: NDArray[np.int64], source: int) -> int:
    """The statement that named the first of some areas on some pages, which need not be the last of the list."""
    named = item_sources(context.effective, number, areas[0], context.site.scope_pages)[pages]
    return int(named[0]) if len({*named.tolist()}) == 1 and named[0] >= 0 else source


@site_kind(
    "blank-page",
    "warning",
    "layouts",
    depends_on=OF_SHOWN,
    of_values=True,
    setting="layout.name",
    meaning="a page shows neither its own content nor a block in `content`",
    why="Its layout does not show what was written, and shows nothing in its place.",
    mend="Put blocks into `blocks.content`, or choose another layout.",
    needs_decision=True,
    example=Change((Declare(Layout("record-page", CHANGED, based_on="two-column", own={"own_content": False})),)),
)
def blank_page(context: FindingContext, kind: BoundKind) -> Iterator[Finding]:
    """Own content is not shown, and nothing stands in `content`."""
    site, number = context.site, context.site.setting_number("layout.name")
    layout = context.effective.resolved(number)
    names = layout.words
    chosen = layout.where(lambda name: isinstance(name, str)) & site.has(number)
    empty = chosen & ~filled(context, CONTENT) if CONTENT in site.declarations.areas() else chosen
    for (source, code), at in kind.grouped(np.flatnonzero(empty), context.source("layout.name"), layout.value):
        yield kind.finding(
            at,
            [source],
            f"{count(len(at), 'page')} {'shows' if len(at) == 1 else 'show'} nothing in content: the layout "
            f"{names[code]}, {context.by(source)}, does not show the page's own, and shows no block there",
            "no single edit mends it: decide which blocks blocks.content holds, or choose a layout that shows the "
            "page's own content",
        )
