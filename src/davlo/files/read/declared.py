"""The declarations that the files declare: layouts, themes, sidebars, looks, bands, blocks, people, roles."""

from __future__ import annotations

import re
from collections.abc import Sequence
from typing import Any

from davlo.core.site.catalogue import WIDTHS
from davlo.core.site.declarations import (
    Band,
    Block,
    Declarations,
    Instead,
    Layout,
    Look,
    People,
    Preset,
    Sidebar,
    Theme,
)
from davlo.core.site.values import COLOR

from .node_reader import Reader
from .yaml_nodes import Mapping, Node, Scalar

ACTIONS = ("view", "edit", "arrange", "create", "delete", "grant")
SECTION_KINDS = {
    "layouts": "layout",
    "themes": "theme",
    "sidebars": "sidebar",
    "looks": "look",
    "bands": "band",
    "blocks": "block",
    "presets": "preset",
}
BLOCK_KEYS = {
    "text": ("text",),
    "branch-links": ("under", "levels", "sort", "leave_out"),
    "links": ("links",),
    "one-of": ("blocks",),
}
SORTS = ("order", "title", "path", "created", "modified")
TOLD = ("label", "note")
LOOK_NUMBERS = {
    "width": (10, 50),
    "padding": (0, 500),
    "column_gap": (0, 500),
    "row_gap": (0, 500),
    "heading_font_size": (1, 200),
}
"""The least and the most of each number of a look: a width in per cent of the page, all else in pixels."""
LOOK_WORDS = {"line": ("none", "between", "around"), "fill": ("none", "blocks", "column")}
LOOK_KEYS = (
    *("width", "padding", "column_gap", "row_gap", "line", "background", "fill", "heading_font_size"),
    *("heading_color", "heading_background", "shows_on", "follows"),
)
"""The keys of a look, in the order in which Davlo lists them."""


def read_people(node: Node | None, reader: Reader) -> People:
    """Who there is."""
    if node is None:
        return People()
    body = reader.mapping(node, "people", ("names", "admins", "groups"))
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
    """The actions there are."""
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


def read_roles(node: Node | None, actions: tuple[str, ...], reader: Reader) -> dict[str, tuple[str, ...]]:
    """Roles, and the actions each stands for."""
    if node is None:
        return {}
    roles = {}
    for name, place, value in reader.mapping(node, "roles"):
        reader.name(name, place, "role")
        if name in actions:
            reader.fault(place, f"no role may be called {name}: there is an action of that name")
        roles[name] = reader.known(value, f"role {name}", actions, "action")
    return roles


class NotedRoles(dict[str, tuple[str, ...]]):
    """Roles, and which of them somebody has named: those that were looked up."""

    def __init__(self, roles: dict[str, tuple[str, ...]]) -> None:
        super().__init__(roles)
        self.named: set[str] = set()

    def __getitem__(self, name: str) -> tuple[str, ...]:
        self.named.add(name)
        return super().__getitem__(name)

    def get(self, name: str, default: Any = None) -> Any:
        self.named.add(name)
        return super().get(name, default)


class DeclarationReader:
    """Reads the sections of declarations; `names` holds what is declared in each, for the words that name one."""

    def __init__(self, joined: Mapping, reader: Reader) -> None:
        self.reader = reader
        self.sections: dict[str, Mapping] = {}
        roles = joined.entries.get("roles")
        self.role_places = roles.keys if isinstance(roles, Mapping) else {}
        for section, kind in SECTION_KINDS.items():
            node = joined.entries.get(section)
            self.sections[section] = reader.mapping(node, section) if node is not None else Mapping(joined.place)
            for name, place, _ in self.sections[section]:
                reader.name(name, place, kind)
        self.names = {SECTION_KINDS[s]: tuple(found.entries) for s, found in self.sections.items()}

    def declarations(self, roles: dict[str, tuple[str, ...]]) -> Declarations:
        """All declarations."""
        layouts = self._layouts()
        areas = tuple(dict.fromkeys(area for layout in layouts.values() for area in layout.areas))
        return Declarations(
            layouts=layouts,
            themes={name: self._theme(name, node, areas) for name, _, node in self.sections["themes"]},
            sidebars={name: self._sidebar(name, node) for name, _, node in self.sections["sidebars"]},
            looks=self._looks(),
            bands={name: self._band(name, node, areas) for name, _, node in self.sections["bands"]},
            blocks=self._blocks(),
            presets={name: self._preset(name, node) for name, _, node in self.sections["presets"]},
            roles=roles,
            role_places={name: self.role_places[name] for name in roles},
        )

    def _body(self, section: str, name: str, node: Node, keys: Sequence[str]) -> Mapping:
        return self.reader.mapping(node, f"the {SECTION_KINDS[section]} {name}", (*keys, *TOLD))

    def _told(self, body: Mapping) -> dict[str, str]:
        return {key: self.reader.text(body.entries.get(key), key) for key in TOLD}

    def _derived(self, section: str, keys: Sequence[str]) -> dict[str, Mapping]:
        """Bodies of a section, each with the keys of its base where it has none of its own."""
        kind, found = SECTION_KINDS[section], self.sections[section]
        bodies = {name: self._body(section, name, node, (*keys, "based_on")) for name, _, node in found}
        bases: dict[str, tuple[str, ...]] = {}
        for name, body in bodies.items():
            bases[name] = self.reader.known(body.entries.get("based_on"), "based_on", bodies, kind)[:1]
        looped = self.reader.circles(bases, found.keys, section)
        whole: dict[str, Mapping] = {}
        for name, body in bodies.items():
            entries, places = dict(body.entries), dict(body.keys)
            base = bases[name]
            while base and name not in looped and base[0] not in looped:
                for key, place, value in bodies[base[0]]:
                    if key not in TOLD:
                        entries.setdefault(key, value)
                        places.setdefault(key, place)
                base = bases[base[0]]
            whole[name] = Mapping(body.place, entries, places)
        return whole

    def _base(self, section: str, name: str) -> str:
        """The declaration that one is based on, as its own body says; empty: none."""
        node = self.sections[section].entries[name]
        base = node.entries.get("based_on") if isinstance(node, Mapping) else None
        return base.text if isinstance(base, Scalar) else ""

    def _layouts(self) -> dict[str, Layout]:
        layouts = {}
        for name, body in self._derived("layouts", ("areas", "width", "own_content", "blocks")).items():
            place = self.sections["layouts"].keys[name]
            areas = tuple(dict.fromkeys(word for word, _ in self.reader.words(body.entries.get("areas"), "areas")))
            for word, at in self.reader.words(body.entries.get("areas"), "areas"):
                self.reader.name(word, at, "area")
            if not areas:
                hint = "areas: [masthead, content, footer]"
                self.reader.fault(place, f"the layout {name} has no areas, of its own or of a base", hint=hint)
            blocks = {}
            if "blocks" in body.entries:
                for area, at, value in self.reader.mapping(body.entries["blocks"], f"blocks of the layout {name}"):
                    if area not in areas:
                        self.reader.fault(at, f"the layout {name} has no area {area!r}", area, areas)
                    blocks[area] = self.reader.known(value, f"blocks of {area}", self.names["block"], "block")
            layouts[name] = Layout(
                name,
                place,
                areas=areas,
                width=self.reader.one_of(body.entries.get("width"), "width", WIDTHS[1:], "medium"),
                own_content=self.reader.flag(body.entries.get("own_content"), "own_content", True),
                blocks=blocks,
                based_on=self._base("layouts", name),
                **self._told(body),
            )
        return layouts

    def _theme(self, name: str, node: Node, areas: tuple[str, ...]) -> Theme:
        body = self._body("themes", name, node, ("areas", "calls", "otherwise"))
        own = tuple(word for word, _ in self.reader.words(body.entries.get("areas"), "areas"))
        blocks = self.names["block"]
        calls = self._of_areas(body, "calls", areas, own)
        otherwise = {
            area: Instead() if word == "nothing" else Instead(area=word) if word in own else Instead(block=word)
            for area, word in self._of_areas(body, "otherwise", areas, ("nothing", *own, *blocks)).items()
        }
        return Theme(
            name, self.sections["themes"].keys[name], areas=own, calls=calls, otherwise=otherwise, **self._told(body)
        )

    def _of_areas(self, body: Mapping, key: str, areas: Sequence[str], allowed: Sequence[str]) -> dict[str, str]:
        """What a theme says of areas under a key: a word for each."""
        found: dict[str, str] = {}
        for area, at, value in self.reader.mapping(body.entries[key], key) if key in body.entries else ():
            if area not in areas:
                self.reader.fault(at, f"no layout has an area {area!r}", area, areas)
            word = self.reader.one_of(value, f"{key} of {area}", allowed, "")
            if word:
                found[area] = word
        return found

    def _sidebar(self, name: str, node: Node) -> Sidebar:
        body = self._body("sidebars", name, node, ("blocks", "blank"))
        return Sidebar(
            name,
            self.sections["sidebars"].keys[name],
            blocks=self.reader.known(body.entries.get("blocks"), "blocks", self.names["block"], "block"),
            blank=self.reader.flag(body.entries.get("blank"), "blank"),
            **self._told(body),
        )

    def _band(self, name: str, node: Node, areas: tuple[str, ...]) -> Band:
        body = self._body("bands", name, node, ("fits", "blocks"))
        return Band(
            name,
            self.sections["bands"].keys[name],
            fits=self.reader.known(body.entries.get("fits"), "fits", areas, "area"),
            blocks=self.reader.known(body.entries.get("blocks"), "blocks", self.names["block"], "block"),
            **self._told(body),
        )

    def _preset(self, name: str, node: Node) -> Preset:
        label, note = "", ""
        if isinstance(node, Mapping):
            label = self.reader.text(node.entries.get("label"), "label")
            note = self.reader.text(node.entries.get("note"), "note")
        return Preset(name, self.sections["presets"].keys[name], label, note)

    def _looks(self) -> dict[str, Look]:
        looks = {}
        for name, body in self._derived("looks", LOOK_KEYS).items():
            values = {key: self._look_value(key, body.entries[key]) for key in LOOK_KEYS if key in body.entries}
            place, base = self.sections["looks"].keys[name], self._base("looks", name)
            looks[name] = Look(name, place, values=values, based_on=base, **self._told(body))
        return looks

    def _look_value(self, key: str, node: Node) -> str | tuple[str, ...]:
        reader = self.reader
        if key in LOOK_NUMBERS:
            return f"{reader.number(node, key, 0, *LOOK_NUMBERS[key], whole=False):g}"
        if key in LOOK_WORDS:
            return reader.one_of(node, key, LOOK_WORDS[key], "")
        if key == "follows":
            return "yes" if reader.flag(node, key) else "no"
        if key == "shows_on":
            return reader.known(node, key, ("wide", "tablet", "phone"), "device")
        color = reader.text(node, key)
        if not COLOR.fullmatch(color):
            reader.fault(node.place, f"{key} takes a color like '#2f6b3c', not {color!r}")
        return color

    def _blocks(self) -> dict[str, Block]:
        blocks = {name: self._block(name, node) for name, _, node in self.sections["blocks"]}
        rests = {name: block.blocks for name, block in blocks.items() if block.kind == "one-of"}
        for name in self.reader.circles(rests, self.sections["blocks"].keys, "one-of blocks"):
            blocks[name] = blocks[name]._replace(blocks=())
        return blocks

    def _block(self, name: str, node: Node) -> Block:
        every = tuple(key for keys in BLOCK_KEYS.values() for key in keys)
        body = self._body("blocks", name, node, ("kind", "supplies", *every))
        kind = self.reader.one_of(body.entries.get("kind"), "kind", tuple(BLOCK_KEYS), "text")
        place = self.sections["blocks"].keys[name]
        if "kind" not in body.entries:
            self.reader.fault(place, f"the block {name} has no kind", hint=f"kind: one of {', '.join(BLOCK_KEYS)}")
        for key, at, _ in body:
            if key in every and key not in BLOCK_KEYS[kind]:
                self.reader.fault(at, f"a block of the kind {kind} has no key {key!r}", key, BLOCK_KEYS[kind])
        links: dict[str, str] = {}
        if "links" in body.entries:
            for text, at, target in self.reader.mapping(body.entries["links"], "links"):
                links[text] = self.reader.text(target, text)
                if not re.match(r"/|https?://|mailto:|tel:", links[text]):
                    what = f"a link goes to a path of the site or to an address, not {links[text]!r}"
                    self.reader.fault(at, what, hint="begin with / or with https://")
        return Block(
            name,
            place,
            kind=kind,
            text=self.reader.text(body.entries.get("text"), "text"),
            under=self.reader.text(body.entries.get("under"), "under"),
            levels=int(self.reader.number(body.entries.get("levels"), "levels", 1, 1, 100)),
            sort=self.reader.one_of(body.entries.get("sort"), "sort", SORTS, "order"),
            leave_out=tuple(word for word, _ in self.reader.words(body.entries.get("leave_out"), "leave_out")),
            links=links,
            blocks=self.reader.known(body.entries.get("blocks"), "blocks", self.names["block"], "block"),
            supplies=self.reader.known(body.entries.get("supplies"), "supplies", ("heading",), "thing to supply"),
            **self._told(body),
        )
