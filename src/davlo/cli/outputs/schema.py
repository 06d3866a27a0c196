"""`davlo schema`: the form of davlo.yaml, for editors."""

from __future__ import annotations

from pathlib import Path

import click

from ..command_list import answers
from ..options import open_named_site, site_option
from ..screen import Out, note


@answers(
    "schema",
    "davlo schema --to davlo.schema.json",
    "davlo schema --site . --to davlo.schema.json",
    "davlo schema --included --to included.schema.json",
    "davlo schema --shared --to shared.schema.json",
)
@click.option(
    "--included",
    "of",
    flag_value="included",
    help="The form of a file that `include` names: it has no davlo and no site.",
)
@click.option("--shared", "of", flag_value="shared", help="The form of a file that the sites of an estate share.")
@click.option("--estate-yaml", "of", flag_value="estate.yaml", help="The form of estate.yaml.")
@click.option("--to", type=click.Path(dir_okay=False), metavar="FILE", help="Write it to this file.")
@site_option
def command(of: str | None, to: str | None, site: str | None) -> None:
    """An editor that knows it completes keys and marks mistakes as you type. With --site DIR it knows the site's own
    names: its layouts, sidebars, types, people and settings.
    """
    from davlo.files.form.json_schema import schema_text
    from davlo.files.store.whole_files import write_whole

    text = schema_text(open_named_site(site) if site is not None else None, of=of or "davlo.yaml")
    if to is None:
        Out().write(text)
        return
    write_whole(Path(to), text.encode())
    note(f"wrote {to}")
