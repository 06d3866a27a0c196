"""Texts as columns, and finding them by fingerprint."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

import davlo.core.arrays.path_finder as module
from davlo.core.arrays import in_background
from davlo.core.arrays.path_finder import Finder, fingerprints, path_marks
from davlo.core.arrays.texts import Texts

LONG = st.text("/abé", min_size=60, max_size=140)
WORDS = st.lists(st.one_of(st.text("/abé\x00", max_size=20), LONG), max_size=12)


@given(WORDS, st.data())
def test_a_column_holds_its_texts(words: list[str], data: st.DataObject) -> None:
    texts = Texts.of(words)
    assert texts.tolist() == words == [texts[i] for i in range(len(texts))]
    order = data.draw(st.permutations(range(len(words))))
    taken = texts.take(np.array(order, dtype=np.int64))
    assert taken.tolist() == [words[i] for i in order]
    laid_out = taken.laid_out()
    assert laid_out.tolist() == taken.tolist()
    assert laid_out.data.tobytes() == "".join(taken).encode()
    assert texts[1:3].tolist() == words[1:3]
    assert texts.begins_with(ord("/")).tolist() == [word.startswith("/") for word in words]


@given(WORDS)
def test_equal_texts_have_equal_fingerprints_wherever_they_lie(words: list[str]) -> None:
    marks = fingerprints(Texts.of(words)).tolist()
    assert marks == [int(fingerprints(Texts.of(["before", word, "after" * 20])[1:])[0]) for word in words]
    assert len(set(zip(words, marks, strict=True))) == len(set(words))
    assert len(set(marks)) == len(set(words))


@pytest.mark.parametrize(("block", "many"), [(2, 1 << 17), (1 << 15, 1 << 17), (1, 0)])
@settings(max_examples=30)
@given(words=WORDS)
def test_each_text_and_each_prefix_finds_its_equal(block: int, many: int, words: list[str]) -> None:
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(in_background, "_BLOCK", block)
        patch.setattr(in_background, "MANY", many)
        find_all_and_prefixes(words)
        texts = Texts.of(words)
        last = [word.encode().rfind(b"/") for word in words]
        found = texts.last(ord("/"), texts.end)
        assert np.where(found < 0, -1, found - texts.start).tolist() == last


@given(st.lists(st.one_of(st.text("/abé", max_size=20), LONG).map(lambda rest: f"/{rest}"), max_size=12))
def test_paths_are_marked_whole_and_up_to_their_last_slash_in_one_pass(words: list[str]) -> None:
    paths = Texts.of(["before", *words])[1:]
    marks = path_marks(paths)
    cut = [max(1, word.encode().rfind(b"/")) for word in words]
    assert (marks.cut - paths.start).tolist() == cut
    assert marks.whole.tolist() == fingerprints(paths).tolist()
    assert marks.before.tolist() == fingerprints(paths, marks.cut).tolist()


def test_what_goes_wrong_in_one_block_is_raised(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(in_background, "MANY", 0)
    with pytest.raises(ZeroDivisionError):
        in_background.in_blocks(1 << 16, lambda block: 1 // (block.start - block.start))


@given(WORDS, st.data())
def test_some_texts_are_replaced(words: list[str], data: st.DataObject) -> None:
    some = data.draw(st.lists(st.integers(0, max(0, len(words) - 1)), unique=True)) if words else []
    replaced = Texts.of(words).replaced(np.array(some, dtype=np.int64), Texts.of(f"é{i}" for i in some))
    assert replaced.tolist() == [f"é{i}" if i in some else word for i, word in enumerate(words)]
    visible = [word[:1].isascii() and word[:1].isprintable() and word[:1] > " " for word in words]
    assert Texts.of(words).begins_visibly().tolist() == visible


def find_all_and_prefixes(words: list[str]) -> None:
    texts = Texts.of(words)
    finder = Finder(texts)
    assert finder.firsts().tolist() == [words.index(word) for word in words]
    assert [finder.find_one(word) for word in [*words, "not there"]] == [*(words.index(w) for w in words), -1]
    others = Texts.of([*reversed(words), "not there"])
    assert finder.find(others).tolist() == [*(words.index(word) for word in reversed(words)), -1]
    cut = np.maximum(texts.start, texts.end - 1)
    prefixes = [word.encode()[: max(0, len(word.encode()) - 1)] for word in words]
    encoded = [word.encode() for word in words]
    expected = [encoded.index(prefix) if prefix in encoded else -1 for prefix in prefixes]
    assert finder.find(texts, cut).tolist() == expected


@given(WORDS)
def test_texts_that_differ_are_told_apart_where_fingerprints_collide(words: list[str]) -> None:
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(module, "fingerprints", lambda texts, end=None: np.zeros(len(texts), dtype=np.uint64))
        finder = Finder(Texts.of(words))
        assert finder.firsts().tolist() == [words.index(word) for word in words]
        assert [finder.find_one(word) for word in words] == [words.index(word) for word in words]


LENGTHS = st.integers(0, 400).map(lambda length: "é" * (length // 7) + "a" * (length % 7))


@given(st.lists(st.tuples(LENGTHS, LENGTHS), min_size=1, max_size=8), st.booleans())
def test_texts_of_any_lengths_are_compared_to_their_ends(pairs: list[tuple[str, str]], copies: bool) -> None:
    mine, theirs = [a for a, _ in pairs], [a if copies and len(a) % 2 else b for a, b in pairs]
    found = Texts.of(mine).differ(Texts.of(theirs))
    assert found.tolist() == [a != b for a, b in zip(mine, theirs, strict=True)]


@given(st.lists(st.text("ab/é", max_size=6), max_size=8), st.text("ab/é", min_size=1, max_size=3))
def test_texts_that_hold_another_are_those_that_python_finds(words: list[str], text: str) -> None:
    found = Texts.of([*words, "x"]).take(np.arange(len(words))[::-1]).holding_text(text.encode())
    assert found.tolist() == [at for at, word in enumerate(reversed(words)) if text in word]


@given(st.lists(st.text(" \t\u00a0\u3000aé/", max_size=5), max_size=8))
def test_stripped_texts_are_those_that_python_strips(words: list[str]) -> None:
    assert Texts.of(words).stripped().tolist() == [word.strip() for word in words]


def test_a_repr_is_short() -> None:
    assert repr(Texts.of(["a", "b", "c", "d"])) == "<Texts: 4: 'a', 'b', 'c', …>"
