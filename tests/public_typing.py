"""What a type checker knows of the public calls: `make types` reads this, and a test runs it."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import assert_type

import numpy as np
from numpy.typing import NDArray

import davlo
from davlo.core.change.differences.comparison import Comparison

Value = bool | int | float | str | tuple[str, ...] | None


def check() -> None:
    """Each line says what a call gives; the checker refuses the file where it gives something else."""
    site = davlo.open_demo()
    assert_type(site, davlo.Site)
    assert_type(
        davlo.Site.from_frames({"path": ["/"]}, {"davlo": 1, "site": {"name": "S", "url": "https://s.example"}}),
        davlo.Site,
    )
    effective = site.resolve(["heading.show"], pages=["/", "/visit"])
    assert_type(effective, davlo.Effective)
    assert_type(effective["/"], davlo.PageSettings)
    assert_type(effective["/"]["heading.show"], Value)
    assert_type(iter(effective), Iterator[str])
    assert_type(len(effective), int)
    codes, words = effective.codes("heading.show")
    assert_type(codes, NDArray[np.int32])
    assert_type(words, Sequence[Value])
    source = effective.source("/", "heading.show")
    assert_type(source, davlo.Source)
    assert_type(source.line, int)
    trace = effective.why("/", "heading.show")
    assert_type(trace, davlo.Trace)
    assert_type(trace.winner, davlo.Candidate)
    report = site.check()
    assert_type(report, davlo.Report)
    assert_type(report.findings[0], davlo.Finding)
    access = site.access()
    assert_type(access, davlo.Access)
    assert_type(access.may("visitor", "view", "/"), bool)
    assert_type(access.pages("visitor", "view"), list[str])
    assert_type(access.who_may("edit"), list[davlo.Grant])
    assert_type(access.why("visitor", "view", "/"), davlo.Decision)
    change = davlo.Change().say("menu.show", False, here="/visit").take_away("sitemap.changefreq", everywhere=True)
    assert_type(site.reach(change), davlo.ChangeReach)
    assert_type(site.difference(site), Comparison)
    assert_type(site.apply(change), davlo.Site)
    assert_type(site.reach(change).values(), list[davlo.ValueRow])
    assert_type(site.declared(), list[davlo.Declaration])
    assert_type(site.page("/"), davlo.PageRecord)
    assert_type(site.fits("footer"), davlo.AreaFits)
    assert_type(site.links(), davlo.LinkList)
    assert_type(next(site.links().links()), davlo.ListedLink)
    assert_type(site.viewpoint_results(), list[davlo.ViewpointResult])
    assert_type(site.viewpoint_differences(site), list[davlo.ViewpointDifference])
    assert_type(site.resolve().statements("menu.show"), list[davlo.StatementUse])
    assert_type(site.resolve().exception_causes(), list[davlo.ExceptionCause])
    assert_type(access.changes(["/"]), list[davlo.AccessChange])
    assert_type(effective.outcomes, davlo.Outcomes)
    assert_type(effective.settings(), tuple[str, ...])
    assert_type(site.resolve().exceptions("menu.show"), davlo.PageExceptions)
    assert_type(source.scope, davlo.Scope)
    try:
        davlo.open_site("nowhere")
    except davlo.SiteError as error:
        assert_type(error.faults, tuple[davlo.Fault, ...])
        assert_type(error.faults[0].place, davlo.Place)
