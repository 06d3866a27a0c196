"""Locks, exceptions to them, and fresh access, by command alone; a lock names the command for an exception."""

from __future__ import annotations

import shlex
from pathlib import Path

import pytest

import davlo
from tests.conftest import Ask, Run, contents

RULE = "band.footer is locked everywhere"


def typed_in(text: str, start: str) -> list[str]:
    """The words of the command that a text says to type."""
    line = next(line.strip() for line in text.splitlines() if line.strip().startswith(f"davlo {start}"))
    words = shlex.split(line)[1:]
    return words[: words.index("--site")]


def test_the_command_that_a_lock_names_lets_the_change_through(own: Path, run: Run) -> None:
    """`why`, `set` and `mend` each offer it; it keeps every value, and is taken back byte for byte."""
    before, where = contents(own), ("--site", str(own))
    wanted = ("set", "band.footer=footer-press", "--below", "/campaigns/spring", *where)
    exception = typed_in(run(*wanted).out, "set band.footer --lock")
    assert exception[-2:] == ["--except", "below=/campaigns/spring"]
    assert typed_in(run("why", "/campaigns/spring", "band.footer", *where).out, "set band.footer --lock")[-1] == (
        "path=/campaigns/spring"
    )
    got = run(*exception, *where, "--write")
    assert (got.status, "no value changes, on 1 page a lock does" in got.out) == (0, True), got.err
    assert run(*wanted, "--write").status == 0
    site = davlo.open_site(own)
    assert site.resolve()["/campaigns/spring/pledge"]["band.footer"] == "footer-press"
    assert site.resolve().source("/press/pictures", "band.footer").scope.name == RULE
    more = run(*exception[:-1], "in_branch=/press", *where, "--write")
    assert (more.status, len(davlo.open_site(own).rules[-1].excepts)) == (0, 2), more.err
    for _ in range(3):
        assert run("undo", "--write", *where).status == 0
    assert contents(own) == before


def test_mend_makes_what_a_lock_overrules_an_exception(own: Path, run: Run) -> None:
    site = davlo.open_site(own)
    name = next(one.name for one in site.check().findings if one.kind == "lock-overrules")
    assert run("mend", name, "--way", "3", "--write", "--site", str(own)).status == 0
    after = davlo.open_site(own)
    assert after.resolve()["/press/pictures"]["band.footer"] == "footer-press"
    assert not any(one.kind == "lock-overrules" for one in after.check().findings)


@pytest.mark.parametrize("scope", [("--type", "event"), ("--below", "/visit"), ("--here-and-below", "/visit")])
def test_a_lock_of_any_scope_has_exceptions(own: Path, run: Run, scope: tuple[str, ...]) -> None:
    where = ("--site", str(own))
    assert run("set", "menu.label=Yes", *scope, "--lock", "--write", "--even-so", *where).status == 0
    assert (
        run("set", "menu.label", *scope, "--lock", "--except", "tag=night", "--write", "--even-so", *where).status == 0
    )
    site = davlo.open_site(own)
    rule = site.rules[-1]
    locked = {path for path in site.tree.paths if site.resolve().source(path, "menu.label").locked}
    assert (
        locked == {site.tree.paths[page] for page in site.pages(rule.when, rule.excepts).nonzero()[0].tolist()} != set()
    )


def test_a_setting_alone_keeps_its_value(own: Path, run: Run) -> None:
    where = ("--everywhere", "--site", str(own), "--write")
    assert run("set", "band.footer", "--unlock", *where).status == 0
    assert "\n  band.footer: footer-legal             # the trustees" in (own / "davlo.yaml").read_text("utf-8")
    assert run("set", "band.footer", "--lock", "--even-so", *where).status == 0
    assert davlo.open_site(own).resolve().source("/visit", "band.footer").locked


@pytest.mark.parametrize(
    ("words", "told"),
    [
        (("menu.label", "--lock", "--everywhere"), "everywhere does not set menu.label: write menu.label=VALUE"),
        (("menu.label=A", "--everywhere", "--except", "type=event"), "--except goes with"),
        (
            ("menu.label=A", "--lock", "--here", "/visit", "--except", "type=event"),
            "nothing is stronger than the page itself",
        ),
        (("band.footer", "--lock", "--everywhere", "--except", "typ=event"), "did you mean type?"),
        (("fresh_access=no", "--below", "/press"), "davlo unset fresh_access --below PAGE"),
        (("fresh_access+=yes", "--below", "/press"), "fresh_access takes yes"),
        (("fresh_access=yes", "--below", "/nowhere"), "there is no page"),
    ],
)
def test_what_cannot_be_locked_says_why(garden: Path, run: Run, words: tuple[str, ...], told: str) -> None:
    got = run("set", *words, "--site", str(garden))
    assert (got.status, told in got.err) == (2, True), got.err


@pytest.mark.parametrize("scope", ["--below", "--here", "--here-and-below"])
def test_access_is_begun_anew_and_let_through_again(own: Path, run: Run, scope: str) -> None:
    before, where = contents(own), (scope, "/press", "--write", "--even-so", "--site", str(own))
    assert run("set", "fresh_access=yes", "access.everyone=view", *where).status == 0
    effective = davlo.open_site(own).resolve()
    found = {path: effective[path]["access.editors"] == () for path in ("/press", "/press/pictures")}
    assert found == {"/press": scope != "--below", "/press/pictures": scope != "--here"}
    again = run("set", "fresh_access=yes", *where)
    assert "the files say so already" in again.out
    assert run("unset", "fresh_access", "access.everyone", *where).status == 0
    assert contents(own)["davlo.yaml"] == before["davlo.yaml"]


def test_a_lock_with_exceptions_reads_as_one_step(ask: Ask) -> None:
    told = ask("set", "title.limit=60", "--type", "event", "--lock", "--except", "tag=night")
    assert told.startswith("lock title.limit for the type event by a rule, with 1 exception\n")
