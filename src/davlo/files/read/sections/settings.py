"""The `settings` section: the site's own settings, and what it makes of Davlo's."""

from __future__ import annotations

from collections.abc import Mapping as Mapping_

from davlo.core.faults import Place, ValueFault
from davlo.core.site.pages.details import STANDARD
from davlo.core.site.settings.catalogue import (
    Adjustment,
    Catalogue,
    Vocabulary,
    davlo_settings,
    family_setting,
    with_default,
)
from davlo.core.site.settings.names import PROGRAM
from davlo.core.site.settings.setting import ACCESS_FAMILIES, FAMILIES, KINDS, Setting

from ...form.davlo_yaml import ADJUSTED, OWN_SETTING
from ..yaml.node_reader import Reader
from ..yaml.yaml_nodes import Mapping, Node, raw
from .form_reader import read_fields


def read_settings(
    node: Node | None, words: Vocabulary, types: tuple[str, ...], users: tuple[str, ...], reader: Reader
) -> Catalogue:
    """The catalogue that Davlo's settings and this section make.

    `types` are the declared types; `users` the layouts, bands and blocks that may show a setting.
    """
    davlos = {setting.name: setting for setting in davlo_settings(words)}
    own: list[Setting] = []
    adjusted: dict[str, Adjustment] = {}
    access: list[str] = []
    section = reader.mapping(node, "settings") if node is not None else Mapping(Place("davlo.yaml"))
    for name, place, body in section:
        family, _, member = name.partition(".")
        if name in davlos or (family in FAMILIES and member == "*"):
            adjusted[name] = _adjustment(name, body, _examples(name, davlos, words), reader)
        elif family in ACCESS_FAMILIES and member:
            if member in words.subjects:
                adjusted[name] = _adjustment(name, body, [family_setting(family, member, words)], reader)
                access.append(name)
            else:
                reader.fault(place, f"there is no person or group {member!r}", member, words.subjects)
        elif family in FAMILIES or (isinstance(body, Mapping) and "kind" not in body.entries and "." in name):
            allowed = (*davlos, *(f"{each}.*" for each in FAMILIES))
            reader.fault(place, f"there is no setting {name!r}", name, allowed)
        else:
            reader.name(name, place, "setting")
            if name in STANDARD:
                reader.fault(place, f"no setting may be called {name}: it is a detail of every page")
            own.append(_own(name, body, types, users, words, reader)._replace(place=place))
    return Catalogue(words, own, adjusted, access)


def _examples(name: str, davlos: Mapping_[str, Setting], words: Vocabulary) -> list[Setting]:
    """A setting that an adjustment is for; any one of a family, since all of them take the same values."""
    family, _, member = name.partition(".")
    if member != "*":
        return [davlos[name]]
    if family in ACCESS_FAMILIES:
        return [family_setting(family, "everyone", words)]
    return [setting for setting in davlos.values() if setting.family == family][:1]


def _adjustment(name: str, node: Node, examples: list[Setting], reader: Reader) -> Adjustment:
    """How the site adjusts a setting of Davlo's, or a family."""
    body = reader.mapping(node, name, ADJUSTED.keys)
    said = read_fields(body, ADJUSTED, reader, Setting._field_defaults, ("default",))
    found = Adjustment(**said, default=raw(body.entries["default"]) if "default" in body.entries else None)
    for setting in examples:
        try:
            found.of(setting)
        except ValueFault as error:
            reader.value_fault(body.keys["default"], error)
    return found


def _with_default(setting: Setting, body: Mapping, reader: Reader) -> Setting:
    if "default" not in body.entries:
        return setting
    try:
        return with_default(setting, raw(body.entries["default"]))
    except ValueFault as error:
        reader.value_fault(body.keys["default"], error)
        return setting


def _own(
    name: str, node: Node, types: tuple[str, ...], users: tuple[str, ...], words: Vocabulary, reader: Reader
) -> Setting:
    body = reader.mapping(node, f"the setting {name}", OWN_SETTING.keys)
    kind = reader.one_of(body.entries.get("kind"), "kind", OWN_SETTING.choices("kind"), "text")
    if "kind" not in body.entries:
        reader.fault(node.place, f"the setting {name} has no kind", hint=f"kind: one of {', '.join(KINDS)}")
    for key in OWN_SETTING.keys:
        kinds = [other for other, one in KINDS.items() if key in one.keys]
        if kinds and key in body.entries and kind not in kinds:
            reader.fault(body.keys[key], f"{key} is for the kinds {' and '.join(kinds)}; {name} is of the kind {kind}")
    leave = ("kind", "default", "used_by")
    said = read_fields(body, OWN_SETTING, reader, Setting._field_defaults, leave, lambda kind: types)
    said["choices"] = tuple(dict.fromkeys(said.get("choices", ())))
    if kind == "choice" and not said["choices"]:
        reader.fault(node.place, f"the setting {name} has no choices", hint="choices: [first, second]")
    shown_by = (*users, PROGRAM), "layout, band or block", lambda word: _no_user(word, words)
    used_by = reader.known(body.entries.get("used_by"), "used_by", *shown_by)
    setting = Setting(name, kind, KINDS[kind].unset, used_by=used_by, own=True, **said)
    if setting.least is not None and setting.most is not None and setting.least > setting.most:
        reader.fault(body.keys["least"], f"least is more than most for {name}")
    return _with_default(setting, body, reader)


def _no_user(word: str, words: Vocabulary) -> str:
    """A hint for `used_by`: a layout, a band or a block shows a setting, a sidebar does not."""
    if word not in words.names.get("sidebar", ()):
        return ""
    return f"{word} is a sidebar; name the block in it that shows the setting, or a layout or a band"
