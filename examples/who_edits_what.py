"""Who may edit what: a pandas table of people by branches, and a picture of it. Run it cell by cell, or as a script.

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

# %% A row a page: its branch, and whether each person may edit it
paths = list(site.resolve())
branch = pd.Series([f"/{path.split('/')[1]}" for path in paths], index=pd.Index(paths, name="path"), name="branch")
people = [person for person in access.people() if not access.is_admin(person)]
may_edit = pd.DataFrame({person: branch.index.isin(access.pages(person, "edit")) for person in people}, index=paths)

# %% The table: how many pages of each branch each may edit
table = may_edit.groupby(branch.array, sort=False).sum().assign(pages=branch.value_counts())
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
