"""Findings about names: missing ones, and declarations that nothing names."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence

import numpy as np
from numpy.typing import NDArray

from ...arrays.codebooks import distinct
from ...arrays.grouping import groups
from ...change.steps.change import CHANGED, Adjust, Change, Declare, RenameDetail, Say, SetDetail, SetSite, Undeclare
from ...faults import Place
from ...outcomes.shown_things import OF_SHOWN
from ...site.declarations import SECTIONS
from ...site.pages.details import STANDARD
from ...site.pages.types import Type
from ...site.settings.catalogue import Adjustment
from ...site.settings.near_names import near_name, near_text
from ...site.settings.scopes import Scope, ScopeKind
from ...site.settings.setting import Setting
from ...site.settings.values import format_value
from ...wording import count, some_of
from ..bound_kind import MOST_SAID, NO_PAGES, BoundKind
from ..context import FindingContext
from ..finding import Finding, Said
from ..finding_kind import ALL, site_kind
from ..mending import FEW, Remedy

AS_WRITTEN = ("title", "language", "tags")
"""Details whose cells are not checked, so that any column may become them."""
NAME = re.compile(r"[a-z0-9]+(?:[.-][a-z0-9]+)*")
"""What a type may be called."""


def _declaration_said(kind: str, name: str, place: Place) -> Said:
    return Said(f"{kind} {name}", place.file, place.line, name)


@site_kind(
    "stray-stamp",
    "note",
    "decisions",
    meaning="stamps of a setting whose default is for all pages",
    why="Somebody expects the pages to keep these values. They follow the defaults.",
    mend="Take the stamps away, or make the default one for new pages.",
    takes_away=(("the stamps", ALL),),
    is_redundant=True,
    example=Change((Say(Scope.stamp("/visit"), "title.limit", 40),)),
)
def stray_stamp(context: FindingContext, kind: BoundKind) -> Iterator[Finding]:
    """Stamps of a setting whose default is for all pages."""
    statements, site = context.statements, context.site
    live = np.array([setting.default_for != "new-pages" for setting in site.catalogue.settings], dtype=bool)
    at = np.flatnonzero((statements.scope == ScopeKind.STAMP) & live[statements.setting])
    for (setting,), rows in groups(statements.setting[at]):
        name, said = site.catalogue[setting].name, at[rows]
        pages = statements.target[said][statements.target[said] >= 0]
        of_setting = kind.of(name)
        if of_setting.reports(pages):
            yield of_setting.finding(
                pages,
                said.tolist(),
                f"{count(len(said), 'stamp')} of {name} ({statements.place(int(said[0]))}) "
                f"{'does' if len(said) == 1 else 'do'} nothing: its default is for all pages",
                f"take them away, or make its default one for new pages: "
                f"settings: {{{name}: {{default_for: new-pages}}}}",
                Remedy(
                    "make the default one for new pages", Change((Adjust(name, Adjustment(default_for="new-pages")),))
                ),
                about=(),
            )


@site_kind(
    "misspelt-column",
    "warning",
    "decisions",
    meaning="a column of the page list is nearly, but not quite, named as a detail or a setting",
    why="Davlo reads columns by their exact names. A column with a slip in its name holds a detail of the "
    "site's own, so "
    "what it says of titles, drafts or settings is not heeded.",
    mend="Name the column exactly as the detail or the setting, or give it a name that is less like it.",
    example=Change((RenameDetail("made_with", "menu_show"),)),
)
def misspelt_column(context: FindingContext, kind: BoundKind) -> Iterator[Finding]:
    """A column of the page list is nearly, but not quite, named as a detail or a setting."""
    site = context.site
    settings = site.catalogue.names()
    for column in site.details.columns:
        if column in STANDARD:
            continue
        near = near_name(column, STANDARD) or near_name(column, settings)
        of_kind = kind.of(near) if near in settings else kind
        if near and of_kind.reports(NO_PAGES):
            yield of_kind.finding(
                NO_PAGES,
                (Said("page_list", site.page_list, 1, column),),
                f"the column {column} of {site.page_list} is nearly named as the "
                f"{'setting' if near in settings else 'detail'} {near}, and is not read as that",
                f"name the column {near}, if that was meant; else give it a name that is less like it",
                *_renamed(context, column, near),
            )


def _renamed(context: FindingContext, column: str, name: str) -> Iterator[Remedy]:
    """The way that names a column rightly; none where the page list has that column too, or its cells must be read."""
    site, statements = context.site, context.statements
    if name in STANDARD:
        if name in AS_WRITTEN and site.details.is_blank(name):
            yield Remedy(f"name the column {name}, so that it is read as that", Change((RenameDetail(column, name),)))
        return
    cells = statements.of_setting(site.setting_number(name), ScopeKind.HERE)
    if site.page_list not in {statements.place(number).file for number in cells}:
        yield Remedy(f"name the column {name}, so that its cells set it", Change((RenameDetail(column, name),)))


@site_kind(
    "undeclared-type",
    "warning",
    "decisions",
    depends_on=("types",),
    meaning="pages have a type that nobody declared",
    why="An undeclared type is based on nothing: its pages do not get what is set for `page` or any other type.",
    mend="Declare the type and what it is based on, or mend the slip in the page list.",
)
def undeclared_type(context: FindingContext, kind: BoundKind) -> Iterator[Finding]:
    """Pages have a type that is not declared; those that are no slip for another are gathered."""
    site = context.site
    unknown = np.array([name not in site.types.declared and name != "page" for name in site.types.names], dtype=bool)
    pages = np.flatnonzero(unknown[site.details.type_of])
    rest: list[tuple[str, NDArray[np.int64]]] = []
    for (number,), at in kind.grouped(pages, site.details.type_of):
        name = site.types.names[number]
        near = near_text(name, [*site.types.declared])
        if near:
            yield _of_types(context, kind, [(name, at)], near)
        else:
            rest.append((name, at))
    if rest:
        yield _of_types(context, kind, sorted(rest, key=lambda one: -len(one[1])))


def _of_types(
    context: FindingContext, kind: BoundKind, types: Sequence[tuple[str, NDArray[np.int64]]], near: str = ""
) -> Finding:
    pages, name = np.concatenate([at for _, at in types]), types[0][0]
    has = "has" if len(pages) == 1 else "have"
    told = f"the type {name}" if len(types) == 1 else f"one of {len(types)} types"
    listed = "" if len(types) == 1 else f": {some_of([f'{one} ({len(at):,})' for one, at in types])}"
    get = "so it does not" if len(pages) == 1 else "so they do not"
    first = f"write {near} in the page list, if that was meant, or " if near else ""
    return kind.finding(
        pages,
        (_of_page(context, int(types[0][1][0]), name),),
        f"{count(len(pages), 'page')} {has} {told} that nobody declared, {get} get what is set for other types{listed}",
        f"{first}declare {'it' if len(types) == 1 else 'them'}: types: {{{name}: {{based_on: page}}}}",
        *_typed(context, pages, [one for one, _ in types], near),
    )


def _typed(context: FindingContext, pages: NDArray[np.int64], names: list[str], near: str) -> Iterator[Remedy]:
    """The ways to mend undeclared types: replace each by the type that was probably meant, or declare them."""
    site = context.site
    if near and len(pages) <= FEW:
        details = tuple(SetDetail(site.tree.paths[page], "type", near) for page in pages.tolist())
        yield Remedy(f"write {near}: the pages then get what is set for that type", Change(details))
    if all(map(NAME.fullmatch, names)):
        steps = tuple(Declare(Type(name, CHANGED, based_on="page")) for name in names)
        told = names[0] if len(names) == 1 else f"these {len(names)} types"
        yield Remedy(f"declare {told}, based on page: the pages then get what is set for page", Change(steps))


def _of_page(context: FindingContext, page: int, value: str) -> Said:
    """What the page list says of a page."""
    return Said("page_list", context.site.page_list, int(context.site.tree.line[page]), value)


@site_kind(
    "unknown-language",
    "warning",
    "decisions",
    depends_on=(),
    meaning="pages have a language that the site does not list",
    why="Rules on languages, addresses and alternates in the sitemap go by the list of the site.",
    mend="Add the language to the site's list, or mend the page list.",
    example=Change((SetDetail("/visit", "language", "de"),)),
)
def unknown_language(context: FindingContext, kind: BoundKind) -> Iterator[Finding]:
    """Pages have a language that the site does not list; where it lists none, any will do."""
    site = context.site
    if not site.languages:
        return
    language = site.details.language
    pages = np.flatnonzero(language.where([bool(word) and word not in site.languages for word in language.words]))
    for (code,), at in kind.grouped(pages, language.codes):
        word = language.words[code]
        yield kind.finding(
            at,
            (_of_page(context, int(at[0]), word),),
            f"{count(len(at), 'page')} {'is' if len(at) == 1 else 'are'} in the language {word}, "
            f"which the site does not list ({', '.join(site.languages)})",
            f"add {word} to languages in davlo.yaml, or mend the page list's column language",
            Remedy(f"add {word} to the site's languages", Change((SetSite("languages", (*site.languages, word)),))),
        )


@site_kind(
    "missing-value",
    "warning",
    "decisions",
    depends_on=("own",),
    meaning="a live page has nothing for a setting that is required",
    why="Readers see a gap: the site said that each page of the type should have something here.",
    mend="Fill the page list's column, or give a default.",
    needs_decision=True,
)
def missing_value(context: FindingContext, kind: BoundKind) -> Iterator[Finding]:
    """A required setting of the site's own is built in, empty or none on a live page that has it."""
    site = context.site
    for setting in range(len(site.catalogue)):
        name = site.catalogue[setting].name
        if not site.catalogue[setting].required:
            continue
        found = context.effective.resolved(setting)
        empty = found.where(lambda word: word in (None, "", ()))
        missing = (empty | (found.source < 0)) & site.has(setting) & site.details.live
        of_setting = kind.of(name)
        for (source,), at in of_setting.grouped(np.flatnonzero(missing), context.source(name)):
            pages = count(len(at), "live page")
            yield of_setting.finding(
                at,
                [source],
                f"{pages} {'has' if len(at) == 1 else 'have'} no {name}, which is required"
                if source < 0
                else f"{name}, which is required, is left empty by {context.where(source)} on {pages}",
                f"no single edit mends it: decide what these pages have, and fill the page list's column {name}, "
                "or give a default",
            )


@site_kind(
    "unused-declaration",
    "note",
    "structure",
    meaning="a declaration that no statement and no other declaration names",
    why="Declarations that nobody uses make the list of those that are used hard to read.",
    mend="Take it away, or use it.",
)
def unused_declaration(context: FindingContext, kind: BoundKind) -> Iterator[Finding]:
    """A declaration that no statement and no declaration names."""
    if not kind.reports(NO_PAGES):
        return
    site, mentions = context.site, context.mentions
    for section in SECTIONS:
        for name, record in site.declarations.of(section).items():
            if not mentions.names(section, name) and record.place.file not in site.file_notes.shared:
                yield _unused(context, kind, section, name, record.place)
    for name in site.people.groups:
        if not mentions.names("group", name) and site.people.places[name].file not in site.file_notes.shared:
            yield _unused(context, kind, "group", name, site.people.places[name])


def _unused(context: FindingContext, kind: BoundKind, section: str, name: str, place: Place) -> Finding:
    return kind.finding(
        NO_PAGES,
        [_declaration_said(section, name, place)],
        f"the {section} {name} ({place}) is named by no statement and no other declaration",
        "take it away, or use it",
        *_without_declaration(context, section, name),
    )


def _without_declaration(context: FindingContext, section: str, name: str) -> Iterator[Remedy]:
    """The way to take a declaration away; none for the only layout with an area, since settings are named after it."""
    layouts = context.site.declarations.layouts
    others = {area for layout in layouts.values() if layout.name != name for area in layout.areas}
    if section != "layout" or others.issuperset(layouts[name].areas):
        yield Remedy(f"take away the {section}", Change((Undeclare(section, name),)))


@site_kind(
    "unused-setting",
    "note",
    "structure",
    meaning="a setting of the site's own that no statement sets",
    why="Every page has the built-in value, so the setting distinguishes nothing.",
    mend="Say it somewhere, or take the setting away.",
    example=Change((Declare(Setting("picture-credit", "text", "", own=True)),)),
)
def unused_setting(context: FindingContext, kind: BoundKind) -> Iterator[Finding]:
    """A setting of the site's own that no statement sets."""
    for setting in context.site.catalogue.settings:
        number = context.site.setting_number(setting.name)
        is_shared = setting.place.file in context.site.file_notes.shared
        if setting.own and not is_shared and not len(context.statements.of_setting(number)):
            of_setting = kind.of(setting.name)
            if not of_setting.reports(NO_PAGES):
                continue
            yield of_setting.finding(
                NO_PAGES,
                (Said("settings", *setting.place[:2], setting.name),),
                f"{setting.name} ({setting.place}) is declared, and no statement sets it: every page has "
                f"{format_value(setting.built_in) or 'nothing'}",
                "take it away, or set it somewhere",
                *_undeclared(context, setting),
            )


def _undeclared(context: FindingContext, setting: Setting) -> Iterator[Remedy]:
    """The way that takes a setting's declaration away; none if a type, a preset, a guarantee or an accept names it."""
    if not context.mentions.names("setting", setting.name):
        yield Remedy("take away the setting", Change((Undeclare("setting", setting.name),)))


@site_kind(
    "unread-setting",
    "warning",
    "structure",
    depends_on=("own", *OF_SHOWN),
    meaning="a setting of the site's own that is set, and that nothing shows",
    why="People fill it in for nothing: none of those pages has what `used_by` names.",
    mend="Put what shows it on the pages, or name in `used_by` what does.",
    needs_decision=True,
    example=Change(
        (
            Declare(Setting("picture-credit", "text", "", own=True)),
            Say(Scope.everywhere(), "picture-credit", "Sefa Moana"),
        )
    ),
)
def unread_setting(context: FindingContext, kind: BoundKind) -> Iterator[Finding]:
    """A setting of the site's own that is set, and whose `used_by` is empty or shows on no page where it is set."""
    site, statements = context.site, context.statements
    for setting in site.catalogue.settings:
        number = site.setting_number(setting.name)
        if not setting.own or not len(statements.of_setting(number)):
            continue
        pages = np.flatnonzero((context.effective.resolved(number).source >= 0) & site.has(number))
        shown = context.uses.showing(setting)
        of_setting = kind.of(setting.name)
        if not len(pages) or shown[pages].any() or not of_setting.reports(pages):
            continue
        source = context.effective.resolved(number).source[pages].astype(np.int64)
        users = ", ".join(setting.used_by)
        why = (
            f"{users} {'shows' if len(setting.used_by) == 1 else 'show'} on none of them"
            if users
            else "used_by names nothing"
        )
        yield of_setting.finding(
            pages,
            source[np.sort(distinct(source)[0])][:MOST_SAID].tolist(),  # in the order of the tree
            f"{setting.name} is set on {count(len(pages), 'page')}, but not shown there: {why}",
            f"no single edit mends it: decide where {users} should stand, and put it on these pages"
            if users
            else "no single edit mends it: decide what shows it, and name that: "
            f"settings: {{{setting.name}: {{used_by: […]}}}}",
            about=(),
        )
