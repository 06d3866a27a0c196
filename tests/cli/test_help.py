"""Help in the order of work: a question for each command, three lines for each that is typed alone."""

from __future__ import annotations

import re
import shlex
from pathlib import Path

import click
import pytest

import davlo
from davlo.cli.command_list import COMMANDS, GROUPS, HEADINGS
from davlo.cli.main import cli
from tests.conftest import Run

NAMES = [*COMMANDS, *(f"{group} {name}" for group, names in GROUPS.items() for name in names)]


def command_of(words: str) -> click.Command:
    """A command of the command line."""
    found: click.Command = cli
    for word in words.split():
        assert isinstance(found, click.Group)
        one = found.get_command(click.Context(found), word)
        assert one is not None, words
        found = one
    return found


def test_the_list_of_commands_is_grouped_in_the_order_of_work(run: Run) -> None:
    told = run("--help").out
    found = {
        heading.split(" (")[0]: re.findall(r"^  ([a-z-]+)  ", part, re.MULTILINE)
        for heading, part in re.findall(r"^([A-Z][^:\n]*):\n((?:  .*\n?)+)", told, re.MULTILINE)
    }
    assert list(found)[1:] == ["Begin", "See", "Understand", "Change", "Many sites", "Search engines", "Share"]
    assert [name for names in list(found.values())[1:] for name in names] == [
        name for names in HEADINGS.values() for name in names
    ]
    assert len(told.splitlines()) < 60


@pytest.mark.parametrize("name", NAMES)
def test_help_begins_with_the_question_and_ends_with_what_can_be_typed(name: str, run: Run) -> None:
    group, _, own = name.rpartition(" ")
    question = GROUPS[group][own] if group else COMMANDS[name]
    told = run(*name.split(), "--help").out
    assert "?" in question
    assert " ".join(told.split("\n\n")[1].split()) == question
    examples, printed = map(str.splitlines, re.split("\n(?:Examples|What the first one prints):\n", told.rstrip())[1:])
    assert 1 <= len(printed) <= 2
    assert all(len(line) <= 78 for line in printed)
    examples = [line.strip() for line in examples if line]
    assert 2 <= len(examples) <= 6
    for example in examples:
        words = shlex.split(example)
        assert words[0] == "davlo"
        command = command_of(" ".join(words[1 : 3 if words[1] in GROUPS else 2]))
        inner = command.get_command(None, words[2]) if isinstance(command, click.Group) else None  # type: ignore[arg-type]
        known = {option for one in (command, inner) if one for each in one.params for option in each.opts}
        assert {word for word in words if word.startswith("--")} <= known


@pytest.mark.parametrize("name", [name for name in NAMES if name not in ("demo", "schema", "report")])
def test_a_command_without_its_site_shows_three_things_to_type(
    name: str, tmp_path: Path, run: Run, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.chdir(tmp_path)
    got = run(*name.split())
    lines = [line for line in got.err.splitlines() if line.startswith("  davlo ")]
    assert (got.status, got.out, len(lines)) == (2, "", 3)
    assert "Traceback" not in got.err


def test_first_puts_every_added_item_in_front(own: Path, run: Run) -> None:
    where = ("--type", "article", "--site", str(own))
    for key, first in (("add", ()), ("first", ("--first",))):
        told = run("set", "blocks.content+=donate; plate", "blocks.footer+=legal-line", *first, *where).out
        assert f"{{{key}: [donate, plate]}}" in told
        assert f"{{{key}: [legal-line]}}" in told
    for wrong in ("blocks.content=plate", "blocks.content-=plate"):
        got = run("set", wrong, "--first", *where)
        assert (got.status, "--first goes with SETTING+=ITEM" in got.err) == (2, True)
    got = run("set", "blocks.content:first+=plate", *where)
    assert (got.status, "now blocks.content+=ITEM --first" in got.err) == (2, True)


@pytest.mark.exhaustive
@pytest.mark.parametrize("name", NAMES)
def test_each_switch_of_a_command_goes_with_its_examples(
    name: str, tmp_path: Path, run: Run, monkeypatch: pytest.MonkeyPatch
) -> None:
    """A switch does what it says, or one message refuses it; nothing fails by a fault of Davlo's own."""
    command = command_of(name)
    examples = [shlex.split(one)[1:] for one in getattr(command, "examples", ())[:2]]
    options = [one for one in command.params if isinstance(one, click.Option) and one.is_flag]
    switches = [one.opts[0] for one in options if one.opts[0] not in ("--help", "--write")]
    folder = tmp_path / "gardens"
    davlo.write_demo_estate(folder)
    monkeypatch.chdir(folder if name.startswith("estate") else folder / "garden")
    for switch in switches:
        for example in [one for one in examples if switch not in one]:
            got = run(*[word for word in example if word != "--write"], switch)
            assert got.status in (0, 1, 2), (example, switch, got.err)
            assert bool(got.err) or got.status in (0, 1), (example, switch)
            if got.status != 2:
                break
