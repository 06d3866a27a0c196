"""Several sources put together, against a plain loop over their rows."""

from __future__ import annotations

from hypothesis import given
from hypothesis import strategies as st

from davlo.start.seen_site import UNSAID, Seen, SeenSite
from davlo.start.together import together

URL = "https://a.example"
VALUES: tuple[Seen, ...] = (None, UNSAID, "main", "quiet", ["a", "b"], [])
WORDS = ("", "one", "two")


@st.composite
def sources(draw: st.DrawFn) -> SeenSite:
    """A source of few pages, some of them in several rows and in several spellings."""
    addresses = draw(
        st.lists(st.sampled_from(["/", "/a", "/a/", "/b", f"{URL}/b", "https://b.example/a", ""]), max_size=6)
    )
    rows = len(addresses)
    names = draw(st.sets(st.sampled_from(["title", "tags"])))
    details = {name: draw(st.lists(st.sampled_from(WORDS), min_size=rows, max_size=rows)) for name in sorted(names)}
    settings = draw(st.sets(st.sampled_from(["sidebar.right", "blocks.content"])))
    values = {name: draw(st.lists(st.sampled_from(VALUES), min_size=rows, max_size=rows)) for name in sorted(settings)}
    return SeenSite(addresses, details, values)


def plain_path(address: str) -> str:
    """The path of an address on the site; empty if it is elsewhere."""
    path = address.removeprefix(URL)
    return (path.rstrip("/") or "/") if path.startswith("/") else ""


def plainly(seen: list[SeenSite], name: str, blank: Seen) -> tuple[dict[str, Seen], int]:
    """What the sources say of a detail or a setting, by page, and on how many rows they differ."""
    found, differ = dict[str, Seen](), 0
    for one in seen:
        for address, said in zip(one.addresses, {**one.details, **one.values}.get(name, ()), strict=False):
            page = plain_path(address)
            before = found.get(page, blank)
            if not page or said == blank or (said == UNSAID and before is not None):
                continue
            if before in (blank, UNSAID):
                found[page] = said
            elif before != said:
                differ += 1
    return found, differ


@given(st.lists(sources(), min_size=1, max_size=3))
def test_what_the_first_source_says_counts_and_every_difference_is_told(seen: list[SeenSite]) -> None:
    both = together(seen, URL)
    pages = dict.fromkeys(page for one in seen for page in map(plain_path, one.addresses) if page)
    assert [*map(plain_path, both.addresses)] == [*pages]
    for columns, blank in ((both.details, ""), (both.values, None)):
        for name, column in columns.items():
            said, differ = plainly(seen, name, blank)
            assert [*column] == [said.get(page, blank) for page in pages], name
            told = [one.pages for one in both.lost if one.what.startswith(f"the sources differ on {name};")]
            assert told == ([differ] if differ else []), name
