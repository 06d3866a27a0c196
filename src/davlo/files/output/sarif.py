"""Findings as SARIF 2.1.0 (OASIS), which code hosts and editors show at the line.

Each kind of finding is a rule (section 3.49 of the standard), each finding a result (3.27); what an `accept` silences
is a result with a suppression (3.35). Addresses are relative to the root of the repository that the site is in, as code
hosts want them; without one, to the site folder.
"""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import Any, NamedTuple
from urllib.parse import quote

from davlo.core.arrays.lines import lines_of
from davlo.core.findings.check import Report
from davlo.core.findings.finding import Finding
from davlo.core.findings.kinds.every_kind import KINDS

from ..rewrite.ways import Way

Ways = Callable[[Finding], Sequence[Way]]
SCHEMA = "https://json.schemastore.org/sarif-2.1.0.json"
FIRST = "davlo.yaml"
MOST_PAGES = 20
"""The most pages named in a message; the properties have all."""


def folder_in_repository(folder: Path) -> str:
    """The site folder seen from the root of its repository, with `/` at its end; empty without one."""
    here = folder.resolve()
    root = next((one for one in (here, *here.parents) if (one / ".git").exists()), here)
    inside = here.relative_to(root).as_posix()
    return "" if inside == "." else f"{inside}/"


def sarif(
    report: Report,
    version: str,
    ways: Ways = lambda finding: (),
    folder: str = "",
    place: Callable[[Finding], tuple[str, int]] = lambda finding: (FIRST, 0),
) -> dict[str, Any]:
    """A report as a SARIF log of one run.

    `version`: the version of the tool. `ways`: the ways to mend a finding, which become its fixes (section 3.55).
    `folder`: what goes before each file's name: `folder_in_repository`. `place`: the file and line of a finding that no
    statement brings about.

    Example
    -------
    >>> import davlo
    >>> log = sarif(davlo.open_demo().check(), "1.0")
    >>> log["version"], log["runs"][0]["results"][0]["ruleId"]
    ('2.1.0', 'lock-overrules')
    """
    kinds = {kind.name: kind for kind in KINDS}
    names = list(kinds)
    written = _Places(folder, place)
    results = [{**_result(one, names, written), **_fixes(ways(one), folder)} for one in report.findings]
    results += [{**_result(one, names, written), "suppressions": [{"kind": "external"}]} for one in report.accepted]
    rules = [
        {
            "id": kind.name,
            "shortDescription": {"text": kind.meaning},
            "fullDescription": {"text": kind.why},
            "help": {"text": kind.mend},
            "defaultConfiguration": {"level": kind.level},
            "properties": {"topic": kind.topic},
        }
        for kind in kinds.values()
    ]
    driver = {"name": "davlo", "version": version, "rules": rules}
    return {"$schema": SCHEMA, "version": "2.1.0", "runs": [{"tool": {"driver": driver}, "results": results}]}


class _Places(NamedTuple):
    """What goes before the names of files, and where a finding is that no statement brings about."""

    folder: str
    of: Callable[[Finding], tuple[str, int]]


def _result(finding: Finding, names: Sequence[str], written: _Places) -> dict[str, Any]:
    pages = ", ".join(finding.pages[:MOST_PAGES])
    more = f" and {len(finding.pages) - MOST_PAGES} more" if len(finding.pages) > MOST_PAGES else ""
    told = f" Pages: {pages}{more}." if pages else ""
    places = [(said.file, said.line) for said in finding.statements if said.file] or [written.of(finding)]
    locations = [_location(written.folder + file, line) for file, line in dict.fromkeys(places)]
    result: dict[str, Any] = {
        "ruleId": finding.kind,
        "ruleIndex": names.index(finding.kind),
        "level": finding.level,
        "message": {"text": f"{finding.message}.{told} Fix: {finding.fix}."},
        "locations": locations[:1],
        "partialFingerprints": {"davlo/1": fingerprint(finding)},
        "properties": {
            "name": finding.name,
            "pages": list(finding.pages),
            **({"setting": finding.setting} if finding.setting else {}),
        },
    }
    if len(locations) > 1:
        result["relatedLocations"] = [{"id": i, **location} for i, location in enumerate(locations[1:], 1)]
    return result


def _fixes(ways: Sequence[Way], folder: str) -> dict[str, Any]:
    """Each way as a fix: the lines that go, and what comes instead."""
    return {"fixes": [_fix(way, folder) for way in ways]} if ways else {}


def _fix(way: Way, folder: str) -> dict[str, Any]:
    changes = []
    for edit in way.edits:
        end = edit.line + len(lines_of(edit.old))
        region = {"startLine": edit.line, "startColumn": 1, "endLine": end, "endColumn": 1}
        replacement: dict[str, Any] = {"deletedRegion": region}
        if edit.new:
            replacement["insertedContent"] = {"text": edit.new}
        place = {"uri": quote(folder + edit.file), "uriBaseId": "%SRCROOT%"}
        changes.append({"artifactLocation": place, "replacements": [replacement]})
    return {"description": {"text": way.words}, "artifactChanges": changes}


def _location(file: str, line: int) -> dict[str, Any]:
    physical: dict[str, Any] = {"artifactLocation": {"uri": quote(file), "uriBaseId": "%SRCROOT%"}}
    if line:
        physical["region"] = {"startLine": line}
    return {"physicalLocation": physical}


def fingerprint(finding: Finding) -> str:
    """What identifies a finding even if its lines have moved: its statements, and its first page."""
    told = [finding.kind, finding.setting or "", *finding.pages[:1]]
    told += [f"{one.scope}: {one.value}" for one in finding.statements]
    return hashlib.sha256("\n".join(told).encode()).hexdigest()[:32]
