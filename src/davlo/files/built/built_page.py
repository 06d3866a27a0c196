"""What one built page shows: its titles, its languages, its place in the site, and what stands in its areas."""

from __future__ import annotations

from typing import NamedTuple

Link = tuple[str, str]
"""What a link reads, and where it leads: the path of a file of the folder, or a full address."""


class BuiltBlock(NamedTuple):
    """A piece of an area.

    Attributes
    ----------
    heading : str
        Its heading, or its label; may be empty.
    text : str
        All its text, its heading aside.
    links : tuple of Link
    is_list : bool
        Whether it holds links and nothing else.
    is_navigation : bool
        Whether it is, or is in, a `nav`.
    """

    heading: str
    text: str
    links: tuple[Link, ...]
    is_list: bool
    is_navigation: bool


class BuiltArea(NamedTuple):
    """An area of a page and what stands in it.

    Attributes
    ----------
    name : str
        `masthead`, `menu`, `aside`, `footer`, or the name that a mapping gives.
    label : str
        What the page calls it, in an `aria-label`; may be empty.
    blocks : tuple of BuiltBlock
    """

    name: str
    label: str
    blocks: tuple[BuiltBlock, ...]


class BuiltPage(NamedTuple):
    """One page, as it was built.

    Attributes
    ----------
    file : str
        Its file, from the folder on, with `/` between.
    address : str
        The path at which a server would show the file: `/visit/` for `visit/index.html`.
    title : str
        The document title; empty if it has none.
    heading : str
        The first `h1` of its own content, else the first other heading that the document title repeats; empty if
        there is none.
    heading_tag : str
        `h1` to `h6`; empty if it has no heading.
    language : str
        What `lang` says; empty if it says nothing.
    canonical : str
        The address that the page gives as its own; empty if it gives none.
    alternates : tuple of (str, str)
        Languages (or `x-default`) and the addresses of the page in them.
    may_index : bool
        Whether search engines may list it.
    leads_to : str
        Where the page sends its readers on to; empty if it does not.
    created, modified : str
        Days, as ISO 8601 has them; empty if the page does not say.
    trail : tuple of Link
        The breadcrumbs, from the top on.
    areas : tuple of BuiltArea
        In the order of the page; `content` is among them, without blocks.
    details : tuple of (str, str)
        What a mapping asked for.
    amiss : str
        What is wrong with the file; empty if nothing.
    """

    file: str
    address: str
    title: str = ""
    heading: str = ""
    heading_tag: str = ""
    language: str = ""
    canonical: str = ""
    alternates: tuple[tuple[str, str], ...] = ()
    may_index: bool = True
    leads_to: str = ""
    created: str = ""
    modified: str = ""
    trail: tuple[Link, ...] = ()
    areas: tuple[BuiltArea, ...] = ()
    details: tuple[tuple[str, str], ...] = ()
    amiss: str = ""
