"""Awkward YAML, as people write it, survives edits byte for byte but for the lines that change; or the edit is refused."""

from __future__ import annotations

import re
from contextlib import suppress
from pathlib import Path

import pytest

import davlo
from davlo.core.arrays.lines import lines_of
from davlo.core.change.steps.change import Change, ChangeError
from davlo.files.rewrite.cannot_rewrite import CannotRewrite

HEAD = "davlo: 1\nsite: {name: Small, url: 'https://small.example', values: [values.csv]}\n"
DECLARED = "sidebars: {main: {blank: yes}, quiet: {blank: yes}}\nlayouts: {plain: {areas: [content, right]}}\n"
PEOPLE = "people: {names: [ida, bo], groups: {staff: [ida]}}\n"
AWKWARD = {
    "flow on one line": "everywhere: {title.limit: 40, sidebar.right: main}\n",
    "flow over lines": "everywhere: {\n  title.limit: 40,  # short\n  sidebar.right: main\n}\n",
    "flow with a comma at its end": "everywhere: {title.limit: 40, sidebar.right: main,}\n",
    "flow without spaces": 'everywhere: {"title.limit": 40,"sidebar.right": main}\n',
    "an empty flow mapping": "everywhere: {}\n",
    "an empty flow mapping with a comment": "everywhere: {}  # nothing yet\n",
    "no everywhere at all": "# only comments here\n",
    "block": "everywhere:\n  title.limit: 40\n  sidebar.right: main\n",
    "block indented by four": "everywhere:\n    title.limit: 40\n    sidebar.right: main\n",
    "block indented by one": "everywhere:\n title.limit: 40\n sidebar.right: main\n",
    "comments after values": "everywhere:  # all\n  title.limit: 40    # forty\n  sidebar.right: main # the usual\n",
    "comments between": "everywhere:\n  # how long\n  title.limit: 40\n\n  # what stands there\n  sidebar.right: main\n# the end\n",
    "blank lines": "\n\neverywhere:\n\n  title.limit: 40\n\n\n  sidebar.right: main\n\n\n",
    "spaces at the ends of lines": "everywhere:   \n  title.limit: 40   \n  sidebar.right: main   \n",
    "quoted values": "everywhere:\n  title.limit: '40'\n  sidebar.right: \"main\"\n",
    "quoted keys": "everywhere:\n  'title.limit': 40\n  \"sidebar.right\": main\n",
    "a folded text": "everywhere:\n  title.limit: 40\n  title.pattern: >-\n    {title}\n    and more\n  sidebar.right: main\n",
    "a literal text": "everywhere:\n  title.pattern: |-\n    {title} no\n  title.limit: 40\n  sidebar.right: main\n",
    "a literal text at the end": "everywhere:\n  title.limit: 40\n  sidebar.right: main\n  title.pattern: |-\n    {title}\n",
    "a plain text over lines": "everywhere:\n  title.limit: 40\n  title.pattern: one\n    two\n  sidebar.right: main\n",
    "a quoted text over lines": 'everywhere:\n  title.pattern: "one\n    two"\n  title.limit: 40\n  sidebar.right: main\n',
    "a key with its value below": "everywhere:\n  title.limit:\n    40\n  sidebar.right:\n    main\n",
    "an explicit key": "everywhere:\n  ? title.limit\n  : 40\n  sidebar.right: main\n",
    "an anchor on a value": "everywhere:\n  title.limit: &few 40\n  sidebar.right: main\ntypes: {note: {give: {title.limit: *few}}}\n",
    "an anchor on a body": "everywhere: &all\n  title.limit: 40\n  sidebar.right: main\ntypes:\n  note: {give: *all}\n",
    "an anchor nobody uses": "everywhere: &all\n  title.limit: &few 40\n  sidebar.right: main\n",
    "a tag": "everywhere:\n  title.limit: !!str 40\n  sidebar.right: !!str main\n",
    "tabs after values": "everywhere:\n  title.limit: 40\t# forty\n  sidebar.right: main\t\n",
    "letters of many scripts": "everywhere:\n  title.pattern: 'Été · 日本 {title}'\n  title.limit: 40\n  sidebar.right: main  # été\n",
    "letters beyond the first plane": "everywhere:\n  title.pattern: '🌱 {title} 𝔘'\n  title.limit: 40 # 🌱\n  sidebar.right: main\n",
    "CRLF": "everywhere:\r\n  title.limit: 40\r\n  # note\r\n  sidebar.right: main\r\n",
    "CRLF and flow": "everywhere: {title.limit: 40,\r\n  sidebar.right: main}\r\n",
    "no end of the last line": "everywhere:\n  title.limit: 40\n  sidebar.right: main",
    "no end of the last line, in flow": "everywhere: {title.limit: 40, sidebar.right: main}",
    "locks": "everywhere:\n  sidebar.right: main\n  lock: {title.limit: 40}  # the trustees\n",
    "locks in lines": "everywhere:\n  lock:\n    # the trustees\n    title.limit: 40\n  sidebar.right: main\n",
    "a reason": "everywhere:\n  title.limit: 40\n  sidebar.right: main\n  because: It was agreed\n",
    "pages in flow": "everywhere: {title.limit: 40}\npages: {/a: {below: {sidebar.right: main}}, /a/b: {here: {title.limit: 9}}}\n",
    "pages in lines": "everywhere: {title.limit: 40}\npages:\n  # the first\n  /a:\n    below:\n      sidebar.right: main\n  /a/b: {here: {title.limit: 9}} # short\n",
    "pages under other names": "pages:\n  /a/: {below: {sidebar.right: main}}\n  https://small.example/a/b: {here: {title.limit: 9}}\n",
    "a document that begins and ends": "---\neverywhere:\n  title.limit: 40\n  sidebar.right: main\n...\n",
    "rules": "everywhere: {title.limit: 40}\nrules:\n  - name: One\n    when: {path: /a}\n    give:\n      sidebar.right: main  # here\n  -   {name: Two, when: {path: /a/b}, give: {title.limit: 9}}\n",
    "rules at the margin": "rules:\n- name: One\n  # note\n  when: {path: /a}\n  give: {sidebar.right: main}\n- name: Two\n  when: {path: /a/b}\n  give: {title.limit: 9}\n",
}
CHANGES = {
    "everywhere, what is there": Change().say("title.limit", 41, everywhere=True),
    "everywhere, what is new": Change().say("menu.show", False, everywhere=True),
    "everywhere, a lock": Change().say("layout.name", "plain", lock=True, everywhere=True),
    "everywhere, taken away": Change().take_away("sidebar.right", everywhere=True),
    "both at once": Change().say("title.limit", 42, everywhere=True).take_away("sidebar.right", everywhere=True),
    "below a page": Change().say("sidebar.right", "quiet", below="/a"),
    "on a page": Change().say("title.limit", 7, here="/a/b"),
    "for a new subject": Change().say("access.ida", ["view"], below="/a"),
    "a list": Change().say("access.staff", {"add": ["edit"]}, everywhere=True),
    "a rule": Change().say("title.limit", 12, rule="Two"),
    "a text": Change().say("title.pattern", "a: {title} # 'q'", everywhere=True),
}


def test_the_corpus_is_large_enough() -> None:
    assert len(AWKWARD) >= 40


MARKED = [*((name, "") for name in AWKWARD), *((name, "\ufeff") for name in [*AWKWARD][::5])]
"""All of them, and some with a byte-order mark."""


@pytest.mark.exhaustive
@pytest.mark.parametrize(("name", "mark"), MARKED, ids=[f"{name}{' (marked)' * bool(mark)}" for name, mark in MARKED])
def test_other_lines_stay_byte_for_byte(name: str, mark: str, tmp_path: Path) -> None:
    body = AWKWARD[name]
    newline = "\r\n" if "\r\n" in body else "\n"
    begins = body.startswith("---")
    head = (HEAD + DECLARED + PEOPLE).replace("\n", newline)
    content = mark + ("---" + newline + head + body[4:] if begins else head + body)
    (tmp_path / "pages.csv").write_text("path,type\n/,\n/a,\n/a/b,note\n/c,\n")
    (tmp_path / "values.csv").write_text("where,setting,value\n")
    if "types:" not in body:
        content = content.replace("layouts:", f"types: {{note: {{label: Note}}}}{newline}layouts:")
    file, written = tmp_path / "davlo.yaml", 0
    for what, change in CHANGES.items():
        file.write_bytes(content.encode())
        (tmp_path / "values.csv").write_text("where,setting,value\n")
        site = davlo.open_site(tmp_path)
        record = None
        with suppress(ChangeError, CannotRewrite):
            record = site.write(change, even_so=True).record
        if record is None:
            assert file.read_bytes() == content.encode(), what
            continue
        written += 1
        now = file.read_bytes().decode()
        old, new = lines_of(content), lines_of(now)
        named = {
            edit.line + at
            for one in record.files
            if one.name == "davlo.yaml"
            for edit in one.edits
            for at in range(len(lines_of(edit.old)))
        }
        kept = [line for number, line in enumerate(old, 1) if number not in named]
        left = iter(new)
        assert all(any(line == other for other in left) for line in kept), what
        assert len(named) <= 4, (what, record.files)
        edits = [edit for one in record.files for edit in one.edits]
        comments = {text.strip() for edit in edits for text in re.findall(r"\s#.*", edit.old)}
        lost = {text for text in comments if not any(text in edit.new for edit in edits)}
        assert not lost or what in ("everywhere, taken away", "both at once"), (what, lost)
        assert newline == "\n" or "\n" not in now.replace("\r\n", "")
        site.undo()
        assert file.read_bytes() == content.encode(), what
    assert written >= 3
