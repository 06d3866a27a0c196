"""`davlo demo`: see it all on a made-up garden's website."""

from __future__ import annotations

from pathlib import Path

import click

from .screen import Styled, flush, heading, say

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
    ("What do visitors meet in the menu, and what is left out?", ["links", "--language", "en"]),
    ("Read the conflicts, the worst first.", ["check"]),
    ("Who may do what on the staff noticeboard?", ["access", "/staff/noticeboard"]),
    ("What may a visitor do there, and why?", ["access", "/staff/noticeboard", "--as", "visitor"]),
    ("What do search engines get?", ["sitemap"]),
)
"""The order in which people work: take stock, look, ask why, see, read the conflicts, see access, publish."""


@click.command("demo", epilog="Example: davlo demo garden")
@click.argument("folder", metavar="[DIR]", default="quillmere", type=click.Path(file_okay=False))
@click.pass_context
def command(ctx: click.Context, folder: str) -> None:
    """Try every command on a made-up garden's website.

    Writes the site of the Quillmere Botanic Garden to DIR (default: quillmere) and walks through it: it prints each
    command and its output; two commands draw a picture there. If DIR is a site already, its files stay as they are.
    """
    from davlo.demo import write_demo

    path = Path(folder)
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
        words = [word.format(folder=folder) if word.startswith("{folder}") else word for word in told]
        say()
        say(f"# {what}")
        say(Styled(f"$ davlo {' '.join(words)} --site {folder}"))
        flush()
        _run([*words, "--site", folder], ctx)
    heading("Now it is yours:")
    say(f"  cd {folder}, change davlo.yaml, and ask again: davlo check")


def _run(words: list[str], ctx: click.Context) -> None:
    """Run a command as if it had been typed; its exit status does not end the walk."""
    parent = ctx.parent
    assert parent is not None
    group = parent.command
    assert isinstance(group, click.Group)
    found = group.get_command(parent, words[0])
    assert found is not None
    with found.make_context(words[0], words[1:], parent=parent) as inner:
        found.invoke(inner)
