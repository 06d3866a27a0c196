"""Reading values: what a text, a list or a mapping means, by the kind of the setting."""

from __future__ import annotations

from collections.abc import Sequence

from ...faults import ValueFault
from .numbers import number_of
from .scopes import ScopeKind
from .setting import KINDS, Setting, check_bounds, read_name
from .values import LIST_STEPS, REFERENCES, ByDepth, ListChange, Plain, Raw, Reference, Value

DECLARATION_KINDS = ("layout", "theme", "sidebar", "look", "band", "person", "group")


def read_value(setting: Setting, raw: Raw) -> Value:
    """The value that `raw` means, typed by the setting's kind.

    `setting`: whose value it is. `raw`: what a file holds; a text, also from a CSV cell that is not blank. Returns a
    plain value, a `Reference`, a `ByDepth` (numbers) or a `ListChange` (lists). Raises ValueFault if the setting cannot
    take it.
    """
    if isinstance(raw, str) and raw in REFERENCES:
        return REFERENCES[raw]
    if setting.kind == "list":
        return _read_list(setting, raw)
    if isinstance(raw, dict):
        return _read_by_depth(setting, raw)
    if isinstance(raw, list):
        raise ValueFault(f"{setting.name} takes {setting.takes}, not a list")
    return read_word(setting, raw)


def read_word(setting: Setting, text: str) -> Plain:
    """The single value a text means, by the setting's kind."""
    kind = KINDS.get(setting.kind)
    if text == "none" and (kind is None or kind.unset is None):
        return None
    return (kind.read if kind else read_name)(setting, text)


def _read_by_depth(setting: Setting, raw: dict[str, Raw]) -> ByDepth:
    shape = "{by_depth: {top: 1.0, step: 0.2, floor: 0.2}}"
    body = raw.get("by_depth")
    if setting.kind != "number" or list(raw) != ["by_depth"]:
        also = f", or {shape}" if setting.kind == "number" else ""
        raise ValueFault(
            f"{setting.name} takes {setting.takes}{also}, not a mapping with {', '.join(raw) or 'nothing'}"
        )
    if not isinstance(body, dict) or set(body) != {"top", "step", "floor"}:
        raise ValueFault(f"by_depth takes top, step and floor, as in {shape}")
    numbers = {}
    for key, text in body.items():
        number = number_of(text) if isinstance(text, str) else None
        if number is None:
            raise ValueFault(f"{key} takes a number, not {text!r}")
        numbers[key] = number
    if numbers["step"] < 0:
        raise ValueFault("step takes a number that is not negative: priorities fall with depth")
    check_bounds(setting, numbers["floor"])
    check_bounds(setting, max(numbers["top"], numbers["floor"]))
    return ByDepth(**numbers)


def _read_list(setting: Setting, raw: Raw) -> Value:
    if isinstance(raw, list):
        return _read_items(setting, raw)
    if isinstance(raw, dict):
        wrong = [key for key in raw if key not in LIST_STEPS]
        if wrong or not raw:
            raise ValueFault(
                f"a change of {setting.name} takes add, first and remove, not {wrong[0] if wrong else 'nothing'!r}",
                wrong[0] if wrong else "",
                LIST_STEPS,
            )
        parts = {}
        for key, items in raw.items():
            if not isinstance(items, list):
                raise ValueFault(
                    f"{key} takes a list", hint=f"write {key}: [{items}]" if isinstance(items, str) else ""
                )
            parts[key] = _read_items(setting, items)
        return ListChange(**parts)
    if raw == "none":
        return ()
    return KINDS["list"].read(setting, raw)


def keeping_roles(setting: Setting) -> Setting:
    """The setting, of which values are read with the names of roles."""
    return setting._replace(stands_for={role: (role,) for role in setting.stands_for})


def _read_items(setting: Setting, raw: Sequence[Raw]) -> tuple[str, ...]:
    items: list[str] = []
    for item in raw:
        if not isinstance(item, str):
            raise ValueFault(f"an item of {setting.name} is a word, not {item!r}")
        if ";" in item:
            raise ValueFault(f"an item of {setting.name} holds no ';', which stands between items in CSV: {item!r}")
        if item in setting.stands_for:
            items += setting.stands_for[item]
        elif not setting.free_items and item not in setting.choices:
            allowed = (*setting.choices, *setting.stands_for)
            kind = "block" if setting.family == "blocks" else ""
            raise ValueFault(f"{setting.item_word} {item!r} is not known", item, allowed, kind=kind)
        elif not item:
            raise ValueFault(f"an item of {setting.name} is empty")
        else:
            items.append(item)
    return tuple(dict.fromkeys(items))


def read_cell(setting: Setting, text: str) -> Value:
    """The value that a CSV cell means where it is not blank: `a; b` is a list, `+ a` adds, `- a` removes."""
    if setting.kind != "list" or text in REFERENCES or text == "none":
        return read_value(setting, text)
    sign = text[0] if text[:2] in ("+ ", "- ") else ""
    raw: list[Raw] = [item.strip() for item in text[len(sign) :].split(";") if item.strip()]
    if not sign:
        return read_value(setting, raw)
    return read_value(setting, {"add" if sign == "+" else "remove": raw})


def typed_items(text: str) -> list[str]:
    """The items of a list that somebody typed: commas or semicolons stand between them.

    With a semicolon in the text, commas are part of the items.

    Example
    -------
    >>> typed_items("view,edit"), typed_items("view; edit"), typed_items("Tea, hot; Cake")
    (['view', 'edit'], ['view', 'edit'], ['Tea, hot', 'Cake'])
    """
    return [item.strip() for item in text.split(";" if ";" in text else ",") if item.strip()]


def read_typed_list(setting: Setting, text: str) -> Value:
    """The value of a list that somebody typed, as a cell has it, but commas may stand between items, too."""
    if text in REFERENCES or text == "none":
        return read_value(setting, text)
    sign = text[0] if text[:2] in ("+ ", "- ") else ""
    return read_cell(setting, f"{sign} {'; '.join(typed_items(text[len(sign) :]))}".lstrip())


NAMED_BY = {"everywhere": ScopeKind.EVERYWHERE, "type": ScopeKind.TYPE, "below": ScopeKind.BELOW}
"""The scopes that a value may refer to."""


def check_scope(scope: ScopeKind, value: Value, setting: Setting) -> None:
    """Whether a setting and a value may stand in a scope.

    Raises ValueFault if not.
    """
    word = scope.word
    if word not in setting.scopes and scope != ScopeKind.STAMP:
        told = ", ".join(setting.scopes) or "nowhere"
        raise ValueFault(f"{setting.name} may not be set here ({word}); it may be set in: {told}")
    if isinstance(value, Reference) and NAMED_BY[value.scope] >= scope:
        weaker = [f"<{name}>" for name, named in NAMED_BY.items() if named < scope]
        hint = f"one may stand here: {', '.join(weaker)}" if weaker else "no such word may stand here"
        raise ValueFault(f"<{value.scope}> may only stand in a stronger scope than it names", hint=hint)
