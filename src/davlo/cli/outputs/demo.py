"""`davlo demo`: see it all on a made-up garden's website."""

from __future__ import annotations

from pathlib import Path

import click

from ..command_list import answers
from ..machine import TYPED
from ..screen import Styled, flush, heading, say

WALK = (
    ("Take stock: which pages are there?", ["tree", "/visit", "--columns", "sidebar.right"]),
    ("What is declared?", ["list"]),
    ("One setting whole: what sets it, and on how many pages?", ["list", "sidebar.right"]),
    ("Look at a page: what does it get, and from where?", ["show", "/visit/tickets"]),
    ("Ask why: what did that sidebar beat?", ["why", "/visit/tickets", "sidebar.right"]),
    ("Two rules meet on a campaign page; which wins?", ["why", "/campaigns/spring", "sidebar.right"]),
    (
        "What do they look like, on a wide screen and on a phone?",
        ["picture", "/visit/tickets", "/campaigns/spring", "--to", "{folder}/two-pages.png"],
    ),
    (
        "Which sidebar does every page get? Once more, as a map.",
        ["picture", "--map", "sidebar.right", "--to", "{folder}/sidebars.png"],
    ),
    ("What do visitors meet in the menu, and what is left out?", ["menus", "--language", "en"]),
    ("Read the conflicts, the worst first.", ["check"]),
    ("Who may do what on the staff noticeboard?", ["access", "/staff/noticeboard"]),
    ("What may a visitor do there, and why?", ["access", "/staff/noticeboard", "--as", "visitor"]),
)
"""The order in which people work: take stock, look, ask why, see, read the conflicts, see access."""
CHANGES = (
    ("Change a default: see the reach first. Nothing is written.", ["set", "sidebar.right=main", "--below", "/visit"]),
    ("Then write it.", ["set", "sidebar.right=main", "--below", "/visit", "--write", "--brief"]),
    ("Lock a value below a page.", ["set", "title.limit=60", "--below", "/press", "--lock", "--write", "--brief"]),
    ("Mend a finding: which ways are there, and what would each do?", ["mend", "{finding}"]),
    ("Take the first.", ["mend", "{finding}", "--way", "1", "--write", "--brief"]),
    ("Bring events up to date with what new ones get.", ["page", "restamp", "blocks.content", "--write", "--brief"]),
    ("Give a sidebar another name, everywhere.", ["rename", "sidebar", "main", "usual", "--write", "--brief"]),
    ("Move a branch; what names it follows.", ["page", "move", "/visit/cafe", "/cafe", "--write", "--brief"]),
    ("What was written?", ["undo", "--list"]),
)
"""Change a default with its reach in view; all of it is taken back at the end."""
PUBLISHING = (
    ("What do search engines get?", ["sitemap"]),
    (
        "The files for them, ready to be copied: what is new? Nothing is written.",
        ["crawler-files", "--to", "{folder}/public"],
    ),
    ("Which addresses would Davlo announce to a search engine? It sends nothing.", ["announce"]),
)
"""Publish."""
REPORT = (
    "Hand a report to colleagues: one file, which any browser opens offline.",
    ["report", "--to", "{folder}/report.html"],
)
UNDO = ("Take it back, one by one.", ["undo", "--write", "--brief"])
ESTATE_WALK = (
    ("Three gardens begin with one house style. How do they differ?", ["estate", "sites"]),
    ("What contradicts what, in each and across them?", ["estate", "check"]),
    ("Change a shared default: see its reach over all sites first.", ["estate", "set", "sitemap.changefreq=monthly"]),
    ("Lock one: which sites say otherwise?", ["estate", "set", "title.pattern", "--lock"]),
    ("Declare something for all of them.", ["estate", "declare", "sidebar", "sisters", "blocks=sister-gardens"]),
    ("Write it.", ["estate", "declare", "sidebar", "sisters", "blocks=sister-gardens", "--write"]),
    ("And take it back.", ["estate", "undo", "--write"]),
    ("All values of all sites, for other programs.", ["estate", "export", "--to", "{folder}-values"]),
    ("A report for each site, and a page that lists them.", ["estate", "report", "--to", "{folder}-reports"]),
)
"""Ask all sites of an estate, change what they share, and take it back."""


@answers("demo", "davlo demo", "davlo demo garden", "davlo demo --estate gardens")
@click.argument("folder", metavar="[DIR]", default="quillmere", type=click.Path(file_okay=False))
@click.option("--estate", "is_estate", is_flag=True, help="Write an estate: the garden and two sister gardens.")
@click.pass_context
def command(ctx: click.Context, folder: str, is_estate: bool) -> None:
    """Writes the site of the Quillmere Botanic Garden to DIR (default: quillmere) and walks through it: it prints each
    command and its output; two commands draw a picture there. If DIR is a site already, its files stay as they are.
    """
    from davlo.demo import write_demo

    path = Path(folder)
    if is_estate:
        _walk_estate(path, ctx)
        return
    if (path / "davlo.yaml").is_file():
        say(f"{folder} is a site already; its files are left as they are.")
    else:
        try:
            written = write_demo(path)
        except FileExistsError:
            raise click.UsageError(
                f"{folder} is there already and holds other things; name another folder: davlo demo DIR"
            ) from None
        say(f"Wrote the site of the Quillmere Botanic Garden to {folder}: {', '.join(p.name for p in written)}")
    for what, told in WALK:
        _ask(what, told, folder, ctx)
    if _is_the_garden(path):
        _change(folder, ctx)
    for what, told in (*PUBLISHING, REPORT):
        _ask(what, told, folder, ctx)
    heading("Now it is yours:")
    say(f"  open {folder}/report.html in a browser: it shows the whole site, and fetches nothing")
    say(f"  cd {folder}, change davlo.yaml, and ask again: davlo check")


def _walk_estate(path: Path, ctx: click.Context) -> None:
    """Write the estate of the demo, unless one is there, and walk through it."""
    from davlo.demo import write_demo_estate

    if (path / "estate.yaml").is_file():
        say(f"{path} is an estate already; its files are left as they are.")
    else:
        try:
            write_demo_estate(path)
        except FileExistsError:
            told = f"{path} is there already and holds other things; name another folder: davlo demo --estate DIR"
            raise click.UsageError(told) from None
        say(f"Wrote three gardens and what they share to {path}: estate.yaml, house-style.yaml, garden, branches")
    for what, told_words in ESTATE_WALK:
        _ask(what, told_words, str(path), ctx, option="--estate")


def _ask(
    what: str, told: list[str], folder: str, ctx: click.Context, finding: str = "", option: str = "--site"
) -> None:
    """Print a question, the command that answers it, and its answer."""
    words = [word.replace("{folder}", folder).replace("{finding}", finding) for word in told]
    say()
    say(f"# {what}")
    say(Styled(f"$ davlo {' '.join(words)} {option} {folder}"))
    flush()
    _run([*words, option, folder], ctx)


def _change(folder: str, ctx: click.Context) -> None:
    """Change the site as an administrator would, and take all of it back."""
    from davlo.site import open_site

    site = open_site(folder)
    before = len(site.writes())
    locked = next(one.name for one in site.check().findings if one.kind == "lock-overrules")
    for what, told in CHANGES:
        _ask(what, told, folder, ctx, locked)
    while len(open_site(folder).writes()) > before:
        _ask(*UNDO, folder, ctx)


def _is_the_garden(path: Path) -> bool:
    """Whether a folder still holds the garden as it is written: only then the walk changes it."""
    from davlo.demo import GARDEN

    return all((path / one.name).read_bytes() == one.read_bytes() for one in GARDEN.iterdir() if one.is_file())


def _run(words: list[str], ctx: click.Context) -> None:
    """Run a command as if it had been typed; its exit status does not end the walk."""
    parent = ctx.parent
    assert parent is not None
    group = parent.command
    assert isinstance(group, click.Group)
    found = group.get_command(parent, words[0])
    assert found is not None
    ctx.meta[TYPED] = (*words,)
    with found.make_context(words[0], words[1:], parent=parent) as inner:
        found.invoke(inner)
