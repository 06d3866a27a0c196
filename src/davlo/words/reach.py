"""What a change would do, in one sentence."""

from __future__ import annotations

from davlo.core.change.change_reach import ReachNumbers
from davlo.core.wording import count


def reach_sentence(numbers: ReachNumbers) -> str:
    """What a change would do, the pages first, then the people.

    Example
    -------
    >>> reach_sentence(ReachNumbers(43, 0, 0, 2, 1, 0, 0, 0, 0))
    '43 pages change, 2 keep what a stronger statement says, 1 is locked; nobody gains or loses anything'
    >>> reach_sentence(ReachNumbers(1, 1, 0, 0, 0, 0, 0, 1, 3))
    '1 page changes, 1 page is new; 1 person gains something, 3 people lose something'
    >>> reach_sentence(ReachNumbers(0, 0, 0, 0, 0, 2, 5, 0, 0))
    'no page changes, 2 keep their stamp, 5 have it already; nobody gains or loses anything'
    """
    told = [_verb(numbers.changed, "changes", "change") if numbers.changed else "no page changes"]
    told += [_verb(numbers.new, "is new", "are new")] if numbers.new else []
    told += [_verb(numbers.gone, "goes", "go")] if numbers.gone else []
    for number, one, several in (
        (numbers.own, "keeps what a stronger statement says", "keep what a stronger statement says"),
        (numbers.locked, "is locked", "are locked"),
        (numbers.stamped, "keeps its stamp", "keep their stamp"),
        (numbers.already, "has it already", "have it already"),
    ):
        told += [f"{number:,} {one if number == 1 else several}"] if number else []
    people = [
        f"{count(number, 'person', 'people')} {one if number == 1 else several} something"
        for number, one, several in ((numbers.gaining, "gains", "gain"), (numbers.losing, "loses", "lose"))
        if number
    ]
    return f"{', '.join(told)}; {', '.join(people) or 'nobody gains or loses anything'}"


def _verb(number: int, one: str, several: str) -> str:
    return f"{count(number, 'page')} {one if number == 1 else several}"
