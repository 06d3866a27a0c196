"""The results of writing a change, and of asking what taking one back would do."""

from __future__ import annotations

from typing import TYPE_CHECKING, Generic, NamedTuple, TypeVar

if TYPE_CHECKING:
    from davlo.core.change.change_reach import ChangeReach
    from davlo.files.rewrite.line_edits import Edit
    from davlo.files.store.write_records import WriteRecord

Model = TypeVar("Model")


class Written(NamedTuple, Generic[Model]):
    """A change that was written.

    Attributes
    ----------
    record : WriteRecord
        Its number, when and in whose name it was written, and what it did to which files.
    site : Site
        The site as its files read now.
    """

    record: WriteRecord
    site: Model


class Undoing(NamedTuple):
    """What taking back a write would do.

    Attributes
    ----------
    record : WriteRecord
        The write.
    reach : ChangeReach
    edits : tuple of Edit
    """

    record: WriteRecord
    reach: ChangeReach
    edits: tuple[Edit, ...]
