"""`davlo start`: a new site folder, or one made of what somebody has."""

from __future__ import annotations

import shlex
from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING

import click

from davlo.core.wording import count

from ..command_list import answers
from ..screen import heading, note, say, table
from ..source_options import Sources, source_options

if TYPE_CHECKING:
    from davlo.start.seen_site import Remark, SeenSite

MOST_REMARKS = 12
"""How many guesses, and how many losses, are listed."""


@answers(
    "start",
    "davlo start my-site --name 'My museum' --url https://museum.example --language en",
    "davlo start my-site --from pages.xlsx",
    "davlo start my-site --from public --from public/sitemap.xml",
)
@click.argument("folder", metavar="DIR", type=click.Path(file_okay=False))
@source_options
@click.option("--url", default="", metavar="URL", help="The site's address (default: what the sources tell).")
@click.option("--name", default="", metavar="TEXT", help="The site's name (default: what the sources tell).")
@click.option(
    "--language",
    "languages",
    multiple=True,
    metavar="CODE",
    help="A language of the site; repeat it for more. Pages have the first one where nothing tells theirs.",
)
def command(folder: str, sources: Sources, url: str, name: str, languages: tuple[str, ...]) -> None:
    """DIR is a new folder, or an empty one. With --from, its pages are those that you have; the values they show become
    defaults, and exceptions where a page differs. Nothing is fetched. Without --from, it holds a few pages
    and notes on what to change.
    """
    sources.check()
    if url and not url.lower().startswith(("http://", "https://")):
        raise click.UsageError(f"--url takes an address that begins with https://, not {url!r}")
    if any(not code.strip() for code in languages):
        raise click.UsageError("--language takes the code of a language, as in en or pt-BR")
    try:
        if sources.names:
            _from_sources(folder, sources, url, name, languages)
        else:
            _small(folder, name, url, languages)
    except FileExistsError:
        raise click.UsageError(
            f"{folder} is there already and holds other things; name another folder: davlo start DIR"
        ) from None


def _small(folder: str, name: str, url: str, languages: Sequence[str]) -> None:
    """Write a small site, and print what to type next."""
    from davlo.start import start_site

    start_site(Path(folder), name=name, url=url, languages=languages)
    say(f"Wrote a site of 7 pages to {folder}:")
    say("  davlo.yaml         what your site is made of, and what each page gets; notes say what to change")
    say("  pages.csv          one row for each page: davlo page add and davlo page refresh bring yours")
    say("  davlo.schema.json  what editors complete davlo.yaml from")
    heading("What to type next:")
    say(f"  cd {shlex.quote(folder)}")
    say("  davlo tree                                     which pages are there")
    say("  davlo show /about/team                         what one page gets, and from where")
    say("  davlo page add /about/history --title History  add a page; with --write, it is written")
    say("  davlo set menu.show=no --below /about          see what a change would do; with --write, make it")
    say("  davlo check                                    what contradicts what")


def _from_sources(folder: str, sources: Sources, url: str, name: str, languages: Sequence[str]) -> None:
    """Write a site made of what somebody has, and print what was guessed and lost, and what to type next."""
    from davlo.files.form.json_schema import SCHEMA
    from davlo.start.from_sources import start_site_from

    made = start_site_from(
        folder,
        sources.names,
        meanings=sources.meanings,
        areas=sources.areas,
        query=sources.query,
        url=url,
        name=name,
        languages=languages,
    )
    files = sorted(name for name in made.contents if name != SCHEMA)
    say(f"Wrote a site of {count(made.pages, 'page')} to {folder}: {', '.join(files)}")
    if made.values and not made.statements and not made.exceptions:
        say(f"{count(made.values, 'value')} were seen, all as Davlo has them built in: no statement is needed")
    elif made.values:
        verb = "explains" if made.statements == 1 else "explain"
        share = f"{made.explained * 100:.1f} % of {count(made.values, 'value')}"
        told = f"{count(made.statements, 'statement')} {verb} {share}"
        where = f"; {count(made.exceptions, 'exception')} on {count(made.exceptional, 'page')}, in values.csv"
        say(told + (where if made.exceptions else "; there are no exceptions"))
    _print_columns(made.seen)
    _print_remarks("Guessed:", made.seen.guessed)
    _print_remarks("Not recovered:", made.seen.lost)
    heading("What to type next:")
    say(f"  cd {shlex.quote(folder)}")
    say("  davlo tree     which pages are there")
    say("  davlo list     what was declared")
    say("  davlo check    what contradicts what")


def _print_columns(seen: SeenSite) -> None:
    """What each column became; columns that kept their names share one line."""
    own = [one for one in seen.columns if one.column != one.became or one.why.startswith("no ")]
    same = [one.column for one in seen.columns if one not in own]
    if seen.columns:
        heading("Columns:")
    if own:
        table(("column", "became", "why"), [(one.column, one.became, one.why) for one in own], "  ")
    if same:
        more = f" and {len(same) - 6} more" if len(same) > 6 else ""
        say(f"  {'also ' if own else ''}by their own name: {', '.join(same[:6])}{more}")


def _print_remarks(title: str, remarks: Sequence[Remark]) -> None:
    if not remarks:
        return
    heading(title)
    shown = sorted(remarks, key=lambda one: -one.pages)[:MOST_REMARKS]
    rows = [(f"{one.pages:,}" if one.pages else "", one.what, one.example) for one in shown]
    columns = 3 if any(one.example for one in shown) else 2
    table(("pages", "what", "such as")[:columns], [row[:columns] for row in rows], "  ")
    if len(remarks) > len(shown):
        note(f"  and {len(remarks) - len(shown)} more")
