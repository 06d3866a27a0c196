"""Made-up sites: a description that the reference reads, and the folder that Davlo reads, from the same."""

from __future__ import annotations

import csv
import os
from collections.abc import Callable
from pathlib import Path
from random import Random
from typing import Any

import pytest
import yaml
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from tests.plain.resolution import ACTIONS, AREAS

SiteDict = dict[str, Any]
PEOPLE = {"names": ["amber.finch", "bruno.wray", "celia.dunn"], "admins": ["bruno.wray"]}
GROUPS = {"keepers": ["amber.finch"], "readers": ["celia.dunn", "keepers"], "nobody": []}
SUBJECTS = ["everyone", "signed-in", "owner", "owner-group", "amber.finch", "keepers", "readers"]
ROLES = {"reading": ["view"], "tending": ["view", "edit", "create"]}
BLOCKS = ["clock", "search", "map", "news"]
TYPES = ["page", "note", "memo", "record"]
OWN: dict[str, dict[str, Any]] = {
    "spark": {"kind": "flag"},
    "motto": {"kind": "text", "default": "as ever"},
    "rank": {"kind": "integer", "least": "0", "most": "20"},
    "weight": {"kind": "number", "default": "2.5", "for_types": ["note", "record"]},
    "hue": {"kind": "choice", "choices": ["red", "green"]},
    "topics": {"kind": "list", "default": ["t1", "t2"]},
    "until": {"kind": "date"},
    "tint": {"kind": "color"},
}
ENDS = ("\n", "\r\n", "\r")
ODD_COMMENT = "# a comment with letters that end no line: \u2028 \u2029 \x85\n"
WORDS = {
    "heading.show": ["yes", "no", "true", "false"],
    "title.pattern": ["{title}", "{branch}/{parent}: {title} at {site}", "{{{type}}} {made_with}{no} {", "none"],
    "title.limit": ["8", "40", "70", "none"],
    "menu.show": ["yes", "no"],
    "layout.name": ["plain", "wide", "none"],
    "layout.theme": ["day", "dim", "none"],
    "layout.width": ["full", "narrow"],
    "sidebar.right": ["main", "slim", "spare", "none"],
    "sidebar.left": ["main", "slim", "none"],
    "look.right": ["calm", "broad", "hidden", "none"],
    "look.left": ["calm", "broad", "none"],
    "band.footer": ["foot", "none"],
    "band.masthead": ["foot", "none"],
    "robots.index": ["yes", "no"],
    "sitemap.include": ["yes", "no"],
    "page.owner": ["amber.finch", "celia.dunn", "none"],
    "page.group": ["keepers", "none"],
    "sitemap.priority": ["0.9", "0.35", "1", "none"],
    "sitemap.changefreq": ["daily", "none"],
    "spark": ["yes", "no"],
    "motto": ["none", "<empty>", "a: b", "yes"],
    "rank": ["1", "7", "none"],
    "weight": ["3", "0.25"],
    "hue": ["red", "green", "none"],
    "until": ["2026-12-24", "none"],
    "tint": ["#a0b1c2", "none"],
}
DRESS = [
    *("layout.name", "layout.theme", "sidebar.left", "sidebar.right", "look.left", "look.right", "band.masthead"),
    *("title.limit", "sitemap.priority"),
]
LISTS = {"blocks.content": BLOCKS, "blocks.right": BLOCKS, "layout.phone-order": AREAS, "topics": ["t1", "t2", "t3"]}
REFERENCES = {"everywhere": [], "type": ["<everywhere>"], "below": ["<everywhere>", "<type>"]}
ALL_REFERENCES = ["<everywhere>", "<type>", "<below>"]


class Maker:
    """Draws one site; keeps count of what each scope has said, since nothing may be said twice."""

    def __init__(self, random: Random) -> None:
        self.random = random
        self.said: set[tuple[str, str]] = set()

    def chance(self, share: float) -> bool:
        return self.random.random() < share

    def some(self, words: list[str], most: int = 3) -> list[str]:
        return self.random.sample(words, self.random.randint(0, min(most, len(words))))

    def items(self, name: str, words: list[str]) -> Any:
        """A list, or a change of one."""
        if self.chance(0.5):
            return "none" if self.chance(0.2) else self.some(words)
        return {
            key: self.some(words, 2)
            for key in self.random.sample(["add", "first", "remove"], self.random.randint(1, 2))
        }

    def value(self, name: str, scope: str) -> Any:
        references = REFERENCES.get(scope, ALL_REFERENCES)
        if references and self.chance(0.15):
            return self.random.choice(references)
        if name in LISTS:
            return self.items(name, LISTS[name])
        if name == "sitemap.priority" and self.chance(0.3):
            return {"by_depth": {"top": "1.0", "step": self.random.choice(["0.3", "0.0612345"]), "floor": "0.1"}}
        return self.random.choice(WORDS[name])

    def settings(self, scope: str, key: str, most: int) -> dict[str, Any]:
        names = self.random.sample([*WORDS, *LISTS], self.random.randint(0, most))
        free = [name for name in names if (key, name) not in self.said]
        self.said |= {(key, name) for name in free}
        return {name: self.value(name, scope) for name in free}

    def access(self, scope: str, key: str) -> dict[str, Any]:
        found: dict[str, Any] = {}
        for family in ("access", "deny"):
            for who in self.some(SUBJECTS, 2) if self.chance(0.4) else []:
                if (key, f"{family}.{who}") not in self.said:
                    self.said.add((key, f"{family}.{who}"))
                    references = REFERENCES.get(scope, ALL_REFERENCES)
                    plain = self.items("access", [*ACTIONS[:4], "reading", "tending"])
                    found.setdefault(family, {})[who] = self.random.choice([plain, plain, *references[:1]])
        return found

    def body(self, scope: str, keys: list[str], locks: bool, presets: list[str]) -> dict[str, Any]:
        """A scope body; `keys` name the scopes it speaks in."""
        key = keys[0]
        body = {**self.settings(scope, key, 4), **self.access(scope, key)}
        if locks and self.chance(0.35):
            body["lock"] = {**self.settings(scope, key, 2), **(self.access(scope, key) if self.chance(0.3) else {})}
        if presets and self.chance(0.4):
            body["use"] = self.some(presets, 2) if self.chance(0.5) else self.random.choice(presets)
        if self.chance(0.2):
            body["fresh_access"] = self.random.choice(["yes", "yes", "no"])
        if self.chance(0.1):
            body["because"] = "so: it was agreed"
        for other in keys[1:]:
            self.said |= {(other, name) for where, name in self.said if where == key}
        return body

    def rows(self) -> list[dict[str, str]]:
        paths = ["/"] if self.chance(0.8) else ["/alone"]
        for number in range(self.random.randint(2, 9)):
            base = self.random.choice(paths).rstrip("/")
            gap = "/gap" if self.chance(0.15) else ""
            paths.append(f"{base}{gap}/{self.random.choice('abé-')}{number}")
        rows: list[dict[str, str]] = []
        for path in paths:
            row = {
                "path": path,
                "title": self.random.choice(
                    [f"Page {path}", "Oak", "oak tree", "Éclair", "", "Oak\x0btree", "Oak\u2028tree", "Oak\x85tree"]
                ),
                "order": self.random.choice(["", "", "1", "2", "0.5"]),
                "type": self.random.choice([*TYPES, "", "stray"]),
                "language": self.random.choice(["en", "fr", ""]),
                "tags": self.random.choice(["", "t1", "t1; t2"]),
                "status": self.random.choice(["live", "draft", "", "", "", "folder"]),
                "made_with": self.random.choice(["", "bench"]),
            }
            if self.chance(0.15) and rows:
                row["parent"] = self.random.choice(rows)["path"]
            if self.chance(0.1):
                row["leads_to"] = self.random.choice([paths[0], "https://made-up.example/else", "/gone"])
            rows.append(row)
        return rows

    def written(self, paths: list[str]) -> dict[str, str]:
        """How the page list writes some paths."""
        forms = ["{path}/", "{path}/index.html", "https://made-up.example{path}", "HTTPS://Made-Up.example{path}/"]
        return {path: self.random.choice(forms).format(path=path.rstrip("/")) for path in paths if self.chance(0.2)}

    def again(self, paths: list[str]) -> list[tuple[str, str]]:
        """Rows that are there again, in another form or as a place in the page: the page of each, and its cell."""
        forms = ["{path}/", "{path}", "{path}#there", "https://made-up.example{path}/index.html#here"]
        return [
            (path, self.random.choice(forms).format(path=path)) for path in paths if path != "/" and self.chance(0.1)
        ]

    def condition(self, paths: list[str]) -> dict[str, Any]:
        choices: dict[str, Any] = {
            "path": self.random.choice(["/*", "/**/a*", "/**", ["/a*", "/*/*"]]),
            "in_branch": self.random.choice(paths),
            "below": [self.random.choice(paths), "/gone"],
            "type": self.random.choice(TYPES),
            "only_type": ["note", "page"],
            "tag": ["t2", "t9"],
            "language": self.random.choice(["en", ["fr", ""]]),
            "status": self.random.choice(["live", "draft", ["folder", "draft"]]),
            "depth": self.random.choice(["1", "1-9", ["0", "2-3"]]),
            "home": self.random.choice(["yes", "no"]),
            "details": {"made_with": self.random.choice(["bench", ["", "bench"]])},
        }
        return {key: choices[key] for key in self.random.sample(list(choices), self.random.randint(1, 2))}

    def site(self) -> SiteDict:
        """The description of a site."""
        rows = self.rows()
        paths = [row["path"] for row in rows]
        presets = {
            name: {**self.settings("preset", f"preset {name}", 3), **self.access("everywhere", f"preset {name}")}
            for name in ("bare", "loud")
        }
        for preset in presets.values():
            for name in [n for n, v in preset.items() if isinstance(v, str) and v in ALL_REFERENCES]:
                del preset[name]
        # presets that say different things of one setting, so that their order shows
        presets["bare"] |= {"sidebar.right": "none", "topics": {"first": ["t3"]}}
        presets["loud"] |= {"sidebar.right": "main", "topics": {"first": ["t2"]}}
        for preset in presets.values():
            preset.setdefault("access", {})["keepers"] = self.some(ACTIONS[:4])
        names = list(presets)
        types: dict[str, Any] = {}
        for name, base in (("page", ""), ("note", "page"), ("memo", "note"), ("record", "")):
            types[name] = (
                {"give": self.body("type", [f"type {name}"], True, names)} if self.chance(0.8) else {"label": name}
            )
            types[name] |= {"based_on": base} if base else {}
            types[name] |= {"without": ["look.right", "hue"]} if self.chance(0.2) else {}
        pages: dict[str, Any] = {}
        for path in [*self.some(paths, 4), "/gone"]:
            scopes = pages[path] = {}
            for scope in self.random.sample(["below", "here", "here_and_below"], self.random.randint(1, 2)):
                keys = {"below": ["below"], "here": ["here"], "here_and_below": ["below", "here"]}[scope]
                keys = [f"{key} {path}" for key in keys]
                if len(keys) == 2:
                    self.said |= {(keys[0], name) for where, name in self.said if where == keys[1]}
                scopes[scope] = self.body("below" if scope != "here" else "here", keys, scope != "here", names)
        rules = []
        for number in range(self.random.randint(0, 3)):
            rule: dict[str, Any] = {"name": f"rule {number}", "when": self.condition(paths)}
            if self.chance(0.4):
                one, other = self.condition(paths), self.condition(paths)
                rule["except"] = one if self.chance(0.5) else [other, {"tag": "t1"}]
            rule["give"] = self.body("rule", [f"rule {number}"], True, names)
            rules.append(rule)
        everywhere = self.body("everywhere", ["everywhere"], True, names)
        if self.chance(0.5):  # pages on which something stands
            for name in DRESS:
                if ("everywhere", name) not in self.said:
                    self.said.add(("everywhere", name))
                    everywhere[name] = self.random.choice(WORDS[name])
        settings: dict[str, Any] = {name: {**body} for name, body in OWN.items()}
        for name in self.some(["topics", "rank", "blocks.content", "access.*", "sidebar.right"], 2):
            settings.setdefault(name, {})["default_for"] = "new-pages"
        if self.chance(0.2):
            settings["page.group"] = {"default_for": "all-pages"}
        columns = self.some(["heading.show", "sidebar.right", "blocks.content", "rank", "access.keepers", "motto"], 3)
        self.cells(rows, columns)
        return {
            "written": self.written(paths),
            "again": self.again(paths),
            "home": self.random.choice(["/", paths[-1]]),
            "language_paths": self.random.choice(["", "/{language}{path}", "/site{path}/{language}"]),
            "settings": settings,
            "presets": presets,
            "types": types,
            "pages": pages,
            "rules": rules,
            "everywhere": everywhere,
            "rows": rows,
            "columns": columns,
            "values": self.value_rows(paths),
            "stamps": self.stamp_rows(paths),
            "roles": ROLES,
            "people": {**PEOPLE, "groups": GROUPS},
        }

    def cell(self, name: str, plain: bool) -> str:
        """A value as a CSV cell holds it."""
        words = LISTS.get(name) or ([*ACTIONS[:4], "tending"] if name.startswith(("access", "deny")) else None)
        if words is None:
            return self.random.choice(WORDS[name])
        items = "; ".join(self.some(words) or words[:1])
        return self.random.choice([items, "none"] if plain else [items, "none", f"+ {items}", f"- {items}"])

    def cells(self, rows: list[dict[str, str]], columns: list[str]) -> None:
        for row in rows:
            for name in columns:
                if self.chance(0.3) and (f"here {row['path']}", name) not in self.said:
                    self.said.add((f"here {row['path']}", name))
                    row[name] = "<below>" if self.chance(0.1) else self.cell(name, plain=False)

    def value_rows(self, paths: list[str]) -> list[dict[str, str]]:
        wheres = [
            "everywhere",
            "type note",
            "type page",
            *(f"{w} {p}" for w in ("below", "here") for p in [*paths, "/gone"]),
        ]
        found = []
        for _ in range(self.random.randint(0, 8)):
            where = self.random.choice(wheres)
            name = self.random.choice(
                ["rank", "topics", "access.keepers", "deny.readers", "heading.show", "page.owner", "motto"]
            )
            if (where, name) not in self.said:
                self.said.add((where, name))
                lock = "yes" if self.chance(0.3) and not where.startswith("here") else ""
                found.append({"where": where, "setting": name, "value": self.cell(name, plain=False), "lock": lock})
        return found

    def stamp_rows(self, paths: list[str]) -> list[dict[str, str]]:
        names = ["page.owner", "page.group", "topics", "blocks.content", "rank", "access.keepers"]
        pairs = [(path, name) for path in [*paths, "/gone"] for name in names if self.chance(0.2)]
        return [{"path": p, "setting": n, "value": self.cell(n, plain=True), "on": "2026-01-05"} for p, n in pairs]


sites = st.randoms(use_true_random=False).map(lambda random: Maker(random).site())
"""Descriptions of sites, for hypothesis."""


def some_scope(random: Random, paths: list[str]) -> dict[str, Any]:
    """A scope, as the steps of a change name it."""
    return random.choice(
        [
            {"everywhere": True},
            {"type": random.choice(["note", "record", "page"])},
            {"below": random.choice(paths)},
            {"here": random.choice(paths)},
        ]
    )


def of_made_up_sites(most: int) -> Callable[[Callable[[SiteDict], None]], Callable[[], None]]:
    """A test of so many made-up sites; of as many as DAVLO_SITES says, where it does (`make test-long`)."""

    def decorate(test: Callable[[SiteDict], None]) -> Callable[[], None]:
        bounded = settings(
            max_examples=int(os.environ.get("DAVLO_SITES", most)),
            deadline=None,
            suppress_health_check=[HealthCheck.too_slow],
        )
        marked: Callable[[], None] = pytest.mark.made_up(bounded(given(sites)(test)))
        return marked

    return decorate


def write_site(site: SiteDict, folder: Path) -> Path:
    """The folder of a description."""
    wide = {"areas": AREAS, "width": "full", **({} if site.get("own_content", True) else {"own_content": "no"})}
    if site.get("filled_elsewhere"):
        wide["filled_elsewhere"] = site["filled_elsewhere"]
    declarations: dict[str, Any] = {
        "layouts": {"plain": {"areas": ["masthead", "content", "footer"]}, "wide": wide},
        "themes": {"day": {"areas": AREAS}, "dim": {"areas": ["content", "right"], "if_missing": {"footer": "map"}}},
        "sidebars": {"main": {"blocks": ["search"]}, "slim": {"blocks": ["clock"]}, "spare": {}},
        "looks": {
            "calm": {"whole": {"width": "30%"}},
            "broad": {"whole": {"inline-size": "40%"}},
            "hidden": {"whole": {"width": "20%"}, "shows_on": []},
        },
        "bands": {"foot": {"fits": ["footer"], "blocks": ["map"]}},
        "blocks": {
            name: {"kind": "text", "text": name, **({"provides": "heading"} if name in ("clock", "map") else {})}
            for name in BLOCKS
        },
        "roles": ROLES,
    }
    whole = {
        "davlo": 1,
        "site": {
            "name": "Made up",
            "url": "https://made-up.example",
            "languages": site.get("languages", ["en", "fr"]),
            "home": site["home"],
            **({"language_paths": site["language_paths"]} if site["language_paths"] else {}),
            "page_list": "pages.csv",
            "values": ["values.csv"],
        },
        "include": ["declared.yaml"],
        "people": site["people"],
        **site.get("more", {}),
        **{key: site[key] for key in ("settings", "presets", "types", "rules", "everywhere")},
        "pages": {site["written"].get(path, path): said for path, said in site["pages"].items()},
    }
    # the order of the areas is the order of the layouts that name them
    declarations["layouts"] = dict(reversed(declarations["layouts"].items()))
    end, mark = ENDS[len(site["rows"]) % len(ENDS)], "\ufeff" if len(site["rows"]) % 2 else ""
    for file, said in (("davlo.yaml", whole), ("declared.yaml", declarations)):
        text = ODD_COMMENT + yaml.safe_dump(said, allow_unicode=True, sort_keys=False)
        (folder / file).write_bytes((mark + text.replace("\n", end)).encode())
    columns = ["path", "title", "type", "parent", "language", "tags", "status", "made_with", "order", "leads_to"]
    rows = [{**row, "path": site["written"].get(row["path"], row["path"])} for row in site["rows"]]
    by_path = {row["path"]: row for row in site["rows"]}
    rows += [{**by_path[path], "path": cell} for path, cell in site["again"] if path in by_path]
    write_csv(folder / "pages.csv", [*columns, *site["columns"]], rows, end, mark)
    write_csv(folder / "values.csv", ["where", "setting", "value", "lock", "because"], site["values"], end, mark)
    write_csv(folder / "stamps.csv", ["path", "setting", "value", "on", "source"], site["stamps"], end, mark)
    return folder


def write_csv(path: Path, columns: list[str], rows: list[dict[str, str]], end: str = "\n", mark: str = "") -> None:
    """Rows as a CSV file, with these ends of lines, after a byte-order mark or none."""
    with path.open("w", newline="", encoding="utf-8") as file:
        file.write(mark)
        writer = csv.DictWriter(file, columns, restval="", lineterminator=end)
        writer.writeheader()
        writer.writerows(rows)
