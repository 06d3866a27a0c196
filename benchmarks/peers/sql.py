"""DuckDB: a table of every page with every page above it, and the strongest statement by joins and arg_max."""

from __future__ import annotations

import sys
from collections.abc import Iterable, Sequence
from pathlib import Path

import duckdb
import pyarrow as pa

from benchmarks.make import LISTS

from .given import BUILT_IN, SETTINGS, Given, by_depth, chain, grown, of_type, plain, read

PAGES = """
create table pages as
select row_number() over () as page, *,
  case when path = '/' then 0 else len(path) - len(replace(path, '/', '')) end as depth
from read_csv(?, all_varchar = true, header = true, nullstr = '');
create table above as
with recursive up(page, place) as (
  select page, case when path = '/' then null else coalesce(nullif(regexp_replace(path, '/[^/]*$', ''), ''), '/') end
  from pages
  union all
  select page, case when place = '/' then null else coalesce(nullif(regexp_replace(place, '/[^/]*$', ''), ''), '/') end
  from up where place is not null
)
select up.page, p.page as ancestor, p.depth from up join pages p on p.path = up.place;
"""
BELOW = """
create table of_branch as
select a.page, b.name, arg_max(b.text, a.depth) as text, 'below ' || arg_max(b.path, a.depth) as source
from below b join pages p on p.path = b.path join above a on a.ancestor = p.page
group by a.page, b.name
"""
RULES = """
create table of_rule as
select p.page, r.name, arg_min(r.text, r.number) as text, 'rule ' || arg_min(r.rule, r.number) as source
from rules r
join pages b on b.path = r.branch
join (select page, ancestor from above union all select page, page from pages) a on a.ancestor = b.page
join pages p on p.page = a.page
where (r.type is null or p.type in (select kind from kinds where base = r.type))
  and (r.made_with is null or p.made_with = r.made_with)
  and (r.language is null or p.language = r.language)
  and (r.depth is null or p.depth = r.depth::int)
group by p.page, r.name
"""


def resolve(site: Path, out: Path) -> None:
    """Resolve every page, and write the columns."""
    given = read(site)
    database = duckdb.connect()
    database.create_function("grown", grown, ["VARCHAR", "VARCHAR"], "VARCHAR")
    first, rest = PAGES.split(";", 1)
    database.execute(first, [str(site / "pages.csv")])
    database.execute(rest)
    fill(database, "below", "path name text", given.below)
    kinds = [(kind, base) for kind in given.types for base in chain(given.types, kind)]
    fill(database, "kinds", "kind base", kinds)
    by_type = [(kind, name, *answer) for kind in given.types for name, answer in of_type(given, kind).items()]
    fill(database, "of_type", "kind name text source", by_type)
    columns = ("type", "made_with", "language", "depth")
    rules = [
        (number, rule, when["in_branch"], *(when.get(column) for column in columns), name, text)
        for number, (rule, when, give) in enumerate(given.rules)
        for name, text in give.items()
    ]
    fill(database, "rules", "number rule branch type made_with language depth name text", rules)
    here = [(path, name, text if text.startswith("+ ") else plain(name, text)) for path, name, text in given.here]
    fill(database, "said", "path name text", here)
    database.execute(BELOW)
    database.execute(RULES)
    depths = [(depth, by_depth(given.priority, depth)) for depth in range(20)]
    fill(database, "depths", "depth text", depths)
    database.execute(
        "create table of_page as select p.page, s.name, s.text from said s join pages p on p.path = s.path "
        'union all select page, \'sidebar.right\', "sidebar.right" from pages where "sidebar.right" is not null'
    )
    joins = "\n".join(_joins(number, name) for number, name in enumerate(SETTINGS))
    told = ",\n".join(_columns(number, name, given) for number, name in enumerate(SETTINGS))
    database.execute(
        f"copy (select p.path, {told} from pages p left join depths d on d.depth = p.depth {joins}) "
        f"to '{out}' (format parquet)"
    )


def fill(database: duckdb.DuckDBPyConnection, table: str, columns: str, rows: Iterable[Sequence[object]]) -> None:
    """A table of these rows, its columns called by these words."""
    names = columns.split()
    given = pa.table(dict(zip(names, map(list, zip(*rows, strict=True)), strict=True)))
    database.register("given", given)
    database.execute(f"create table {table} as select * from given")
    database.unregister("given")


def _columns(number: int, name: str, given: Given) -> str:
    """The value and the source of a setting; its tables are called h, r, b and t with its number."""
    value, source = _value(name, given), _source(name, given)
    return f'{value} as "{name}", {source} as "source of {name}"'.replace("@", str(number))


def _value(name: str, given: Given) -> str:
    if name in given.locked:
        return f"'{given.locked[name]}'"
    if name == "page.owner":  # a setting whose default is for new pages: what is above counts for new pages alone
        return f"coalesce(h@.text, '{BUILT_IN[name]}')"
    floor = "d.text" if name == "sitemap.priority" else f"'{given.everywhere.get(name, BUILT_IN[name])}'"
    weaker = f"coalesce(r@.text, b@.text, t@.text, {floor})"
    if name in LISTS:
        return f"case when h@.text like '+ %' then grown({weaker}, h@.text[3:]) else coalesce(h@.text, {weaker}) end"
    return f"coalesce(h@.text, {weaker})"


def _source(name: str, given: Given) -> str:
    if name in given.locked:
        return "'everywhere'"
    here = "case when h@.text is not null then 'here' end"
    if name == "page.owner":
        return f"coalesce({here}, 'built-in')"
    floor = "everywhere" if name in given.everywhere or name == "sitemap.priority" else "built-in"
    return f"coalesce({here}, r@.source, b@.source, t@.source, '{floor}')"


def _joins(number: int, name: str) -> str:
    return "\n".join(
        f"left join {table} {alias}{number} on {alias}{number}.name = '{name}' and {alias}{number}.{key}"
        for table, alias, key in (
            ("of_page", "h", "page = p.page"),
            ("of_rule", "r", "page = p.page"),
            ("of_branch", "b", "page = p.page"),
            ("of_type", "t", "kind = p.type"),
        )
    )


if __name__ == "__main__":
    resolve(Path(sys.argv[1]), Path(sys.argv[2]))
