"""`davlo picture`: what pages look like, and a setting over the whole tree."""

from __future__ import annotations

import shlex
from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING, NamedTuple

import click

from davlo.core.faults import ValueFault
from davlo.core.outcomes.branch_map import MAY
from davlo.core.progress import work
from davlo.core.records.page_plan import SCREENS
from davlo.core.site.people import VISITOR
from davlo.core.site.settings.parse_values import typed_items

from ..command_list import answers
from ..completion.offers import complete_page, complete_setting
from ..machine import import_drawing
from ..options import find_viewer, open_named_site, site_option, viewer_option, write_file
from ..screen import note
from .new_page import NewPage, new_page_options

if TYPE_CHECKING:
    from matplotlib.figure import Figure

    from davlo.site import Site

ENDINGS = (".png", ".svg", ".pdf")
DRAWN = ("wide", "phone")
"""The screens that are drawn unless others are named."""
MOST = 12
"""The most pages in one picture; more could not be read."""


@answers(
    "picture",
    "davlo picture /visit/tickets --to tickets.png",
    "davlo picture --map sidebar.right --to sidebars.pdf",
    "davlo picture /visit --try sidebar.right=main,quiet --to tried.png",
    "davlo picture /visit/maps /campaigns/spring --to both.svg",
    "davlo picture /staff --as ida.marsh --to staff.png",
)
@click.argument("pages", metavar="PAGE...", nargs=-1, shell_complete=complete_page)
@click.option(
    "--map",
    "setting",
    metavar="SETTING",
    shell_complete=complete_setting,
    help="Draw the whole tree, or the branch of PAGE, and colour each page by its value; with may:edit, or another "
    "action, by who may do it.",
)
@click.option(
    "--try",
    "tried",
    metavar="SETTING=VALUE,VALUE…",
    multiple=True,
    shell_complete=complete_setting,
    help="Draw PAGE as it is, and beside it with each of these values set on it. Nothing is written. A list or a text "
    "is one value: repeat --try for another.",
)
@viewer_option(f"Draw what this viewer meets (default: {VISITOR}): a person, visitor, signed-in, or a group.")
@click.option(
    "--screen",
    "screens",
    multiple=True,
    type=click.Choice(tuple(SCREENS)),
    help="Draw this screen; repeat it for several (default: wide and phone).",
)
@click.option(
    "--to", type=click.Path(dir_okay=False), metavar="FILE", help="The file to write: .png, .svg or .pdf.  [required]"
)
@new_page_options
@site_option
def command(
    pages: tuple[str, ...],
    setting: str | None,
    tried: tuple[str, ...],
    who: str | None,
    screens: tuple[str, ...],
    to: str | None,
    new: NewPage | None,
    site: str | None,
) -> None:
    """Draws a page from its layout, on a wide screen and on a phone, with the contents of each area and where they came
    from. Several pages are drawn side by side, with differences marked. With --new: a page that is not there yet.
    """
    asked = _Asked(pages, setting, tried, who, screens, new)
    asked.check()
    if to is None:
        raise click.UsageError(
            f"say where to write the picture: davlo picture {shlex.join(asked.words())} --to picture.png"
        )
    path = Path(to)
    if path.suffix.lower() not in ENDINGS:
        raise click.UsageError(f"--to writes a file that ends in {', '.join(ENDINGS)}, not {path.name!r}")
    opened = open_named_site(site)
    viewer = VISITOR if who is None else find_viewer(opened, who)
    named = [opened.tree.paths[opened.find_page(words)] for words in pages]
    if new is not None:
        opened, page = new.grown(opened)
        named.append(opened.tree.paths[page])
    if setting is not None and not setting.startswith(MAY):
        opened.setting_number(setting)
    if setting is not None and not len(opened.tree):
        raise click.UsageError("the site has no pages, so there is nothing to draw")
    with work("drawing the picture", 3) as step:
        step("making ready to draw")
        import_drawing()
        from davlo import draw

        step("drawing")
        effective = opened.resolve()
        if setting is not None:
            figure = draw.map(effective, setting, named[0] if named else None)
        elif tried:
            figure = _candidates(opened, named[0], tried, screens or DRAWN, viewer)
        else:
            figure = draw.page(effective, *named, screens=screens or DRAWN, viewer=viewer)
        step("writing")
        write_figure(opened, figure, path)


class _Asked(NamedTuple):
    """What to draw, as it was typed."""

    pages: tuple[str, ...]
    setting: str | None
    tried: tuple[str, ...]
    who: str | None
    screens: tuple[str, ...]
    new: NewPage | None

    def check(self) -> None:
        """Make sure that the options go together."""
        pages = len(self.pages) + (self.new is not None)
        if self.setting is not None and (self.new is not None or self.tried or self.who or self.screens):
            raise click.UsageError("--map draws the tree: leave out --new, --try, --as and --screen")
        if self.tried and pages != 1:
            raise click.UsageError("--try draws one page several times: name one page")
        for one in self.tried:
            if not one.partition("=")[2].strip():
                raise click.UsageError(f"--try takes SETTING=VALUE,VALUE, as in sidebar.right=main,none; not {one!r}")
        settings = list(dict.fromkeys(one.partition("=")[0].strip() for one in self.tried))
        if len(settings) > 1:
            raise click.UsageError(
                f"--try draws several values of one setting, not of {' and '.join(settings)}: make a picture of each, "
                "or see them together with: davlo set … --picture FILE"
            )
        if not pages and self.setting is None:
            raise click.UsageError("name the pages to draw, by path or title; or say --map SETTING for the whole tree")
        if self.setting is not None and pages > 1:
            raise click.UsageError("--map draws one branch: name one page, or none for the whole tree")
        if pages > MOST:
            raise click.UsageError(f"a picture shows {MOST} pages at most; choose among these {pages}")

    def words(self) -> list[str]:
        """The words of the command, without the file."""
        found = [*self.pages, *(["--map", self.setting] if self.setting else [])]
        found += [word for one in self.tried for word in ("--try", one)]
        found += ["--as", self.who] if self.who else []
        found += [word for screen in self.screens for word in ("--screen", screen)]
        return [*found, *(self.new.words if self.new else ())]


def _candidates(site: Site, path: str, tried: Sequence[str], screens: Sequence[str], viewer: str) -> Figure:
    """The page once for each value, side by side."""
    from davlo import draw
    from davlo.core.change.steps.change import ChangeError

    name = tried[0].partition("=")[0].strip()
    is_whole = site.catalogue[site.setting_number(name)].kind in ("list", "text")
    told = [one.partition("=")[2].strip() for one in tried]
    values = told if is_whole else [value for one in told for value in typed_items(one)]
    if len(values) >= MOST:
        raise click.UsageError(f"a picture shows {MOST} pages at most; try fewer than these {len(values)} values")
    try:
        return draw.candidates(site, path, name, values, screens, viewer)
    except (ChangeError, ValueFault) as error:
        raise click.UsageError(f"--try: {error}") from None


def write_figure(site: Site, figure: Figure, path: Path, option: str = "--to") -> None:
    """Write a picture into a file that somebody named, by its ending."""
    from davlo.draw import paper
    from davlo.draw.lettering import NO_SHAPE

    write_file(site, path, lambda file: paper.write_figure(figure, file, path.suffix.lower()), option)
    if any(NO_SHAPE in text.get_text() for text in figure.axes[0].texts):
        note(f"{NO_SHAPE} replaces characters that the font of the pictures lacks")
