"""How YAML spells what a change says: where each scope and declaration stands in `davlo.yaml`, and what is written."""

from __future__ import annotations

from collections.abc import Iterator, Mapping

from davlo.core.change.steps.change import FRESH_ACCESS
from davlo.core.outcomes.declaration_contents import Content, condition_words
from davlo.core.site.declarations import DERIVED, Block, Declared, Group, Instead, Layout, Look, Role, kind_of
from davlo.core.site.model import Accept
from davlo.core.site.pages.conditions import Condition
from davlo.core.site.pages.page_names import PageNames
from davlo.core.site.publication import OwnershipProof
from davlo.core.site.settings.catalogue import Adjustment
from davlo.core.site.settings.scopes import FOR_ALL, Scope, ScopeKind
from davlo.core.site.settings.setting import ACCESS_FAMILIES, KINDS, Setting
from davlo.core.site.settings.values import Raw, raw_of

from ..form.davlo_yaml import DECLARED, TOLD
from .yaml_entries import BECAUSE, Item, Keys, PageKey

LOCK, USE, BOTH = "lock", "use", "here_and_below"
GOES_WHEN_EMPTY = ("access", "deny", LOCK, "here", "below", BOTH, "everywhere")
"""Keys that mean nothing once they are empty; so do the path of a page, and `give` except in a rule."""
KIND_KEYS: Mapping[str, Keys] = {
    "group": ("people", "groups"),
    **{f"{kind}": (f"{kind}s",) for kind in ("layout", "theme", "sidebar", "look", "band", "block", "preset", "role")},
    "type": ("types",),
    "setting": ("settings",),
}
"""Where the declarations of each kind stand."""
IN_SITE = ("name", "url", "languages", "language_paths", "for_other_languages")
"""The keys of the section `site` that a site has by the same name, each with a text or a list of texts."""
SITE_KEYS: Mapping[str, Keys] = {
    **{key: ("site", key) for key in (*IN_SITE, "ownership_proofs")},
    "home_path": ("site", "home"),
    "max_entries": ("menu", "max_entries"),
    **{key: (key,) for key in ("actions", "robots")},
}
SITEMAP_KEYS: Mapping[str, Keys] = {
    **{key: ("sitemap", "leave_out", key) for key in ("menu_hidden", "priority_under")},
    **{key: ("sitemap", key) for key in ("stale_after_days", "add_addresses_from")},
}


def proof_as(proof: OwnershipProof) -> dict[str, Raw]:
    """A proof of ownership as an item of its list."""
    name = {"file": proof.file} if proof.file else {"tag": proof.tag}
    return {**name, "text": proof.text}


def goes_when_empty(path: tuple[str, ...]) -> bool:
    """Whether an entry means nothing once it is empty, judged by the keys that lead to it."""
    is_page = len(path) == 2 and path[0] == "pages"
    is_give_of_type = path[-1] == "give" and path[0] == "types"
    return path[-1] in GOES_WHEN_EMPTY or is_page or is_give_of_type


def named(section: str, name: str) -> Keys:
    """The keys that lead to the item of a list with this name."""
    return (section, Item(lambda raw: isinstance(raw, dict) and raw.get("name") == name, f"{name} among the {section}"))


def body_of(scope: Scope, names: PageNames) -> Keys:
    """The keys that lead to what a scope says, in a body of its own."""
    if scope.kind in FOR_ALL:  # the estate's in a shared file
        return ("everywhere",)
    if scope.kind == ScopeKind.TYPE:
        return ("types", scope.name, "give")
    if scope.kind == ScopeKind.RULE:
        return (*named("rules", scope.name), "give")
    return ("pages", page_key(scope.name, names), BOTH if scope.both else scope.kind.word)


def both_body_of(scope: Scope, names: PageNames) -> Keys | None:
    """The keys that lead to the `here_and_below` in which half of it may be said; None for other scopes."""
    halves = scope.kind in (ScopeKind.BELOW, ScopeKind.HERE) and not scope.both
    return ("pages", page_key(scope.name, names), BOTH) if halves else None


def page_key(path: str, names: PageNames) -> PageKey:
    """The key of a page, however it is written."""
    return PageKey(names.path(path), names.path)


def setting_keys(setting: str, lock: bool = False) -> Keys:
    """The keys of a setting within a body, as Davlo writes them."""
    family, _, member = setting.partition(".")
    own: Keys = (family, member) if family in ACCESS_FAMILIES and member else (setting,)
    return (LOCK, *own) if lock else own


def spellings(setting: str) -> Iterator[tuple[Keys, bool]]:
    """Each way in which a body may say a setting, and whether it is a lock."""
    if setting == FRESH_ACCESS:
        yield (setting,), False
        return
    for lock in (False, True):
        yield setting_keys(setting, lock), lock
        if setting_keys(setting) != (setting,):
            yield ((LOCK, setting) if lock else (setting,)), lock


def declared_as(record: Declared) -> dict[str, Raw]:
    """What a declaration says under its name, without the keys that it leaves unsaid."""
    form = DECLARED.get(kind_of(record))
    if form is None:
        return {key: _raw(getattr(record, key)) for key in TOLD if getattr(record, key, "")}
    if isinstance(record, Setting):
        unsaid: Declared = Setting(record.name, record.kind, KINDS[record.kind].unset)
    else:
        unsaid = type(record)(record.name, record.place)
    found: dict[str, Raw] = {"kind": record.kind} if isinstance(record, Block | Setting) else {}
    derived, own = (DERIVED[type(record)], record.own) if isinstance(record, Layout | Look) else ((), {})
    for field, value in record._asdict().items():
        key = "default" if field == "built_in" else field
        if key not in form.fields or key == "kind":
            continue
        if key in own if key in derived else value != getattr(unsaid, field):
            found[key] = _raw(own.get(key, value))
    return found


def listed_as(record: Declared) -> Raw | None:
    """The value of a declaration that is a plain list: members, actions."""
    if isinstance(record, Group):
        return [*record.members]
    return [*record.actions] if isinstance(record, Role) else None


def adjusted_as(adjustment: Adjustment) -> dict[str, Raw]:
    """What an adjustment of a setting says."""
    said = adjustment._asdict().items()
    return {key: _raw(value) if key != "default" else value for key, value in said if value is not None}


def condition_as(condition: Condition) -> dict[str, Raw]:
    """A condition as `when` holds it."""
    return {key: _one_or_all(words) for key, words in condition_words(condition).items()}


def accept_as(accept: Accept) -> dict[str, Raw]:
    """An entry of `accept`."""
    found: dict[str, Raw] = {
        key: getattr(accept, key) for key in ("kind", "setting", "declaration") if getattr(accept, key)
    }
    if accept.when is not None:
        found["when"] = condition_as(accept.when)
    return {**found, BECAUSE: accept.because}


def _one_or_all(words: Content) -> Raw:
    """Words; a list of one becomes its word."""
    if isinstance(words, str):
        return words
    if isinstance(words, Mapping):
        return {key: _one_or_all(inner) for key, inner in words.items()}
    return words[0] if len(words) == 1 else [*words]


def _raw(value: object) -> Raw:
    if isinstance(value, Instead):
        return value.area or value.block or "none"
    if isinstance(value, Mapping):
        return {str(key): _raw(inner) for key, inner in value.items()}
    if isinstance(value, float) and value.is_integer():
        return str(int(value))
    return raw_of(value)
