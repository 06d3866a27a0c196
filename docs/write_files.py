"""Writes docs/files.md: every key of davlo.yaml and every column of the CSV files, from what the reader knows.

python -m docs.write_files
"""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

from davlo.core.site.catalogue import Vocabulary, davlo_settings, family_setting
from davlo.core.site.settings import ACTIONS, AREA_FAMILIES
from davlo.core.site.values import format_value
from davlo.files.form import csv_columns, davlo_yaml
from davlo.files.form.csv_columns import ColumnForm
from davlo.files.form.shapes import (
    ActionList,
    Either,
    Entries,
    Field,
    Fields,
    Flag,
    ListOf,
    NameOf,
    Number,
    Settings,
    SettingValue,
    Shape,
    Text,
    Word,
    Words,
)

HEAD = """# The files of a site

Made by `python -m docs.write_files` from what the reader knows. `davlo schema` prints the same for editors.

A site is a folder with `davlo.yaml` (YAML 1.2), the inventory `pages.csv`, and, where you want them, `values.csv` and
`stamps.csv`. A name is of lower-case words with `-` or `.` between. A page is named by its path. Where a list may
stand, one word may, too. A key with nothing after it is an error: say `none`, or take the key away.
"""
SECTIONS: tuple[tuple[str, str, Shape], ...] = (
    ("davlo.yaml", "The keys at the top of the file.", davlo_yaml.DAVLO_YAML),
    ("`site`", "The website as a whole.", davlo_yaml.SITE),
    ("`inventory` of a database", "In place of a file's name.", davlo_yaml.INVENTORY),
    (
        "What a scope says",
        "`everywhere`, `give` of a type or a rule, and `below`, `here` and `here_and_below` of a page hold settings "
        "and their values (`sidebar.right: main`), and these keys.",
        davlo_yaml.BODY,
    ),
    ("A page, under `pages`", "", davlo_yaml.PAGE),
    ("A type, under `types`", "", davlo_yaml.TYPE),
    ("A rule, in `rules`", "", davlo_yaml.RULE),
    ("`when` and `except`", "All keys must match; a list means any of its words.", davlo_yaml.CONDITION),
    ("A preset, under `presets`", "Settings and their values, and these keys.", davlo_yaml.PRESET),
    ("A setting of your own, under `settings`", "", davlo_yaml.OWN_SETTING),
    (
        "A change of one of Davlo's settings, under `settings`",
        "`sidebar.*` and the like name all of a family.",
        davlo_yaml.ADJUSTED,
    ),
    ("A layout, under `layouts`", "", davlo_yaml.LAYOUT),
    ("A theme, under `themes`", "", davlo_yaml.THEME),
    ("A sidebar, under `sidebars`", "", davlo_yaml.SIDEBAR),
    ("A look, under `looks`", "", davlo_yaml.LOOK),
    ("A band, under `bands`", "", davlo_yaml.BAND),
    ("A block, under `blocks`", "", davlo_yaml.BLOCK),
    ("`people`", "", davlo_yaml.PEOPLE),
    ("`menu`", "", davlo_yaml.MENU),
    ("`sitemap`", "", davlo_yaml.SITEMAP),
    ("`leave_out` in `sitemap`", "", davlo_yaml.LEAVE_OUT),
    ("A promise, in `promises`", "", davlo_yaml.PROMISE),
    ("A probe, in `probes`", "", davlo_yaml.PROBE),
    ("An accepted finding, in `accept`", "", davlo_yaml.ACCEPT),
)
FILES = (
    (
        "pages.csv",
        "A row for each page. A column named as a setting holds the page's own value: blank, the page inherits; "
        "`<empty>` is the empty text. Any other column is a fact of your own, which conditions can look at.",
        csv_columns.PAGES,
    ),
    ("values.csv", "Statements in bulk. `values` in `site` names such files.", csv_columns.VALUES),
    ("stamps.csv", "What pages were given when they were made. Davlo writes it.", csv_columns.STAMPS),
)


def takes(shape: Shape) -> str:
    """What a key takes, in words."""
    if isinstance(shape, Text):
        return "a text"
    if isinstance(shape, Flag):
        return "yes or no"
    if isinstance(shape, Number):
        kind = "an integer" if shape.whole else "a number"
        return kind if abs(shape.least) > 1e9 else f"{kind} from {shape.least:g} to {shape.most:g}"
    if isinstance(shape, Word):
        return " or ".join(shape.choices) if len(shape.choices) < 9 else "one of many words"
    if isinstance(shape, NameOf):
        return " or ".join([*(f"{'an' if kind[0] in 'aeo' else 'a'} {kind}" for kind in shape.kinds), *shape.besides])
    if isinstance(shape, Words):
        return f"{takes(shape.of)}, or a list"
    if isinstance(shape, Either):
        return ", or ".join(dict.fromkeys(map(takes, shape.shapes)))
    if isinstance(shape, Entries):
        return f"{shape.named or 'name'}: {takes(shape.of)}"
    if isinstance(shape, ListOf):
        return "a list of mappings"
    if isinstance(shape, ActionList):
        return "actions"
    if isinstance(shape, SettingValue):
        return "a value"
    return "settings and values" if isinstance(shape, Settings) else "a mapping"


def rows(fields: dict[str, Field], required: tuple[str, ...]) -> Iterator[str]:
    """The rows of a table of keys."""
    yield "| key | takes | what it is for | example |\n|---|---|---|---|"
    for key, field in fields.items():
        star = " (needed)" if key in required else ""
        example = f"`{field.example}`".replace("|", "\\|") if field.example else ""
        yield f"| `{key}`{star} | {takes(field.shape)} | {field.help} | {example} |"


def section(title: str, told: str, shape: Shape) -> str:
    """A section about a mapping."""
    assert isinstance(shape, Fields | Settings)
    fields, required = (shape.fields, shape.required) if isinstance(shape, Fields) else (shape.beside, ())
    return "\n\n".join(part for part in (f"## {title}", told, "\n".join(rows(dict(fields), required))) if part) + "\n"


def columns(title: str, told: str, found: dict[str, ColumnForm]) -> str:
    """A section about the columns of a file."""
    table = ["| column | what it is for | example |", "|---|---|---|"]
    for name, column in found.items():
        table.append(f"| `{name}`{' (needed)' if column.required else ''} | {column.help} | `{column.example}` |")
    return "\n\n".join([f"## {title}", told, "\n".join(table)]) + "\n"


def settings() -> str:
    """A section about the settings that every site has."""
    words = Vocabulary({}, (), ACTIONS, {})
    listed = davlo_settings(words)
    listed += [family_setting(family, "AREA", words) for family in AREA_FAMILIES]
    listed += [family_setting(family, "WHO", words) for family in ("access", "deny")]
    table = ["| setting | kind | built in | what it is for |", "|---|---|---|---|"]
    table += [
        f"| `{one.name}` | {one.kind} | {format_value(one.built_in) or 'empty'} | {one.help} |".replace("{|}", "\\|")
        for one in listed
        if one.name != "access.everyone"
    ]
    told = "AREA is an area of any layout; WHO is a person, a group, `everyone`, `signed-in`, `owner` or `owner-group`."
    return "\n\n".join(["## The settings that every site has", told, "\n".join(table)]) + "\n"


def page() -> str:
    """The whole page."""
    told = [HEAD, *(section(*one) for one in SECTIONS), settings(), *(columns(*one) for one in FILES)]
    return "\n".join(told)


if __name__ == "__main__":
    (Path(__file__).parent / "files.md").write_text(page(), encoding="utf-8")
