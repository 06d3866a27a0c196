"""Declarations from words that somebody typed, `KEY=VALUE`: read as davlo.yaml would be, with the same faults."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from typing import Any, NamedTuple

from davlo.core.change.steps.change import (
    CHANGED,
    AddViewpoint,
    Adjust,
    ChangeRule,
    Declare,
    SetGuarantee,
    SetSite,
    Step,
)
from davlo.core.change.steps.declaration_steps import said_of_site
from davlo.core.faults import Place, SiteError, UnknownName, ValueFault
from davlo.core.outcomes.declaration_contents import declaration_contents
from davlo.core.site.declarations import SECTIONS, Group, Person, Preset, Role
from davlo.core.site.model import SiteModel
from davlo.core.site.pages.conditions import Condition
from davlo.core.site.people import VISITOR
from davlo.core.site.publication import OwnershipProof
from davlo.core.site.settings.catalogue import Adjustment
from davlo.core.site.settings.parse_values import read_value, typed_items
from davlo.core.site.settings.values import Raw, raw_of

from ..form.davlo_yaml import ADJUSTED, PROOF, TOLD
from ..form.shapes import ActionList, Either, Entries, Fields, Settings, SettingValue, Shape, Words
from ..form.typed_forms import FORMS, HOW_TO_READ, SITE_KEYS
from ..read.sections.declared import SECTION_KINDS, DeclarationReader, read_actions, read_people, read_roles
from ..read.sections.guarantees import read_guarantees
from ..read.sections.publication import read_ownership_proofs, read_robots
from ..read.sections.settings import read_settings
from ..read.sections.site_section import read_about, read_max_entries, read_sitemap_rules
from ..read.sections.typed_values import read_typed
from ..read.sections.types import check_without, read_types
from ..read.yaml.node_reader import Reader
from ..read.yaml.yaml_nodes import Items, Node, Scalar
from ..read.yaml.yaml_nodes import Mapping as MappingNode
from .spelling import IN_SITE, adjusted_as, condition_as, declared_as

_WORD = re.compile(r"(?P<key>[^=]+?)(?P<how>\+|-)?=(?P<value>.*)", re.DOTALL)


class TypedKey(NamedTuple):
    """One word that was typed: a key, how its value changes (`+` adds, `-` takes away, or set), and the value."""

    key: str
    how: str
    value: str


def typed_keys(words: Sequence[str]) -> list[TypedKey]:
    """Words such as `blocks+=search`, taken apart.

    Raises ValueFault if one is no such word.

    Example
    -------
    >>> typed_keys(["blocks+=search", "links.Book a place=/visit/tickets"])[1].key
    'links.Book a place'
    """
    found = []
    for word in words:
        match = _WORD.fullmatch(word)
        if match is None:
            raise ValueFault(f"{word!r} says nothing: write KEY=VALUE, or for a list KEY+=ITEM, KEY-=ITEM")
        found.append(TypedKey(match["key"].strip(), match["how"] or "", match["value"].strip()))
    return found


def declared_by_words(
    site: SiteModel,
    kind: str,
    name: str,
    words: Sequence[str],
    is_first: bool = False,
    when: Condition | None = None,
    excepts: Sequence[Condition] = (),
) -> tuple[Step, ...]:
    """The steps that declare something, or change keys of it, as words say.

    `kind`: a key of `FORMS`. `name`: of a viewpoint its page; of the site empty. `words`: `KEY=VALUE`; without a value
    the key goes; a dot parts a key from a name in it, as in `links.Tickets=/visit/tickets`. `is_first`: items of `+=`
    go in front. `when`, `excepts`: of a guarantee, or of a rule that is there.

    Raises
    ------
    UnknownName
        If there is no such kind or key.
    ValueFault
        If a word says nothing, or a setting cannot take a value.
    SiteError
        If davlo.yaml could not say this either, with every fault.

    Example
    -------
    >>> import davlo
    >>> declared_by_words(davlo.open_demo(), "sidebar", "kids", ["blocks=search-box, opening-times"])[0].words
    'declare the sidebar kids'
    """
    if kind not in FORMS:
        raise UnknownName("kind of declaration", kind, tuple(FORMS))
    keys = typed_keys(words)
    reader = Reader()
    reader.names = site.page_names
    if kind == "preset":
        steps: tuple[Step, ...] = (_preset(site, name, keys, is_first),)
    else:
        form = FORMS[kind] if kind != "setting" or _is_own(site, name, keys) else ADJUSTED
        said = _said_before(site, kind, name)
        for key in keys:
            try:
                _put(said, form, key, is_first, site, kind, name)
            except UnknownName as error:
                reader.unknown(CHANGED, error)
            except ValueFault as error:
                reader.value_fault(CHANGED, error)
        if kind == "site":
            steps = _site(site, said, reader)
        elif kind == "rule":
            steps = _rule(site, name, said, when, tuple(excepts))
        elif kind == "guarantee":
            steps = (_guarantee(site, name, said, reader, when, tuple(excepts)),)
        elif kind in _STEPS:
            steps = (_STEPS[kind](site, name, said, reader),)
        else:
            steps = (_declare(site, kind, name, said, reader),)
    if reader.faults:
        raise SiteError(list(dict.fromkeys(fault._replace(place=Place("")) for fault in reader.faults)))
    return steps


def _is_own(site: SiteModel, name: str, keys: Sequence[TypedKey]) -> bool:
    """Whether a setting is one of the site's own, or will be."""
    number = site.catalogue.find(name)
    return any(key.key == "kind" for key in keys) or (number is not None and site.catalogue[number].own)


def _said_before(site: SiteModel, kind: str, name: str) -> dict[str, Any]:
    """What a declaration holds today, as a file would; empty if there is none."""
    if kind == "person":
        return {"admin": "yes"} if site.people.is_admin(name) else {}
    if kind == "group":
        return {"members": [*site.people.groups.get(name, ())]}
    if kind == "role":
        role = site.declarations.roles.get(name)
        return {"actions": [*role.actions]} if role else {}
    if kind == "type":
        found = site.types.declared.get(name)
        return declared_as(found) if found else {}
    if kind == "setting":
        own = next((one for one in site.catalogue.own if one.name == name), None)
        adjusted = site.catalogue.adjusted.get(name)
        return declared_as(own) if own else adjusted_as(adjusted) if adjusted else {}
    if kind == "guarantee":
        return _guarantee_before(site, name)
    if kind == "rule":
        note = next((rule.note for rule in site.rules if rule.name == name), "")
        return {"note": note} if note else {}
    if kind == "site":
        told = declaration_contents(site, kind, "")
        return {
            key: [*value] if isinstance(value, tuple) else value
            for key, value in told.items()
            if key in FORMS[kind].fields
        }
    if kind == "viewpoint":
        return {}
    record = site.declarations.of(kind).get(name)
    return declared_as(record) if record else {}


def _guarantee_before(site: SiteModel, name: str) -> dict[str, Any]:
    one = next((one for one in site.guarantees if one.name == name), None)
    if one is None:
        return {}
    has = {site.catalogue[number].name: raw_of(value) for number, value in one.has.items()}
    said = {"has": has, "may": {who: [*some] for who, some in one.may.items()}}
    said |= {"may_not": {who: [*some] for who, some in one.may_not.items()}}
    return {key: value for key, value in said.items() if value}


def _put(
    said: dict[str, Any], form: Fields, typed: TypedKey, is_first: bool, site: SiteModel, kind: str, name: str
) -> None:
    """Put what one word says among what a declaration holds."""
    key = next((one for one in form.keys if typed.key == one or typed.key.startswith(f"{one}.")), "")
    if not key and kind == "site" and typed.key in HOW_TO_READ:
        raise ValueFault(f"{typed.key} says how Davlo reads the files: change it in davlo.yaml, under site")
    if not key:
        raise UnknownName(f"key of a {kind}", typed.key, form.keys)
    dot, inner = typed.key[len(key) : len(key) + 1], typed.key[len(key) + 1 :]
    shape = form.fields[key].shape
    holder, at = said, key
    if isinstance(shape, Entries | Fields | Settings):
        if not inner:
            example = form.fields[key].example
            raise ValueFault(f"{key} holds several values by name: write {key}.NAME=VALUE (in davlo.yaml: {example})")
        shape = shape.of if isinstance(shape, Entries) else SettingValue()
        holder, at = said.setdefault(key, {}), inner
    elif dot:
        raise ValueFault(f"{key} takes {'a list' if _takes_list(shape) else 'one value'}: write {key}=VALUE")
    if typed.how and not _takes_list(shape):
        raise ValueFault(f"{typed.key} is no list: write {typed.key}={typed.value}")
    if not typed.value and not typed.how:
        holder.pop(at, None)
        if holder is not said and not holder:
            said.pop(key)
        return
    if not _takes_list(shape):
        holder[at] = _plain(site, said, name, key, at, typed.value)
        return
    is_based = bool(said.get("based_on"))
    held = holder.get(at)
    if held is None and typed.how and is_based and key != "blocks":
        held = _of_base(site, kind, said["based_on"], key)
    holder[at] = _changed(held, typed, is_first, is_based and key == "blocks")


def _of_base(site: SiteModel, kind: str, base: str, key: str) -> Raw | None:
    """What the declaration that another is based on holds under a key."""
    record = site.declarations.of(kind).get(base) if kind in SECTIONS else None
    return None if record is None else raw_of(getattr(record, key))


def _plain(site: SiteModel, said: Mapping[str, Any], name: str, key: str, inner: str, value: str) -> Raw:
    """One value; of a setting that holds a list the items."""
    setting = name if key == "default" else inner if key == "has" else ""
    number = site.catalogue.find(setting) if setting else None
    if number is not None:
        return read_typed(site.catalogue[number], value)
    return list(typed_items(value)) if key == "default" and said.get("kind") == "list" else value


def _changed(before: Any, typed: TypedKey, is_first: bool, is_based: bool) -> Raw:
    """A list with items added or taken away; of a base's list the change of it."""
    items = typed_items(typed.value)
    if not typed.how:
        return list(items)
    step = "remove" if typed.how == "-" else "first" if is_first else "add"
    if isinstance(before, dict) or (before is None and is_based):
        told = before or {}
        return {**told, step: [*told.get(step, ()), *(one for one in items if one not in told.get(step, ()))]}
    held = [before] if isinstance(before, str) else [*(before or ())]
    if typed.how == "-":
        missing = [one for one in items if one not in held]
        if missing:
            raise UnknownName(f"item of {typed.key}", missing[0], tuple(held))
        return [one for one in held if one not in items]
    more = [one for one in items if one not in held]
    return [*more, *held] if is_first else [*held, *more]


def _takes_list(shape: Shape) -> bool:
    if isinstance(shape, Either):
        return any(map(_takes_list, shape.shapes))
    return isinstance(shape, Words | ActionList)


def node_of(value: Raw) -> Node:
    """Texts, lists and mappings as a file's nodes."""
    if isinstance(value, Mapping):
        return MappingNode(
            CHANGED, {key: node_of(inner) for key, inner in value.items()}, dict.fromkeys(value, CHANGED)
        )
    if isinstance(value, list | tuple):
        return Items([node_of(item) for item in value], CHANGED)
    return Scalar(str(value), CHANGED, bare=False)


def _mapping(value: Mapping[str, Raw]) -> MappingNode:
    node = node_of({**value})
    assert isinstance(node, MappingNode)
    return node


def _declare(site: SiteModel, kind: str, name: str, said: dict[str, Any], reader: Reader) -> Declare:
    """A layout, theme, sidebar, look, band or block."""
    section = next(section for section, one in SECTION_KINDS.items() if one == kind)
    sections = {
        each: {one: declared_as(record) for one, record in site.declarations.of(of).items()}
        for each, of in SECTION_KINDS.items()
    }
    sections[section] = {**sections[section], name: said}
    found = DeclarationReader(_mapping(sections), reader).declarations({})  # type: ignore[arg-type]
    return Declare(found.of(kind)[name])


def _person(site: SiteModel, name: str, said: dict[str, Any], reader: Reader) -> Step:
    read_people(_mapping({"names": [*site.people.names, name], "groups": {g: [] for g in site.people.groups}}), reader)
    return Declare(Person(name, CHANGED, reader.flag(node_of(said.get("admin", "no")), "admin", False)))


def _group(site: SiteModel, name: str, said: dict[str, Any], reader: Reader) -> Step:
    groups = {**{one: [*members] for one, members in site.people.groups.items()}, name: said.get("members", [])}
    people = read_people(_mapping({"names": [*site.people.names], "groups": groups}), reader)
    return Declare(Group(name, CHANGED, people.groups.get(name, ())))


def _role(site: SiteModel, name: str, said: dict[str, Any], reader: Reader) -> Step:
    if not said.get("actions"):
        reader.fault(CHANGED, f"the role {name} holds no actions", hint=f"actions={','.join(site.actions[:2])}")
    found = read_roles(_mapping({name: said.get("actions", [])}), site.actions, reader)
    return Declare(found.get(name, Role(name, CHANGED)))


def _type(site: SiteModel, name: str, said: dict[str, Any], reader: Reader) -> Step:
    section = _mapping({**{one: declared_as(record) for one, record in site.types.declared.items()}, name: said})
    found = read_types(section, reader)
    check_without(section, site.catalogue, reader)
    return Declare(found[name])


def _setting(site: SiteModel, name: str, said: dict[str, Any], reader: Reader) -> Step:
    declared = site.declarations
    users = (*declared.layouts, *declared.bands, *declared.blocks)
    types = ("page", *site.types.declared)
    found = read_settings(_mapping({name: said}), site.catalogue.words, types, users, reader)
    own = next((one for one in found.own if one.name == name), None)
    return Declare(own) if own else Adjust(name, found.adjusted.get(name, Adjustment()))


def _rule(
    site: SiteModel, name: str, said: Mapping[str, str], when: Condition | None, excepts: tuple[Condition, ...]
) -> tuple[Step, ...]:
    """The change of a rule that is there: a rule is made by what it gives."""
    rule = next((rule for rule in site.rules if rule.name == name), None)
    if rule is None:
        raise UnknownName("rule", name, [one.name for one in site.rules])
    after = ChangeRule(name, when or rule.when, excepts or rule.excepts, said.get("note", ""))
    is_same = (after.when, after.excepts, after.note) == (rule.when, rule.excepts, rule.note)
    return () if is_same else (after,)


def _guarantee(
    site: SiteModel, name: str, said: dict[str, Any], reader: Reader, when: Condition | None, excepts: Any
) -> Step:
    before = next((one for one in site.guarantees if one.name == name), None)
    when = when or (before.when if before else Condition())
    excepts = excepts or (before.excepts if before else ())
    item = {"name": name, "when": condition_as(when), **said}
    found = read_guarantees(
        Items([node_of(item)], CHANGED), site.catalogue, site.catalogue.words, reader, tuple(site.types.names)
    )
    has = tuple((site.catalogue[number].name, value) for one in found for number, value in one.has.items())
    subjects = ((tuple(one.may.items()), tuple(one.may_not.items())) for one in found)
    return SetGuarantee(name, when, excepts, has, *next(subjects, ((), ())))


def _viewpoint(site: SiteModel, name: str, said: dict[str, Any], reader: Reader) -> Step:
    return AddViewpoint(name, said.get("as", VISITOR))


def _site(site: SiteModel, said: dict[str, Any], reader: Reader) -> tuple[Step, ...]:
    of_site = {key: value for key, value in said.items() if key in SITE_KEYS}
    about = read_about(_mapping(of_site), CHANGED, reader)
    if about.written_url != site.written_url:
        reader.fault(CHANGED, "url takes an address in ASCII letters here", hint=f"url={about.url}")
    inner = {key: {} for key in ("menu", "sitemap")}  # type: ignore[var-annotated]
    for key, value in said.items():
        section, _, rest = key.partition(".")
        if section in inner:
            inner[section][rest] = value
    at_top = _mapping({key: said[key] for key in ("actions", "robots") if key in said}).entries
    leave = {key: inner["sitemap"].pop(key) for key in ("menu_hidden", "priority_under") if key in inner["sitemap"]}
    sitemap = {**inner["sitemap"], **({"leave_out": leave} if leave else {})}
    after = {
        **{key: getattr(about, key) for key in IN_SITE},
        "home_path": about.home,
        "max_entries": read_max_entries(_mapping(inner["menu"]) if inner["menu"] else None, reader),
        "sitemap": read_sitemap_rules(_mapping(sitemap) if sitemap else None, reader),
        "actions": read_actions(at_top.get("actions"), reader),
        "robots": tuple(line.text for line in read_robots(at_top.get("robots"), reader)),
        "ownership_proofs": _proofs(site, said, reader),
    }
    return tuple(SetSite(key, value) for key, value in after.items() if value != said_of_site(site, key))


def _proofs(site: SiteModel, said: Mapping[str, Any], reader: Reader) -> tuple[OwnershipProof, ...]:
    """The proofs of ownership, those that the site has already in their order."""
    names = dict.fromkeys((kind, getattr(one, kind)) for one in site.ownership_proofs for kind in PROOF.any_of)
    names |= dict.fromkeys((kind, name) for kind in PROOF.any_of for name in said.get(f"ownership_proofs.{kind}", ()))
    texts = {(kind, name): said.get(f"ownership_proofs.{kind}", {}).get(name) for kind, name in names}
    return read_ownership_proofs(
        node_of([{kind: name, "text": text} for (kind, name), text in texts.items() if text]), reader
    )


_STEPS = {
    **{"person": _person, "group": _group, "role": _role, "type": _type, "setting": _setting},
    "viewpoint": _viewpoint,
}


def _preset(site: SiteModel, name: str, keys: Sequence[TypedKey], is_first: bool) -> Declare:
    before = site.declarations.presets.get(name) or Preset(name, CHANGED)
    told, says = {key: getattr(before, key) for key in TOLD}, dict(before.says)
    for one in keys:
        if one.key in TOLD:
            told[one.key] = one.value
        elif not one.value and not one.how:
            if one.key not in says:
                raise UnknownName(f"setting of the preset {name}", one.key, (*says, *TOLD))
            del says[one.key]
        else:
            setting = site.catalogue.setting(one.key)
            step = {"": "", "-": "remove", "+": "first" if is_first else "add"}[one.how]
            said = read_typed(setting, one.value)
            says[one.key] = read_value(setting, {step: said} if step else said)
    return Declare(Preset(name, CHANGED, says=says, **told))
