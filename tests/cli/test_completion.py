"""What the shell completes: asked as the shell asks, and in a Bash that somebody types into."""

from __future__ import annotations

import os
import pty
import re
import select
import shlex
import subprocess
import sys
import time
from collections.abc import Callable, Iterator
from pathlib import Path

import click
import pytest

import davlo
from davlo.cli.completion import name_list
from davlo.cli.completion.known_commands import KnownCommand
from davlo.cli.main import cli
from tests.conftest import Run


def completed(words: str, folder: Path, count: int | None = None) -> list[str]:
    """What is offered for the last word, as Bash asks; `count` says where that is, if Bash split the words."""
    number = len(words.split(" ")) - 1 if count is None else count
    environment = {**os.environ, "_DAVLO_COMPLETE": "bash_complete", "COMP_WORDS": words, "COMP_CWORD": str(number)}
    command = [sys.executable, "-m", "davlo"]
    done = subprocess.run(command, env=environment, cwd=folder, capture_output=True, text=True)
    assert done.stderr == ""
    return [line.removeprefix("plain,") for line in done.stdout.splitlines() if line]


@pytest.fixture
def asked(own: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    """A garden whose names are listed."""
    name_list.write_names(own, "names")
    name_list.write_names(own, "findings")
    return own


OFFERS = [
    ("davlo show /visit/ti", "/visit/tickets"),
    ("davlo set sidebar.right=vis", "sidebar.right=visit-planning"),
    ("davlo set sidebar.right = vis", "visit-planning"),
    ("davlo set heading.show=", "heading.show=yes"),
    ("davlo set layout.width=na", "layout.width=narrow"),
    ("davlo set blocks.content:first+=don", "blocks.content:first+=donate"),
    ("davlo set access.editors=view,ed", "access.editors=view,edit"),
    ("davlo set page.owner=ida", "page.owner=ida.marsh"),
    ("davlo set sidebar.r", "sidebar.right="),
    ("davlo unset sidebar.r", "sidebar.right"),
    ("davlo tree --when ty", "type="),
    ("davlo tree --when made", "made_with="),
    ("davlo tree --when type=ev", "type=event"),
    ("davlo tree --when below=/visit/ti", "below=/visit/tickets"),
    ("davlo tree --when tag=pri", "tag=prices"),
    ("davlo tree --when status=dr", "status=draft"),
    ("davlo tree --when made_with = pot", "potting-bench"),
    ("davlo tree --having=sidebar.right=sto", "sidebar.right=stories"),
    ("davlo access --as rowan", "rowan.pike"),
    ("davlo set heading.show=no --rule Hand", "Hand-built\\ pages\\ run\\ edge\\ to\\ edge"),
    ("davlo declare block donate provides=h", "provides=heading"),
    ("davlo declare type event based_on=art", "based_on=article"),
    ("davlo declare sidebar qui", "quiet"),
    ("davlo rename lay", "layout"),
    ("davlo rename layout rec", "record-page"),
    ("davlo page set /visit status=fo", "status=folder"),
    ("davlo page set /visit type=art", "type=article"),
    ("davlo check --kind lock-o", "lock-overrules"),
    ("davlo cra", "crawler-files"),
]


@pytest.mark.parametrize(("words", "offered"), OFFERS)
def test_names_values_and_conditions_are_completed(words: str, offered: str, asked: Path) -> None:
    assert offered in completed(words, asked)


def test_the_names_of_findings_are_those_of_check(asked: Path) -> None:
    names = {found.name for found in davlo.open_site(asked).check().findings}
    for command in ("check", "mend"):
        assert set(completed(f"davlo {command} ", asked)) == names


def test_earlier_states_are_branches_and_tags_or_folders(asked: Path) -> None:
    assert completed("davlo compare HE", asked) == ["dir,HE"]
    git = ["git", "-c", "user.name=Ida Marsh", "-c", "user.email=ida@quillmere.example"]
    for words in (["init", "-qb", "main"], ["add", "."], ["commit", "-qm", "one"], ["tag", "-a", "spring", "-m", "x"]):
        subprocess.run([*git, *words], cwd=asked, check=True)
    assert completed("davlo compare ", asked) == ["HEAD~1", "main", "spring"]
    assert completed("davlo export --records --changed-since spr", asked) == ["spring"]
    assert completed("davlo compare ../ot", asked) == ["dir,../ot"]


def test_a_changed_site_is_listed_anew_and_a_broken_one_keeps_its_names(asked: Path, run: Run) -> None:
    assert completed("davlo show /new", asked) == []
    assert run("page", "add", "/newcomer", "--write", "--site", str(asked)).status == 0
    name_list.write_names(asked, "names")
    assert completed("davlo show /new", asked) == ["/newcomer"]
    (asked / "davlo.yaml").write_text("davlo: [", encoding="utf-8")
    assert completed("davlo show /new", asked) == ["/newcomer"]


@pytest.mark.parametrize(
    "content", [b"", b"{", b"[]", b'{"files": 1}', b"\xff", b'{"names": {"page": ["/$(touch x)"]}}']
)
def test_a_list_that_cannot_be_read_is_made_anew(content: bytes, asked: Path) -> None:
    (place,) = (Path(os.environ["DAVLO_STATE"]) / "names").glob(name_list._place(asked, "names").name)
    place.write_bytes(content)
    completed("davlo show /visit/ti", asked)
    name_list.write_names(asked, "names")
    assert completed("davlo show /visit/ti", asked)[0] == "/visit/tickets"


def test_no_site_offers_nothing(tmp_path: Path) -> None:
    for words in ("show /", "set si", "tree --when type=", "check ", "mend ", "declare sidebar "):
        assert completed(f"davlo {words}", tmp_path) == []


def test_what_a_command_answers_never_comes_from_the_list(asked: Path, run: Run) -> None:
    before = run("tree", "--site", str(asked)).out
    name_list._place(asked, "names").write_bytes(b'{"names": {"page": ["/wrong"]}}')
    assert run("tree", "--site", str(asked)).out == before
    assert run("show", "/wrong", "--site", str(asked)).status == 2


def test_sentences_with_more_than_words_are_not_offered(small: Callable[..., Path]) -> None:
    rules = ["a b", "a $(touch x)", "a `id`", "a; b", 'a "b"', "a 'b'", "a!b"]
    told = "\n".join(f"  - {{name: {name!r}, when: {{path: /}}, give: {{menu.show: no}}}}" for name in rules)
    folder = small(f"rules:\n{told}\n")
    name_list.write_names(folder, "names")
    assert completed("davlo set menu.show=yes --rule ", folder) == ["a\\ b"]


def commands_in(command: click.Command, path: str = "") -> Iterator[tuple[str, click.Command]]:
    """The commands in a group, and in the groups in it, each with the words that one types."""
    context = click.Context(command)
    for name in command.list_commands(context) if isinstance(command, click.Group) else ():
        inner = command.get_command(context, name)  # type: ignore[attr-defined]
        yield f"{path} {name}", inner
        yield from commands_in(inner, f"{path} {name}")


NAMES_SOMETHING = re.compile("(PAGE|SETTING|WHO|RULE|PRESET|PERSON|GROUP|LANGUAGE|CONDITION|.*REVISION|[A-Z]+=VALUE)S?")


def test_whatever_names_something_is_completed() -> None:
    found = {}
    for words, command in commands_in(cli):
        for one in command.params:
            told = one.human_readable_name if isinstance(one, click.Argument) else str(one.metavar)
            if NAMES_SOMETHING.fullmatch(re.sub("[^A-Z=-]", "", told)):
                found[words, told] = one._custom_shell_complete
    assert len(found) > 80
    assert [one for one, function in found.items() if function is None] == []


def test_the_commands_that_the_shell_knows_are_those_that_run() -> None:
    known, real = (
        {
            words: [(one.opts, one.nargs, type(one)) for one in command.params if "--help" not in one.opts]
            for words, command in commands_in(group)
        }
        for group in (KnownCommand.of(cli).as_command("davlo"), cli)
    )
    assert known == real


class Shell:
    """A Bash that completes davlo's words, in a folder; what is typed comes back as it stands on the line."""

    def __init__(self, folder: Path) -> None:
        self.process, self.terminal = pty.fork()
        if self.process == 0:
            os.chdir(folder)
            os.environ.update(PS1="$ ", TERM="dumb", PATH=f"{Path(sys.executable).parent}:{os.environ['PATH']}")
            os.execvp("bash", ["bash", "--norc", "--noprofile", "-i"])
        python = shlex.quote(sys.executable)
        script = (
            f'davlo() {{ {python} -m davlo "$@"; }}; bind "set bell-style none"; bind "set enable-bracketed-paste off"'
        )
        self.type(
            f'{script}; export -f davlo; eval "$(_DAVLO_COMPLETE=bash_source davlo)"; echo read""y\n', "ready\r\n"
        )

    def type(self, text: str, until: str, seconds: float = 30) -> str:
        """Type a text; gives all that is printed until something stands there."""
        os.write(self.terminal, text.encode())
        printed, end = "", time.monotonic() + seconds
        while until not in printed and time.monotonic() < end:
            if select.select([self.terminal], [], [], 0.2)[0]:
                printed += os.read(self.terminal, 1 << 16).decode(errors="replace")
        return printed

    def close(self) -> None:
        os.close(self.terminal)
        os.waitpid(self.process, 0)


@pytest.mark.parametrize(
    ("typed", "line"),
    [
        ("davlo set sidebar.right=vis", "davlo set sidebar.right=visit-planning "),
        ('davlo set "sidebar.right=vis', 'davlo set "sidebar.right=visit-planning" '),
        ("davlo tree --when ma", "davlo tree --when made_with="),
        ("davlo set x=y --rule Hand", "davlo set x=y --rule Hand-built\\ pages\\ run\\ edge\\ to\\ edge "),
        ("davlo set x=y --rule 'Hand", "davlo set x=y --rule 'Hand-built pages run edge to edge' "),
        ("davlo set blocks.content:first+=legal", "davlo set blocks.content:first+=legal-line "),
    ],
)
def test_bash_completes_what_somebody_types(typed: str, line: str, asked: Path) -> None:
    shell = Shell(asked)
    try:
        assert line in shell.type(f"{typed}\t", line)
    finally:
        shell.close()
