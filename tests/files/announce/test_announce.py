"""Telling search engines what changed, through real sockets: what is sent, what is noted, what is refused."""

from __future__ import annotations

import json
import shutil
import socket
import time
from collections.abc import Callable
from functools import partial
from pathlib import Path

import pytest

import davlo
import davlo.files.announce.announcement as announcement
import davlo.files.announce.protocol as protocol
from davlo.files.announce.post import post
from davlo.files.announce.stand_in import reply_to, stand_in
from davlo.files.store.write_lock import SiteInUse
from tests.conftest import Run

from .search_engine import answering, trickling

Small = Callable[..., Path]
KEY = "quillmere-5d1c0a9e"
HOST = "https://quillmere.example"
TODAY = ("--today", "2026-11-25")


@pytest.fixture
def published(own: Path, run: Run) -> Path:
    """The garden, its files published beside it."""
    assert run("crawler-files", "--to", str(own / "public"), "--write", *TODAY, "--site", str(own)).status == 0
    return own


def told(run: Run, folder: Path, endpoint: str, *words: str) -> dict[str, list[str]]:
    got = run("announce", "--endpoint", endpoint, "--format", "json", *words, *TODAY, "--site", str(folder))
    assert got.status == 0, got.err
    found: dict[str, list[str]] = json.loads(got.out)
    return found


def test_what_was_taken_is_noted_and_only_what_changed_is_sent_again(published: Path, run: Run) -> None:
    with stand_in(published / "public") as endpoint:
        send = ("announce", "--endpoint", endpoint, "--key", KEY, "--send", *TODAY, "--site", str(published))
        first = run(*send)
        assert (first.status, first.out) == (0, "132 addresses: taken\n")
        assert first.err == f"{endpoint} took all 132: noted, and not sent again\n"
        again = run(*send)
        assert (again.status, again.out) == (0, "")
        for words in (
            ("set", "/visit/tickets", "modified=2026-11-20"),
            ("set", "/visit/maps", "title=Where things are"),
            ("move", "/visit/cafe", "/cafe"),
        ):
            assert run("page", *words, "--write", "--even-so", "--site", str(published)).status == 0
        now = told(run, published, endpoint)
        assert now["changed"] == [f"{HOST}/visit/tickets", f"{HOST}/visit/maps"]
        assert now["new"] == [f"{HOST}/cafe", f"{HOST}/cafe/menu", f"{HOST}/cafe/opening-times"]
        assert now["gone"] == [f"{HOST}/visit/cafe", f"{HOST}/visit/cafe/menu", f"{HOST}/visit/cafe/opening-times"]
        assert run(*send).out == "8 addresses: taken\n"
        assert not any(told(run, published, endpoint)[what] for what in ("new", "changed", "gone"))
        assert len(told(run, published, "https://another.example/announce")["new"]) == 132
        shutil.rmtree(published / ".davlo" / "announced")
        assert len(told(run, published, endpoint)["new"]) == 132


def test_a_rehearsal_reaches_this_machine_alone_and_notes_nothing(published: Path, run: Run) -> None:
    words = ("announce", "--rehearse", *TODAY, "--site", str(published))
    good = run(*words, "--key", KEY)
    assert (good.status, good.out) == (0, "132 addresses: taken\n")
    assert "nothing left this machine, and nothing is noted" in good.err
    wrong = run(*words, "--key", "quillmere-other")
    assert (wrong.status, "refused: the key file is not there, or does not hold the key" in wrong.out) == (1, True)
    typed = "davlo declare site ownership_proofs.file.quillmere-other.txt=quillmere-other --write"
    assert typed in wrong.err
    assert not (published / ".davlo" / "announced").exists()
    (published / "elsewhere").mkdir()
    assert run(*words, "--key", KEY, "--root", str(published / "elsewhere")).status == 1


def test_without_send_no_socket_is_opened(published: Path, run: Run, monkeypatch: pytest.MonkeyPatch) -> None:
    def refuse(*args: object) -> None:
        raise AssertionError("a socket was opened")

    monkeypatch.setattr(socket.socket, "connect", refuse)
    monkeypatch.setenv("DAVLO_ANNOUNCE_ENDPOINT", "https://search.example/announce")
    monkeypatch.setenv("DAVLO_ANNOUNCE_KEY", KEY)
    got = run("announce", *TODAY, "--site", str(published))
    assert (got.status, got.out.splitlines()[0]) == (0, "132 addresses new: nothing was told yet")
    assert f"To whom: https://search.example/announce\nKey file: {HOST}/{KEY}.txt\nNothing is sent." in got.out


def test_a_strangers_folder_makes_nothing_be_sent(published: Path, run: Run) -> None:
    text = (published / "davlo.yaml").read_text()
    (published / "davlo.yaml").write_text(
        text.replace("  page list:", "  endpoint: https://evil.example\n  page list:")
    )
    got = run("announce", "--key", KEY, "--send", "--site", str(published))
    assert (got.status, "Name the search engine: --endpoint URL, or set DAVLO_ANNOUNCE_ENDPOINT" in got.err) == (
        2,
        True,
    )


@pytest.mark.parametrize(
    ("words", "says"),
    [
        (("--endpoint", "http://search.example/"), "whatever is sent by http can be read on the way"),
        (("--endpoint", "file:///etc/passwd"), "no address that begins with https://"),
        (("--endpoint", "http://localhost.evil.example/"), "can be read on the way"),
        (("--endpoint", "http://localhost@evil.example/"), "can be read on the way"),
        (("--key", "short"), "cannot be a key: it is 8 to 128 letters, digits and hyphens"),
        (("--key", "../../etc/passwd"), "cannot be a key"),
        (("--endpoint", "https://search.example/", "--send"), "with which key?"),
        (("--send", "--rehearse"), "choose one"),
        (("--rehearse", "--key", KEY), "nothing is published yet"),
    ],
)
def test_words_that_cannot_be_used_are_refused(own: Path, run: Run, words: tuple[str, ...], says: str) -> None:
    got = run("announce", *words, "--site", str(own))
    assert (got.status, says in got.err) == (2, True), got.err


def test_a_list_is_sent_again_after_longer_and_longer_pauses(small: Small, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(protocol, "MOST_ADDRESSES", 2)
    folder = small("", "path\n/a\n/b\n/c\n/d\n/e\n")
    pauses = list[float]()
    answers = [(429, {"Retry-After": "3"}), (503, {}), (202, {}), (200, {}), (400, {})]
    with answering(*answers) as (endpoint, got):
        plan = davlo.open_site(folder).announcement(endpoint)
        sent = [*plan.send(KEY, sleep=pauses.append)]
    assert pauses == [3.0, 2.0]
    assert [(len(one.addresses), one.answer.is_taken) for one in sent] == [(2, True), (2, True), (1, False)]
    assert got[0] == {
        "host": "small.example",
        "key": KEY,
        "keyLocation": f"https://small.example/{KEY}.txt",
        "urlList": ["https://small.example/a", "https://small.example/b"],
    }
    left = davlo.open_site(folder).announcement(endpoint)
    assert left.new == ["https://small.example/e"]
    with answering(*[(500, {})] * 5) as (endpoint, _):
        plan = davlo.open_site(folder).announcement(endpoint)
        pauses.clear()
        assert [one.answer.words for one in plan.send(KEY, sleep=pauses.append)] == [
            "not taken: the search engine has a fault of its own (500)"
        ]
    assert pauses == [1.0, 2.0, 4.0, 8.0]


def test_a_search_engine_that_says_nothing_is_not_waited_for(small: Small, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(announcement, "post", partial(post, seconds=0.3))
    monkeypatch.setattr(announcement, "PAUSES", ())
    with socket.create_server(("127.0.0.1", 0)) as mute:
        endpoint = f"http://127.0.0.1:{mute.getsockname()[1]}/"
        begin = time.monotonic()
        sent = [*davlo.open_site(small()).announcement(endpoint).send(KEY)]
    assert [one.answer.words for one in sent] == ["not taken: no answer comes"]
    with trickling() as endpoint:  # a byte at a time, each in time
        sent = [*davlo.open_site(small()).announcement(endpoint).send(KEY)]
    assert [one.answer.words for one in sent] == ["not taken: no answer comes"]
    assert time.monotonic() - begin < 10
    with answering((302, {"Location": "https://evil.example/"})) as (endpoint, _):
        sent = [*davlo.open_site(small()).announcement(endpoint).send(KEY)]
    assert sent[0].answer.words == "refused: it answers 302, which the protocol does not know"


def test_each_list_is_noted_as_soon_as_it_is_taken(small: Small, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(protocol, "MOST_ADDRESSES", 2)
    folder = small("", "path\n/\n/a\n/b\n/c\n/d\n")
    with answering() as (endpoint, got):
        sending = davlo.open_site(folder).announcement(endpoint).send(KEY)
        next(sending)
        next(sending)
        del sending  # as if it had been ended here
        assert davlo.open_site(folder).announcement(endpoint).new == ["https://small.example/d"]
        assert len([*davlo.open_site(folder).announcement(endpoint).send(KEY)]) == 1
        assert [len(one["urlList"]) for one in got] == [2, 2, 1]  # type: ignore[arg-type]
        assert not [*davlo.open_site(folder).announcement(endpoint).send(KEY)]


def test_one_sends_at_a_time_and_nothing_twice(small: Small, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(protocol, "MOST_ADDRESSES", 2)
    folder = small("", "path\n/\n/a\n/b\n/c\n/d\n")
    with answering() as (endpoint, got):
        one, other = (davlo.open_site(folder).announcement(endpoint) for _ in range(2))
        sending = one.send(KEY)
        next(sending)
        with pytest.raises(SiteInUse, match="is announcing this site"):
            next(other.send(KEY))
        assert len([*sending]) == 2
        assert [*other.send(KEY)] == []
        assert len(got) == 3


def test_credentials_of_an_endpoint_are_neither_printed_nor_kept(small: Small, run: Run) -> None:
    folder = small()
    with answering() as (endpoint, _):
        secret = endpoint.replace("http://", "http://ida:swordfish@") + "?token=swordfish"
        words = ("announce", "--endpoint", secret, "--key", KEY, "--site", str(folder))
        done = [run(*words), run(*words, "--send"), run(*words, "--send", "--format", "json"), run(*words)]
    assert [one.status for one in done] == [0, 0, 0, 0]
    assert not any("swordfish" in one.out + one.err or "ida" in one.out for one in done)
    assert not any(b"swordfish" in path.read_bytes() for path in (folder / ".davlo").rglob("*") if path.is_file())


def test_the_stand_in_checks_a_list_as_the_protocol_says(tmp_path: Path) -> None:
    (tmp_path / "shop").mkdir()
    (tmp_path / f"{KEY}.txt").write_text(KEY + "\n")
    (tmp_path.parent / "outside-key.txt").write_text("outside-key")
    good = {
        "host": "a.example",
        "key": KEY,
        "keyLocation": f"https://a.example/{KEY}.txt",
        "urlList": ["https://a.example/x"],
    }
    changes: list[tuple[dict[str, object], int]] = [
        ({}, 200),
        ({"urlList": []}, 400),
        ({"urlList": "https://a.example/"}, 400),
        ({"urlList": [3]}, 400),
        ({"urlList": ["https://a.example/x"] * 10_001}, 400),
        ({"host": None}, 400),
        ({"key": "short"}, 422),
        ({"urlList": ["https://b.example/x"]}, 422),
        ({"host": "b.example"}, 422),
        ({"keyLocation": f"https://a.example/shop/{KEY}.txt"}, 422),
        ({"key": "another-key"}, 403),
        ({"key": "outside-key", "keyLocation": "https://a.example/..%2Foutside-key.txt"}, 403),
    ]
    for change, status in changes:
        assert reply_to(json.dumps({**good, **change}).encode(), tmp_path).status == status, change
    for content in (b"", b"[]", b"\xff", b"[" * 100_000):
        assert reply_to(content, tmp_path).status == 400
