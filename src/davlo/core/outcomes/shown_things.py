"""What a viewer meets in each area of a page, block by block, and on which screens."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from ..arrays.codebooks import Codebook, Codes, Column, Mask
from ..cached import cached_property
from ..resolve.effective import EffectiveModel
from ..site.declarations import ALL_SCREENS
from ..site.people import VISITOR
from ..site.settings.values import Value
from .areas import BAND, LAYOUT_BLOCK, OF_AREAS, OWN_CONTENT, SIDEBAR, AreaContent, blocks_in, on_no_screen
from .link_lists import LISTING, link_list
from .page_outcomes import Outcomes

BLANK, NOTHING, NO_SCREEN = "blank on purpose", "nothing to show", "on no screen"
"""Why a band or a sidebar shows nothing: it is meant to, no block in it has anything to show, or its look says so."""
INSTEAD = "area of the theme"
OF_SHOWN = (*OF_AREAS, "menu.show", "access")
"""What it depends on whether something shows in an area: its contents, and which pages lists of links name."""
MOST_LINKS = 12
"""The most links of a block that are named in a few words."""


class ShownLink(NamedTuple):
    """A link: what it reads, where it leads (a path, or an address), and how deep it stands in its list, from 1."""

    label: str
    to: str
    level: int


class ShownBlock(NamedTuple):
    """What a block shows: a text, links, or one of several blocks."""

    block: str
    text: str = ""
    links: tuple[ShownLink, ...] = ()
    one_of: tuple[ShownBlock, ...] = ()

    def __bool__(self) -> bool:
        return bool(self.text.strip() or self.links or any(self.one_of))

    @property
    def words(self) -> str:
        """The block in a few words: its name, and its text, or the links that it lists."""
        if self.links:
            return f"{self.block} ({', '.join(one.label for one in self.links)})"
        if self.one_of:
            return f"{self.block} (one of {'; '.join(one.words for one in self.one_of)})"
        return f'{self.block} "{self.text}"'

    @property
    def contents(self) -> str:
        """What the block shows, without its name; of many links the first."""
        if self.links:
            more = len(self.links) - MOST_LINKS
            told = ", ".join(one.label for one in self.links[:MOST_LINKS])
            return f"{told} and {more:,} more" if more > 0 else told
        if self.one_of:
            return f"one of {', '.join(one.block for one in self.one_of)}"
        return self.text

    def as_json(self) -> dict[str, Any]:
        """The block as JSON holds it."""
        found: dict[str, Any] = {"block": self.block}
        if self.links:
            found["links"] = [one._asdict() for one in self.links]
        elif self.one_of:
            found["one of"] = [one.as_json() for one in self.one_of]
        else:
            found["text"] = self.text
        return found


class ShownThing(NamedTuple):
    """One thing in an area as a viewer meets it."""

    kind: str  # `band`, `sidebar`, `layout block`, `block`, `own content`, or `area of the theme` in place of another
    name: str
    blocks: tuple[ShownBlock, ...] = ()  # those with something to show
    why: str = ""  # why it shows nothing; empty if it shows something
    screens: tuple[str, ...] = ALL_SCREENS  # where it shows

    def as_json(self) -> dict[str, Any]:
        """The thing as JSON holds it; what is as usual is left out."""
        found: dict[str, Any] = {"kind": self.kind, "name": self.name}
        found |= {"blocks": [one.as_json() for one in self.blocks]} if self.blocks else {}
        found |= {"shows nothing": self.why} if self.why else {}
        return found | ({"screens": [*self.screens]} if self.screens != ALL_SCREENS else {})

    def on(self, screen: str) -> ShownThing:
        """The thing as one screen has it: it shows nothing there, or all that it shows is shown there."""
        if screen in self.screens:
            return self._replace(screens=ALL_SCREENS)
        where = "on a wide screen" if screen == "wide" else f"on a {screen}"
        return ShownThing(self.kind, self.name, (), self.why or f"not {where}")

    @property
    def words(self) -> str:
        """The thing in a few words, with why it shows nothing, and where it shows."""
        told = "the page's own content" if self.kind == OWN_CONTENT else f"{self.kind} {self.name}"
        if self.why:
            return f"{told} ({self.why})"
        return told if self.screens == ALL_SCREENS else f"{told} (on {' and '.join(self.screens)} only)"

    @property
    def contents(self) -> str:
        """The thing in a few words, with what each of its blocks shows."""
        told = "; ".join(one.words for one in self.blocks)
        return f"{self.words}: {told}" if told else self.words


class ShownThings:
    """Works out what a viewer meets in areas; a block is read once for each language.

    `visible`: bool[pages]: the pages that the viewer may view (default: as access says).
    """

    def __init__(self, outcomes: Outcomes, viewer: str, visible: Mask | None = None) -> None:
        self._outcomes, self._viewer, self._visible = outcomes, viewer, visible
        self._blocks: dict[tuple[str, str], ShownBlock] = {}

    def of(self, area: AreaContent, language: str) -> tuple[ShownThing, ...]:
        """What shows in an area on pages in a language, in order."""
        site = self._outcomes.site
        if not area.theme_name:
            if area.instead.block:
                return self._block_alone(LAYOUT_BLOCK, area.instead.block, language)
            return (ShownThing(INSTEAD, area.instead.area),) if area.instead.area else ()
        found: list[ShownThing] = []
        for kind, name in area.stands:
            if kind == OWN_CONTENT:
                found.append(ShownThing(kind, name))
            elif kind in (BAND, SIDEBAR):
                blocks = tuple(filter(None, (self.block(one, language) for one in blocks_in(site, kind, name))))
                is_blank = kind == SIDEBAR and site.declarations.sidebars[name].blank
                if is_blank and not blocks:
                    found.append(ShownThing(kind, name, (), BLANK))
                elif not area.screens or not blocks:
                    found.append(ShownThing(kind, name, (), NOTHING if area.screens else NO_SCREEN))
                else:
                    found.append(ShownThing(kind, name, blocks, "", area.screens))
            else:
                found += self._block_alone(kind, name, language)
        return tuple(found)

    def _block_alone(self, kind: str, name: str, language: str) -> tuple[ShownThing, ...]:
        block = self.block(name, language)
        return (ShownThing(kind, name, (block,) if block else (), "" if block else NOTHING),)

    def block(self, name: str, language: str) -> ShownBlock:
        """What a block shows on pages in a language; false where it has nothing to show."""
        key = (name, language)
        if key not in self._blocks:
            self._blocks[key] = self._read(name, language)
        return self._blocks[key]

    def _read(self, name: str, language: str) -> ShownBlock:
        block = self._outcomes.site.declarations.blocks[name]
        if block.kind in LISTING:
            found = link_list(self._outcomes, name, language, self._viewer, self._visible)
            links = (ShownLink(one.label, one.page or one.address, one.level) for one in found.links())
            return ShownBlock(name, "", tuple(links))
        if block.kind == "one-of":
            return ShownBlock(name, one_of=tuple(self.block(one, language) for one in block.blocks))
        return ShownBlock(name, block.text)


class Fillings:
    """Which bands and sidebars have something to show, whoever looks. `EffectiveModel.shared` keeps it."""

    def __init__(self, effective: EffectiveModel) -> None:
        self.effective, self.site = effective, effective.site
        outcomes = effective.shared(Outcomes)
        self._things = ShownThings(outcomes, VISITOR, outcomes.access.anyone_may_view)
        self._known: dict[tuple[str, str, str], bool] = {}

    def shows(self, kind: str, name: str, language: str) -> bool:
        """Whether some block of a band or sidebar shows something to somebody, on pages in a language."""
        key = (kind, name, language)
        if key not in self._known:
            blocks = self.site.declarations.blocks
            named = sorted(blocks_in(self.site, kind, name), key=lambda one: blocks[one].kind in LISTING)
            self._known[key] = any(self._things.block(one, language) for one in named)
        return self._known[key]

    def where(self, kind: str, name: str) -> Mask:
        """The pages whose readers would meet something of a band or sidebar. bool[pages]"""
        language, languages = self._languages
        used = np.bincount(language, minlength=len(languages)).tolist()
        table = [bool(uses) and self.shows(kind, name, word) for word, uses in zip(languages, used, strict=True)]
        found: Mask = np.array(table, dtype=bool)[language]
        return found

    def why_nothing(self, kind: str, area: str) -> Column:
        """For each page, why its band or sidebar in an area shows nothing; code 0, and empty, if it shows something.

        Its look shows it on no screen, it has no blocks, or nothing in it has anything to show. What is blank on
        purpose shows that it is blank. Whether the page has the area is not asked.
        """
        found, words = self.effective.column(f"{kind}.{area}"), Codebook([""])
        hidden = on_no_screen(self.effective, area)
        codes = np.array([words.code(word) for word in hidden.words], dtype=np.int32)[hidden.codes]
        why = np.zeros(len(found.words), dtype=np.int32)
        blank = np.zeros(len(found.words), dtype=bool)
        for value, name in enumerate(found.words):
            if isinstance(name, str):
                blank[value] = self._is_blank(kind, name)
                nothing = "has anything to show" if blocks_in(self.site, kind, name) else ""
                told = f"no block of the {kind} {name} {nothing}" if nothing else f"the {kind} {name} has no blocks"
                why[value] = words.code(told)
        codes = np.where(codes != 0, codes, np.where(self.empty(kind, found.words, found.value), why[found.value], 0))
        return Column(np.where(blank[found.value], 0, codes), words.items)

    def empty(self, kind: str, names: Sequence[Value], codes: NDArray[np.signedinteger]) -> Mask:
        """The pages whose band or sidebar has nothing to show, and is not blank on purpose. bool[pages]

        `names`: the bands or sidebars, and what is none. `codes`: int[pages]: which of them each page has; -1: none.
        """
        language, languages = self._languages
        pairs = (codes.astype(np.int64) + 1) * len(languages) + language
        shape = len(names) + 1, len(languages)
        used = np.bincount(pairs, minlength=shape[0] * shape[1]).reshape(shape)
        table = np.zeros(used.shape, dtype=bool)
        for row, name in enumerate(names, 1):
            if isinstance(name, str) and not self._is_blank(kind, name):
                for at in np.flatnonzero(used[row]).tolist():
                    table[row, at] = not self.shows(kind, name, languages[at])
        found: Mask = table.ravel()[pairs] if table.any() else np.zeros(len(pairs), dtype=bool)
        return found

    def _is_blank(self, kind: str, name: str) -> bool:
        """Whether a sidebar is blank on purpose."""
        return kind == SIDEBAR and self.site.declarations.sidebars[name].blank

    @cached_property
    def _languages(self) -> tuple[Codes, Sequence[str]]:
        """For each page a number for the language of its readers, and the languages. int32[pages]"""
        language = self.site.details.language
        if self.site.languages:
            return language.codes, language.words
        return np.zeros(len(self.site.tree), dtype=np.int32), ("",)


def things_words(things: Sequence[ShownThing]) -> str:
    """What shows in an area, in a few words."""
    return ", ".join(one.words for one in things)
