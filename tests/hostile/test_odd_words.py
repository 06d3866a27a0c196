"""Command lines made from the examples of all commands, with words lost, swapped, doubled and odd: none is a fault."""

from __future__ import annotations

import random
import shlex
from collections.abc import Iterator, Sequence
from pathlib import Path

import click
import pytest

import davlo.site
from davlo.cli.main import cli, status_of

from .test_mutated import ACTS, FIRST, FOLDERS, opened_once

PARTS = 4
LINES = 2 * FOLDERS
NOT_ASKED = ("demo", "start", "announce", "estate", "report", "picture", "undo", "mend")
"""Commands that make folders, ask the network, or take long; and those whose words name earlier writes."""
WRITES = ("--write", "--send", "--to", "--rehearse", "--from")
PLACES = ("", "/", "*", "..", ".", "/**/*", "/visit/", "HEAD", "..2026", "2026-13-01", "type=event", "language=xx")
SPELLINGS = (
    "{",
    "[",
    "a=b",
    "x=",
    "=x",
    "+=",
    "--",
    "'",
    '"',
    ";",
    "a;b",
    "%",
    "@x",
    "\\",
    "\u202e",
    "\xe9",
    "a" * 300,
)
VALUES = ("0", "-1", "1e400", "nan", "9" * 20, "0x1", "yes", "none", "true", "main", "sidebar.", "access.", "details.x")
OPTIONS = ("--all", "--format", "--here", "--as", "--lock", "--everywhere", "--when", "--drop", "visitor", "ida.marsh")
ODD = (*PLACES, *SPELLINGS, *VALUES, *OPTIONS)
Words = list[str]


def examples(command: click.Command) -> Iterator[Words]:
    """The words of all examples of a command and of those under it, without what writes."""
    for example in getattr(command, "examples", ()):
        words = shlex.split(example)[1:]
        if not {*WRITES} & {*words} and words[0] not in NOT_ASKED:
            yield words
    if isinstance(command, click.Group):
        context = click.Context(command)
        for name in command.list_commands(context):
            found = command.get_command(context, name)
            assert found is not None
            yield from examples(found)


def changed(words: Sequence[str], every: Sequence[Words], chance: random.Random) -> Words:
    """A command line with one or two words that are others; the command itself stays."""
    found = list(words)
    plain = [word for line in every for word in line[1:]]
    for _ in range(chance.choice((1, 1, 2))):
        at = chance.randrange(1, len(found) + 1)
        word = found[at] if at < len(found) else "title=x"
        key, _, value = word.partition("=")
        match chance.randrange(8):
            case 0:
                del found[at : at + 1]
            case 1:
                found.insert(at, chance.choice(ODD))
            case 2:
                found += chance.choice(every)[1:]
            case 3:
                found[at : at + 1] = [f"{key}={chance.choice(ODD)}"]
            case 4:
                found[at : at + 1] = [f"{key}{chance.choice(('.x', '.', '+', '-', '..'))}={value}"]
            case 5:  # the value of another word of the examples
                found[at : at + 1] = [f"{key}={chance.choice([one for one in plain if '=' in one]).partition('=')[2]}"]
            case _:  # another word of its kind: a path, an option, a setting with its value, a name
                found[at : at + 1] = [chance.choice([one for one in plain if kind_of(one) == kind_of(word)])]
    return [word for word in found if word not in WRITES]


def kind_of(word: str) -> str:
    """What a word of a command line looks like."""
    return "=" if "=" in word else "--" if word.startswith("--") else word[:1] if word.startswith("/") else ""


def test_examples_of_all_commands_are_drawn() -> None:
    asked = {words[0] for words in examples(cli)}
    assert {"set", "unset", "declare", "page", "rename", "show", "why", "check", "export", "access", "tree"} <= asked


@pytest.mark.parametrize("part", range(PARTS))
def test_a_line_of_odd_words_is_answered_or_refused(
    garden: Path, part: int, capfd: pytest.CaptureFixture[str], monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(davlo.site, "open_site", opened_once(davlo.site.open_site))
    monkeypatch.chdir(garden.parent)
    every, wrong = [*examples(cli)], []
    for seed in range(FIRST + part, FIRST + LINES, PARTS):
        chance = random.Random(seed)
        words = changed(chance.choice(every), every, chance)
        capfd.readouterr()
        status = status_of([*words, "--site", str(garden)])
        out, err = capfd.readouterr()
        acting = ACTS.search(err if "csv" in words else out + err)
        if status not in (0, 1, 2) or acting or (status == 2 and not err.strip()):
            wrong.append((seed, words, status, acting, err[-300:]))
    assert wrong == []
