"""What a declaration holds: a look's CSS, a block's links, a rule's condition, a setting's kind."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from typing import Any, TypeAlias

from ..site.declarations import BLOCK_KEYS, Block, Instead, Layout, Preset
from ..site.model import SiteModel
from ..site.pages.conditions import Condition
from ..site.pages.types import Type
from ..site.settings.setting import AREA_FAMILIES, Setting
from ..site.settings.values import ListChange, format_value

Content: TypeAlias = "str | tuple[str, ...] | Mapping[str, Content]"
"""A word, a list of words, or more of these by name."""
PLACE_IN_LIST = "place in the list"
"""What the contents of a rule call its place among all rules."""
Contents: TypeAlias = Mapping[str, Content]

SITE = "site"
"""The kind of the site as a whole, which has no name: its contents are what davlo.yaml says of it."""

NAMED_BY_BASE = "types based on it"
"""What the contents of a type say of other declarations: these say it themselves."""


def declaration_contents(site: SiteModel, kind: str, name: str) -> Contents:
    """What a declaration says, by the keys of `davlo.yaml`; what it leaves unsaid is left out.

    `kind`, `name`: a kind of declaration, and its name; of the kind `site` there is one, without a name.

    Example
    -------
    >>> import davlo
    >>> site = davlo.open_demo()
    >>> dict(declaration_contents(site, "band", "footer-legal"))
    {'fits': ('footer',), 'blocks': ('legal-line', 'charity-number')}
    >>> dict(declaration_contents(site, "rule", "Sold-out events leave the sitemap"))
    {'place in the list': '3 of 4, the first is the strongest', 'when': {'tag': ('sold-out',)}}
    """
    found = _CONTENTS[kind](site, name) if kind in _CONTENTS else _declared(site, kind, name)
    return {key: value for key, value in found if value}


_Found: TypeAlias = "Iterable[tuple[str, Content]]"


_ALWAYS = ("areas", "width", "own_content", "shows_on", "fits", "kind")
"""What a declaration holds also where it says nothing."""


def _declared(site: SiteModel, kind: str, name: str) -> _Found:
    """What a declaration holds under the keys of its kind."""
    record: Any = site.declarations.of(kind)[name]
    always = (*_ALWAYS, *(BLOCK_KEYS[record.kind] if isinstance(record, Block) else ()))
    unsaid = type(record)(name, record.place)
    for key, value in sorted(record._asdict().items(), key=lambda one: one[0] != "based_on"):
        if key not in ("name", "place", "label", "note", "own") and (key in always or value != getattr(unsaid, key)):
            yield key, _content(value) or ("none" if key == "shows_on" else "")
    if isinstance(record, Layout):
        changes = record.own.get("blocks", {}).items()
        told = {area: format_value(one) for area, one in changes if isinstance(one, ListChange)}
        yield "changes of the base's blocks", told


def _content(value: Any) -> Content:
    if isinstance(value, bool):
        return _flag(value)
    if isinstance(value, Instead):
        return value.words
    if isinstance(value, Mapping):
        return {key: _content(inner) for key, inner in value.items() if inner or isinstance(inner, Instead)}
    return value if isinstance(value, tuple) else str(value)


def _preset(site: SiteModel, name: str) -> _Found:
    preset: Preset = site.declarations.presets[name]
    yield "sets", {setting: format_value(value) or "empty" for setting, value in preset.says.items()}


def _person(site: SiteModel, name: str) -> _Found:
    yield "admin", "yes" if name in site.people.admins else ""
    yield "groups", site.people.groups_of(name)


def _group(site: SiteModel, name: str) -> _Found:
    yield "members", site.people.groups[name]


def _role(site: SiteModel, name: str) -> _Found:
    yield "actions", site.declarations.roles[name].actions


def _type(site: SiteModel, name: str) -> _Found:
    declared: Type | None = site.types.declared.get(name)
    yield "based_on", declared.based_on if declared else ""
    yield NAMED_BY_BASE, tuple(one.name for one in site.types.declared.values() if one.based_on == name)
    yield "without", declared.without if declared else ()


def _setting(site: SiteModel, name: str) -> _Found:
    setting: Setting = site.catalogue[site.setting_number(name)]
    yield "kind", setting.kind
    yield "takes", setting.takes
    yield "choices", setting.choices if setting.kind != "choice" else ()
    yield "default", format_value(setting.built_in) or "empty"
    yield "default_for", setting.default_for
    yield "scopes", setting.scopes
    yield "for_types", setting.for_types
    yield "required", "yes" if setting.required else ""
    yield "used_by", setting.used_by
    if setting.family in AREA_FAMILIES:
        layouts = site.declarations.layouts.values()
        yield "layouts with this area", tuple(one.name for one in layouts if setting.member in one.areas)


def _rule(site: SiteModel, name: str) -> _Found:
    place, rule = next((place, rule) for place, rule in enumerate(site.rules, 1) if rule.name == name)
    yield PLACE_IN_LIST, f"{place} of {len(site.rules)}, the first is the strongest"
    yield "when", condition_words(rule.when) or "any page"
    yield from _excepts(rule.excepts)


def _guarantee(site: SiteModel, name: str) -> _Found:
    guarantee = next(guarantee for guarantee in site.guarantees if guarantee.name == name)
    yield "when", condition_words(guarantee.when) or "any page"
    yield from _excepts(guarantee.excepts)
    yield (
        "has",
        {site.catalogue[number].name: format_value(value) or "empty" for number, value in guarantee.has.items()},
    )
    yield "may", guarantee.may
    yield "may_not", guarantee.may_not


def _site(site: SiteModel, name: str) -> _Found:
    """What davlo.yaml says of the site itself, but where its pages are and how their names are read."""
    rules = site.sitemap
    yield from (("name", site.name), ("url", site.written_url or site.url))
    yield "home", site.home_path if site.home_path != "/" else ""
    yield from (("languages", site.languages), ("language_paths", site.language_paths))
    yield "for_other_languages", site.for_other_languages
    for kind in ("file", "tag"):
        named = {getattr(one, kind): one.text for one in site.ownership_proofs}
        yield f"ownership_proofs.{kind}", {name: text for name, text in named.items() if name}
    yield "menu.max_entries", f"{site.max_entries or ''}"
    yield "sitemap.menu_hidden", "yes" if rules.menu_hidden else ""
    yield "sitemap.priority_under", f"{rules.priority_under:g}" if rules.priority_under else ""
    yield "sitemap.stale_after_days", f"{rules.stale_after_days or ''}"
    yield "sitemap.add_addresses_from", rules.add_addresses_from
    yield from (("actions", site.actions), ("robots", tuple(line.text for line in site.robots)))


def _excepts(excepts: tuple[Condition, ...]) -> _Found:
    if len(excepts) == 1:
        yield "except", condition_words(excepts[0]) or "any page"
    else:
        yield "except", {str(place): condition_words(one) or "any page" for place, one in enumerate(excepts, 1)}


def condition_words(condition: Condition) -> dict[str, Content]:
    """A condition by the keys of `when`, each with its words.

    Example
    -------
    >>> condition_words(Condition(tag=("night",), depth=((2, 4),), details={"made_with": ("potting-bench",)}))
    {'tag': ('night',), 'depth': ('2-4',), 'details': {'made_with': ('potting-bench',)}}
    """
    found: dict[str, Content] = {}
    for key, value in condition._asdict().items():
        if key == "home" and value is not None:
            found[key] = _flag(value)
        elif key == "depth" and value:
            found[key] = tuple(f"{least}-{most}" if least != most else f"{least}" for least, most in value)
        elif key == "details" and value:
            found[key] = {detail: tuple(words) for detail, words in value.items()}
        elif value and key not in ("home", "depth", "details"):
            found[key] = value
    return found


def _flag(value: bool) -> str:
    return "yes" if value else "no"


_CONTENTS: Mapping[str, Callable[[SiteModel, str], _Found]] = {
    "preset": _preset,
    "type": _type,
    "setting": _setting,
    "rule": _rule,
    "guarantee": _guarantee,
    "person": _person,
    "group": _group,
    "role": _role,
    "viewpoint": lambda site, name: (),  # its name says all of it
    SITE: _site,
}
