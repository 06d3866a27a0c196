"""The pages that use each declaration, by area: those where it stands, and those where it is shown."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping

import numpy as np
from numpy.typing import NDArray

from ..arrays.closure import closure
from ..arrays.codebooks import Mask, words_where
from ..cached import cached_property
from ..resolve.effective import EffectiveModel
from ..site.settings.names import PROGRAM
from ..site.settings.setting import Setting
from .access.access_classes import AccessClasses
from .areas import Standing, codes_where, not_shown, on_no_screen, standing
from .shown_things import Fillings

IN_AREAS = ("sidebar", "look", "band")
EVERYWHERE = ""
"""The area of a declaration that has none."""


class Uses:
    """The pages that use each declaration of a site. `Site.declared` is the call to use.

    Example
    -------
    >>> import davlo
    >>> uses = Uses(davlo.open_demo().resolve())
    >>> int(uses.shown("sidebar", "plant-finder").sum())
    31
    """

    def __init__(self, effective: EffectiveModel) -> None:
        self.effective = effective
        self.site = effective.site

    def pages(self, kind: str, name: str) -> Mask:
        """The pages on which a declaration stands, whether the theme shows it or not. bool[pages]"""
        return self.any_of(self.where(kind, name).values())

    def showing(self, setting: Setting) -> Mask:
        """The pages on which something in a setting's `used_by` shows; all, if the program reads it. bool[pages]"""
        found = np.full(len(self.site.tree), PROGRAM in setting.used_by)
        for name in setting.used_by:
            for kind in ("layout", "band", "block"):
                if name in self.site.declarations.of(kind):
                    found |= self.shown(kind, name)
        return found

    def shown(self, kind: str, name: str) -> Mask:
        """The pages on which a declaration is shown. bool[pages]"""
        return self.any_of(self.shown_where(kind, name).values())

    def not_shown(self, kind: str, name: str, shown: Mapping[str, Mask] | None = None) -> Mask:
        """The pages on which a declaration is set for an area but not shown there. bool[pages]

        `shown` is what `shown_where` gave, if it is known.
        """
        found = np.zeros(len(self.site.tree), dtype=bool)
        if kind in (*IN_AREAS, "block"):
            shown = self.shown_where(kind, name) if shown is None else shown
            for area, said in self._set.items():
                found |= (self._shows(said, name) if kind == "block" else self._stands(kind, said, name)) & ~shown[area]
        return found

    def shown_where(self, kind: str, name: str) -> dict[str, Mask]:
        """The pages on which a declaration is shown, by area."""
        found = self.where(kind, name)
        if kind not in (*IN_AREAS, "block"):
            return found
        shown = {area: mask & self._shown[area] for area, mask in found.items()}
        if kind == "band" or (kind == "sidebar" and not self.site.declarations.sidebars[name].blank):
            has_something = self.effective.shared(Fillings).where(kind, name)
            shown = {area: mask & self._on_screen[area] & has_something for area, mask in shown.items()}
        for area, stands in self.standing.items() if kind == "block" else ():
            shown[area] &= self._shows(stands, name, self._on_screen[area])
            shown[area] |= self._shown_instead(stands, self._showing(name))
        return shown

    @cached_property
    def _on_screen(self) -> dict[str, Mask]:
        """The pages on which some screen shows the sidebar or band of each area."""
        return {area: on_no_screen(self.effective, area).codes == 0 for area in self.standing}

    def any_of(self, masks: Iterable[Mask]) -> Mask:
        """Where any of these masks is true. bool[pages]"""
        found = np.zeros(len(self.site.tree), dtype=bool)
        for mask in masks:
            found |= mask
        return found

    def where(self, kind: str, name: str) -> dict[str, Mask]:
        """The pages that use a declaration, by area; an empty name for what is in no area."""
        if kind in ("layout", "theme"):
            return {EVERYWHERE: self._is(f"layout.{'name' if kind == 'layout' else 'theme'}", name)}
        if kind in ("sidebar", "band", "look"):
            return {area: self._stands(kind, found, name) for area, found in self.standing.items()}
        if kind == "block":
            shows = self._showing(name)
            return {
                area: self._shows(found, name) | self._shown_instead(found, shows)
                for area, found in self.standing.items()
            }
        if kind == "preset":
            return {EVERYWHERE: self._given_by(name)}
        return {} if kind == "role" else {EVERYWHERE: self._names(kind, name)}

    @cached_property
    def _set(self) -> dict[str, Standing]:
        """What is set for each area, whether the page's layout has it or not."""
        families = ("band", "sidebar", "look", "blocks")
        return {
            area: Standing(
                area,
                found.there,
                found.layout,
                *(codes_where(self.effective, f"{family}.{area}", None) for family in families),
            )
            for area, found in self.standing.items()
        }

    @cached_property
    def _shown(self) -> dict[str, Mask]:
        """The pages on which each area is shown."""
        return {area: not_shown(self.effective, area).codes == 0 for area in self.standing}

    @cached_property
    def standing(self) -> dict[str, Standing]:
        """What each area holds, on every page."""
        return {area: standing(self.effective, area) for area in self.site.declarations.areas()}

    @cached_property
    def _access(self) -> AccessClasses:
        return AccessClasses(self.effective)

    def _is(self, setting: str, word: object) -> Mask:
        """Where a setting has a value."""
        return self._coded(setting, codes_where(self.effective, setting, None), lambda value: value == word)

    def _coded(self, setting: str, codes: NDArray[np.integer], holds: Callable[[object], bool]) -> Mask:
        held = words_where(self.effective.column(setting).words, holds)
        found: Mask = held[codes] if held.any() else np.zeros(len(codes), dtype=bool)
        return found

    def _stands(self, kind: str, found: Standing, name: str) -> Mask:
        mask = self._coded(f"{kind}.{found.area}", getattr(found, kind), lambda value: value == name)
        if kind == "look":  # a look shows only where a sidebar or a band stands
            there = (self._coded(f"{one}.{found.area}", getattr(found, one), bool) for one in ("sidebar", "band"))
            mask = mask & self.any_of(there)
        return mask

    def _shows(self, found: Standing, name: str, on_screen: Mask | None = None) -> Mask:
        """Where an area shows a block: in a band, a sidebar, the layout's or the page's own list, or one of several.

        `on_screen` is where bands and sidebars show at all (default: everywhere).
        """
        declared, area = self.site.declarations, found.area
        shows = self._showing(name)

        bands = {band for band, declaration in declared.bands.items() if shows(declaration.blocks)}
        sidebars = {sidebar for sidebar, declaration in declared.sidebars.items() if shows(declaration.blocks)}
        layouts = {
            layout for layout, declaration in declared.layouts.items() if shows(declaration.blocks.get(area, ()))
        }
        around = self._coded(f"band.{area}", found.band, bands.__contains__)
        around |= self._coded(f"sidebar.{area}", found.sidebar, sidebars.__contains__)
        return (
            self._coded(f"blocks.{area}", found.blocks, shows)
            | (around if on_screen is None else around & on_screen)
            | self._coded("layout.name", found.layout, layouts.__contains__)
        )

    def _showing(self, name: str) -> Callable[[object], bool]:
        """Whether a list of blocks shows a block, itself or by way of a `one-of`."""
        showing = self._blocks_showing(name)
        return lambda blocks: isinstance(blocks, tuple) and not showing.isdisjoint(blocks)

    def _blocks_showing(self, name: str) -> set[str]:
        """A block, and every `one-of` that may show it, also by way of another."""
        return closure([name], self._one_of_by_block)

    @cached_property
    def _one_of_by_block(self) -> dict[str, list[str]]:
        """For each block the `one-of` blocks that name it."""
        found: dict[str, list[str]] = {}
        for name, block in self.site.declarations.blocks.items():
            for one in block.blocks:
                found.setdefault(one, []).append(name)
        return found

    def _shown_instead(self, found: Standing, shows: Callable[[object], bool]) -> Mask:
        """Where a theme shows a block for the area, which the layout has and the theme does not show."""
        area = found.area
        instead = {name: theme.instead_of(area).block for name, theme in self.site.declarations.themes.items()}
        themes = {
            name
            for name, theme in self.site.declarations.themes.items()
            if not theme.name_of(area) and instead[name] and shows((instead[name],))
        }
        if not themes:
            return np.zeros(len(found.there), dtype=bool)
        codes = codes_where(self.effective, "layout.theme", found.there)
        return self._coded("layout.theme", codes, themes.__contains__)

    def _given_by(self, preset: str) -> Mask:
        """Where a preset gave the value of some setting."""
        statements, found = self.site.statements, np.zeros(len(self.site.tree), dtype=bool)
        codes = [code for code, (name, _) in enumerate(statements.presets.items) if name == preset]
        said = np.isin(statements.preset, codes)
        for number in np.flatnonzero(np.bincount(statements.setting[said], minlength=1)).tolist():
            source = self.effective.resolved(number).source
            found |= np.append(said, False)[source] & self.site.has(number)
        return found

    def _names(self, kind: str, name: str) -> Mask:
        """Where access gives or takes something by this name, or ownership names it."""
        named = np.zeros(len(self._access), dtype=bool)
        for family in ("access", "deny"):
            for action in self.site.actions:
                named |= self._access.states(family, name, action)
        return self._is("page.owner" if kind == "person" else "page.group", name) | named[self._access.of]
