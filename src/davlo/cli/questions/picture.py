"""`davlo picture`: what pages look like, and a setting over the whole tree."""

from __future__ import annotations

import shlex
from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING, NamedTuple

import click

from davlo.core.faults import ValueFault
from davlo.core.outcomes.branch_map import MAY
from davlo.core.outcomes.page_plan import SCREENS
from davlo.core.progress import work

from ..command_list import answers
from ..machine import import_drawing
from ..options import complete_page, complete_setting, open_named_site, site_option, write_file
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
    shell_complete=complete_setting,
    help="Draw PAGE as it is, and beside it with each of these values set on it. Nothing is written.",
)
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
    tried: str | None,
    screens: tuple[str, ...],
    to: str | None,
    new: NewPage | None,
    site: str | None,
) -> None:
    """Draws a page from its layout, on a wide screen and on a phone, with the contents of each area and where they came
    from. Several pages are drawn side by side, with differences marked. With --new: a page that is not there yet.
    """
    asked = _Asked(pages, setting, tried, screens, new)
    asked.check()
    if to is None:
        raise click.UsageError(
            f"say where to write the picture: davlo picture {shlex.join(asked.words())} --to picture.png"
        )
    path = Path(to)
    if path.suffix.lower() not in ENDINGS:
        raise click.UsageError(f"--to writes a file that ends in {', '.join(ENDINGS)}, not {path.name!r}")
    opened = open_named_site(site)
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
        elif tried is not None:
            figure = _candidates(opened, named[0], tried, screens or DRAWN)
        else:
            figure = draw.page(effective, *named, screens=screens or DRAWN)
        step("writing")
        write_figure(opened, figure, path)


class _Asked(NamedTuple):
    """What to draw, as it was typed."""

    pages: tuple[str, ...]
    setting: str | None
    tried: str | None
    screens: tuple[str, ...]
    new: NewPage | None

    def check(self) -> None:
        """Make sure that the options go together."""
        pages = len(self.pages) + (self.new is not None)
        if self.setting is not None and (self.new is not None or self.tried is not None or self.screens):
            raise click.UsageError("--map draws the tree: leave out --new, --try and --screen")
        if self.tried is not None and pages != 1:
            raise click.UsageError("--try draws one page several times: name one page")
        if self.tried is not None and not self.tried.partition("=")[2].strip():
            raise click.UsageError(
                f"--try takes SETTING=VALUE,VALUE, as in sidebar.right=main,none; not {self.tried!r}"
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
        found += ["--try", self.tried] if self.tried else []
        found += [word for screen in self.screens for word in ("--screen", screen)]
        return [*found, *(self.new.words if self.new else ())]


def _candidates(site: Site, path: str, tried: str, screens: Sequence[str]) -> Figure:
    """The page once for each value, side by side."""
    from davlo import draw
    from davlo.core.change.steps.change import ChangeError

    setting, _, told = tried.partition("=")
    values = [value.strip() for value in told.split(",") if value.strip()]
    if len(values) >= MOST:
        raise click.UsageError(f"a picture shows {MOST} pages at most; try fewer than these {len(values)} values")
    try:
        return draw.candidates(site, path, setting.strip(), values, screens)
    except (ChangeError, ValueFault) as error:
        raise click.UsageError(f"--try: {error}") from None


def write_figure(site: Site, figure: Figure, path: Path, option: str = "--to") -> None:
    """Write a picture into a file that somebody named, by its ending."""
    from davlo.draw import paper
    from davlo.draw.lettering import NO_SHAPE

    write_file(site, path, lambda file: paper.write_figure(figure, file, path.suffix.lower()), option)
    if any(NO_SHAPE in text.get_text() for text in figure.axes[0].texts):
        note(f"{NO_SHAPE} replaces characters that the font of the pictures lacks")
