"""Which site a command is about."""

from __future__ import annotations

from pathlib import Path

import click


class NoSite(click.ClickException):
    """There is no site folder to ask about."""

    exit_code = 2


def site_folder(named: str | None) -> Path:
    """The site folder: the one named, else the nearest upwards that has davlo.yaml.

    Raises NoSite if there is none.
    """
    if named is not None:
        return Path(named)
    here = Path.cwd()
    for folder in (here, *here.parents):
        if (folder / "davlo.yaml").is_file():
            return folder
    raise NoSite(
        "there is no site here: no davlo.yaml in this folder or in any above. What people mostly type:\n"
        "  davlo demo                 a made-up garden's website, to look at\n"
        "  davlo start my-site        a new site, or with --from one made of what you have\n"
        f"  {f'davlo {_command_name()} --site DIR':25}  this command, for the site in DIR"
    )


def _command_name() -> str:
    """The command that was typed."""
    context = click.get_current_context(silent=True)
    return context.command_path.partition(" ")[2] if context else "tree"
