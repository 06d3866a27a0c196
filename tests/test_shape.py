"""The shape of the code: which way its imports point, what a small answer imports, what the public names are."""

from __future__ import annotations

import ast
import builtins
import inspect
import os
import re
import subprocess
import sys
from collections.abc import Iterator
from functools import cache
from graphlib import TopologicalSorter
from pathlib import Path

import pytest

import davlo
from davlo.cli.command_list import COMMANDS
from davlo.cli.command_list import MODULES as MODULE_OF
from davlo.cli.main import status_of
from davlo.core.findings.kinds.every_kind import KINDS
from davlo.core.site.finding_names import KIND_NAMES
from tests import public_typing

SOURCE = Path(davlo.__file__).parent
MODULES = {".".join(path.relative_to(SOURCE).with_suffix("").parts): path for path in SOURCE.rglob("*.py")}
ROOMS = (
    *(
        "core",
        "core.arrays",
        "core.site",
        "core.resolve",
        "core.outcomes",
        "core.records",
        "core.change",
        "core.condense",
        "core.findings",
    ),
    "css",
    *(
        "words",
        "frames",
        "files.form",
        "files.read",
        "files.built",
        "files.rewrite",
        "files.store",
        "files.output",
        "files.announce",
        "as_built",
        "draw",
        "effective",
        "access",
        "write_results",
        "report",
        "site",
        "estate",
        "demo",
        "start",
        "cli",
    ),
)
"""The rooms, in the order of the arrows: a module may import its own room and those before it."""
APART = {"frames": {"words"}, "files": {"words"}, "draw": {"words", "frames", "files"}, "demo": {"words", "draw"}}
"""What a room does not import although it stands before."""
NOT_IN_THE_CORE = {
    "click",
    "rich",
    "yaml",
    "csv",
    "json",
    "lxml",
    "pandas",
    "pyarrow",
    "matplotlib",
    "scipy",
    "rapidfuzz",
    "io",
    "sys",
}


@cache
def imports(name: str, for_types: bool = False) -> tuple[str, ...]:
    """The modules that a module imports, those of Davlo as `core.tree`; `for_types`: also for type checking alone."""
    return tuple(_imports(name, for_types))


def _imports(name: str, for_types: bool) -> Iterator[str]:
    tree = ast.parse(MODULES[name].read_text(encoding="utf-8"))
    package = name.split(".") if MODULES[name].name == "__init__.py" else name.split(".")[:-1]
    package = package[:-1] if package and package[-1] == "__init__" else package
    guarded = {
        id(node)
        for block in ast.walk(tree)
        if isinstance(block, ast.If) and "TYPE_CHECKING" in ast.dump(block.test)
        for node in ast.walk(block)
    }
    for node in ast.walk(tree):
        if id(node) in guarded and not for_types:
            continue
        if isinstance(node, ast.Import):
            yield from (alias.name for alias in node.names)
        elif isinstance(node, ast.ImportFrom):
            base = package[: len(package) - node.level + 1] if node.level else []
            full = ".".join([*base, *(node.module or "").split(".")]).strip(".")
            full = full.removeprefix("davlo.")
            for alias in node.names:
                inner = f"{full}.{alias.name}".strip(".")
                yield inner if inner in MODULES or f"{inner}.__init__" in MODULES else full


def room_of(name: str) -> str:
    """The room that a module is in; a module right in a folder is in that."""
    parts = name.removesuffix(".__init__").split(".")
    found = [".".join(parts[:length]) for length in range(len(parts), 0, -1)]
    return next((room for room in found if room in ROOMS), "")


@pytest.mark.parametrize("name", [name for name in MODULES if room_of(name)])
def test_imports_point_one_way(name: str) -> None:
    room = room_of(name)
    reached = {room_of(module) for module in imports(name)} - {""}
    assert {other for other in reached if ROOMS.index(other) > ROOMS.index(room)} == set()
    assert {other.split(".")[0] for other in reached} & APART.get(room.split(".")[0], set()) == set()


def test_what_is_worked_out_once_holds_no_lock_and_is_left_out_of_pickles() -> None:
    library = re.compile("from functools import .*cached_property")
    assert [name for name, path in MODULES.items() if library.search(path.read_text(encoding="utf-8"))] == [
        "core.cached"
    ]


def test_every_module_is_in_a_room() -> None:
    aside = {"__init__", "__main__", "files.__init__"}
    assert {name for name in MODULES if not room_of(name)} == aside


@pytest.mark.parametrize("name", [name for name in MODULES if name.startswith("core.")])
def test_the_core_imports_no_terminal_no_format_no_drawing(name: str) -> None:
    assert {module.split(".")[0] for module in imports(name)} & NOT_IN_THE_CORE == set()


def test_no_two_modules_import_each_other() -> None:
    edges = {
        name: {m for m in imports(name, for_types=True) if m in MODULES or f"{m}.__init__" in MODULES}
        for name in MODULES
    }
    TopologicalSorter(edges).prepare()  # raises CycleError, which names a circle


@pytest.mark.parametrize(
    ("words", "never"),
    [
        (["--help"], {"numpy", "yaml", "rich", "pandas", "pyarrow", "lxml"}),
        (
            ["show", "/visit/tickets"],
            {"rich", "pandas", "pyarrow", "lxml", "matplotlib", "rapidfuzz", "davlo.core.findings.check"},
        ),
        (
            ["why", "/", "layout.name"],
            {"rich", "pandas", "pyarrow", "lxml", "matplotlib", "rapidfuzz", "davlo.core.findings.check"},
        ),
    ],
)
def test_a_small_answer_imports_only_what_it_uses(words: list[str], never: set[str], garden: Path) -> None:
    script = (
        "import sys; from davlo.cli.main import status_of; status = status_of(sys.argv[1:]); "
        "print(*sys.modules, file=sys.stderr); sys.exit(status)"
    )
    site = [] if "--help" in words else ["--site", str(garden)]
    run = subprocess.run([sys.executable, "-c", script, *words, *site], capture_output=True, text=True)
    assert run.returncode == 0
    assert set(run.stderr.split()) & never == set()


@pytest.mark.parametrize("words", [["--help"], ["show", "/nowhere"], ["check"], ["tree", "--no-such-option"]])
def test_a_process_ends_with_its_status_and_all_it_said(
    words: list[str], garden: Path, capfd: pytest.CaptureFixture[str]
) -> None:
    site = [] if "--help" in words else ["--site", str(garden)]
    status = status_of([*words, *site])
    told = capfd.readouterr()
    same = {**os.environ}  # a library may set COLUMNS for a new process alone
    run = subprocess.run([sys.executable, "-m", "davlo", *words, *site], capture_output=True, text=True, env=same)
    assert (run.returncode, run.stdout, run.stderr) == (status, told.out, told.err)
    assert told.out or status == 2


def test_public_names_are_there_and_documented() -> None:
    assert sorted(davlo.__all__) == davlo.__all__
    assert set(davlo.__all__) <= set(dir(davlo))
    for name in davlo.__all__:
        assert inspect.getdoc(getattr(davlo, name)), name
    with pytest.raises(AttributeError, match="no attribute 'nothing'"):
        _ = davlo.nothing


def test_type_checkers_know_the_public_names() -> None:
    tree = ast.parse(Path(davlo.__file__).read_text(encoding="utf-8"))
    (block,) = (node for node in tree.body if isinstance(node, ast.If))
    told = {
        name.asname: (node.module or "").removeprefix("davlo.")
        for node in block.body
        if isinstance(node, ast.ImportFrom)
        for name in node.names
    }
    assert {name: told.pop(name, "") for name in davlo._HOMES} == davlo._HOMES
    assert told == {"draw": "davlo"}


def public_docs() -> Iterator[tuple[str, str]]:
    """Each public name, and each public method of a public class, with its docstring."""
    for name in davlo.__all__:
        public = getattr(davlo, name)
        yield name, inspect.getdoc(public) or ""
        for member in dir(public) if inspect.isclass(public) else ():
            if not member.startswith("_"):
                yield f"{name}.{member}", inspect.getdoc(getattr(public, member)) or ""


def test_errors_that_public_calls_name_are_public_and_of_one_base() -> None:
    named: dict[str, str] = {}
    for name, doc in public_docs():
        _, found, rest = doc.partition("\nRaises\n------\n")
        for line in rest.partition("\n\n")[0].splitlines() if found else ():
            if not line.startswith(" "):
                named |= dict.fromkeys(line.split(", "), name)
    own = {error: name for error, name in named.items() if not hasattr(builtins, error)}
    assert len(own) > 8
    assert {error: name for error, name in own.items() if error not in davlo.__all__} == {}
    assert [error for error in own if not issubclass(getattr(davlo, error), davlo.DavloError)] == []


def test_every_module_says_what_it_is() -> None:
    assert [
        name
        for name, path in MODULES.items()
        if path.stat().st_size and not ast.get_docstring(ast.parse(path.read_text()))
    ] == []


def test_commands_and_kinds_are_those_of_the_lists() -> None:
    assert [name for name in COMMANDS if MODULE_OF[name].removeprefix("davlo.") not in MODULES] == []
    assert [kind.name for kind in KINDS if kind.name not in KIND_NAMES] == []
    assert len(set(KIND_NAMES)) == len(KIND_NAMES)


def test_the_public_typing_holds_when_it_is_run() -> None:
    public_typing.check()
    assert (SOURCE / "py.typed").exists()


def test_no_output_of_a_test_lies_in_the_root() -> None:
    outputs = {".xml", ".gz", ".csv", ".html", ".json", ".png", ".log", ".parquet", ".xlsx"}
    assert [path.name for path in SOURCE.parents[1].iterdir() if path.suffix in outputs] == []
