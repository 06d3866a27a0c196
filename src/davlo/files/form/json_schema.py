"""The form of davlo.yaml as a JSON Schema, for editors (JSON Schema, draft 2020-12: Core and Validation)."""

from __future__ import annotations

from typing import TypeAlias

from davlo.core.site.model import SiteModel
from davlo.core.site.settings.catalogue import Catalogue, Vocabulary
from davlo.core.site.settings.names import RESERVED_NAMES
from davlo.core.site.settings.parse_values import DECLARATION_KINDS
from davlo.core.site.settings.setting import ACCESS_FAMILIES, ACTIONS, AREA_FAMILIES, KINDS, Setting
from davlo.core.site.settings.values import LIST_STEPS, REFERENCES
from davlo.frames.json_text import json_text

from . import davlo_yaml as form
from .estate_yaml import ESTATE_YAML, SHARED_YAML
from .shapes import (
    ActionList,
    Either,
    Entries,
    Field,
    Fields,
    Flag,
    ListOf,
    NameOf,
    Number,
    Settings,
    Shape,
    Text,
    Word,
    Words,
)

Schema: TypeAlias = "dict[str, object]"
SCHEMA = "davlo.schema.json"
"""What the file is called beside davlo.yaml."""
DRAFT = "https://json-schema.org/draft/2020-12/schema"
TEXT: Schema = {"type": ["string", "number", "boolean"]}
"""A text may also be a scalar that YAML reads as a number or as a flag."""
FLAG: Schema = {
    "anyOf": [
        {"type": "boolean"},
        {"type": "string", "pattern": "^([yY][eE][sS]|[nN][oO]|[tT][rR][uU][eE]|[fF][aA][lL][sS][eE])$"},
    ]
}
NUMBER_TEXT = r"^[+-]?([0-9]+\.?[0-9]*|\.[0-9]+)([eE][+-]?[0-9]+)?$"
ANY: Schema = {"$ref": "#/$defs/anything"}
ANYTHING: Schema = {"anyOf": [TEXT, {"type": "array", "items": ANY}, {"type": "object", "additionalProperties": ANY}]}
"""Whatever may stand in the file: a key with nothing after it may not."""
NAME: Schema = {"pattern": r"^[^\s_A-Z]+$", "not": {"enum": list(RESERVED_NAMES)}}
PAGE: Schema = {"pattern": "^(/|[a-zA-Z][a-zA-Z0-9+.-]*://)"}
_NAMED = ("preset", "type", "layout", "theme", "sidebar", "look", "band", "block", "group", "role")
_SHARED: dict[str, Shape] = {"scope": form.BODY, "here": form.HERE, "lock": form.LOCK, "condition": form.CONDITION}
"""The shapes that stand in many places, each said once in the schema."""


FILES: dict[str, tuple[str, Fields]] = {
    "davlo.yaml": ("davlo.yaml", form.DAVLO_YAML),
    "included": ("a file that davlo.yaml includes", form.INCLUDED_YAML),
    "shared": ("a file that the sites of an estate share", SHARED_YAML),
    "estate.yaml": ("estate.yaml", ESTATE_YAML),
}
"""The files that have a schema: what each is called there, and its form."""


def davlo_schema(site: SiteModel | None = None, of: str = "davlo.yaml") -> Schema:
    """The JSON Schema of davlo.yaml, or of another of `FILES`.

    `site`: its names of layouts, sidebars, people, settings and all else are the words that the schema allows. Returns
    the schema as JSON holds it.

    Example
    -------
    >>> schema = davlo_schema()
    >>> schema["required"], sorted(schema["properties"])[:3]
    (['davlo', 'site'], ['accept', 'actions', 'bands'])
    >>> sorted(davlo_schema(of="estate.yaml")["properties"])
    ['davlo', 'estate', 'shared', 'sites']
    """
    return _Schema(site).whole(*FILES[of])


def schema_text(site: SiteModel | None = None, of: str = "davlo.yaml") -> str:
    """The JSON Schema of one of `FILES`, as a file holds it."""
    return json_text(davlo_schema(site, of), indent=1) + "\n"


class _Schema:
    """Puts the schema together; `names` holds the names of each kind that are known."""

    def __init__(self, site: SiteModel | None) -> None:
        self.site = site
        self.catalogue = site.catalogue if site else Catalogue(Vocabulary({}, (), ACTIONS, {}), (), {}, ())
        self.names: dict[str, tuple[str, ...]] = {}
        if site:
            words = site.catalogue.words
            self.names = {
                **{kind: tuple(names) for kind, names in words.names.items()},
                "area": words.areas,
                "type": tuple(site.types.declared),
                "action": site.actions,
                "role": tuple(words.roles),
                "subject": words.subjects,
            }
        self.by_shape = {id(shape): name for name, shape in _SHARED.items()}

    def whole(self, title: str, file: Fields) -> Schema:
        """The schema of a file."""
        shared = {name: self._of(shape, inside=True) for name, shape in _SHARED.items()}
        values = {f"value of {name}": schema for name, schema in self._values().items()}
        return {
            "$schema": DRAFT,
            "title": f"{title} of {self.site.name}" if self.site else title,
            "description": "What a website is made of, and what each of its pages gets.",
            **self._of(file),
            "$defs": {**shared, "anything": ANYTHING, **values},
        }

    def _of(self, shape: Shape, inside: bool = False) -> Schema:
        """The schema of a shape; one that stands in many places is named, unless it is asked for `inside`."""
        name = self.by_shape.get(id(shape))
        if name and not inside:
            return {"$ref": f"#/$defs/{name}"}
        if isinstance(shape, Text):
            matching: Schema = {"type": "string", "pattern": shape.pattern}
            if shape.integers:
                return {"anyOf": [matching, {"type": "integer", "minimum": 0}]}
            return matching if shape.pattern else TEXT
        if isinstance(shape, Flag):
            return FLAG
        if isinstance(shape, Number):
            return _number(*shape.bounds)
        if isinstance(shape, Word | NameOf):
            return self._word(shape)
        if isinstance(shape, Words):
            one = self._of(shape.of)
            return {"anyOf": [one, {"type": "array", "items": one}]}
        if isinstance(shape, Fields):
            return self._fields(shape)
        if isinstance(shape, Entries):
            return self._entries(shape)
        if isinstance(shape, ListOf):
            return {"type": "array", "items": self._of(shape.of)}
        if isinstance(shape, Either):
            return {"anyOf": [self._of(one) for one in shape.shapes]}
        if isinstance(shape, ActionList):
            return _list(self._actions())
        return self._settings(shape) if isinstance(shape, Settings) else ANY

    def _word(self, shape: Word | NameOf) -> Schema:
        if isinstance(shape, Word):
            return _enum(shape.choices)
        if not all(kind in self.names for kind in shape.kinds):
            return TEXT
        return _enum((*(name for kind in shape.kinds for name in self.names[kind]), *shape.besides))

    def _field(self, field: Field) -> Schema:
        return {"description": field.help, **self._of(field.shape)}

    def _fields(self, shape: Fields) -> Schema:
        found: Schema = {
            "type": "object",
            "properties": {key: self._field(field) for key, field in shape.fields.items()},
            "additionalProperties": False,
        }
        if shape.required:
            found["required"] = list(shape.required)
        if shape.any_of:
            found["anyOf"] = [{"required": [key]} for key in shape.any_of]
        return found

    def _entries(self, shape: Entries) -> Schema:
        found: Schema = {"type": "object", "additionalProperties": self._of(shape.of)}
        if shape.named == "setting":
            return {**found, "additionalProperties": ANY, **self._setting_entries()}
        if shape.named in _NAMED:
            found["propertyNames"] = NAME
        elif shape.named == "page":
            found["propertyNames"] = PAGE
        elif shape.named in self.names and shape.named in ("area", "subject"):
            found["propertyNames"] = {"enum": list(self.names[shape.named])}
        return found

    def _setting_entries(self) -> Schema:
        """What the section `settings` holds: changes of Davlo's, and others that are the site's own."""
        own, davlos = self._of(form.OWN_SETTING), self._of(form.ADJUSTED)
        families = "|".join((*AREA_FAMILIES, *ACCESS_FAMILIES))
        return {
            "properties": {one.name: davlos for one in self.catalogue.settings if not one.own},
            "patternProperties": {rf"^({families})\.": davlos},
            "additionalProperties": own,
        }

    def _settings(self, shape: Settings) -> Schema:
        """A mapping from settings to values: those that are known, the families, and the site's own."""
        values: dict[str, Schema] = {}
        for one in self.catalogue.settings:
            values[one.name] = {"$ref": f"#/$defs/value of {one.name}"} if shape.changes_too else self._plain(one)
        beside = {key: self._field(field) for key, field in shape.beside.items()}
        found: Schema = {"type": "object", "properties": {**values, **beside}}
        if self.site is None:
            named, lists = [one for one in AREA_FAMILIES if one != "blocks"], ["blocks", *ACCESS_FAMILIES]
            return {
                **found,
                "patternProperties": {
                    rf"^({'|'.join(named)})\.": _with_references(TEXT),
                    rf"^({'|'.join(lists)})\.": _list(None),
                },
                "additionalProperties": ANY,
            }
        found["patternProperties"] = {rf"^(access|deny)\.({_any_of(self.names['subject'])})$": _list(self._actions())}
        return {**found, "additionalProperties": False}

    def _actions(self) -> tuple[str, ...] | None:
        return (*self.names["action"], *self.names["role"]) if self.site else None

    def _values(self) -> dict[str, Schema]:
        """What each known setting takes."""
        return {
            one.name: {"description": one.help or one.label or one.name, **self._value(one)}
            for one in self.catalogue.settings
        }

    def _value(self, setting: Setting) -> Schema:
        """A value of a setting, a reference to another scope, or a change of a list."""
        if setting.kind == "list":
            return _list(self._items_of(setting))
        return _with_references(self._plain(setting))

    def _items_of(self, setting: Setting) -> tuple[str, ...] | None:
        """The words that a list may hold; None where any."""
        is_free = setting.free_items or (self.site is None and not setting.own)
        return None if is_free else (*setting.choices, *setting.stands_for)

    def _plain(self, setting: Setting) -> Schema:
        """A plain value of a setting."""
        none: Schema = {"const": "none"}
        if setting.kind == "text":
            return TEXT
        if setting.kind == "flag":
            return FLAG
        if setting.kind == "list":
            return {"anyOf": [none, _items(self._items_of(setting))]}
        if setting.kind in ("number", "integer"):
            bounds = (setting.least, setting.most)
            by_depth = [_by_depth(*bounds)] if setting.kind == "number" else []
            return {"anyOf": [none, _number(*bounds, setting.kind == "integer"), *by_depth]}
        if setting.kind in KINDS and KINDS[setting.kind].pattern:
            return {"anyOf": [none, {"type": "string", "pattern": KINDS[setting.kind].pattern}]}
        if setting.kind in DECLARATION_KINDS and self.site is None:
            return TEXT
        return _enum((*setting.choices, "none"))


def _any_of(names: tuple[str, ...]) -> str:
    return "|".join(name.replace(".", r"\.") for name in names)


def _number(least: float | None, most: float | None, whole: bool) -> Schema:
    """A number, or a text that is one."""
    number: Schema = {"type": "integer" if whole else "number"}
    if least is not None:
        number["minimum"] = least
    if most is not None:
        number["maximum"] = most
    return {"anyOf": [number, {"type": "string", "pattern": NUMBER_TEXT}]}


def _enum(words: tuple[str, ...]) -> Schema:
    """One of some words; those that YAML reads as a number or a flag as these, too."""
    found: list[object] = list(dict.fromkeys(words))
    found += [int(word) for word in words if word.isascii() and word.isdecimal()]
    found += [word == "true" for word in words if word in ("true", "false")]
    return {"enum": found}


def _items(choices: tuple[str, ...] | None) -> Schema:
    return {"type": "array", "items": TEXT if choices is None else _enum(choices)}


def _list(choices: tuple[str, ...] | None) -> Schema:
    """A list that replaces, a change of a list, or a reference."""
    items = _items(choices)
    change: Schema = {
        "type": "object",
        "properties": dict.fromkeys(LIST_STEPS, items),
        "additionalProperties": False,
        "minProperties": 1,
    }
    return {"anyOf": [items, change, {"enum": ["none", *REFERENCES]}]}


def _with_references(plain: Schema) -> Schema:
    return {"anyOf": [plain, {"enum": list(REFERENCES)}]}


def _by_depth(least: float | None, most: float | None) -> Schema:
    """A number that goes by the depth of the page: the floor is within the bounds, and the top not above them."""
    numbers = {"top": _number(None, most, False), "step": _number(0, None, False), "floor": _number(least, most, False)}
    inner: Schema = {"type": "object", "properties": numbers, "required": [*numbers], "additionalProperties": False}
    return {
        "type": "object",
        "properties": {"by_depth": inner},
        "required": ["by_depth"],
        "additionalProperties": False,
    }
