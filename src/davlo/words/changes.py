"""A change in words: what each of its steps does, as a sentence."""

from __future__ import annotations

from davlo.core.change import steps
from davlo.core.change.steps import FRESH_ACCESS, Change, Step
from davlo.core.site.declarations import kind_of
from davlo.core.site.values import ListChange, Raw, raw_of, shown
from davlo.core.wording import count, shortened

MOST_STEPS = 3
"""The most steps that a sentence tells one by one."""
MOST_LETTERS = 60


def change_sentence(change: Change) -> str:
    """What a change does, in one sentence; of many steps the first ones.

    Example
    -------
    >>> change_sentence(Change().say("sidebar.right", "main", below="/visit").take_away("menu.show", here="/topics"))
    'set sidebar.right to main below /visit; take menu.show away from /topics'
    """
    alike = {step.scope.kind for step in change.steps if isinstance(step, steps.Say)}
    told = list(dict.fromkeys(step_sentence(step) for step in change.steps))
    if len(told) > MOST_STEPS and len(alike) == 1 and all(isinstance(step, steps.Say) for step in change.steps):
        first = change.steps[0]
        assert isinstance(first, steps.Say)
        same = {(step.setting, str(raw_of(step.value))) for step in change.steps if isinstance(step, steps.Say)}
        if len(same) == 1:
            places = {step.scope.name for step in change.steps if isinstance(step, steps.Say)}
            return f"{_says(first)} {_where(first)} and {count(len(places) - 1, 'other page')}"
    more = len(told) - MOST_STEPS
    return "; ".join(told[:MOST_STEPS]) + (f"; and {count(more, 'more step')}" if more > 0 else "")


def step_sentence(step: Step) -> str:
    """What a step does, in a few words that begin with a verb."""
    return _SENTENCES[type(step)](step)  # type: ignore[no-any-return, operator]


def value_in_words(value: object) -> str:
    """A value as a sentence has it: `main`, `view; edit`, `add offer`.

    Example
    -------
    >>> value_in_words({"add": ["offer"]}), value_in_words(["view", "edit"]), value_in_words(False)
    ('add offer', 'view; edit', 'no')
    """
    raw: Raw = raw_of(value)
    if isinstance(raw, dict):
        if set(raw) <= {"add", "first", "remove"}:
            parts = {key: tuple(map(str, items)) for key, items in raw.items()}
            return shown(ListChange(**parts))
        return shortened(str(raw), MOST_LETTERS)
    if isinstance(raw, list):
        return "; ".join(map(str, raw)) or "the empty list"
    return shortened(raw, MOST_LETTERS)


def _says(step: steps.Say) -> str:
    verb = "lock" if step.lock else "set"
    raw = raw_of(step.value)
    if isinstance(raw, dict) and set(raw) <= {"add", "first", "remove"}:
        return f"{verb} {step.setting} ({value_in_words(step.value)})"
    return f"{verb} {step.setting} to {value_in_words(step.value)}"


def _where(step: steps.Say | steps.TakeAway | steps.Lock | steps.Unlock | steps.Use | steps.StopUsing) -> str:
    scope = step.scope
    if scope.both:
        return f"on {scope.name} and below it"
    return {
        "everywhere": "everywhere",
        "type": f"for the type {scope.name}",
        "below": f"below {scope.name}",
        "rule": f'in the rule "{scope.name}"',
        "stamp": f"as the stamp of {scope.name}",
    }.get(scope.kind.word, f"on {scope.name}")


def _taken(step: steps.TakeAway) -> str:
    setting = "the fresh start of access" if step.setting == FRESH_ACCESS else step.setting
    return f"take {setting} away {_where(step).replace('on ', 'from ', 1)}"


_SENTENCES: dict[type, object] = {
    steps.Say: lambda step: f"{_says(step)} {_where(step)}",
    steps.TakeAway: _taken,
    steps.Lock: lambda step: f"lock {step.setting} {_where(step)}",
    steps.Unlock: lambda step: f"unlock {step.setting} {_where(step)}",
    steps.Use: lambda step: f"use the preset {step.preset} {_where(step)}",
    steps.StopUsing: lambda step: f"use the preset {step.preset} no longer {_where(step)}",
    steps.Restamp: lambda step: (
        f"{'add to' if step.add else 'bring'} {step.setting} of {count(len(step.pages), 'page')} "
        f"{'the items that only the default has' if step.add else 'up to date'}"
    ),
    steps.Rename: lambda step: f"rename the {step.kind} {step.old} to {step.new}",
    steps.Declare: lambda step: f"declare the {kind_of(step.record)} {step.record.name}",
    steps.Undeclare: lambda step: f"take the {step.kind} {step.name} away",
    steps.Adjust: lambda step: f"adjust the setting {step.setting}",
    steps.SetSite: lambda step: f"set the site's {step.name.replace('_', ' ')}",
    steps.AddRule: lambda step: f'add the rule "{step.name}"',
    steps.DropRule: lambda step: f'take the rule "{step.name}" away',
    steps.ExceptFromGuarantee: lambda step: f'except {count(len(step.pages), "page")} from the guarantee "{step.name}"',
    steps.AddAccept: lambda step: "accept a finding",
    steps.DropAccept: lambda step: "take an accept away",
    steps.AddPage: lambda step: f"add the page {step.path}",
    steps.MovePage: lambda step: f"move {step.path} to {step.new}" + (f" below {step.parent}" if step.parent else ""),
    steps.DropPage: lambda step: f"drop {step.path}" + (" and all pages below it" if step.branch else ""),
    steps.SetDetail: lambda step: f"set the {step.detail} of {step.path} to {step.text or 'blank'}",
    steps.NameInstead: lambda step: f"name {step.new} wherever {step.old} is named",
    steps.RenameDetail: lambda step: f"rename the column {step.old} to {step.new}",
}
