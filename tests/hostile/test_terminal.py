"""Letters that a terminal, a shell or markup would obey: shown, and not obeyed, wherever something is printed."""

from __future__ import annotations

import ast
import os
import pty
import re
import shutil
import subprocess
import sys
from collections.abc import Callable
from pathlib import Path
from xml.etree import ElementTree

import pytest

import davlo
from davlo.cli.command_list import COMMANDS
from tests.conftest import Run

from .mutations import COMMANDS as ASKED

Small = Callable[..., Path]
CLI = Path(davlo.__file__).parent / "cli"
ACTS = re.compile("[\x00-\x09\x0b\x0c\x0e-\x1f\x7f-\x9f\u202a-\u202e\u2066-\u2069]")
OUR_STYLE = re.compile("\x1b\\[[0-9;]*m")
QUOTED = '"x\\e]0;t\\a\\x9b2J\\u202ey"'
NASTY = "x\x1b]0;t\x07\x9b2J\u202ey"


@pytest.fixture
def nasty(small: Small) -> Path:
    """A site in whose words stand letters that act: titles, paths, labels, notes, values, reasons, names of columns."""
    quoted = QUOTED
    decisions = (
        f"everywhere: {{title.pattern: {quoted}, menu.label: {quoted}, because: {quoted}}}\n"
        f"types: {{note: {{label: {quoted}, note: {quoted}, give: {{menu.show: no}}}}}}\n"
        f"layouts: {{plain: {{areas: [content, right, footer], label: {quoted}}}}}\n"
        f"sidebars: {{main: {{note: {quoted}, blocks: [next-events, words, chosen]}}}}\n"
        f"blocks: {{next-events: {{kind: branch-links, under: /, label: {quoted}}}, "
        f"words: {{kind: text, text: {quoted}}}, chosen: {{kind: links, links: {{{quoted}: /a}}}}}}\n"
        f"bands: {{low: {{fits: [right], note: {quoted}}}}}\n"
        f"settings: {{season: {{kind: choice, help: {quoted}, choices: [{quoted}, spring]}}}}\n"
        f"presets: {{some: {{note: {quoted}, title.pattern: {quoted}}}}}\n"
        f"pages: {{/a: {{below: {{sidebar.right: main, because: {quoted}}}}}}}\n"
        "viewpoints: [{page: /a}, {page: /}]\n"
        f"rules: [{{name: {quoted}, note: {quoted}, when: {{path: /a}}, give: {{sidebar.right: main, layout.name: plain}}}}]\n"
        f"guarantees: [{{name: {quoted}, when: {{path: /a}}, may: {{everyone: [edit]}}}}]\n"
        f"accept: [{{kind: no-heading, because: {quoted}}}]\n"
        "people: {names: [ida.marsh], groups: {staff: [ida.marsh], members: []}}\n"
    )
    rows = f"path,title,type,{NASTY},made_with\n/,{NASTY},note,{NASTY},\n/a,[b]A[/b],,,\n"
    rows += f"/{NASTY},T,note,,{NASTY}\n/users/[id],U,,,\n"
    return small(decisions, rows)


QUESTIONS = [
    [*words[:1], *({"/visit/tickets": "/a", "/visit": "/a", "/visit/maps": "/", "/staff": "/a", "/staff/rota": "/a", "/visit/*": "/*", "event": "note", "blocks.content+=donate": "blocks.content+=words", "blocks=search-box": "blocks=words", "opening-times": "words", "type=event": "type=note"}.get(w, w) for w in words[1:])]
    for words in ASKED
]  # fmt: skip


@pytest.mark.parametrize("words", QUESTIONS, ids=" ".join)
def test_nothing_that_is_printed_acts(nasty: Path, run: Run, words: list[str]) -> None:
    if words[0] == "page":
        words = ["/a" if word == "/" else word for word in words]
    if "--from" in words:
        (nasty / "more.yaml").write_text(f"sidebars: {{more: {{note: {QUOTED}}}}}\n", encoding="utf-8")
        words[words.index("--from") + 1] = str(nasty / ("pages.csv" if words[0] == "page" else "more.yaml"))
    if words[0] == "mend":
        words[1] = next(one.name for one in davlo.open_site(nasty).check().findings if one.kind == "guarantee-broken")
        words = words[:2]
    if words[0] == "compare":
        words = [words[0], str(shutil.copytree(nasty, nasty / "earlier"))]
        rows = (nasty / "pages.csv").read_text(encoding="utf-8").replace("/users/[id],U,,", "/users/[id],[b]U,note,")
        (nasty / "pages.csv").write_text(rows, encoding="utf-8")
    got = run(*words, "--site", str(nasty))
    assert got.status in (0, 1)
    assert ACTS.search(got.out + got.err) is None


@pytest.mark.parametrize(
    "words",
    [
        ["tree", "--columns", "title.pattern"],
        ["show", "/a", "/users/[id]"],
        ["show", "/a", "/"],
        ["check", "--all", "--edits"],
        ["list"],
        ["list", "--all"],
        ["menus", "--on", "/a"],
        ["access", "/a"],
        ["export"],
        ["tree", "--format", "json"],
        ["show", "/nowhere"],
    ],
    ids=" ".join,
)
def test_nothing_acts_on_a_terminal(nasty: Path, words: list[str]) -> None:
    told = on_a_terminal([sys.executable, "-m", "davlo", *words, "--site", str(nasty)])
    assert "Traceback" not in told
    assert ACTS.search(OUR_STYLE.sub("", told)) is None
    if "/users/[id]" in words:
        assert "/users/[id]" in told


def on_a_terminal(command: list[str]) -> str:
    """What a command prints on a terminal."""
    told = []

    main, other = pty.openpty()
    with subprocess.Popen(
        command, stdin=other, stdout=other, stderr=other, env={**os.environ, "COLUMNS": "100", "TERM": "xterm"}
    ) as process:
        os.close(other)
        try:
            while data := os.read(main, 4096):
                told.append(data)
        except OSError:  # how Linux reports that the other side is closed
            pass
        process.wait()
    os.close(main)
    return b"".join(told).decode().replace("\r\n", "\n")


def test_every_command_is_asked() -> None:
    assert {words[0] for words in ASKED} == set(COMMANDS) - {"demo", "estate", "picture", "report", "start"}


def test_one_place_prints() -> None:
    """Only `screen` writes to a stream; `machine` opens them, and `progress` draws its bar through a library."""
    found = set()
    for path in CLI.parent.rglob("*.py"):
        for node in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
            is_print = isinstance(node, ast.Call) and isinstance(node.func, ast.Name) and node.func.id == "print"
            named = f"{getattr(getattr(node, 'value', None), 'id', '')}.{getattr(node, 'attr', '')}"
            if is_print or named in ("click.echo", "click.secho", "sys.stdout", "sys.stderr"):
                found.add(path.relative_to(CLI.parent).as_posix())
    assert found - {"cli/machine.py"} == {"cli/screen.py", "cli/main.py"}
    main = (CLI / "main.py").read_text(encoding="utf-8")
    assert re.findall(r"sys\.std\w+[.\w]*", main) == ["sys.stderr.isatty"]


@pytest.mark.parametrize("name", ["/a$(touch x)", "/a`id`", "/a b", "/a;b", "/a'b", "/a&b", "/a\x1b[2J"])
def test_the_shell_is_offered_plain_names_alone(small: Small, name: str) -> None:
    folder = small("", f'path,title\n/,Home\n/ab,AB\n"{name}",A\n')
    environment = {**os.environ, "_DAVLO_COMPLETE": "bash_complete", "COMP_WORDS": "davlo show /a", "COMP_CWORD": "2"}
    command = [sys.executable, "-c", "from davlo.cli.main import cli; cli(prog_name='davlo')"]
    done = subprocess.run(command, env=environment, cwd=folder, capture_output=True, text=True)
    assert done.stdout.split("\n")[:-1] == ["plain,/ab"]


def test_xml_holds_only_what_xml_may_hold(nasty: Path, tmp_path: Path, run: Run) -> None:
    for words in (["sitemap", "--to", "s.xml"], ["picture", "/a", "/", "--to", "p.svg"], ["picture", "--map", "title.pattern", "--to", "m.svg"]):  # fmt: skip
        target = tmp_path / words[-1]
        assert run(*words[:-1], str(target), "--site", str(nasty)).status == 0
        ElementTree.parse(target)


@pytest.mark.parametrize(("name", "letters"), [("PYTHONIOENCODING", "ascii"), ("PYTHONIOENCODING", "latin-1")])
def test_a_terminal_of_other_letters_is_no_fault(garden: Path, name: str, letters: str) -> None:
    command = [sys.executable, "-m", "davlo", "check", "--site", str(garden)]
    done = subprocess.run(command, env={**os.environ, name: letters}, capture_output=True)
    assert (done.returncode, done.stderr) == (1, b"")


@pytest.mark.parametrize("closed", [">&-", "2>&-", ">&- 2>&-", "<&-", "<&- >&- 2>&-"])
def test_a_closed_stream_is_no_fault(garden: Path, tmp_path: Path, closed: str) -> None:
    script = f'"{sys.executable}" -m davlo export --to "{tmp_path}/out.csv" --site "{garden}" {closed}'
    done = subprocess.run(["sh", "-c", script], capture_output=True)
    assert done.returncode == 0
    assert (tmp_path / "out.csv").read_text(encoding="utf-8").startswith("path,")


def test_a_pipe_that_is_closed_early_is_no_fault(garden: Path) -> None:
    script = f'"{sys.executable}" -m davlo export --long --site "{garden}"; echo "status $?" >&2'
    done = subprocess.run(["sh", "-c", f"({script}) | head -1"], capture_output=True, text=True)
    assert done.stderr.strip() == "status 0"


@pytest.mark.parametrize("module", ["numpy", "yaml", "click", "typing", "json", "re"])
def test_the_module_imports_nothing_from_the_folder_it_is_run_in(small: Small, module: str) -> None:
    folder = small("")
    (folder / f"{module}.py").write_text("raise SystemExit('imported')\n", encoding="utf-8")
    done = subprocess.run([sys.executable, "-m", "davlo", "tree"], cwd=folder, capture_output=True, text=True)
    assert (done.returncode, "imported" in done.stderr) == (0, False)


def test_a_fault_of_our_own_is_one_line_and_a_file(
    garden: Path, tmp_path: Path, run: Run, monkeypatch: pytest.MonkeyPatch
) -> None:
    import tempfile

    def fail(*words: object) -> None:
        raise ZeroDivisionError("a fault\x1b[2J")

    monkeypatch.setattr("davlo.cli.questions.tree.outline", fail)
    monkeypatch.setattr(tempfile, "tempdir", str(tmp_path))
    got = run("tree", "--site", str(garden))
    assert (got.status, "Traceback" in got.err, "ZeroDivisionError: a fault\\x1b[2J" in got.err) == (3, False, True)
    assert f"at: davlo tree --site {garden}" in got.err
    (written,) = tmp_path.glob("davlo-fault-*.txt")
    assert str(written) in got.err
    assert "Traceback" in written.read_text(encoding="utf-8")


@pytest.mark.parametrize(
    "words", [[b"show", b"/\xff"], [b"tree", b"--when", b"type=\xff"], [b"check", b"--since", b"\xff"]]
)
def test_words_that_are_not_utf_8_are_no_fault_of_ours(garden: Path, words: list[bytes]) -> None:
    command = [sys.executable.encode(), b"-m", b"davlo", *words, b"--site", os.fsencode(garden)]
    done = subprocess.run(command, capture_output=True)
    assert (done.returncode, b"Traceback" in done.stderr) == (2, False)
