"""Objects of the library as Python users handle them: copied, pickled, given what they do not take."""

from __future__ import annotations

import copy
import pickle
import re

import pytest

import davlo

SITE = davlo.open_demo()
EFFECTIVE = SITE.resolve()
CHANGE = davlo.Change().say("menu.show", False, here="/visit")
OBJECTS = {
    "site": SITE,
    "effective": EFFECTIVE,
    "some of it": SITE.resolve(["menu.show"], ["/visit"]),
    "a page's settings": EFFECTIVE["/visit"],
    "change": CHANGE,
    "report": SITE.check(),
    "finding": SITE.check().findings[0],
    "reach": SITE.reach(CHANGE),
    "difference": SITE.difference(SITE.apply(CHANGE)),
    "why": EFFECTIVE.why("/visit", "sidebar.right"),
    "access": SITE.access(),
    "outcomes": EFFECTIVE.outcomes,
    "shown": EFFECTIVE.shown,
    "page": SITE.page("/visit"),
    "condensing": SITE.condense(),
    "publication": SITE.publication("build"),
}


@pytest.mark.parametrize("name", OBJECTS)
def test_it_can_be_copied_and_pickled(name: str) -> None:
    before = OBJECTS[name]
    for after in (copy.copy(before), copy.deepcopy(before), pickle.loads(pickle.dumps(before))):
        assert type(after) is type(before)
        assert re.sub("0x[0-9a-f]+", "", repr(after)) == re.sub("0x[0-9a-f]+", "", repr(before))


def test_what_was_pickled_answers_as_before() -> None:
    again = pickle.loads(pickle.dumps(EFFECTIVE))
    assert {path: dict(again[path]) for path in again} == {path: dict(EFFECTIVE[path]) for path in EFFECTIVE}
    assert [one.message for one in pickle.loads(pickle.dumps(SITE)).check().findings] == [
        one.message for one in SITE.check().findings
    ]
    for packed in (False, True):
        publication = SITE.publication("build", packed=packed)
        assert pickle.loads(pickle.dumps(publication)).digests == publication.digests
    reach = pickle.loads(pickle.dumps(SITE.reach(CHANGE)))
    assert (reach.count(), reach.values()) == (SITE.reach(CHANGE).count(), SITE.reach(CHANGE).values())


def test_what_a_notebook_shows_is_short() -> None:
    paths = ["/", *(f"/page-{n}" for n in range(3000))]
    decisions = {
        "davlo": 1,
        "site": {"name": "Many", "url": "https://many.example"},
        "everywhere": {"heading.show": False},
    }
    report = davlo.Site.from_frames({"path": paths}, decisions).check()
    worst = max(report.findings, key=lambda one: len(one.pages))
    assert len(worst.pages) > 2900
    assert f"{len(worst.pages):,} pages" in repr(worst)
    assert max(len(repr(worst)), len(repr(report))) < 3000
    assert repr(SITE.check()).splitlines()[1].split() == ["level", "name", "pages", "message"]
    obeyed = davlo.Site.from_frames({"path": ["/"], "title": ["\x1b[2J"], "type": ["\x1b[2J"]}, decisions).check()
    assert "\\x1b[2J" in repr(obeyed)
    assert "\x1b" not in repr(obeyed) + "".join(map(repr, obeyed.findings))
    with pytest.raises(davlo.SiteError) as error:
        davlo.Site.from_frames({"path": [path[1:] or "x" for path in paths]}, decisions)
    assert len(error.value.faults) > 2900
    assert len(str(error.value).splitlines()) == 21


@pytest.mark.parametrize("value", [object(), [object()], {"add": [object()]}, b"x", 1j, {1, 2}])
def test_a_value_of_another_kind_is_refused_at_once(value: object) -> None:
    with pytest.raises(TypeError, match=r"a value of a setting is a text, a number, yes or no, None, a list of these"):
        davlo.Change().say("menu.label", value, here="/visit")


def test_questions_about_pages_that_were_not_resolved_are_refused() -> None:
    some = SITE.resolve(pages=["/visit"])
    for ask in (some.why, some.source, lambda page, setting: some.shown.reason(page, setting)):
        assert ask("/visit", "sidebar.right") is not None
        with pytest.raises(davlo.UnknownName):
            ask("/press", "sidebar.right")
    assert list(some) == some.search("menu.show=yes") == ["/visit"]
