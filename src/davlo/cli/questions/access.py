"""`davlo access`: who may do what, and what a person sees."""

from __future__ import annotations

from typing import TYPE_CHECKING

import click
import numpy as np
from numpy.typing import NDArray

from davlo.core.outcomes.access.access_changes import OWNER
from davlo.core.outcomes.access.access_model import AccessModel
from davlo.core.outcomes.access.rights_by_page import rights_by_page
from davlo.core.outcomes.menus.menu_order import menu_order
from davlo.core.outcomes.menus.outline import outline
from davlo.core.progress import each
from davlo.core.site.people import VISITOR
from davlo.core.site.settings.values import format_value
from davlo.core.site.source import source_of
from davlo.core.wording import NOTHING, count, shortened
from davlo.words.layout import indented

from ..command_list import answers
from ..completion.offers import complete_action, complete_page
from ..options import (
    find_viewer,
    format_option,
    open_named_site,
    page_argument,
    site_option,
    two_viewers,
    viewer_option,
)
from ..screen import Columns, Styled, as_csv, as_json, heading, listing, paragraph, say, table
from .access_changes import print_changes
from .new_page import NewPage, new_page_options, who_may_create

if TYPE_CHECKING:
    from davlo.core.change.differences.viewer_difference import ViewerDifference
    from davlo.site import Site

MOST = 30
"""The most pages on a screen without --all."""
MOST_WAYS, EXAMPLES, TITLE_WIDTH, MOST_GROUPS = 3, 3, 32, 8
Pages = NDArray[np.int64]


@answers(
    "access",
    "davlo access",
    "davlo access /staff/noticeboard --as visitor",
    "davlo access --who-may edit --in-branch /staff",
    "davlo access --as visitor",
)
@page_argument(required=False)
@viewer_option(
    "Show what this viewer may do: a person, visitor, signed-in, or a group (somebody in that group alone). Say it "
    "twice to see where two viewers may do different things.",
    is_repeatable=True,
)
@click.option(
    "--changes", is_flag=True, help="Only pages on which somebody may do more or less than on the page above."
)
@new_page_options
@click.option(
    "--who-may",
    "action",
    metavar="ACTION",
    shell_complete=complete_action,
    help="List who may do this action, on how many pages, and why.",
)
@click.option(
    "--in-branch", "branch", metavar="PAGE", shell_complete=complete_page, help="Only this page and all pages below it."
)
@click.option(
    "--all", "everything", is_flag=True, help=f"With --as or --changes: list every page, even more than {MOST}."
)
@format_option("text", "csv", "json")
@site_option
def command(
    page: str | None,
    who: tuple[str, ...],
    action: str | None,
    branch: str | None,
    changes: bool,
    new: NewPage | None,
    everything: bool,
    form: str,
    site: str | None,
) -> None:
    """With PAGE: the access settings of that page, and what each person may do there. With --as: the pages that a
    person sees, and what they may do on each; with --as twice: where two may do different things. With both: each
    action on that page, and why. With neither: on how many pages each person may act. With --changes: where in the
    tree somebody gains or loses an action.
    """
    if new is not None and (page is not None or branch is not None or action is not None or changes):
        raise click.UsageError("--new tells of one page: leave out other pages, --in-branch, --who-may and --changes")
    if changes and (who or action is not None):
        raise click.UsageError("--changes is about everybody: leave out --as and --who-may")
    if changes and page is not None:
        page, branch = None, page  # davlo access /staff --changes
    if page is not None and branch is not None:
        raise click.UsageError("name a page, or with --in-branch a branch, not both")
    if who and action is not None:
        raise click.UsageError("--who-may is about everyone: leave out --as")
    opened = open_named_site(site)
    made = -1
    if new is not None:
        opened, made = new.grown(opened)
    access = opened.resolve().shared(AccessModel)
    who = tuple(find_viewer(opened, one) for one in who)
    top = -1 if branch is None else opened.find_page(branch)
    if len(who) > 1:
        if new is not None:
            raise click.UsageError("--new is shown for one viewer: say --as once")
        from davlo.core.change.differences.viewer_difference import ViewerDifference

        among = np.zeros(len(opened.tree), dtype=bool)
        among[menu_order(opened, top) if page is None else [opened.find_page(page)]] = True
        _between(ViewerDifference(access.effective, *two_viewers(who), among), form, everything)
    elif new is not None:
        if not who:
            _on_page(opened, access, made, form)
        else:
            _decisions(opened, access, made, who[0], form)
        if form == "text":
            _about_new(access, made, new)
    elif changes:
        print_changes(access, menu_order(opened, top) if top >= 0 else np.arange(len(opened.tree)), form, everything)
    elif action is not None:
        _who_may(access, action, menu_order(opened, top) if page is None else np.array([opened.find_page(page)]), form)
    elif page is not None:
        number = opened.find_page(page)
        if not who:
            _on_page(opened, access, number, form)
        else:
            _decisions(opened, access, number, who[0], form)
    elif who:
        _seen_by(access, who[0], menu_order(opened, top), form, None if everything else MOST)
    else:
        if top >= 0 and form == "text":
            _by_page(access, menu_order(opened, top), None if everything else MOST)
        _overview(access, menu_order(opened, top), form)


def _between(found: ViewerDifference, form: str, everything: bool) -> None:
    """Where two viewers may do different things."""
    from davlo.words.viewers import viewer_sections, viewer_title

    from .compare_viewers import viewer_record, viewer_rows
    from .sections import print_parts

    if form == "json":
        as_json(viewer_record(found, ("access",)))
    elif form == "csv":
        as_csv(("path", "what", found.one, found.other), viewer_rows(found, ("access",)))
    else:
        title, numbers = viewer_title(found, ("access",))
        say(title)
        paragraph(numbers, "", "  ")
        print_parts(viewer_sections(found, ("access",)), everything)


def _people(access: AccessModel) -> list[str]:
    return [VISITOR, *access.site.people.names]


def _by_page(access: AccessModel, pages: Pages, most: int | None) -> None:
    """Who may do what on the pages of a branch, exceptions first."""
    found, paths = rights_by_page(access, pages), access.site.tree.paths
    rows = []
    for one in found[:most]:
        alike: dict[tuple[str, ...], list[str]] = {}
        for who, actions in one.rights:
            alike.setdefault(actions, []).append({OWNER: "its owner", VISITOR: "a visitor"}.get(who, who))
        told = "; ".join(f"{', '.join(some)}: {', '.join(actions) or NOTHING}" for actions, some in alike.items())
        more = f" and {len(one.pages) - 1:,} more" if len(one.pages) > 1 else ""
        rows.append(
            [f"{len(one.pages):,}", told or "admins alone", f"{paths[int(one.pages[0])]}{more}", str(one.source)]
        )
    title = "Who may do what" + (", exceptions first" if len(found) > 1 else "")
    admins = ", ".join(access.site.people.admins)
    say(f"{title} ({f'{admins} may do everything' if admins else 'the site has no admins'}):")
    say()
    table(["pages", "who may what", "which", "decided by"], rows, columns=Columns(paths=(2,), cut=(1,), names=(0,)))
    if len(rows) < len(found):
        say(f"and {count(len(found) - len(rows), 'more row')}: add --all")
    say()


def _overview(access: AccessModel, pages: Pages, form: str) -> None:
    """On how many of some pages each person may act."""
    actions = access.site.actions
    rows = []
    people, sizes = _people(access), access.classes.sizes(pages)
    for who in each("working out who may do what", people):
        numbers = [int(sizes[access.classes.may(who, action)].sum()) for action in actions]
        told: list[object] = [*numbers]
        if form == "text":
            told = [f"{number:,}".rjust(len(action)) for number, action in zip(numbers, actions, strict=True)]
        rows.append([who, *told, _how(access, who)])
    if form == "text":
        say(f"On how many of {count(len(pages), 'page')} each may act:")
        say()
    listing(form, ["who", *actions, "groups"], rows)


def _who_may(access: AccessModel, action: str, pages: Pages, form: str) -> None:
    """Who may do an action on some pages, and through which statements."""
    grants = access.who_may(action, pages)
    if form != "text":
        rows = [
            [grant.who, grant.pages, subject, *((str(source.scope), source.where) if source else ("", ""))]
            for grant in grants
            for subject, source, _ in grant.through or (("an admin", None, 0),)
        ]
        listing(form, ["who", "pages", "through", "source", "where"], rows)
        return
    lines: list[list[str]] = []
    for grant in grants:
        told = [f"access.{subject} ({source})" for subject, source, _ in grant.through[:MOST_WAYS]]
        more = len(grant.through) - MOST_WAYS
        through = "; ".join(told) + (f" and {more} more" if more > 0 else "")
        lines.append([grant.who, f"{grant.pages:,}", through or "an admin"])
    if lines:
        table(["who", "pages", "through"], lines)
        say()
    on = f"some of {len(pages):,} pages" if len(pages) > 1 else access.site.tree.paths[int(pages[0])]
    say(f"{len(grants) or 'nobody'} may {action} {on}")


def _seen_by(access: AccessModel, who: str, pages: Pages, form: str, most: int | None) -> None:
    """The tree as someone sees it, what they may do there, and what is closed to them."""
    site = access.site
    may = {action: access.may(who, action) for action in each("working out what they may do", site.actions)}
    seen = pages[may["view"][pages]]
    shown = outline(site.tree, seen, most=most if form == "text" else None)
    titles = site.details.title.take(shown.pages).texts()
    told = [[action for action in site.actions if may[action][page]] for page in shown.pages.tolist()]
    if form != "text":
        paths = site.tree.paths.take(shown.pages).tolist()
        rows = [[path, title, ", ".join(a)] for path, title, a in zip(paths, titles, told, strict=True)]
        listing(form, ["page", "title", "may"], rows)
        return
    tails = indented(site.tree, shown)
    rows = [
        [tail, shortened(title, TITLE_WIDTH), ", ".join(a)] for tail, title, a in zip(tails, titles, told, strict=True)
    ]
    _print_exceptions(access, who, seen)
    if rows:
        table(["page", "title", "may"], rows, columns=Columns(paths=(0,), cut=(1,)))
        say()
    more = (
        ""
        if len(seen) == len(shown.pages)
        else f"; {len(shown.pages):,} shown: name a branch with --in-branch, or say --all"
    )
    number = f"{len(seen):,}" if len(seen) else "none"
    say(f"{site.people.in_words(who)} sees {number} of {count(len(pages), 'page')}{more}")
    for cause in access.closed(who, pages):
        is_one = len(cause.pages) == 1
        by = "is a draft, which" if is_one else "are drafts, which"
        by += " only those who may edit it see" if is_one else " only those who may edit them see"
        if cause.source:
            by = f"closed at {cause.source.file}:{cause.source.line} ({cause.source.scope})"
            by = by if cause.source.file else "closed, since nobody opens them"
        examples = site.tree.paths.take(cause.pages[:EXAMPLES]).tolist()
        rest = " …" if len(cause.pages) > EXAMPLES else ""
        paragraph(f"{count(len(cause.pages), 'page')} {by}: {', '.join(examples)}{rest}", "  ", "    ")


def _print_exceptions(access: AccessModel, who: str, seen: Pages) -> None:
    """Where someone may do something else than on most of the pages that they see; the fewest pages first."""
    site, groups = access.site, dict[tuple[str, ...], list[Pages]]()
    for one in np.unique(access.classes.of[seen]).tolist():
        actions = tuple(action for action in site.actions if access.classes.may(who, action)[one])
        groups.setdefault(actions, []).append(seen[access.classes.of[seen] == one])
    pages = sorted(((actions, np.concatenate(some)) for actions, some in groups.items()), key=lambda one: len(one[1]))
    if len(pages) < 2:
        return
    say(f"On most of these pages, {len(pages[-1][1]):,}: {', '.join(pages[-1][0])}. Otherwise:")
    for actions, some in pages[:-1][:MOST_GROUPS]:
        ordered = site.tree.paths.take(np.sort(some)[:EXAMPLES]).tolist()
        rest = f" and {len(some) - EXAMPLES:,} more" if len(some) > EXAMPLES else ""
        paragraph(f"{', '.join(actions)} on {count(len(some), 'page')}: {', '.join(ordered)}{rest}", "  ", "    ")
    if len(pages) - 1 > MOST_GROUPS:
        say(f"  and {len(pages) - 1 - MOST_GROUPS} more groups of pages: --format csv has each page")
    say()


def _on_page(site: Site, access: AccessModel, page: int, form: str) -> None:
    said = []
    kind = int(site.details.type_of[page])
    numbers = [number for number in site.catalogue.access_numbers() if site.has_by_type[number, kind]]
    for number in each("working out who may do what", numbers, lambda n: site.catalogue[n].name):
        value = format_value(access.effective.value(page, number))
        source = source_of(site, int(access.effective.resolved(number).source[page]))
        if source.file or value:
            said.append([site.catalogue[number].name, value or NOTHING, str(source.scope), source.where])
    owner, group = (access.effective.column(f"page.{what}").at(page) for what in ("owner", "group"))
    people = each("working out what each may do", _people(access))
    may = [[who, ", ".join(access.actions(who, page)) or NOTHING, _how(access, who)] for who in people]
    if form == "csv":
        as_csv(["who", "may", "groups"], may)
    elif form == "json":
        as_json(
            {
                "path": site.tree.paths[page],
                "owner": owner,
                "group": group,
                "said": [dict(zip(("setting", "actions", "source", "where"), row, strict=True)) for row in said],
                "may": {who: list(access.actions(who, page)) for who in _people(access)},
            }
        )
    else:
        say(Styled(site.tree.paths[page]), "  " + site.details.title[page])
        say(f"owner: {owner or 'none'}; group: {group or 'none'}")
        heading("What is said here")
        table(["setting", "actions", "source", "where"], said, indent="  ", columns=Columns(names=(0,)))
        heading("What each may do")
        table(["who", "may", "groups"], may, indent="  ")
        if site.details.draft[page]:
            say()
            say("The page is a draft: it is seen only by those who may also edit it.")


def _about_new(access: AccessModel, page: int, new: NewPage) -> None:
    say()
    say("The page is not there yet: this holds once its row is in the page list and its stamps are in stamps.csv.")
    for line in who_may_create(access, int(access.site.tree.parent[page]), new.by):
        say(line)


def _how(access: AccessModel, who: str) -> str:
    return "an admin" if access.site.people.is_admin(who) else ", ".join(access.site.people.groups_of(who))


def _decisions(site: Site, access: AccessModel, page: int, who: str, form: str) -> None:
    rows = []
    for action in site.actions:
        decision = access.why(who, action, page)
        rows.append([action, "yes" if decision.may else "no", decision.reason])
    if form == "text":
        say(f"{site.people.in_words(who)} on ", Styled(site.tree.paths[page]), ":")
        say()
    listing(form, ["action", "may", "because"], rows)
