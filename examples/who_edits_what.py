"""Who may edit how many pages of each section, from the library.

python examples/who_edits_what.py [SITE-FOLDER]
"""

from __future__ import annotations

import sys

import numpy as np

import davlo


def main(folder: str | None) -> None:
    """Print a line a section: its pages, and how many of them each person may edit."""
    site = davlo.open_site(folder) if folder else davlo.open_demo()
    access = site.access()
    may_edit = {person: access.may(person, "edit") for person in access.persons() if not access.is_admin(person)}
    home = site.tree.find("/")
    for top in site.tree.children(home):
        branch = slice(top, int(site.tree.end[top]))  # pages stand depth first, so a branch is a slice
        counts = {person: int(np.count_nonzero(may[branch])) for person, may in may_edit.items()}
        told = ", ".join(f"{person} {count}" for person, count in counts.items() if count) or "nobody"
        print(f"{site.tree.paths[top]:14} {branch.stop - branch.start:3} pages: {told}")


if __name__ == "__main__":
    main(sys.argv[1] if len(sys.argv) > 1 else None)
