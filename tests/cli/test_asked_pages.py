"""`--when`, `--having` and lists on the command line: dates, ranges, commas and semicolons, and values no page has."""

from __future__ import annotations

import csv
import datetime
import io
from collections.abc import Callable
from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

import davlo
from tests.conftest import Ask, Run, write_small

Small = Callable[..., Path]
DAYS = st.dates(datetime.date(2019, 1, 1), datetime.date(2023, 12, 31))
PARTS = st.tuples(DAYS, st.sampled_from([4, 7, 10])).map(lambda one: one[0].isoformat()[: one[1]])


def paths_when(ask: Ask, *words: str) -> list[str]:
    options = [part for word in words for part in ("--when", word)]
    return [row["path"] for row in csv.DictReader(io.StringIO(ask("tree", *options, "--format", "csv")))]


@settings(max_examples=40, deadline=None)
@given(days=st.lists(DAYS | st.none(), min_size=3, max_size=12), least=PARTS, most=PARTS)
def test_a_range_of_dates_holds_the_days_between_its_ends(
    days: list[datetime.date | None], least: str, most: str, tmp_path_factory: pytest.TempPathFactory
) -> None:
    texts = [day.isoformat() + "T10:00" * (number % 2) if day else "" for number, day in enumerate(days)]
    rows = "".join(f"/p{number},{text}\n" for number, text in enumerate(texts))
    site = davlo.open_site(write_small(tmp_path_factory.mktemp("dated"), pages=f"path,created\n{rows}"))
    first = datetime.date.fromisoformat(least + "-01-01"[len(least) - 4 :] if len(least) < 10 else least)

    def chosen(word: str) -> list[str]:
        return list(site.pages_when(f"created={word}"))

    inside = [day is not None and day >= first and day.isoformat()[: len(most)] <= most for day in days]
    if least[: len(most)] <= most[: len(least)]:
        assert chosen(f"{least}..{most}") == [f"/p{n}" for n, there in enumerate(inside) if there]
    assert chosen(f"{least}..") == [f"/p{n}" for n, day in enumerate(days) if day and day >= first]
    assert chosen(least) == [f"/p{n}" for n, day in enumerate(days) if day and day.isoformat().startswith(least)]


def test_numbers_have_ranges_and_keys_take_lists(ask: Ask) -> None:
    assert paths_when(ask, "order=2..3") == paths_when(ask, "order=2", "order=3") != []
    assert paths_when(ask, "type=event,listing", "below=/events") == paths_when(
        ask, "type=event;listing", "below=/events"
    )
    assert paths_when(ask, "depth=1..2") == paths_when(ask, "depth=1-2")
    assert paths_when(ask, "path=/visit/*,/about/*") == paths_when(ask, "path=/about/*", "path=/visit/*")


def test_a_title_or_path_with_a_comma_is_one_value(small: Small) -> None:
    site = davlo.open_site(small(pages='path,title\n/,Home\n"/a,b","Tea, hot"\n/b,Tea\n'))
    assert list(site.pages_when("title=Tea, hot")) == ["/a,b"]
    assert list(site.pages_when("path=/a,*")) == ["/a,b"]
    assert list(site.pages_when("title=Tea,Home")) == ["/", "/b"]


@pytest.mark.parametrize(
    ("word", "says"),
    [
        ("created=2031", "no page has created 2031: it goes from 2021-01-04 to 2022-12-28"),
        ("modified=2031-02..", "no page has modified 2031-02..: it goes from"),
        ("tag=pricess", "no page has the tag 'pricess'; did you mean prices?"),
        ("below=/vist", "there is no page /vist; did you mean /visit?"),
        ("below=/visit/thanks", "nothing is below /visit/thanks"),
        ("type=landing,page,note", "no type 'note'"),
        ("made_with=potting-bensh,potting-bench", "did you mean potting-bench?"),
        ("language=de", "no page has language 'de'; allowed here: en, fr"),
        ("path=/nowhere/*", "no path matches /nowhere/*"),
        ("created=2022-13..", "2022-13 is no date"),
        ("created=2022-02-30", "that is no date"),
        ("created=2022-05..2021-05", "the range ends before it begins"),
    ],
)
def test_a_word_that_matches_no_page_is_told(word: str, says: str, run: Run, garden: Path) -> None:
    told = run("tree", "--when", word, "--site", str(garden))
    assert says in told.err
    assert "--when" in told.err


def test_lists_take_commas_and_semicolons_everywhere(ask: Ask, run: Run, garden: Path, tmp_path: Path) -> None:
    for words in (
        ["tree", "--columns", "sidebar.right{}layout.name", "--format", "csv"],
        ["export", "--columns", "sidebar.right{}layout.name"],
        ["tree", "--having", "access.editors=edit{}view", "--format", "csv"],
        ["set", "access.editors=view{}edit", "--here", "/visit", "--format", "csv"],
    ):
        one, other = (run(*(word.format(sign) for word in words), "--site", str(garden)) for sign in (",", ";"))
        assert one.status == 0
        assert one.out == other.out
        assert len(one.out) > 10
    for words in (
        ["set", "/visit/tickets", "tags=prices{} rain"],
        ["add", "/visit/x", "--detail", "tags=prices{}rain"],
    ):
        for sign in (",", ";"):
            told = run("page", *(word.format(sign) for word in words), "--site", str(garden)).out
            assert ",prices; rain," in told
    tried = ["--try", "blocks.content=booking-link,donate", "--try", "blocks.content=donate"]
    picture = tmp_path / "tried.svg"
    run("picture", "/events", *tried, "--to", str(picture), "--site", str(garden))
    drawn = picture.read_text(encoding="utf-8")
    assert "blocks.content: booking-link; donate" in drawn
    assert "blocks.content: donate" in drawn
    two = run("picture", "/events", "--try", "sidebar.right=main", "--try", "look.right=usual", "--to", str(picture))
    assert (two.status, "several values of one setting" in two.err) == (2, True)


def test_the_sitemap_names_what_keeps_each_page_out(ask: Ask) -> None:
    rows = {row["page"]: row for row in csv.DictReader(io.StringIO(ask("sitemap", "--left-out", "--format", "csv")))}
    thanks = rows["/visit/thanks"]
    assert (thanks["reason"], thanks["source"], thanks["file"]) == ("robots.index is no", "here", "davlo.yaml")
    assert thanks["because"] == "Only people who booked come here"
    assert (rows["/members"]["source"], rows["/members/benefits"]["source"]) == ("here", "below /members")
    assert rows["/events/2027"]["source"] == "the page list"
    assert rows["/events/2027"]["file"] == "pages.csv"
    assert "rule Sold-out events leave the sitemap, davlo.yaml:" in ask("sitemap", "--left-out")
