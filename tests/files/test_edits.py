"""The edits that a finding offers: made in the files, they mend it, and change nothing else."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import pytest

import davlo
from davlo.core.findings import Finding
from davlo.core.findings.remedies import WAYS, Dropped, Remedy, remedies
from davlo.files.edits import Edit, apply_edits, edits_of
from tests.core.finding_cases import CASES

Small = Callable[..., Path]


def make(folder: Path, edits: list[Edit]) -> None:
    """Make the edits, as a person would."""
    for file in {edit.file for edit in edits}:
        path = folder / file
        content = path.read_text(encoding="utf-8")
        path.write_text(apply_edits(content, [edit for edit in edits if edit.file == file]), encoding="utf-8")


def identity(finding: Finding) -> tuple[object, ...]:
    """What a finding is about, wherever its lines are: taking one thing away may bring out the next."""
    said = [(one.scope, one.value) for one in finding.statements]
    return (finding.kind, finding.setting, said, list(finding.pages))


def of_kind(folder: Path, kind: str) -> tuple[davlo.Site, list[Finding]]:
    site = davlo.open_site(folder)
    return site, [finding for finding in site.check().findings if finding.kind == kind]


@pytest.mark.parametrize("kind", WAYS)
def test_each_way_mends_the_finding(kind: str, small: Small) -> None:
    case = CASES[kind]
    site, found = of_kind(case.write(small), kind)
    ways = remedies(site, found[0])
    assert [way.words for way in ways] == [f"take away {words}" for words, _ in WAYS[kind]]
    for way in ways:
        folder = case.write(small)
        edits = edits_of(folder, way)
        assert edits
        for edit in edits:
            lines = (folder / edit.file).read_text(encoding="utf-8").splitlines(keepends=True)
            assert "".join(lines[edit.line - 1 :]).startswith(edit.old)
        make(folder, edits)
        assert of_kind(folder, kind)[1] == []


def test_the_gardens_edits_mend_what_they_are_for(tmp_path: Path) -> None:
    folder = tmp_path / "garden"
    davlo.write_demo(folder)
    files = {path.name: path.read_bytes() for path in folder.iterdir()}
    site = davlo.open_site(folder)
    findings = site.check().findings
    mended = 0
    for finding in findings:
        for way in remedies(site, finding):
            edits = edits_of(folder, way)
            if edits is None:
                continue
            make(folder, edits)
            left = [identity(one) for one in davlo.open_site(folder).check().findings]
            assert identity(finding) not in left
            mended += 1
            for name, content in files.items():
                (folder / name).write_bytes(content)
    assert mended >= 12


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
    (tmp_path / "davlo.yaml").write_text(BLOCK, encoding="utf-8")
    assert edits_of(tmp_path, Remedy("", (Dropped("davlo.yaml", line, setting),))) == [
        Edit("davlo.yaml", line if old.count("\n") == 1 else BLOCK[: BLOCK.index(old)].count("\n") + 1, old, new)
    ]


def test_several_statements_of_a_file_are_taken_away_together(tmp_path: Path) -> None:
    (tmp_path / "davlo.yaml").write_text(BLOCK, encoding="utf-8")
    drops = [
        Dropped("davlo.yaml", line, name) for line, name in ((5, "title.limit"), (6, "title.show"), (19, "title.limit"))
    ]
    edits = edits_of(tmp_path, Remedy("", tuple(drops)))
    assert edits is not None
    assert [(edit.line, edit.new) for edit in edits] == [(3, ""), (18, "    {}\n")]
    left = apply_edits(BLOCK, edits)
    assert left.startswith("# what holds\npages:\n\n  # the next page\n  /a/b:\n")
    assert left.endswith("types:\n  note:\n    {}\n")


def test_what_cannot_be_edited_as_text_is_not_offered(tmp_path: Path) -> None:
    (tmp_path / "davlo.yaml").write_text("a: &x {title.limit: 9}\nb: *x\n", encoding="utf-8")
    (tmp_path / "pages.csv").write_text('path,title.limit,note\n/,9,"two\nlines"\n', encoding="utf-8")
    for drop in (
        Dropped("davlo.yaml", 1, "title.limit"),
        Dropped("davlo.yaml", 2, "title.show"),
        Dropped("pages.csv", 2, "title.limit"),
        Dropped("pages.csv", 1, "title.show"),
        Dropped("pages.parquet", 2, "title.limit"),
    ):
        assert edits_of(tmp_path, Remedy("", (drop,))) is None
    (tmp_path / "pages.csv").write_text('path;title.limit;note\r\n/;9;"a ""b"";"\r\n', encoding="utf-8", newline="")
    made = edits_of(tmp_path, Remedy("", (Dropped("pages.csv", 2, "title.limit"),)))
    assert made == [Edit("pages.csv", 2, '/;9;"a ""b"";"\r\n', '/;;"a ""b"";"\r\n')]
