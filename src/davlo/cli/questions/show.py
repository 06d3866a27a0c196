"""`davlo show`: what a page gets, and from where; several pages beside each other; what a new page would get."""

from __future__ import annotations

import shlex
from collections.abc import Sequence
from typing import TYPE_CHECKING

import click

from davlo.core.change.steps.new_page import new_page_view
from davlo.core.faults import UnknownName
from davlo.core.outcomes.access.access_model import AccessModel
from davlo.core.outcomes.areas import OWN_CONTENT, AreaContent
from davlo.core.outcomes.page_view import PageView, SettingOfPage, page_view
from davlo.core.outcomes.placeholders import HEADING
from davlo.core.site.settings.values import format_value, json_value, marked
from davlo.core.wording import NOT_SHOWN, OTHER

from ..command_list import answers
from ..options import complete_page, format_option, open_named_site, site_option
from ..screen import Columns, Styled, as_csv, as_json, heading, listing, paragraph, say, table
from .new_page import NewPage, new_page_options, who_may_create
from .viewpoints import show_viewpoints

if TYPE_CHECKING:
    from davlo.site import Site

SETTING_COLUMNS = ("setting", "value", "source", "where")
SAME = ""


@answers(
    "show",
    "davlo show /visit/tickets",
    "davlo show /visit/tickets /visit/shop",
    "davlo show --viewpoints",
    "davlo show --viewpoints --against HEAD~1",
    "davlo show --new /visit/picnic --type event",
)
@click.argument("pages", metavar="PAGE...", nargs=-1, shell_complete=complete_page)
@click.option("--viewpoints", is_flag=True, help="Show what the viewers see that davlo.yaml lists under viewpoints.")
@click.option(
    "--against",
    metavar="STATE",
    help="With --viewpoints: only what differs from another site folder, or a revision of git.",
)
@new_page_options
@click.option("--all", "everything", is_flag=True, help="Also list settings left at their built-in value.")
@format_option("text", "csv", "json")
@site_option
def command(
    pages: tuple[str, ...],
    viewpoints: bool,
    against: str | None,
    new: NewPage | None,
    everything: bool,
    form: str,
    site: str | None,
) -> None:
    """First what a reader sees; then each setting with its value, its source and its line. Several pages are shown
    side by side, with differences marked. With --new: what a page would get that is not there yet. With --viewpoints:
    what each viewpoint of davlo.yaml sees, of all pages or of the ones named.
    """
    if viewpoints:
        if new is not None or everything:
            raise click.UsageError("--viewpoints shows pages that are there: leave out --new and --all")
        show_viewpoints(pages, against, form, site)
        return
    if against is not None:
        raise click.UsageError("--against goes with --viewpoints; whole sites are compared by davlo compare")
    if not pages and new is None:
        raise click.UsageError("name a page by its path or title")
    opened = open_named_site(site)
    effective = opened.resolve()
    views = [page_view(effective, page) for page in _pages(opened, pages)]
    if new is not None:
        path = new.path(opened)
        views.append(new_page_view(opened, path, new.details_at(path), new.by))
    if form == "json":
        records = [_record(view, everything) for view in views]
        as_json(records[0] if len(records) == 1 else records)
    elif len(views) > 1:
        _beside(views, everything, form)
    elif form == "csv":
        rows = [
            [
                one.name,
                format_value(one.value),
                str(one.source.scope),
                one.source.where,
                "no" if one.not_shown else "yes",
            ]
            for one in _chosen(views[0], everything)
        ]
        as_csv((*SETTING_COLUMNS, "shown"), rows)
    else:
        _one(views[0], everything, is_new=new is not None)
        if new is not None:
            for line in who_may_create(effective.shared(AccessModel), opened.tree.find(views[0].parent), new.by):
                say(line)
        if not everything:
            say()
            say("Settings at their built-in value are hidden. To see them:")
            say(f"  davlo show {shlex.join(new.words if new else (views[0].path,))} --all")


def _pages(site: Site, words: Sequence[str]) -> list[int]:
    """The pages that words name. If all the words together are a title, the error says to put it in quotes."""
    try:
        return [site.find_page(each) for each in words]
    except UnknownName as error:
        whole = " ".join(words)
        if len(words) > 1 and site.details.title.mask([whole]).any():
            hint = f"put the title in quotes: davlo show {shlex.quote(whole)}"
            raise UnknownName(error.what, error.word, (), hint) from None
        raise


def _chosen(view: PageView, everything: bool) -> Sequence[SettingOfPage]:
    return view.settings if everything else view.said()


def _one(view: PageView, everything: bool, is_new: bool) -> None:
    """One page for a person."""
    say(Styled(view.path), "  " + view.details.get("title", ""))
    say(_details(view) + (", not there yet" if is_new else ""))
    heading("What a reader sees" if not is_new else "What a reader would see")
    table(["", ""], _outcomes(view), indent="  ")
    heading("Settings")
    rows: list[Sequence[str]] = []
    group = ""
    for setting in _chosen(view, everything):
        if setting.group != group:
            group = setting.group
            rows.append([f"{group}:", "", "", ""])
        name, *rest = _row(setting)
        rows.append([f"  {name}", *rest])
    table(SETTING_COLUMNS, rows, indent="  ", columns=Columns(names=(0,)))
    not_shown = [setting for setting in _chosen(view, everything) if setting.not_shown]
    if not_shown:
        say()
    for setting in not_shown:
        paragraph(f"{setting.name}: {setting.not_shown}", f"{NOT_SHOWN} ", "  ")
    if is_new:
        say()
        say("This holds once the page's row is in the page list and its stamps are in stamps.csv.")
        for name, value in view.by_hand.items():
            told = format_value(value) or "nothing"
            say(f"A row typed by hand, without stamps: {name} is {told}")


def _row(setting: SettingOfPage) -> list[str]:
    value = marked(setting.value) + (f" {NOT_SHOWN}" if setting.not_shown else "")
    return [setting.name, value, str(setting.source.scope), setting.source.where]


def _details(view: PageView) -> str:
    details = view.details
    told = [view.type, details["status"], f"under {view.parent}" if view.parent else "at the top"]
    told += [details["language"]] if "language" in details else []
    told += [f"tags: {details['tags']}"] if "tags" in details else []
    told += [f"translates {details['translates']}"] if "translates" in details else []
    return ", ".join(told)


def _outcomes(view: PageView) -> list[tuple[str, str]]:
    """What a reader and a search engine meet on a page, as (what, how)."""
    outcomes, found = view.outcomes, view.outcomes.composition
    rows = [
        ("document title", outcomes.title),
        ("heading", _heading(view)),
        ("menu", _menu(view)),
        ("sitemap", "listed" if outcomes.in_sitemap else f"left out: {outcomes.not_in_sitemap}"),
        *(("in the head", tag) for tag in view.head_tags),
    ]
    if found.layout is None:
        return [*rows, ("areas", "none: the page has no layout")]
    theme = f", theme {found.theme.name}" if found.theme else ""
    rows.append(("layout", f"{found.layout.name}, {found.width}{theme}"))
    rows += [(f"area {area.area}", _area(area)) for area in found.areas]
    if found.phone != found.layout.areas:
        rows.append(("on a phone", ", ".join(found.phone)))
    return rows


def _heading(view: PageView) -> str:
    """What the headings of the page say, or which blocks provide them."""
    headings = view.outcomes.headings
    told = [f'"{view.outcomes.heading}"' if one == HEADING else f"provided by the block {one}" for one in headings]
    if len(told) > 1:
        return f"{len(told)} of them: {', '.join(told)}"
    if told:
        return told[0]
    is_hidden = any(one.name == "heading.show" and one.value is False for one in view.settings)
    why = "heading.show is no" if is_hidden else "heading.text comes to nothing"
    return f"none: {why}, and no block on the page provides one"


def _menu(view: PageView) -> str:
    outcomes = view.outcomes
    if not outcomes.in_menu:
        return f"not shown: {outcomes.not_in_menu}"
    shown = f'shown as "{outcomes.label}"'
    return shown if outcomes.visitor_may_view else f"{shown} to those who may view the page; a visitor may not"


def _area(area: AreaContent) -> str:
    parts = ["the page's own content" if kind == OWN_CONTENT else f"{kind} {name}" for kind, name in area.stands]
    told = ", ".join(parts) or "nothing"
    if not area.theme_name:
        return f"{told} (the theme does not show this area: it {area.instead.words})"
    if area.theme_name != area.area:
        told += f" (the theme calls it {area.theme_name})"
    return told


def _beside(views: list[PageView], everything: bool, form: str) -> None:
    """Pages beside each other, a row a detail, an outcome, a setting."""
    parts: list[tuple[str, list[dict[str, str]]]] = [
        ("details", [{"title": v.details.get("title", ""), "type": v.type, **_other_details(v)} for v in views]),
        ("what a reader sees", [dict(_outcomes(view)) for view in views]),
    ]
    told = {one.name for view in views for one in _chosen(view, everything)}
    for group in dict.fromkeys(one.group for view in views for one in view.settings):
        here = [[s for s in view.settings if s.group == group and s.name in told] for view in views]
        parts.append((group, [{s.name: _value(s) for s in settings} for settings in here]))
    rows, differing = [], 0
    for group, columns in parts:
        names = list(dict.fromkeys(name for column in columns for name in column))
        rows += [["", f"{group}:", *[""] * len(views)]] if names and form == "text" else []
        for name in names:
            cells = [column.get(name, "-") for column in columns]
            differs = len(set(cells)) > 1
            differing += differs
            rows.append([OTHER if differs else SAME, f"  {name}" if form == "text" else name, *cells])
    header = ["", "", *(view.path for view in views)]
    if form == "csv":
        listing(form, ["differs", "what", *header[2:]], rows)
        return
    table(header, rows)
    say()
    say(f"* differs; - is not there. {differing} of {sum(bool(row[-1]) for row in rows)} differ.")


def _other_details(view: PageView) -> dict[str, str]:
    return {"under": view.parent, **{n: f for n, f in view.details.items() if n not in ("title", "type", "parent")}}


def _value(setting: SettingOfPage) -> str:
    value = marked(setting.value) + (f" {NOT_SHOWN}" if setting.not_shown else "")
    return f"{value} ({setting.source.scope})" if setting.source.file else value


def _record(view: PageView, everything: bool) -> dict[str, object]:
    from davlo.frames.table import outcome_record

    settings = {
        one.name: {
            "value": json_value(one.value),
            "source": str(one.source.scope),
            "file": one.source.file or None,
            "line": one.source.line or None,
            "locked": one.source.locked,
            "shown": not one.not_shown,
            "not shown because": one.not_shown or None,
        }
        for one in _chosen(view, everything)
    }
    return {
        "path": view.path,
        "title": view.details.get("title", ""),
        "type": view.details["type"],
        "outcomes": outcome_record(view.outcomes),
        "head": [*view.head_tags],
        "settings": settings,
    }
