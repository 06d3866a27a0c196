"""Findings about guarantees."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ...arrays.grouping import groups
from ...change.steps.change import Change, ExceptFromGuarantee
from ...outcomes.access.access_model import Decision
from ...resolve.effective import EffectiveModel
from ...site.model import Guarantee
from ...site.people import VISITOR
from ...site.settings.values import ByDepth, shown
from ...wording import count, some_of
from ..bound_kind import NO_PAGES, BoundKind
from ..context import FindingContext
from ..finding import Finding, Said
from ..finding_kind import site_kind
from ..mending import Remedy, without

FEW = 12
"""The most pages left out of a guarantee one by one."""
UNSAID = -2
"""Stands for a statement that does not hold the action."""


class Broken(NamedTuple):
    """One way in which a guarantee does not hold: the finding, and why, without naming the guarantee and its pages."""

    finding: Finding
    why: str


class GuaranteeResult(NamedTuple):
    """The result of a guarantee."""

    guarantee: Guarantee
    pages: int  # how many pages it is about
    broken: tuple[Broken, ...]  # what breaks it; none where it holds

    @property
    def holds(self) -> bool:
        """Whether it holds: it is about pages, and nothing breaks it."""
        return self.pages > 0 and not self.broken

    def broken_pages(self) -> int:
        """On how many pages it does not hold."""
        return len({int(page) for one in self.broken for page in one.finding.pages.numbers})


def guarantee_results(effective: EffectiveModel) -> list[GuaranteeResult]:
    """Every guarantee, and whether it holds; accepted or not.

    Example
    -------
    >>> import davlo
    >>> first = guarantee_results(davlo.open_demo().resolve())[0]
    >>> first.guarantee.name, first.pages, first.broken_pages()
    ('Staff pages stay private', 9, 1)
    """
    context = FindingContext(effective, heeds_accepts=False)
    found = []
    for guarantee in effective.site.guarantees:
        pages = np.flatnonzero(effective.site.pages(guarantee.when, guarantee.excepts))
        found.append(
            GuaranteeResult(
                guarantee, len(pages), tuple(_broken(context, guarantee_broken.bound(context), guarantee, pages))
            )
        )
    return found


@site_kind(
    "guarantee-without-pages",
    "error",
    "guarantees",
    meaning="a guarantee is about no page",
    why="It proves nothing, and whoever made it believes that something is proved.",
    mend="Mend its `when` or its `except`: a page may have moved, or a word has a slip in it. Or take it away.",
    needs_decision=True,
    example=Change((ExceptFromGuarantee("A member can edit their own page", ("/members/pages/**",)),)),
)
def guarantee_without_pages(context: FindingContext, kind: BoundKind) -> Iterator[Finding]:
    """A guarantee is about no page."""
    site = context.site
    without_pages = [one for one in site.guarantees if not site.pages(one.when, one.excepts).any()]
    missing = {
        one.name: [path for path in (*one.when.in_branch, *one.when.below) if site.tree.find(path) < 0]
        for one in without_pages
    }
    near = context.near_pages([path for paths in missing.values() for path in paths[:1]])
    for guarantee in without_pages if kind.reports(NO_PAGES) else ():
        if missing[guarantee.name]:
            path = missing[guarantee.name][0]
            why = f"there is no page {path}"
            fix = f"name {near[path]}, if that was meant" if path in near else "name the page by its new path"
        else:
            why = "all pages that it matches are excluded" if site.pages(guarantee.when).any() else "it matches no page"
            fix = "change its when or its except"
        yield kind.finding(
            NO_PAGES,
            [Said(f"guarantee {guarantee.name}", guarantee.place.file, guarantee.place.line, "")],
            f'the guarantee "{guarantee.name}" ({guarantee.place}) proves nothing: {why}',
            f"no single edit mends it: decide what it is about, and {fix}; or take it away",
        )


@site_kind(
    "guarantee-broken",
    "error",
    "guarantees",
    meaning="a guarantee does not hold",
    why="The site says that it always holds.",
    mend="Change the statement that breaks it, or give the guarantee an `except`.",
)
def guarantee_broken(context: FindingContext, kind: BoundKind) -> Iterator[Finding]:
    """A page that matches a guarantee's `when` breaks it."""
    for guarantee in context.site.guarantees:
        pages = np.flatnonzero(context.site.pages(guarantee.when, guarantee.excepts))
        yield from (one.finding for one in _broken(context, kind, guarantee, pages))


def _broken(
    context: FindingContext, kind: BoundKind, guarantee: Guarantee, pages: NDArray[np.int64]
) -> Iterator[Broken]:
    yield from _has(context, kind, guarantee, pages)
    yield from _may(context, kind, guarantee, pages, "may")
    yield from _may(context, kind, guarantee, pages, "may_not")


def _has(context: FindingContext, kind: BoundKind, guarantee: Guarantee, pages: NDArray[np.int64]) -> Iterator[Broken]:
    site = context.site
    for setting, wanted in guarantee.has.items():
        found = context.effective.resolved(setting)
        words = {word: code for code, word in enumerate(found.words)}
        if isinstance(wanted, ByDepth):
            code = np.array([words.get(wanted.at(int(depth)), -1) for depth in site.tree.depth[pages]], dtype=np.int64)
        else:
            code = np.full(len(pages), words.get(wanted, -1), dtype=np.int64)
        broken = pages[(found.value[pages] != code) | ~site.has(setting)[pages]]
        name = site.catalogue[setting].name
        of_setting = kind.of(name)
        broken = broken[of_setting.concerns(broken)]
        for (source, value), rows in groups(context.source(name)[broken], found.value[broken]):
            given = "from the built-in value" if source < 0 else f"from {context.where(source)}"
            yield _break(
                context,
                of_setting,
                guarantee,
                broken[rows],
                [source],
                [source],
                f"{name} should be {shown(wanted)} and is {shown(found.words[value])} {given}",
            )


def _may(
    context: FindingContext, kind: BoundKind, guarantee: Guarantee, pages: NDArray[np.int64], word: str
) -> Iterator[Broken]:
    """What breaks a guarantee about access; people and pages that the same statements are to blame for, together."""
    people, classes = context.site.people, context.access.classes
    of = classes.of[pages]
    for subject, actions in (guarantee.may if word == "may" else guarantee.may_not).items():
        of_subject = kind.of(f"access.{subject}")
        if word == "may":
            yield from _covers_nobody(context, of_subject, guarantee, pages, subject)
        for action in actions:
            found: dict[tuple[tuple[int, ...], bool], list[tuple[str, Decision, NDArray[np.int64]]]] = {}
            for person in people.ever_covered(subject):
                if word == "may_not" and people.is_admin(person):
                    continue
                may = classes.may(person, action)
                wrong = classes.covered(person, subject) & (may if word == "may_not" else ~may)
                if not wrong.any():
                    continue
                at_fault = pages[wrong[of]]
                at_fault = at_fault[of_subject.concerns(at_fault)]
                for decision, blamed, at in _why(context, person, action, at_fault):
                    found.setdefault((blamed, bool(decision.allowed_by)), []).append((person, decision, at))
            for (blamed, is_given), told in found.items():
                decision, who = told[0][1], list(dict.fromkeys(person for person, *_ in told))
                named = some_of(["a visitor" if one == VISITOR else one for one in who])
                reason = decision.reason
                if not blamed and len({each.reason for _, each, _ in told}) > 1:
                    lacking = f"nothing gives {action} to {'them' if len(who) > 1 else named}"
                    reason = "a draft is seen only by those who may edit it" if is_given else lacking
                yield _break(
                    context,
                    of_subject,
                    guarantee,
                    np.unique(np.concatenate([at for *_, at in told])),
                    [
                        Said(str(one.scope), one.file, one.line, action)
                        for _, one in (*decision.allowed_by, *decision.denied_by)
                        if one.file
                    ],
                    blamed,
                    f"{named} {'may' if word == 'may_not' else 'may not'} {action}: {reason}",
                )


def _covers_nobody(
    context: FindingContext, kind: BoundKind, guarantee: Guarantee, pages: NDArray[np.int64], subject: str
) -> Iterator[Broken]:
    """What breaks a guarantee that somebody may: on these pages its subject covers nobody."""
    classes = context.access.classes
    nobody = pages[~classes.covers_somebody(subject)[classes.of[pages]]]
    nobody = nobody[kind.concerns(nobody)]
    setting = {"owner": "page.owner", "owner-group": "page.group"}.get(subject)
    values = context.effective.column(setting).value[nobody] if setting else np.zeros(len(nobody), dtype=np.int32)
    for _, rows in sorted(groups(values), key=lambda alike: int(alike[1][0])):  # in the order of the tree
        alike = nobody[rows]
        reason = context.access.lacking(subject, int(alike[0]))
        why = f"{subject} covers nobody there: {reason}"
        whose = {"owner": "give these pages an owner", "owner-group": "give these pages a group"}
        lacking = whose.get(subject, f"put people into {subject}")
        yield _break(context, kind, guarantee, alike, (), (), why, lacking)


def _why(
    context: FindingContext, person: str, action: str, pages: NDArray[np.int64]
) -> Iterator[tuple[Decision, tuple[int, ...], NDArray[np.int64]]]:
    """Why someone may or may not act on pages: the decision, the statements to blame, and the pages."""
    classes, keys = context.access.classes, []
    of = classes.of[pages]
    sources: dict[tuple[str, str], NDArray[np.int64]] = {}
    for subject in context.site.people.covering(person):
        covered = classes.covered(person, subject)
        keys.append(covered[of].astype(np.int64))
        for family in ("access", "deny"):
            holds = covered & classes.states(family, subject, action)
            if holds[of].any():
                source = classes.giving(family, subject, action).astype(np.int64)
                sources[family, subject] = np.where(holds, source, UNSAID)[of]
    for _, rows in groups(*keys, *sources.values()):
        decision = context.access.why(person, action, int(pages[rows[0]]))
        family = "access" if decision.may else "deny"
        blamed = {int(source[rows[0]]) for (which, _), source in sources.items() if which == family}
        yield decision, tuple(sorted(blamed - {UNSAID})), pages[rows]


def _break(
    context: FindingContext,
    kind: BoundKind,
    guarantee: Guarantee,
    pages: NDArray[np.int64],
    said: Sequence[int] | Sequence[Said],
    blamed: Sequence[int],
    why: str,
    lacking: str = "",
) -> Broken:
    """One way in which a guarantee does not hold; `blamed` are the statements that break it, if that is all it takes.

    `lacking` is what to do where no statement breaks it.
    """
    message = (
        f'the guarantee "{guarantee.name}" ({guarantee.place}) does not hold on {count(len(pages), "page")}: {why}'
    )
    first = "change that statement" if len(said) else lacking or "say it there"
    fix = f"{first}, or give the guarantee at {guarantee.place} an except for these pages"
    ways = [without(context.site, "what breaks it", blamed)]
    if not guarantee.excepts and len(pages) <= FEW:
        step = ExceptFromGuarantee(guarantee.name, tuple(context.paths(pages)))
        ways.append(Remedy("leave these pages out of the guarantee", Change((step,))))
    return Broken(kind.finding(pages, said, message, fix, *ways), why)
