"""`--new`: a page that is not there yet, with its details, as `show`, `picture` and `access` take it."""

from __future__ import annotations

import functools
from collections.abc import Mapping
from typing import TYPE_CHECKING, Any, NamedTuple

import click

from davlo.core.change.steps.new_page import details_by_neighbours, with_page

from ..completion.offers import complete_detail, complete_person, complete_type
from ..options import Command, typed, typed_cell
from ..screen import note

if TYPE_CHECKING:
    from davlo.core.outcomes.access.access_model import AccessModel
    from davlo.site import Site

HIDDEN = ("kind", "title", "details", "is_draft", "by")


class NewPage(NamedTuple):
    """A page that is not there yet, as it was typed."""

    name: str
    details: Mapping[str, str]
    by: str
    words: tuple[str, ...]

    def path(self, site: Site) -> str:
        """Its path.

        Raises click.UsageError if there is such a page already.
        """
        return new_path(site, self.name)

    def details_at(self, site: Site, path: str) -> dict[str, str]:
        """Its details: those that were typed, those of its neighbours, and a title from the last part of its path."""
        return {"title": title_of(path), **told_by_neighbours(site, path, self.details), **self.details}

    def grown(self, site: Site) -> tuple[Site, int]:
        """The site with the page, and its number."""
        path = self.path(site)
        return with_page(site, path, self.details_at(site, path), by=self.by)


def new_path(site: Site, words: str) -> str:
    """The path of a page that is not there yet, as it was typed.

    Raises click.UsageError if there is such a page already.
    """
    names = site.page_names
    path = names.path(words if names.is_address(words) else f"/{words.lstrip('/')}")
    if site.tree.find(path) >= 0:
        raise click.UsageError(f"there is a page {path} already: {typed('show', path)}")
    return path


def told_by_neighbours(site: Site, path: str, details: Mapping[str, str]) -> dict[str, str]:
    """The details that a new page takes from the pages around it; a note says which, and where they come from."""
    found = details_by_neighbours(site, path, details)
    if found:
        note(f"note: {'; '.join(f'{one.name} {one.text}, as {one.because}' for one in found)}")
    return {one.name: one.text for one in found}


def title_of(path: str) -> str:
    """A title made from the last part of a path."""
    return path.rpartition("/")[2].replace("-", " ").capitalize()


def new_page_options(command: Command) -> Command:
    """`--new PATH`, and what tells of that page; the command takes it as `new`: a `NewPage`, or None."""

    @functools.wraps(command)
    def with_new(*args: Any, new: str | None, **options: Any) -> Any:
        told = {name: options.pop(name) for name in HIDDEN}
        return command(*args, new=_read(new, **told), **options)

    for option in (
        click.option(
            "--by",
            metavar="PERSON",
            shell_complete=complete_person,
            help="With --new: who makes the page, and so owns it where no default names an owner.",
        ),
        click.option("--draft", "is_draft", is_flag=True, help="With --new: the page is a draft."),
        click.option(
            "--detail",
            "details",
            metavar="COLUMN=VALUE",
            multiple=True,
            shell_complete=complete_detail,
            help="With --new: any other detail, as in made_with=potting-bench.",
        ),
        click.option(
            "--title", metavar="TEXT", help="With --new: the page's title (default: from the last part of its path)."
        ),
        click.option(
            "--type",
            "kind",
            metavar="NAME",
            shell_complete=complete_type,
            help="With --new: the page's type (default: page).",
        ),
        click.option("--new", metavar="PATH", help="A page that is not there yet, at this path. Nothing is written."),
    ):
        with_new = option(with_new)
    return with_new  # type: ignore[return-value]


def _read(
    new: str | None, kind: str | None, title: str | None, details: tuple[str, ...], is_draft: bool, by: str | None
) -> NewPage | None:
    asked = {"--type": kind, "--title": title, "--by": by}
    words = [word for name, value in asked.items() if value is not None for word in (name, value)]
    words += [word for detail in details for word in ("--detail", detail)] + ["--draft"] * is_draft
    if new is None:
        if words:
            raise click.UsageError(f"{words[0]} tells of a page that is not there yet: say --new PATH too")
        return None
    said = {"type": kind, "title": title, "status": "draft" if is_draft else None}
    found = {name: value for name, value in said.items() if value is not None}
    for detail in details:
        name, equals, value = detail.partition("=")
        if not equals:
            raise click.UsageError(f"--detail takes COLUMN=VALUE, as in made_with=potting-bench, not {detail!r}")
        if name in found or name == "path":
            raise click.UsageError(f"{name} is said twice: once is enough")
        found[name] = typed_cell(name, value)
    return NewPage(new, found, by or "", ("--new", new, *words))


def who_may_create(access: AccessModel, above: int, by: str) -> list[str]:
    """Lines that say whether somebody may create a page there, or who may; none if the site has no such action."""
    site = access.site
    if "create" not in site.actions or above < 0:
        return []
    path = site.tree.paths[above]
    if by:
        decision = access.why(by, "create", above)
        return [f"{by} {'may' if decision.may else 'may not'} create pages below {path}: {decision.reason}"]
    people = [who for who in site.people.names if "create" in access.actions(who, above)]
    return [f"May create pages below {path}: {', '.join(people) or 'nobody'}"]
