"""YAML as text: what is taken away, changed or put in leaves all else as it was."""

from __future__ import annotations

import pytest

from davlo.core.site.settings.values import Raw
from davlo.files.rewrite.cannot_rewrite import CannotRewrite
from davlo.files.rewrite.spelling import goes_when_empty, named
from davlo.files.rewrite.yaml_entries import Item, Keys
from davlo.files.rewrite.yaml_text import YamlText

BLOCK = """# what holds
pages:
  /a:
    here:
      title.limit: 40   # short
      heading.show: no

  # the next page
  /a/b:
    here_and_below:
      because: it was agreed
      access:
        keepers: [view,
                  edit]
  /c: {here: {title.limit: 9}, below: {heading.show: no}}
types:
  note:
    give:
      title.limit: 5
"""


@pytest.mark.parametrize(
    ("keys", "old", "new"),
    [
        (("pages", "/a", "here", "title.limit"), "      title.limit: 40   # short\n", ""),
        (
            ("pages", "/a/b", "here_and_below", "access", "keepers"),
            BLOCK[BLOCK.index("  /a/b") : BLOCK.index("  /c")],
            "",
        ),
        (("pages", "/c", "here", "title.limit"), "here: {title.limit: 9}, ", ""),
        (("pages", "/c", "below", "heading.show"), ", below: {heading.show: no}", ""),
        (("types", "note", "give", "title.limit"), "\n    give:\n      title.limit: 5\n", " {}\n"),
    ],
)
@pytest.mark.parametrize("end", ["\n", "\r\n"])
def test_comments_and_order_survive(keys: Keys, old: str, new: str, end: str) -> None:
    text = YamlText(BLOCK.replace("\n", end))
    old, new = (one.replace("\n", end) for one in (old, new))
    assert text.without(keys, goes_when_empty).apply(text.content) == text.content.replace(old, new)
    assert text.content.count(old) == 1


TEXT = """davlo: 1
menu: {max_entries: 7}   # entries
bands:
  foot: {fits: [footer]}
  head:
    fits:
      - masthead  # the top
sidebars: {quiet: {}}
rules:
  - name: first
    give: {heading.show: no}
  # about the second
  - {name: second, give: {}}
accept: [{kind: no-heading, because: so}]
"""
FIRST = named("rules", "first")


@pytest.mark.parametrize(
    ("keys", "value", "more", "old", "new"),
    [
        (("menu", "max_entries"), "9", False, "{max_entries: 7}", "{max_entries: 9}"),
        (("bands", "foot", "fits"), "menu", True, "[footer]", "[footer, menu]"),
        (("bands", "head", "fits"), "menu", True, "- masthead  # the top\n", "- masthead  # the top\n      - menu\n"),
        (("sidebars", "quiet", "blank"), "yes", False, "{quiet: {}}", "{quiet: {blank: yes}}"),
        (
            (*FIRST, "except"),
            {"path": ["/a b"]},
            False,
            "    give: {heading.show: no}\n",
            "    give: {heading.show: no}\n    except: {path: [/a b]}\n",
        ),
        (
            ("types", "note"),
            {"based_on": "page"},
            False,
            "because: so}]\n",
            "because: so}]\ntypes:\n  note: {based_on: page}\n",
        ),
        (
            ("types", "yes: no"),
            ["12", "a, b", "null"],
            False,
            "so}]\n",
            "so}]\ntypes: {'yes: no': [12, 'a, b', 'null']}\n",
        ),
        (("bands", "head", "fits"), ["menu"], False, "fits:\n      - masthead  # the top", "fits: [menu]  # the top"),
    ],
)
@pytest.mark.parametrize("end", ["\n", "\r\n"])
def test_what_is_put_in_leaves_all_else_as_it_was(
    keys: Keys, value: Raw, more: bool, old: str, new: str, end: str
) -> None:
    text = YamlText(TEXT.replace("\n", end))
    old, new = (one.replace("\n", end) for one in (old, new))
    assert text.put(keys, value, more).apply(text.content) == text.content.replace(old, new)
    assert text.content.count(old) == 1


@pytest.mark.parametrize(
    ("keys", "old", "new"),
    [
        (named("rules", "second"), "  - {name: second, give: {}}\n", ""),
        (FIRST, "  - name: first\n    give: {heading.show: no}\n", ""),
        (("accept", Item(lambda raw: True, "first")), "[{kind: no-heading, because: so}]", "[]"),
        (("sidebars", "quiet"), "{quiet: {}}", "{}"),
    ],
)
def test_items_and_entries_go(keys: Keys, old: str, new: str) -> None:
    text = YamlText(TEXT)
    assert text.without(keys, lambda path: False).apply(TEXT) == TEXT.replace(old, new)


LOCKED = """everywhere:
  heading.show: no
  lock:
    band.footer: legal   # for good
    title.limit: 40
types:
  note: {give: {lock: {title.limit: 50}, menu.show: no}}
pages:
  /a:
    below:
      lock:
        menu.show: no  # hidden
"""


@pytest.mark.parametrize(
    ("keys", "old", "new"),
    [
        (
            ("everywhere", "lock", "title.limit"),
            "  lock:\n    band.footer: legal   # for good\n    title.limit: 40\n",
            "  title.limit: 40\n  lock:\n    band.footer: legal   # for good\n",
        ),
        (("types", "note", "give", "lock", "title.limit"), "{lock: {title.limit: 50}, menu", "{title.limit: 50, menu"),
        (
            ("pages", "/a", "below", "lock", "menu.show"),
            "      lock:\n        menu.show: no  # hidden\n",
            "      menu.show: no  # hidden\n",
        ),
    ],
)
def test_a_lock_is_lifted_and_its_value_kept(keys: Keys, old: str, new: str) -> None:
    text = YamlText(LOCKED)
    found = text.find(keys)
    assert found
    assert text.lift(found).apply(LOCKED) == LOCKED.replace(old, new)


@pytest.mark.parametrize(
    "keys",
    [
        ("a", "title.limit"),
        ("b", "heading.show"),
        ("c", "d"),
        (*named("c", "x"), "y"),
        ("d", Item(lambda raw: True, "one")),
    ],
)
def test_what_cannot_be_edited_is_refused(keys: Keys) -> None:
    text = YamlText("a: &x {title.limit: 9}\nb: *x\nc: 1\n")
    with pytest.raises(CannotRewrite):
        text.without(keys, goes_when_empty)
    if keys[0] != "b":
        with pytest.raises(CannotRewrite):
            text.put(keys, "1")
