"""`davlo show`: what a page gets, and from where; several pages beside each other; what a new page would get."""

from __future__ import annotations

import shlex
from collections.abc import Sequence
from typing import TYPE_CHECKING

import click

from davlo.core.change.steps.new_page import new_page_record
from davlo.core.faults import UnknownName
from davlo.core.outcomes.access.access_model import AccessModel
from davlo.core.records.outcome_fields import HEAD, MAY
from davlo.core.records.page_record import page_record
from davlo.core.records.record import PageRecord
from davlo.core.records.settings_of_page import SettingOfPage
from davlo.core.site.declarations import ALL_SCREENS
from davlo.core.site.people import VISITOR
from davlo.core.site.settings.values import format_value, json_value, marked
from davlo.core.wording import NOT_SHOWN, NOTHING, OTHER

from ..command_list import answers
from ..completion.offers import complete_page, complete_revision
from ..options import find_viewer, format_option, open_named_site, site_option, viewer_option
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
    "davlo show /visit/tickets --screen phone --as ida.marsh",
    "davlo show --viewpoints",
    "davlo show --viewpoints --against HEAD~1",
    "davlo show --new /visit/picnic --type event",
)
@click.argument("pages", metavar="PAGE...", nargs=-1, shell_complete=complete_page)
@click.option("--viewpoints", is_flag=True, help="Show what the viewers see that davlo.yaml lists under viewpoints.")
@click.option(
    "--against",
    metavar="FOLDER-OR-REVISION",
    shell_complete=complete_revision,
    help="With --viewpoints: only what differs from another site folder, or a revision of git.",
)
@viewer_option(
    f"Show what this viewer meets (default: {VISITOR}): a person, visitor, signed-in, or a group. Repeat it to see "
    "viewers side by side.",
    is_repeatable=True,
)
@click.option("--screen", type=click.Choice(ALL_SCREENS), help="Show only what areas show on this screen.")
@new_page_options
@click.option("--all", "everything", is_flag=True, help="Also list settings left at their built-in value.")
@format_option("text", "csv", "json")
@site_option
def command(
    pages: tuple[str, ...],
    viewpoints: bool,
    against: str | None,
    who: tuple[str, ...],
    screen: str | None,
    new: NewPage | None,
    everything: bool,
    form: str,
    site: str | None,
) -> None:
    """First what a reader sees; then each setting with its value, its source and its line. Several pages are shown
    side by side, with differences marked. With --new: what a page would get that is not there yet. With --as:
    what this viewer meets. With --viewpoints: what each viewpoint of davlo.yaml sees, of all pages or of the ones
    named.
    """
    if viewpoints:
        if new is not None or everything:
            raise click.UsageError("--viewpoints shows pages that are there: leave out --new and --all")
        if who or screen:
            raise click.UsageError("--viewpoints names the viewers itself: leave out --as and --screen")
        show_viewpoints(pages, against, form, site)
        return
    if against is not None:
        raise click.UsageError("--against goes with --viewpoints; whole sites are compared by davlo compare")
    if not pages and new is None:
        raise click.UsageError("name a page by its path or title")
    if form == "csv" and (who or screen) and len(pages) == 1:
        raise click.UsageError("--format csv lists settings, which are the same for all: leave out --as and --screen")
    opened = open_named_site(site)
    effective, viewers = opened.resolve(), tuple(find_viewer(opened, one) for one in who) or (VISITOR,)
    met = [(one, screen or "") for one in viewers]
    views = [page_record(effective, page, viewer=one, screen=on) for page in _pages(opened, pages) for one, on in met]
    if new is not None:
        path = new.path(opened)
        new_details = new.details_at(opened, path)
        views += [new_page_record(opened, path, new_details, new.by, *one) for one in met]
    if form == "json":
        records = [_record(view, everything) for view in views]
        as_json(records[0] if len(records) == 1 else records)
    elif len(views) > 1:
        _beside(views, everything, form, bool(who))
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
        _one(views[0], everything, bool(who), is_new=new is not None)
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


def _chosen(view: PageRecord, everything: bool) -> Sequence[SettingOfPage]:
    return view.settings if everything else view.said()


def _one(view: PageRecord, everything: bool, tells_rights: bool, is_new: bool) -> None:
    """One page for a person."""
    say(Styled(view.path), "  " + view.details.get("title", ""))
    say(details_in_words(view) + (", not there yet" if is_new else ""))
    heading(_met(view, is_new))
    table(["", ""], _lines(view, tells_rights), indent="  ")
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


def _met(view: PageRecord, is_new: bool) -> str:
    """The heading of what the viewer meets."""
    who = "a reader" if view.viewer == VISITOR else view.viewer
    on = f" on a {view.screen}{' screen' if view.screen == 'wide' else ''}" if view.screen else ""
    return f"What {who} {'would see' if is_new else 'sees'}{on}"


def _lines(view: PageRecord, tells_rights: bool) -> list[tuple[str, str]]:
    """What the viewer meets. If the viewer was named, also what they may do; and nothing else if they see nothing."""
    may = view.of(MAY)
    if tells_rights and "view" not in may:
        return [("may", f"{', '.join(may) or NOTHING}: does not see this page")]
    return [*([("may", ", ".join(may))] if tells_rights else []), *view.lines()]


def _row(setting: SettingOfPage) -> list[str]:
    value = marked(setting.value) + (f" {NOT_SHOWN}" if setting.not_shown else "")
    return [setting.name, value, str(setting.source.scope), setting.source.where]


def details_in_words(view: PageRecord) -> str:
    """The type, the status, the page above, and what else the page list says, in one line."""
    details = view.details
    told = [view.type, details["status"], f"under {view.parent}" if view.parent else "at the top"]
    told += [details["language"]] if "language" in details else []
    told += [f"tags: {details['tags']}"] if "tags" in details else []
    told += [f"translates {details['translates']}"] if "translates" in details else []
    return ", ".join(told)


def _beside(views: list[PageRecord], everything: bool, form: str, tells_rights: bool) -> None:
    """Pages beside each other, a row a detail, an outcome, a setting."""
    parts: list[tuple[str, list[dict[str, str]]]] = [
        ("details", [{"title": v.details.get("title", ""), "type": v.type, **_other_details(v)} for v in views]),
        ("what a reader sees", [dict(_lines(view, tells_rights)) for view in views]),
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
    are_same = len({view.viewer for view in views}) == 1
    header = ["", "", *(view.path if are_same else f"{view.path} as {view.viewer}" for view in views)]
    if form == "csv":
        listing(form, ["differs", "what", *header[2:]], rows)
        return
    table(header, rows)
    say()
    say(f"* differs; - is not there. {differing} of {sum(bool(row[-1]) for row in rows)} differ.")


def _other_details(view: PageRecord) -> dict[str, str]:
    return {"under": view.parent, **{n: f for n, f in view.details.items() if n not in ("title", "type", "parent")}}


def _value(setting: SettingOfPage) -> str:
    value = marked(setting.value) + (f" {NOT_SHOWN}" if setting.not_shown else "")
    return f"{value} ({setting.source.scope})" if setting.source.file else value


def _record(view: PageRecord, everything: bool) -> dict[str, object]:
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
        "viewer": view.viewer,
        "outcomes": view.as_json("outcomes"),
        "head": [*(view.of(HEAD) or ())],
        "settings": settings,
    }
