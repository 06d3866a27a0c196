"""Writes docs/files.md: every key of davlo.yaml and every column of the CSV files, from what the reader knows.

python -m docs.write_files
"""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

from davlo.core.site.settings.catalogue import Vocabulary, davlo_settings, family_setting
from davlo.core.site.settings.setting import ACTIONS, AREA_FAMILIES
from davlo.core.site.settings.values import format_value
from davlo.css.properties import PROPERTIES
from davlo.files.form import csv_columns, davlo_yaml
from davlo.files.form.csv_columns import ColumnForm
from davlo.files.form.estate_yaml import ESTATE, ESTATE_YAML, SHARED_SECTIONS
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

Made by `python -m docs.write_files` from what the reader knows. `davlo schema` prints the same form for editors.

A site is a folder with `davlo.yaml` (YAML 1.2) and the page list `pages.csv`. `values.csv` and `stamps.csv` may stand
beside them. A name consists of lower-case words with `-` or `.` between. A page is named by its path. Most lists may
also be one word. A key with nothing after it is an error: say `none`, or take the key away.
"""
VALUES = """## Values of settings

| written | what it means |
|---|---|
| `sidebar.right: main` | the value: a name, a text, a number, a date, `yes` or `no` |
| `sidebar.right: none` | an explicit nothing, which is not the same as saying nothing |
| `blocks.content: [map, quiz]` | a list, which replaces what weaker scopes say |
| `blocks.content: {add: [quiz]}` | a change of the list from weaker scopes: these items come at its end |
| `blocks.content: {first: [map]}` | these items come in front |
| `blocks.content: {remove: [quiz]}` | these items go; the three may stand together |
| `sitemap.priority: {by_depth: {top: 1.0, step: 0.15, floor: 0.3}}` | a number that falls with the page's depth: \
`top` − `step` × depth, but at least `floor` |
| `sidebar.right: <everywhere>` | what the page would get if only `everywhere` spoke |
| `sidebar.right: <type>` | what it would get if only `everywhere` and the types spoke |
| `sidebar.right: <below>` | what it would get if only these and the branches spoke |
| `title.pattern: "{title} · {site}"` | a text with placeholders: `{title} {site} {branch} {parent} {type} {language}` \
and any detail; `{{` is a brace |

In a cell of CSV a list is `map; quiz`; `+ quiz` adds, `- quiz` removes; `<empty>` is the empty text.
"""
SECTIONS: tuple[tuple[str, str, Shape], ...] = (
    ("davlo.yaml", "The keys at the top of the file.", davlo_yaml.DAVLO_YAML),
    ("`site`", "The website as a whole.", davlo_yaml.SITE),
    ("`page_list` of a database", "In place of a file's name.", davlo_yaml.PAGE_LIST),
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
    ("A guarantee, in `guarantees`", "", davlo_yaml.GUARANTEE),
    ("A viewpoint, in `viewpoints`", "", davlo_yaml.VIEWPOINT),
    ("An accepted finding, in `accept`", "", davlo_yaml.ACCEPT),
    (
        "estate.yaml",
        "An estate's folder holds it (docs/estate.md). Its shared files have these sections of davlo.yaml: "
        + ", ".join(f"`{key}`" for key in SHARED_SECTIONS)
        + ".",
        ESTATE_YAML,
    ),
    ("`estate` in estate.yaml", "The estate as a whole.", ESTATE),
)
FILES = (
    (
        "pages.csv",
        "A row for each page. A column named as a setting holds the page's own value: blank, the page inherits; "
        "`<empty>` is the empty text. Any other column is a detail of your own, which conditions can look at.",
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
        return " or ".join(shape.choices) if len(shape.choices) < 9 else "a kind of [docs/findings.md](findings.md)"
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


def css() -> str:
    """A section about the CSS properties of looks, those that take the same together."""
    by_takes: dict[str, list[str]] = {}
    for name, takes in PROPERTIES.items():
        by_takes.setdefault(f"{takes.told} | `{takes.example}`", []).append(f"`{name}`")
    told = "Each of `whole`, `each_block` and `headings` holds CSS properties and their values."
    rows = [f"| {', '.join(names)} | {takes} |" for takes, names in by_takes.items()]
    return "\n".join(
        ["## The CSS of a look", "", told, "", "| property | takes | example |", "|---|---|---|", *rows, ""]
    )


def page() -> str:
    """The whole page."""
    told = [HEAD, *(section(*one) for one in SECTIONS), css(), VALUES, settings(), *(columns(*one) for one in FILES)]
    return "\n".join(told)


if __name__ == "__main__":
    (Path(__file__).parent / "files.md").write_text(page(), encoding="utf-8")
