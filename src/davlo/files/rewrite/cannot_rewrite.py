"""Errors about changes that cannot be written into the files."""

from __future__ import annotations

from davlo.core.faults import DavloError

ALIASED = "it is said in one place for several (& and * in YAML): write it out in each of them"


class CannotRewrite(DavloError):
    """A change that cannot be made in a file's text, and why."""


class ChangedSince(CannotRewrite):
    """A file is no longer the one that was read."""
