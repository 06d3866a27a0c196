"""Reading values: what a text, a list or a mapping means, by the kind of the setting."""

from __future__ import annotations

import datetime
import re
from collections.abc import Sequence

from ..faults import ValueFault
from .numbers import integer_of, number_of, with_point
from .scopes import ScopeKind
from .settings import Setting
from .values import LIST_STEPS, REFERENCES, ByDepth, ListChange, Plain, Raw, Reference, Value, format_number

FLAGS = {"yes": True, "true": True, "no": False, "false": False}
COLOR = re.compile(r"#(?:[0-9a-fA-F]{3}|[0-9a-fA-F]{6})")
DAY = re.compile(r"\d{4}-\d\d-\d\d", re.ASCII)
PATTERNS, MOST_BRACES = ("heading.text", "title.pattern", "menu.label"), 100
"""Texts with placeholders, and how many: each can stand for a text as long as a cell, on every page."""
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
    kind = setting.kind
    if kind == "text":
        if setting.name in PATTERNS and text.count("{") > MOST_BRACES:
            raise ValueFault(f"{setting.name} takes {MOST_BRACES} placeholders and braces at most")
        return "" if text == "<empty>" else text
    if kind == "flag":
        if text.lower() in FLAGS:
            return FLAGS[text.lower()]
        raise _unfit(setting, text, ("yes", "no"))
    if text == "none":
        return None
    if kind in ("choice", *DECLARATION_KINDS):
        return _read_choice(setting, text)
    if kind in ("number", "integer"):
        return _read_number(setting, text)
    if kind == "date":
        try:
            if DAY.fullmatch(text):
                return datetime.date.fromisoformat(text).isoformat()
        except ValueError:
            pass
        raise ValueFault(f"{setting.name} takes a date like 2026-05-01, or none, not {text!r}")
    if COLOR.fullmatch(text):
        return text.lower()
    raise ValueFault(f"{setting.name} takes a color like '#2f6b3c', or none, not {text!r}")


def _unfit(setting: Setting, text: str, allowed: Sequence[str]) -> ValueFault:
    return ValueFault(f"{setting.name} takes {setting.takes}, not {text!r}", text, allowed)


def _read_choice(setting: Setting, text: str) -> str:
    if text in setting.choices:
        return text
    if setting.kind == "choice":
        raise _unfit(setting, text, (*setting.choices, "none"))
    raise ValueFault(f"there is no {setting.kind} {text!r}", text, (*setting.choices, "none"))


def _read_number(setting: Setting, text: str) -> float | int:
    whole = setting.kind == "integer"
    number = integer_of(text) if whole else number_of(text)
    if number is None:
        raise ValueFault(f"{setting.name} takes {setting.takes}, not {text!r}", hint=with_point(text))
    _in_range(setting, number)
    return number


def _in_range(setting: Setting, number: float) -> None:
    if (setting.least is not None and number < setting.least) or (setting.most is not None and number > setting.most):
        raise ValueFault(f"{setting.name} takes {setting.takes}, not {format_number(number)}")


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
    _in_range(setting, numbers["floor"])
    _in_range(setting, max(numbers["top"], numbers["floor"]))
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
    raise ValueFault(f"{setting.name} takes a list, not the text {raw!r}", hint=f"write [{raw}]")


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
            raise ValueFault(
                f"{setting.item_word} {item!r} is not known", item, (*setting.choices, *setting.stands_for)
            )
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
