"""Sites of a shape that once took a time out of proportion: each as its files, in a size that can be chosen."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import NamedTuple

HEAD = "davlo: 1\nsite: {name: Shape, url: 'https://shape.example'}\n"
WITH_VALUES = "davlo: 1\nsite: {name: Shape, url: 'https://shape.example', values: [values.csv]}\n"


class Shape(NamedTuple):
    """A shape: its files for a size, and the command that reads them."""

    files: Callable[[int], dict[str, str]]
    words: tuple[str, ...] = ("check",)


def _rows(lines: str) -> str:
    return "path,title,parent,type\n/,Home,,\n" + lines


def _pages(line: Callable[[int], str]) -> Callable[[int], dict[str, str]]:
    return lambda n: {"davlo.yaml": HEAD, "pages.csv": _rows("".join(line(i) + "\n" for i in range(n)))}


def _decisions(begin: str, line: Callable[[int], str], end: str = "") -> Callable[[int], dict[str, str]]:
    return lambda n: {
        "davlo.yaml": HEAD + begin + "".join(line(i) + "\n" for i in range(n)) + end.format(n=n, next=n + 1),
        "pages.csv": _rows(""),
    }


def _values(line: Callable[[int], str]) -> Callable[[int], dict[str, str]]:
    rows = "where,setting,value\n"
    return lambda n: {
        "davlo.yaml": WITH_VALUES,
        "pages.csv": _rows(""),
        "values.csv": rows + "".join(line(i) + "\n" for i in range(n)),
    }


def _circle_of_pages(n: int) -> dict[str, str]:
    return _pages(lambda i: f"/p{i},T,/p{(i + 1) % n},")(n)


def _circle_of_types(n: int) -> dict[str, str]:
    return _decisions("types:\n", lambda i: f"  t{i}: {{based_on: t{(i + 1) % n}}}")(n)


def _includes(n: int) -> dict[str, str]:
    files = {f"part-{i}.yaml": f"include: part-{i + 1}.yaml\n" for i in range(n)} | {
        f"part-{n}.yaml": "menu: {max_entries: 7}\n"
    }
    return {"davlo.yaml": HEAD + "include: part-0.yaml\n", **files, "pages.csv": _rows("")}


def _groups(n: int) -> dict[str, str]:
    people = [f"person-{i}" for i in range(n)]
    groups = "".join(f"    group-{i}: [{', '.join(people)}]\n" for i in range(20))
    head = f"people:\n  names: [{', '.join(people)}]\n  groups:\n{groups}"
    return {"davlo.yaml": f"{HEAD}{head}everywhere: {{access: {{group-1: [view, edit]}}}}\n", "pages.csv": _rows("")}


def _one_title(n: int) -> dict[str, str]:
    return {"davlo.yaml": HEAD, "pages.csv": _rows(f"/a,{'x' * n},,\n")}


def _one_line(n: int) -> dict[str, str]:
    return {"davlo.yaml": HEAD + f"a: b{' ' * n}c: d\n", "pages.csv": _rows("")}


def _glob(n: int) -> dict[str, str]:
    rule = f'rules: [{{name: Deep, when: {{path: "{"/**/a" * n}"}}, give: {{menu.show: no}}}}]\n'
    return {"davlo.yaml": HEAD + rule, "pages.csv": _rows(f"{'/a' * n}/b,T,,\n")}


SHAPES: dict[str, Shape] = {
    "parents that are not there": Shape(_pages(lambda i: f"/p{i},T,{i % 977},")),
    "a path again and again": Shape(_pages(lambda i: "/a,T,,")),
    "types that nobody declared": Shape(_pages(lambda i: f"/p{i},T,,t{i}")),
    "a circle of parents": Shape(_circle_of_pages),
    "a circle of types": Shape(_circle_of_types),
    "a chain of types": Shape(
        _decisions("types:\n", lambda i: f"  t{i}: {{based_on: t{i + 1}}}", "  t{n}: {{label: T}}\n"),
    ),
    "a chain of layouts": Shape(
        _decisions("layouts:\n", lambda i: f"  l{i}: {{based_on: l{i + 1}}}", "  l{n}: {{areas: [content]}}\n")
    ),
    "a chain of groups": Shape(
        _decisions("people:\n  names: [a]\n  groups:\n", lambda i: f"    g{i}: [g{i + 1}]", "    g{n}: [a]\n")
    ),
    "blocks of blocks": Shape(
        _decisions(
            "blocks:\n",
            lambda i: f"  b{i}: {{kind: one-of, blocks: [b{i + 1}, b{i + 2}]}}",
            "  b{n}: {{kind: text, text: x}}\n  b{next}: {{kind: text, text: x}}\n"
            "everywhere: {{blocks.content: [b0]}}\nlayouts: {{plain: {{areas: [content]}}}}\n",
        )
    ),
    "a chain of includes": Shape(_includes),
    "people in groups": Shape(_groups),
    "keys without values": Shape(_decisions("everywhere:\n", lambda i: f"  k{i}:")),
    "a key again and again": Shape(_decisions("everywhere:\n", lambda i: "  menu.show: yes")),
    "settings that are not there": Shape(_decisions("everywhere:\n", lambda i: f"  k{i}: yes")),
    "a statement again and again": Shape(_values(lambda i: "everywhere,menu.show,yes")),
    "rows of types that are not there": Shape(_values(lambda i: f"type t{i},menu.show,yes")),
    "statements for pages that are not there": Shape(_values(lambda i: f"here /gone/{i},menu.show,no")),
    "guarantees about pages that are not there": Shape(
        _decisions("guarantees:\n", lambda i: f"  - {{name: N{i}, when: {{below: /no/{i}}}, has: {{menu.show: yes}}}}")
    ),
    "a long title": Shape(_one_title, ("picture", "/a", "--to", "{folder}/picture.png")),
    "a long line": Shape(_one_line),
    "a glob of many parts": Shape(_glob),
}  # fmt: skip


def write_shape(name: str, size: int, folder: Path) -> list[str]:
    """Write a site of a shape into a new folder; gives the words of the command that reads it."""
    folder.mkdir(parents=True)
    shape = SHAPES[name]
    for file, content in shape.files(size).items():
        (folder / file).write_text(content, encoding="utf-8")
    return [*(word.format(folder=folder) for word in shape.words), "--site", str(folder)]
