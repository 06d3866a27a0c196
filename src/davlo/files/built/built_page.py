"""What one built page shows: its titles, its languages, its place in the site, and the contents of its areas."""

from __future__ import annotations

from typing import NamedTuple

Link = tuple[str, str]
"""What a link reads, and where it leads: the path of a file of the folder, or a full address."""


MOST_TEXT = 2000
"""The most letters of a block's text; the rest is cut off."""


class BuiltBlock(NamedTuple):
    """A piece of an area."""

    heading: str  # its heading, or its label; may be empty
    words: str  # what it says beside its heading; empty if it holds links and nothing else
    links: tuple[Link, ...]
    is_list: bool  # whether it holds links and nothing else
    is_navigation: bool  # whether it is, or is in, a `nav`

    @property
    def text(self) -> str:
        """All its text, its heading aside; of a list the words of its links."""
        return " ".join(label for label, _ in self.links)[:MOST_TEXT] if self.is_list else self.words


class BuiltArea(NamedTuple):
    """An area of a page and its contents."""

    name: str  # `masthead`, `menu`, `aside`, `footer`, or the name that a mapping gives
    label: str  # what the page calls it, in an `aria-label`; may be empty
    blocks: tuple[BuiltBlock, ...]


class BuiltPage(NamedTuple):
    """One page, as it was built."""

    file: str  # its file, from the folder on, with `/` between
    address: str  # the path at which a server would show the file: `/visit/` for `visit/index.html`
    title: str = ""  # the document title; empty if it has none
    # each `h1` of its own content, then the first lower heading that the document title repeats: texts and tags
    headings: tuple[tuple[str, str], ...] = ()
    language: str = ""  # what `lang` says; empty if it says nothing
    canonicals: tuple[str, ...] = ()  # the address that the page gives as its own; more than one is a mistake
    alternates: tuple[tuple[str, str], ...] = ()  # languages (or `x-default`) and the addresses of the page in them
    noindex: tuple[str, ...] = ()  # the crawlers that may not list it: `robots` is all of them
    leads_to: str = ""  # where the page sends its readers on to; empty if it does not
    created: str = ""  # `created`, `modified`: days, as ISO 8601 has them; empty if the page does not say
    modified: str = ""
    trail: tuple[Link, ...] = ()  # the breadcrumbs, from the top on
    up: str = ""  # the page above it, by `rel=up`; empty if it does not say
    areas: tuple[BuiltArea, ...] = ()  # in the order of the page; `content` is among them, without blocks
    details: tuple[tuple[str, str], ...] = ()  # what a mapping asked for
    site_name: str = ""  # what `og:site_name` says; empty if it says nothing
    amiss: str = ""  # what is wrong with the file; empty if nothing

    @property
    def heading(self) -> str:
        """Its heading; empty if it has none."""
        return self.headings[0][0] if self.headings else ""

    @property
    def heading_tag(self) -> str:
        """The tag of its heading, `h1` to `h6`; empty if it has none."""
        return self.headings[0][1] if self.headings else ""

    @property
    def more_headings(self) -> tuple[str, ...]:
        """What each further `h1` of its content reads."""
        return tuple(text for text, tag in self.headings[1:] if tag == "h1")

    @property
    def canonical(self) -> str:
        """The first address that it gives as its own; empty if it gives none."""
        return self.canonicals[0] if self.canonicals else ""

    @property
    def may_index(self) -> bool:
        """Whether search engines may list it."""
        return not self.noindex
