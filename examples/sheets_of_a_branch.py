"""Pictures of a branch: its pages three by three beside each other, and a map of each setting that differs in it.

python examples/sheets_of_a_branch.py [SITE-FOLDER [BRANCH [FOLDER-FOR-PICTURES]]]
"""

from __future__ import annotations

import sys
from pathlib import Path

import davlo
from davlo import draw


def main(folder: str | None, branch: str, to: str | None) -> None:
    """Draw the branch; write the pictures only where a folder is named for them."""
    site = davlo.open_site(folder) if folder else davlo.open_demo()
    effective = site.resolve()
    top = site.tree.number(branch)
    pages = [site.tree.paths[page] for page in site.tree.children(top)]
    figures = {}
    for begin in range(0, len(pages), 3):
        some = pages[begin : begin + 3]
        figures[f"pages-{begin // 3 + 1}"] = draw.page(effective, *some)
        print(f"pages-{begin // 3 + 1}: {', '.join(some)}")
    for setting in site.catalogue.names():
        codes, _ = effective.codes(setting)
        values = len(set(codes[top : int(site.tree.end[top])].tolist()))
        if values > 1:
            figures[f"map-{setting}"] = draw.map(effective, setting, branch)
            print(f"map-{setting}: {values} values")
    if to:
        for name, figure in figures.items():
            figure.savefig(Path(to) / f"{name}.png")
        print(f"wrote {len(figures)} pictures to {to}")


if __name__ == "__main__":
    named = dict(enumerate(sys.argv[1:]))
    main(named.get(0), named.get(1, "/visit"), named.get(2))
