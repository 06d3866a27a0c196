"""pandas: the tree by a join of paths with their beginnings, values by joins and fills, level by level."""

from __future__ import annotations

import sys
from pathlib import Path

import numpy as np
import pandas as pd

from ..make import LISTS
from .given import BUILT_IN, SETTINGS, Given, by_depth, chain, grown, plain, read


def resolve(site: Path, out: Path) -> None:
    """Resolve every page, and write the columns."""
    given = read(site)
    pages = pd.read_csv(site / "pages.csv", dtype=str, keep_default_na=False)
    prefix = pages["path"].str.rpartition("/")[0].where(pages["path"] != "/", "?").replace("", "/")
    at = pd.Index(pages["path"])
    pages["parent"] = at.get_indexer(pd.Index(prefix))
    pages["depth"] = pages["path"].str.count("/").where(pages["path"] != "/", 0)
    levels = [np.flatnonzero(pages["depth"] == depth) for depth in range(1, int(pages["depth"].max()) + 1)]
    below = pd.DataFrame(given.below, columns=["path", "name", "text"])
    here = pd.DataFrame(given.here, columns=["path", "name", "text"])
    own = pages.loc[pages["sidebar.right"] != "", ["path", "sidebar.right"]].set_axis(["path", "text"], axis=1)
    here = pd.concat([here, own.assign(name="sidebar.right")])
    met = rules_met(given, pages, levels, at)
    found = {"path": pages["path"]}
    for name in SETTINGS:
        values = from_above(name, given, pages, levels, below, at)
        for rows, text in reversed(met.get(name, [])):
            values.iloc[rows] = text
        found[name] = on_pages(name, values, here[here["name"] == name], at)
        if name in given.locked:
            found[name] = pd.Series(given.locked[name], index=pages.index)
    pd.DataFrame(found).astype(dict.fromkeys(SETTINGS, "category")).to_parquet(out, index=False)


def from_above(
    name: str, given: Given, pages: pd.DataFrame, levels: list[np.ndarray], below: pd.DataFrame, at: pd.Index
) -> pd.Series:
    """What everywhere, types and branches give of a setting."""
    values = pd.Series(given.everywhere.get(name, BUILT_IN[name]), index=pages.index, dtype=object)
    if name == "sitemap.priority":
        table = [by_depth(given.priority, depth) for depth in range(int(pages["depth"].max()) + 1)]
        values = pages["depth"].map(dict(enumerate(table)))
    by_type: dict[str, str | None] = {}
    for kind in given.types:
        for each in chain(given.types, kind):
            by_type[kind] = given.types[each][1].get(name, by_type.get(kind))
    of_type = pages["type"].map(by_type)
    values = of_type.fillna(values) if of_type.notna().any() else values
    said = pd.Series(index=pages.index, dtype=object)
    mine = below[below["name"] == name]
    said.iloc[at.get_indexer(mine["path"])] = mine["text"].to_numpy()
    if len(mine):
        branch = pd.Series(index=pages.index, dtype=object)
        for level in levels:
            parents = pages["parent"].to_numpy()[level]
            branch.iloc[level] = (
                said.iloc[parents].fillna(branch.iloc[parents].set_axis(said.index[parents])).to_numpy()
            )
        values = branch.fillna(values)
    return values.copy()


def rules_met(
    given: Given, pages: pd.DataFrame, levels: list[np.ndarray], at: pd.Index
) -> dict[str, list[tuple[np.ndarray, str]]]:
    """For each setting the pages that rules meet and what they give, the top rule first."""
    found: dict[str, list[tuple[np.ndarray, str]]] = {}
    for when, give in given.rules:
        branch = when["in_branch"]
        meets = (pages["path"] == branch) | pages["path"].str.startswith(branch + "/")
        if "type" in when:
            kinds = [kind for kind in given.types if when["type"] in chain(given.types, kind)]
            meets &= pages["type"].isin(kinds)
        for fact in ("made_with", "language"):
            if fact in when:
                meets &= pages[fact] == when[fact]
        if "depth" in when:
            meets &= pages["depth"] == int(when["depth"])
        for name, text in give.items():
            found.setdefault(name, []).append((np.flatnonzero(meets), text))
    return found


def on_pages(name: str, values: pd.Series, here: pd.DataFrame, at: pd.Index) -> pd.Series:
    """The values with what single pages say."""
    rows = at.get_indexer(here["path"])
    if name in LISTS:
        before = values.iloc[rows]
        texts = [
            grown(b, t[2:]) if t.startswith("+ ") else plain(name, t) for b, t in zip(before, here["text"], strict=True)
        ]
    else:
        texts = here["text"].tolist()
    values.iloc[rows] = texts
    return values


if __name__ == "__main__":
    resolve(Path(sys.argv[1]), Path(sys.argv[2]))
