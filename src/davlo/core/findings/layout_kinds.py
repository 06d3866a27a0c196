"""Findings about layouts, themes, and the contents of areas."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

from ..arrays.codebooks import Mask, words_where
from ..arrays.grouping import distinct_numbers
from ..change.steps import CHANGED, Change, Declare, Say
from ..outcomes.areas import CONTENT
from ..site.declarations import Layout, Look, Sidebar
from ..site.scopes import Scope
from ..site.values import Value, shown
from ..wording import count
from .context import FindingContext
from .finding import Finding
from .finding_kind import ALL, FIRST, LAST, setting_kind, site_kind
from .folded_setting import FoldedSetting
from .mending import Remedy, changed, without

STANDING = ("sidebar", "band", "blocks")
TOO_WIDE = 60
"""Sidebars that take more than this many hundredths of the page leave too little."""
MOST_SAID = 8
"""The most statements named."""


def _usual_look(**values: str | tuple[str, ...]) -> Look:
    """The garden's usual look with other values, for examples."""
    usual: dict[str, str | tuple[str, ...]] = {"width": "28", "column_gap": "32", "line": "around"}
    whole = {**usual, "shows_on": ("wide", "tablet", "phone"), **values}
    return Look("usual", CHANGED, values=whole, says=frozenset(whole))


def is_full(value: Value) -> bool:
    """Whether a value puts something into an area."""
    return value not in (None, ())


@setting_kind(
    "no-such-area",
    "warning",
    "layouts",
    meaning="something is set for an area that the page's layout lacks",
    why="Nobody will see it, though it was set as closely as the layout, or more so.",
    mend="Choose a layout that has the area, or set it to none there.",
    takes_away=(("what is set for the area", FIRST),),
)
def no_such_area(context: FindingContext, folded: FoldedSetting) -> Iterator[Finding]:
    """Something is set for an area that the page's layout lacks, in a scope at least as strong as the layout's."""
    site, statements, setting, name = context.site, context.statements, folded.setting, folded.name
    declared = site.catalogue[setting]
    if declared.family not in STANDING:
        return
    layout_number = site.setting_number("layout.name")
    layout, found = context.effective.resolved(layout_number), context.effective.resolved(setting)
    names, layouts = layout.words, site.declarations.layouts
    lacks = layout.where(lambda name: isinstance(name, str) and declared.member not in layouts[name].areas)
    wrong = np.flatnonzero(found.where(is_full) & lacks & (found.source >= 0))
    wrong = wrong[(site.has(setting) & site.has(layout_number))[wrong]]
    wrong = wrong[statements.strength(found.source[wrong]) >= statements.strength(layout.source[wrong])]
    keys = found.source, layout.source, layout.value
    for (source, by, layout_name), pages in context.grouped_by_cause("no-such-area", name, wrong, *keys):
        value = shown(found.at(int(pages[0])))
        chooser = "the built-in value" if by < 0 else f"chosen by {context.where(by)}"
        having = [n for n, declaration in site.declarations.layouts.items() if declared.member in declaration.areas]
        yield Finding(
            "no-such-area",
            "warning",
            name,
            context.paths(pages),
            context.said([source, by]),
            f"{context.where(source)} sets {name} to {value}, but the layout {names[layout_name]}, {chooser}, "
            f"has no area {declared.member}: nobody will see it on {count(len(pages), 'page')}",
            f"set {name} to none there, or choose a layout that has the area: {', '.join(having)}",
        )


@site_kind(
    "area-missing-in-theme",
    "warning",
    "layouts",
    meaning="an area is filled that the page's theme does not show",
    why="The theme shows nothing there, or something else, and the legal line in the footer is gone.",
    mend="Say in the theme what it shows instead, or choose another theme.",
    needs_decision=True,
)
def area_missing_in_theme(context: FindingContext) -> Iterator[Finding]:
    """An area is filled that the page's theme does not show."""
    site, number = context.site, context.site.setting_number("layout.theme")
    theme = context.effective.resolved(number)
    names = theme.words
    for area in site.declarations.areas():
        lacks = np.array(
            [isinstance(name, str) and not site.declarations.themes[name].name_of(area) for name in names], dtype=bool
        )
        if not lacks.any():
            continue
        pages = np.flatnonzero(lacks[theme.value] & site.has(number) & _stands(context, area))
        for (code,), at in context.grouped_by_cause("area-missing-in-theme", "layout.theme", pages, theme.value):
            name, chosen = str(names[code]), distinct_numbers(context.source("layout.theme")[at])
            declared = site.declarations.themes[name]
            yield Finding(
                "area-missing-in-theme",
                "warning",
                "layout.theme",
                context.paths(at),
                context.said(chosen[:MOST_SAID]),
                f"the theme {name} ({declared.place}) does not show the area {area}, which is filled on "
                f"{count(len(at), 'page')}: it {declared.instead_of(area).words}",
                f"no one edit mends it: decide what the theme shows instead (otherwise: {{{area}: …}}), choose another "
                f"theme, or put nothing into {area}",
            )


def _stands(context: FindingContext, area: str) -> Mask:
    """Where something stands in an area: a band, a sidebar, blocks, or the page's own content. bool[pages]"""
    found = context.standing(area)
    stands = np.zeros(len(context.site.tree), dtype=bool)
    for family, codes in (("band", found.band), ("sidebar", found.sidebar), ("blocks", found.blocks)):
        stands |= words_where(context.effective.column(f"{family}.{area}").words, is_full)[codes]
    names = context.effective.column("layout.name").words
    layouts = [context.site.declarations.layouts.get(str(name)) for name in names]
    own = [bool(layout and (layout.blocks.get(area) or (area == CONTENT and layout.own_content))) for layout in layouts]
    stands |= np.array([*own, False], dtype=bool)[found.layout]
    return stands


@setting_kind(
    "band-does-not-fit",
    "error",
    "layouts",
    meaning="a band stands in an area that it does not say it fits",
    why="It was made for another place and may look broken.",
    mend="Choose a band that fits, or add the area to its `fits`.",
    takes_away=(("the band", ALL),),
    example=Change((Say(Scope.here("/visit/maps"), "band.masthead", "footer-legal"),)),
)
def band_does_not_fit(context: FindingContext, folded: FoldedSetting) -> Iterator[Finding]:
    """A band stands in an area it does not say it fits."""
    site, setting = context.site, context.site.catalogue[folded.setting]
    if setting.family != "band":
        return
    words = context.effective.column(setting.name).words
    bands = [site.declarations.bands.get(str(word)) for word in words]
    wrong = np.array([*(bool(band and setting.member not in band.fits) for band in bands), False], dtype=bool)
    if not wrong.any():
        return
    codes, source = context.standing(setting.member).band, context.effective.resolved(folded.setting).source
    for (by, code), pages in context.grouped_by_cause(
        "band-does-not-fit", setting.name, np.flatnonzero(wrong[codes]), source, codes
    ):
        band = bands[code]
        assert band
        fits = ", ".join(band.fits) or "no area"
        yield Finding(
            "band-does-not-fit",
            "error",
            setting.name,
            context.paths(pages),
            context.said([by]),
            f"{context.where(by)} puts the band {band.name} into {setting.member} on {count(len(pages), 'page')}, "
            f"but it says it fits {fits}",
            f"choose a band that fits, or add {setting.member} to fits of {band.name} ({band.place})",
            (
                Remedy(
                    f"say that it fits {setting.member}",
                    Change((Declare(band._replace(fits=(*band.fits, setting.member))),)),
                ),
            ),
        )


@setting_kind(
    "empty-sidebar",
    "warning",
    "layouts",
    meaning="a page shows a sidebar that has no blocks",
    why="A column is kept free for nothing.",
    mend="Give it blocks, or say `blank: yes` if it is meant to be empty.",
    takes_away=(("the sidebar", ALL),),
    example=Change((Declare(Sidebar("whats-on", CHANGED)),)),
)
def empty_sidebar(context: FindingContext, folded: FoldedSetting) -> Iterator[Finding]:
    """A sidebar with no blocks stands on a page, and is not `blank: yes`."""
    site, setting = context.site, context.site.catalogue[folded.setting]
    if setting.family != "sidebar":
        return
    words = context.effective.column(setting.name).words
    sidebars = [site.declarations.sidebars.get(str(word)) for word in words]
    empty = np.array([*(bool(one and not one.blocks and not one.blank) for one in sidebars), False], dtype=bool)
    if not empty.any():
        return
    codes = context.standing(setting.member).sidebar
    for (code,), pages in context.grouped_by_cause("empty-sidebar", setting.name, np.flatnonzero(empty[codes]), codes):
        sidebar = sidebars[code]
        assert sidebar
        sources = sorted(set(context.effective.resolved(folded.setting).source[pages].tolist()))
        yield Finding(
            "empty-sidebar",
            "warning",
            setting.name,
            context.paths(pages),
            context.said(sources[:8]),
            f"the sidebar {sidebar.name} ({sidebar.place}) has no blocks, and {count(len(pages), 'page')} "
            f"{'shows' if len(pages) == 1 else 'show'} it",
            "give it blocks, or say blank: yes if it is meant to be empty",
            (Remedy("say that it is meant to be empty", Change((Declare(sidebar._replace(blank=True)),))),),
        )


@setting_kind(
    "sidebar-on-no-device",
    "warning",
    "layouts",
    meaning="a sidebar is set, and its look shows it on no device",
    why="It is set, and nobody sees it.",
    mend="Name devices in `shows_on` of the look, or set the sidebar to none.",
    takes_away=(("the look", ALL),),
    example=Change((Declare(_usual_look(shows_on=())),)),
)
def sidebar_on_no_device(context: FindingContext, folded: FoldedSetting) -> Iterator[Finding]:
    """A sidebar stands, and its look is shown on no device."""
    site, setting = context.site, context.site.catalogue[folded.setting]
    if setting.family != "look":
        return
    words = context.effective.column(setting.name).words
    looks = [site.declarations.looks.get(str(word)) for word in words]
    hidden = np.array([*(bool(look and look.values.get("shows_on") == ()) for look in looks), False], dtype=bool)
    if not hidden.any():
        return
    found = context.standing(setting.member)
    pages = np.flatnonzero(hidden[found.look] & _has_sidebar(context, setting.member))
    source = context.effective.resolved(folded.setting).source
    for (by, code), at in context.grouped_by_cause("sidebar-on-no-device", setting.name, pages, source, found.look):
        look = looks[code]
        assert look
        yield Finding(
            "sidebar-on-no-device",
            "warning",
            setting.name,
            context.paths(at),
            context.said([by]),
            f"a sidebar stands in {setting.member} on {count(len(at), 'page')}, but its look {look.name}, "
            f"{context.by(by)}, is shown on no device",
            f"name devices in shows_on of {look.name} ({look.place}), or set sidebar.{setting.member} to none",
        )


def _has_sidebar(context: FindingContext, area: str) -> Mask:
    """Where a sidebar stands in an area. bool[pages]"""
    words = context.effective.column(f"sidebar.{area}").words
    mask: Mask = words_where(words, is_full)[context.standing(area).sidebar]
    return mask


@site_kind(
    "phone-order-incomplete",
    "warning",
    "layouts",
    meaning="layout.phone-order leaves out an area that is filled, or names one that the layout lacks",
    why="On a phone what is left out comes last, in the layout's order.",
    mend="Name every area that is filled.",
    takes_away=(("the order", ALL),),
    example=Change((Say(Scope.everywhere(), "layout.phone-order", ("masthead", "content")),)),
)
def phone_order_incomplete(context: FindingContext) -> Iterator[Finding]:
    """`layout.phone-order` leaves out an area that is filled, or names one the layout lacks."""
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
        there = layout.where(lambda name, area=area: isinstance(name, str) and area in layouts[name].areas)  # type: ignore[misc]
        has_layout = layout.where(lambda name: isinstance(name, str))
        wrong[i] = (named & ~there & has_layout) | (~named & _stands(context, area))
    pattern = np.packbits(wrong[:, pages], axis=0).astype(np.int64)
    key = np.zeros(len(site.tree), dtype=np.int64)
    for row in pattern:
        key[pages] = key[pages] * 256 + row
    pages = pages[wrong[:, pages].any(axis=0)]
    for (source, code, _, _), at in context.grouped_by_cause(
        "phone-order-incomplete", setting, pages, order.source, layout.value, order.value, key
    ):
        given = orders[int(order.value[at[0]])]
        assert isinstance(given, tuple)
        amiss = [area for i, area in enumerate(areas) if wrong[i, at[0]]]
        out, extra = [a for a in amiss if a not in given], [a for a in amiss if a in given]
        told = [f"leaves out {', '.join(out)}, which {'is' if len(out) == 1 else 'are'} filled"] if out else []
        told += [f"names {', '.join(extra)}, which the layout {names[code]} lacks"] if extra else []
        whole = [*(area for area in given if area not in extra), *out]
        better = changed(site, "write the whole order", source, tuple(whole))
        yield Finding(
            "phone-order-incomplete",
            "warning",
            setting,
            context.paths(at),
            context.said([source]),
            f"the phone order by {context.where(source)} {' and '.join(told)}, on {count(len(at), 'page')}",
            f"write layout.phone-order: [{', '.join(whole)}]",
            (better,) if better else (),
        )


@site_kind(
    "sidebars-too-wide",
    "warning",
    "layouts",
    meaning="the sidebars take more than 60 per cent of the width",
    why="Too little is left to the content.",
    mend="Choose a narrower look, or take a sidebar away.",
    example=Change(
        (
            Say(Scope.here("/visit/maps"), "layout.name", "three-column"),
            Say(Scope.here("/visit/maps"), "look.left", "usual"),
            Declare(_usual_look(width="35")),
        )
    ),
)
def sidebars_too_wide(context: FindingContext) -> Iterator[Finding]:
    """The widths of the sidebars that stand come to more than 60 per cent."""
    site = context.site
    total = np.zeros(len(site.tree), dtype=np.float64)
    columns = []
    for area in site.declarations.areas():
        words = context.effective.column(f"look.{area}").words
        looks = [site.declarations.looks.get(str(word)) for word in words]
        width = np.array([*(float(str(look.values.get("width", 0))) if look else 0.0 for look in looks), 0.0])
        found = context.standing(area)
        wide = np.where(_has_sidebar(context, area), width[found.look], 0.0)
        if wide.any():
            total += wide
            columns.append((area, found.look, wide))
    pages = np.flatnonzero(total > TOO_WIDE)
    keys = [np.where(wide > 0, look, -1) for _, look, wide in columns]
    for _, at in context.grouped_by_cause("sidebars-too-wide", None, pages, *keys) if len(pages) else ():
        parts = [(area, int(wide[at[0]])) for area, _, wide in columns if wide[at[0]]]
        sources = [int(context.source(f"look.{area}")[at[0]]) for area, _ in parts]
        listed = ", ".join(f"{area} {width}" for area, width in parts)
        pairs = zip(parts, sources, strict=True)
        looks_gone = [without(site, f"the look in {area}", [source]) for (area, _), source in pairs]
        yield Finding(
            "sidebars-too-wide",
            "warning",
            None,
            context.paths(at),
            context.said(sources),
            f"the sidebars of {count(len(at), 'page')} take {int(total[at[0]])} per cent of the width: {listed}",
            "choose a narrower look for one of them, or take one away",
            tuple(filter(None, looks_gone)),
        )


@site_kind(
    "same-sidebar-twice",
    "warning",
    "layouts",
    meaning="a page shows one sidebar in two areas",
    why="Readers see the same blocks twice.",
    mend="Set one of the two to none, or to another sidebar.",
    takes_away=(
        ("the second", LAST),
        ("the first", FIRST),
    ),
    example=Change((Say(Scope.here("/visit/maps"), "layout.name", "three-column"),)),
)
def same_sidebar_twice(context: FindingContext) -> Iterator[Finding]:
    """One sidebar stands in two areas of a page."""
    site = context.site
    areas = [
        area
        for area in site.declarations.areas()
        if context.statements.of_setting(site.setting_number(f"sidebar.{area}"))
    ]
    names = {name: i for i, name in enumerate(site.declarations.sidebars)}
    columns = {area: _sidebar_numbers(context, area, names) for area in areas}
    for i, area in enumerate(areas):
        for other in areas[i + 1 :]:
            pages = np.flatnonzero((columns[area] >= 0) & (columns[area] == columns[other]))
            for (number,), at in context.grouped_by_cause(
                "same-sidebar-twice", f"sidebar.{other}", pages, columns[area]
            ):
                name = list(names)[number]
                sources = [int(context.source(f"sidebar.{one}")[at[0]]) for one in (area, other)]
                yield Finding(
                    "same-sidebar-twice",
                    "warning",
                    f"sidebar.{other}",
                    context.paths(at),
                    context.said(sources),
                    f"the sidebar {name} is shown twice on {count(len(at), 'page')}: "
                    f"in {area} ({context.by(sources[0])}) and in {other} ({context.by(sources[1])})",
                    f"set sidebar.{area} or sidebar.{other} to none there, or to another sidebar",
                )


def _sidebar_numbers(context: FindingContext, area: str, names: dict[str, int]) -> NDArray[np.int64]:
    """The sidebar that stands in an area as a number; -1: none. int64[pages]"""
    words = context.effective.column(f"sidebar.{area}").words
    numbers = np.array([*(names.get(str(word), -1) for word in words), -1])
    found: NDArray[np.int64] = numbers[context.standing(area).sidebar]
    return found


@site_kind(
    "blank-page",
    "warning",
    "layouts",
    meaning="a page shows neither its own content nor a block in `content`",
    why="Its layout does not show what was written, and shows nothing in its place.",
    mend="Put blocks into `blocks.content`, or choose another layout.",
    needs_decision=True,
    example=Change(
        (
            Declare(
                Layout(
                    "record-page", CHANGED, own_content=False, based_on="two-column", says=frozenset(("own_content",))
                )
            ),
        )
    ),
)
def blank_page(context: FindingContext) -> Iterator[Finding]:
    """Own content is not shown, and nothing stands in `content`."""
    site, number = context.site, context.site.setting_number("layout.name")
    layout = context.effective.resolved(number)
    names = layout.words
    chosen = layout.where(lambda name: isinstance(name, str)) & site.has(number)
    empty = chosen & ~_stands(context, CONTENT) if CONTENT in site.declarations.areas() else chosen
    for (source, code), at in context.grouped_by_cause(
        "blank-page", "layout.name", np.flatnonzero(empty), layout.source, layout.value
    ):
        yield Finding(
            "blank-page",
            "warning",
            "layout.name",
            context.paths(at),
            context.said([source]),
            f"{count(len(at), 'page')} {'shows' if len(at) == 1 else 'show'} nothing in content: the layout "
            f"{names[code]}, {context.by(source)}, does not show the page's own, and shows no block there",
            "no one edit mends it: decide which blocks blocks.content holds, or choose a layout that shows the "
            "page's own content",
        )


@setting_kind(
    "idle-look",
    "note",
    "layouts",
    meaning="a look is set where there is no sidebar",
    why="It does nothing there.",
    mend="Take it away, or give the pages a sidebar.",
    takes_away=(("the look", ALL),),
    is_idle=True,
    example=Change((Say(Scope.everywhere(), "look.left", "pinned"),)),
)
def idle_look(context: FindingContext, folded: FoldedSetting) -> Iterator[Finding]:
    """A look is set, and no sidebar stands there on any page that the statement reaches."""
    setting, statements = context.site.catalogue[folded.setting], context.statements
    if setting.family != "look":
        return
    stands = _has_sidebar(context, setting.member)
    words = statements.words[folded.setting].items
    span = statements.of_setting(folded.setting)
    some = np.arange(span.start, span.stop)
    full = words_where(words, is_full)[statements.value[some]]
    some = some[full & context.effects.reaches[some]]
    some = some[context.none_in(some, stands)]
    pages, idle = context.cells(some), some.tolist()
    if idle and context.any_not_accepted("idle-look", setting.name, pages):
        yield Finding(
            "idle-look",
            "note",
            setting.name,
            context.paths(pages),
            context.said(idle),
            f"{count(len(idle), 'statement')} of {setting.name} ({statements.place(idle[0])}) "
            f"{'sets' if len(idle) == 1 else 'set'} the look of a sidebar where there is none",
            f"take it away, or give these pages a sidebar.{setting.member}",
        )
