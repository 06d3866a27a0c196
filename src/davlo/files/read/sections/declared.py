"""The declarations that the files declare: layouts, themes, sidebars, looks, bands, blocks, people, roles."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from typing import Any, TypeVar

from davlo.core.faults import Place
from davlo.core.site.declarations import (
    BLOCK_KEYS,
    LOOK_PARTS,
    Band,
    Block,
    Declarations,
    Instead,
    Layout,
    Look,
    Preset,
    Role,
    Sidebar,
    Theme,
    derived,
)
from davlo.core.site.people import People
from davlo.core.site.settings.setting import ACTIONS
from davlo.core.site.settings.values import LIST_STEPS, ListChange
from davlo.css.properties import PROPERTIES, checked

from ...form.davlo_yaml import BAND, BLOCK, LAYOUT, LOOK, LOOK_PART, PEOPLE, SIDEBAR, THEME, TOLD
from ...form.shapes import Fields
from ..yaml.node_reader import Reader
from ..yaml.yaml_nodes import Mapping, Node
from .form_reader import read_fields

Record = TypeVar("Record", Sidebar, Band)

SECTION_KINDS = {
    "layouts": "layout",
    "themes": "theme",
    "sidebars": "sidebar",
    "looks": "look",
    "bands": "band",
    "blocks": "block",
    "presets": "preset",
}


def read_people(node: Node | None, reader: Reader) -> People:
    """Who there is."""
    if node is None:
        return People()
    body = reader.mapping(node, "people", PEOPLE.keys)
    names = reader.words(body.entries.get("names"), "names")
    groups_node = body.entries.get("groups")
    groups = reader.mapping(groups_node, "groups") if groups_node else Mapping(node.place)
    for name, place in names:
        reader.name(name, place, "person")
        if name in groups.entries:
            reader.fault(place, f"a person and a group share the name {name}; the group is at {groups.keys[name]}")
    people = tuple(dict.fromkeys(name for name, _ in names))
    known = (*people, *groups.entries)
    members = {}
    for group, place, value in groups:
        reader.name(group, place, "group")
        members[group] = reader.known(value, f"group {group}", known, "person or group")
    rests = {group: tuple(m for m in held if m in members) for group, held in members.items()}
    for group in reader.circles(rests, groups.keys, "groups"):
        members[group] = tuple(m for m in members[group] if m in people)
    admins = reader.known(body.entries.get("admins"), "admins", people, "person")
    return People(people, admins, members, {**groups.keys, **dict(reversed(names))})


def read_actions(node: Node | None, reader: Reader) -> tuple[str, ...]:
    """The actions that the site names, or Davlo's."""
    if node is None:
        return ACTIONS
    words = reader.words(node, "actions")
    for word, place in words:
        reader.name(word, place, "action")
    actions = tuple(dict.fromkeys(word for word, _ in words))
    for needed in ("view", "edit"):
        if needed not in actions:
            reader.fault(node.place, f"actions lacks {needed}, which every site has", hint=f"add {needed}")
    return actions


def read_roles(node: Node | None, actions: tuple[str, ...], reader: Reader) -> dict[str, Role]:
    """Roles, and the actions of each."""
    if node is None:
        return {}
    roles = {}
    for name, place, value in reader.mapping(node, "roles"):
        reader.name(name, place, "role")
        if name in actions:
            reader.fault(place, f"no role may be called {name}: there is an action of that name")
        roles[name] = Role(name, place, reader.known(value, f"role {name}", actions, "action"))
    return roles


class DeclarationReader:
    """Reads the sections of declarations; `names` holds what is declared in each, for the words that name one."""

    def __init__(self, joined: Mapping, reader: Reader) -> None:
        self.reader = reader
        self.sections: dict[str, Mapping] = {}
        for section, kind in SECTION_KINDS.items():
            node = joined.entries.get(section)
            self.sections[section] = reader.mapping(node, section) if node is not None else Mapping(joined.place)
            for name, place, _ in self.sections[section]:
                reader.name(name, place, kind)
        self.names = {SECTION_KINDS[s]: tuple(found.entries) for s, found in self.sections.items()}

    def declarations(self, roles: dict[str, Role]) -> Declarations:
        """All declarations."""
        layouts = self._layouts()
        areas = self.names["area"] = tuple(dict.fromkeys(area for layout in layouts.values() for area in layout.areas))
        return Declarations(
            layouts=layouts,
            themes={name: self._theme(name, node, areas) for name, _, node in self.sections["themes"]},
            sidebars=self._plain("sidebars", SIDEBAR, Sidebar),
            looks=self._looks(),
            bands=self._plain("bands", BAND, Band),
            blocks=self._blocks(),
            presets={name: self._preset(name, node) for name, _, node in self.sections["presets"]},
            roles=roles,
        )

    def _body(self, section: str, name: str, node: Node, form: Fields) -> Mapping:
        return self.reader.mapping(node, f"the {SECTION_KINDS[section]} {name}", form.keys)

    def _said(self, body: Mapping, form: Fields, record: Any, *leave: str) -> dict[str, Any]:
        """What the body says under the keys of its form, but for those to leave."""
        return read_fields(body, form, self.reader, record._field_defaults, leave, self.names.__getitem__)

    def _plain(self, section: str, form: Fields, record: type[Record]) -> dict[str, Record]:
        """The declarations of a section whose form says all of them."""
        return {
            name: record(name, place, **self._said(self._body(section, name, node, form), form, record))
            for name, place, node in self.sections[section]
        }

    def _based(self, section: str, form: Fields) -> Iterator[tuple[str, Place, Mapping, str]]:
        """The entries of a section whose declarations may be based on one another: name, place, body, base."""
        kind, found = SECTION_KINDS[section], self.sections[section]
        bodies = {name: self._body(section, name, node, form) for name, _, node in found}
        bases = {
            name: self.reader.known_one(body.entries.get("based_on"), "based_on", bodies, kind)
            for name, body in bodies.items()
        }
        looped = self.reader.circles({name: (base,) * bool(base) for name, base in bases.items()}, found.keys, section)
        for name, body in bodies.items():
            base = "" if name in looped else bases[name]
            yield name, found.keys[name], body, base

    def _layouts(self) -> dict[str, Layout]:
        layouts, areas_of_blocks = {}, {}
        for name, place, body, base in self._based("layouts", LAYOUT):
            areas, filled = (self.reader.words(body.entries.get(key), key) for key in ("areas", "filled_elsewhere"))
            for word, at in (*areas, *filled):
                self.reader.name(word, at, "area")
            blocks = (
                self.reader.mapping(body.entries["blocks"], f"blocks of the layout {name}")
                if ("blocks" in body.entries)
                else Mapping(place)
            )
            areas_of_blocks[name] = blocks.keys
            own = self._said(body, LAYOUT, Layout, "areas", "blocks", "filled_elsewhere", "based_on")
            said = {key: own.pop(key) for key in TOLD if key in own}
            for key, words in (("areas", areas), ("filled_elsewhere", filled)):
                if key in body.entries:
                    own[key] = tuple(dict.fromkeys(word for word, _ in words))
            if "blocks" in body.entries:
                own["blocks"] = {
                    area: self._block_change(node, area, name, base)
                    if isinstance(node, Mapping)
                    else self.reader.known(node, f"blocks of {area}", self.names["block"], "block")
                    for area, _, node in blocks
                }
            layouts[name] = Layout(name, place, based_on=base, own=own, **said)
        whole = derived(layouts)
        for name, layout in whole.items():
            if not layout.areas:
                hint = "areas: [masthead, content, footer]"
                what = f"the layout {name} has no areas, of its own or of a base"
                self.reader.fault(layout.place, what, hint=hint)
            for area, at in areas_of_blocks[name].items():
                if area in layout.filled_elsewhere:
                    what = f"the layout {name} has blocks in the area {area}, which it leaves to the site's program"
                    self.reader.fault(at, what, hint=f"take {area} out of its filled_elsewhere, or its blocks away")
                elif area not in layout.areas:
                    self.reader.fault(at, f"the layout {name} has no area {area!r}", area, layout.areas)
        return whole

    def _block_change(self, node: Mapping, area: str, layout: str, base: str) -> ListChange:
        """How a layout changes the blocks that its base has in an area."""
        what = f"the change of the blocks of {area}"
        if not base:
            told = f"the layout {layout} is based on no other, so it has no blocks of {area} to change"
            self.reader.fault(node.place, told, hint=f"{area}: [{', '.join(self.names['block'][:1])}], or say based_on")
        body = self.reader.mapping(node, what, LIST_STEPS)
        if not node.entries:
            self.reader.fault(node.place, f"{what} says nothing", hint=f"{area}: {{add: [NAME]}}")
        return ListChange(
            **{key: self.reader.known(some, f"{key} of {area}", self.names["block"], "block") for key, _, some in body}
        )

    def _theme(self, name: str, node: Node, areas: tuple[str, ...]) -> Theme:
        body = self._body("themes", name, node, THEME)
        own = tuple(word for word, _ in self.reader.words(body.entries.get("areas"), "areas"))
        blocks = self.names["block"]
        area_names = self._of_areas(body, "area_names", areas, own)
        if_missing = {
            area: Instead() if word == "none" else Instead(area=word) if word in own else Instead(block=word)
            for area, word in self._of_areas(body, "if_missing", areas, ("none", *own, *blocks)).items()
        }
        return Theme(
            name,
            self.sections["themes"].keys[name],
            areas=own,
            area_names=area_names,
            if_missing=if_missing,
            **self._said(body, THEME, Theme, "areas", "area_names", "if_missing"),
        )

    def _of_areas(self, body: Mapping, key: str, areas: Sequence[str], allowed: Sequence[str]) -> dict[str, str]:
        """A word for each area that a theme names under a key."""
        found: dict[str, str] = {}
        for area, at, value in self.reader.mapping(body.entries[key], key) if key in body.entries else ():
            if area not in areas:
                self.reader.fault(at, f"no layout has an area {area!r}", area, areas)
            word = self.reader.one_of(value, f"{key} of {area}", allowed, "")
            if word:
                found[area] = word
        return found

    def _preset(self, name: str, node: Node) -> Preset:
        label, note = "", ""
        if isinstance(node, Mapping):
            label = self.reader.text(node.entries.get("label"), "label")
            note = self.reader.text(node.entries.get("note"), "note")
        return Preset(name, self.sections["presets"].keys[name], label, note)

    def _looks(self) -> dict[str, Look]:
        looks = {}
        for name, place, body, base in self._based("looks", LOOK):
            own: dict[str, Any] = self._said(body, LOOK, Look, *LOOK_PARTS, "based_on")
            said = {key: own.pop(key) for key in TOLD if key in own}
            own |= {part: self._properties(body.entries[part], part) for part in LOOK_PARTS if part in body.entries}
            looks[name] = Look(name, place, based_on=base, own=own, **said)
        return derived(looks)

    def _properties(self, node: Node, part: str) -> dict[str, str]:
        """The CSS properties of a part of a look."""
        found = {}
        for name, at, value in self.reader.mapping(node, part, LOOK_PART.keys):
            text = self.reader.text(value, name)
            if name not in PROPERTIES:
                continue
            css = checked(name, text)
            if css is None:
                takes = PROPERTIES[name]
                hint = f"{name}: {text}px" if checked(name, f"{text}px") else f"{name}: {takes.example}"
                self.reader.fault(at, f"{name} takes {takes.told}, not {text!r}", hint=hint)
            else:
                found[name] = css
        return found

    def _blocks(self) -> dict[str, Block]:
        blocks = {name: self._block(name, node) for name, _, node in self.sections["blocks"]}
        rests = {name: block.blocks for name, block in blocks.items() if block.kind == "one-of"}
        for name in self.reader.circles(rests, self.sections["blocks"].keys, "one-of blocks"):
            blocks[name] = blocks[name]._replace(blocks=())
        return blocks

    def _block(self, name: str, node: Node) -> Block:
        every = tuple(key for keys in BLOCK_KEYS.values() for key in keys)
        body = self._body("blocks", name, node, BLOCK)
        said = self._said(body, BLOCK, Block, "links")
        kind, place = said.get("kind", "text"), self.sections["blocks"].keys[name]
        if "kind" not in body.entries:
            self.reader.fault(place, f"the block {name} has no kind", hint=f"kind: one of {', '.join(BLOCK_KEYS)}")
        for key, at, _ in body:
            if key in every and key not in BLOCK_KEYS[kind]:
                self.reader.fault(at, f"a block of the kind {kind} has no key {key!r}", key, BLOCK_KEYS[kind])
        links: dict[str, str] = {}
        if "links" in body.entries:
            for text, at, target in self.reader.mapping(body.entries["links"], "links"):
                links[text] = self.reader.text(target, text)
                if not re.match(r"/|https?://|mailto:|tel:", links[text], re.IGNORECASE):
                    what = f"a link goes to a path of the site or to an address, not {links[text]!r}"
                    self.reader.fault(at, what, hint="begin with / or with https://")
        return Block(name, place, links=links, **said)
