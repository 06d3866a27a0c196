"""`davlo picture`: what pages look like, and a setting over the whole tree."""

from __future__ import annotations

import shlex
from pathlib import Path
from typing import TYPE_CHECKING

import click

from davlo.core.progress import work

from .machine import import_drawing
from .new_page import NewPage, new_page_options
from .options import complete_page, complete_setting, open_named_site, site_option, write_file
from .screen import note

if TYPE_CHECKING:
    from matplotlib.figure import Figure

    from davlo.site import Site

ENDINGS = (".png", ".svg", ".pdf")
MOST = 12
"""The most pages in one picture; more could not be read."""


@click.command(
    "picture",
    epilog="Example: davlo picture /visit/tickets --to tickets.png.  Also: davlo picture /visit/maps "
    "/campaigns/spring --to both.svg; davlo picture --map sidebar.right --to sidebars.pdf",
)
@click.argument("pages", metavar="PAGE...", nargs=-1, shell_complete=complete_page)
@click.option(
    "--map",
    "setting",
    metavar="SETTING",
    shell_complete=complete_setting,
    help="Draw the whole tree, or the branch of PAGE, with each box coloured by its value.",
)
@click.option(
    "--to", type=click.Path(dir_okay=False), metavar="FILE", help="The file to write: .png, .svg or .pdf.  [required]"
)
@new_page_options
@site_option
def command(pages: tuple[str, ...], setting: str | None, to: str | None, new: NewPage | None, site: str | None) -> None:
    """Draw pages, or one setting over the whole tree.

    Draws a page from its layout, on a wide screen and on a phone, with the contents of each area and where they came
    from. Several pages are drawn side by side, with differences marked. With --new: a page that is not there yet.
    """
    if new is not None and setting is not None:
        raise click.UsageError("--new draws a page: leave out --map")
    if not pages and setting is None and new is None:
        raise click.UsageError("name the pages to draw, by path or title; or say --map SETTING for the whole tree")
    if setting is not None and len(pages) > 1:
        raise click.UsageError("--map draws one branch: name one page, or none for the whole tree")
    if len(pages) > MOST:
        raise click.UsageError(f"a picture shows {MOST} pages at most; choose among these {len(pages)}")
    if to is None:
        words = shlex.join([*pages, *(["--map", setting] if setting else []), *(new.words if new else ())])
        raise click.UsageError(f"say where to write the picture: davlo picture {words} --to picture.png")
    path = Path(to)
    if path.suffix.lower() not in ENDINGS:
        raise click.UsageError(f"--to writes a file that ends in {', '.join(ENDINGS)}, not {path.name!r}")
    opened = open_named_site(site)
    named = [opened.tree.paths[opened.find_page(words)] for words in pages]
    if new is not None:
        opened, page = new.grown(opened)
        named.append(opened.tree.paths[page])
    if setting is not None:
        opened.setting_number(setting)
        if not len(opened.tree):
            raise click.UsageError("the site has no pages, so there is nothing to draw")
    with work("drawing the picture", 3) as step:
        step("making ready to draw")
        import_drawing()
        from davlo import draw

        step("drawing")
        effective = opened.resolve()
        if setting is not None:
            figure = draw.map(effective, setting, named[0] if named else None)
        else:
            figure = draw.page(effective, *named)
        step("writing")
        _write(opened, figure, path)


def _write(site: Site, figure: Figure, path: Path) -> None:
    from davlo.draw.lettering import NO_SHAPE
    from davlo.draw.paper import write_figure

    write_file(site, path, lambda file: write_figure(figure, file, path.suffix.lower()))
    if any(NO_SHAPE in text.get_text() for text in figure.axes[0].texts):
        note(f"{NO_SHAPE} replaces characters that the font of the pictures lacks")
