"""A change that could be done, and that Davlo refuses to write."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from ..faults import DavloError
from .rights import MissingRight


class ChangeRefused(DavloError):
    """A change that is not written.

    Attributes
    ----------
    what : str
        Why, in a sentence.
    findings : tuple of Finding
        The errors that it would bring about.
    missing : tuple of MissingRight
        What the person in whose name it is made may not do.
    """

    def __init__(self, what: str, findings: Sequence[Any] = (), missing: Sequence[MissingRight] = ()) -> None:
        self.what, self.findings, self.missing = what, tuple(findings), tuple(missing)
        super().__init__(what)
