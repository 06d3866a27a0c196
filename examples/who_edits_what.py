"""Who may edit what: a pandas table of people by sections, and a picture of it. Run it cell by cell, or as a script.

python examples/who_edits_what.py [SITE-FOLDER [PICTURE.png]]        needs pandas: pip install 'davlo[frames]'
"""

# %% The site, and who may do what
from __future__ import annotations

import sys

import pandas as pd
from matplotlib.figure import Figure

import davlo

folder, picture, *_ = [*sys.argv[1:], None, None]
site = davlo.open_site(folder) if folder else davlo.open_demo()
access = site.access()

# %% A row a page: its section, and whether each person may edit it
tree = site.tree
home = tree.find("/")
section = pd.Series("/", index=pd.Index(tree.paths, name="path"), name="branch")
for top in tree.children(home):
    section.iloc[top : int(tree.end[top])] = tree.paths[top]  # pages stand depth first, so a branch is a slice
people = [person for person in access.persons() if not access.is_admin(person)]
may_edit = pd.DataFrame({person: access.may(person, "edit") for person in people}, index=section.index)

# %% The table: how many pages of each section each may edit
table = may_edit.groupby(section, sort=False).sum().assign(pages=section.value_counts())
editors = [person for person in people if table[person].any()]
print(table[[*editors, "pages"]].to_string())
print(f"\nmay edit nothing: {', '.join(person for person in people if person not in editors) or 'nobody'}")

# %% The picture: a cell a person and section, the darker the greater the part of its pages
part = table[editors].div(table["pages"], axis=0)
figure = Figure(figsize=(max(6.4, 1.6 + 1.1 * len(editors)), 1.5 + 0.3 * len(table)), layout="constrained")
axes = figure.add_subplot()
axes.imshow(part, cmap="Greens", vmin=0, vmax=1.4, aspect="auto")
axes.set_xticks(range(len(editors)), editors, rotation=30, ha="right")
axes.set_yticks(range(len(table)), [f"{name} ({pages})" for name, pages in table["pages"].items()], parse_math=False)
axes.set_title(f"Pages that each may edit: {site.name}", loc="left", fontsize=11, parse_math=False)
for row, counts in enumerate(table[editors].to_numpy()):
    for column, count in enumerate(counts):
        axes.text(column, row, str(count) if count else "–", ha="center", va="center", fontsize=8)
if picture:
    figure.savefig(picture, dpi=100)
    print(f"wrote {picture}")
