"""Findings about sidebars and their looks."""

from __future__ import annotations

from collections.abc import Iterator, Mapping

import numpy as np
from numpy.typing import NDArray

from ...arrays.codebooks import words_where
from ...arrays.grouping import distinct_numbers
from ...change.steps.change import CHANGED, Change, Declare, Say
from ...outcomes.areas import BAND, SIDEBAR
from ...outcomes.shown_things import OF_SHOWN, Fillings
from ...site.declarations import ALL_SCREENS, Band, Look, Sidebar
from ...site.settings.scopes import Scope
from ...wording import count
from ..bound_kind import MOST_SAID, BoundKind
from ..context import FindingContext
from ..finding import Finding
from ..finding_kind import ALL, FIRST, LAST, setting_kind, site_kind
from ..folded_setting import FoldedSetting
from ..mending import Remedy, without
from .filled_areas import declared_where, has_sidebar, has_sidebar_or_band, is_full

TOO_WIDE = 60
"""Sidebars that take more than this many hundredths of the page leave too little."""


def _usual_look(width: str = "28%", shows_on: tuple[str, ...] = ALL_SCREENS) -> Look:
    """The garden's usual look, of another width or on other screens, for examples."""
    whole = {"width": width, "margin-inline-start": "32px", "border": "1px solid"}
    return Look("usual", CHANGED, own={"shows_on": shows_on, "whole": whole})


@setting_kind(
    "empty-sidebar",
    "warning",
    "layouts",
    families=(SIDEBAR, BAND),
    depends_on=("layout.name", "declarations", "menu.show", "access"),
    meaning="a sidebar or band stands on a page and shows nothing there to any reader",
    why="Room is kept free for nothing.",
    mend="Give it blocks that show something there; a sidebar that is meant to be empty says `blank: yes`.",
    takes_away=(("what puts it there", ALL),),
    example=Change((Declare(Sidebar("whats-on", CHANGED)),)),
    has_exception=True,
)
def empty_sidebar(context: FindingContext, kind: BoundKind, folded: FoldedSetting) -> Iterator[Finding]:
    """A sidebar or band stands on a page, is not `blank: yes`, and has no block with anything to show there."""
    site, setting = context.site, context.site.catalogue[folded.setting]
    words = context.effective.column(setting.name).words
    codes = getattr(context.standing(setting.member), setting.family)
    records: Mapping[str, Sidebar | Band] = (
        site.declarations.sidebars if setting.family == SIDEBAR else site.declarations.bands
    )
    empty = context.effective.shared(Fillings).empty(setting.family, words, codes)
    for (code,), pages in kind.grouped(np.flatnonzero(empty), codes):
        declared = records[str(words[code])]
        what, number = f"the {setting.family} {declared.name} ({declared.place})", count(len(pages), "page")
        told = f"no block of {what} has anything to show on {number}"
        if not declared.blocks:
            told = f"{what} has no blocks, and {number} {'has' if len(pages) == 1 else 'have'} it"
        ways, blank = [], ""
        if isinstance(declared, Sidebar):
            meant = Change((Declare(declared._replace(blank=True)),))
            ways, blank = [Remedy("say that it is meant to be empty", meant)], ", or say blank: yes if it is meant so"
        sources = distinct_numbers(context.source(setting.name)[pages])[:MOST_SAID]
        yield kind.finding(
            pages,
            sources,
            told,
            f"give it blocks that show something there{blank}",
            *ways,
            about=[f"{setting.family} {declared.name}"],
        )


@setting_kind(
    "sidebar-on-no-screen",
    "warning",
    "layouts",
    families=("look",),
    depends_on=OF_SHOWN,
    of_values=True,
    meaning="a sidebar or band stands on a page, and its look shows it on no screen",
    why="It is set, and nobody sees it.",
    mend="Name screens in `shows_on` of the look, or set the sidebar or band to none.",
    takes_away=(("the look", ALL),),
    example=Change((Declare(_usual_look(shows_on=())),)),
)
def sidebar_on_no_screen(context: FindingContext, kind: BoundKind, folded: FoldedSetting) -> Iterator[Finding]:
    """A sidebar or band stands, and its look is shown on no screen."""
    site, setting = context.site, context.site.catalogue[folded.setting]
    declared = site.declarations.looks
    looks, hidden = declared_where(context, setting.name, declared, lambda look: not look.shows_on)
    if not hidden.any():
        return
    found = context.standing(setting.member)
    pages = np.flatnonzero(hidden[found.look] & has_sidebar_or_band(context, setting.member))
    for (by, code), at in kind.grouped(pages, context.source(setting.name), found.look):
        look = looks[code]
        assert look
        yield kind.finding(
            at,
            [by],
            f"a sidebar or band stands in {setting.member} on {count(len(at), 'page')}, but its look {look.name}, "
            f"{context.by(by)}, shows it on no screen",
            f"name screens in shows_on of {look.name} ({look.place}), or leave the area {setting.member} empty",
        )


@site_kind(
    "sidebars-too-wide",
    "warning",
    "layouts",
    depends_on=OF_SHOWN,
    meaning="the sidebars take more than 60 per cent of the width",
    why="Too little is left to the content.",
    mend="Choose a narrower look, or take a sidebar away.",
    example=Change(
        (
            Say(Scope.here("/visit/maps"), "layout.name", "three-column"),
            Say(Scope.here("/visit/maps"), "look.left", "usual"),
            Declare(_usual_look("35%")),
        )
    ),
)
def sidebars_too_wide(context: FindingContext, kind: BoundKind) -> Iterator[Finding]:
    """The widths of the sidebars that stand come to more than 60 per cent."""
    site = context.site
    total = np.zeros(len(site.tree), dtype=np.float64)
    columns = []
    for area in site.declarations.areas():
        words = context.effective.column(f"look.{area}").words
        looks = [site.declarations.looks.get(str(word)) for word in words]
        width = np.array([*((look.width or 0.0) if look else 0.0 for look in looks), 0.0])
        found = context.standing(area)
        wide = np.where(has_sidebar(context, area), width[found.look], 0.0)
        if wide.any():
            total += wide
            columns.append((area, found.look, wide))
    pages = np.flatnonzero(total > TOO_WIDE)
    keys = [np.where(wide > 0, look, -1) for _, look, wide in columns]
    for _, at in kind.grouped(pages, *keys) if len(pages) else ():
        parts = [(area, int(wide[at[0]])) for area, _, wide in columns if wide[at[0]]]
        sources = [int(context.source(f"look.{area}")[at[0]]) for area, _ in parts]
        listed = ", ".join(f"{area} {width}" for area, width in parts)
        pairs = zip(parts, sources, strict=True)
        looks_gone = [without(site, f"the look in {area}", [source]) for (area, _), source in pairs]
        yield kind.finding(
            at,
            sources,
            f"the sidebars of {count(len(at), 'page')} take {int(total[at[0]])} per cent of the width: {listed}",
            "choose a narrower look for one of them, or take one away",
            *looks_gone,
        )


@site_kind(
    "same-sidebar-twice",
    "warning",
    "layouts",
    depends_on=OF_SHOWN,
    meaning="a page shows one sidebar in two areas",
    why="Readers see the same blocks twice.",
    mend="Set one of the two to none, or to another sidebar.",
    takes_away=(("the second", LAST), ("the first", FIRST)),
    example=Change((Say(Scope.here("/visit/maps"), "layout.name", "three-column"),)),
    has_exception=True,
)
def same_sidebar_twice(context: FindingContext, kind: BoundKind) -> Iterator[Finding]:
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
            of_area = kind.of(f"sidebar.{other}")
            for (number,), at in of_area.grouped(pages, columns[area]):
                name = list(names)[number]
                sources = [int(context.source(f"sidebar.{one}")[at[0]]) for one in (area, other)]
                yield of_area.finding(
                    at,
                    sources,
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


@setting_kind(
    "stray-look",
    "note",
    "layouts",
    families=("look",),
    depends_on=OF_SHOWN,
    of_values=True,
    meaning="a look is set where no sidebar and no band stands",
    why="It does nothing there.",
    mend="Take it away, or give the pages a sidebar or a band.",
    takes_away=(("the look", ALL),),
    is_redundant=True,
    example=Change((Say(Scope.everywhere(), "look.left", "pinned"),)),
)
def stray_look(context: FindingContext, kind: BoundKind, folded: FoldedSetting) -> Iterator[Finding]:
    """A look is set, and no sidebar or band stands there on any page that the statement reaches."""
    setting, statements = context.site.catalogue[folded.setting], context.statements
    filled = has_sidebar_or_band(context, setting.member)
    words = statements.words[folded.setting].items
    span = statements.of_setting(folded.setting)
    some = np.arange(span.start, span.stop)
    full = words_where(words, is_full)[statements.value[some]]
    some = some[full & context.effects.reaches[some]]
    some = some[context.none_in(some, filled)]
    pages, redundant = context.cells(some), some.tolist()
    if redundant and kind.reports(pages):
        yield kind.finding(
            pages,
            redundant,
            f"{count(len(redundant), 'statement')} of {setting.name} ({statements.place(redundant[0])}) "
            f"{'sets' if len(redundant) == 1 else 'set'} a look where no sidebar and no band stands",
            f"take it away, or set sidebar.{setting.member} or band.{setting.member} on these pages",
            about=(),
        )
