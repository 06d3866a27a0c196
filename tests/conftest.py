"""What all tests share: the garden in a folder of its own, and small sites made on the spot."""

from __future__ import annotations

import os
import tempfile
from collections.abc import Callable, Mapping
from functools import partial
from pathlib import Path

import pytest
from hypothesis import Phase, settings
from hypothesis.internal.conjecture import providers

import davlo
from davlo.cli.main import status_of
from davlo.files.store.user_key import user_key

# The profile `same` draws the same made-up sites every time. `make test-long` chooses `new`, and passes a seed.
# Made-up sites are large: shrinking one that fails takes minutes, so only --hypothesis-profile=shrink does it.
QUICK = (Phase.explicit, Phase.generate)
settings.register_profile("same", phases=QUICK, deadline=None, derandomize=True, database=None)
settings.register_profile("new", phases=QUICK, deadline=None, database=None)
settings.register_profile("shrink", deadline=None)
settings.load_profile("same")
# Hypothesis draws constants, too, that it finds in all modules loaded so far: the sites would depend on what else is run.
if hasattr(providers, "_get_local_constants"):
    providers._get_local_constants = lambda: providers._local_constants

STATE = tempfile.TemporaryDirectory(prefix="davlo-state-")
"""The folder for the key that marks Davlo's records, so that no test writes into the user's own."""
os.environ["DAVLO_STATE"] = STATE.name
user_key(Path(os.devnull), make=True)

Run = Callable[..., "Outcome"]
MINIMAL = "davlo: 1\nsite: {name: Small, url: 'https://small.example', languages: [en, fr]}\n"


class Outcome:
    """What a command printed, and its exit status."""

    def __init__(self, status: int, out: str, err: str) -> None:
        self.status, self.out, self.err = status, out, err


@pytest.fixture(scope="session")
def garden(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The demo site, in a folder that no test changes."""
    folder = tmp_path_factory.mktemp("demo") / "garden"
    davlo.write_demo(folder)
    return folder


@pytest.fixture
def own(tmp_path: Path) -> Path:
    """The garden, in a folder that the test may change."""
    folder = tmp_path / "garden"
    davlo.write_demo(folder)
    return folder


def contents(folder: Path) -> dict[str, bytes]:
    """Every file of a site but Davlo's own."""
    return {path.name: path.read_bytes() for path in folder.iterdir() if path.is_file()}


@pytest.fixture
def run(capfd: pytest.CaptureFixture[str]) -> Run:
    """Run the command line as a shell would."""

    def run_words(*words: str) -> Outcome:
        capfd.readouterr()
        status = status_of(list(words))
        out, err = capfd.readouterr()
        return Outcome(status, out, err)

    return run_words


def write_small(
    folder: Path, decisions: str = "", pages: str = "path\n/\n/a\n/a/b\n", files: Mapping[str, str] | None = None
) -> Path:
    """Write a small site into a folder: davlo.yaml after its first lines, the rows of pages.csv, and other files."""
    (folder / "davlo.yaml").write_text(MINIMAL + decisions, encoding="utf-8")
    (folder / "pages.csv").write_text(pages, encoding="utf-8")
    for name, content in (files or {}).items():
        (folder / name).parent.mkdir(exist_ok=True)
        (folder / name).write_text(content, encoding="utf-8")
    return folder


@pytest.fixture
def small(tmp_path: Path) -> Callable[..., Path]:
    """`write_small` into a folder of the test's own."""
    return partial(write_small, tmp_path)


Ask = Callable[..., str]


@pytest.fixture
def ask(garden: Path, run: Run) -> Callable[..., str]:
    """Ask about the garden; the command must end well."""

    def words(*args: str) -> str:
        outcome = run(*args, "--site", str(garden))
        assert (outcome.status, outcome.err) == (0, "")
        return outcome.out

    return words
