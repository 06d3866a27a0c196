"""pandas: the tree by a join of paths with their beginnings, values by joins and fills, level by level."""

from __future__ import annotations

import sys
from pathlib import Path

import numpy as np
import pandas as pd

from benchmarks.make import LISTS

from .given import BUILT_IN, SETTINGS, Given, by_depth, chain, grown, of_type, plain, read


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
    matched = rules_matched(given, pages, levels, at)
    found = {"path": pages["path"]}
    for name in SETTINGS:
        values, sources = from_above(name, given, pages, levels, below, at)
        for rows, text, rule in reversed(matched.get(name, [])):
            values.iloc[rows] = text
            sources.iloc[rows] = rule
        on_pages(name, values, sources, here[here["name"] == name], at)
        if name in given.locked:
            values = pd.Series(given.locked[name], index=pages.index)
            sources = pd.Series("everywhere", index=pages.index)
        found[name], found[f"source of {name}"] = values, sources
    pd.DataFrame(found).astype(dict.fromkeys(list(found)[1:], "category")).to_parquet(out, index=False)


def from_above(
    name: str, given: Given, pages: pd.DataFrame, levels: list[np.ndarray], below: pd.DataFrame, at: pd.Index
) -> tuple[pd.Series, pd.Series]:
    """What everywhere, types and branches give of a setting, and which of them gives it."""
    values = pd.Series(given.everywhere.get(name, BUILT_IN[name]), index=pages.index, dtype=object)
    sources = pd.Series("everywhere" if name in given.everywhere else "built-in", index=pages.index, dtype=object)
    if name == "sitemap.priority":
        table = [by_depth(given.priority, depth) for depth in range(int(pages["depth"].max()) + 1)]
        values, sources = pages["depth"].map(dict(enumerate(table))), pd.Series("everywhere", index=pages.index)
    by_type = {kind: of_type(given, kind).get(name) for kind in given.types}
    if any(by_type.values()):
        answers = {kind: answer for kind, answer in by_type.items() if answer}
        values = pages["type"].map({kind: text for kind, (text, _) in answers.items()}).fillna(values)
        sources = pages["type"].map({kind: source for kind, (_, source) in answers.items()}).fillna(sources)
    mine = below[below["name"] == name]
    if len(mine):
        places = at.get_indexer(mine["path"])
        said, said_by = pd.Series(index=pages.index, dtype=object), pd.Series(index=pages.index, dtype=object)
        said.iloc[places], said_by.iloc[places] = mine["text"].to_numpy(), ("below " + mine["path"]).to_numpy()
        branch, branch_by = pd.Series(index=pages.index, dtype=object), pd.Series(index=pages.index, dtype=object)
        for level in levels:
            above = pages["parent"].to_numpy()[level]
            branch.iloc[level] = said.iloc[above].fillna(branch.iloc[above]).to_numpy()
            branch_by.iloc[level] = said_by.iloc[above].fillna(branch_by.iloc[above]).to_numpy()
        values, sources = branch.fillna(values), branch_by.fillna(sources)
    return values.copy(), sources.copy()


def rules_matched(
    given: Given, pages: pd.DataFrame, levels: list[np.ndarray], at: pd.Index
) -> dict[str, list[tuple[np.ndarray, str, str]]]:
    """For each setting the pages that rules meet and what they give, the top rule first."""
    found: dict[str, list[tuple[np.ndarray, str, str]]] = {}
    for rule, when, give in given.rules:
        branch = when["in_branch"]
        meets = (pages["path"] == branch) | pages["path"].str.startswith(branch + "/")
        if "type" in when:
            kinds = [kind for kind in given.types if when["type"] in chain(given.types, kind)]
            meets &= pages["type"].isin(kinds)
        for detail in ("made_with", "language"):
            if detail in when:
                meets &= pages[detail] == when[detail]
        if "depth" in when:
            meets &= pages["depth"] == int(when["depth"])
        for name, text in give.items():
            found.setdefault(name, []).append((np.flatnonzero(meets), text, f"rule {rule}"))
    return found


def on_pages(name: str, values: pd.Series, sources: pd.Series, here: pd.DataFrame, at: pd.Index) -> None:
    """Put into the values and sources what single pages say."""
    rows = at.get_indexer(here["path"])
    texts = here["text"].tolist()
    if name in LISTS:
        pairs = zip(values.iloc[rows], texts, strict=True)
        texts = [grown(before, t[2:]) if t.startswith("+ ") else plain(name, t) for before, t in pairs]
    values.iloc[rows] = texts
    sources.iloc[rows] = "here"


if __name__ == "__main__":
    resolve(Path(sys.argv[1]), Path(sys.argv[2]))
