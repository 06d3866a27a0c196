"""Why a change cannot be done or is not written, in a sentence, and what to type instead."""

from __future__ import annotations

from davlo.core.change.refused import ChangeRefused
from davlo.core.change.steps.change import ChangeError
from davlo.core.change.steps.step import CannotDo
from davlo.core.faults import DavloError, SiteError, UnknownName, ValueFault
from davlo.core.site.settings.names import NAME
from davlo.core.wording import some_of
from davlo.files.rewrite.cannot_rewrite import CannotRewrite, ChangedSince
from davlo.files.store.site_writes import CannotTakeBack

from .declared_kinds import KINDS
from .faults import meant, near_names, print_error
from .findings import brief_lines
from .options import typed
from .screen import note

MOST_NAMES = 16


def how_to_declare(kind: str, word: str) -> str:
    """How to declare what a name stands for, ready to type; empty if that cannot be declared, or not under this name.

    `kind`: what was looked for: a kind of declaration, or `person or group`.
    """
    kind = "group" if kind == "person or group" else kind
    keys = KINDS[kind].first_keys if kind in KINDS else None
    if keys is None or not NAME.fullmatch(word):
        return ""
    return f"to declare it: {typed('declare', kind, word)} {keys}".rstrip()


def print_unusable(error: SiteError | UnknownName) -> None:
    """Print on standard error what cannot be used, and of a name that is not there how to declare it."""
    print_error(error)
    is_new = isinstance(error, UnknownName) and not (error.what == "setting" and near_names(error.word, error.allowed))
    declare = how_to_declare(error.what, error.word) if isinstance(error, UnknownName) and is_new else ""
    if declare:
        note(f"  {declare}")


def refusal_status(error: Exception) -> int | None:
    """Print on standard error why a change is not done; return the exit status, or None for another error."""
    if isinstance(error, ChangeError | CannotDo | ValueFault):
        note(error.what)
        hint = getattr(error, "hint", "")
        near = meant(error.word, tuple(error.allowed), error.what)
        every = f"there are: {some_of(sorted(error.allowed), MOST_NAMES)}" if error.allowed and error.word else ""
        declare = how_to_declare(getattr(error, "kind", ""), error.word)
        for line in (near or every, hint, declare):
            if line:
                note(f"  {line}")
        return 2
    if isinstance(error, ChangedSince):
        note(f"{error}; nothing was written")
        return 1
    if isinstance(error, CannotRewrite):
        note(f"the files cannot be changed so: {error}")
        note("  nothing was written; change them by hand, then run davlo check")
        return 1
    if isinstance(error, CannotTakeBack):
        note(str(error))
        return 1
    if isinstance(error, ChangeRefused):
        note(f"{error.what}; nothing was written")
        for one in error.missing[1:]:
            note(f"  {one.reason}")
        allowing = [
            typed("set", f"access.{one.who}+={one.action}", "--here", one.pages[0])
            for one in error.missing
            if one.action and one.pages
        ]
        if allowing:
            note("  an admin could allow it:")
        for line in allowing:
            note(f"    {line}")
        for finding in error.findings:
            for line in brief_lines(finding):
                note("  ", *line)
        if error.findings:
            note("  to write it all the same, add --even-so")
        return 1
    if isinstance(error, DavloError):
        note(str(error))
        return 2
    return None
