"""Writes docs/library.md: every public name, in the order in which people need them, with an example that runs.

python -m docs.write_library
"""

from __future__ import annotations

import inspect
from collections.abc import Iterator
from functools import cached_property
from pathlib import Path
from typing import Any

import davlo
from davlo.core.records.detail_fields import DEPTH, PARENT
from davlo.core.records.page_record import record_form
from davlo.core.records.record import Group, RecordPages

HEAD = """# The library

Made by `python -m docs.write_library` from what the code says: each public name of `davlo` with its signature, its
sentence and an example, which a test runs. What a call raises, and what its parameters mean, `help(davlo.Site.reach)`
says.
"""
TOPICS = {
    "Open a site, or begin one": ("open_site", "open_demo", "write_demo", "start_site", "start_site_from"),
    "Ask": ("Site", "Effective", "PageSettings", "PageRecord", "Access"),
    "Change, and compare": (
        *("Change", "ChangeReach", "Written", "Undoing", "WriteRecord", "Edit", "Way", "Difference", "Comparison"),
        *("ViewerDifference", "BuiltComparison", "Condensing", "refresh_change"),
    ),
    "Many sites": (
        *("open_estate", "write_demo_estate", "Estate", "EstateReach", "Told", "SiteOverview", "SiteFindings"),
        *("SiteChange", "EstateFinding"),
    ),
    "Publish": ("Publication", "Announcement"),
    "Look": ("draw",),
    "What answers hold": (
        *("Source", "Scope", "Place", "Trace", "Candidate", "StatementUse", "PageException", "PageExceptions"),
        *("ExceptionCause", "Outcomes", "AreaFits", "LinkList", "ListedLink"),
        *("Declaration", "Report", "Finding", "Decision", "Grant", "AccessChange", "ValueRow", "ViewpointResult"),
        *("ViewpointDifference", "SettingOfPage", "ShownValues", "ShownRow", "SettingDifference", "LockChange"),
        *("OutcomeChange", "OutcomeRow", "AccessRow", "NoEffect", "ReachNumbers", "RightsOnPages"),
        *("StartedSite", "Refresh"),
    ),
    "Errors": (
        *("DavloError", "SiteError", "Fault", "UnknownName", "ValueFault", "ChangeError", "ChangeRefused"),
        *(
            "CannotRewrite",
            "ChangedSince",
            "CannotTakeBack",
            "SiteInUse",
            "UnfinishedWrite",
            "NoKey",
            "NoScheduler",
            "RevisionFault",
        ),
        *("HidesNoindex", "WritesOverOthers", "TooManyPages"),
    ),
}
OF_THE_CORE = ("source", "why")
"""What people ask of `Effective`, and the core answers."""


def signature(name: str, found: Any) -> str:
    """A call as somebody types it, with the kinds of its parameters."""
    told, parts = inspect.signature(found), list[str]()
    for one in told.parameters.values():
        if one.name in ("self", "cls"):
            continue
        if one.kind is one.KEYWORD_ONLY and not any(part.startswith("*") for part in parts):
            parts.append("*")
        star = "*" if one.kind is one.VAR_POSITIONAL else "**" if one.kind is one.VAR_KEYWORD else ""
        default = "" if one.default is one.empty else f" = {one.default!r}"
        parts.append(f"{star}{one.name}: {one.annotation}{default}")
    return f"{name}({', '.join(parts)}) -> {told.return_annotation}"


def sentence(found: Any) -> str:
    """The first sentence of a docstring."""
    return " ".join((inspect.getdoc(found) or "").split("\n\n")[0].split())


def example(found: Any) -> str:
    """The example of a docstring; empty if it has none."""
    _, there, rest = (inspect.getdoc(found) or "").partition("\nExample\n-------\n")
    return f"```python\n{rest.split(chr(10) * 2)[0].rstrip()}\n```" if there else ""


def members(public: Any) -> Iterator[tuple[str, Any]]:
    """The methods and attributes of a class, or the functions of a module; of the core's only `OF_THE_CORE`."""
    home = public.__name__ if inspect.ismodule(public) else public.__module__
    for name in dir(public):
        static = inspect.getattr_static(public, name)
        call = getattr(static, "__func__", static)
        found = (
            static.fget
            if isinstance(static, property)
            else static.func
            if isinstance(static, cached_property)
            else call
        )
        is_own = inspect.isfunction(found) and found.__module__.startswith("davlo")
        is_public = "core" in home or (is_own and "core" not in found.__module__) or name in OF_THE_CORE
        if not name.startswith("_") and is_own and is_public:
            is_call = not isinstance(static, property | cached_property)
            yield (signature(name, found) if is_call else name), found


def fields(public: Any) -> str:
    """The fields of a record, in one sentence; empty if it is none."""
    names = getattr(public, "_fields", None) or [*getattr(public, "__dataclass_fields__", ())]
    kinds = {name: getattr(kind, "__forward_arg__", kind) for name, kind in inspect.get_annotations(public).items()}
    told = [f"`{name}: {kinds[name]}`" for name in names if not name.startswith("_")]
    return f"Fields: {', '.join(told)}." if told and inspect.isclass(public) else ""


def entry(name: str) -> str:
    """What the page says of a public name."""
    public = getattr(davlo, name)
    is_error = inspect.isclass(public) and issubclass(public, BaseException)
    head = name if inspect.isclass(public) or inspect.ismodule(public) else signature(name, public)
    told = [f"### `{head}`", sentence(public), fields(public) if name != "Site" else "", example(public)]
    if inspect.ismodule(public) or (inspect.isclass(public) and not is_error):
        rows = [f"- `{call}`: {sentence(found)}" for call, found in members(public)]
        told.append("\n".join(rows))
    return "\n\n".join(filter(None, told)) + "\n"


def page() -> str:
    """The whole page."""
    told = [HEAD]
    for topic, names in TOPICS.items():
        told.append(f"## {topic}\n")
        told += map(entry, names)
        told += [record_fields()] if "PageRecord" in names else []
    return "\n".join(told)


def record_fields() -> str:
    """The fields of the page record, with what each says."""
    records = RecordPages(davlo.open_demo().resolve())
    rows = [f"| `{name}` | {said} |" for name, said in rows_of(record_form(records))]
    return "\n".join(
        [
            "The fields of a record, in their groups, as `as_json()` and `davlo export --format jsonl` give them:",
            "",
            "| field | what it says |",
            "|---|---|",
            *dict.fromkeys(rows),
            "",
        ]
    )


def rows_of(group: Group, before: str = "") -> Iterator[tuple[str, str]]:
    """The whole name of each field of a group, and what it says; fields that a site declares as one."""
    every = {"details": "COLUMN", "areas": "AREA", "settings": "SETTING", "sources": "SETTING", "not shown": "SETTING"}
    for member in group.members:
        if isinstance(member, Group):
            yield from rows_of(member, f"{before}{member.name} / ")
        else:
            is_declared = group.name in every and member not in (PARENT, DEPTH)
            yield before + (every[group.name] if is_declared else member.name), member.help


if __name__ == "__main__":
    (Path(__file__).parent / "library.md").write_text(page(), encoding="utf-8")
