"""What people type finds what one of them would mean, and says what it was taken for."""

from __future__ import annotations

from pathlib import Path

import pytest

from tests.conftest import Run


@pytest.mark.parametrize("words", ["tickets", "TICKETS", "Shop", "garden  SHOP"])
def test_a_page_is_found_by_its_title_or_the_end_of_its_path_in_any_letters(garden: Path, run: Run, words: str) -> None:
    got = run("why", words, "menu.show", "--site", str(garden))
    path = "/visit/shop" if "shop" in words.casefold() else "/visit/tickets"
    assert (got.status, got.out.startswith(f"menu.show of {path} is")) == (0, True), got.err


@pytest.mark.parametrize("words", ["nothing-here", "", " ", "/shop", "op"])
def test_no_page_is_guessed(garden: Path, run: Run, words: str) -> None:
    assert run("why", words, "menu.show", "--site", str(garden)).status == 2


def test_a_part_of_a_setting_means_the_one_that_is_set(garden: Path, run: Run) -> None:
    got = run("why", "tickets", "Footer", "--site", str(garden))
    assert (got.status, got.out.split(" of ")[0]) == (0, "band.footer")
    assert "Footer is taken for band.footer" in got.err
    got = run("why", "tickets", "sidebar", "--site", str(garden))
    assert (got.status, "did you mean sidebar.right or sidebar.left?" in got.err) == (2, True)
    assert "declare setting" not in got.err


@pytest.mark.parametrize(
    "command", [("access",), ("show", "/visit"), ("tree",), ("set", "menu.show=no", "--here", "/visit")]
)
def test_a_part_of_a_name_means_the_one_person_who_has_it(garden: Path, run: Run, command: tuple[str, ...]) -> None:
    found, whole = (run(*command, "--as", who, "--site", str(garden)) for who in ("Ida", "ida.marsh"))
    assert (found.status, found.out.replace("Ida", "ida.marsh")) == (0, whole.out)
    assert found.err == "note: Ida is taken for ida.marsh\n"
    assert run(*command, "--as", "i", "--site", str(garden)).status == 2
