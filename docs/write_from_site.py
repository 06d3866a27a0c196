"""Writes docs/from-site.md: a site folder made of the site that somebody has, with what each command prints.

python -m docs.write_from_site
"""

from __future__ import annotations

import os
import tempfile
from contextlib import chdir
from html import escape
from pathlib import Path
from unittest import mock

from davlo.files.built.page_areas import LANDMARKS
from davlo.start.column_meanings import OTHER_WORDS

from .write_own_site import asked

TABLE = """\
URL,Page title,Sidebar,Seitentyp,visits
https://thistlemouth.example/,Thistlemouth Museum,none,start,9100
https://thistlemouth.example/visit,Visit,planning,page,4200
https://thistlemouth.example/visit/prices,Prices,planning,page,3900
https://thistlemouth.example/visit/cafe,Café,planning,page,1200
https://thistlemouth.example/ships,Ships,collection,page,2100
https://thistlemouth.example/ships/anna,The Anna,collection,ship,800
https://thistlemouth.example/ships/seal,The Seal,collection,ship,750
https://thistlemouth.example/news,News,none,page,600
"""
PAGES = {
    "/": ("Thistlemouth Museum", ""),
    "/visit/": ("Visit", "Opening times"),
    "/visit/prices/": ("Prices", "Opening times"),
    "/visit/cafe/": ("Café", "Opening times"),
    "/ships/": ("Ships", "Ships of the harbour"),
    "/ships/anna/": ("The Anna", "Ships of the harbour"),
    "/ships/seal/": ("The Seal", "Ships of the harbour"),
    "/news/": ("News", ""),
}
MAPPING = """\
areas:
  right: div.side            # an area: the first element that this CSS selector matches
  content: "#text"
details:
  type: {select: body, attribute: data-kind}
  author: .byline            # without an attribute: the text of the element
skip: [.advertisement]       # taken off each page before anything is read
"""
HEAD = """# Begin from the site you have

Made by `python -m docs.write_from_site`, which runs these commands and prints what comes back.

`davlo start DIR --from X` writes a site folder from what you have: a table, a sitemap, a folder of built pages, rows of
a database. It works out the values that your pages show, and says them with the fewest statements: defaults for the
whole site, for types and for branches in `davlo.yaml`, and exceptions of single pages in `values.csv`. Then it reads
what it is about to write, and compares every value. Nothing is fetched, and nothing that the files hold is run.
"""
FROM_TABLE = """## From a table

A CSV file or a spreadsheet (`.xlsx`, the first sheet) with a row for each page, whatever the columns are called:

```csv
{table}```

`--column` says what a column means where its name does not. Any other column is kept as a detail of your own, which
rules can ask for. In a column of settings, a blank cell says nothing; a blank cell in a column of lists is an empty
list.

```console
$ {command}
{printed}
```

`davlo.yaml` then says:

```yaml
{decisions}
```

| detail or setting | columns that are read as it, beside its own name |
|---|---|
{words}

`--column 'THEIRS=setting:NAME'` makes a column a setting of your own, and `--column 'THEIRS=-'` leaves it out. Rows of
a database are read as a table: `--from database:NAME --query 'select …'`, with the address of the database in the
environment (`DAVLO_DATABASE_NAME`).
"""
FROM_PAGES = """## From built pages

A folder of HTML pages in any layout (`visit/index.html`, `visit.html`, a folder for each language). Its `sitemap.xml`
and `robots.txt` are read without being named; the lines of robots.txt become `robots`. Davlo reads the pages by the
web's open conventions:

- `<title>`: what many document titles share becomes `title.pattern`, for the whole site or for a branch, if it takes
  few statements; the rest is the page's title. The site's name comes from what most titles share, else from
  `og:site_name`, else from the home page.
- The first `<h1>` of the content is the heading. An `<h1>` that most pages share is the site's name, and none; buttons
  and permalinks in it are no words. A heading that is not the title becomes `heading.text`. Without an `<h1>`, the
  first lower heading that the document title repeats counts.
- `lang` (a site whose pages all say `en` has `languages: [en]`), `rel=canonical`, `rel=alternate hreflang`, `meta
  robots` and the same for single crawlers, dates in `meta` and JSON-LD, `meta refresh`.
- The page above: by breadcrumbs (in JSON-LD, in a `nav` that is called so, links with signs such as › between, or a
  short list that ends in the page's own name), else by `rel=up` (or a link
  with the access key u), else by the folder's index. A page that only sends its
  readers on is above no other.
- Landmarks, by element or by `role`: the areas of the layout ({landmarks}).
- Davlo declares content that several pages share once: as a sidebar, a band, a block of links or of text, named for
  what it holds. Navigation that opens differently in each section is one block: the links that nearly all pages show.
  It becomes the menu if its links follow the tree.
- An area whose contents few statements explain, such as a table of contents, is `filled_elsewhere`: Davlo neither
  decides nor checks what shows there. The command lists it under "Not recovered".

Right after it, `davlo compare FOLDER` reports only what is wrong with the built site itself, such as a second `<h1>`;
later, whatever changes in the built pages.

```console
$ {command}
{printed}
```

```yaml
{decisions}
```

What pages do not tell by these conventions, a small file can name by CSS selectors (`--areas FILE`):

```yaml
{mapping}```

What HTML does not tell is not recovered: who may edit, types (but by `--areas`), the reasons of decisions, and content
that only few pages show. The command lists it under "Not recovered", with the number of pages.
"""
SEVERAL = """## From several

Repeat `--from`: each page is there once, and the first source counts where they differ. A page that a sitemap leaves
out, and another source has, gets `sitemap.include: no`.

```console
$ {command}
{printed}
```
"""


def page() -> str:
    """The whole page; the commands run in a folder that is gone afterwards."""
    with tempfile.TemporaryDirectory() as name, chdir(name), mock.patch.dict(os.environ, COLUMNS="110"):
        Path("list.csv").write_text(TABLE, encoding="utf-8")
        _write_pages(Path("public"))
        table = "davlo start from-table --from list.csv --column Seitentyp=type"
        pages = "davlo start from-pages --from public"
        both = "davlo start from-both --from list.csv --from public/sitemap.xml --column Seitentyp=type"
        words = "\n".join(f"| `{detail}` | {', '.join(some)} |" for detail, some in OTHER_WORDS.items())
        from_table = FROM_TABLE.format(
            table=TABLE, command=table, printed=asked(table), decisions=_decisions("from-table"), words=words
        )
        from_pages = FROM_PAGES.format(
            landmarks=", ".join(f"{role} is `{area}`" for role, area in LANDMARKS.items()),
            command=pages,
            printed=asked(pages),
            decisions=_decisions("from-pages"),
            mapping=MAPPING,
        )
        return "\n".join([HEAD, from_table, from_pages, SEVERAL.format(command=both, printed=asked(both))])


def _decisions(folder: str) -> str:
    """What davlo.yaml says, without its first lines."""
    text = (Path(folder) / "davlo.yaml").read_text(encoding="utf-8")
    return text.partition("davlo: 1\n\n")[2].rstrip()


def _write_pages(folder: Path) -> None:
    """The pages of the example, and their sitemap."""
    menu = "".join(f'<li><a href="{path}">{PAGES[path][0]}</a></li>' for path in ("/", "/visit/", "/ships/", "/news/"))
    for path, (title, sidebar) in PAGES.items():
        aside = f"<aside><h2>{sidebar}</h2><p>What is in {sidebar.lower()}</p></aside>" if sidebar else ""
        file = folder / path.strip("/") / "index.html"
        file.parent.mkdir(parents=True, exist_ok=True)
        file.write_text(
            f"<html lang=en><title>{escape(title)} – Thistlemouth Museum</title>"
            f'<link rel=canonical href="https://thistlemouth.example{path}">'
            f"<header><p>Thistlemouth Museum</p></header><nav><ul>{menu}</ul></nav>"
            f"<main><h1>{escape(title)}</h1></main>{aside}<footer>Quay 3, daily 10 to 17</footer>",
            encoding="utf-8",
        )
    urls = "".join(f"<url><loc>https://thistlemouth.example{path}</loc></url>" for path in PAGES if path != "/news/")
    space = "http://www.sitemaps.org/schemas/sitemap/0.9"
    (folder / "sitemap.xml").write_text(f'<urlset xmlns="{space}">{urls}</urlset>', encoding="utf-8")


if __name__ == "__main__":
    text = page()
    (Path(__file__).parent / "from-site.md").write_text(text, encoding="utf-8")
