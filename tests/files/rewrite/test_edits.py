"""The edits that a finding offers: made in the files, they mend it, and change nothing else."""

from __future__ import annotations

import tempfile
from collections.abc import Callable
from pathlib import Path

import pytest

import davlo
from davlo.core.faults import Place
from davlo.core.findings.finding import Finding
from davlo.core.findings.kinds import KINDS, Kind
from davlo.core.findings.mending import MOST_STEPS, Added, Changed, Lifted, Put, Step, Taken
from davlo.core.findings.remedies import DECIDE, WAYS
from davlo.files.rewrite.text_edits import Edit, Mender, apply_edits
from tests.conftest import Run
from tests.core.findings.cases import CASES
from tests.sites import SiteDict, of_made_up_sites, write_site

Small = Callable[..., Path]
COMMANDS = ("sitemap-stale",)
"""Kinds that a command mends."""


def make(folder: Path, edits: tuple[Edit, ...]) -> None:
    """Make the edits, as a person would."""
    for file in {edit.file for edit in edits}:
        path = folder / file
        content = path.read_bytes().decode()
        for edit in (edit for edit in edits if edit.file == file):
            lines = content.splitlines(keepends=True)
            assert "".join(lines[edit.line - 1 :]).startswith(edit.old)
        path.write_bytes(apply_edits(content, [edit for edit in edits if edit.file == file]).encode())


def identity(finding: Finding) -> tuple[object, ...]:
    """What a finding is about, wherever its lines are: taking one thing away may bring out the next."""
    said = [(one.scope, one.value) for one in finding.statements]
    return (finding.kind, finding.setting, said, list(finding.pages))


def mender(folder: Path) -> tuple[Mender, list[Finding]]:
    site = davlo.open_site(folder)
    return Mender(site.resolve(), folder), list(site.check().findings)


@pytest.mark.parametrize("kind", KINDS, ids=lambda kind: kind.name)
def test_each_way_mends_the_finding_and_brings_no_fault(kind: Kind, small: Small) -> None:
    case = CASES[kind.name]
    tells, findings = mender(case.write(small))
    found = next(one for one in findings if one.kind == kind.name)
    ways = tells.ways(found)
    assert bool(ways) == (kind.name not in (*DECIDE, *COMMANDS))
    assert found.fix.startswith("no one edit mends it: decide ") == (kind.name in DECIDE)
    assert [way.words for way in ways][: len(WAYS.get(kind.name, ()))] == [
        f"take away {words}{', so that weaker scopes speak there again' if way.changes is None else ''}"
        for (words, _), way in zip(WAYS.get(kind.name, ()), ways, strict=False)
    ]
    for way in ways:
        folder = case.write(small)
        before = {finding.kind for finding in findings}
        make(folder, way.edits)
        left = [finding.kind for finding in mender(folder)[1]]
        assert kind.name not in left
        assert {"promise-broken", "lock-clash"} & set(left) <= before


@pytest.mark.parametrize("kind", COMMANDS)
def test_a_command_that_is_told_mends_the_finding(kind: str, small: Small, run: Run) -> None:
    folder = CASES[kind].write(small)
    told = next(one.fix for one in mender(folder)[1] if one.kind == kind)
    words = told.rpartition(": davlo ")[2].split()
    assert run(*words).status == 0
    assert kind not in [one.kind for one in mender(folder)[1]]


def test_the_gardens_edits_mend_what_they_are_for(tmp_path: Path) -> None:
    folder = tmp_path / "garden"
    davlo.write_demo(folder)
    files = {path.name: path.read_bytes() for path in folder.iterdir()}
    tells, findings = mender(folder)
    mended = 0
    for finding, way in [(one, way) for one in findings for way in tells.ways(one)]:
        make(folder, way.edits)
        assert identity(finding) not in [identity(one) for one in mender(folder)[1]]
        mended += 1
        for name, content in files.items():
            (folder / name).write_bytes(content)
    assert mended >= 30


@of_made_up_sites(12)
def test_what_a_way_says_it_changes_is_what_it_changes(site: SiteDict) -> None:
    with tempfile.TemporaryDirectory() as name:
        folder = write_site(site, Path(name))
        files = {path.name: path.read_bytes() for path in folder.iterdir()}
        before = davlo.open_site(folder).resolve()
        tells, findings = mender(folder)
        for finding in findings:
            for way in tells.ways(finding):
                make(folder, way.edits)
                after = davlo.open_site(folder)
                if finding.kind != "near-miss":
                    assert identity(finding) not in [identity(one) for one in after.check().findings], way
                if way.changes is not None:
                    changed = differing(before, after.resolve())
                    assert (finding.kind, way, len(changed)) == (finding.kind, way, way.changes)
                for file, content in files.items():
                    (folder / file).write_bytes(content)


def test_what_hides_one_another_is_counted_together(small: Small) -> None:
    case = CASES["idle-look"]
    tells, findings = mender(case.write(small, more="\npages: {/a: {here: {look.left: slim}}}"))
    way = tells.ways(next(one for one in findings if one.kind == "idle-look"))[0]
    assert (len(way.edits), way.changes) == (2, 3)


def test_a_way_of_very_many_steps_is_none(small: Small) -> None:
    rows = "path,title.limit\n" + "".join(f"/p{i},60\n" for i in range(MOST_STEPS + 1))
    tells, findings = mender(small("", rows))
    assert [(len(one.pages), tells.ways(one)) for one in findings if one.kind == "no-effect"] == [(MOST_STEPS + 1, [])]


def differing(before: davlo.Effective, after: davlo.Effective) -> set[str]:
    """The pages of which a setting has another value."""

    built_in = {setting.name: setting.built_in for one in (before, after) for setting in one.site.catalogue.settings}

    def differ(path: str) -> bool:
        was, now = dict(before[path]), dict(after[path])
        return any(was.get(name, built_in[name]) != now.get(name, built_in[name]) for name in was.keys() | now.keys())

    return set(filter(differ, before))


BLOCK = """# what holds
pages:
  /a:
    here:
      title.limit: 40   # short
      title.show: no

  # the next page
  /a/b:
    here_and_below:
      because: it was agreed
      access:
        keepers: [view,
                  edit]
  /c: {here: {title.limit: 9}, below: {title.show: no}}
types:
  note:
    give:
      title.limit: 5
"""


@pytest.mark.parametrize(
    ("line", "setting", "old", "new"),
    [
        (5, "title.limit", "      title.limit: 40   # short\n", ""),
        (13, "access.keepers", BLOCK[BLOCK.index("  /a/b") : BLOCK.index("  /c")], ""),
        (
            15,
            "title.limit",
            "  /c: {here: {title.limit: 9}, below: {title.show: no}}\n",
            "  /c: {below: {title.show: no}}\n",
        ),
        (
            15,
            "title.show",
            "  /c: {here: {title.limit: 9}, below: {title.show: no}}\n",
            "  /c: {here: {title.limit: 9}}\n",
        ),
        (19, "title.limit", "    give:\n      title.limit: 5\n", "    {}\n"),
    ],
)
def test_comments_and_order_survive(line: int, setting: str, old: str, new: str, tmp_path: Path) -> None:
    first = line if old.count("\n") == 1 else BLOCK[: BLOCK.index(old)].count("\n") + 1
    assert edits(tmp_path, BLOCK, Taken("davlo.yaml", line, setting)) == [Edit("davlo.yaml", first, old, new)]


def edits(folder: Path, content: str, *steps: Step) -> list[Edit] | None:
    """What steps change in a davlo.yaml that holds this."""
    (folder / "davlo.yaml").write_bytes(content.encode())
    return Mender(davlo.open_demo().resolve(), folder).edits(steps)


def test_several_statements_of_a_file_are_taken_away_together(tmp_path: Path) -> None:
    steps = [
        Taken("davlo.yaml", line, name) for line, name in ((5, "title.limit"), (6, "title.show"), (19, "title.limit"))
    ]
    found = edits(tmp_path, BLOCK, *steps)
    assert found is not None
    assert [(edit.line, edit.new) for edit in found] == [(3, ""), (18, "    {}\n")]
    left = apply_edits(BLOCK, found)
    assert left.startswith("# what holds\npages:\n\n  # the next page\n  /a/b:\n")
    assert left.endswith("types:\n  note:\n    {}\n")
    apart = edits(tmp_path, BLOCK, *steps[1:])
    assert apart is not None
    assert apply_edits(BLOCK, apart) == BLOCK.replace("      title.show: no\n", "", 1).replace(
        "    give:\n      title.limit: 5\n", "    {}\n"
    )


TEXT = """davlo: 1
menu: {room: 7}   # entries
bands:
  foot: {fits: [footer]}
  head:
    fits:
      - masthead  # the top
sidebars: {quiet: {}}
rules:
  - name: first
    give: {title.show: no}
  # about the second
  - {name: second, give: {}}
accept: [{kind: no-heading, because: so}]
"""


@pytest.mark.parametrize(
    ("step", "old", "new"),
    [
        (Put(("menu", "room"), "9"), "menu: {room: 7}   # entries\n", "menu: {room: 9}   # entries\n"),
        (Put(("fits",), "menu", Place("davlo.yaml", 4), "foot", more=True), "[footer]", "[footer, menu]"),
        (
            Put(("fits",), "menu", Place("davlo.yaml", 5), "head", more=True),
            "- masthead  # the top\n",
            "- masthead  # the top\n      - menu\n",
        ),
        (Put(("blank",), "yes", Place("davlo.yaml", 8), "quiet"), "{quiet: {}}", "{quiet: {blank: yes}}"),
        (
            Put(("except",), {"path": ["/a b"]}, Place("davlo.yaml", 10)),
            "    give: {title.show: no}\n",
            "    give: {title.show: no}\n    except: {path: [/a b]}\n",
        ),
        (
            Put(("types", "note"), {"based_on": "page"}),
            "because: so}]\n",
            "because: so}]\ntypes: {note: {based_on: page}}\n",
        ),
        (
            Put(("types", "yes: no"), ["12", "a, b", "null"]),
            "so}]\n",
            "so}]\ntypes: {'yes: no': [12, 'a, b', 'null']}\n",
        ),
        (Taken("davlo.yaml", 13), "  - {name: second, give: {}}\n", ""),
        (Taken("davlo.yaml", 10), "  - name: first\n    give: {title.show: no}\n", ""),
        (Taken("davlo.yaml", 14), "accept: [{kind: no-heading, because: so}]\n", ""),
        (Taken("davlo.yaml", 8, "quiet"), "sidebars: {quiet: {}}", "sidebars: {}"),
        (Changed("davlo.yaml", 11, "title.show", "yes"), "{title.show: no}", "{title.show: yes}"),
        (
            Changed("davlo.yaml", 6, "fits", ["menu"]),
            "    fits:\n      - masthead  # the top\n",
            "    fits: [menu]  # the top\n",
        ),
    ],
)
@pytest.mark.parametrize("end", ["\n", "\r\n"])
def test_what_is_put_in_or_changed_leaves_all_else_as_it_was(
    step: Step, old: str, new: str, end: str, tmp_path: Path
) -> None:
    content, old, new = (text.replace("\n", end) for text in (TEXT, old, new))
    found = edits(tmp_path, content, step)
    assert found is not None
    assert apply_edits(content, found) == content.replace(old, new)
    assert content.count(old) == 1


def test_a_value_goes_into_the_file_that_has_the_key_already(tmp_path: Path) -> None:
    (tmp_path / "more.yaml").write_text("types:\n  note: {label: Note}\n", encoding="utf-8")
    found = edits(tmp_path, "davlo: 1\ninclude: more.yaml\n", Put(("types", "leaf"), {"based_on": "page"}))
    assert found == [Edit("more.yaml", 3, "", "  leaf: {based_on: page}\n")]


def test_what_cannot_be_edited_as_text_is_not_offered(tmp_path: Path) -> None:
    content = "a: &x {title.limit: 9}\nb: *x\nc: 1\n"
    (tmp_path / "pages.csv").write_text('path,title.limit,note\n/,9,"two\nlines"\n', encoding="utf-8")
    (tmp_path / "latin.csv").write_bytes("path,title\n/,été\n".encode("latin-1"))
    for step in (
        Taken("davlo.yaml", 1, "title.limit"),
        Taken("davlo.yaml", 2, "title.show"),
        Taken("davlo.yaml", 3),
        Put(("c", "d"), "1"),
        Put(("d",), "1", Place("davlo.yaml", 3)),
        Put(("c",), "1", Place("davlo.yaml", 9)),
        Taken("pages.csv", 2, "title.limit"),
        Taken("pages.csv", 1, "title.show"),
        Taken("pages.csv", 9, "title.limit"),
        Taken("latin.csv", 2, "title"),
        Changed("pages.csv", 1, "note", {"first": ["a"]}),
        Added("pages.csv", {"value": "9"}),
        Added("gone.csv", {"path": "/"}),
        Taken("pages.parquet", 2, "title.limit"),
        Taken("../pages.csv", 2, "title.limit"),
    ):
        assert edits(tmp_path, content, step) is None, step


def test_rows_of_a_sheet_keep_their_marks(tmp_path: Path) -> None:
    sheet = '\ufeffpath;title.limit;note\r\n/;9;"a ""b"";"\r\n'
    (tmp_path / "pages.csv").write_text(sheet, encoding="utf-8", newline="")
    steps: list[Step] = [
        Taken("pages.csv", 2, "title.limit"),
        Changed("pages.csv", 1, "note", "remark"),
        Changed("pages.csv", 2, "note", ["c", "d"]),
        Added("pages.csv", {"path": "/a", "title.limit": {"add": ["b"]}}),
        Added("pages.csv", {"path": "/b"}),
    ]
    assert edits(tmp_path, "davlo: 1\n", *steps) == [
        Edit("pages.csv", 1, sheet[: sheet.index("/")], "\ufeffpath;title.limit;remark\r\n"),
        Edit("pages.csv", 2, '/;9;"a ""b"";"\r\n', '/;;"c; d"\r\n'),
        Edit("pages.csv", 3, "", "/a;+ b;\r\n/b;;\r\n"),
    ]
    (tmp_path / "values.csv").write_text("where,setting,value\neverywhere,title.limit,9", encoding="utf-8")
    value = Changed("values.csv", 2, "title.limit", "40")
    assert edits(tmp_path, "davlo: 1\n", value) == [
        Edit("values.csv", 2, "everywhere,title.limit,9", "everywhere,title.limit,40")
    ]


LOCKED = """everywhere:
  title.show: no
  lock:
    band.footer: legal   # for good
    title.limit: 40
    # and more
    blocks.content:
      - search
types:
  note: {give: {lock: {title.limit: 50}, menu.show: no}}
  memo: {give: {lock: {title.limit: 60, access: {keepers: [view]}}}}
pages:
  /a:
    below:
      lock:
        menu.show: no  # hidden
"""


@pytest.mark.parametrize(
    ("line", "name", "old", "new"),
    [
        (
            4,
            "band.footer",
            "  lock:\n    band.footer: legal   # for good\n    title",
            "  band.footer: legal\n  lock:\n    title",
        ),
        (
            5,
            "title.limit",
            "  lock:\n    band.footer: legal   # for good\n    title.limit: 40\n",
            "  title.limit: 40\n  lock:\n    band.footer: legal   # for good\n",
        ),
        (
            10,
            "title.limit",
            "{give: {lock: {title.limit: 50}, menu.show: no}}",
            "{give: {title.limit: 50, menu.show: no}}",
        ),
        (11, "title.limit", "{lock: {title.limit: 60, access: {", "{title.limit: 60, lock: {access: {"),
        (16, "menu.show", "      lock:\n        menu.show: no  # hidden\n", "      menu.show: no  # hidden\n"),
    ],
)
def test_a_lock_is_lifted_and_its_value_kept(line: int, name: str, old: str, new: str, tmp_path: Path) -> None:
    found = edits(tmp_path, LOCKED, Lifted("davlo.yaml", line, name))
    assert found is not None
    assert apply_edits(LOCKED, found) == LOCKED.replace(old, new)
    assert edits(tmp_path, LOCKED, Lifted("davlo.yaml", 11, "access.keepers")) is None


def test_the_lock_of_a_row_is_lifted(tmp_path: Path) -> None:
    (tmp_path / "values.csv").write_text("where,setting,value,lock\ntype note,title.limit,9,yes\n", encoding="utf-8")
    assert edits(tmp_path, "davlo: 1\n", Lifted("values.csv", 2, "title.limit")) == [
        Edit("values.csv", 2, "type note,title.limit,9,yes\n", "type note,title.limit,9,\n")
    ]
